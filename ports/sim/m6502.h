/* m6502.h - what the CMOS 65C02 and the NMOS 6502 do alike: memory, addresses, flags, operations.
 * For their own files. */
#ifndef BOOTLACE_SIM_M6502_H
#define BOOTLACE_SIM_M6502_H

#include "cpu65c02.h"

typedef sim_65c02 cpu;

/* ---- memory ---- */

SIM_INLINE uint8_t rd(const cpu *c, uint16_t a)
{
    return sim_read(c->bus, a);
}

SIM_INLINE void wr(const cpu *c, uint16_t a, uint8_t v)
{
    sim_write(c->bus, a, v);
}

SIM_INLINE uint8_t fetch(cpu *c)
{
    return rd(c, c->pc++);
}

SIM_INLINE uint16_t fetch_word(cpu *c)
{
    const uint8_t *page = c->bus->read_page[c->pc >> 8];
    if (page == NULL || (c->pc & 0xFF) == 0xFF) {
        uint8_t low = fetch(c);
        return (uint16_t)(low | fetch(c) << 8);
    }
    page += c->pc & 0xFF;
    c->pc = (uint16_t)(c->pc + 2);
    return (uint16_t)(page[0] | page[1] << 8);
}

SIM_INLINE uint16_t word_at(cpu *c, uint16_t a)
{
    uint8_t low = rd(c, a);
    return (uint16_t)(low | rd(c, (uint16_t)(a + 1)) << 8);
}

/* A pointer in page zero wraps within it. */
SIM_INLINE uint16_t zero_word(cpu *c, uint8_t a)
{
    uint8_t low = rd(c, a);
    return (uint16_t)(low | rd(c, (uint8_t)(a + 1)) << 8);
}

SIM_INLINE void push(cpu *c, uint8_t v)
{
    wr(c, (uint16_t)(0x100 | c->s--), v);
}

SIM_INLINE uint8_t pull(cpu *c)
{
    return rd(c, (uint16_t)(0x100 | ++c->s));
}

/* ---- addresses; indexed ones add the cycle of a crossed page to extra ---- */

SIM_INLINE uint16_t indexed(cpu *c, uint16_t base, uint8_t index)
{
    uint16_t a = (uint16_t)(base + index);
    c->extra = (uint8_t)(c->extra + ((a ^ base) >> 8 != 0));
    return a;
}

SIM_INLINE uint16_t zp(cpu *c)
{
    return fetch(c);
}

SIM_INLINE uint16_t zpx(cpu *c)
{
    return (uint8_t)(fetch(c) + c->x);
}

SIM_INLINE uint16_t zpy(cpu *c)
{
    return (uint8_t)(fetch(c) + c->y);
}

SIM_INLINE uint16_t absx(cpu *c)
{
    return indexed(c, fetch_word(c), c->x);
}

SIM_INLINE uint16_t absy(cpu *c)
{
    return indexed(c, fetch_word(c), c->y);
}

SIM_INLINE uint16_t indx(cpu *c)
{
    return zero_word(c, (uint8_t)(fetch(c) + c->x));
}

SIM_INLINE uint16_t indy(cpu *c)
{
    return indexed(c, zero_word(c, fetch(c)), c->y);
}

SIM_INLINE uint16_t ind(cpu *c)
{
    return zero_word(c, fetch(c));
}

/* ---- operations ---- */

SIM_INLINE void flag(cpu *c, uint8_t mask, bool on)
{
    c->p = (uint8_t)(on ? c->p | mask : c->p & ~mask);
}

SIM_INLINE uint8_t nz(cpu *c, uint8_t v)
{
    c->p = (uint8_t)((c->p & ~(SIM_FLAG_N | SIM_FLAG_Z)) | (v & SIM_FLAG_N) |
                     (v == 0 ? SIM_FLAG_Z : 0));
    return v;
}

SIM_INLINE void add_binary(cpu *c, uint8_t v)
{
    unsigned sum = (unsigned)c->a + v + (c->p & SIM_FLAG_C);
    flag(c, SIM_FLAG_V, (~(c->a ^ v) & (c->a ^ sum) & 0x80) != 0);
    flag(c, SIM_FLAG_C, sum > 0xFF);
    c->a = nz(c, (uint8_t)sum);
}

SIM_INLINE void and_(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a & v);
}

SIM_INLINE void ora(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a | v);
}

SIM_INLINE void eor(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a ^ v);
}

SIM_INLINE void lda(cpu *c, uint8_t v)
{
    c->a = nz(c, v);
}

SIM_INLINE void compare(cpu *c, uint8_t r, uint8_t v)
{
    flag(c, SIM_FLAG_C, r >= v);
    nz(c, (uint8_t)(r - v));
}

SIM_INLINE void cmp(cpu *c, uint8_t v)
{
    compare(c, c->a, v);
}

SIM_INLINE void bit(cpu *c, uint8_t v)
{
    c->p = (uint8_t)((c->p & ~(SIM_FLAG_N | SIM_FLAG_V | SIM_FLAG_Z)) |
                     (v & (SIM_FLAG_N | SIM_FLAG_V)) | ((c->a & v) == 0 ? SIM_FLAG_Z : 0));
}

SIM_INLINE uint8_t asl(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_C, (v & 0x80) != 0);
    return nz(c, (uint8_t)(v << 1));
}

SIM_INLINE uint8_t lsr(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_C, (v & 1) != 0);
    return nz(c, v >> 1);
}

SIM_INLINE uint8_t rol(cpu *c, uint8_t v)
{
    uint8_t carry = c->p & SIM_FLAG_C;
    flag(c, SIM_FLAG_C, (v & 0x80) != 0);
    return nz(c, (uint8_t)(v << 1 | carry));
}

SIM_INLINE uint8_t ror(cpu *c, uint8_t v)
{
    uint8_t carry = c->p & SIM_FLAG_C;
    flag(c, SIM_FLAG_C, (v & 1) != 0);
    return nz(c, (uint8_t)(v >> 1 | carry << 7));
}

SIM_INLINE uint8_t inc(cpu *c, uint8_t v)
{
    return nz(c, (uint8_t)(v + 1));
}

SIM_INLINE uint8_t dec(cpu *c, uint8_t v)
{
    return nz(c, (uint8_t)(v - 1));
}

/* One cycle more when taken, another when that leads to a different page. */
SIM_INLINE void branch(cpu *c, bool taken)
{
    int8_t distance = (int8_t)fetch(c);
    if (!taken) return;
    uint16_t from = c->pc;
    c->pc = (uint16_t)(from + distance);
    c->extra = (uint8_t)(c->extra + 1 + ((c->pc ^ from) >> 8 != 0));
}

#define MODIFY(op, address_of)                                                                     \
    do {                                                                                           \
        uint16_t a_ = address_of;                                                                  \
        wr(c, a_, op(c, rd(c, a_)));                                                               \
    } while (0)

/* INC and DEC indexed take seven cycles whether a page is crossed or not. */
#define COUNT(base, op)                                                                            \
    case (base) | 0x06: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x16: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0E: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x1E:                                                                            \
        MODIFY(op, absx(c));                                                                       \
        c->extra = 0;                                                                              \
        return 7;

/* Into an interrupt. b: SIM_FLAG_B when it is BRK's. */
static inline void interrupt(cpu *c, uint16_t vector, uint8_t b)
{
    push(c, (uint8_t)(c->pc >> 8));
    push(c, (uint8_t)c->pc);
    push(c, (uint8_t)((c->p & ~SIM_FLAG_B) | b | SIM_FLAG_ONE));
    c->p |= SIM_FLAG_I;
    c->pc = word_at(c, vector);
}

/* Out of reset: three pushes that write nothing, then on from the vector. */
static inline void start(cpu *c)
{
    c->s = (uint8_t)(c->s - 3);
    c->p |= SIM_FLAG_I | SIM_FLAG_ONE | SIM_FLAG_B;
    c->rest = c->special = c->nmi = false;
    c->pc = word_at(c, 0xFFFC);
    c->cycles += 7;
}

/* The eight ways to address of the arithmetic and logic instructions. */
#define FAMILY(base, op)                                                                           \
    case (base) | 0x09: op(c, fetch(c)); return 2;                                                 \
    case (base) | 0x05: op(c, rd(c, zp(c))); return 3;                                             \
    case (base) | 0x15: op(c, rd(c, zpx(c))); return 4;                                            \
    case (base) | 0x0D: op(c, rd(c, fetch_word(c))); return 4;                                     \
    case (base) | 0x1D: op(c, rd(c, absx(c))); return 4;                                           \
    case (base) | 0x19: op(c, rd(c, absy(c))); return 4;                                           \
    case (base) | 0x01: op(c, rd(c, indx(c))); return 6;                                           \
    case (base) | 0x11: op(c, rd(c, indy(c))); return 5;

/* The opcodes that both parts have and execute alike. Returns cycles without extras, or 0. */
SIM_INLINE unsigned execute_common(cpu *c, uint8_t opcode)
{
    switch (opcode) {
    case 0x85: wr(c, zp(c), c->a); return 3;
    case 0x95: wr(c, zpx(c), c->a); return 4;
    case 0x8D: wr(c, fetch_word(c), c->a); return 4;
    case 0x9D:
        wr(c, absx(c), c->a);
        c->extra = 0;
        return 5;
    case 0x99:
        wr(c, absy(c), c->a);
        c->extra = 0;
        return 5;
    case 0x81: wr(c, indx(c), c->a); return 6;
    case 0x91:
        wr(c, indy(c), c->a);
        c->extra = 0;
        return 6;
    case 0x86: wr(c, zp(c), c->x); return 3;
    case 0x96: wr(c, zpy(c), c->x); return 4;
    case 0x8E: wr(c, fetch_word(c), c->x); return 4;
    case 0x84: wr(c, zp(c), c->y); return 3;
    case 0x94: wr(c, zpx(c), c->y); return 4;
    case 0x8C: wr(c, fetch_word(c), c->y); return 4;

    case 0xA2: c->x = nz(c, fetch(c)); return 2;
    case 0xA6: c->x = nz(c, rd(c, zp(c))); return 3;
    case 0xB6: c->x = nz(c, rd(c, zpy(c))); return 4;
    case 0xAE: c->x = nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBE: c->x = nz(c, rd(c, absy(c))); return 4;
    case 0xA0: c->y = nz(c, fetch(c)); return 2;
    case 0xA4: c->y = nz(c, rd(c, zp(c))); return 3;
    case 0xB4: c->y = nz(c, rd(c, zpx(c))); return 4;
    case 0xAC: c->y = nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBC: c->y = nz(c, rd(c, absx(c))); return 4;
    case 0xE0: compare(c, c->x, fetch(c)); return 2;
    case 0xE4: compare(c, c->x, rd(c, zp(c))); return 3;
    case 0xEC: compare(c, c->x, rd(c, fetch_word(c))); return 4;
    case 0xC0: compare(c, c->y, fetch(c)); return 2;
    case 0xC4: compare(c, c->y, rd(c, zp(c))); return 3;
    case 0xCC: compare(c, c->y, rd(c, fetch_word(c))); return 4;

    case 0x24: bit(c, rd(c, zp(c))); return 3;
    case 0x2C: bit(c, rd(c, fetch_word(c))); return 4;
    case 0xE8: c->x = inc(c, c->x); return 2;
    case 0xCA: c->x = dec(c, c->x); return 2;
    case 0xC8: c->y = inc(c, c->y); return 2;
    case 0x88: c->y = dec(c, c->y); return 2;

    case 0xAA: c->x = nz(c, c->a); return 2;
    case 0x8A: c->a = nz(c, c->x); return 2;
    case 0xA8: c->y = nz(c, c->a); return 2;
    case 0x98: c->a = nz(c, c->y); return 2;
    case 0xBA: c->x = nz(c, c->s); return 2;
    case 0x9A: c->s = c->x; return 2;
    case 0x48: push(c, c->a); return 3;
    case 0x68: c->a = nz(c, pull(c)); return 4;
    case 0x08: push(c, c->p | SIM_FLAG_B | SIM_FLAG_ONE); return 3;
    case 0x28: c->p = pull(c) | SIM_FLAG_B | SIM_FLAG_ONE; return 4;

    case 0x18: flag(c, SIM_FLAG_C, false); return 2;
    case 0x38: flag(c, SIM_FLAG_C, true); return 2;
    case 0x58: flag(c, SIM_FLAG_I, false); return 2;
    case 0x78: flag(c, SIM_FLAG_I, true); return 2;
    case 0xB8: flag(c, SIM_FLAG_V, false); return 2;
    case 0xD8: flag(c, SIM_FLAG_D, false); return 2;
    case 0xF8: flag(c, SIM_FLAG_D, true); return 2;

    case 0x10: branch(c, (c->p & SIM_FLAG_N) == 0); return 2;
    case 0x30: branch(c, (c->p & SIM_FLAG_N) != 0); return 2;
    case 0x50: branch(c, (c->p & SIM_FLAG_V) == 0); return 2;
    case 0x70: branch(c, (c->p & SIM_FLAG_V) != 0); return 2;
    case 0x90: branch(c, (c->p & SIM_FLAG_C) == 0); return 2;
    case 0xB0: branch(c, (c->p & SIM_FLAG_C) != 0); return 2;
    case 0xD0: branch(c, (c->p & SIM_FLAG_Z) == 0); return 2;
    case 0xF0: branch(c, (c->p & SIM_FLAG_Z) != 0); return 2;
    case 0x4C: c->pc = fetch_word(c); return 3;
    case 0x20: {
        uint16_t target = fetch_word(c), back = (uint16_t)(c->pc - 1);
        push(c, (uint8_t)(back >> 8));
        push(c, (uint8_t)back);
        c->pc = target;
        return 6;
    }
    case 0x60: {
        uint8_t low = pull(c);
        c->pc = (uint16_t)((low | pull(c) << 8) + 1);
        return 6;
    }
    case 0x40: {
        c->p = pull(c) | SIM_FLAG_B | SIM_FLAG_ONE;
        uint8_t low = pull(c);
        c->pc = (uint16_t)(low | pull(c) << 8);
        return 6;
    }
    case 0xEA: return 2;
    default: return 0;
    }
}

#endif
