/* little.h - words with the low byte first and a stack of words, as the 8080, the 8085 and the Z80
 * have them. For their own files, which name the CPU's structure first.
 */
#ifndef BOOTLACE_SIM_LITTLE_H
#define BOOTLACE_SIM_LITTLE_H

#include "access.h"

SIM_INLINE uint16_t little_rd16(const cpu *c, uint16_t a)
{
    return rd_two(c, a, 0, 8);
}

SIM_INLINE void little_wr16(const cpu *c, uint16_t a, uint16_t v)
{
    wr_two(c, a, (uint8_t)v, (uint8_t)(v >> 8));
}

SIM_INLINE uint16_t little_fetch16(cpu *c)
{
    return fetch_two(c, 0, 8);
}

SIM_INLINE void little_push(cpu *c, uint16_t v)
{
    c->sp = (uint16_t)(c->sp - 2);
    little_wr16(c, c->sp, v);
}

SIM_INLINE uint16_t pop(cpu *c)
{
    uint16_t v = little_rd16(c, c->sp);
    c->sp = (uint16_t)(c->sp + 2);
    return v;
}

SIM_INLINE void call(cpu *c, uint16_t at)
{
    little_push(c, here(c));
    jump(c, at);
}

/* Two registers of r as a word. */
SIM_INLINE uint16_t pair(const cpu *c, unsigned n)
{
    return (uint16_t)(c->r[n] << 8 | c->r[n + 1]);
}

SIM_INLINE void set_pair(cpu *c, unsigned n, uint16_t v)
{
    c->r[n] = (uint8_t)(v >> 8);
    c->r[n + 1] = (uint8_t)v;
}

/* ---- flags that come from a byte alone, in the places that the three CPUs give them: sign, zero,
 * and parity, which is set when the number of ones is even. As constants, for tables. ---- */

#define ODD_ONES(v)         (0x6996 >> (((v) ^ (v) >> 4) & 15) & 1)
#define SIGN_ZERO_PARITY(v) (((v)&0x80) | ((v) == 0 ? 0x40 : 0) | (ODD_ONES(v) ? 0 : 0x04))

#endif
