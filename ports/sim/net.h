/* net.h - which pins of devices are wired together, and what level that makes.
 *
 * A level is worked out when somebody asks for it. Pins that count edges are told when a device
 * that shares a wire with them was written to, read, or came up to a moment at which something
 * happened.
 */
#ifndef BOOTLACE_SIM_NET_H
#define BOOTLACE_SIM_NET_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* What a pin does to its wire, the weaker first. */
typedef enum sim_level {
    SIM_FLOATS,
    SIM_PULLED_DOWN, /* through a resistor */
    SIM_PULLED_UP,
    SIM_HIGH,
    SIM_LOW,
} sim_level;

enum {
    SIM_NETS = 120,
    SIM_NET_PINS = 240,
    SIM_NET_CPU = 0xFF,
    SIM_NET_TIED = 0xFE,
    SIM_NET_MEMORY = 0xFD,
    SIM_NET_CLOCK = 0xFC,
    SIM_NET_RESET = 0xFF
};

/* A pin of a device by the device's index; or the CPU's (SIM_NET_CPU): pin is then the index of a
 * request of sim_cpu_kind, or SIM_NET_RESET. Or the supply (SIM_NET_TIED): pin is then SIM_HIGH or
 * SIM_LOW. Or what is switched of the memory (SIM_NET_MEMORY): sim_board_switch. Or the CPU's clock
 * (SIM_NET_CLOCK). */
typedef struct sim_pin {
    uint8_t device, pin;
} sim_pin;

typedef struct sim_net {
    uint8_t first, count; /* of pins */
    bool high;            /* when last looked at */
    /* Contention: two outputs have driven it against each other, at first these pins (indices of
     * sim_nets.pins), then. Low wins, which the parts themselves may not outlive. */
    bool fights;
    uint8_t fights_high, fights_low;
    uint64_t fights_since; /* nanoseconds of the board */
} sim_net;

typedef struct sim_nets {
    sim_pin pins[SIM_NET_PINS];
    sim_net nets[SIM_NETS];
    size_t pin_count, net_count;
    bool settling;
    uint64_t stirred; /* devices whose pins are to be looked at, a bit each */
} sim_nets;

struct sim_board;

/* Wires pins together; a pin is in one net at most. False: there is no room. */
bool sim_nets_join(struct sim_board *b, const sim_pin *pins, size_t count);
/* Faults: a pin that is not connected, two that are swapped. Before power-on, or sim_nets_begin. */
void sim_nets_open(struct sim_board *b, size_t device, unsigned pin);
void sim_nets_swap(struct sim_board *b, size_t device, unsigned first, unsigned second);
/* Works out what follows from what a device does to its pins now; then what it follows from that.
 */
void sim_nets_stir(struct sim_board *b, uint64_t now, size_t device);
/* After a reset, or loading: the levels as they are now, which is an edge to nobody; the CPU's
 * lines that are low pull. */
void sim_nets_begin(struct sim_board *b);
/* Clocks that come by wires are looked at again. To be called when one may have changed. */
void sim_nets_retime(struct sim_board *b, uint64_t now);
/* As sim_nets_stir, for all devices. */
void sim_nets_settle(struct sim_board *b, uint64_t now);
/* What a net's pins do to it together, but for those of one device (NULL: none is left out). */
sim_level sim_net_level(const struct sim_board *b, size_t net, const void *but);

#endif
