/* path.h - the most likely way in which bytes lie in a piece of sound. */
#ifndef BOOTLACE_SRC_PATH_H
#define BOOTLACE_SRC_PATH_H

#include "tape/tones.h"

enum {
    BL_PATH_STATES = BL_KEYING_MAX_BITS + 1,
    /* silence, rest, and after each bit but the last */
};

/* A byte on the way. */
typedef struct bl_path_byte {
    uint32_t begin, stop; /* steps: where the start bit begins, where the stop bits do */
    uint8_t value, certainty;
    bool framed;
    bool joined; /* the signal was not gone between the byte before and this one */
    int16_t score, expected;
    int8_t bit[8];
} bl_path_byte;

typedef struct bl_path {
    uint8_t *from;        /* [step][BL_PATH_STATES] */
    bl_path_byte *bytes;  /* filled from the end */
    uint32_t room, first; /* bytes first to room - 1 are there */
    uint32_t begins;      /* step at which a byte is known to begin, and none before; 0: none is */
    int64_t score;        /* of the whole way */
} bl_path;

/* How many bytes so many steps can hold. */
uint32_t bl_path_room(const bl_keying *keying, uint32_t steps);
void bl_path_find(bl_path *path, const bl_tones *tones);

#endif
