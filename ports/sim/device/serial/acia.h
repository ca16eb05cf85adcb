/* acia.h - the serial interface of the 6551 kind: four registers, one byte of buffer each way.
 *
 * Source: the common data sheet of the 6551. Modelled: data, status (programmed reset), command
 * (DTR, receiver and transmitter interrupt control, break, echo, parity), control (baud rate code,
 * word length, stop bits); overrun, parity and framing errors; the modem lines as pins,
 * interrupts by changes of DCD and DSR; of a break on the line, a 0 with a framing error.
 */
#ifndef BOOTLACE_SIM_ACIA_H
#define BOOTLACE_SIM_ACIA_H

#include "sim/device/device.h"

enum { SIM_ACIA_DATA, SIM_ACIA_STATUS, SIM_ACIA_COMMAND, SIM_ACIA_CONTROL };

/* Bits of the status register. */
enum {
    SIM_ACIA_PARITY = 0x01,
    SIM_ACIA_FRAMING = 0x02,
    SIM_ACIA_OVERRUN = 0x04,
    SIM_ACIA_RECEIVED = 0x08,
    SIM_ACIA_EMPTY = 0x10,
    SIM_ACIA_DCD = 0x20,
    SIM_ACIA_DSR = 0x40,
    SIM_ACIA_IRQ = 0x80,
};

extern const sim_device_kind sim_acia_kind;

#endif
