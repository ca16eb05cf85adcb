/* speed.h - how fast a recording runs, from moment to moment.
 *
 * Keying that changes its tone after whole cycles has, besides its bits, a steady part at each of
 * the two tones: with a look at a fortieth of a second it stands out of noise that hides the bits.
 */
#ifndef BOOTLACE_SRC_SPEED_H
#define BOOTLACE_SRC_SPEED_H

#include "tape/sound.h"

enum {
    BL_SPEEDS = 33,     /* that are tried, from 0.79 to 1.25 */
    BL_SPEED_HOP = 256, /* samples, at 4 of the higher tone's cycle */
};
#define BL_SPEED_ONE 65536u

/* The tones at each speed. */
typedef struct bl_speed_bank {
    uint32_t hz[2];
    uint32_t rate;
    int16_t
        *wave; /* BL_SPEED_WAVES rows of BL_SPEED_HOP: speed, in half steps; tone; cosine, sine */
} bl_speed_bank;
enum { BL_SPEED_WAVES = (2 * BL_SPEEDS - 1) * 4 };

/* wave has room. */
void bl_speed_bank_fill(bl_speed_bank *bank, const uint32_t hz[2]);

/* The speed over a piece of sound. */
typedef struct bl_speed_track {
    uint32_t *speed;  /* of each hop, BL_SPEED_ONE is nominal */
    uint16_t *purity; /* [hop][BL_SPEEDS]: of 1024, how much of the power the tones would have */
    uint16_t *pure;   /* of each hop, at the speed that was chosen */
    uint8_t *from;    /* [hop][BL_SPEEDS] */
    uint32_t hops, room;
    uint32_t before; /* the speed before the piece: where nothing tells another, it goes on */
    uint16_t faint;  /* of 1024: purity below this may be anything, and turns nothing */
    uint64_t hop;    /* samples of the sound, 32 bits of fraction */
} bl_speed_track;

/* How many hops a sound has. */
uint32_t bl_speed_hops(const bl_speed_bank *bank, const bl_sound *sound);
/* Fills the track, whose room is enough. */
void bl_speed_follow(const bl_speed_bank *bank, const bl_sound *sound, bl_speed_track *track);
/* The speed at a place in the sound (32 bits of fraction). */
uint32_t bl_speed_at(const bl_speed_track *track, uint64_t place);

#endif
