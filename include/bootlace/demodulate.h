/* demodulate.h - sound becomes bytes: reads two-tone keying back from a recording.
 *
 * It finds the signal by itself: level, offset and polarity do not matter, the speed may be off by
 * 20 percent and waver, and which of several keyings it is shows by which explains the sound best.
 * The bits are not decided one by one: of all ways in which start bits, data and stop bits could
 * lie in some seconds of sound, the most likely one is taken. All of it is integer arithmetic.
 *
 * The sound is worked on in pieces of some seconds, which overlap; memory does not grow with the
 * length of a take.
 */
#ifndef BOOTLACE_DEMODULATE_H
#define BOOTLACE_DEMODULATE_H

#include "keying.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A byte as it was heard. */
typedef struct bl_tape_byte {
    uint64_t at;     /* where its start bit begins: microseconds from the begin of the take */
    uint32_t length; /* up to its stop bits, microseconds */
    uint8_t value;
    uint8_t certainty; /* of its weakest bit: 0 a guess, 100 none better */
    uint8_t keying;    /* index of its keying in the config */
    bool framed;       /* start, parity and stop bits are as they must be */
    int8_t bit[8];     /* each data bit, the lowest first: -100 surely 0, 0 a guess, 100 surely 1 */
} bl_tape_byte;

/* Below this certainty a byte is doubtful. */
enum { BL_CERTAIN = 20 };

/* A stretch of the take as it was heard, about a fortieth of a second: for strips of quality. */
typedef struct bl_tape_stretch {
    uint64_t at;     /* microseconds */
    uint32_t length; /* microseconds */
    uint16_t level;  /* of the stronger tone, thousandths of full scale */
    uint16_t speed;  /* thousandths of the nominal speed */
    uint8_t purity;  /* percent of the sound's power that is in the tones */
} bl_tape_stretch;

typedef struct bl_tape_listener {
    void *context;
    void (*byte)(void *context, const bl_tape_byte *byte);          /* may be NULL */
    void (*stretch)(void *context, const bl_tape_stretch *stretch); /* may be NULL */
} bl_tape_listener;

typedef struct bl_demodulator_config {
    uint32_t rate;            /* samples a second, 6000 to 384000 */
    const bl_keying *keyings; /* those it may be; copied */
    size_t count;             /* 1 to 8 */
    uint32_t piece;           /* worked on at a time, milliseconds, 500 to 60000; 0: 8000 */
} bl_demodulator_config;

typedef struct bl_demodulator bl_demodulator;

/* BL_E_RANGE: a rate or a keying out of bounds. Memory is about rate * 4 bytes and, for each bit of
 * sound, 500 bytes for a second of a piece; at 300 baud, 44,100 Hz and 8 seconds 3.5 MB. */
bl_status bl_demodulator_open(const bl_memory *memory, const bl_demodulator_config *config,
                              bl_tape_listener listener, bl_demodulator **demodulator);
void bl_demodulator_close(bl_demodulator *demodulator);
/* Samples in their order; what is heard goes to the listener some seconds later. */
void bl_demodulator_feed(bl_demodulator *demodulator, const int16_t *samples, size_t count);
/* No more sound comes: all that is left goes to the listener. */
void bl_demodulator_end(bl_demodulator *demodulator);

#ifdef __cplusplus
}
#endif
#endif
