/* cpuz80.h - the NMOS Z80, with its undocumented instructions, flags, block and interrupt
 * behaviour.
 *
 * Source: the maker's data sheet for instructions and T-states; the undocumented parts as they are
 * commonly described: bits 3 and 5 of F, the internal register WZ that they show after BIT n,(HL),
 * and what SCF and CCF make of the instruction before.
 */
#ifndef BOOTLACE_SIM_CPUZ80_H
#define BOOTLACE_SIM_CPUZ80_H

#include "cpu.h"

/* Places in r: the codes of the registers, with F where (HL) has its code. */
enum { Z80_B, Z80_C, Z80_D, Z80_E, Z80_H, Z80_L, Z80_F, Z80_A };

enum {
    Z80_CARRY = 0x01,
    Z80_N = 0x02,
    Z80_PV = 0x04,
    Z80_X3 = 0x08,
    Z80_HALF = 0x10,
    Z80_X5 = 0x20,
    Z80_ZERO = 0x40,
    Z80_SIGN = 0x80,
};

/* rest: in HALT; special: the instruction after EI, which no maskable interrupt interrupts;
 * line[Z80_PREFIX]: a prefix that did nothing, behind which nothing interrupts; line[Z80_COPIED]:
 * the enable bit was copied to P/V just now, which an interrupt spoils. */
enum { Z80_PREFIX, Z80_COPIED };
typedef struct sim_z80 {
    SIM_CPU_HEAD;
    uint8_t r[8], other[8]; /* by code; the other set */
    uint16_t ix, iy, sp, wz;
    uint8_t i, refresh, mode;
    uint8_t refreshes; /* while it runs, the low bits of refresh */
    bool iff1, iff2;
    uint8_t q; /* the flags if the last instruction set them, otherwise 0 */
} sim_z80;

void sim_z80_reset(sim_z80 *c);
void sim_z80_step(sim_z80 *c);
void sim_z80_run(sim_z80 *c, uint64_t cycles);

extern const sim_cpu_kind sim_z80_kind;

#endif
