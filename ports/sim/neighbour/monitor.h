/* monitor.h - machines of Skerry's neighbours, each with a text monitor of its own that is not
 * ours. They are small models in place of a board's ROM: the RAM is the board's, and when one
 * starts a program the board's CPU runs it. What Bootlace must know of each is its dialogue file
 * in examples/neighbours.
 *
 *   thrift  single letters that need no line end, the place moves on by itself; a port made in
 *           software, which loses characters that come too close together
 *   cleat   octal lines, words of 12 bits
 *   purser  a menu; takes Intel HEX records and says + or - to each
 *   petrel  a radio module: packets of 32 bytes (docs/packets.md), no text at all
 */
#ifndef BOOTLACE_SIM_MONITOR_H
#define BOOTLACE_SIM_MONITOR_H

#include "bootlace/packets.h"
#include "sim/wire.h"

enum { SIM_MONITOR_LINE = 240, SIM_MONITOR_OUT = 8192 };

struct sim_monitor;
typedef struct sim_monitor_kind {
    const char *name;
    const char *greeting;
    uint32_t soonest_us; /* a character that comes sooner after another is lost */
    void (*take)(struct sim_monitor *m, uint8_t byte);
} sim_monitor_kind;

typedef struct sim_monitor {
    const sim_monitor_kind *kind; /* NULL: there is none */
    uint8_t *ram;                 /* 64 KiB */
    sim_wire *in, *out;
    char line[SIM_MONITOR_LINE];
    size_t count;
    uint32_t place, last, left; /* what a command works on; bare bytes still to come */
    unsigned step;
    uint8_t text[SIM_MONITOR_OUT]; /* to be sent */
    size_t text_first, text_count;
    uint64_t heard_at; /* nanoseconds */
    uint32_t lost;     /* characters */
    bool started;      /* a program has the machine */
    uint16_t start;
    bl_packets_listener radio;
    uint8_t seen[256];
} sim_monitor;

/* NULL when there is none of that name. */
const sim_monitor_kind *sim_monitor_named(const char *name);
/* The names, for messages; NULL past the last. */
const char *sim_monitor_name(size_t index);

/* Power on: it greets. */
void sim_monitor_begin(sim_monitor *m, const sim_monitor_kind *kind, uint8_t *ram, sim_wire *in,
                       sim_wire *out, uint64_t now);
/* Works until a moment, or until it starts a program. */
void sim_monitor_run(sim_monitor *m, uint64_t until);

/* ---- for the kinds ---- */
void sim_monitor_say(sim_monitor *m, const char *text, ...) __attribute__((format(printf, 2, 3)));
void sim_monitor_put(sim_monitor *m, uint8_t byte);
void sim_monitor_start(sim_monitor *m, uint32_t address);

extern const sim_monitor_kind sim_thrift, sim_cleat, sim_purser, sim_petrel;

#endif
