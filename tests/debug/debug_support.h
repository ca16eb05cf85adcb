/* A machine of nothing but RAM, a program in it, and a debugger on it. */
#ifndef BOOTLACE_TEST_DEBUG_SUPPORT_H
#define BOOTLACE_TEST_DEBUG_SUPPORT_H

#include "harness.h"

#include "sim/sim_target.h"

typedef struct machine {
    sim_bench bench;
    bl_sheet *sheet;
    bl_program *program;
    bl_program *programs[1];
    bl_target target;
    bl_debug debug;
} machine;

/* The program's bytes are in memory, which is 0 elsewhere; the CPU stands at its entry. cpu is a
 * sheet of a CPU that is simulated. */
void machine_begin(machine *m, const char *cpu, const char *source);
void machine_end(machine *m);
/* The value of a formula; ends the case when it has none. */
int64_t machine_value(machine *m, const char *formula);

/* One program for each family of CPUs: calls that call, a table, a jump through it, a block. It
 * counts for ever in word(total). */
extern const struct family {
    const char *cpu, *source;
} families[];
extern const size_t family_count;

#endif
