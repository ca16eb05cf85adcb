/* cpu65c02.h - the CMOS 65C02 with bit instructions, WAI and STP.
 *
 * Source: the makers' data sheets for the instructions and cycle counts; opcodes that the data
 * sheet lists as reserved are no-operations of the documented length and time. The reads that the
 * real part makes and throws away are not made.
 */
#ifndef BOOTLACE_SIM_CPU65C02_H
#define BOOTLACE_SIM_CPU65C02_H

#include "cpu.h"

enum {
    SIM_FLAG_C = 0x01,
    SIM_FLAG_Z = 0x02,
    SIM_FLAG_I = 0x04,
    SIM_FLAG_D = 0x08,
    SIM_FLAG_B = 0x10,
    SIM_FLAG_ONE = 0x20,
    SIM_FLAG_V = 0x40,
    SIM_FLAG_N = 0x80,
};

/* rest: after WAI; special: after STP, only reset helps. */
typedef struct sim_65c02 {
    SIM_CPU_HEAD;
    uint8_t a, x, y, s, p;
    uint8_t n, z, v, carry; /* the flags while it runs: m6502.h */
} sim_65c02;

/* What the reset line does: seven cycles, then on from the reset vector. */
void sim_65c02_reset(sim_65c02 *c);
/* One instruction, or one interrupt, or one idle cycle. */
void sim_65c02_step(sim_65c02 *c);
/* Runs until at least so many cycles have passed since power-on. */
void sim_65c02_run(sim_65c02 *c, uint64_t cycles);

enum { SIM_65C02_REGISTERS = 9 };
extern const sim_register sim_65c02_registers[SIM_65C02_REGISTERS];
extern const sim_cpu_kind sim_65c02_kind;

#endif
