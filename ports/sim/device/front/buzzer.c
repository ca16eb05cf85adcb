/* buzzer.c - counting the waves at its pin. */
#include "buzzer.h"

#include <stdio.h>

static const char *const pins[] = {"in", NULL};
enum { LISTEN_NS = 50000000 };

typedef struct buzzer {
    uint32_t waves;              /* of this listening */
    uint32_t hertz;              /* heard in the last */
    uint64_t began, first, last; /* of it; its first and last rising edge */
} buzzer;

static buzzer *buzzer_of(sim_device *d)
{
    return (buzzer *)(void *)d->state.bytes;
}

static void begin_buzzer(sim_device *d, bool power)
{
    (void)power;
    *buzzer_of(d) = (buzzer){0};
}

/* Two edges make a wave; what is slower than 20 Hz is no tone. */
static void update_buzzer(sim_device *d, uint64_t now)
{
    buzzer *b = buzzer_of(d);
    if (now < b->began + LISTEN_NS) return;
    uint64_t time = b->last - b->first;
    b->hertz = 0;
    if (b->waves >= 2 && b->last > b->first)
        b->hertz = (uint32_t)(((b->waves - 1) * 1000000000ull + time / 2) / time);
    b->waves = 0;
    b->began = now;
}

static void edge_buzzer(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    buzzer *b = buzzer_of(d);
    (void)pin;
    update_buzzer(d, now);
    if (!high) return;
    if (b->waves == 0) b->first = now;
    b->last = now;
    b->waves++;
}

static uint64_t next_buzzer(const sim_device *d)
{
    const buzzer *b = (const buzzer *)(const void *)d->state.bytes;
    return b->waves > 0 || b->hertz > 0 ? b->began + LISTEN_NS : UINT64_MAX;
}

static size_t buzzer_shows(const sim_device *d, char *text, size_t capacity)
{
    const buzzer *b = (const buzzer *)(const void *)d->state.bytes;
    if (b->hertz == 0) return (size_t)snprintf(text, capacity, "silent");
    return (size_t)snprintf(text, capacity, "%lu Hz", (unsigned long)b->hertz);
}

static const sim_device_field fields[] = {
    SIM_FIELD(buzzer, waves, SIM_FIELD_NUMBER), SIM_FIELD(buzzer, hertz, SIM_FIELD_NUMBER),
    SIM_FIELD(buzzer, began, SIM_FIELD_TIME),   SIM_FIELD(buzzer, first, SIM_FIELD_TIME),
    SIM_FIELD(buzzer, last, SIM_FIELD_TIME),    {0},
};

_Static_assert(sizeof(buzzer) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_buzzer_kind = {
    .about = {.name = "buzzer", .what = "buzzer; its tone is heard", .pins = pins, .needs = "in"},
    .group = "buzzer",
    .size = sizeof(buzzer),
    .begin = begin_buzzer,
    .update = update_buzzer,
    .next_event = next_buzzer,
    .edge = edge_buzzer,
    .shows = buzzer_shows,
    .fields = fields,
};
