/* acia6850.c - the 6850 kind of serial interface. */
#include "acia6850.h"

#include <string.h>

#include "uart.h"

enum { CTS, DCD, RTS };
static const char *const pins[] = {"cts", "dcd", "rts", "clock", NULL};

typedef struct acia6850 {
    uint8_t control;
    uint8_t status; /* received, framing, overrun, parity, and DCD while it is latched */
    uint8_t received;
    bool resets;   /* master reset, which power-on leaves it in, too */
    bool lost;     /* a character behind the one that waits; told when that is read */
    bool dcd_read; /* the status was read while DCD was latched: reading the data ends it */
    sim_uart uart;
} acia6850;

static acia6850 *chip_of(sim_device *d)
{
    return (acia6850 *)(void *)d->state.bytes;
}

static const acia6850 *chip_seen(const sim_device *d)
{
    return (const acia6850 *)(const void *)d->state.bytes;
}

/* By bits 4 to 2 of control: 7 bits with parity, or 8 bits without or with. */
static void set_format(sim_device *d)
{
    static const struct {
        uint8_t bits, parity, halves;
    } formats[8] = {{7, SIM_PARITY_EVEN, 4}, {7, SIM_PARITY_ODD, 4},  {7, SIM_PARITY_EVEN, 2},
                    {7, SIM_PARITY_ODD, 2},  {8, SIM_PARITY_NONE, 4}, {8, SIM_PARITY_NONE, 2},
                    {8, SIM_PARITY_EVEN, 2}, {8, SIM_PARITY_ODD, 2}};
    static const uint8_t divisors[4] = {1, 16, 64, 64};
    acia6850 *a = chip_of(d);
    unsigned f = a->control >> 2 & 7;
    a->uart.bits = formats[f].bits;
    a->uart.parity = formats[f].parity;
    a->uart.halves = formats[f].halves;
    a->uart.rate = d->clock / divisors[a->control & 3];
}

static void retime_6850(sim_device *d, uint64_t now)
{
    (void)now;
    set_format(d);
}

static void begin_6850(sim_device *d, bool power)
{
    acia6850 *a = chip_of(d);
    if (!power) return; /* it has no reset pin */
    memset(a, 0, sizeof *a);
    sim_uart_begin(&a->uart, 0);
    a->resets = true;
}

static void take_character(acia6850 *a, uint8_t byte, unsigned errors)
{
    if (a->resets || (a->status & SIM_6850_DCD) != 0) return; /* without a carrier it is deaf */
    if ((a->status & SIM_6850_RECEIVED) != 0) {
        a->lost = true;
        return;
    }
    a->received = byte;
    a->status = (uint8_t)((a->status & ~(unsigned)(SIM_6850_FRAMING | SIM_6850_PARITY)) |
                          SIM_6850_RECEIVED | (errors & SIM_UART_FRAMING ? SIM_6850_FRAMING : 0u) |
                          (errors & SIM_UART_PARITY ? SIM_6850_PARITY : 0u));
}

/* CTS does not stop a character that is under way, but the next; unwired it is held low. */
static bool sends(const sim_device *d)
{
    return !chip_seen(d)->resets && !sim_device_sees(d, CTS, false);
}

static void update_6850(sim_device *d, uint64_t now)
{
    acia6850 *a = chip_of(d);
    uint8_t byte;
    unsigned errors;
    while (sim_uart_take(&a->uart, d, now, &byte, &errors))
        take_character(a, byte, errors);
    if (sends(d)) sim_uart_shifts(&a->uart, d, now);
}

static uint8_t status_of(const sim_device *d)
{
    const acia6850 *a = chip_seen(d);
    unsigned s = a->status;
    if (sim_device_sees(d, CTS, false)) s |= SIM_6850_CTS;
    if (!a->resets && !a->uart.has_waiting && (s & SIM_6850_CTS) == 0) s |= SIM_6850_EMPTY;
    bool receiver = (a->control & 0x80) != 0 &&
                    (s & (SIM_6850_RECEIVED | SIM_6850_OVERRUN | SIM_6850_DCD)) != 0;
    bool transmitter = (a->control & 0x60) == 0x20 && (s & SIM_6850_EMPTY) != 0;
    if (!a->resets && (receiver || transmitter)) s |= SIM_6850_IRQ;
    return (uint8_t)s;
}

/* Reading a character tells that one behind it was lost: overrun, and received once more. */
static uint8_t read_data(sim_device *d)
{
    acia6850 *a = chip_of(d);
    a->status &=
        (uint8_t) ~(SIM_6850_RECEIVED | SIM_6850_OVERRUN | SIM_6850_FRAMING | SIM_6850_PARITY);
    if (a->lost) a->status |= SIM_6850_RECEIVED | SIM_6850_OVERRUN;
    a->lost = false;
    if (a->dcd_read && !sim_device_sees(d, DCD, false)) a->status &= (uint8_t)~SIM_6850_DCD;
    a->dcd_read = false;
    return a->received;
}

static uint8_t read_6850(sim_device *d, uint64_t now, unsigned reg)
{
    acia6850 *a = chip_of(d);
    update_6850(d, now);
    if (reg == SIM_6850_DATA) return read_data(d);
    a->dcd_read = (a->status & SIM_6850_DCD) != 0;
    return status_of(d);
}

static void write_control(sim_device *d, uint64_t now, uint8_t value)
{
    acia6850 *a = chip_of(d);
    a->control = value;
    a->resets = (value & 3) == 3;
    if (a->resets) {
        a->status = 0;
        a->lost = a->dcd_read = a->uart.has_waiting = false;
        if (sim_device_sees(d, DCD, false)) a->status = SIM_6850_DCD;
    }
    set_format(d);
    sim_uart_break(&a->uart, d, now, !a->resets && (value & 0x60) == 0x60);
}

static void write_6850(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    acia6850 *a = chip_of(d);
    update_6850(d, now);
    if (reg == SIM_6850_STATUS) {
        write_control(d, now, value);
    } else if (sends(d)) {
        sim_uart_put(&a->uart, d, now, value);
    } else if (!a->resets) {
        a->uart.waiting = value;
        a->uart.has_waiting = true;
    }
}

static uint64_t next_6850(const sim_device *d)
{
    return sim_uart_next(&chip_seen(d)->uart, d, sends(d));
}

static bool interrupt_6850(const sim_device *d)
{
    return (status_of(d) & SIM_6850_IRQ) != 0;
}

static sim_level drives_6850(const sim_device *d, unsigned pin)
{
    if (pin != RTS) return SIM_FLOATS;
    return (chip_seen(d)->control & 0x60) == 0x40 ? SIM_HIGH : SIM_LOW;
}

/* A carrier that goes away is latched. */
static void edge_6850(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)now;
    if (pin == DCD && high) chip_of(d)->status |= SIM_6850_DCD;
}

static bool loaded_6850(sim_device *d)
{
    return sim_uart_sound(&chip_seen(d)->uart);
}

static const sim_device_field fields[] = {
    SIM_FIELD(acia6850, control, SIM_FIELD_NUMBER),
    SIM_FIELD(acia6850, status, SIM_FIELD_NUMBER),
    SIM_FIELD(acia6850, received, SIM_FIELD_NUMBER),
    SIM_FIELD(acia6850, resets, SIM_FIELD_FLAG),
    SIM_FIELD(acia6850, lost, SIM_FIELD_FLAG),
    SIM_FIELD(acia6850, dcd_read, SIM_FIELD_FLAG),
    SIM_UART_FIELDS(acia6850, uart),
    {0},
};

_Static_assert(sizeof(acia6850) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_6850_kind = {
    .about = {.name = "acia-6850",
              .what = "serial interface; its rate is `clock` divided by 1, 16 or 64",
              .registers = {"status/control", "data"},
              .pins = pins,
              .clocked = true},
    .group = "acia6850",
    .on_link = true,
    .size = sizeof(acia6850),
    .begin = begin_6850,
    .read = read_6850,
    .write = write_6850,
    .next_event = next_6850,
    .update = update_6850,
    .interrupt = interrupt_6850,
    .drives = drives_6850,
    .edge = edge_6850,
    .retime = retime_6850,
    .loaded = loaded_6850,
    .fields = fields,
};
