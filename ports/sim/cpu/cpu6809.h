/* cpu6809.h - the 6809.
 *
 * Source: the maker's data sheet and programming manual. Codes that they leave out are
 * no-operations of two cycles; undefined index bytes mean the register alone. Between registers of
 * different sizes, the low byte is what counts, with $FF above it.
 */
#ifndef BOOTLACE_SIM_CPU6809_H
#define BOOTLACE_SIM_CPU6809_H

#include "cpu6800.h"

/* The flags of the 6800, and two more. */
enum { M68_F = 0x40, M68_E = 0x80 };

/* Places in index: the codes of the registers in an index byte. */
enum { M68_X, M68_Y, M68_U, M68_S };

/* rest: in SYNC, or in CWAI with the registers on the stack already (saved). */
typedef struct sim_6809 {
    SIM_M68_HEAD; /* line[0]: FIRQ, a level */
    uint8_t dp;
    uint16_t index[4];
    bool saved;
    bool armed; /* S has been loaded since reset; before that there is no NMI */
} sim_6809;

void sim_6809_reset(sim_6809 *c);
void sim_6809_step(sim_6809 *c);
void sim_6809_run(sim_6809 *c, uint64_t cycles);

extern const sim_cpu_kind sim_6809_kind;

#endif
