/* m68.h - what the 6800 and the 6809 do alike: words with the high byte first, flags, and what is
 * done to one or two bytes. For their own files, which name the CPU's structure first.
 *
 * While the CPU runs, most flags are kept as what they come from: n and v in bit 7, z as a byte
 * that is zero, half as bit 4, carry as 0 or 1. take_flags and give_flags stand at both ends of a
 * run.
 */
#ifndef BOOTLACE_SIM_M68_H
#define BOOTLACE_SIM_M68_H

#include "access.h"

/* ---- memory ---- */

SIM_INLINE uint16_t m68_rd16(const cpu *c, uint16_t a)
{
    return rd_two(c, a, 8, 0);
}

SIM_INLINE void m68_wr16(const cpu *c, uint16_t a, uint16_t v)
{
    wr_two(c, a, (uint8_t)(v >> 8), (uint8_t)v);
}

SIM_INLINE uint16_t m68_fetch16(cpu *c)
{
    return fetch_two(c, 8, 0);
}

/* ---- flags ---- */

SIM_INLINE void m68_take_flags(cpu *c, unsigned cc)
{
    c->cc = (uint8_t)cc;
    c->n = (uint8_t)(cc << 4);
    c->z = (uint8_t)(~cc & M68_Z);
    c->v = (uint8_t)(cc << 6);
    c->carry = cc & M68_C;
    c->half = (uint8_t)(cc >> 1);
}

SIM_INLINE uint8_t m68_give_flags(const cpu *c)
{
    unsigned kept = c->cc & ~(unsigned)(M68_H | M68_N | M68_Z | M68_V | M68_C);
    return (uint8_t)(kept | ((c->half << 1) & M68_H) | (c->n >> 4 & M68_N) |
                     (c->z == 0 ? M68_Z : 0) | (c->v >> 6 & M68_V) | c->carry);
}

SIM_INLINE void m68_nz(cpu *c, unsigned v)
{
    c->n = c->z = (uint8_t)v;
}

SIM_INLINE void nz16(cpu *c, unsigned v)
{
    c->n = (uint8_t)(v >> 8);
    c->z = (uint8_t)(v | v >> 8);
}

/* A branch's condition by its code. */
SIM_INLINE bool m68_condition(const cpu *c, unsigned op)
{
    bool met;
    switch (op >> 1 & 7) {
    case 0: met = true; break;
    case 1: met = c->carry == 0 && c->z != 0; break;
    case 2: met = c->carry == 0; break;
    case 3: met = c->z != 0; break;
    case 4: met = (c->v & 0x80) == 0; break;
    case 5: met = (c->n & 0x80) == 0; break;
    case 6: met = ((c->n ^ c->v) & 0x80) == 0; break;
    default: met = c->z != 0 && ((c->n ^ c->v) & 0x80) == 0; break;
    }
    return met != ((op & 1) != 0);
}

/* ---- two operands ---- */

SIM_INLINE uint8_t m68_add(cpu *c, unsigned a, unsigned v, unsigned carry)
{
    unsigned r = a + v + carry;
    c->half = (uint8_t)(a ^ v ^ r);
    c->v = (uint8_t)(~(a ^ v) & (a ^ r));
    c->carry = (uint8_t)(r >> 8);
    m68_nz(c, r);
    return (uint8_t)r;
}

SIM_INLINE uint8_t m68_subtract(cpu *c, unsigned a, unsigned v, unsigned borrow)
{
    unsigned r = a - v - borrow;
    c->v = (uint8_t)((a ^ v) & (a ^ r));
    c->carry = r >> 8 & 1;
    m68_nz(c, r);
    return (uint8_t)r;
}

SIM_INLINE uint8_t logic(cpu *c, unsigned r)
{
    c->v = 0;
    m68_nz(c, r);
    return (uint8_t)r;
}

/* An operation of the upper half of the opcodes on an accumulator, by its low digit. */
SIM_INLINE void m68_operate(cpu *c, unsigned op, uint8_t *acc, uint8_t v)
{
    switch (op) {
    case 0: *acc = m68_subtract(c, *acc, v, 0); break;
    case 1: m68_subtract(c, *acc, v, 0); break;
    case 2: *acc = m68_subtract(c, *acc, v, c->carry); break;
    case 4: *acc = logic(c, *acc & v); break;
    case 5: logic(c, *acc & v); break;
    case 6: *acc = logic(c, v); break;
    case 8: *acc = logic(c, *acc ^ v); break;
    case 9: *acc = m68_add(c, *acc, v, c->carry); break;
    case 10: *acc = logic(c, *acc | v); break;
    default: *acc = m68_add(c, *acc, v, 0); break;
    }
}

/* Decimal adjustment of A after an addition. */
SIM_INLINE void m68_decimal_adjust(cpu *c)
{
    unsigned fix = 0;
    if ((c->half & 0x10) != 0 || (c->a & 0x0F) > 9) fix = 0x06;
    if (c->carry != 0 || c->a > 0x99) fix |= 0x60, c->carry = 1;
    c->a = logic(c, c->a + fix);
}

/* ---- one operand ---- */

SIM_INLINE uint8_t shift_result(cpu *c, unsigned r, unsigned out)
{
    c->carry = (uint8_t)out;
    m68_nz(c, r);
    return (uint8_t)r;
}

/* To the left: overflow is N differing from carry. */
SIM_INLINE uint8_t left(cpu *c, uint8_t v, unsigned into)
{
    unsigned r = (unsigned)v << 1 | into;
    c->v = (uint8_t)(r ^ v);
    return shift_result(c, r & 0xFF, v >> 7);
}

/* To the right: the 6800 gives an overflow there too, the 6809 leaves it alone. */
SIM_INLINE uint8_t right(cpu *c, unsigned r, uint8_t v)
{
    if (M68_RIGHT_OVERFLOWS) c->v = (uint8_t)(r ^ (unsigned)v << 7);
    return shift_result(c, r, v & 1);
}

/* An operation of the middle of the table. */
SIM_INLINE uint8_t change(cpu *c, unsigned op, uint8_t v)
{
    switch (op) {
    case 0: return m68_subtract(c, 0, v, 0);
    case 3: c->carry = 1; return logic(c, (uint8_t)~v);
    case 4: return right(c, v >> 1, v);
    case 6: return right(c, v >> 1 | (unsigned)c->carry << 7, v);
    case 7: return right(c, v >> 1 | (v & 0x80u), v);
    case 8: return left(c, v, 0);
    case 9: return left(c, v, c->carry);
    case 10:
        c->v = v == 0x80 ? 0x80 : 0;
        m68_nz(c, --v);
        return v;
    case 12:
        c->v = v == 0x7F ? 0x80 : 0;
        m68_nz(c, ++v);
        return v;
    case 13:
        if (M68_TEST_CLEARS_CARRY) c->carry = 0;
        return logic(c, v);
    default: c->carry = 0; return logic(c, 0);
    }
}

/* ---- both ends of a run ---- */

SIM_INLINE void m68_begin(cpu *c)
{
    m68_take_flags(c, c->cc);
    jump(c, c->pc);
}

SIM_INLINE void m68_end(cpu *c)
{
    c->cc = m68_give_flags(c);
    c->pc = here(c);
}

#endif
