/* sim_target.h - the simulated board as a target (bootlace/target.h): everything a target can be
 * asked; of the past when one is remembered (sim_past.h). Its CPU stands only while the target says
 * so: after sim_target_end it runs on.
 *
 * wait is bounded by the bench's virtual time. BL_E_UNSUPPORTED: the CPU is none that is simulated,
 * or a neighbour's monitor holds it.
 */
#ifndef BOOTLACE_SIM_TARGET_H
#define BOOTLACE_SIM_TARGET_H

#include "bootlace/target.h"
#include "sim_bench.h"

/* The bench must outlive the target. */
bl_target sim_target(sim_bench *bench);
/* What people call a register; NULL: it is not shown to them. */
const char *sim_target_register_name(const sim_register *r);
unsigned sim_target_register_bits(const sim_register *r);
/* Takes breakpoints and watchpoints away and lets the CPU run. */
void sim_target_end(sim_bench *bench);

#endif
