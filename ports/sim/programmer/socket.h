/* socket.h - the programmer as a device: the core's programmer side, a chip in its socket, a line.
 */
#ifndef BOOTLACE_SIM_SOCKET_H
#define BOOTLACE_SIM_SOCKET_H

#include "bootlace/programmer.h"
#include "pip.h"
#include "sim/part/sim_part.h"
#include "sim/wire.h"

/* What may be wrong between the programmer and the pins of the chip. */
typedef struct sim_wiring {
    uint8_t data_stuck, data_levels; /* a bit a line */
    uint32_t address_stuck, address_levels;
    uint8_t data_swap[2], data_bridge[2], address_swap[2]; /* alike: none */
    bool empty;                                            /* no chip in the socket */
} sim_wiring;

typedef struct sim_socket {
    bl_programmer programmer;
    bl_chip_bus bus;
    bool text; /* Pip is at the socket, not the programmer */
    sim_pip pip;
    sim_part *chip; /* NULL: the socket is empty */
    sim_wire *in, *out;
    uint64_t now; /* the microcontroller's own time; runs ahead while it works the pins */
    uint32_t address;
    uint8_t data;
    bool driven;
    sim_wiring wiring;
    uint8_t vpp_max;    /* tenths of a volt that the programmer's supply can make */
    bool fixed_supply;  /* it has 5 volts only */
    uint64_t cut_after; /* steps at the pins until the current fails; 0: it does not */
    uint64_t steps;
    uint32_t strobes; /* times that write was pulled low: somebody is writing */
    bool dead;
    sim_chance chance;
} sim_socket;

enum { SIM_USUAL_VPP = 210 };

void sim_socket_begin(sim_socket *s, sim_part *chip, sim_wire *in, sim_wire *out);
/* Works until a moment. */
void sim_socket_run(sim_socket *s, uint64_t until);

#endif
