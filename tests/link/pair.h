/* Two ways at the two ends of a line in virtual time, with faults on request. */
#ifndef BOOTLACE_TEST_LINK_PAIR_H
#define BOOTLACE_TEST_LINK_PAIR_H

#include "harness.h"
#include "sim/wire.h"

typedef struct pair {
    bl_transport *end[2];
    sim_wire to[2]; /* to[0] leads to end[0] */
    sim_line_faults faults;
    uint64_t now; /* microseconds */
} pair;

/* Lays the line; faults from seed. Both ways are begun at p->now and put into p->end by the
 * caller. */
void pair_begin(pair *p, uint32_t baud, uint64_t seed, uint32_t flip_one_in, uint32_t lose_one_in);
/* Runs until end[0] is settled, and what it said last has left. Returns its status. */
bl_status pair_run(pair *p);

#endif
