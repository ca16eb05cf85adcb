/* shift_out.h - the kind of shift register with eight latched outputs, for port bits.
 *
 * Source: the common data sheet of the 595 kind. A rising edge of clock takes data in at q0, and
 * moves the others up; a rising edge of latch brings all to the outputs; clear, low, empties the
 * register; enable, low, lets the outputs drive. Pins that are not wired are as boards tie them.
 */
#ifndef BOOTLACE_SIM_SHIFT_OUT_H
#define BOOTLACE_SIM_SHIFT_OUT_H

#include "sim/device/device.h"

extern const sim_device_kind sim_shift_out_kind;

#endif
