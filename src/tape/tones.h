/* tones.h - how much each moment of a piece of sound looks like a 0, and like a 1.
 *
 * The sound is brought to the keying's own time first, by the speed at each place; there the
 * shorter bit has BL_BIT_STEPS steps. At each step stands a score for "a 0 begins here" and one for
 * "a 1 begins here": 256 is a bit as it should be, 0 as good as noise, -256 the other tone.
 */
#ifndef BOOTLACE_SRC_TONES_H
#define BOOTLACE_SRC_TONES_H

#include "bootlace/keying.h"
#include "tape/sound.h"
#include "tape/speed.h"

enum {
    BL_BIT_STEPS = 16,
    BL_LEVEL_STEPS = 64, /* steps that have a level of their own */
    BL_BIT_FULL = 256,   /* the score of a good bit */
};

/* A keying in steps. */
typedef struct bl_pace {
    const bl_keying *keying;
    uint32_t rate;     /* samples a second, at the nominal speed */
    uint32_t per_step; /* samples */
    uint32_t steps[2]; /* that a 0 lasts, a 1 */
    bool phased;       /* bits so short that the phase of the tone counts */
} bl_pace;

void bl_pace_begin(bl_pace *pace, const bl_keying *keying);

/* What was heard around a step; a row of them for a piece. */
typedef struct bl_level {
    uint16_t tone[2]; /* amplitudes, as read; where noise is louder, the noise */
    uint16_t energy;  /* the root of the mean square */
    uint16_t peak[2]; /* the highest amplitude of each tone in these steps */
} bl_level;

typedef struct bl_tones {
    bl_pace pace;
    uint32_t count;    /* steps */
    uint32_t *place;   /* where a step lies: samples of the sound, 12 bits of fraction */
    int16_t *score[2]; /* count each */
    bl_level *level;   /* one for BL_LEVEL_STEPS steps */
    bool follows;      /* where the level dips or wavers, it is followed */
    uint32_t to_level; /* thousandths of full scale that an amplitude of 1000 is */
} bl_tones;

/* How many steps a sound can have at most, with this keying. */
uint32_t bl_tones_room(const bl_keying *keying, uint32_t samples, uint32_t rate);
/* Fills the arrays, which have room. nco: cosine of a phase's upper 10 bits, of 1024. */
void bl_tones_hear(bl_tones *tones, const bl_sound *sound, const bl_speed_track *track,
                   const int16_t nco[1024]);
/* Levels and scores from what was heard: the second half of it. */
void bl_tones_judge(bl_tones *tones);

#endif
