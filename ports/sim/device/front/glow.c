/* glow.c - adding up how long lamps are lit. */
#include "glow.h"

#include <string.h>

enum { LOOK_NS = 20000000, LEAST_NS = LOOK_NS / 20 };

sim_glow *sim_glow_of(sim_device *d)
{
    return (sim_glow *)(void *)d->state.bytes;
}

/* Adds up to a moment within the look. */
static void add_up(sim_glow *g, uint64_t now)
{
    for (unsigned i = 0; i < SIM_GLOW_LAMPS; i++)
        if ((g->lit >> i & 1) != 0) g->on[i] += (uint32_t)(now - g->since);
    g->since = now;
}

static void end_look(sim_glow *g, uint64_t end)
{
    uint16_t seen = 0;
    add_up(g, end);
    for (unsigned i = 0; i < SIM_GLOW_LAMPS; i++)
        if (g->on[i] >= LEAST_NS) seen = (uint16_t)(seen | 1u << i);
    g->moves = g->seen != seen || seen != g->lit;
    g->seen = seen;
    g->began = end;
    memset(g->on, 0, sizeof g->on);
}

/* Looks that nothing changed in need not be made one by one: the eye sees what is lit. */
static void look(sim_glow *g, uint64_t now)
{
    if (now < g->since) now = g->since;
    if (now < g->began + LOOK_NS) return;
    end_look(g, g->began + LOOK_NS);
    if (now < g->began + LOOK_NS) return;
    g->since = g->began = now - (now - g->began) % LOOK_NS;
    g->seen = g->lit;
    g->moves = false;
}

void sim_glow_change(sim_glow *g, uint64_t now, uint16_t lit)
{
    look(g, now);
    if (now > g->since) add_up(g, now);
    g->moves |= lit != g->lit;
    g->lit = lit;
}

uint16_t sim_glow_seen(const sim_device *d)
{
    return ((const sim_glow *)(const void *)d->state.bytes)->seen;
}

uint64_t sim_glow_next(const sim_device *d)
{
    const sim_glow *g = (const sim_glow *)(const void *)d->state.bytes;
    return g->moves || g->seen != g->lit ? g->began + LOOK_NS : UINT64_MAX;
}

const sim_device_field sim_glow_fields[] = {
    SIM_FIELD(sim_glow, lit, SIM_FIELD_NUMBER), SIM_FIELD(sim_glow, seen, SIM_FIELD_NUMBER),
    SIM_FIELD(sim_glow, moves, SIM_FIELD_FLAG), SIM_FIELD(sim_glow, since, SIM_FIELD_TIME),
    SIM_FIELD(sim_glow, began, SIM_FIELD_TIME), {0},
};
