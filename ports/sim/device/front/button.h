/* button.h - push buttons and switches: out is connected to to, which is ground when it is not
 * wired, while the contact is closed; open, a resistor pulls it the other way.
 */
#ifndef BOOTLACE_SIM_BUTTON_H
#define BOOTLACE_SIM_BUTTON_H

#include "sim/device/device.h"

extern const sim_device_kind sim_button_kind, sim_clean_button_kind, sim_switch_kind;

#endif
