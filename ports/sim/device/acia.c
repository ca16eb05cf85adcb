/* acia.c - the 6551 kind of serial interface. */
#include "acia.h"

#include <string.h>

/* By the low four bits of the control register; 0 is a sixteenth of the 1.8432 MHz crystal. */
static const uint32_t rates[16] = {115200, 50,   75,   110,  135,  150,  300,  600,
                                   1200,   1800, 2400, 3600, 4800, 7200, 9600, 19200};

static void reset(sim_acia *a)
{
    a->status = SIM_ACIA_EMPTY;
    a->command = 0;
}

void sim_acia_begin(sim_acia *a, sim_wire *in, sim_wire *out)
{
    memset(a, 0, sizeof *a);
    a->in = in;
    a->out = out;
    reset(a);
}

static uint32_t rate(const sim_acia *a)
{
    return rates[a->control & 15];
}

/* At another rate than the line's the bits are sampled at the wrong places. */
static bool mismatched(const sim_acia *a)
{
    uint32_t mine = rate(a), line = a->in->baud, apart = mine > line ? mine - line : line - mine;
    return apart > line / 25;
}

static uint8_t garbled(uint8_t byte)
{
    unsigned shifted = (unsigned)byte << 3 | 0x84u;
    return (uint8_t)shifted;
}

static bool receives(const sim_acia *a)
{
    return (a->command & 0x01) != 0; /* DTR enables the receiver */
}

static bool transmits(const sim_acia *a)
{
    return (a->command & 0x0C) != 0;
}

static void take(sim_acia *a, uint8_t byte)
{
    if (!receives(a)) return;
    bool wrong = mismatched(a);
    if ((a->status & SIM_ACIA_RECEIVED) != 0) {
        a->status = (uint8_t)(a->status | SIM_ACIA_OVERRUN); /* the new byte is lost */
        return;
    }
    a->received = wrong ? garbled(byte) : byte;
    a->status = (uint8_t)((a->status & ~SIM_ACIA_FRAMING) | SIM_ACIA_RECEIVED |
                          (wrong ? SIM_ACIA_FRAMING : 0));
    if ((a->command & 0x02) == 0) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
}

static void shift_out(sim_acia *a, uint64_t at, uint8_t byte)
{
    if (mismatched(a)) byte = garbled(byte);
    if (transmits(a)) sim_wire_put(a->out, at, byte);
    a->shift_free = at + sim_wire_byte_time(rate(a));
}

void sim_acia_update(sim_acia *a, uint64_t now)
{
    uint8_t byte;
    while (sim_wire_take(a->in, now, &byte))
        take(a, byte);
    if (a->has_waiting && now >= a->shift_free) {
        a->has_waiting = false;
        shift_out(a, a->shift_free, a->waiting);
        a->status = (uint8_t)(a->status | SIM_ACIA_EMPTY);
        if ((a->command & 0x0C) == 0x04) a->status = (uint8_t)(a->status | SIM_ACIA_IRQ);
    }
}

uint8_t sim_acia_read(sim_acia *a, uint64_t now, unsigned reg)
{
    sim_acia_update(a, now);
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

void sim_acia_write(sim_acia *a, uint64_t now, unsigned reg, uint8_t value)
{
    sim_acia_update(a, now);
    switch (reg) {
    case SIM_ACIA_DATA:
        if (now >= a->shift_free) {
            shift_out(a, now, value);
        } else {
            /* Writing before the register is empty replaces what waits, as on the real part. */
            a->waiting = value;
            a->has_waiting = true;
            a->status &= (uint8_t)~SIM_ACIA_EMPTY;
        }
        break;
    case SIM_ACIA_STATUS: reset(a); break;
    case SIM_ACIA_COMMAND: a->command = value; break;
    default: a->control = value; break;
    }
}

bool sim_acia_irq(const sim_acia *a)
{
    return (a->status & SIM_ACIA_IRQ) != 0;
}
