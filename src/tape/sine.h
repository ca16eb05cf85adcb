/* sine.h - the sine of a phase, in integers. */
#ifndef BOOTLACE_SRC_SINE_H
#define BOOTLACE_SRC_SINE_H

#include <stdint.h>

#define BL_SINE_ONE ((int32_t)1 << 24)

/* phase: 2^32 is a whole cycle. Returns -BL_SINE_ONE to BL_SINE_ONE, right to one part in 200,000.
 */
int32_t bl_sine(uint32_t phase);

#endif
