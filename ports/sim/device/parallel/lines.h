/* lines.h - eight pins in a row as a byte, for the chips that have ports of them. */
#ifndef BOOTLACE_SIM_LINES_H
#define BOOTLACE_SIM_LINES_H

#include "sim/device/device.h"

/* The levels at eight pins from the first on, bit 0 first; what nobody drives reads high. */
uint8_t sim_lines_read(const sim_device *d, unsigned first);

/* What a pin does that is an output where its direction bit is 1. */
static inline sim_level sim_lines_drive(uint8_t output, uint8_t direction, unsigned bit)
{
    if ((direction >> bit & 1) == 0) return SIM_FLOATS;
    return (output >> bit & 1) != 0 ? SIM_HIGH : SIM_LOW;
}

#endif
