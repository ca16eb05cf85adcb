/* wire.h - one direction of a serial line in virtual time: exact to the bit time, with faults on
 * request.
 *
 * All times in the simulator are nanoseconds since power-on of the bench.
 */
#ifndef BOOTLACE_SIM_WIRE_H
#define BOOTLACE_SIM_WIRE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* A repeatable source of chance (splitmix64). */
typedef struct sim_chance {
    uint64_t state;
} sim_chance;
uint64_t sim_chance_next(sim_chance *c);
/* True once in every n calls on average; never for n 0. */
bool sim_chance_one_in(sim_chance *c, uint32_t n);

/* What can go wrong on a line. 0 switches a fault off. */
typedef struct sim_line_faults {
    uint32_t flip_one_in;  /* bits */
    uint32_t lose_one_in;  /* bytes */
    uint64_t vanish_after; /* bytes, both directions together: then nothing passes any more */
    uint64_t passed;       /* bytes so far */
    sim_chance chance;
} sim_line_faults;

enum { SIM_WIRE_ROOM = 8192 };

typedef struct sim_wire {
    uint32_t baud;
    sim_line_faults *faults; /* shared by both directions; may be NULL */
    uint64_t free_at;        /* when the last byte's stop bit ends */
    uint32_t fraction;       /* of a nanosecond, in units of 1 / baud */
    size_t head, count;
    uint64_t at[SIM_WIRE_ROOM];
    uint16_t what[SIM_WIRE_ROOM]; /* a byte, or what follows here */
} sim_wire;

/* What arrives beside bytes: a character time after the line has gone low it is a break; when that
 * is over, the line is high again. */
enum { SIM_WIRE_BREAK = 0x100, SIM_WIRE_HIGH = 0x200 };

void sim_wire_begin(sim_wire *w, uint32_t baud, sim_line_faults *faults);

/* Starts sending a byte at time at, or as soon as the one before is out. False: no room. */
bool sim_wire_put(sim_wire *w, uint64_t at, uint8_t byte);
/* Holds the line low for some nanoseconds, at time at, or as soon as the byte before is out. False:
 * no room. */
bool sim_wire_break(sim_wire *w, uint64_t at, uint64_t length);
/* When the next byte or event arrives; UINT64_MAX when there is none under way. */
uint64_t sim_wire_next(const sim_wire *w);
/* Takes a byte that has arrived by now. Of a break this is a 0, as most receivers tell it. */
bool sim_wire_take(sim_wire *w, uint64_t now, uint8_t *byte);
/* Takes what has arrived by now, for receivers that see the line itself. */
bool sim_wire_hear(sim_wire *w, uint64_t now, uint16_t *what);
/* Ten bit times, rounded. */
uint64_t sim_wire_byte_time(uint32_t baud);

#endif
