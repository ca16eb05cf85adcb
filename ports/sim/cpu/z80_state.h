/* z80_state.h - memory, registers and flags of the simulated Z80, for its own files.
 *
 * index tells what HL means: 0 HL itself, 1 IX, 2 IY, after a prefix.
 */
#ifndef BOOTLACE_SIM_Z80_STATE_H
#define BOOTLACE_SIM_Z80_STATE_H

#include "cpuz80.h"

typedef sim_z80 cpu;
#define SIM_LENGTH(c, code, have) sim_z80_length(code, have)
#include "little.h"

#define A c->r[Z80_A]
#define F c->r[Z80_F]
#define B c->r[Z80_B]
#define C c->r[Z80_C]

/* An opcode is fetched with a refresh cycle; the first of an instruction, then those after
 * prefixes. */
SIM_INLINE uint8_t fetch_first_opcode(cpu *c)
{
    c->refreshes++;
    return fetch_first(c);
}

SIM_INLINE uint8_t fetch_opcode(cpu *c)
{
    c->refreshes++;
    return fetch(c);
}

/* The refresh register: its counter has seven bits, the eighth stays. */
SIM_INLINE uint8_t refresh(const cpu *c)
{
    return (uint8_t)((c->refresh & 0x80) | (c->refreshes & 0x7F));
}

/* ---- registers ---- */

SIM_INLINE uint16_t hl(const cpu *c, unsigned index)
{
    return index == 0 ? pair(c, Z80_H) : index == 1 ? c->ix : c->iy;
}

SIM_INLINE void set_hl(cpu *c, unsigned index, uint16_t v)
{
    if (index == 0)
        set_pair(c, Z80_H, v);
    else if (index == 1)
        c->ix = v;
    else
        c->iy = v;
}

/* BC, DE, HL (or an index register), SP */
SIM_INLINE uint16_t z80_word(const cpu *c, unsigned p, unsigned index)
{
    return p == 3 ? c->sp : p == 2 ? hl(c, index) : pair(c, p * 2);
}

SIM_INLINE void z80_set_word(cpu *c, unsigned p, unsigned index, uint16_t v)
{
    if (p == 3)
        c->sp = v;
    else if (p == 2)
        set_hl(c, index, v);
    else
        set_pair(c, p * 2, v);
}

SIM_INLINE uint8_t reg(const cpu *c, unsigned n, unsigned index)
{
    if (index == 0 || (n & 6) != 4) return c->r[n];
    return (uint8_t)(n == 4 ? hl(c, index) >> 8 : hl(c, index));
}

SIM_INLINE void set_reg(cpu *c, unsigned n, unsigned index, uint8_t v)
{
    if (index == 0 || (n & 6) != 4)
        c->r[n] = v;
    else if (n == 4)
        set_hl(c, index, (uint16_t)((hl(c, index) & 0x00FF) | v << 8));
    else
        set_hl(c, index, (uint16_t)((hl(c, index) & 0xFF00) | v));
}

/* The address that (HL) means; with an index register a distance follows, which takes time. */
SIM_INLINE uint16_t at_hl(cpu *c, unsigned index, unsigned time)
{
    if (index == 0) return pair(c, Z80_H);
    c->wz = (uint16_t)(hl(c, index) + (int8_t)fetch(c));
    SIM_SPEND(c, time);
    return c->wz;
}

/* ---- flags ---- */

SIM_INLINE void set_f(cpu *c, unsigned f)
{
    F = c->q = (uint8_t)f;
}

/* Sign, zero, parity, and the two bits that copy the result. */
#define SZP(v) SIGN_ZERO_PARITY(v) | ((v)&0x28),
static const uint8_t szp[256] = {SIM_EACH_BYTE(SZP)};

SIM_INLINE unsigned parity(unsigned v)
{
    return szp[v & 0xFF] & Z80_PV;
}

/* Without parity, whose place the overflow has then. */
SIM_INLINE unsigned sz(unsigned v)
{
    return szp[v & 0xFF] & ~(unsigned)Z80_PV;
}

SIM_INLINE void z80_add(cpu *c, unsigned v, unsigned carry)
{
    unsigned a = A, r = a + v + carry;
    set_f(c, sz(r) | ((a ^ v ^ r) & Z80_HALF) | ((~(a ^ v) & (a ^ r) & 0x80) >> 5) | (r >> 8));
    A = (uint8_t)r;
}

SIM_INLINE unsigned z80_subtract(cpu *c, unsigned v, unsigned carry)
{
    unsigned a = A, r = a - v - carry;
    set_f(c, sz(r) | ((a ^ v ^ r) & Z80_HALF) | (((a ^ v) & (a ^ r) & 0x80) >> 5) | Z80_N |
                 (r >> 8 & 1));
    return r & 0xFF;
}

SIM_INLINE void z80_compare(cpu *c, unsigned v)
{
    z80_subtract(c, v, 0);
    set_f(c, (F & ~(unsigned)(Z80_X3 | Z80_X5)) | (v & (Z80_X3 | Z80_X5)));
}

/* The eight operations on A; the undocumented flags come from the operand in a comparison, else
 * from the result. */
SIM_INLINE void z80_operate(cpu *c, unsigned y, unsigned v)
{
    switch (y) {
    case 0: z80_add(c, v, 0); break;
    case 1: z80_add(c, v, F & Z80_CARRY); break;
    case 2: A = (uint8_t)z80_subtract(c, v, 0); break;
    case 3: A = (uint8_t)z80_subtract(c, v, F & Z80_CARRY); break;
    case 4:
        A &= (uint8_t)v;
        set_f(c, szp[A] | Z80_HALF);
        break;
    case 5:
        A ^= (uint8_t)v;
        set_f(c, szp[A]);
        break;
    case 6:
        A |= (uint8_t)v;
        set_f(c, szp[A]);
        break;
    default: z80_compare(c, v); break;
    }
}

SIM_INLINE uint8_t increment(cpu *c, uint8_t v)
{
    uint8_t r = (uint8_t)(v + 1);
    set_f(c,
          (F & Z80_CARRY) | sz(r) | ((v & 0x0F) == 0x0F ? Z80_HALF : 0) | (v == 0x7F ? Z80_PV : 0));
    return r;
}

SIM_INLINE uint8_t decrement(cpu *c, uint8_t v)
{
    uint8_t r = (uint8_t)(v - 1);
    set_f(c, (F & Z80_CARRY) | Z80_N | sz(r) | ((v & 0x0F) == 0 ? Z80_HALF : 0) |
                 (v == 0x80 ? Z80_PV : 0));
    return r;
}

SIM_INLINE uint8_t z80_rotate(cpu *c, unsigned y, uint8_t v)
{
    unsigned r, out = y & 1 ? v & 1u : v >> 7;
    switch (y) {
    case 0: r = (unsigned)v << 1 | out; break;
    case 1: r = v >> 1 | out << 7; break;
    case 2: r = (unsigned)v << 1 | (F & 1u); break;
    case 3: r = v >> 1 | (F & 1u) << 7; break;
    case 4: r = (unsigned)v << 1; break;
    case 5: r = v >> 1 | (v & 0x80u); break;
    case 6: r = (unsigned)v << 1 | 1; break;
    default: r = v >> 1; break;
    }
    r &= 0xFF;
    set_f(c, szp[r] | out);
    return (uint8_t)r;
}

/* ---- ports ---- */

static inline uint8_t in(const cpu *c, uint16_t port)
{
    return c->bus->in != NULL ? c->bus->in(c->bus->context, port) : 0xFF;
}

static inline void out(const cpu *c, uint16_t port, uint8_t v)
{
    if (c->bus->out != NULL) c->bus->out(c->bus->context, port, v);
}

/* The direction of a block instruction, from bit 0 of its operation. */
SIM_INLINE int step_of(unsigned y)
{
    return (y & 1) != 0 ? -1 : 1;
}

/* z80_pages.c: the codes after CB, after DD CB and FD CB, and after ED. They return T-states. */
unsigned z80_bits(cpu *c);
unsigned z80_indexed_bits(cpu *c, unsigned index);
unsigned z80_extended(cpu *c);

#endif
