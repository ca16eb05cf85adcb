/* cassette.c - one register: read, bit 7 is what the comparator at the recorder's output gives;
 * written, bit 0 goes to its microphone input. The other bits read back what was written.
 */
#include "cassette.h"

#include "sim/deck.h"

typedef struct cassette {
    uint8_t written;
} cassette;

static cassette *cassette_of(sim_device *d)
{
    return (cassette *)(void *)d->state.bytes;
}

static void begin_cassette(sim_device *d, bool power)
{
    (void)power;
    cassette_of(d)->written = 0;
}

static uint8_t read_cassette(sim_device *d, uint64_t now, unsigned reg)
{
    (void)reg;
    uint8_t low = cassette_of(d)->written & 0x7F;
    return d->deck != NULL && sim_deck_hear(d->deck, now) ? low | 0x80 : low;
}

static void write_cassette(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    (void)reg;
    cassette_of(d)->written = value;
    if (d->deck != NULL) sim_deck_say(d->deck, now, (value & 1) != 0);
}

static const sim_device_field fields[] = {
    {"device", offsetof(cassette, written), 1, SIM_FIELD_NUMBER},
    {0},
};

_Static_assert(sizeof(cassette) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_cassette_kind = {
    .about = {.name = "cassette",
              .what = "input and output bit at a cassette recorder",
              .registers = {"data"}},
    .group = "cassettes",
    .numbered = true,
    .size = sizeof(cassette),
    .begin = begin_cassette,
    .read = read_cassette,
    .write = write_cassette,
    .fields = fields,
};
