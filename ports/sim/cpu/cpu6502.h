/* cpu6502.h - the NMOS 6502, with the undocumented instructions of its sheet.
 *
 * Source: the makers' data sheet; decimal mode's flags, JMP ($xxFF) and the undocumented opcodes as
 * they are commonly described. Opcodes that are not in the sheet stop the CPU, as most of them do
 * on the part. The state is that of the 65C02.
 */
#ifndef BOOTLACE_SIM_CPU6502_H
#define BOOTLACE_SIM_CPU6502_H

#include "cpu65c02.h"

void sim_6502_reset(sim_65c02 *c);
void sim_6502_step(sim_65c02 *c);
void sim_6502_run(sim_65c02 *c, uint64_t cycles);

extern const sim_cpu_kind sim_6502_kind;

#endif
