/* port8.h - an 8-bit input port with strobe and ready, and an interrupt.
 *
 * Two registers: data, and control. When strobe rises while the port is ready the data lines are
 * latched: bit 7 of control reads 1, ready falls, and there is an interrupt if bit 0 of control was
 * written 1. Reading data makes it ready again.
 */
#ifndef BOOTLACE_SIM_PORT8_H
#define BOOTLACE_SIM_PORT8_H

#include "device.h"

typedef struct sim_port8 {
    uint8_t lines, latch; /* what is on the lines; what was latched */
    bool strobe, full, wake;
    uint8_t stuck; /* data lines that always read 0: a fault, which stays */
} sim_port8;

/* d is of sim_port8_kind. */
sim_port8 *sim_port8_of(sim_device *d);
void sim_port8_strobe(sim_port8 *p, bool up);

extern const sim_device_kind sim_port8_kind;

#endif
