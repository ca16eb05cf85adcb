/* A programmer with one simulated chip in its socket, and jobs on it. */
#ifndef BOOTLACE_TESTS_CHIP_SUPPORT_H
#define BOOTLACE_TESTS_CHIP_SUPPORT_H

#include "harness.h"

#include "bootlace/drive_frames.h"
#include "sim/sim_bench.h"

enum { BED_MAX = 524288 };

extern sim_bench bench;
extern uint8_t cells[BED_MAX], wanted[BED_MAX];
extern bl_chip chip;
extern bl_transfer job;
extern bl_exchange exchange;

/* The programmer is switched on with this part in its socket; what the part holds stays. */
void bed_power_on(const bl_part *part, uint64_t seed);
/* A blank part, and nothing wanted in it yet. */
void bed_blank(const bl_part *part);
/* Runs a job with these options, all that concerns the part filled in. */
bl_status bed_run(bl_transfer_options options);
bl_status bed_burn(bl_goal goal, bl_protect protect);
/* Simulated seconds that the last job took. */
double bed_seconds(void);

#endif
