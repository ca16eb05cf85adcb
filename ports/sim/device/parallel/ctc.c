/* ctc.c - four channels that count down. */
#include "ctc.h"

#include <string.h>

static const char *const pins[] = {"trg0", "trg1", "trg2", "trg3", "zc0", "zc1", "zc2", NULL};

enum { CHANNELS = 4 };

/* Bits of a control word; bit 0 tells it from a vector. */
enum {
    RESET = 0x02,
    CONSTANT = 0x04,
    TRIGGERED = 0x08,
    RISES = 0x10,
    BY_256 = 0x20,
    COUNTER = 0x40,
    INTERRUPTS = 0x80
};

typedef struct channel {
    uint8_t control, constant, count; /* count: of a counter; of a timer when it stands */
    bool wants;                       /* the next byte is its constant */
    bool runs;
    bool armed;     /* a timer that waits for its trigger */
    bool due;       /* an interrupt */
    bool changes;   /* a constant was given while it runs: it counts from the next round on */
    uint8_t next;   /* that constant */
    uint64_t pulse; /* cycles: when its output's pulse ends; 0: it is low */
    uint64_t at;    /* cycles: when a timer began the round that it is in */
} channel;

typedef struct ctc {
    channel channels[CHANNELS];
    uint8_t vector, serviced; /* which the CPU is in, a bit each */
} ctc;

static ctc *ctc_of(sim_device *d)
{
    return (ctc *)(void *)d->state.bytes;
}

static const ctc *ctc_seen(const sim_device *d)
{
    return (const ctc *)(const void *)d->state.bytes;
}

static void begin_ctc(sim_device *d, bool power)
{
    (void)power;
    memset(ctc_of(d), 0, sizeof(ctc));
}

static unsigned rounds(const channel *c)
{
    return c->constant == 0 ? 256 : c->constant;
}

static uint64_t prescale(const channel *c)
{
    return (c->control & BY_256) != 0 ? 256 : 16;
}

static bool is_timer(const channel *c)
{
    return (c->control & COUNTER) == 0;
}

/* How many cycles a round takes of a channel that runs by itself: a timer, or a counter that counts
 * a clock. 0: it counts edges. */
static uint64_t period_of(const sim_device *d, unsigned index)
{
    const channel *c = &ctc_seen(d)->channels[index];
    if (is_timer(c)) return prescale(c) * rounds(c);
    uint32_t counted = sim_device_counts(d, index);
    if (counted == 0) return 0;
    uint64_t period = (uint64_t)rounds(c) * d->clock / counted;
    return period > 0 ? period : 1;
}

static void zero(channel *c, uint64_t cycle)
{
    if ((c->control & INTERRUPTS) != 0) c->due = true;
    c->pulse = cycle + 1;
}

/* Rounds that are over. */
static void update_ctc(sim_device *d, uint64_t now)
{
    uint64_t cycle = sim_device_cycles(d, now);
    for (unsigned i = 0; i < CHANNELS; i++) {
        channel *c = &ctc_of(d)->channels[i];
        if (cycle >= c->pulse) c->pulse = 0;
        uint64_t period = period_of(d, i);
        if (!c->runs || period == 0 || cycle < c->at + period) continue;
        if (c->changes) {
            c->at += period;
            c->constant = c->next;
            c->changes = false;
            period = period_of(d, i);
        }
        c->at += (cycle - c->at) / period * period;
        zero(c, cycle);
    }
}

static uint8_t read_ctc(sim_device *d, uint64_t now, unsigned reg)
{
    update_ctc(d, now);
    const channel *c = &ctc_of(d)->channels[reg];
    uint64_t period = period_of(d, reg);
    if (!c->runs || period == 0) return c->count;
    return (uint8_t)(rounds(c) - (sim_device_cycles(d, now) - c->at) * rounds(c) / period);
}

static void start(channel *c, uint64_t cycle)
{
    c->runs = true;
    c->armed = c->changes = false;
    c->count = c->constant;
    c->at = cycle;
}

/* A constant while it runs counts from the next round on. */
static void take_constant(channel *c, uint64_t cycle, uint8_t value)
{
    c->wants = false;
    if (c->runs) {
        c->next = value;
        c->changes = true;
        return;
    }
    c->constant = value;
    if (is_timer(c) && (c->control & TRIGGERED) != 0 && !c->runs)
        c->armed = true;
    else
        start(c, cycle);
}

static void write_ctc(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    channel *c = &ctc_of(d)->channels[reg];
    update_ctc(d, now);
    if (c->wants) {
        take_constant(c, sim_device_cycles(d, now), value);
    } else if ((value & 1) == 0) {
        if (reg == 0) ctc_of(d)->vector = value & 0xF8;
    } else {
        c->control = value;
        c->wants = (value & CONSTANT) != 0;
        if ((value & RESET) != 0) c->runs = c->armed = c->changes = false;
        if ((value & INTERRUPTS) == 0) c->due = false;
    }
}

static uint64_t next_ctc(const sim_device *d)
{
    uint64_t first = UINT64_MAX;
    for (unsigned i = 0; i < CHANNELS; i++) {
        const channel *c = &ctc_seen(d)->channels[i];
        bool wired = i < 3 && d->nets[SIM_CTC_PIN_ZC + i] != 0 &&
                     !sim_device_is_clock(d, SIM_CTC_PIN_ZC + i);
        if (wired && c->pulse != 0 && c->pulse < first) first = c->pulse;
        uint64_t period = period_of(d, i);
        if (!c->runs || period == 0) continue;
        bool seen = (c->control & INTERRUPTS) != 0 || wired;
        uint64_t end = c->at + period;
        if (seen && end < first) first = end;
    }
    return first == UINT64_MAX ? first : sim_device_moment(d, first);
}

/* ---- interrupts: channel 0 is served first ---- */

static unsigned first_due(const ctc *c)
{
    unsigned i = 0;
    while (i < CHANNELS && !c->channels[i].due)
        i++;
    return i;
}

static bool interrupt_ctc(const sim_device *d)
{
    unsigned i = first_due(ctc_seen(d));
    return i < CHANNELS && (ctc_seen(d)->serviced & ((2u << i) - 1)) == 0;
}

static uint8_t acknowledge_ctc(sim_device *d, uint64_t now)
{
    ctc *c = ctc_of(d);
    unsigned i = first_due(c);
    (void)now;
    if (i == CHANNELS) return c->vector;
    c->channels[i].due = false;
    c->serviced |= (uint8_t)(1u << i);
    return (uint8_t)(c->vector | i << 1);
}

static bool in_service_ctc(const sim_device *d)
{
    return ctc_seen(d)->serviced != 0;
}

static void returned_ctc(sim_device *d, uint64_t now)
{
    ctc *c = ctc_of(d);
    (void)now;
    c->serviced &= (uint8_t)(c->serviced - 1);
}

/* ---- pins ---- */

static sim_level drives_ctc(const sim_device *d, unsigned pin)
{
    if (pin < SIM_CTC_PIN_ZC) return SIM_FLOATS;
    return ctc_seen(d)->channels[pin - SIM_CTC_PIN_ZC].pulse != 0 ? SIM_HIGH : SIM_LOW;
}

static uint32_t frequency_ctc(const sim_device *d, unsigned pin)
{
    if (pin < SIM_CTC_PIN_ZC) return 0;
    unsigned index = pin - SIM_CTC_PIN_ZC;
    const channel *c = &ctc_seen(d)->channels[index];
    if (!c->runs) return 0;
    if (is_timer(c)) return (uint32_t)(d->clock / (prescale(c) * rounds(c)));
    return sim_device_counts(d, index) / rounds(c);
}

static void edge_ctc(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    channel *c = &ctc_of(d)->channels[pin % CHANNELS];
    if (pin >= CHANNELS || high != ((c->control & RISES) != 0)) return;
    if (is_timer(c)) {
        if (c->armed) start(c, sim_device_cycles(d, now));
        return;
    }
    if (!c->runs) return;
    c->count--;
    if (c->count != 0) return;
    if (c->changes) c->constant = c->next;
    c->changes = false;
    c->count = c->constant;
    zero(c, sim_device_cycles(d, now));
}

#define CHANNEL(n)                                                                                 \
    {"control" #n, offsetof(ctc, channels[n].control), 1, SIM_FIELD_NUMBER},                       \
        {"constant" #n, offsetof(ctc, channels[n].constant), 1, SIM_FIELD_NUMBER},                 \
        {"count" #n, offsetof(ctc, channels[n].count), 1, SIM_FIELD_NUMBER},                       \
        {"wants" #n, offsetof(ctc, channels[n].wants), 1, SIM_FIELD_FLAG},                         \
        {"runs" #n, offsetof(ctc, channels[n].runs), 1, SIM_FIELD_FLAG},                           \
        {"changes" #n, offsetof(ctc, channels[n].changes), 1, SIM_FIELD_FLAG},                     \
        {"next" #n, offsetof(ctc, channels[n].next), 1, SIM_FIELD_NUMBER},                         \
        {"armed" #n, offsetof(ctc, channels[n].armed), 1, SIM_FIELD_FLAG},                         \
        {"due" #n, offsetof(ctc, channels[n].due), 1, SIM_FIELD_FLAG},                             \
        {"pulse" #n, offsetof(ctc, channels[n].pulse), 8, SIM_FIELD_CYCLE},                        \
    {                                                                                              \
        "at" #n, offsetof(ctc, channels[n].at), 8, SIM_FIELD_CYCLE                                 \
    }
static const sim_device_field fields[] = {CHANNEL(0),
                                          CHANNEL(1),
                                          CHANNEL(2),
                                          CHANNEL(3),
                                          SIM_FIELD(ctc, vector, SIM_FIELD_NUMBER),
                                          SIM_FIELD(ctc, serviced, SIM_FIELD_NUMBER),
                                          {0}};

_Static_assert(sizeof(ctc) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_ctc_kind = {
    .about = {.name = "z80-ctc",
              .what = "four counters or timers",
              .registers = {"channel0", "channel1", "channel2", "channel3"},
              .pins = pins},
    .group = "ctc",
    .size = sizeof(ctc),
    .begin = begin_ctc,
    .read = read_ctc,
    .write = write_ctc,
    .next_event = next_ctc,
    .update = update_ctc,
    .interrupt = interrupt_ctc,
    .acknowledge = acknowledge_ctc,
    .in_service = in_service_ctc,
    .returned = returned_ctc,
    .drives = drives_ctc,
    .edge = edge_ctc,
    .frequency = frequency_ctc,
    .fields = fields,
};
