/* shift_out.c - eight outputs behind three lines. */
#include "shift_out.h"

enum { DATA, CLOCK, LATCH, CLEAR, ENABLE, Q0, NEXT = Q0 + 8 };
static const char *const pins[] = {"data", "clock", "latch", "clear", "enable", "q0",   "q1", "q2",
                                   "q3",   "q4",    "q5",    "q6",    "q7",     "next", NULL};

typedef struct shift_out {
    uint8_t moving, shown;
} shift_out;

static shift_out *register_of(sim_device *d)
{
    return (shift_out *)(void *)d->state.bytes;
}

/* What chance left in it; a fresh one here is empty. */
static void begin_shift_out(sim_device *d, bool power)
{
    if (power) *register_of(d) = (shift_out){0};
}

static sim_level drives_shift_out(const sim_device *d, unsigned pin)
{
    const shift_out *s = (const shift_out *)(const void *)d->state.bytes;
    if (pin < Q0) return SIM_FLOATS;
    if (pin == NEXT) return (s->moving & 0x80) != 0 ? SIM_HIGH : SIM_LOW;
    if (sim_device_sees(d, ENABLE, false)) return SIM_FLOATS;
    return (s->shown >> (pin - Q0) & 1) != 0 ? SIM_HIGH : SIM_LOW;
}

static void edge_shift_out(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    shift_out *s = register_of(d);
    (void)now;
    if (pin == CLEAR && !high) s->moving = 0;
    if (pin == CLOCK && high && sim_device_sees(d, CLEAR, true))
        s->moving = (uint8_t)(s->moving << 1 | sim_device_sees(d, DATA, true));
    if (pin == LATCH && high) s->shown = s->moving;
}

static uint8_t shift_out_lamps(const sim_device *d)
{
    return ((const shift_out *)(const void *)d->state.bytes)->shown;
}

static const sim_device_field fields[] = {
    SIM_FIELD(shift_out, moving, SIM_FIELD_NUMBER),
    SIM_FIELD(shift_out, shown, SIM_FIELD_NUMBER),
    {0},
};

_Static_assert(sizeof(shift_out) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_shift_out_kind = {
    .about = {.name = "shift-595",
              .what = "eight latched outputs behind three lines",
              .pins = pins,
              .needs = "data clock latch"},
    .group = "shift",
    .size = sizeof(shift_out),
    .begin = begin_shift_out,
    .lamps = shift_out_lamps,
    .drives = drives_shift_out,
    .edge = edge_shift_out,
    .fields = fields,
};
