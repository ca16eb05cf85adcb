/* bits.h - no serial interface: a bit out and a bit in at the line, which a program times itself.
 *
 * At an address it is one register: bit 0 out, bit 7 in; the others read 1. At pins it is tx (what
 * the board says) and rx (what it hears). The line's characters are 8 data bits, no parity, one
 * stop bit; what the board says is sampled in the middle of each bit, as any receiver does.
 */
#ifndef BOOTLACE_SIM_BITS_H
#define BOOTLACE_SIM_BITS_H

#include "sim/device/device.h"

extern const sim_device_kind sim_bits_kind;

#endif
