/* lines.c - pins as bytes. */
#include "lines.h"

uint8_t sim_lines_read(const sim_device *d, unsigned first)
{
    unsigned value = 0;
    for (unsigned i = 0; i < 8; i++)
        if (sim_device_sees(d, first + i, true)) value |= 1u << i;
    return (uint8_t)value;
}
