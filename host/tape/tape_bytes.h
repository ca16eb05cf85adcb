/* tape_bytes.h - bytes that are not in our blocks: those of several takes as one row. */
#ifndef BOOTLACE_TAPE_BYTES_H
#define BOOTLACE_TAPE_BYTES_H

#include "bootlace/tapeblock.h"
#include "take.h"

/* A byte, as all takes together heard it. */
typedef struct tape_sum {
    bl_block_slot bits;
    uint64_t at;   /* microseconds in the take */
    uint8_t take;  /* that it was first heard in */
    uint8_t heard; /* in so many takes */
    bool framed;   /* in at least one of them */
} tape_sum;

uint8_t tape_sum_value(const tape_sum *s);
/* Below BL_CERTAIN, or its start and stop bits were wrong. */
bool tape_sum_doubtful(const tape_sum *s);

/* The row (tape_sum): takes are laid over one another where they are alike, and their bits add up.
 * One that shares nothing with those before it is left out; *used tells how many were not. */
GArray *tape_bytes_merge(take *const *takes, guint count, guint *used);

#endif
