/* lamp.h - a lamp: lit while plus is high and minus is low. plus that is not wired is at the
 * supply, minus at ground.
 */
#ifndef BOOTLACE_SIM_LAMP_H
#define BOOTLACE_SIM_LAMP_H

#include "sim/device/device.h"

extern const sim_device_kind sim_lamp_kind;

#endif
