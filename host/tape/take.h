/* take.h - one recording of a tape as it was played back: the bytes that were heard. */
#ifndef BOOTLACE_TAKE_H
#define BOOTLACE_TAKE_H

#include <glib.h>

#include "bootlace/demodulate.h"
#include "sound_file.h"

enum {
    TAKE_KEYINGS = 8,
    TAKE_SIGNAL = 30, /* percent of purity from which on a stretch is one of a signal */
};

typedef struct take {
    char *path;
    uint32_t rate;
    unsigned channels, channel; /* that was listened to, from 0 */
    uint64_t length;            /* microseconds */
    GArray *bytes;              /* bl_tape_byte */
    GArray *stretches;          /* bl_tape_stretch */
    bl_keying keyings[TAKE_KEYINGS];
    size_t keying_count;
} take;

/* What keyings it may be; count 0: the standards. */
typedef struct take_keyings {
    const bl_keying *at;
    size_t count;
} take_keyings;

/* Told on the way; all may be 0 when it is not known. May be NULL. */
typedef void (*take_progress)(uint64_t done, uint64_t all);

/* Reads a recording; of several channels the one that was heard best. Reported. */
bl_status take_read(const char *path, take_keyings keyings, take_progress progress,
                    const bl_sink *sink, take **t);
/* The same of a recording that is open. path is for messages. */
bl_status take_hear(sound_file *f, const char *path, take_keyings keyings, take_progress progress,
                    const bl_sink *sink, take **t);
void take_close(take *t);

/* The speeds that all but a twentieth of the signal is above, and below, in thousandths; false:
 * there is no signal. */
bool take_speeds(const take *t, unsigned *slow, unsigned *fast);

/* Was the signal there all the time between two places (microseconds)? What is at rest then has
 * lost nothing. */
bool take_steady(const take *t, uint64_t from, uint64_t to);

/* Is a byte doubtful, or not framed as it must be? */
bool take_byte_doubtful(const bl_tape_byte *byte);
/* How many of them there are. */
guint take_doubtful(const take *t);

#endif
