/* riot6532.c - ports, timer and edge detector of a 6532. */
#include "riot6532.h"

#include <string.h>

#include "lines.h"

static const char *const pins[] = {"pa0", "pa1", "pa2", "pa3", "pa4", "pa5", "pa6", "pa7", "pb0",
                                   "pb1", "pb2", "pb3", "pb4", "pb5", "pb6", "pb7", NULL};
static const bl_device_port ports[] = {{0, 8, SIM_RIOT_PORT_A, SIM_RIOT_DIRECTION_A, true},
                                       {8, 8, SIM_RIOT_PORT_B, SIM_RIOT_DIRECTION_B, true},
                                       {0}};

typedef struct riot {
    uint8_t output[2], direction[2], flags, from, scale; /* scale: a power of 2 */
    bool timer_on, edge_on, rises; /* interrupts of both; the edge that counts */
    bool runs;                     /* its flag is still to come */
    uint64_t at;                   /* cycles: when the timer was written */
} riot;

static riot *riot_of(sim_device *d)
{
    return (riot *)(void *)d->state.bytes;
}

static const riot *riot_seen(const sim_device *d)
{
    return (const riot *)(const void *)d->state.bytes;
}

/* The timer is not reset. */
static void begin_riot(sim_device *d, bool power)
{
    riot *r = riot_of(d), kept = *r;
    memset(r, 0, sizeof *r);
    if (power) return;
    r->from = kept.from, r->scale = kept.scale, r->at = kept.at, r->runs = kept.runs;
}

/* Written N, it shows N - 1 a cycle later, then counts by its prescaler; behind 0 it is over. */
static uint64_t over_at(const riot *r)
{
    return r->at + 1 + ((uint64_t)r->from << r->scale);
}

static void update_riot(sim_device *d, uint64_t now)
{
    riot *r = riot_of(d);
    if (!r->runs || sim_device_cycles(d, now) < over_at(r)) return;
    r->flags |= SIM_RIOT_OVER;
    r->runs = false;
}

static uint8_t timer_of(const riot *r, uint64_t cycle)
{
    if (cycle >= over_at(r)) return (uint8_t)(0xFF - (cycle - over_at(r)));
    if (cycle <= r->at) return r->from;
    return (uint8_t)(r->from - 1 - ((cycle - r->at - 1) >> r->scale));
}

static uint8_t read_port(const sim_device *d, unsigned port)
{
    const riot *r = riot_seen(d);
    uint8_t seen = sim_lines_read(d, port * 8);
    if (port == 1) return (uint8_t)((seen & ~r->direction[1]) | (r->output[1] & r->direction[1]));
    for (unsigned i = 0; i < 8; i++) /* a pin without a wire is what the output does */
        if ((r->direction[0] >> i & 1) != 0 && d->nets[i] == 0)
            seen = (uint8_t)((seen & ~(1u << i)) | (r->output[0] & 1u << i));
    return seen;
}

/* Reading the timer ends its flag, but not in the very cycle in which it comes. */
static uint8_t read_timer(riot *r, uint64_t cycle, bool irq)
{
    uint8_t value = timer_of(r, cycle);
    r->timer_on = irq;
    if (cycle != over_at(r)) r->flags &= (uint8_t)~SIM_RIOT_OVER;
    return value;
}

static uint8_t read_riot(sim_device *d, uint64_t now, unsigned reg)
{
    riot *r = riot_of(d);
    update_riot(d, now);
    if ((reg & 4) == 0)
        return (reg & 1) != 0 ? r->direction[reg >> 1 & 1] : read_port(d, reg >> 1 & 1);
    if ((reg & 1) == 0) return read_timer(r, sim_device_cycles(d, now), (reg & 8) != 0);
    uint8_t flags = r->flags;
    r->flags &= (uint8_t)~SIM_RIOT_EDGE;
    return flags;
}

static void write_riot(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    static const uint8_t scales[4] = {0, 3, 6, 10};
    riot *r = riot_of(d);
    update_riot(d, now);
    if ((reg & 4) == 0) {
        uint8_t *to = (reg & 1) != 0 ? r->direction : r->output;
        to[reg >> 1 & 1] = value;
    } else if ((reg & 16) != 0) {
        r->from = value;
        r->scale = scales[reg & 3];
        r->at = sim_device_cycles(d, now);
        r->timer_on = (reg & 8) != 0;
        r->flags &= (uint8_t)~SIM_RIOT_OVER;
        r->runs = true;
    } else {
        r->rises = (reg & 1) != 0;
        r->edge_on = (reg & 2) != 0;
    }
}

static uint64_t next_riot(const sim_device *d)
{
    const riot *r = riot_seen(d);
    return r->runs ? sim_device_moment(d, over_at(r)) : UINT64_MAX;
}

static bool interrupt_riot(const sim_device *d)
{
    const riot *r = riot_seen(d);
    return (r->timer_on && (r->flags & SIM_RIOT_OVER) != 0) ||
           (r->edge_on && (r->flags & SIM_RIOT_EDGE) != 0);
}

static sim_level drives_riot(const sim_device *d, unsigned pin)
{
    const riot *r = riot_seen(d);
    return sim_lines_drive(r->output[pin / 8], r->direction[pin / 8], pin % 8);
}

static void edge_riot(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)now;
    if (pin == 7 && high == riot_seen(d)->rises) riot_of(d)->flags |= SIM_RIOT_EDGE;
}

static bool loaded_riot(sim_device *d)
{
    return riot_seen(d)->scale <= 10;
}

static const sim_device_field fields[] = {
    SIM_FIELD(riot, output, SIM_FIELD_ROW),
    SIM_FIELD(riot, direction, SIM_FIELD_ROW),
    SIM_FIELD(riot, flags, SIM_FIELD_NUMBER),
    SIM_FIELD(riot, from, SIM_FIELD_NUMBER),
    SIM_FIELD(riot, scale, SIM_FIELD_NUMBER),
    SIM_FIELD(riot, timer_on, SIM_FIELD_FLAG),
    SIM_FIELD(riot, edge_on, SIM_FIELD_FLAG),
    SIM_FIELD(riot, rises, SIM_FIELD_FLAG),
    SIM_FIELD(riot, runs, SIM_FIELD_FLAG),
    SIM_FIELD(riot, at, SIM_FIELD_CYCLE),
    {0},
};

_Static_assert(sizeof(riot) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_riot_kind = {
    .about = {.name = "riot-6532",
              .what = "two ports, timer; its RAM is an area",
              .registers = {"port_a",
                            "direction_a",
                            "port_b",
                            "direction_b",
                            "timer/edge_falls",
                            "flags/edge_rises",
                            "edge_falls_irq",
                            "edge_rises_irq",
                            "",
                            "",
                            "",
                            "",
                            "timer_irq",
                            "",
                            "",
                            "",
                            "",
                            "",
                            "",
                            "",
                            "timer_1",
                            "timer_8",
                            "timer_64",
                            "timer_1024",
                            "",
                            "",
                            "",
                            "",
                            "timer_1_irq",
                            "timer_8_irq",
                            "timer_64_irq",
                            "timer_1024_irq"},
              .pins = pins,
              .ports = ports},
    .group = "riot",
    .size = sizeof(riot),
    .begin = begin_riot,
    .read = read_riot,
    .write = write_riot,
    .next_event = next_riot,
    .update = update_riot,
    .interrupt = interrupt_riot,
    .drives = drives_riot,
    .edge = edge_riot,
    .loaded = loaded_riot,
    .fields = fields,
};
