/* cpu6800.c - the 6800. The upper half of the opcodes is a table: bit 6 chooses the accumulator,
 * bits 4 and 5 the way to address, the low digit the operation.
 */
#include "cpu6800.h"

typedef sim_6800 cpu;

/* ---- memory ---- */

SIM_INLINE uint8_t rd(const cpu *c, uint16_t a)
{
    return sim_read(c->bus, a);
}

SIM_INLINE void wr(const cpu *c, uint16_t a, uint8_t v)
{
    sim_write(c->bus, a, v);
}

SIM_INLINE uint16_t rd16(const cpu *c, uint16_t a)
{
    unsigned high = rd(c, a);
    return (uint16_t)(high << 8 | rd(c, (uint16_t)(a + 1)));
}

SIM_INLINE void wr16(const cpu *c, uint16_t a, uint16_t v)
{
    wr(c, a, (uint8_t)(v >> 8));
    wr(c, (uint16_t)(a + 1), (uint8_t)v);
}

SIM_INLINE uint8_t fetch(cpu *c)
{
    return rd(c, c->pc++);
}

SIM_INLINE uint16_t fetch16(cpu *c)
{
    uint16_t v = rd16(c, c->pc);
    c->pc = (uint16_t)(c->pc + 2);
    return v;
}

/* The stack pointer points below the last byte. */
SIM_INLINE void push(cpu *c, uint8_t v)
{
    wr(c, c->sp--, v);
}

SIM_INLINE uint8_t pull(cpu *c)
{
    return rd(c, ++c->sp);
}

SIM_INLINE void push16(cpu *c, uint16_t v)
{
    push(c, (uint8_t)v);
    push(c, (uint8_t)(v >> 8));
}

SIM_INLINE uint16_t pull16(cpu *c)
{
    unsigned high = pull(c);
    return (uint16_t)(high << 8 | pull(c));
}

/* ---- flags ---- */

SIM_INLINE void set(cpu *c, unsigned mask, unsigned flags)
{
    c->cc = (uint8_t)((c->cc & ~mask) | flags);
}

SIM_INLINE unsigned nz(unsigned v)
{
    return ((v & 0x80) != 0 ? M68_N : 0) | ((v & 0xFF) == 0 ? M68_Z : 0);
}

SIM_INLINE unsigned nz16(unsigned v)
{
    return ((v & 0x8000) != 0 ? M68_N : 0) | ((v & 0xFFFF) == 0 ? M68_Z : 0);
}

SIM_INLINE uint8_t add(cpu *c, unsigned a, unsigned v, unsigned carry)
{
    unsigned r = a + v + carry;
    set(c, M68_H | M68_N | M68_Z | M68_V | M68_C,
        nz(r) | ((a ^ v ^ r) & 0x10) << 1 | (~(a ^ v) & (a ^ r) & 0x80) >> 6 | r >> 8);
    return (uint8_t)r;
}

SIM_INLINE uint8_t subtract(cpu *c, unsigned a, unsigned v, unsigned borrow)
{
    unsigned r = a - v - borrow;
    set(c, M68_N | M68_Z | M68_V | M68_C, nz(r) | ((a ^ v) & (a ^ r) & 0x80) >> 6 | (r >> 8 & 1));
    return (uint8_t)r;
}

SIM_INLINE uint8_t logic(cpu *c, unsigned r)
{
    set(c, M68_N | M68_Z | M68_V, nz(r));
    return (uint8_t)r;
}

/* An operation of the upper half on an accumulator. */
SIM_INLINE void operate(cpu *c, unsigned op, uint8_t *acc, uint8_t v)
{
    switch (op) {
    case 0: *acc = subtract(c, *acc, v, 0); break;
    case 1: subtract(c, *acc, v, 0); break;
    case 2: *acc = subtract(c, *acc, v, c->cc & M68_C); break;
    case 4: *acc = logic(c, *acc & v); break;
    case 5: logic(c, *acc & v); break;
    case 6: *acc = logic(c, v); break;
    case 8: *acc = logic(c, *acc ^ v); break;
    case 9: *acc = add(c, *acc, v, c->cc & M68_C); break;
    case 10: *acc = logic(c, *acc | v); break;
    default: *acc = add(c, *acc, v, 0); break;
    }
}

/* A shift: its result and the bit that falls out. Overflow is N differing from carry. */
SIM_INLINE uint8_t shifted(cpu *c, unsigned r, unsigned out)
{
    unsigned n = nz(r), v = ((r >> 7 & 1) ^ out) << 1;
    set(c, M68_N | M68_Z | M68_V | M68_C, n | v | out);
    return (uint8_t)r;
}

/* An operation of the middle of the table, on one operand. */
SIM_INLINE uint8_t change(cpu *c, unsigned op, uint8_t v)
{
    unsigned carry = c->cc & M68_C;
    switch (op) {
    case 0: return subtract(c, 0, v, 0);
    case 3: set(c, M68_C, M68_C); return logic(c, (uint8_t)~v);
    case 4: return shifted(c, v >> 1, v & 1);
    case 6: return shifted(c, v >> 1 | carry << 7, v & 1);
    case 7: return shifted(c, v >> 1 | (v & 0x80u), v & 1);
    case 8: return shifted(c, (unsigned)v << 1 & 0xFF, v >> 7);
    case 9: return shifted(c, ((unsigned)v << 1 | carry) & 0xFF, v >> 7);
    case 10: set(c, M68_N | M68_Z | M68_V, nz(v - 1u) | (v == 0x80 ? M68_V : 0)); return --v;
    case 12: set(c, M68_N | M68_Z | M68_V, nz(v + 1u) | (v == 0x7F ? M68_V : 0)); return ++v;
    case 13: set(c, M68_N | M68_Z | M68_V | M68_C, nz(v)); return v;
    default: set(c, M68_N | M68_Z | M68_V | M68_C, M68_Z); return 0;
    }
}

static void decimal_adjust(cpu *c)
{
    unsigned fix = 0, carry = c->cc & M68_C;
    if ((c->cc & M68_H) != 0 || (c->a & 0x0F) > 9) fix = 0x06;
    if (carry != 0 || c->a > 0x99) fix |= 0x60, carry = M68_C;
    unsigned r = c->a + fix;
    set(c, M68_N | M68_Z | M68_V | M68_C, nz(r) | carry);
    c->a = (uint8_t)r;
}

static bool condition(const cpu *c, unsigned op)
{
    bool n = (c->cc & M68_N) != 0, z = (c->cc & M68_Z) != 0, v = (c->cc & M68_V) != 0;
    bool carry = (c->cc & M68_C) != 0, met;
    switch (op >> 1) {
    case 0: met = true; break;
    case 1: met = !carry && !z; break;
    case 2: met = !carry; break;
    case 3: met = !z; break;
    case 4: met = !v; break;
    case 5: met = !n; break;
    case 6: met = n == v; break;
    default: met = !z && n == v; break;
    }
    return met != ((op & 1) != 0);
}

/* ---- interrupts ---- */

static void save(cpu *c)
{
    push16(c, c->pc);
    push16(c, c->x);
    push(c, c->a);
    push(c, c->b);
    push(c, c->cc | M68_ONES);
}

static void restore(cpu *c)
{
    c->cc = pull(c) | M68_ONES;
    c->b = pull(c);
    c->a = pull(c);
    c->x = pull16(c);
    c->pc = pull16(c);
}

static void enter(cpu *c, uint16_t vector)
{
    c->cc |= M68_I;
    c->pc = rd16(c, vector);
}

/* ---- the table ---- */

static unsigned inherent(cpu *c, uint8_t op)
{
    switch (op) {
    case 0x06: c->cc = c->a | M68_ONES; return 2;
    case 0x07: c->a = c->cc | M68_ONES; return 2;
    case 0x08:
    case 0x09:
        c->x = (uint16_t)(op == 0x08 ? c->x + 1 : c->x - 1);
        set(c, M68_Z, c->x == 0 ? M68_Z : 0);
        return 4;
    case 0x0A: set(c, M68_V, 0); return 2;
    case 0x0B: set(c, M68_V, M68_V); return 2;
    case 0x0C: set(c, M68_C, 0); return 2;
    case 0x0D: set(c, M68_C, M68_C); return 2;
    case 0x0E: set(c, M68_I, 0); return 2;
    case 0x0F: set(c, M68_I, M68_I); return 2;
    case 0x10: c->a = subtract(c, c->a, c->b, 0); return 2;
    case 0x11: subtract(c, c->a, c->b, 0); return 2;
    case 0x16: c->b = logic(c, c->a); return 2;
    case 0x17: c->a = logic(c, c->b); return 2;
    case 0x19: decimal_adjust(c); return 2;
    case 0x1B: c->a = add(c, c->a, c->b, 0); return 2;
    case 0x30: c->x = (uint16_t)(c->sp + 1); return 4;
    case 0x31: c->sp++; return 4;
    case 0x32: c->a = pull(c); return 4;
    case 0x33: c->b = pull(c); return 4;
    case 0x34: c->sp--; return 4;
    case 0x35: c->sp = (uint16_t)(c->x - 1); return 4;
    case 0x36: push(c, c->a); return 4;
    case 0x37: push(c, c->b); return 4;
    case 0x39: c->pc = pull16(c); return 5;
    case 0x3B: restore(c); return 10;
    case 0x3E:
        save(c);
        c->rest = true;
        return 9;
    case 0x3F:
        save(c);
        enter(c, 0xFFFA);
        return 12;
    default: return 2;
    }
}

/* The address that a way of the upper half means; 0: the operand itself stands in the code. */
SIM_INLINE uint16_t address(cpu *c, unsigned way, unsigned width)
{
    uint16_t at = c->pc;
    switch (way) {
    case 0: c->pc = (uint16_t)(c->pc + width); return at;
    case 1: return fetch(c);
    case 2: return (uint16_t)(c->x + fetch(c));
    default: return fetch16(c);
    }
}

/* CPX, LDS, LDX, STS, STX, BSR, JSR: the operations from 12 on. */
static unsigned wide(cpu *c, uint8_t op)
{
    static const uint8_t load_times[] = {3, 4, 6, 5};
    unsigned way = op >> 4 & 3, low = op & 15;
    bool second = (op & 0x40) != 0;
    if (low == 13 && !second) {
        if (way == 1) return 2; /* not in the data sheet */
        int8_t distance = way == 0 ? (int8_t)fetch(c) : 0;
        uint16_t at = way == 0 ? (uint16_t)(c->pc + distance) : address(c, way, 2);
        push16(c, c->pc);
        c->pc = at;
        return way == 2 || way == 0 ? 8 : 9;
    }
    if (low == 15 && way == 0) return 2; /* nor this */
    uint16_t at = address(c, way, 2);
    if (low == 12 && !second) {
        unsigned v = rd16(c, at), r = (unsigned)c->x - v;
        set(c, M68_N | M68_Z | M68_V,
            nz16(r) | (((c->x ^ v) & (c->x ^ r) & 0x8000) != 0 ? M68_V : 0));
        return load_times[way];
    }
    uint16_t *to = second ? &c->x : &c->sp;
    if (low == 14) *to = rd16(c, at);
    if (low == 15) wr16(c, at, *to);
    set(c, M68_N | M68_Z | M68_V, nz16(*to));
    return load_times[way] + (low == 15 ? 1u : 0u);
}

SIM_INLINE unsigned upper(cpu *c, uint8_t op)
{
    static const uint8_t times[] = {2, 3, 5, 4};
    unsigned way = op >> 4 & 3, low = op & 15;
    uint8_t *acc = (op & 0x40) != 0 ? &c->b : &c->a;
    if (low >= 12) {
        if ((op & 0x40) != 0 && (low == 12 || low == 13)) return 2; /* not in the data sheet */
        return wide(c, op);
    }
    if (low == 3 || (low == 7 && way == 0)) return 2;
    if (low == 7) {
        wr(c, address(c, way, 1), logic(c, *acc));
        return times[way] + 1u;
    }
    operate(c, low, acc, rd(c, address(c, way, 1)));
    return times[way];
}

SIM_INLINE unsigned execute(cpu *c, uint8_t op)
{
    unsigned low = op & 15;
    if (op >= 0x80) return upper(c, op);
    if (op < 0x20 || (op & 0xF0) == 0x30) return inherent(c, op);
    if (op < 0x30) {
        int8_t distance = (int8_t)fetch(c);
        if (low != 1 && condition(c, low)) c->pc = (uint16_t)(c->pc + distance);
        return 4;
    }
    if (low == 1 || low == 2 || low == 5 || low == 11 || (op < 0x60 && low == 14)) return 2;
    if (op < 0x50) {
        c->a = change(c, low, c->a);
        return 2;
    }
    if (op < 0x60) {
        c->b = change(c, low, c->b);
        return 2;
    }
    uint16_t at = address(c, op < 0x70 ? 2 : 3, 1);
    if (low == 14) {
        c->pc = at;
        return op < 0x70 ? 4 : 3;
    }
    uint8_t v = change(c, low, low == 15 ? 0 : rd(c, at));
    if (low != 13) wr(c, at, v);
    return op < 0x70 ? 7 : 6;
}

/* ---- running ---- */

void sim_6800_reset(sim_6800 *c)
{
    c->rest = c->special = c->nmi = false;
    c->cc |= M68_I | M68_ONES;
    c->pc = rd16(c, 0xFFFE);
    c->cycles += 3;
}

/* An interrupt, or a wait up to some cycle. False: the next instruction is due. */
static bool attend(cpu *c, uint64_t cycles)
{
    if (c->nmi || (c->irq && (c->cc & M68_I) == 0)) {
        uint16_t vector = c->nmi ? 0xFFFC : 0xFFF8;
        c->cycles += c->rest ? 4 : 12; /* WAI has done the most of it */
        if (!c->rest) save(c);
        c->nmi = c->rest = false;
        enter(c, vector);
        return true;
    }
    if (c->rest) c->cycles = cycles;
    return c->rest;
}

void sim_6800_run(sim_6800 *c, uint64_t cycles)
{
    while (c->cycles < cycles) {
        if (SIM_ATTENTION(c) && attend(c, cycles)) continue;
        c->cycles += execute(c, fetch(c));
    }
}

void sim_6800_step(sim_6800 *c)
{
    sim_6800_run(c, c->cycles + 1);
}

SIM_RESET(sim_6800, sim_6800)
SIM_STEP_AND_RUN(sim_6800, sim_6800)

static const sim_register registers[] = {
    SIM_REGISTER(sim_6800, "pc", pc, true),         SIM_REGISTER(sim_6800, "a", a, true),
    SIM_REGISTER(sim_6800, "b", b, true),           SIM_REGISTER(sim_6800, "x", x, true),
    SIM_REGISTER(sim_6800, "sp", sp, true),         SIM_REGISTER(sim_6800, "cc", cc, true),
    SIM_REGISTER(sim_6800, "waiting", rest, false),
};
static const char *const sheets[] = {"6800", NULL};
const sim_cpu_kind sim_6800_kind = {
    sheets, sizeof(cpu), registers, sizeof registers / sizeof registers[0], reset, step, run};
