/* acia.h - the serial interface of the 6551 kind: four registers, one byte of buffer each way.
 *
 * Source: the common data sheet of the 6551. Modelled: data, status (programmed reset), command
 * (DTR, receiver and transmitter interrupt control), control (baud rate code); overrun, framing
 * errors when the other side runs at a different rate. Not modelled: parity, echo mode, modem lines
 * (all inactive), word lengths other than 8.
 */
#ifndef BOOTLACE_SIM_ACIA_H
#define BOOTLACE_SIM_ACIA_H

#include "sim/wire.h"

enum { SIM_ACIA_DATA, SIM_ACIA_STATUS, SIM_ACIA_COMMAND, SIM_ACIA_CONTROL, SIM_ACIA_REGISTERS };

enum {
    SIM_ACIA_FRAMING = 0x02,
    SIM_ACIA_OVERRUN = 0x04,
    SIM_ACIA_RECEIVED = 0x08,
    SIM_ACIA_EMPTY = 0x10,
    SIM_ACIA_IRQ = 0x80,
};

typedef struct sim_acia {
    sim_wire *in, *out;
    uint8_t status, command, control;
    uint8_t received;
    uint8_t waiting; /* byte that waits for the shift register */
    bool has_waiting;
    uint64_t shift_free; /* when the shift register is free */
} sim_acia;

void sim_acia_begin(sim_acia *a, sim_wire *in, sim_wire *out);
/* Brings it up to a moment: bytes that arrived, bytes that leave. */
void sim_acia_update(sim_acia *a, uint64_t now);
uint8_t sim_acia_read(sim_acia *a, uint64_t now, unsigned reg);
void sim_acia_write(sim_acia *a, uint64_t now, unsigned reg, uint8_t value);
bool sim_acia_irq(const sim_acia *a);

#endif
