/* uart16550.h - the serial interfaces of the 8250 family: 8250 (no scratch register), 16450, 16550
 * (16 characters of room each way).
 *
 * Source: the common data sheets. Modelled: the divisor, formats, break both ways, all interrupts
 * in their order, line status with its errors character by character, modem lines and what changed
 * of them, loopback, scratch, both FIFOs with the receiver's trigger level and its timeout. Not
 * modelled: DMA.
 */
#ifndef BOOTLACE_SIM_UART16550_H
#define BOOTLACE_SIM_UART16550_H

#include "sim/device/device.h"

enum {
    SIM_16550_DATA, /* and the divisor's low byte */
    SIM_16550_ENABLE,
    SIM_16550_IDENTIFY, /* written: the FIFO control */
    SIM_16550_FORMAT,
    SIM_16550_MODEM,
    SIM_16550_STATUS,
    SIM_16550_MODEM_STATUS,
    SIM_16550_SCRATCH
};

/* Bits of the line status. */
enum {
    SIM_16550_RECEIVED = 0x01,
    SIM_16550_OVERRUN = 0x02,
    SIM_16550_PARITY = 0x04,
    SIM_16550_FRAMING = 0x08,
    SIM_16550_BREAK = 0x10,
    SIM_16550_EMPTY = 0x20, /* the holding register, or the FIFO */
    SIM_16550_IDLE = 0x40,  /* and the shift register */
    SIM_16550_FIFO_ERROR = 0x80,
};

extern const sim_device_kind sim_8250_kind, sim_16450_kind, sim_16550_kind;

#endif
