/* lamp.c - one lamp. */
#include "lamp.h"

#include <stdio.h>

#include "glow.h"

enum { PLUS, MINUS };
static const char *const pins[] = {"plus", "minus", NULL};

static uint16_t lit(const sim_device *d)
{
    /* A wire that nobody drives carries no current. */
    return sim_device_sees(d, PLUS, d->nets[PLUS] == 0) &&
           !sim_device_sees(d, MINUS, d->nets[MINUS] != 0);
}

static void begin_lamp(sim_device *d, bool power)
{
    if (power) *sim_glow_of(d) = (sim_glow){0};
}

static void edge_lamp(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)pin, (void)high;
    sim_glow_change(sim_glow_of(d), now, lit(d));
}

/* What does not change is told by no edge. */
static void update_lamp(sim_device *d, uint64_t now)
{
    sim_glow_change(sim_glow_of(d), now, lit(d));
}

static size_t lamp_shows(const sim_device *d, char *text, size_t capacity)
{
    return (size_t)snprintf(text, capacity, "%s", sim_glow_seen(d) & 1 ? "*" : ".");
}

const sim_device_kind sim_lamp_kind = {
    .about = {.name = "lamp", .what = "lamp between two pins", .pins = pins},
    .group = "lamp",
    .size = sizeof(sim_glow),
    .begin = begin_lamp,
    .edge = edge_lamp,
    .update = update_lamp,
    .next_event = sim_glow_next,
    .shows = lamp_shows,
    .fields = sim_glow_fields,
};
