/* ppi8255.h - the programmable peripheral interface of the 8255 kind: three ports in three modes.
 *
 * Source: the common data sheet. Mode 0: plain ports, port C in halves. Mode 1: ports A and B with
 * handshake on lines of port C, and interrupts. Mode 2: port A both ways. Writing a mode makes all
 * outputs 0. Single bits of port C are set and cleared by the control register; in modes 1 and 2
 * that also enables the interrupts.
 */
#ifndef BOOTLACE_SIM_PPI8255_H
#define BOOTLACE_SIM_PPI8255_H

#include "sim/device/device.h"

enum { SIM_PPI_PORT_A, SIM_PPI_PORT_B, SIM_PPI_PORT_C, SIM_PPI_CONTROL };
/* Pins: PA0 to PA7, PB0 to PB7, PC0 to PC7. */
enum { SIM_PPI_PIN_PC = 16 };

extern const sim_device_kind sim_ppi_kind;

#endif
