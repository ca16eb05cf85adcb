/* A board of 1 MHz with devices that are wired together, for tests that look at chips and parts: it
 * has no memory, and no CPU runs.
 */
#ifndef BOOTLACE_TEST_WIRED_BOARD_H
#define BOOTLACE_TEST_WIRED_BOARD_H

#include "harness.h"
#include "sim/board.h"

extern sim_board wired;
extern uint64_t wired_now; /* nanoseconds */

void wired_begin(void);
/* Adds a device with an address of its own; its index. */
unsigned wired_add(const char *kind);
/* Wires pins: "0.pa0 1.out", devices by their index; also cpu.nmi, cpu.irq, cpu.reset, low, high.
 */
void wired_join(const char *pins);
/* After the last wire. */
void wired_power(void);
uint8_t wired_read(unsigned device, unsigned reg);
void wired_write(unsigned device, unsigned reg, uint8_t value);
/* Time goes by, and what happens in it happens; a cycle is 1000 ns. */
void wired_pass(uint64_t nanoseconds);
bool wired_level(unsigned device, const char *pin);
/* Somebody touches a part. */
void wired_touch(unsigned device, const char *key, bool down);
const char *wired_shows(unsigned device);

#endif
