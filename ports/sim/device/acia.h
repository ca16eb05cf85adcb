/* acia.h - the serial interface of the 6551 kind: four registers, one byte of buffer each way.
 *
 * Source: the common data sheet of the 6551. Modelled: data, status (programmed reset), command
 * (DTR, receiver and transmitter interrupt control), control (baud rate code); overrun, framing
 * errors when the other side runs at a different rate. Not modelled: parity, echo mode, modem lines
 * (all inactive), word lengths other than 8.
 */
#ifndef BOOTLACE_SIM_ACIA_H
#define BOOTLACE_SIM_ACIA_H

#include "device.h"

enum { SIM_ACIA_DATA, SIM_ACIA_STATUS, SIM_ACIA_COMMAND, SIM_ACIA_CONTROL };

/* Bits of the status register. */
enum {
    SIM_ACIA_FRAMING = 0x02,
    SIM_ACIA_OVERRUN = 0x04,
    SIM_ACIA_RECEIVED = 0x08,
    SIM_ACIA_EMPTY = 0x10,
    SIM_ACIA_IRQ = 0x80,
};

extern const sim_device_kind sim_acia_kind;

#endif
