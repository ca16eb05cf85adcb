/* tape_card.h - what somebody has to enter for a tape routine of the machine's own ROM. */
#ifndef BOOTLACE_TAPE_CARD_H
#define BOOTLACE_TAPE_CARD_H

#include "bench/bench.h"

/* A place to be set. */
typedef struct tape_card_step {
    uint32_t at;
    uint8_t value;
    const char *what; /* "low byte of the first address"; static */
} tape_card_step;

typedef struct tape_card {
    uint32_t first, last; /* addresses of the program */
    uint8_t first_byte, last_byte;
    bool gaps; /* between them are places that the program does not fill */
    tape_card_step steps[BENCH_SETS];
    size_t count;
} tape_card;

/* Fills in the card of an image that is not empty. BL_E_OVERLAP: it lies where the routine works;
 * *where is an address there. */
bl_status tape_card_make(const bench_routine *r, const bl_image *image, uint8_t number,
                         tape_card *card, uint32_t *where);

#endif
