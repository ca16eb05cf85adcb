/* code_length.h - how long an instruction is, by its first bytes.
 *
 * Memory may be read ahead of the instruction; a register of a device may not, for reading is
 * something that happens to it. Code that lies there is fetched byte by byte, as far as its
 * instruction reaches.
 *
 * Each function is given the bytes that were fetched, one at least, and returns how many there are
 * to be: not more than have, and the instruction is whole. A count of bytes, at most SIM_LONGEST.
 * Bytes that the CPU fetches and throws away count: the 6502 and the 6800 families read the byte
 * behind an instruction of a single one.
 */
#ifndef BOOTLACE_SIM_CODE_LENGTH_H
#define BOOTLACE_SIM_CODE_LENGTH_H

#include <stdbool.h>
#include <stdint.h>

unsigned sim_6502_length(const uint8_t *code);
unsigned sim_65c02_length(const uint8_t *code);
unsigned sim_6800_length(const uint8_t *code);
unsigned sim_6809_length(const uint8_t *code, unsigned have);
/* later: the 8085. */
unsigned sim_8080_length(const uint8_t *code, bool later);
/* A prefix that another follows is an instruction by itself, and the other is fetched twice. */
unsigned sim_z80_length(const uint8_t *code, unsigned have);

#endif
