/* sound.h - a piece of a recording, free of offset and hum, that can be read at any speed. */
#ifndef BOOTLACE_SRC_SOUND_H
#define BOOTLACE_SRC_SOUND_H

#include <stddef.h>
#include <stdint.h>

/* Takes low frequencies away, twice: below about 110 Hz nothing much is left. */
typedef struct bl_high_pass {
    int32_t low[2]; /* the running means, 8 bits of fraction */
    unsigned shift;
} bl_high_pass;

void bl_high_pass_begin(bl_high_pass *f, uint32_t rate);
int32_t bl_high_pass_next(bl_high_pass *f, int16_t sample);

/* Sums of all samples before one: the mean over any time, which need not begin and end at a sample,
 * is a difference of two. That is how sound is brought to another rate: each new sample is the mean
 * over its time, so that what the new rate cannot carry is mostly gone. */
typedef struct bl_sound {
    const uint32_t *sums; /* count + 1 of them; they wrap around */
    uint32_t count;       /* samples */
    uint32_t rate;        /* a second */
    uint32_t loudest;     /* the greatest root of the mean square of any fortieth of a second */
} bl_sound;

enum { BL_SOUND_PEAK = 4095 }; /* what is read lies within this; the loudest stretch is at 512 */

/* Where one reads: a place in samples with 32 bits of fraction. */
typedef struct bl_sound_reader {
    const bl_sound *sound;
    uint64_t place;
    uint32_t sum;  /* up to there, 8 bits of fraction */
    unsigned gain; /* halvings of what is read */
} bl_sound_reader;

/* width: how much of the sound a new sample is, about, with 32 bits of fraction. */
void bl_sound_read_from(bl_sound_reader *r, const bl_sound *sound, uint64_t place, uint64_t width);
/* The next sample, over a width; 0 behind the end. */
int32_t bl_sound_read(bl_sound_reader *r, uint64_t width);
/* What an amplitude that was read is, in thousandths of full scale. */
uint32_t bl_sound_level(const bl_sound_reader *r, uint64_t width, uint32_t amplitude);

#endif
