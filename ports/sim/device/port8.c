/* port8.c - latching at the strobe. */
#include "port8.h"

enum { DATA, CONTROL };

sim_port8 *sim_port8_of(sim_device *d)
{
    return (sim_port8 *)(void *)d->state.bytes;
}

void sim_port8_strobe(sim_port8 *p, bool up)
{
    if (up && !p->strobe && !p->full) {
        p->latch = p->lines & (uint8_t)~p->stuck;
        p->full = true;
    }
    p->strobe = up;
}

static void begin_port8(sim_device *d, bool power)
{
    sim_port8 *p = sim_port8_of(d);
    (void)power;
    *p = (sim_port8){.stuck = p->stuck};
}

static uint8_t read_port8(sim_device *d, uint64_t now, unsigned reg)
{
    sim_port8 *p = sim_port8_of(d);
    (void)now;
    if (reg == CONTROL) return (uint8_t)(p->full << 7 | p->wake);
    p->full = false;
    return p->latch;
}

static void write_port8(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    (void)now;
    if (reg == CONTROL) sim_port8_of(d)->wake = value & 1;
}

static bool port8_interrupt(const sim_device *d)
{
    const sim_port8 *p = (const sim_port8 *)(const void *)d->state.bytes;
    return p->full && p->wake;
}

static const sim_device_field fields[] = {
    SIM_FIELD(sim_port8, lines, SIM_FIELD_NUMBER), SIM_FIELD(sim_port8, latch, SIM_FIELD_NUMBER),
    SIM_FIELD(sim_port8, strobe, SIM_FIELD_FLAG),  SIM_FIELD(sim_port8, full, SIM_FIELD_FLAG),
    SIM_FIELD(sim_port8, wake, SIM_FIELD_FLAG),    {0},
};

_Static_assert(sizeof(sim_port8) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_port8_kind = {
    .about = {.name = "port-8",
              .what = "8-bit input with strobe and ready",
              .registers = {"data", "control"}},
    .group = "port",
    .size = sizeof(sim_port8),
    .begin = begin_port8,
    .read = read_port8,
    .write = write_port8,
    .interrupt = port8_interrupt,
    .fields = fields,
};
