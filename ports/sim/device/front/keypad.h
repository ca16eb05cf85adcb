/* keypad.h - sixteen keys in four rows and four columns, 0 to F from the upper left. A key connects
 * its row to its column, and bounces; three at the corners of a square look like four.
 */
#ifndef BOOTLACE_SIM_KEYPAD_H
#define BOOTLACE_SIM_KEYPAD_H

#include "sim/device/device.h"

extern const sim_device_kind sim_keypad_kind;

#endif
