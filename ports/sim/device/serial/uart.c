/* uart.c - characters as bits. */
#include "uart.h"

#include "bootlace/assert.h"

void sim_uart_begin(sim_uart *u, uint32_t rate)
{
    bool alone = u->alone;
    *u = (sim_uart){.rate = rate, .bits = 8, .halves = 2, .alone = alone};
}

/* Half bits: start, data, parity, stop. */
static unsigned half_bits(const sim_uart *u)
{
    return 2u + 2u * u->bits + (u->parity != SIM_PARITY_NONE ? 2u : 0u) + u->halves;
}

uint64_t sim_uart_time(const sim_uart *u)
{
    if (u->rate == 0) return 1000000000u;
    return ((uint64_t)half_bits(u) * 500000000u + u->rate / 2) / u->rate;
}

/* At another rate than the line's the bits are sampled at the wrong places. */
static bool mismatched(const sim_uart *u, uint32_t line)
{
    uint32_t apart = u->rate > line ? u->rate - line : line - u->rate;
    return apart > line / 25;
}

static uint8_t garbled(uint8_t byte)
{
    unsigned shifted = (unsigned)byte << 3 | 0x84u;
    return (uint8_t)shifted;
}

static bool parity_bit(const sim_uart *u, uint8_t data)
{
    bool odd = false;
    for (unsigned i = 0; i < u->bits; i++)
        odd ^= (data >> i & 1) != 0;
    switch (u->parity) {
    case SIM_PARITY_ODD: return !odd;
    case SIM_PARITY_EVEN: return odd;
    case SIM_PARITY_MARK: return true;
    default: return false;
    }
}

/* The bits behind the start bit, from the lowest on: data, parity; then stop bits without end. */
static unsigned behind_start(const sim_uart *u, uint8_t byte)
{
    uint8_t data = (uint8_t)(byte & (0xFFu >> (8 - u->bits)));
    unsigned bits = data, count = u->bits;
    if (u->parity != SIM_PARITY_NONE) bits |= (unsigned)parity_bit(u, data) << count++;
    return bits | ~0u << count;
}

/* A character or a break that has arrived; what ends a break is noted on the way. */
static bool hear(sim_uart *u, sim_device *d, uint64_t now, uint16_t *heard)
{
    for (;;) {
        uint64_t arrived = sim_wire_next(d->in);
        if (!sim_wire_hear(d->in, now, heard)) return false;
        u->held = *heard == SIM_WIRE_BREAK;
        if (u->held) u->held_since = arrived - sim_wire_byte_time(d->in->baud);
        if (*heard != SIM_WIRE_HIGH) return true;
    }
}

bool sim_uart_take(sim_uart *u, sim_device *d, uint64_t now, uint8_t *byte, unsigned *errors)
{
    uint16_t heard;
    *errors = 0;
    if (d->in == NULL || u->alone) return false;
    if (!hear(u, d, now, &heard)) return false;
    if (heard == SIM_WIRE_BREAK) {
        *byte = 0;
        *errors = SIM_UART_FRAMING | SIM_UART_BREAK;
        if (u->parity != SIM_PARITY_NONE && parity_bit(u, 0)) *errors |= SIM_UART_PARITY;
        return true;
    }
    if (mismatched(u, d->in->baud)) {
        *byte = (uint8_t)(garbled((uint8_t)heard) & (0xFFu >> (8 - u->bits)));
        *errors = SIM_UART_FRAMING;
        return true;
    }
    unsigned bits = heard | ~0xFFu; /* behind the line's 8 data bits stands its stop bit */
    unsigned count = u->bits;
    *byte = (uint8_t)(bits & (0xFFu >> (8 - u->bits)));
    if (u->parity != SIM_PARITY_NONE && (bits >> count++ & 1) != parity_bit(u, *byte))
        *errors |= SIM_UART_PARITY;
    if ((bits >> count & 1) == 0) *errors |= SIM_UART_FRAMING;
    return true;
}

/* What the PC hears of it: 8 bits, and a stop bit where it expects one; without, no byte of it can
 * be trusted. */
static void shift_out(sim_uart *u, sim_device *d, uint64_t at, uint8_t byte)
{
    unsigned bits = behind_start(u, byte);
    uint8_t heard = (uint8_t)bits;
    u->shift_free = at + sim_uart_time(u);
    if (u->rate == 0 || u->breaks || d->out == NULL || u->alone) return;
    if (mismatched(u, d->out->baud) || (bits >> 8 & 1) == 0) heard = garbled(heard);
    sim_wire_put(d->out, at, heard);
}

void sim_uart_put(sim_uart *u, sim_device *d, uint64_t now, uint8_t byte)
{
    BL_ASSERT(u->bits >= 5 && u->bits <= 8);
    if (now >= u->shift_free) {
        shift_out(u, d, now, byte);
    } else {
        u->waiting = byte;
        u->has_waiting = true;
    }
}

bool sim_uart_shifts(sim_uart *u, sim_device *d, uint64_t now)
{
    if (!u->has_waiting || now < u->shift_free || u->rate == 0) return false;
    u->has_waiting = false;
    shift_out(u, d, u->shift_free, u->waiting);
    return true;
}

void sim_uart_break(sim_uart *u, sim_device *d, uint64_t now, bool on)
{
    if (on && !u->breaks && d->out != NULL && !u->alone) sim_wire_put(d->out, now, 0);
    u->breaks = on;
}

uint64_t sim_uart_next(const sim_uart *u, const sim_device *d, bool sends)
{
    uint64_t next = d->in != NULL && !u->alone ? sim_wire_next(d->in) : UINT64_MAX;
    bool begins = sends && u->has_waiting && u->rate != 0;
    return begins && u->shift_free < next ? u->shift_free : next;
}

bool sim_uart_sound(const sim_uart *u)
{
    return u->bits >= 5 && u->bits <= 8 && u->parity <= SIM_PARITY_SPACE && u->halves >= 2 &&
           u->halves <= 4;
}
