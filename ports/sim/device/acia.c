/* acia.c - the 6551 kind of serial interface. */
#include "acia.h"

#include <string.h>

typedef struct acia {
    uint8_t status, command, control;
    uint8_t received;
    uint8_t waiting; /* byte that waits for the shift register */
    bool has_waiting;
    uint64_t shift_free; /* when the shift register is free */
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

static void reset_acia(acia *a)
{
    a->status = SIM_ACIA_EMPTY;
    a->command = 0;
}

static void begin_acia(sim_device *d, bool power)
{
    (void)power;
    memset(acia_of(d), 0, sizeof(acia));
    reset_acia(acia_of(d));
}

static uint32_t acia_rate(const acia *a)
{
    return rates[a->control & 15];
}

/* At another rate than the line's the bits are sampled at the wrong places. */
static bool mismatched(const sim_device *d)
{
    uint32_t mine = acia_rate(acia_seen(d)), line = d->in->baud,
             apart = mine > line ? mine - line : line - mine;
    return apart > line / 25;
}

static uint8_t garbled(uint8_t byte)
{
    unsigned shifted = (unsigned)byte << 3 | 0x84u;
    return (uint8_t)shifted;
}

static bool receives(const acia *a)
{
    return (a->command & 0x01) != 0; /* DTR enables the receiver */
}

static bool transmits(const acia *a)
{
    return (a->command & 0x0C) != 0;
}

static void take_serial_byte(sim_device *d, uint8_t byte)
{
    acia *a = acia_of(d);
    if (!receives(a)) return;
    bool wrong = mismatched(d);
    if ((a->status & SIM_ACIA_RECEIVED) != 0) {
        a->status = (uint8_t)(a->status | SIM_ACIA_OVERRUN); /* the new byte is lost */
        return;
    }
    a->received = wrong ? garbled(byte) : byte;
    a->status = (uint8_t)((a->status & ~SIM_ACIA_FRAMING) | SIM_ACIA_RECEIVED |
                          (wrong ? SIM_ACIA_FRAMING : 0));
    if ((a->command & 0x02) == 0) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
}

static void shift_out(sim_device *d, uint64_t at, uint8_t byte)
{
    acia *a = acia_of(d);
    if (mismatched(d)) byte = garbled(byte);
    if (transmits(a)) sim_wire_put(d->out, at, byte);
    a->shift_free = at + sim_wire_byte_time(acia_rate(a));
}

static void update_acia(sim_device *d, uint64_t now)
{
    acia *a = acia_of(d);
    uint8_t byte;
    while (sim_wire_take(d->in, now, &byte))
        take_serial_byte(d, byte);
    if (a->has_waiting && now >= a->shift_free) {
        a->has_waiting = false;
        shift_out(d, a->shift_free, a->waiting);
        a->status = (uint8_t)(a->status | SIM_ACIA_EMPTY);
        if ((a->command & 0x0C) == 0x04) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
    }
}

static uint8_t read_acia(sim_device *d, uint64_t now, unsigned reg)
{
    acia *a = acia_of(d);
    update_acia(d, now);
    uint8_t status = a->status;
    switch (reg) {
    case SIM_ACIA_DATA:
        a->status &= (uint8_t) ~(SIM_ACIA_RECEIVED | SIM_ACIA_OVERRUN | SIM_ACIA_FRAMING);
        return a->received;
    case SIM_ACIA_STATUS: a->status &= (uint8_t)~SIM_ACIA_IRQ; return status;
    case SIM_ACIA_COMMAND: return a->command;
    default: return a->control;
    }
}

/* A byte that is written while another is sent waits; one that is written while one waits replaces
 * it, as on the real part. */
static void write_acia(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    acia *a = acia_of(d);
    update_acia(d, now);
    switch (reg) {
    case SIM_ACIA_DATA:
        if (now >= a->shift_free) {
            shift_out(d, now, value);
        } else {
            /* Writing before the register is empty replaces what waits, as on the real part. */
            a->waiting = value;
            a->has_waiting = true;
            a->status &= (uint8_t)~SIM_ACIA_EMPTY;
        }
        break;
    case SIM_ACIA_STATUS: reset_acia(a); break;
    case SIM_ACIA_COMMAND: a->command = value; break;
    default: a->control = value; break;
    }
}

static uint64_t acia_next_event(const sim_device *d)
{
    const acia *a = acia_seen(d);
    uint64_t arrival = sim_wire_next(d->in);
    return a->has_waiting && a->shift_free < arrival ? a->shift_free : arrival;
}

static bool acia_interrupt(const sim_device *d)
{
    return (acia_seen(d)->status & SIM_ACIA_IRQ) != 0;
}

static const sim_device_field fields[] = {
    SIM_FIELD(acia, status, SIM_FIELD_NUMBER),   SIM_FIELD(acia, command, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, control, SIM_FIELD_NUMBER),  SIM_FIELD(acia, received, SIM_FIELD_NUMBER),
    SIM_FIELD(acia, waiting, SIM_FIELD_NUMBER),  SIM_FIELD(acia, has_waiting, SIM_FIELD_FLAG),
    SIM_FIELD(acia, shift_free, SIM_FIELD_TIME), {0},
};

_Static_assert(sizeof(acia) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_acia_kind = {
    .about = {"acia-6551", "serial interface", {"data", "status", "command", "control"}},
    .group = "acia",
    .on_link = true,
    .size = sizeof(acia),
    .begin = begin_acia,
    .read = read_acia,
    .write = write_acia,
    .next_event = acia_next_event,
    .update = update_acia,
    .interrupt = acia_interrupt,
    .fields = fields,
};
