/* latch.c - holds what was written. */
#include "latch.h"

static const char *const pins[] = {"q0", "q1", "q2", "q3", "q4", "q5", "q6", "q7", NULL};
static const bl_device_port ports[] = {{.pin = 0, .width = 8, .data = 0}, {0}};

typedef struct latch {
    uint8_t value;
} latch;

static latch *latch_of(sim_device *d)
{
    return (latch *)(void *)d->state.bytes;
}

static void begin_latch(sim_device *d, bool power)
{
    if (power) latch_of(d)->value = 0;
}

static void write_latch(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    (void)now, (void)reg;
    latch_of(d)->value = value;
}

static uint8_t latch_lamps(const sim_device *d)
{
    return ((const latch *)(const void *)d->state.bytes)->value;
}

static sim_level drives_latch(const sim_device *d, unsigned pin)
{
    return (latch_lamps(d) >> pin & 1) != 0 ? SIM_HIGH : SIM_LOW;
}

static const sim_device_field fields[] = {
    {"device", offsetof(latch, value), 1, SIM_FIELD_NUMBER},
    {0},
};

_Static_assert(sizeof(latch) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_latch_kind = {
    .about = {.name = "latch",
              .what = "eight lamps, written only",
              .registers = {"data"},
              .pins = pins,
              .ports = ports},
    .group = "latches",
    .numbered = true,
    .size = sizeof(latch),
    .begin = begin_latch,
    .write = write_latch,
    .lamps = latch_lamps,
    .drives = drives_latch,
    .fields = fields,
};
