/* digit.h - a 7-segment digit with a point: segments a (top), b, c, d, e, f (around), g (middle),
 * dp, and their common pin. Several that share their segments are multiplexed by their common pins;
 * the eye puts them together (glow.h).
 *
 * Common cathode: a segment that is high is lit while common is low; unwired it is at ground.
 * Common anode: the other way round.
 */
#ifndef BOOTLACE_SIM_DIGIT_H
#define BOOTLACE_SIM_DIGIT_H

#include "sim/device/device.h"

extern const sim_device_kind sim_cathode_digit_kind, sim_anode_digit_kind;

#endif
