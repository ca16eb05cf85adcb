/* via6522.c - ports, timers and the shift register of a 6522. */
#include "via6522.h"

#include <string.h>

#include "lines.h"

static const char *const pins[] = {"pa0", "pa1", "pa2", "pa3", "pa4", "pa5", "pa6",
                                   "pa7", "pb0", "pb1", "pb2", "pb3", "pb4", "pb5",
                                   "pb6", "pb7", "ca1", "ca2", "cb1", "cb2", NULL};
static const bl_device_port ports[] = {
    {SIM_VIA_PIN_PA, 8, SIM_VIA_PORT_A, SIM_VIA_DIRECTION_A, true},
    {SIM_VIA_PIN_PB, 8, SIM_VIA_PORT_B, SIM_VIA_DIRECTION_B, true},
    {0},
};

/* The control pin 2 of a port, by three bits of the peripheral control register. */
enum { IN_FALLS, IN_FALLS_ALONE, IN_RISES, IN_RISES_ALONE, HANDSHAKE, PULSE, LOW, HIGH };

enum { A, B };

/* What the shift register does, by bits 4 to 2 of the auxiliary register. */
enum { SHIFT_OFF, IN_T2, IN_CLOCK, IN_EXTERNAL, OUT_FREE, OUT_T2, OUT_CLOCK, OUT_EXTERNAL };

typedef struct via {
    uint8_t output[2], direction[2], latched[2];
    uint8_t auxiliary, peripheral, flags, enable, shift;
    bool held[2];      /* an input is latched until it is read */
    bool ready[2];     /* the handshake's output: true is high */
    uint64_t pulse[2]; /* cycles: when the pulse output goes high again; 0: it is */
    uint16_t t1_latch, t1_from, t2_from;
    uint8_t t2_latch;
    uint64_t t1_at,
        t2_at; /* cycles: when they were loaded; counting pulses, t2_from is the count */
    bool t1_runs, t2_runs;        /* their flag is still to come */
    bool pb7;                     /* the first timer's output */
    uint8_t shifted;              /* edges of its clock so far: two for each bit; 16: it rests */
    uint64_t shift_at;            /* cycles: the next edge */
    bool shift_clock, shift_data; /* what it drives at CB1 and CB2 */
} via;

static via *via_of(sim_device *d)
{
    return (via *)(void *)d->state.bytes;
}

static const via *via_seen(const sim_device *d)
{
    return (const via *)(const void *)d->state.bytes;
}

static unsigned control2(const via *v, unsigned port)
{
    return v->peripheral >> (port == A ? 1 : 5) & 7u;
}

static unsigned shift_mode(const via *v)
{
    return v->auxiliary >> 2 & 7u;
}

/* The timers, latches and the shift register are as they were. */
static void begin_via(sim_device *d, bool power)
{
    via *v = via_of(d), kept = *v;
    memset(v, 0, sizeof *v);
    v->ready[A] = v->ready[B] = v->pb7 = v->shift_clock = v->shift_data = true;
    v->shifted = 16;
    if (power) return;
    v->t1_latch = kept.t1_latch, v->t1_from = kept.t1_from, v->t1_at = kept.t1_at;
    v->t2_latch = kept.t2_latch, v->t2_from = kept.t2_from, v->t2_at = kept.t2_at;
    v->shift = kept.shift;
}

/* ---- timers ---- */

static bool t1_repeats(const via *v)
{
    return (v->auxiliary & 0x40) != 0;
}

static bool t2_counts_pulses(const via *v)
{
    return (v->auxiliary & 0x20) != 0;
}

/* Cycles from loading to the flag. */
static uint64_t time_of(uint16_t from)
{
    return (uint64_t)from + 2;
}

/* Up to a moment: what running out did, and how often, if it goes on by itself. */
static void run_t1(via *v, uint64_t cycle)
{
    uint64_t end = v->t1_at + time_of(v->t1_from);
    if (!v->t1_runs || cycle < end) return;
    v->flags |= SIM_VIA_T1;
    if (!t1_repeats(v)) {
        v->t1_runs = false;
        v->pb7 = true;
        return;
    }
    uint64_t period = time_of(v->t1_latch), more = (cycle - end) / period;
    v->pb7 ^= (more & 1) == 0;
    v->t1_at = end + more * period;
    v->t1_from = v->t1_latch;
}

static void run_t2(via *v, uint64_t cycle)
{
    if (t2_counts_pulses(v) || !v->t2_runs || cycle < v->t2_at + time_of(v->t2_from)) return;
    v->flags |= SIM_VIA_T2;
    v->t2_runs = false;
}

/* One cycle after loading it shows the number itself; behind 0 comes $FFFF. */
static uint16_t count_of(uint16_t from, uint64_t at, uint64_t cycle)
{
    return (uint16_t)(from + 1 - (cycle - at));
}

static uint16_t t2_count(const via *v, uint64_t cycle)
{
    return t2_counts_pulses(v) ? v->t2_from : count_of(v->t2_from, v->t2_at, cycle);
}

/* A pulse at PB6: counted where that is asked for. */
static void count_pulse(via *v)
{
    if (!t2_counts_pulses(v)) return;
    v->t2_from--;
    if (v->t2_from != 0xFFFF || !v->t2_runs) return;
    v->flags |= SIM_VIA_T2;
    v->t2_runs = false;
}

/* ---- the shift register ---- */

static bool shifts_out(const via *v)
{
    return shift_mode(v) >= OUT_FREE;
}

static bool own_clock(const via *v)
{
    unsigned mode = shift_mode(v);
    return mode != SHIFT_OFF && mode != IN_EXTERNAL && mode != OUT_EXTERNAL;
}

/* Half a bit, in cycles. */
static uint64_t half_bit(const via *v)
{
    unsigned mode = shift_mode(v);
    return mode == IN_CLOCK || mode == OUT_CLOCK ? 1 : (uint64_t)v->t2_latch + 2;
}

/* The falling edge brings a bit out, the rising edge takes one in. */
static void shift_edge(sim_device *d, bool high)
{
    via *v = via_of(d);
    v->shift_clock = high;
    if (!high && shifts_out(v)) {
        v->shift_data = (v->shift & 0x80) != 0;
        v->shift = (uint8_t)(v->shift << 1 | v->shift >> 7);
    } else if (high && !shifts_out(v)) {
        bool bit = sim_device_sees(d, SIM_VIA_PIN_CB2, true);
        v->shift = (uint8_t)(v->shift << 1 | bit);
    }
    v->shifted++;
    if (v->shifted < 16) return;
    if (shift_mode(v) == OUT_FREE || !own_clock(v)) v->shifted = 0; /* it goes on */
    if (shift_mode(v) != OUT_FREE) v->flags |= SIM_VIA_SHIFTED;
}

static bool shifting(const via *v)
{
    return own_clock(v) && v->shifted < 16;
}

/* One edge: those that wires carry to others must be seen one by one. */
static void run_shift(sim_device *d, uint64_t cycle)
{
    via *v = via_of(d);
    if (!shifting(v) || cycle < v->shift_at) return;
    if (cycle - v->shift_at > 1000) v->shift_at = cycle; /* nobody has looked for long */
    shift_edge(d, !v->shift_clock);
    v->shift_at += half_bit(v);
}

/* Reading or writing it begins eight bits. */
static void start_shift(via *v, uint64_t cycle)
{
    v->flags &= (uint8_t)~SIM_VIA_SHIFTED;
    v->shifted = 0;
    v->shift_clock = true;
    v->shift_at = cycle + half_bit(v) + 1;
}

static void update_via(sim_device *d, uint64_t now)
{
    via *v = via_of(d);
    uint64_t cycle = sim_device_cycles(d, now);
    run_t1(v, cycle);
    run_t2(v, cycle);
    run_shift(d, cycle);
    for (unsigned port = A; port <= B; port++)
        if (v->pulse[port] != 0 && cycle >= v->pulse[port]) v->pulse[port] = 0;
}

/* ---- ports and handshake ---- */

static bool is_alone(unsigned control)
{
    return control == IN_FALLS_ALONE || control == IN_RISES_ALONE;
}

/* Reading or writing a port answers its handshake; port B's does so only when it is written. */
static void touch(via *v, unsigned port, uint64_t cycle, bool answers)
{
    unsigned control = control2(v, port);
    uint8_t one = port == A ? SIM_VIA_CA1 : SIM_VIA_CB1,
            two = port == A ? SIM_VIA_CA2 : SIM_VIA_CB2;
    v->flags &= (uint8_t)~one;
    if (!is_alone(control)) v->flags &= (uint8_t)~two;
    v->held[port] = false;
    if (!answers) return;
    if (control == HANDSHAKE) v->ready[port] = false;
    if (control == PULSE) v->pulse[port] = cycle + 1;
}

static bool latches(const via *v, unsigned port)
{
    return (v->auxiliary >> port & 1) != 0;
}

/* PB7 is the first timer's when that has it. */
static uint8_t output_b(const via *v)
{
    if ((v->auxiliary & 0x80) == 0) return v->output[B];
    return (uint8_t)((v->output[B] & 0x7F) | (v->pb7 ? 0x80 : 0));
}

static uint8_t direction_b(const via *v)
{
    return (v->auxiliary & 0x80) != 0 ? v->direction[B] | 0x80 : v->direction[B];
}

/* Port A reads its pins; port B what it puts out, and of its inputs the pins. */
static uint8_t read_port(const sim_device *d, unsigned port)
{
    const via *v = via_seen(d);
    uint8_t seen = v->held[port] && latches(v, port)
                       ? v->latched[port]
                       : sim_lines_read(d, port == A ? SIM_VIA_PIN_PA : SIM_VIA_PIN_PB);
    if (port == A) {
        /* A pin without a wire is what the output does. */
        for (unsigned i = 0; i < 8; i++)
            if ((v->direction[A] >> i & 1) != 0 && d->nets[SIM_VIA_PIN_PA + i] == 0)
                seen = (uint8_t)((seen & ~(1u << i)) | (v->output[A] & 1u << i));
        return seen;
    }
    return (uint8_t)((seen & ~direction_b(v)) | (output_b(v) & direction_b(v)));
}

static uint8_t flags_of(const via *v)
{
    return (v->flags & v->enable & 0x7F) != 0 ? v->flags | SIM_VIA_IRQ : v->flags;
}

/* ---- registers ---- */

static uint8_t read_via(sim_device *d, uint64_t now, unsigned reg)
{
    via *v = via_of(d);
    update_via(d, now);
    uint64_t cycle = sim_device_cycles(d, now);
    uint8_t value;
    switch (reg) {
    case SIM_VIA_PORT_B:
        value = read_port(d, B);
        touch(v, B, cycle, false);
        return value;
    case SIM_VIA_PORT_A:
        value = read_port(d, A);
        touch(v, A, cycle, true);
        return value;
    case SIM_VIA_PORT_A_PLAIN: return read_port(d, A);
    case SIM_VIA_DIRECTION_B: return v->direction[B];
    case SIM_VIA_DIRECTION_A: return v->direction[A];
    case SIM_VIA_T1_LOW:
        v->flags &= (uint8_t)~SIM_VIA_T1;
        return (uint8_t)count_of(v->t1_from, v->t1_at, cycle);
    case SIM_VIA_T1_HIGH: return (uint8_t)(count_of(v->t1_from, v->t1_at, cycle) >> 8);
    case SIM_VIA_T1_LATCH_LOW: return (uint8_t)v->t1_latch;
    case SIM_VIA_T1_LATCH_HIGH: return (uint8_t)(v->t1_latch >> 8);
    case SIM_VIA_T2_LOW: v->flags &= (uint8_t)~SIM_VIA_T2; return (uint8_t)t2_count(v, cycle);
    case SIM_VIA_T2_HIGH: return (uint8_t)(t2_count(v, cycle) >> 8);
    case SIM_VIA_SHIFT:
        value = v->shift;
        start_shift(v, cycle);
        return value;
    case SIM_VIA_AUXILIARY: return v->auxiliary;
    case SIM_VIA_PERIPHERAL: return v->peripheral;
    case SIM_VIA_FLAGS: return flags_of(v);
    default: return v->enable | 0x80;
    }
}

static void write_timer(via *v, uint64_t cycle, unsigned reg, uint8_t value)
{
    switch (reg) {
    case SIM_VIA_T1_LOW:
    case SIM_VIA_T1_LATCH_LOW: v->t1_latch = (uint16_t)((v->t1_latch & 0xFF00) | value); break;
    case SIM_VIA_T1_LATCH_HIGH:
        v->t1_latch = (uint16_t)((v->t1_latch & 0x00FF) | value << 8);
        v->flags &= (uint8_t)~SIM_VIA_T1;
        break;
    case SIM_VIA_T1_HIGH:
        v->t1_latch = v->t1_from = (uint16_t)((v->t1_latch & 0x00FF) | value << 8);
        v->t1_at = cycle;
        v->t1_runs = true;
        v->pb7 = false;
        v->flags &= (uint8_t)~SIM_VIA_T1;
        break;
    case SIM_VIA_T2_LOW: v->t2_latch = value; break;
    default:
        v->t2_from = (uint16_t)(v->t2_latch | value << 8);
        v->t2_at = cycle;
        v->t2_runs = true;
        v->flags &= (uint8_t)~SIM_VIA_T2;
        break;
    }
}

static void write_auxiliary(via *v, uint64_t cycle, uint8_t value)
{
    unsigned before = shift_mode(v);
    v->t2_from = t2_count(v, cycle); /* it goes on from where it is, counting what is asked now */
    v->t2_at = cycle - 1;
    v->auxiliary = value;
    if (shift_mode(v) == before) return;
    v->shifted = shift_mode(v) == OUT_FREE || !own_clock(v) ? 0 : 16;
    v->shift_at = cycle + half_bit(v) + 1;
    v->shift_clock = true;
}

static void write_via(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    via *v = via_of(d);
    update_via(d, now);
    uint64_t cycle = sim_device_cycles(d, now);
    switch (reg) {
    case SIM_VIA_PORT_B:
        v->output[B] = value;
        touch(v, B, cycle, true);
        break;
    case SIM_VIA_PORT_A:
        v->output[A] = value;
        touch(v, A, cycle, true);
        break;
    case SIM_VIA_PORT_A_PLAIN: v->output[A] = value; break;
    case SIM_VIA_DIRECTION_B: v->direction[B] = value; break;
    case SIM_VIA_DIRECTION_A: v->direction[A] = value; break;
    case SIM_VIA_SHIFT:
        v->shift = value;
        start_shift(v, cycle);
        break;
    case SIM_VIA_AUXILIARY: write_auxiliary(v, cycle, value); break;
    case SIM_VIA_PERIPHERAL:
        v->peripheral = value;
        v->ready[A] = v->ready[B] = true;
        break;
    case SIM_VIA_FLAGS: v->flags &= (uint8_t)~value; break;
    case SIM_VIA_ENABLE:
        if ((value & 0x80) != 0)
            v->enable |= value & 0x7F;
        else
            v->enable &= (uint8_t)~value;
        break;
    default: write_timer(v, cycle, reg, value); break;
    }
}

/* ---- pins ---- */

static void earlier(uint64_t *first, uint64_t cycle)
{
    if (cycle < *first) *first = cycle;
}

static uint64_t next_via(const sim_device *d)
{
    const via *v = via_seen(d);
    uint64_t first = UINT64_MAX;
    if (v->t1_runs) earlier(&first, v->t1_at + time_of(v->t1_from));
    if (v->t2_runs && !t2_counts_pulses(v)) earlier(&first, v->t2_at + time_of(v->t2_from));
    if (shifting(v)) earlier(&first, v->shift_at);
    for (unsigned port = A; port <= B; port++)
        if (v->pulse[port] != 0) earlier(&first, v->pulse[port]);
    return first == UINT64_MAX ? first : sim_device_moment(d, first);
}

/* Reading port A may be told at CA2; reading the shift register begins a shift. */
static bool read_stirs_via(const sim_device *d)
{
    const via *v = via_seen(d);
    unsigned mode = control2(v, A);
    return mode == HANDSHAKE || mode == PULSE || shift_mode(v) != SHIFT_OFF;
}

/* PB7 as the first timer's square wave. */
static uint32_t frequency_via(const sim_device *d, unsigned pin)
{
    const via *v = via_seen(d);
    if (pin != 15 || (v->auxiliary & 0xC0) != 0xC0 || !v->t1_runs) return 0;
    return (uint32_t)(d->clock / (2 * time_of(v->t1_latch)));
}

static bool interrupt_via(const sim_device *d)
{
    return (flags_of(via_seen(d)) & SIM_VIA_IRQ) != 0;
}

static sim_level control_level(const via *v, unsigned port)
{
    switch (control2(v, port)) {
    case HANDSHAKE: return v->ready[port] ? SIM_HIGH : SIM_LOW;
    case PULSE: return v->pulse[port] == 0 ? SIM_HIGH : SIM_LOW;
    case LOW: return SIM_LOW;
    case HIGH: return SIM_HIGH;
    default: return SIM_FLOATS;
    }
}

static sim_level drives_via(const sim_device *d, unsigned pin)
{
    const via *v = via_seen(d);
    if (pin < SIM_VIA_PIN_PB) return sim_lines_drive(v->output[A], v->direction[A], pin);
    if (pin < SIM_VIA_PIN_CA1) return sim_lines_drive(output_b(v), direction_b(v), pin - 8);
    if (pin == SIM_VIA_PIN_CA2) return control_level(v, A);
    if (pin == SIM_VIA_PIN_CB1 && own_clock(v)) return v->shift_clock ? SIM_HIGH : SIM_LOW;
    if (pin != SIM_VIA_PIN_CB2) return SIM_FLOATS;
    if (shifts_out(v)) return v->shift_data ? SIM_HIGH : SIM_LOW;
    return shift_mode(v) == SHIFT_OFF ? control_level(v, B) : SIM_FLOATS;
}

/* The control pin 1 of a port: its active edge sets the flag, latches, and ends a handshake. */
static void edge1(sim_device *d, unsigned port, bool high)
{
    via *v = via_of(d);
    bool rises = (v->peripheral >> (port == A ? 0 : 4) & 1) != 0;
    if (high != rises) return;
    v->flags |= port == A ? SIM_VIA_CA1 : SIM_VIA_CB1;
    if (control2(v, port) == HANDSHAKE) v->ready[port] = true;
    if (!latches(v, port) || v->held[port]) return;
    v->latched[port] = sim_lines_read(d, port == A ? SIM_VIA_PIN_PA : SIM_VIA_PIN_PB);
    v->held[port] = true;
}

static void edge2(via *v, unsigned port, bool high)
{
    unsigned control = control2(v, port);
    if (control >= HANDSHAKE) return;
    if (high != (control >= IN_RISES)) return;
    v->flags |= port == A ? SIM_VIA_CA2 : SIM_VIA_CB2;
}

static void edge_via(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    via *v = via_of(d);
    (void)now;
    if (pin == SIM_VIA_PIN_CA1) edge1(d, A, high);
    if (pin == SIM_VIA_PIN_CA2) edge2(v, A, high);
    if (pin == SIM_VIA_PIN_CB1 && !own_clock(v)) {
        edge1(d, B, high);
        if (shift_mode(v) != SHIFT_OFF) shift_edge(d, high);
    }
    if (pin == SIM_VIA_PIN_CB2 && shift_mode(v) == SHIFT_OFF) edge2(v, B, high);
    if (pin == SIM_VIA_PIN_PB + 6 && !high) count_pulse(v);
}

/* A time in cycles that lies far ahead of all others would keep the board waiting for it. */
static bool loaded_via(sim_device *d)
{
    return via_seen(d)->shifted <= 16;
}

#define F(member, form) SIM_FIELD(via, member, form)
static const sim_device_field fields[] = {
    F(output, SIM_FIELD_ROW),
    F(direction, SIM_FIELD_ROW),
    F(latched, SIM_FIELD_ROW),
    F(auxiliary, SIM_FIELD_NUMBER),
    F(peripheral, SIM_FIELD_NUMBER),
    F(flags, SIM_FIELD_NUMBER),
    F(enable, SIM_FIELD_NUMBER),
    F(shift, SIM_FIELD_NUMBER),
    {"held_a", offsetof(via, held[A]), 1, SIM_FIELD_FLAG},
    {"held_b", offsetof(via, held[B]), 1, SIM_FIELD_FLAG},
    {"ready_a", offsetof(via, ready[A]), 1, SIM_FIELD_FLAG},
    {"ready_b", offsetof(via, ready[B]), 1, SIM_FIELD_FLAG},
    {"pulse_a", offsetof(via, pulse[A]), 8, SIM_FIELD_CYCLE},
    {"pulse_b", offsetof(via, pulse[B]), 8, SIM_FIELD_CYCLE},
    F(t1_latch, SIM_FIELD_NUMBER),
    F(t1_from, SIM_FIELD_NUMBER),
    F(t2_from, SIM_FIELD_NUMBER),
    F(t2_latch, SIM_FIELD_NUMBER),
    F(t1_at, SIM_FIELD_CYCLE),
    F(t2_at, SIM_FIELD_CYCLE),
    F(t1_runs, SIM_FIELD_FLAG),
    F(t2_runs, SIM_FIELD_FLAG),
    F(pb7, SIM_FIELD_FLAG),
    F(shifted, SIM_FIELD_NUMBER),
    F(shift_at, SIM_FIELD_CYCLE),
    F(shift_clock, SIM_FIELD_FLAG),
    F(shift_data, SIM_FIELD_FLAG),
    {0},
};

_Static_assert(sizeof(via) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_via_kind = {
    .about = {.name = "via-6522",
              .what = "two ports, two timers, shift register",
              .registers = {"port_b", "port_a", "direction_b", "direction_a", "t1_low", "t1_high",
                            "t1_latch_low", "t1_latch_high", "t2_low", "t2_high", "shift",
                            "auxiliary", "peripheral", "flags", "enable", "port_a_plain"},
              .pins = pins,
              .ports = ports},
    .group = "via",
    .size = sizeof(via),
    .begin = begin_via,
    .read = read_via,
    .write = write_via,
    .next_event = next_via,
    .update = update_via,
    .interrupt = interrupt_via,
    .drives = drives_via,
    .read_stirs = read_stirs_via,
    .frequency = frequency_via,
    .edge = edge_via,
    .loaded = loaded_via,
    .fields = fields,
};
