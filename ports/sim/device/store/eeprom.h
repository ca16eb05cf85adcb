/* eeprom.h - a serial EEPROM of 256 bytes on two wires: the 24C02 kind.
 *
 * Source: the common data sheet. Its address on the wires is $50. A byte, or up to 8 of a page, are
 * written when the master stops, which takes 5 ms: meanwhile it does not answer. wp high protects
 * it. Both wires are pulled up by whoever needs it: its sda only pulls down.
 */
#ifndef BOOTLACE_SIM_EEPROM_H
#define BOOTLACE_SIM_EEPROM_H

#include "sim/device/device.h"

extern const sim_device_kind sim_eeprom_kind;

#endif
