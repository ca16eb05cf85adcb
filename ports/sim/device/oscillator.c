/* oscillator.c - a clock that nobody sets. */
#include "oscillator.h"

static const char *const pins[] = {"out", NULL};

static void begin_oscillator(sim_device *d, bool power)
{
    (void)d, (void)power;
}

static uint32_t frequency_oscillator(const sim_device *d, unsigned pin)
{
    (void)pin;
    return d->clock;
}

static const sim_device_field fields[] = {{0}};

const sim_device_kind sim_oscillator_kind = {
    .about = {.name = "oscillator",
              .what = "oscillator; what is wired to it has its clock from there",
              .pins = pins,
              .clocked = true,
              .needs = "out"},
    .group = "oscillator",
    .begin = begin_oscillator,
    .frequency = frequency_oscillator,
    .fields = fields,
};
