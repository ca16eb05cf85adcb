/* pia6821.h - the peripheral interface adapter of the 6520 and 6821 kinds: two ports, each with two
 * control lines.
 *
 * Source: the common data sheets, which agree. A port's first address is its direction while bit 2
 * of its control register is 0. Reading a port clears both of its flags. Port A reads its pins,
 * port B reads back what its outputs are to be.
 */
#ifndef BOOTLACE_SIM_PIA6821_H
#define BOOTLACE_SIM_PIA6821_H

#include "sim/device/device.h"

enum { SIM_PIA_PORT_A, SIM_PIA_CONTROL_A, SIM_PIA_PORT_B, SIM_PIA_CONTROL_B };
/* Pins: PA0 to PA7, PB0 to PB7, then these. */
enum { SIM_PIA_PIN_CA1 = 16, SIM_PIA_PIN_CA2, SIM_PIA_PIN_CB1, SIM_PIA_PIN_CB2 };

extern const sim_device_kind sim_pia_kind, sim_6520_kind;

#endif
