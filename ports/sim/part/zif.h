/* zif.h - a simulated part in a 32-pin socket, seen from the socket's pins. What each pin of a part
 * is stands here once more, in the order of the part's own pins as its data sheet draws it. */
#ifndef BOOTLACE_SIM_ZIF_H
#define BOOTLACE_SIM_ZIF_H

#include "pins/pins.h"
#include "sim_part.h"

typedef struct sim_zif {
    sim_part *part;
    bl_pin_state state[BL_SOCKET_PINS + 1];
    uint8_t vcc, vpp;
    uint64_t now;    /* nanoseconds */
    unsigned faults; /* supply on a wrong pin, two that drive one line */
} sim_zif;

/* The part must be one of the catalogue. */
void sim_zif_begin(sim_zif *z, sim_part *part);
bl_pins sim_zif_pins(sim_zif *z);

#endif
