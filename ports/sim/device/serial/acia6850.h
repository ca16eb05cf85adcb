/* acia6850.h - the serial interface of the 6850 kind: a status and a control register at one
 * address, and data.
 *
 * Source: the common data sheet of the 6850. Modelled: master reset (after power-on nothing works
 * before it), clock divided by 1, 16 or 64, the eight formats, both interrupts, RTS and break,
 * overrun (told when the character before it has been read), parity and framing errors, CTS and
 * DCD; of a break on the line, a 0 with a framing error.
 */
#ifndef BOOTLACE_SIM_ACIA6850_H
#define BOOTLACE_SIM_ACIA6850_H

#include "sim/device/device.h"

enum { SIM_6850_STATUS, SIM_6850_DATA };

/* Bits of the status register. */
enum {
    SIM_6850_RECEIVED = 0x01,
    SIM_6850_EMPTY = 0x02,
    SIM_6850_DCD = 0x04,
    SIM_6850_CTS = 0x08,
    SIM_6850_FRAMING = 0x10,
    SIM_6850_OVERRUN = 0x20,
    SIM_6850_PARITY = 0x40,
    SIM_6850_IRQ = 0x80,
};

extern const sim_device_kind sim_6850_kind;

#endif
