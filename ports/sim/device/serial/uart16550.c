/* uart16550.c - the 8250 family of serial interfaces. */
#include "uart16550.h"

#include <string.h>

#include "uart.h"

enum { CTS, DSR, RI, DCD, RTS, DTR, OUT1, OUT2 };
static const char *const pins[] = {"cts", "dsr",  "ri",   "dcd",   "rts",
                                   "dtr", "out1", "out2", "clock", NULL};

enum { HAS_SCRATCH = 1, HAS_FIFO = 2 }; /* by variant */
enum { FIFO = 16, ERRORS = SIM_16550_PARITY | SIM_16550_FRAMING | SIM_16550_BREAK };
enum { LATCH = 0x80, LOOP = 0x10 }; /* divisor latch access; loopback */

/* Bits of the interrupt enable register. */
enum { ON_RECEIVED = 1, ON_EMPTY = 2, ON_ERROR = 4, ON_MODEM = 8 };

typedef struct uart16550 {
    uint8_t enable, format, modem, scratch, fifo; /* fifo: bit 0, it is on; bits 7, 6: trigger */
    uint16_t divisor;
    uint8_t errors;   /* overrun, and those of the oldest character, not read yet */
    uint8_t deltas;   /* of the modem lines */
    bool empty_due;   /* the interrupt for an empty holding register */
    uint8_t received; /* the last character that was read */
    uint8_t in_count, out_count;
    uint8_t in[FIFO], in_errors[FIFO], out[FIFO];
    uint8_t looped; /* the character that goes round in loopback, until its time is over */
    bool has_looped;
    uint64_t seen;  /* the moment it was last brought up to */
    uint64_t in_at; /* when the receiver's FIFO was last filled or read */
    sim_uart uart;
} uart16550;

static uart16550 *chip_of(sim_device *d)
{
    return (uart16550 *)(void *)d->state.bytes;
}

static const uart16550 *chip_seen(const sim_device *d)
{
    return (const uart16550 *)(const void *)d->state.bytes;
}

static bool has_fifo(const uart16550 *u)
{
    return (u->fifo & 1) != 0;
}

static void set_format(sim_device *d)
{
    static const uint8_t parities[8] = {SIM_PARITY_NONE, SIM_PARITY_ODD,  SIM_PARITY_NONE,
                                        SIM_PARITY_EVEN, SIM_PARITY_NONE, SIM_PARITY_MARK,
                                        SIM_PARITY_NONE, SIM_PARITY_SPACE};
    uart16550 *u = chip_of(d);
    u->uart.bits = (uint8_t)(5 + (u->format & 3));
    u->uart.parity = parities[u->format >> 3 & 7];
    u->uart.halves = (u->format & 4) == 0 ? 2 : u->uart.bits == 5 ? 3 : 4;
    u->uart.rate = u->divisor == 0 ? 0 : d->clock / 16 / u->divisor;
}

/* A reset leaves the divisor and the scratch register as they are. */
static void retime_16550(sim_device *d, uint64_t now)
{
    (void)now;
    set_format(d);
}

static void begin_16550(sim_device *d, bool power)
{
    uart16550 *u = chip_of(d), kept = *u;
    memset(u, 0, sizeof *u);
    sim_uart_begin(&u->uart, 0);
    if (!power) {
        u->divisor = kept.divisor;
        u->scratch = kept.scratch;
    }
    set_format(d);
}

/* ---- receiving ---- */

static void take_character(sim_device *d, uint64_t now, uint8_t byte, uint8_t errors)
{
    uart16550 *u = chip_of(d);
    unsigned room = has_fifo(u) ? FIFO : 1;
    u->in_at = now;
    if (u->in_count == room) {
        u->errors |= SIM_16550_OVERRUN;
        if (has_fifo(u)) return; /* the FIFO keeps what it has; the single register does not */
        u->in_count = 0;
    }
    u->in[u->in_count] = byte;
    u->in_errors[u->in_count] = errors;
    if (u->in_count++ == 0) u->errors |= errors;
}

static uint8_t read_data(uart16550 *u, uint64_t now)
{
    if (u->in_count == 0) return u->received;
    u->received = u->in[0];
    u->in_count--;
    memmove(u->in, u->in + 1, u->in_count);
    memmove(u->in_errors, u->in_errors + 1, u->in_count);
    if (u->in_count > 0) u->errors |= u->in_errors[0];
    u->in_at = now;
    return u->received;
}

static unsigned trigger(const uart16550 *u)
{
    static const uint8_t levels[4] = {1, 4, 8, 14};
    return has_fifo(u) ? levels[u->fifo >> 6] : 1;
}

/* Characters in the FIFO that nobody has read for the time of four. */
static uint64_t timeout_at(const uart16550 *u)
{
    bool waits = has_fifo(u) && u->in_count > 0 && u->in_count < trigger(u);
    return waits ? u->in_at + 4 * sim_uart_time(&u->uart) : UINT64_MAX;
}

/* ---- sending ---- */

/* Onto the line; or, looped back, round to the receiver, which takes as long. */
static void put_out(sim_device *d, uint64_t now, uint8_t byte)
{
    uart16550 *u = chip_of(d);
    if ((u->modem & LOOP) == 0) {
        sim_uart_put(&u->uart, d, now, byte);
        return;
    }
    u->uart.shift_free = now + sim_uart_time(&u->uart);
    u->looped = byte;
    u->has_looped = true;
}

static void write_data(sim_device *d, uint64_t now, uint8_t value)
{
    uart16550 *u = chip_of(d);
    u->empty_due = false;
    if (u->out_count > 0 || u->uart.shift_free > now) {
        if (u->out_count == (has_fifo(u) ? FIFO : 1)) u->out_count--; /* in place of the last */
        u->out[u->out_count++] = value;
        return;
    }
    put_out(d, now, value);
    u->empty_due = true; /* it has gone into the shift register at once */
}

static void update_16550(sim_device *d, uint64_t now)
{
    uart16550 *u = chip_of(d);
    uint8_t byte;
    unsigned errors;
    u->seen = now;
    while (sim_uart_take(&u->uart, d, now, &byte, &errors)) {
        unsigned e = (errors & SIM_UART_PARITY ? SIM_16550_PARITY : 0u) |
                     (errors & SIM_UART_FRAMING ? SIM_16550_FRAMING : 0u) |
                     (errors & SIM_UART_BREAK ? SIM_16550_BREAK : 0u);
        if ((u->modem & LOOP) == 0) take_character(d, now, byte, (uint8_t)e);
    }
    while ((u->out_count > 0 || u->has_looped) && now >= u->uart.shift_free && u->uart.rate != 0) {
        if (u->has_looped) take_character(d, u->uart.shift_free, u->looped, 0);
        u->has_looped = false;
        if (u->out_count == 0) break;
        byte = u->out[0];
        memmove(u->out, u->out + 1, --u->out_count);
        put_out(d, u->uart.shift_free, byte);
        if (u->out_count == 0) u->empty_due = true;
    }
}

/* ---- what it tells ---- */

static uint8_t line_status(const uart16550 *u, uint64_t now)
{
    unsigned s = u->errors;
    if (u->in_count > 0) s |= SIM_16550_RECEIVED;
    if (u->out_count == 0) s |= SIM_16550_EMPTY;
    if (u->out_count == 0 && now >= u->uart.shift_free) s |= SIM_16550_IDLE;
    for (unsigned i = 0; has_fifo(u) && i < u->in_count; i++)
        if (u->in_errors[i] != 0) s |= SIM_16550_FIFO_ERROR;
    return (uint8_t)s;
}

/* CTS, DSR, RI, DCD from bit 0 on: 1 is active, which is low at the pin. Unwired they are ready,
 * but for RI. */
static unsigned modem_lines(const sim_device *d)
{
    const uart16550 *u = chip_seen(d);
    if ((u->modem & LOOP) != 0)
        return (u->modem >> 1 & 1u) | (u->modem & 1u) << 1 | (u->modem & 4u) | (u->modem & 8u);
    unsigned lines = 0;
    for (unsigned pin = CTS; pin <= DCD; pin++)
        if (!sim_device_sees(d, pin, pin == RI)) lines |= 1u << pin;
    return lines;
}

/* The interrupt of the highest priority: the code of the identification register; 1: none. */
static uint8_t due(const uart16550 *u, uint64_t now)
{
    if ((u->enable & ON_ERROR) != 0 && (u->errors & (ERRORS | SIM_16550_OVERRUN)) != 0) return 6;
    if ((u->enable & ON_RECEIVED) != 0 && u->in_count >= trigger(u)) return 4;
    if ((u->enable & ON_RECEIVED) != 0 && now >= timeout_at(u)) return 12;
    if ((u->enable & ON_EMPTY) != 0 && u->empty_due) return 2;
    if ((u->enable & ON_MODEM) != 0 && u->deltas != 0) return 0;
    return 1;
}

static uint8_t identify(uart16550 *u, uint64_t now)
{
    uint8_t code = due(u, now);
    if (code == 2) u->empty_due = false;
    return has_fifo(u) ? code | 0xC0 : code;
}

static uint8_t read_16550(sim_device *d, uint64_t now, unsigned reg)
{
    uart16550 *u = chip_of(d);
    update_16550(d, now);
    bool latch = (u->format & LATCH) != 0;
    uint8_t value;
    switch (reg) {
    case SIM_16550_DATA: return latch ? (uint8_t)u->divisor : read_data(u, now);
    case SIM_16550_ENABLE: return latch ? (uint8_t)(u->divisor >> 8) : u->enable;
    case SIM_16550_IDENTIFY: return identify(u, now);
    case SIM_16550_FORMAT: return u->format;
    case SIM_16550_MODEM: return u->modem;
    case SIM_16550_STATUS:
        value = line_status(u, now);
        u->errors = 0;
        if (u->in_count > 0) u->in_errors[0] = 0;
        return value;
    case SIM_16550_MODEM_STATUS:
        value = (uint8_t)(modem_lines(d) << 4 | u->deltas);
        u->deltas = 0;
        return value;
    default: return d->kind->variant & HAS_SCRATCH ? u->scratch : 0xFF;
    }
}

/* Switching the FIFOs on or off empties them, as the two bits for it do. */
static void write_fifo(sim_device *d, uint8_t value)
{
    uart16550 *u = chip_of(d);
    if ((d->kind->variant & HAS_FIFO) == 0) return;
    bool turns = ((u->fifo ^ value) & 1) != 0;
    if (turns || (value & 2) != 0) u->in_count = 0;
    if (turns || (value & 4) != 0) u->out_count = 0;
    u->fifo = value & 0xC1;
}

static void write_enable(uart16550 *u, uint64_t now, uint8_t value)
{
    bool anew = (value & ~u->enable & ON_EMPTY) != 0;
    u->enable = value & 0x0F;
    if (anew && (line_status(u, now) & SIM_16550_EMPTY) != 0) u->empty_due = true;
}

/* Looped back, the outputs are the inputs, and their changes are told. */
static void write_modem(sim_device *d, uint8_t value)
{
    uart16550 *u = chip_of(d);
    unsigned before = modem_lines(d);
    bool looped = (u->modem & LOOP) != 0;
    u->modem = value & 0x1F;
    if (!looped || (value & LOOP) == 0) return;
    unsigned now = modem_lines(d);
    u->deltas |= (uint8_t)(((before ^ now) & ~(1u << RI)) | (before & ~now & 1u << RI));
}

static void write_16550(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    uart16550 *u = chip_of(d);
    update_16550(d, now);
    bool latch = (u->format & LATCH) != 0;
    if (latch && reg <= SIM_16550_ENABLE) {
        unsigned shift = reg * 8;
        u->divisor = (uint16_t)((u->divisor & ~(0xFFu << shift)) | (unsigned)value << shift);
        set_format(d);
        return;
    }
    switch (reg) {
    case SIM_16550_DATA: write_data(d, now, value); break;
    case SIM_16550_ENABLE: write_enable(u, now, value); break;
    case SIM_16550_IDENTIFY: write_fifo(d, value); break;
    case SIM_16550_FORMAT:
        u->format = value;
        set_format(d);
        sim_uart_break(&u->uart, d, now, (value & 0x40) != 0);
        break;
    case SIM_16550_MODEM: write_modem(d, value); break;
    case SIM_16550_SCRATCH: u->scratch = value; break;
    default: break; /* the status registers */
    }
}

static uint64_t next_16550(const sim_device *d)
{
    const uart16550 *u = chip_seen(d);
    uint64_t next = sim_uart_next(&u->uart, d, false), timeout = timeout_at(u);
    bool under_way = u->out_count > 0 || u->has_looped;
    if (under_way && u->uart.rate != 0 && u->uart.shift_free < next) next = u->uart.shift_free;
    return (u->enable & ON_RECEIVED) != 0 && timeout < next && !d->pulls ? timeout : next;
}

static bool interrupt_16550(const sim_device *d)
{
    return due(chip_seen(d), chip_seen(d)->seen) != 1;
}

static sim_level drives_16550(const sim_device *d, unsigned pin)
{
    static const uint8_t bits[] = {[DTR] = 1, [RTS] = 2, [OUT1] = 4, [OUT2] = 8};
    const uart16550 *u = chip_seen(d);
    if (pin < RTS || pin > OUT2) return SIM_FLOATS;
    return (u->modem & LOOP) == 0 && (u->modem & bits[pin]) != 0 ? SIM_LOW : SIM_HIGH;
}

/* What changed of the modem lines; of RI only its end counts. */
static void edge_16550(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    uart16550 *u = chip_of(d);
    (void)now;
    if ((u->modem & LOOP) != 0) return; /* the pins are not looked at */
    if (pin <= DCD && (pin != RI || high)) u->deltas |= (uint8_t)(1u << pin);
}

static bool loaded_16550(sim_device *d)
{
    const uart16550 *u = chip_seen(d);
    return u->in_count <= FIFO && u->out_count <= FIFO && sim_uart_sound(&u->uart);
}

static const sim_device_field fields[] = {
    SIM_FIELD(uart16550, enable, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, format, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, modem, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, scratch, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, fifo, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, divisor, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, errors, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, deltas, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, empty_due, SIM_FIELD_FLAG),
    SIM_FIELD(uart16550, received, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, in_count, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, out_count, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, in, SIM_FIELD_ROW),
    SIM_FIELD(uart16550, in_errors, SIM_FIELD_ROW),
    SIM_FIELD(uart16550, out, SIM_FIELD_ROW),
    SIM_FIELD(uart16550, looped, SIM_FIELD_NUMBER),
    SIM_FIELD(uart16550, has_looped, SIM_FIELD_FLAG),
    SIM_FIELD(uart16550, seen, SIM_FIELD_TIME),
    SIM_FIELD(uart16550, in_at, SIM_FIELD_TIME),
    SIM_UART_FIELDS(uart16550, uart),
    {0},
};

_Static_assert(sizeof(uart16550) <= SIM_DEVICE_STATE, "a device has room for it");

#define KIND(kind_name, kind_what, has, kind_group)                                                \
    {                                                                                              \
        .about = {.name = kind_name,                                                               \
                  .what = kind_what,                                                               \
                  .registers = {"data/divisor_low", "enable/divisor_high", "identify/fifo",        \
                                "format", "modem", "status", "modem_status", "scratch"},           \
                  .pins = pins,                                                                    \
                  .clocked = true,                                                                 \
                  .usual_clock = 1843200},                                                         \
        .group = kind_group, .on_link = true, .variant = has, .size = sizeof(uart16550),           \
        .begin = begin_16550, .read = read_16550, .write = write_16550, .next_event = next_16550,  \
        .update = update_16550, .interrupt = interrupt_16550, .drives = drives_16550,              \
        .edge = edge_16550, .retime = retime_16550, .loaded = loaded_16550, .fields = fields,      \
    }

const sim_device_kind sim_8250_kind = KIND("uart-8250", "serial interface", 0, "uart8250");
const sim_device_kind sim_16450_kind =
    KIND("uart-16450", "the same with a scratch register", HAS_SCRATCH, "uart16450");
const sim_device_kind sim_16550_kind =
    KIND("uart-16550", "the same with room for 16 characters each way", HAS_SCRATCH | HAS_FIFO,
         "uart16550");
