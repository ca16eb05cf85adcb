/* cpu8080.h - the 8080, and the 8085 with its other times, RIM, SIM and four more interrupts.
 *
 * Source: the makers' data sheets. Codes that the 8080's data sheet leaves out do there what they
 * do on the part (the same as their neighbours); on the 8085 they are no-operations, since its own
 * undocumented instructions are not simulated.
 */
#ifndef BOOTLACE_SIM_CPU8080_H
#define BOOTLACE_SIM_CPU8080_H

#include "cpu.h"

/* Places in r: the codes of the registers, with the flags where M has its code. */
enum { I80_B, I80_C, I80_D, I80_E, I80_H, I80_L, I80_F, I80_A };

enum {
    I80_CARRY = 0x01,
    I80_ONE = 0x02, /* always set */
    I80_PARITY = 0x04,
    I80_HALF = 0x10,
    I80_ZERO = 0x40,
    I80_SIGN = 0x80,
};

/* rest: halted; special: the instruction after EI, which only TRAP interrupts. */
typedef struct sim_8080 {
    SIM_CPU_HEAD; /* nmi: TRAP of the 8085; line[0]: the requests that mask masks */
    uint8_t r[8];
    uint16_t sp;
    bool later; /* an 8085 */
    bool enabled;
    uint8_t mask; /* 8085: of RST 5.5, 6.5, 7.5, whose request stays until it is taken */
    bool serial_in, serial_out;
    bool trapped, before_trap; /* 8085: RIM has not told yet whether interrupts were enabled */
} sim_8080;

void sim_8080_reset(sim_8080 *c);
void sim_8080_step(sim_8080 *c);
void sim_8080_run(sim_8080 *c, uint64_t cycles);

extern const sim_cpu_kind sim_8080_kind, sim_8085_kind;

#endif
