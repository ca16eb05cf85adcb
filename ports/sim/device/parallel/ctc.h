/* ctc.h - the counter and timer of the Z80 family: four channels.
 *
 * Source: the common data sheet. A channel counts down from its constant (0 means 256) by the
 * system clock divided by 16 or 256, or by edges at its trigger pin; at 0 it begins anew, pulses
 * its output (channels 0 to 2) and interrupts, with the vector that was written to channel 0. A
 * timer may wait for an edge at its trigger pin before it begins.
 */
#ifndef BOOTLACE_SIM_CTC_H
#define BOOTLACE_SIM_CTC_H

#include "sim/device/device.h"

/* Pins: TRG0 to TRG3, ZC0 to ZC2. */
enum { SIM_CTC_PIN_ZC = 4 };

extern const sim_device_kind sim_ctc_kind;

#endif
