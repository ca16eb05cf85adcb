/* cpuez80.h - the eZ80 in its Z80 mode and its 24-bit (ADL) mode.
 *
 * Source: the maker's CPU user manual. All instructions of both modes, the suffixes, the two stack
 * pointers, calls and returns between the modes, MADL and interrupts. Cycles: one for each byte
 * that goes over the bus, without wait states, and what the manual adds inside; the pipeline is not
 * modelled. Bits 3 and 5 of F are 0.
 */
#ifndef BOOTLACE_SIM_CPUEZ80_H
#define BOOTLACE_SIM_CPUEZ80_H

#include "cpu.h"

typedef struct sim_ez80 {
    SIM_CPU_HEAD; /* pc: the low half of far_pc */
    uint32_t far_pc;
    uint16_t
        told_pc; /* what a run left in pc: another value is somebody's who knows 16 bits of it */
    uint8_t a, f, a2, f2;
    uint32_t bc, de, hl, ix, iy, bc2, de2, hl2; /* 24 bits */
    uint16_t sps;
    uint32_t spl;
    uint8_t mb, r, mode;
    uint16_t i;
    bool adl, madl, iff1, iff2;
    bool later; /* EI: interrupts from behind the next instruction on */
} sim_ez80;

extern const sim_cpu_kind sim_ez80_kind;

#endif
