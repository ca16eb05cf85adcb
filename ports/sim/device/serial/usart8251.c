/* usart8251.c - the 8251 kind of serial interface. */
#include "usart8251.h"

#include <string.h>

#include "uart.h"

enum { CTS, DSR, RTS, DTR, RXRDY, TXRDY, BRKDET };
static const char *const pins[] = {"cts",   "dsr",    "rts",   "dtr", "rxrdy",
                                   "txrdy", "brkdet", "clock", NULL};

/* Bits of the command. */
enum {
    SENDS = 0x01,
    DTR_ON = 0x02,
    RECEIVES = 0x04,
    BREAKS = 0x08,
    CLEARS = 0x10,
    RTS_ON = 0x20,
    RESETS = 0x40
};

typedef struct usart8251 {
    uint8_t mode, command;
    uint8_t wanted; /* the next control byte: 0 is a command, 1 the mode, 2 and 3 sync characters */
    uint8_t errors; /* as in the status */
    uint8_t received;
    bool has_received;
    uint64_t seen; /* the moment it was last brought up to */
    sim_uart uart;
} usart8251;

enum { COMMAND, MODE, ONE_SYNC, TWO_SYNC };

static usart8251 *chip_of(sim_device *d)
{
    return (usart8251 *)(void *)d->state.bytes;
}

static const usart8251 *chip_seen(const sim_device *d)
{
    return (const usart8251 *)(const void *)d->state.bytes;
}

/* In synchronous mode nothing is sent or received here. */
static void set_format(sim_device *d)
{
    static const uint8_t divisors[4] = {0, 1, 16, 64};
    usart8251 *u = chip_of(d);
    unsigned divisor = divisors[u->mode & 3];
    u->uart.bits = (uint8_t)(5 + (u->mode >> 2 & 3));
    u->uart.parity = (u->mode & 0x10) == 0   ? SIM_PARITY_NONE
                     : (u->mode & 0x20) == 0 ? SIM_PARITY_ODD
                                             : SIM_PARITY_EVEN;
    u->uart.halves = (u->mode >> 6) < 2 ? 2 : (uint8_t)(u->mode >> 6 == 2 ? 3 : 4);
    u->uart.rate = divisor == 0 ? 0 : d->clock / divisor;
}

static void retime_8251(sim_device *d, uint64_t now)
{
    (void)now;
    set_format(d);
}

static void reset_8251(usart8251 *u)
{
    u->command = u->errors = 0;
    u->wanted = MODE;
    u->has_received = u->uart.has_waiting = false;
}

static void begin_8251(sim_device *d, bool power)
{
    usart8251 *u = chip_of(d);
    if (power) {
        memset(u, 0, sizeof *u);
        sim_uart_begin(&u->uart, 0);
    }
    reset_8251(u);
}

static bool sends(const sim_device *d)
{
    return (chip_seen(d)->command & SENDS) != 0 && !sim_device_sees(d, CTS, false);
}

/* The new character takes the place of one that was not read. */
static void take_character(usart8251 *u, uint8_t byte, unsigned errors)
{
    if ((u->command & RECEIVES) == 0) return;
    if (u->has_received) u->errors |= SIM_8251_OVERRUN;
    if ((errors & SIM_UART_PARITY) != 0) u->errors |= SIM_8251_PARITY;
    if ((errors & SIM_UART_FRAMING) != 0) u->errors |= SIM_8251_FRAMING;
    u->received = byte;
    u->has_received = true;
}

static void update_8251(sim_device *d, uint64_t now)
{
    usart8251 *u = chip_of(d);
    uint8_t byte;
    unsigned errors;
    u->seen = now;
    while (sim_uart_take(&u->uart, d, now, &byte, &errors))
        take_character(u, byte, errors);
    if (sends(d)) sim_uart_shifts(&u->uart, d, now);
}

/* The line has been low for two characters, and still is. */
static bool detects_break(const usart8251 *u)
{
    return u->uart.held && u->seen >= u->uart.held_since + 2 * sim_uart_time(&u->uart);
}

/* Its ready bit does not ask for CTS and the enabled transmitter, as the pin does. */
static uint8_t status_of(const sim_device *d)
{
    const usart8251 *u = chip_seen(d);
    unsigned s = u->errors;
    if (!u->uart.has_waiting) s |= SIM_8251_READY;
    if (u->has_received) s |= SIM_8251_RECEIVED;
    if (!u->uart.has_waiting && u->seen >= u->uart.shift_free) s |= SIM_8251_EMPTY;
    if (!sim_device_sees(d, DSR, false)) s |= SIM_8251_DSR;
    if (detects_break(u)) s |= SIM_8251_BREAK;
    return (uint8_t)s;
}

static uint8_t read_8251(sim_device *d, uint64_t now, unsigned reg)
{
    usart8251 *u = chip_of(d);
    update_8251(d, now);
    if (reg == SIM_8251_STATUS) return status_of(d);
    u->has_received = false;
    return u->received;
}

static void write_command(sim_device *d, uint64_t now, uint8_t value)
{
    usart8251 *u = chip_of(d);
    if ((value & RESETS) != 0) {
        reset_8251(u);
        sim_uart_break(&u->uart, d, now, false);
        return;
    }
    u->command = value;
    if ((value & CLEARS) != 0) u->errors = 0;
    if ((value & RECEIVES) == 0) u->has_received = false;
    sim_uart_break(&u->uart, d, now, (value & BREAKS) != 0);
}

/* What a control byte is depends on those before it. */
static void write_control(sim_device *d, uint64_t now, uint8_t value)
{
    usart8251 *u = chip_of(d);
    switch (u->wanted) {
    case MODE:
        u->mode = value;
        set_format(d);
        u->wanted = (value & 3) != 0 ? COMMAND : (value & 0x80) != 0 ? ONE_SYNC : TWO_SYNC;
        break;
    case TWO_SYNC: u->wanted = ONE_SYNC; break;
    case ONE_SYNC: u->wanted = COMMAND; break;
    default: write_command(d, now, value); break;
    }
}

static void write_8251(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    usart8251 *u = chip_of(d);
    update_8251(d, now);
    if (reg == SIM_8251_STATUS) {
        write_control(d, now, value);
        if (sends(d)) sim_uart_shifts(&u->uart, d, now); /* what was written before TxEN */
    } else if (u->wanted == COMMAND && sends(d)) {
        sim_uart_put(&u->uart, d, now, value);
    } else if (u->wanted == COMMAND) {
        u->uart.waiting = value;
        u->uart.has_waiting = true;
    }
}

static uint64_t next_8251(const sim_device *d)
{
    const usart8251 *u = chip_seen(d);
    uint64_t next = sim_uart_next(&u->uart, d, sends(d));
    uint64_t detected = u->uart.held_since + 2 * sim_uart_time(&u->uart);
    return u->uart.held && detected > u->seen && detected < next ? detected : next;
}

/* The pin that is mostly wired to the CPU. */
static bool interrupt_8251(const sim_device *d)
{
    return chip_seen(d)->has_received;
}

static sim_level drives_8251(const sim_device *d, unsigned pin)
{
    const usart8251 *u = chip_seen(d);
    switch (pin) {
    case RTS: return (u->command & RTS_ON) != 0 ? SIM_LOW : SIM_HIGH;
    case DTR: return (u->command & DTR_ON) != 0 ? SIM_LOW : SIM_HIGH;
    case RXRDY: return u->has_received ? SIM_HIGH : SIM_LOW;
    case BRKDET: return detects_break(u) ? SIM_HIGH : SIM_LOW;
    case TXRDY: return sends(d) && !u->uart.has_waiting ? SIM_HIGH : SIM_LOW;
    default: return SIM_FLOATS;
    }
}

static bool loaded_8251(sim_device *d)
{
    return chip_seen(d)->wanted <= TWO_SYNC && sim_uart_sound(&chip_seen(d)->uart);
}

static const sim_device_field fields[] = {
    SIM_FIELD(usart8251, mode, SIM_FIELD_NUMBER),
    SIM_FIELD(usart8251, command, SIM_FIELD_NUMBER),
    SIM_FIELD(usart8251, wanted, SIM_FIELD_NUMBER),
    SIM_FIELD(usart8251, errors, SIM_FIELD_NUMBER),
    SIM_FIELD(usart8251, received, SIM_FIELD_NUMBER),
    SIM_FIELD(usart8251, has_received, SIM_FIELD_FLAG),
    SIM_FIELD(usart8251, seen, SIM_FIELD_TIME),
    SIM_UART_FIELDS(usart8251, uart),
    {0},
};

_Static_assert(sizeof(usart8251) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_8251_kind = {
    .about = {.name = "usart-8251",
              .what = "serial interface; its rate is `clock` divided by 1, 16 or 64",
              .registers = {"data", "status/control"},
              .pins = pins,
              .clocked = true},
    .group = "usart8251",
    .on_link = true,
    .size = sizeof(usart8251),
    .begin = begin_8251,
    .read = read_8251,
    .write = write_8251,
    .next_event = next_8251,
    .update = update_8251,
    .interrupt = interrupt_8251,
    .drives = drives_8251,
    .retime = retime_8251,
    .loaded = loaded_8251,
    .fields = fields,
};
