/* cpu6800.h - the 6800.
 *
 * Source: the maker's data sheet. Codes that it leaves out are no-operations of two cycles.
 */
#ifndef BOOTLACE_SIM_CPU6800_H
#define BOOTLACE_SIM_CPU6800_H

#include "cpu.h"

enum {
    M68_C = 0x01,
    M68_V = 0x02,
    M68_Z = 0x04,
    M68_N = 0x08,
    M68_I = 0x10,
    M68_H = 0x20,
    M68_ONES = 0xC0, /* always set */
};

/* What this CPU and the 6809 have alike. */
#define SIM_M68_HEAD                                                                               \
    SIM_CPU_HEAD;                                                                                  \
    uint8_t a, b, cc;                                                                              \
    uint8_t n, z, v, carry, half /* the flags while it runs: m68.h */

typedef struct sim_m68 {
    SIM_M68_HEAD;
} sim_m68;

/* rest: after WAI, with the registers on the stack already. */
typedef struct sim_6800 {
    SIM_M68_HEAD;
    uint16_t x, sp;
} sim_6800;

void sim_6800_reset(sim_6800 *c);
void sim_6800_step(sim_6800 *c);
void sim_6800_run(sim_6800 *c, uint64_t cycles);

extern const sim_cpu_kind sim_6800_kind;

#endif
