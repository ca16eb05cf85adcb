/* bits.c - characters that a program takes apart itself. */
#include "bits.h"

enum { TX, RX };
static const char *const pins[] = {"tx", "rx", NULL};

enum { DATA_BITS = 8, STOP = 9, OUT = 0x01, IN = 0x80 };

typedef struct bits {
    bool high;         /* what the board puts on the line */
    bool samples;      /* a character of its is under way */
    uint8_t count;     /* of samples taken: the start bit's, eight, the stop bit's */
    uint8_t character; /* so far */
    uint64_t began;    /* when its start bit did */
    uint64_t seen;     /* the moment it was last brought up to */
} bits;

static bits *bits_of(sim_device *d)
{
    return (bits *)(void *)d->state.bytes;
}

static const bits *bits_seen(const sim_device *d)
{
    return (const bits *)(const void *)d->state.bytes;
}

static void begin_bits(sim_device *d, bool power)
{
    (void)power;
    *bits_of(d) = (bits){.high = true};
}

/* So many half bits, nanoseconds. */
static uint64_t half_bits(uint32_t baud, unsigned count)
{
    return (uint64_t)count * 500000000u / baud;
}

static uint64_t sample_at(const sim_device *d)
{
    const bits *b = bits_seen(d);
    return b->began + half_bits(d->out->baud, 2u * b->count + 1);
}

/* A character without a stop bit cannot be trusted; a 0 is a break, and heard as one. */
static uint8_t as_heard(const bits *b)
{
    return b->high || b->character == 0 ? b->character : (uint8_t)~b->character;
}

/* The samples that are due, of the level as it has been since the last change. A start bit that is
 * over in its middle was none. */
static void take_samples(sim_device *d, uint64_t now)
{
    bits *b = bits_of(d);
    while (d->out != NULL && b->samples && now >= sample_at(d)) {
        if (b->count == 0 && b->high) {
            b->samples = false;
        } else if (b->count == STOP) {
            b->samples = false;
            sim_wire_put(d->out, b->began, as_heard(b));
        } else if (b->count > 0) {
            b->character = (uint8_t)(b->character >> 1 | (b->high ? 0x80 : 0));
        }
        b->count++;
    }
}

static void update_bits(sim_device *d, uint64_t now)
{
    uint8_t gone;
    bits_of(d)->seen = now;
    take_samples(d, now);
    while (d->in != NULL && sim_wire_take(d->in, now, &gone))
        continue;
}

static void set_level(sim_device *d, uint64_t now, bool high)
{
    bits *b = bits_of(d);
    take_samples(d, now);
    if (b->high && !high && !b->samples) {
        b->samples = true;
        b->count = 0;
        b->began = now;
    }
    b->high = high;
}

/* What the PC has on the line at a moment: the head of what is under way arrives when its stop bit
 * ends. */
static bool hears(const sim_device *d, uint64_t now)
{
    if (d->in == NULL || d->in->count == 0) return true;
    uint64_t end = d->in->at[d->in->head], length = half_bits(d->in->baud, 20);
    uint16_t what = d->in->what[d->in->head];
    if (what == SIM_WIRE_HIGH) return now >= end; /* the rest of a break */
    if (now >= end || end - now > length) return true;
    if (what == SIM_WIRE_BREAK) return false;
    uint64_t into = (length - (end - now)) * d->in->baud / 1000000000u;
    if (into == 0) return false;
    return into > DATA_BITS || (what >> (into - 1) & 1) != 0;
}

static uint8_t read_bits(sim_device *d, uint64_t now, unsigned reg)
{
    (void)reg;
    update_bits(d, now);
    return (uint8_t)(0x7E | (bits_seen(d)->high ? OUT : 0) | (hears(d, now) ? IN : 0));
}

static void write_bits(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    (void)reg;
    set_level(d, now, (value & OUT) != 0);
}

static void edge_bits(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    if (pin == TX) set_level(d, now, high);
}

/* Asked for in the middle of a run: what there was at the last instruction is not good enough. */
static sim_level drives_bits(const sim_device *d, unsigned pin)
{
    if (pin != RX) return SIM_FLOATS;
    return d->board == NULL || hears(d, sim_device_now(d)) ? SIM_HIGH : SIM_LOW;
}

/* When a bit that the PC sends begins, for those whose pins are wired to rx: a start bit may
 * interrupt. UINT64_MAX: not before the character is over. */
static uint64_t next_bit(const sim_device *d)
{
    if (d->in == NULL || d->in->count == 0 || d->nets[RX] == 0) return UINT64_MAX;
    uint64_t end = d->in->at[d->in->head], length = half_bits(d->in->baud, 20);
    for (unsigned k = 0; k <= STOP; k++) {
        uint64_t begins = end - length + half_bits(d->in->baud, 2 * k) + 1;
        if (begins > bits_seen(d)->seen && begins < end) return begins;
    }
    return UINT64_MAX;
}

static uint64_t next_bits(const sim_device *d)
{
    uint64_t next = d->in != NULL ? sim_wire_next(d->in) : UINT64_MAX, bit = next_bit(d);
    if (bit < next) next = bit;
    uint64_t sample = d->out != NULL && bits_seen(d)->samples ? sample_at(d) : UINT64_MAX;
    return sample < next ? sample : next;
}

static bool loaded_bits(sim_device *d)
{
    return bits_seen(d)->count <= STOP + 1;
}

static const sim_device_field fields[] = {
    SIM_FIELD(bits, high, SIM_FIELD_FLAG),
    SIM_FIELD(bits, samples, SIM_FIELD_FLAG),
    SIM_FIELD(bits, count, SIM_FIELD_NUMBER),
    SIM_FIELD(bits, character, SIM_FIELD_NUMBER),
    SIM_FIELD(bits, began, SIM_FIELD_TIME),
    SIM_FIELD(bits, seen, SIM_FIELD_TIME),
    {0},
};

_Static_assert(sizeof(bits) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_bits_kind = {
    .about = {.name = "serial-bits",
              .what = "a bit out and a bit in at the line, timed by the program",
              .registers = {"data"},
              .pins = pins,
              .needs = "tx rx",
              .at_pins = true},
    .group = "serial_bits",
    .on_link = true,
    .size = sizeof(bits),
    .begin = begin_bits,
    .read = read_bits,
    .write = write_bits,
    .next_event = next_bits,
    .update = update_bits,
    .drives = drives_bits,
    .edge = edge_bits,
    .loaded = loaded_bits,
    .fields = fields,
};
