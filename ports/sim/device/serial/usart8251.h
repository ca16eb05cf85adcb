/* usart8251.h - the serial interface of the 8251 kind: data, and a status register at the address
 * of mode and command.
 *
 * Source: the common data sheet of the 8251A. Modelled: asynchronous mode (what is written after a
 * reset is the mode, then commands), clock divided by 1, 16 or 64, formats, break both ways, error
 * reset, internal reset, the modem lines, TxRDY, RxRDY and BRKDET. Not modelled: synchronous mode,
 * but that its characters are counted when the mode says so, as the sequence of three zeros before
 * a reset needs.
 */
#ifndef BOOTLACE_SIM_USART8251_H
#define BOOTLACE_SIM_USART8251_H

#include "sim/device/device.h"

enum { SIM_8251_DATA, SIM_8251_STATUS };

/* Bits of the status. */
enum {
    SIM_8251_READY = 0x01, /* to send */
    SIM_8251_RECEIVED = 0x02,
    SIM_8251_EMPTY = 0x04, /* nothing is sent any more */
    SIM_8251_PARITY = 0x08,
    SIM_8251_OVERRUN = 0x10,
    SIM_8251_FRAMING = 0x20,
    SIM_8251_BREAK = 0x40,
    SIM_8251_DSR = 0x80,
};

extern const sim_device_kind sim_8251_kind;

#endif
