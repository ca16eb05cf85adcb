/* sio.h - the serial channel pair of the Z80 family.
 *
 * Source: the common data sheet. The line is at channel A; channel B works and has nobody at its
 * line. Modelled: registers through the pointer, asynchronous formats, clock divided by 1, 16, 32
 * or 64, three characters of room behind the receiver with an error for each, break both ways,
 * RTS and DTR, CTS and DCD with external/status interrupts, all interrupt modes with the vector of
 * register 2 as the status changes it, the daisy chain. Not modelled: synchronous modes, the CRC,
 * wait/ready.
 */
#ifndef BOOTLACE_SIM_SIO_H
#define BOOTLACE_SIM_SIO_H

#include "sim/device/device.h"

enum { SIM_SIO_DATA_A, SIM_SIO_DATA_B, SIM_SIO_CONTROL_A, SIM_SIO_CONTROL_B };

/* Bits of read register 0. */
enum {
    SIM_SIO_RECEIVED = 0x01,
    SIM_SIO_PENDING = 0x02,
    SIM_SIO_EMPTY = 0x04,
    SIM_SIO_DCD = 0x08,
    SIM_SIO_CTS = 0x20,
    SIM_SIO_BREAK = 0x80,
};
/* Of read register 1. */
enum {
    SIM_SIO_IDLE = 0x01,
    SIM_SIO_PARITY = 0x10,
    SIM_SIO_OVERRUN = 0x20,
    SIM_SIO_FRAMING = 0x40,
};

extern const sim_device_kind sim_sio_kind;

#endif
