/* wire.c - bytes under way. */
#include "wire.h"

#include <string.h>

#include "bootlace/assert.h"

enum { BITS = 10 }; /* start, eight, stop */

uint64_t sim_chance_next(sim_chance *c)
{
    uint64_t z = (c->state += 0x9E3779B97F4A7C15u);
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
    return z ^ (z >> 31);
}

bool sim_chance_one_in(sim_chance *c, uint32_t n)
{
    return n != 0 && sim_chance_next(c) % n == 0;
}

_Static_assert(SIM_WIRE_ROOM > 0, "a ring");

void sim_wire_begin(sim_wire *w, uint32_t baud, sim_line_faults *faults)
{
    BL_ASSERT(baud > 0);
    memset(w, 0, sizeof *w);
    w->baud = baud;
    w->faults = faults;
}

uint64_t sim_wire_byte_time(uint32_t baud)
{
    return ((uint64_t)BITS * 1000000000u + baud / 2) / baud;
}

static void append(sim_wire *w, uint64_t at, uint16_t what)
{
    BL_ASSERT(w->count < SIM_WIRE_ROOM);
    size_t tail = (w->head + w->count++) % SIM_WIRE_ROOM;
    w->at[tail] = at;
    w->what[tail] = what;
}

/* The moment the byte's stop bit ends, the rounding carried over to the next byte. */
static uint64_t occupy(sim_wire *w, uint64_t at)
{
    if (at > w->free_at) {
        w->free_at = at;
        w->fraction = 0;
    }
    uint64_t units = (uint64_t)BITS * 1000000000u + w->fraction;
    w->free_at += units / w->baud;
    w->fraction = (uint32_t)(units % w->baud);
    return w->free_at;
}

bool sim_wire_put(sim_wire *w, uint64_t at, uint8_t byte)
{
    sim_line_faults *f = w->faults;
    if (w->count == SIM_WIRE_ROOM) return false;
    uint64_t arrival = occupy(w, at);
    if (f != NULL) {
        f->passed++;
        if (f->vanish_after != 0 && f->passed > f->vanish_after) return true;
        if (sim_chance_one_in(&f->chance, f->lose_one_in)) return true;
        for (unsigned bit = 0; bit < 8; bit++)
            if (sim_chance_one_in(&f->chance, f->flip_one_in)) byte ^= (uint8_t)(1u << bit);
    }
    append(w, arrival, byte);
    return true;
}

bool sim_wire_break(sim_wire *w, uint64_t at, uint64_t length)
{
    uint64_t shortest = sim_wire_byte_time(w->baud);
    if (w->count + 2 > SIM_WIRE_ROOM) return false;
    if (at < w->free_at) at = w->free_at;
    if (length < shortest) length = shortest;
    append(w, at + shortest, SIM_WIRE_BREAK);
    append(w, at + length, SIM_WIRE_HIGH);
    w->free_at = at + length;
    w->fraction = 0;
    return true;
}

uint64_t sim_wire_next(const sim_wire *w)
{
    return w->count == 0 ? UINT64_MAX : w->at[w->head];
}

bool sim_wire_hear(sim_wire *w, uint64_t now, uint16_t *what)
{
    BL_ASSERT(w->count <= SIM_WIRE_ROOM);
    if (sim_wire_next(w) > now) return false;
    *what = w->what[w->head];
    w->head = (w->head + 1) % SIM_WIRE_ROOM;
    w->count--;
    return true;
}

bool sim_wire_take(sim_wire *w, uint64_t now, uint8_t *byte)
{
    uint16_t what;
    do
        if (!sim_wire_hear(w, now, &what)) return false;
    while (what == SIM_WIRE_HIGH);
    *byte = (uint8_t)what;
    return true;
}
