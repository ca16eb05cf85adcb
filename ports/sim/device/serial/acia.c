/* acia.c - the 6551 kind of serial interface. */
#include "acia.h"

#include <string.h>

#include "uart.h"

enum { CTS, DCD, DSR };
static const char *const pins[] = {"cts", "dcd", "dsr", "rts", "dtr", NULL};
enum { RTS = 3, DTR };

/* Bits of the command register. */
enum { ON = 0x01, NO_RECEIVER_IRQ = 0x02, TRANSMITTER = 0x0C, ECHO = 0x10, PARITY = 0x20 };

typedef struct acia {
    uint8_t status, command, control;
    uint8_t received;
    uint8_t lines; /* DCD and DSR in the status, when a change of theirs has interrupted */
    bool changed;  /* so it has, and the status has not been read since */
    sim_uart uart;
} acia;

static acia *acia_of(sim_device *d)
{
    return (acia *)(void *)d->state.bytes;
}

static const acia *acia_seen(const sim_device *d)
{
    return (const acia *)(const void *)d->state.bytes;
}

/* By the low four bits of the control register; 0 is a sixteenth of the 1.8432 MHz crystal. */
static const uint32_t rates[16] = {115200, 50,   75,   110,  135,  150,  300,  600,
                                   1200,   1800, 2400, 3600, 4800, 7200, 9600, 19200};

/* The format, as both registers say. With two stop bits and 5 data bits one and a half are meant,
 * with parity beside 8 data bits one. */
static void set_format(acia *a)
{
    static const uint8_t parities[4] = {SIM_PARITY_ODD, SIM_PARITY_EVEN, SIM_PARITY_MARK,
                                        SIM_PARITY_SPACE};
    sim_uart *u = &a->uart;
    u->rate = rates[a->control & 15];
    u->bits = (uint8_t)(8 - (a->control >> 5 & 3));
    u->parity = (a->command & PARITY) != 0 ? parities[a->command >> 6] : SIM_PARITY_NONE;
    u->halves = 2;
    if ((a->control & 0x80) == 0) return;
    if (u->bits == 5 && u->parity == SIM_PARITY_NONE)
        u->halves = 3;
    else if (u->bits < 8 || u->parity == SIM_PARITY_NONE)
        u->halves = 4;
}

static void reset_acia(acia *a)
{
    a->status &= (uint8_t)~SIM_ACIA_OVERRUN;
    a->command &= 0xE0;
    set_format(a);
}

static void begin_acia(sim_device *d, bool power)
{
    acia *a = acia_of(d);
    (void)power;
    memset(a, 0, sizeof *a);
    sim_uart_begin(&a->uart, 0);
    a->status = SIM_ACIA_EMPTY;
    reset_acia(a);
}

static bool receives(const acia *a)
{
    return (a->command & ON) != 0; /* DTR enables the receiver */
}

/* The clear-to-send input stops the transmitter; unwired it is held low, as the boards do. */
static bool transmits(const sim_device *d)
{
    return (acia_seen(d)->command & TRANSMITTER) != 0 && !sim_device_sees(d, CTS, false);
}

/* A character that comes while one waits is lost. In echo mode it goes out again. */
static void take_character(sim_device *d, uint64_t now, uint8_t byte, unsigned errors)
{
    acia *a = acia_of(d);
    if (!receives(a)) return;
    if ((a->command & (ECHO | TRANSMITTER)) == ECHO) sim_uart_put(&a->uart, d, now, byte);
    if ((a->status & SIM_ACIA_RECEIVED) != 0) {
        a->status = (uint8_t)(a->status | SIM_ACIA_OVERRUN); /* the new byte is lost */
        return;
    }
    unsigned wrong = (errors & SIM_UART_PARITY ? SIM_ACIA_PARITY : 0u) |
                     (errors & SIM_UART_FRAMING ? SIM_ACIA_FRAMING : 0u);
    a->received = byte;
    a->status = (uint8_t)((a->status & ~(unsigned)(SIM_ACIA_FRAMING | SIM_ACIA_PARITY)) |
                          SIM_ACIA_RECEIVED | wrong);
    if ((a->command & NO_RECEIVER_IRQ) == 0) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
}

static void update_acia(sim_device *d, uint64_t now)
{
    acia *a = acia_of(d);
    uint8_t byte;
    unsigned errors;
    while (sim_uart_take(&a->uart, d, now, &byte, &errors))
        take_character(d, now, byte, errors);
    while (transmits(d) && sim_uart_shifts(&a->uart, d, now)) {
        a->status = (uint8_t)(a->status | SIM_ACIA_EMPTY);
        if ((a->command & TRANSMITTER) == 0x04) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
    }
}

/* DCD and DSR read 0 when they are low, that is: when they are ready. */
static uint8_t lines_now(const sim_device *d)
{
    unsigned lines = 0;
    if (sim_device_sees(d, DCD, false)) lines |= SIM_ACIA_DCD;
    if (sim_device_sees(d, DSR, false)) lines |= SIM_ACIA_DSR;
    return (uint8_t)lines;
}

/* One of them has changed: an interrupt, and the status shows them as they are now until it is
 * read. */
static void lines_change(sim_device *d)
{
    acia *a = acia_of(d);
    if (!receives(a) || a->changed) return;
    a->lines = lines_now(d);
    a->changed = true;
    a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
}

static void edge_acia(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)now, (void)high;
    if (pin == DCD || pin == DSR) lines_change(d);
}

/* Reading it ends the interrupt; a change that came meanwhile begins the next. */
static uint8_t read_status(sim_device *d)
{
    acia *a = acia_of(d);
    bool again = a->changed && lines_now(d) != a->lines;
    uint8_t status = (uint8_t)(a->status | (a->changed ? a->lines : lines_now(d)));
    a->status &= (uint8_t)~SIM_ACIA_IRQ;
    a->changed = false;
    if (again) lines_change(d);
    return status;
}

static uint8_t read_acia(sim_device *d, uint64_t now, unsigned reg)
{
    acia *a = acia_of(d);
    update_acia(d, now);
    switch (reg) {
    case SIM_ACIA_DATA:
        a->status &=
            (uint8_t) ~(SIM_ACIA_RECEIVED | SIM_ACIA_OVERRUN | SIM_ACIA_FRAMING | SIM_ACIA_PARITY);
        return a->received;
    case SIM_ACIA_STATUS: return read_status(d);
    case SIM_ACIA_COMMAND: return a->command;
    default: return a->control;
    }
}

/* A byte that is written while another is sent waits; one that is written while one waits replaces
 * it, as on the real part. With the transmitter off nothing leaves the register. */
static void write_data(sim_device *d, uint64_t now, uint8_t value)
{
    acia *a = acia_of(d);
    if (!transmits(d)) {
        a->uart.waiting = value;
        a->uart.has_waiting = true;
    } else {
        sim_uart_put(&a->uart, d, now, value);
    }
    if (a->uart.has_waiting) a->status &= (uint8_t)~SIM_ACIA_EMPTY;
}

static void write_acia(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    acia *a = acia_of(d);
    update_acia(d, now);
    switch (reg) {
    case SIM_ACIA_DATA: write_data(d, now, value); return;
    case SIM_ACIA_STATUS: reset_acia(a); break;
    case SIM_ACIA_COMMAND: a->command = value; break;
    default: a->control = value; break;
    }
    set_format(a);
    sim_uart_break(&a->uart, d, now, (a->command & TRANSMITTER) == TRANSMITTER);
}

static uint64_t acia_next_event(const sim_device *d)
{
    return sim_uart_next(&acia_seen(d)->uart, d, transmits(d));
}

static bool acia_interrupt(const sim_device *d)
{
    return (acia_seen(d)->status & SIM_ACIA_IRQ) != 0;
}

static sim_level acia_drives(const sim_device *d, unsigned pin)
{
    const acia *a = acia_seen(d);
    if (pin == RTS) return (a->command & TRANSMITTER) != 0 ? SIM_LOW : SIM_HIGH;
    if (pin == DTR) return (a->command & ON) != 0 ? SIM_LOW : SIM_HIGH;
    return SIM_FLOATS;
}

static bool acia_loaded(sim_device *d)
{
    return sim_uart_sound(&acia_seen(d)->uart);
}

static const sim_device_field fields[] = {
    SIM_FIELD(acia, status, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, command, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, control, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, received, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, lines, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, changed, SIM_FIELD_FLAG),
    SIM_UART_FIELDS(acia, uart),
    {0},
};

_Static_assert(sizeof(acia) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_acia_kind = {
    .about = {.name = "acia-6551",
              .what = "serial interface",
              .registers = {"data", "status", "command", "control"},
              .pins = pins},
    .group = "acia",
    .on_link = true,
    .size = sizeof(acia),
    .begin = begin_acia,
    .read = read_acia,
    .write = write_acia,
    .next_event = acia_next_event,
    .update = update_acia,
    .interrupt = acia_interrupt,
    .drives = acia_drives,
    .edge = edge_acia,
    .loaded = acia_loaded,
    .fields = fields,
};
