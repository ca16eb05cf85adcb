/* m6502.h - what the CMOS 65C02 and the NMOS 6502 do alike: memory, addresses, flags, operations.
 * For their own files.
 *
 * While the CPU runs, four flags are kept as what they come from: n and v in bit 7, z as a byte
 * that is zero, carry as 0 or 1. take_flags and give_flags stand at both ends of a run.
 */
#ifndef BOOTLACE_SIM_M6502_H
#define BOOTLACE_SIM_M6502_H

#include "cpu65c02.h"

typedef sim_65c02 cpu;

/* Which of the two this is: M65_NMOS is defined by the file that includes this. */
#define SIM_LENGTH(c, code, have) (M65_NMOS ? sim_6502_length(code) : sim_65c02_length(code))

#include "access.h"

/* ---- memory ---- */

SIM_INLINE uint16_t fetch_word(cpu *c)
{
    return fetch_two(c, 0, 8);
}

SIM_INLINE uint16_t word_at(cpu *c, uint16_t a)
{
    return rd_two(c, a, 0, 8);
}

/* A pointer in page zero wraps within it. */
SIM_INLINE uint16_t zero_word(cpu *c, uint8_t a)
{
    if (a != 0xFF) return rd_two(c, a, 0, 8);
    uint8_t low = rd(c, a);
    return (uint16_t)(low | rd(c, 0) << 8);
}

SIM_INLINE void m65_push(cpu *c, uint8_t v)
{
    wr(c, (uint16_t)(0x100 | c->s--), v);
}

SIM_INLINE uint8_t m65_pull(cpu *c)
{
    return rd(c, (uint16_t)(0x100 | ++c->s));
}

SIM_INLINE void push_word(cpu *c, uint16_t v)
{
    m65_push(c, (uint8_t)(v >> 8));
    m65_push(c, (uint8_t)v);
}

SIM_INLINE uint16_t pull_word(cpu *c)
{
    uint8_t low = m65_pull(c);
    return (uint16_t)(low | m65_pull(c) << 8);
}

/* ---- discarded accesses: memory does not notice them, and registers of devices do. What lies in
 * page zero, the stack and code is taken to be memory. ---- */

SIM_INLINE void discard(cpu *c, uint16_t a)
{
    if (c->bus->read_page[a >> 8] == NULL) c->bus->read(c->bus->context, a);
}

/* The NMOS part reads at the address whose high byte the index has not reached yet. */
SIM_INLINE uint16_t not_carried(uint16_t base, uint16_t a)
{
    return (uint16_t)((base & 0xFF00) | (a & 0xFF));
}

/* ---- addresses. Those to read from take a cycle more when the index leads to the next page; for
 * those to write to, the _same ones, it is in the instruction's time. ---- */

SIM_INLINE uint16_t m65_indexed(cpu *c, uint16_t base, uint8_t index)
{
    uint16_t a = (uint16_t)(base + index);
    if ((a ^ base) >> 8 != 0) {
        SIM_SPEND(c, 1);
        if (M65_NMOS) discard(c, not_carried(base, a));
    }
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
    return m65_indexed(c, fetch_word(c), c->x);
}

SIM_INLINE uint16_t absy(cpu *c)
{
    return m65_indexed(c, fetch_word(c), c->y);
}

SIM_INLINE uint16_t indx(cpu *c)
{
    return zero_word(c, (uint8_t)(fetch(c) + c->x));
}

SIM_INLINE uint16_t indy(cpu *c)
{
    return m65_indexed(c, zero_word(c, fetch(c)), c->y);
}

/* Before it writes the NMOS part reads, whether the index carries or not. */
SIM_INLINE uint16_t m65_indexed_same(cpu *c, uint16_t base, uint8_t index)
{
    uint16_t a = (uint16_t)(base + index);
    if (M65_NMOS && ((a ^ base) >> 8 != 0 || c->bus->write_page[a >> 8] == NULL))
        discard(c, not_carried(base, a));
    return a;
}

SIM_INLINE uint16_t absx_same(cpu *c)
{
    return m65_indexed_same(c, fetch_word(c), c->x);
}

SIM_INLINE uint16_t absy_same(cpu *c)
{
    return m65_indexed_same(c, fetch_word(c), c->y);
}

SIM_INLINE uint16_t indy_same(cpu *c)
{
    return m65_indexed_same(c, zero_word(c, fetch(c)), c->y);
}

SIM_INLINE uint16_t ind(cpu *c)
{
    return zero_word(c, fetch(c));
}

/* ---- flags ---- */

SIM_INLINE void m65_take_flags(cpu *c, unsigned p)
{
    c->p = (uint8_t)p;
    c->n = (uint8_t)p;
    c->z = (uint8_t)(~p & SIM_FLAG_Z);
    c->v = (uint8_t)(p << 1);
    c->carry = p & SIM_FLAG_C;
}

SIM_INLINE uint8_t m65_give_flags(const cpu *c)
{
    unsigned kept = c->p & ~(unsigned)(SIM_FLAG_N | SIM_FLAG_V | SIM_FLAG_Z | SIM_FLAG_C);
    return (uint8_t)(kept | (c->n & SIM_FLAG_N) | (c->v >> 1 & SIM_FLAG_V) |
                     (c->z == 0 ? SIM_FLAG_Z : 0) | c->carry);
}

/* I and D */
SIM_INLINE void flag(cpu *c, uint8_t mask, bool on)
{
    c->p = (uint8_t)(on ? c->p | mask : c->p & ~mask);
}

SIM_INLINE uint8_t m65_nz(cpu *c, uint8_t v)
{
    c->n = c->z = v;
    return v;
}

/* ---- operations ---- */

SIM_INLINE void add_binary(cpu *c, uint8_t v)
{
    unsigned sum = (unsigned)c->a + v + c->carry;
    c->v = (uint8_t)(~(c->a ^ v) & (c->a ^ sum));
    c->carry = (uint8_t)(sum >> 8);
    c->a = m65_nz(c, (uint8_t)sum);
}

/* The two parts differ in decimal mode; each defines these. */
/* Decimal sums are what the two parts do not do alike: their files say which function does them. */
static void M65_ADD_DECIMAL(cpu *c, uint8_t v);
static void M65_SUBTRACT_DECIMAL(cpu *c, uint8_t v);

SIM_INLINE void adc(cpu *c, uint8_t v)
{
    if ((c->p & SIM_FLAG_D) != 0)
        M65_ADD_DECIMAL(c, v);
    else
        add_binary(c, v);
}

SIM_INLINE void sbc(cpu *c, uint8_t v)
{
    if ((c->p & SIM_FLAG_D) != 0)
        M65_SUBTRACT_DECIMAL(c, v);
    else
        add_binary(c, (uint8_t)~v);
}

SIM_INLINE void and_(cpu *c, uint8_t v)
{
    c->a = m65_nz(c, c->a & v);
}

SIM_INLINE void ora(cpu *c, uint8_t v)
{
    c->a = m65_nz(c, c->a | v);
}

SIM_INLINE void eor(cpu *c, uint8_t v)
{
    c->a = m65_nz(c, c->a ^ v);
}

SIM_INLINE void lda(cpu *c, uint8_t v)
{
    c->a = m65_nz(c, v);
}

SIM_INLINE void m65_compare(cpu *c, uint8_t r, uint8_t v)
{
    c->carry = r >= v;
    m65_nz(c, (uint8_t)(r - v));
}

SIM_INLINE void cmp(cpu *c, uint8_t v)
{
    m65_compare(c, c->a, v);
}

SIM_INLINE void bit(cpu *c, uint8_t v)
{
    c->n = v;
    c->v = (uint8_t)(v << 1);
    c->z = c->a & v;
}

SIM_INLINE uint8_t asl(cpu *c, uint8_t v)
{
    c->carry = v >> 7;
    return m65_nz(c, (uint8_t)(v << 1));
}

SIM_INLINE uint8_t lsr(cpu *c, uint8_t v)
{
    c->carry = v & 1;
    return m65_nz(c, v >> 1);
}

SIM_INLINE uint8_t rol(cpu *c, uint8_t v)
{
    uint8_t carry = c->carry;
    c->carry = v >> 7;
    return m65_nz(c, (uint8_t)(v << 1 | carry));
}

SIM_INLINE uint8_t ror(cpu *c, uint8_t v)
{
    uint8_t carry = c->carry;
    c->carry = v & 1;
    return m65_nz(c, (uint8_t)(v >> 1 | carry << 7));
}

SIM_INLINE uint8_t inc(cpu *c, uint8_t v)
{
    return m65_nz(c, (uint8_t)(v + 1));
}

SIM_INLINE uint8_t dec(cpu *c, uint8_t v)
{
    return m65_nz(c, (uint8_t)(v - 1));
}

/* One cycle more when taken, another when that leads to a different page. */
SIM_INLINE void branch(cpu *c, bool taken)
{
    int8_t distance = (int8_t)fetch(c);
    if (taken) SIM_SPEND(c, jump_by(c, distance) ? 2 : 1);
}

/* What changes memory reads, then has a cycle to spare: the NMOS part writes the old byte back, the
 * CMOS part reads it again. */
SIM_INLINE void spare_cycle(cpu *c, uint16_t a, uint8_t v)
{
    if (c->bus->write_page[a >> 8] != NULL) return;
    if (M65_NMOS)
        c->bus->write(c->bus->context, a, v);
    else
        discard(c, a);
}

#define MODIFY(op, address_of)                                                                     \
    do {                                                                                           \
        uint16_t a_ = address_of;                                                                  \
        uint8_t v_ = rd(c, a_);                                                                    \
        spare_cycle(c, a_, v_);                                                                    \
        wr(c, a_, op(c, v_));                                                                      \
    } while (0)

/* INC and DEC indexed take seven cycles whether a page is crossed or not. */
#define COUNT(base, op)                                                                            \
    case (base) | 0x06: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x16: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0E: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x1E: MODIFY(op, absx_same(c)); return 7;

/* Into an interrupt. b: SIM_FLAG_B when it is BRK's. */
static inline void m65_interrupt(cpu *c, uint16_t vector, uint8_t b)
{
    push_word(c, here(c));
    m65_push(c, (uint8_t)((m65_give_flags(c) & ~SIM_FLAG_B) | b | SIM_FLAG_ONE));
    c->p |= SIM_FLAG_I;
    jump(c, word_at(c, vector));
}

/* What CLI, SEI and PLP do to the mask counts one instruction later: the part looks at its lines
 * before it changes. While no interrupt is requested nobody sees a difference. */
enum { M65_LATER, M65_MASKED = 1, M65_OPEN };
SIM_INLINE void mask_later(cpu *c)
{
    if (c->irq) c->line[M65_LATER] = (c->p & SIM_FLAG_I) != 0 ? M65_MASKED : M65_OPEN;
}

/* The vector of an interrupt that is requested and not masked, which is then taken; 0: none is. */
static inline uint16_t take_request(cpu *c)
{
    bool masked = (c->p & SIM_FLAG_I) != 0;
    if (c->line[M65_LATER] != 0) masked = c->line[M65_LATER] == M65_MASKED;
    c->line[M65_LATER] = 0;
    if (!c->nmi && (!c->irq || masked)) return 0;
    uint16_t vector = c->nmi ? 0xFFFA : 0xFFFE;
    c->nmi = false;
    return vector;
}

/* Out of reset: three pushes that write nothing, then on from the vector. */
static inline void start(cpu *c)
{
    c->s = (uint8_t)(c->s - 3);
    c->p |= SIM_FLAG_I | SIM_FLAG_ONE | SIM_FLAG_B;
    c->rest = c->special = c->nmi = false;
    c->line[M65_LATER] = 0;
    c->pc = word_at(c, 0xFFFC);
    c->cycles += 7;
}

/* ---- both ends of a run ---- */

SIM_INLINE void m65_begin(cpu *c)
{
    m65_take_flags(c, c->p);
    jump(c, c->pc);
}

SIM_INLINE void m65_end(cpu *c)
{
    c->p = m65_give_flags(c);
    c->pc = here(c);
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

/* All of them, the shifts and the counts. The parts differ in SHIFT, which each defines. */
#define FAMILIES                                                                                   \
    FAMILY(0x60, adc)                                                                              \
    FAMILY(0x20, and_)                                                                             \
    FAMILY(0xC0, cmp)                                                                              \
    FAMILY(0x40, eor)                                                                              \
    FAMILY(0xA0, lda)                                                                              \
    FAMILY(0x00, ora)                                                                              \
    FAMILY(0xE0, sbc)                                                                              \
    SHIFT(0x00, asl)                                                                               \
    SHIFT(0x40, lsr)                                                                               \
    SHIFT(0x20, rol)                                                                               \
    SHIFT(0x60, ror)                                                                               \
    COUNT(0xC0, dec)                                                                               \
    COUNT(0xE0, inc)

/* The opcodes that both parts have and execute alike. Returns cycles without extras, or 0. */
SIM_INLINE unsigned execute_common(cpu *c, uint8_t opcode)
{
    switch (opcode) {
    case 0x85: wr(c, zp(c), c->a); return 3;
    case 0x95: wr(c, zpx(c), c->a); return 4;
    case 0x8D: wr(c, fetch_word(c), c->a); return 4;
    case 0x9D: wr(c, absx_same(c), c->a); return 5;
    case 0x99: wr(c, absy_same(c), c->a); return 5;
    case 0x81: wr(c, indx(c), c->a); return 6;
    case 0x91: wr(c, indy_same(c), c->a); return 6;
    case 0x86: wr(c, zp(c), c->x); return 3;
    case 0x96: wr(c, zpy(c), c->x); return 4;
    case 0x8E: wr(c, fetch_word(c), c->x); return 4;
    case 0x84: wr(c, zp(c), c->y); return 3;
    case 0x94: wr(c, zpx(c), c->y); return 4;
    case 0x8C: wr(c, fetch_word(c), c->y); return 4;

    case 0xA2: c->x = m65_nz(c, fetch(c)); return 2;
    case 0xA6: c->x = m65_nz(c, rd(c, zp(c))); return 3;
    case 0xB6: c->x = m65_nz(c, rd(c, zpy(c))); return 4;
    case 0xAE: c->x = m65_nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBE: c->x = m65_nz(c, rd(c, absy(c))); return 4;
    case 0xA0: c->y = m65_nz(c, fetch(c)); return 2;
    case 0xA4: c->y = m65_nz(c, rd(c, zp(c))); return 3;
    case 0xB4: c->y = m65_nz(c, rd(c, zpx(c))); return 4;
    case 0xAC: c->y = m65_nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBC: c->y = m65_nz(c, rd(c, absx(c))); return 4;
    case 0xE0: m65_compare(c, c->x, fetch(c)); return 2;
    case 0xE4: m65_compare(c, c->x, rd(c, zp(c))); return 3;
    case 0xEC: m65_compare(c, c->x, rd(c, fetch_word(c))); return 4;
    case 0xC0: m65_compare(c, c->y, fetch(c)); return 2;
    case 0xC4: m65_compare(c, c->y, rd(c, zp(c))); return 3;
    case 0xCC: m65_compare(c, c->y, rd(c, fetch_word(c))); return 4;

    case 0x24: bit(c, rd(c, zp(c))); return 3;
    case 0x2C: bit(c, rd(c, fetch_word(c))); return 4;
    case 0xE8: c->x = inc(c, c->x); return 2;
    case 0xCA: c->x = dec(c, c->x); return 2;
    case 0xC8: c->y = inc(c, c->y); return 2;
    case 0x88: c->y = dec(c, c->y); return 2;

    case 0xAA: c->x = m65_nz(c, c->a); return 2;
    case 0x8A: c->a = m65_nz(c, c->x); return 2;
    case 0xA8: c->y = m65_nz(c, c->a); return 2;
    case 0x98: c->a = m65_nz(c, c->y); return 2;
    case 0xBA: c->x = m65_nz(c, c->s); return 2;
    case 0x9A: c->s = c->x; return 2;
    case 0x48: m65_push(c, c->a); return 3;
    case 0x68: c->a = m65_nz(c, m65_pull(c)); return 4;
    case 0x08: m65_push(c, m65_give_flags(c) | SIM_FLAG_B | SIM_FLAG_ONE); return 3;
    case 0x28:
        mask_later(c);
        m65_take_flags(c, m65_pull(c) | SIM_FLAG_B | SIM_FLAG_ONE);
        return 4;

    case 0x18: c->carry = 0; return 2;
    case 0x38: c->carry = 1; return 2;
    case 0x58:
        mask_later(c);
        flag(c, SIM_FLAG_I, false);
        return 2;
    case 0x78:
        mask_later(c);
        flag(c, SIM_FLAG_I, true);
        return 2;
    case 0xB8: c->v = 0; return 2;
    case 0xD8: flag(c, SIM_FLAG_D, false); return 2;
    case 0xF8: flag(c, SIM_FLAG_D, true); return 2;

    case 0x10: branch(c, (c->n & 0x80) == 0); return 2;
    case 0x30: branch(c, (c->n & 0x80) != 0); return 2;
    case 0x50: branch(c, (c->v & 0x80) == 0); return 2;
    case 0x70: branch(c, (c->v & 0x80) != 0); return 2;
    case 0x90: branch(c, c->carry == 0); return 2;
    case 0xB0: branch(c, c->carry != 0); return 2;
    case 0xD0: branch(c, c->z != 0); return 2;
    case 0xF0: branch(c, c->z == 0); return 2;
    case 0x4C: jump(c, fetch_word(c)); return 3;
    case 0x20: {
        uint8_t low = fetch(c);
        push_word(c, here(c));
        jump(c, (uint16_t)(low | fetch_now(c) << 8)); /* the stack may have been its place */
        return 6;
    }
    case 0x60: jump(c, (uint16_t)(pull_word(c) + 1)); return 6;
    case 0x40:
        m65_take_flags(c, m65_pull(c) | SIM_FLAG_B | SIM_FLAG_ONE);
        jump(c, pull_word(c));
        return 6;
    case 0xEA: return 2;
    default: return 0;
    }
}

#endif
