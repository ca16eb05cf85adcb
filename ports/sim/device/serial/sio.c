/* sio.c - the serial channel pair of the Z80 family. */
#include "sio.h"

#include <string.h>

#include "uart.h"

enum { CTS_A, DCD_A, RTS_A, DTR_A, CTS_B, DCD_B, RTS_B, DTR_B, CLOCK, PINS_EACH = 4 };
static const char *const pins[] = {"cts_a", "dcd_a", "rts_a", "dtr_a", "cts_b",
                                   "dcd_b", "rts_b", "dtr_b", "clock", NULL};

enum { ROOM = 3 };

typedef struct channel {
    uint8_t wr[8]; /* the write registers; 0: the pointer alone */
    uint8_t in[ROOM], in_errors[ROOM], in_count;
    uint8_t errors; /* parity and overrun stay until they are reset */
    bool receiver_due, transmitter_due, external_due; /* interrupts */
    bool first;      /* the next character interrupts, in that mode */
    uint8_t latched; /* DCD and CTS, when an external interrupt came */
    sim_uart uart;
} channel;

typedef struct sio {
    channel channels[2];
    uint8_t serviced; /* interrupts that the CPU is in, a bit each as causes() numbers them */
    uint64_t seen;
} sio;

static sio *sio_of(sim_device *d)
{
    return (sio *)(void *)d->state.bytes;
}

static const sio *sio_seen(const sim_device *d)
{
    return (const sio *)(const void *)d->state.bytes;
}

static void set_format(const sim_device *d, channel *c)
{
    static const uint8_t divisors[4] = {1, 16, 32, 64}, sizes[4] = {5, 7, 6, 8};
    c->uart.bits = sizes[c->wr[3] >> 6];
    c->uart.parity = (c->wr[4] & 1) == 0   ? SIM_PARITY_NONE
                     : (c->wr[4] & 2) != 0 ? SIM_PARITY_EVEN
                                           : SIM_PARITY_ODD;
    c->uart.halves = (c->wr[4] >> 2 & 3) < 2 ? 2 : (uint8_t)((c->wr[4] >> 2 & 3) + 1);
    c->uart.rate = (c->wr[4] & 0x0C) == 0 ? 0 : d->clock / divisors[c->wr[4] >> 6];
}

static void retime_sio(sim_device *d, uint64_t now)
{
    (void)now;
    set_format(d, &sio_of(d)->channels[0]);
    set_format(d, &sio_of(d)->channels[1]);
}

static void reset_channel(const sim_device *d, channel *c, bool alone)
{
    uint64_t busy = c->uart.shift_free;
    uint8_t vector = c->wr[2];
    memset(c, 0, sizeof *c);
    c->wr[2] = vector;
    c->uart.alone = alone;
    sim_uart_begin(&c->uart, 0);
    c->uart.shift_free = busy;
    set_format(d, c);
}

static void begin_sio(sim_device *d, bool power)
{
    sio *s = sio_of(d);
    if (power) memset(s, 0, sizeof *s);
    s->serviced = 0;
    reset_channel(d, &s->channels[0], false);
    reset_channel(d, &s->channels[1], true);
}

static unsigned first_pin(const sim_device *d, const channel *c)
{
    return c == &sio_seen(d)->channels[1] ? PINS_EACH : 0;
}

/* With auto enables CTS and DCD switch transmitter and receiver; unwired they are low: active. */
static bool sends(const sim_device *d, const channel *c)
{
    bool held = (c->wr[3] & 0x20) != 0 && sim_device_sees(d, first_pin(d, c) + CTS_A, false);
    return (c->wr[5] & 0x08) != 0 && !held;
}

static bool receives(const sim_device *d, const channel *c)
{
    bool held = (c->wr[3] & 0x20) != 0 && sim_device_sees(d, first_pin(d, c) + DCD_A, false);
    return (c->wr[3] & 0x01) != 0 && !held;
}

/* DCD, CTS and a break as register 0 shows them. While an external interrupt is due they stand
 * still there. */
static uint8_t lines_now(const sim_device *d, const channel *c)
{
    unsigned first = first_pin(d, c), lines = 0;
    if (!sim_device_sees(d, first + DCD_A, false)) lines |= SIM_SIO_DCD;
    if (!sim_device_sees(d, first + CTS_A, false)) lines |= SIM_SIO_CTS;
    if (c->uart.held) lines |= SIM_SIO_BREAK;
    return (uint8_t)lines;
}

/* One of them has changed. */
static void external_change(const sim_device *d, channel *c)
{
    if ((c->wr[1] & 1) == 0 || c->external_due) return;
    c->latched = lines_now(d, c);
    c->external_due = true;
}

static unsigned receiver_mode(const channel *c)
{
    return c->wr[1] >> 3 & 3;
}

static void take_character(channel *c, uint8_t byte, unsigned errors)
{
    unsigned e = (errors & SIM_UART_PARITY ? SIM_SIO_PARITY : 0u) |
                 (errors & SIM_UART_FRAMING ? SIM_SIO_FRAMING : 0u);
    if (c->in_count == ROOM) { /* the newest is written over, and told when it is read */
        c->in_count--;
        e |= SIM_SIO_OVERRUN;
    }
    c->in[c->in_count] = byte;
    c->in_errors[c->in_count++] = (uint8_t)e;
    if (receiver_mode(c) >= 2 || (receiver_mode(c) == 1 && c->first)) c->receiver_due = true;
    c->first = false;
}

static void update_channel(sim_device *d, channel *c, uint64_t now)
{
    uint8_t byte;
    unsigned errors;
    bool held = c->uart.held;
    while (sim_uart_take(&c->uart, d, now, &byte, &errors))
        if (receives(d, c)) take_character(c, byte, errors);
    if (held != c->uart.held) external_change(d, c);
    while (sends(d, c) && sim_uart_shifts(&c->uart, d, now))
        if ((c->wr[1] & 2) != 0) c->transmitter_due = true;
}

static void update_sio(sim_device *d, uint64_t now)
{
    sio *s = sio_of(d);
    s->seen = now;
    update_channel(d, &s->channels[0], now);
    update_channel(d, &s->channels[1], now);
}

static uint8_t read_data(channel *c)
{
    uint8_t byte = c->in[0];
    if (c->in_count == 0) return byte;
    c->errors = (uint8_t)((c->errors & ~SIM_SIO_FRAMING) | c->in_errors[0]);
    c->in_count--;
    memmove(c->in, c->in + 1, c->in_count);
    memmove(c->in_errors, c->in_errors + 1, c->in_count);
    c->receiver_due = c->in_count > 0 && receiver_mode(c) >= 2;
    return byte;
}

/* ---- interrupts, by priority: A receives, A sends, A external, then B ---- */

enum { RECEIVER, TRANSMITTER, EXTERNAL, CAUSES = 6 };

static unsigned causes(const sio *s)
{
    unsigned all = 0;
    for (unsigned i = 0; i < 2; i++) {
        const channel *c = &s->channels[i];
        unsigned its = (unsigned)c->receiver_due << RECEIVER |
                       (unsigned)c->transmitter_due << TRANSMITTER |
                       (unsigned)c->external_due << EXTERNAL;
        all |= its << (i * 3);
    }
    return all;
}

static unsigned first_cause(const sio *s)
{
    unsigned all = causes(s), i = 0;
    while (i < CAUSES && (all >> i & 1) == 0)
        i++;
    return i;
}

/* A cause does not interrupt one that stands before it. */
static bool interrupt_sio(const sim_device *d)
{
    const sio *s = sio_seen(d);
    unsigned first = first_cause(s);
    return first < CAUSES && (s->serviced & ((2u << first) - 1)) == 0;
}

/* Bits 3 to 1 of the vector tell the cause, if channel B's register 1 says so. */
static uint8_t vector_of(const sio *s, unsigned cause)
{
    static const uint8_t codes[CAUSES + 1] = {6, 4, 5, 2, 0, 1, 3};
    const channel *b = &s->channels[1];
    uint8_t vector = b->wr[2];
    if ((b->wr[1] & 4) == 0) return vector;
    unsigned code = codes[cause];
    const channel *c = &s->channels[cause / 3 % 2];
    bool special = cause < CAUSES && cause % 3 == RECEIVER && c->in_errors[0] != 0;
    if (special) code++;
    return (uint8_t)((vector & 0xF1) | code << 1);
}

static uint8_t acknowledge_sio(sim_device *d, uint64_t now)
{
    sio *s = sio_of(d);
    unsigned cause = first_cause(s);
    (void)now;
    s->serviced |= (uint8_t)(cause < CAUSES ? 1u << cause : 0);
    return vector_of(s, cause);
}

static bool in_service_sio(const sim_device *d)
{
    return sio_seen(d)->serviced != 0;
}

/* RETI ends the one that was taken last: the first of them. */
static void returned_sio(sim_device *d, uint64_t now)
{
    sio *s = sio_of(d);
    (void)now;
    s->serviced &= (uint8_t)(s->serviced - 1);
}

/* ---- registers ---- */

static uint8_t read_control(const sim_device *d, channel *c)
{
    const sio *s = sio_seen(d);
    unsigned reg = c->wr[0] & 7, value;
    c->wr[0] = 0;
    switch (reg) {
    case 0:
        value = c->external_due ? c->latched : lines_now(d, c);
        if (c->in_count > 0) value |= SIM_SIO_RECEIVED;
        if (c == &s->channels[0] && causes(s) != 0) value |= SIM_SIO_PENDING;
        if (!c->uart.has_waiting) value |= SIM_SIO_EMPTY;
        return (uint8_t)value;
    case 1:
        value = c->errors | (c->in_count > 0 ? c->in_errors[0] : 0u);
        if (!c->uart.has_waiting && s->seen >= c->uart.shift_free) value |= SIM_SIO_IDLE;
        return (uint8_t)value;
    case 2:
        if (c != &s->channels[1]) return 0xFF; /* only B has one */
        return vector_of(s, first_cause(s));
    default: return 0xFF;
    }
}

static uint8_t read_sio(sim_device *d, uint64_t now, unsigned reg)
{
    channel *c = &sio_of(d)->channels[reg & 1];
    update_sio(d, now);
    return reg < SIM_SIO_CONTROL_A ? read_data(c) : read_control(d, c);
}

/* Bits 5 to 3 of register 0. */
static void obey(sim_device *d, uint64_t now, channel *c, unsigned command)
{
    bool was_due;
    switch (command) {
    case 2: /* what has changed since is told at once */
        was_due = c->external_due;
        c->external_due = false;
        if (was_due && lines_now(d, c) != c->latched) external_change(d, c);
        break;
    case 3:
        sim_uart_break(&c->uart, d, now, false);
        reset_channel(d, c, c == &sio_of(d)->channels[1]);
        break;
    case 4: c->first = true; break;
    case 5: c->transmitter_due = false; break;
    case 6:
        c->errors = 0;
        memset(c->in_errors, 0, sizeof c->in_errors);
        break;
    case 7:
        if (c == &sio_of(d)->channels[0]) returned_sio(d, now);
        break;
    default: break;
    }
}

static void write_control(sim_device *d, uint64_t now, channel *c, uint8_t value)
{
    unsigned reg = c->wr[0] & 7;
    if (reg == 0) {
        unsigned command = value >> 3 & 7;
        obey(d, now, c, command);
        c->wr[0] = command == 3 ? 0 : value & 7;
        return;
    }
    c->wr[0] = 0;
    c->wr[reg] = value;
    if (reg == 1 && receiver_mode(c) == 1) c->first = true;
    if (reg == 1 && receiver_mode(c) == 0) c->receiver_due = false;
    if (reg == 1 && (value & 2) == 0) c->transmitter_due = false;
    set_format(d, c);
    if (reg == 5) sim_uart_break(&c->uart, d, now, (value & 0x10) != 0);
}

static void write_data(sim_device *d, uint64_t now, channel *c, uint8_t value)
{
    c->transmitter_due = false;
    if (sends(d, c)) {
        bool whole = now >= c->uart.shift_free;
        sim_uart_put(&c->uart, d, now, value);
        if (whole && (c->wr[1] & 2) != 0) c->transmitter_due = true;
    } else {
        c->uart.waiting = value;
        c->uart.has_waiting = true;
    }
}

static void write_sio(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    channel *c = &sio_of(d)->channels[reg & 1];
    update_sio(d, now);
    if (reg < SIM_SIO_CONTROL_A)
        write_data(d, now, c, value);
    else
        write_control(d, now, c, value);
}

static uint64_t next_sio(const sim_device *d)
{
    uint64_t first = UINT64_MAX;
    for (unsigned i = 0; i < 2; i++) {
        const channel *c = &sio_seen(d)->channels[i];
        uint64_t next = sim_uart_next(&c->uart, d, sends(d, c));
        if (next < first) first = next;
    }
    return first;
}

static sim_level drives_sio(const sim_device *d, unsigned pin)
{
    if (pin >= CLOCK) return SIM_FLOATS;
    const channel *c = &sio_seen(d)->channels[pin / PINS_EACH];
    if (pin % PINS_EACH == RTS_A) return (c->wr[5] & 0x02) != 0 ? SIM_LOW : SIM_HIGH;
    if (pin % PINS_EACH == DTR_A) return (c->wr[5] & 0x80) != 0 ? SIM_LOW : SIM_HIGH;
    return SIM_FLOATS;
}

static void edge_sio(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)now, (void)high;
    if (pin >= CLOCK) return;
    channel *c = &sio_of(d)->channels[pin / PINS_EACH];
    if (pin % PINS_EACH <= DCD_A) external_change(d, c);
}

static bool loaded_sio(sim_device *d)
{
    sio *s = sio_of(d);
    s->channels[1].uart.alone = true;
    return s->channels[0].in_count <= ROOM && s->channels[1].in_count <= ROOM &&
           sim_uart_sound(&s->channels[0].uart) && sim_uart_sound(&s->channels[1].uart);
}

#define CHANNEL_FIELD(number, letter, member, form)                                                \
    {                                                                                              \
#letter "_" #member, offsetof(sio, channels[number]) + offsetof(channel, member),          \
            sizeof(((channel *)0)->member), form                                                   \
    }
#define UART_FIELD(number, letter, member, form)                                                   \
    {                                                                                              \
#letter "_" #member,                                                                       \
            offsetof(sio, channels[number]) + offsetof(channel, uart) +                            \
                offsetof(sim_uart, member),                                                        \
            sizeof(((sim_uart *)0)->member), form                                                  \
    }
#define CHANNEL(number, letter)                                                                    \
    CHANNEL_FIELD(number, letter, wr, SIM_FIELD_ROW),                                              \
        CHANNEL_FIELD(number, letter, in, SIM_FIELD_ROW),                                          \
        CHANNEL_FIELD(number, letter, in_errors, SIM_FIELD_ROW),                                   \
        CHANNEL_FIELD(number, letter, in_count, SIM_FIELD_NUMBER),                                 \
        CHANNEL_FIELD(number, letter, errors, SIM_FIELD_NUMBER),                                   \
        CHANNEL_FIELD(number, letter, receiver_due, SIM_FIELD_FLAG),                               \
        CHANNEL_FIELD(number, letter, transmitter_due, SIM_FIELD_FLAG),                            \
        CHANNEL_FIELD(number, letter, external_due, SIM_FIELD_FLAG),                               \
        CHANNEL_FIELD(number, letter, first, SIM_FIELD_FLAG),                                      \
        CHANNEL_FIELD(number, letter, latched, SIM_FIELD_NUMBER),                                  \
        UART_FIELD(number, letter, rate, SIM_FIELD_NUMBER),                                        \
        UART_FIELD(number, letter, bits, SIM_FIELD_NUMBER),                                        \
        UART_FIELD(number, letter, parity, SIM_FIELD_NUMBER),                                      \
        UART_FIELD(number, letter, halves, SIM_FIELD_NUMBER),                                      \
        UART_FIELD(number, letter, waiting, SIM_FIELD_NUMBER),                                     \
        UART_FIELD(number, letter, has_waiting, SIM_FIELD_FLAG),                                   \
        UART_FIELD(number, letter, breaks, SIM_FIELD_FLAG),                                        \
        UART_FIELD(number, letter, held, SIM_FIELD_FLAG),                                          \
        UART_FIELD(number, letter, held_since, SIM_FIELD_TIME),                                    \
        UART_FIELD(number, letter, shift_free, SIM_FIELD_TIME)

static const sim_device_field fields[] = {
    CHANNEL(0, a),
    CHANNEL(1, b),
    SIM_FIELD(sio, serviced, SIM_FIELD_NUMBER),
    SIM_FIELD(sio, seen, SIM_FIELD_TIME),
    {0},
};

_Static_assert(sizeof(sio) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_sio_kind = {
    .about = {.name = "z80-sio",
              .what = "serial channel pair; the line is at channel A, its rate `clock` divided by "
                      "1, 16, 32 or 64",
              .registers = {"data/data_a", "data_b", "status/control/control_a", "control_b"},
              .pins = pins,
              .clocked = true},
    .group = "sio",
    .on_link = true,
    .size = sizeof(sio),
    .begin = begin_sio,
    .read = read_sio,
    .write = write_sio,
    .next_event = next_sio,
    .update = update_sio,
    .interrupt = interrupt_sio,
    .acknowledge = acknowledge_sio,
    .in_service = in_service_sio,
    .returned = returned_sio,
    .drives = drives_sio,
    .edge = edge_sio,
    .retime = retime_sio,
    .loaded = loaded_sio,
    .fields = fields,
};
