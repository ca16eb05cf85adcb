/* cpu6800.c - the 6800. The upper half of the opcodes is a table: bit 6 chooses the accumulator,
 * bits 4 and 5 the way to address, the low digit the operation.
 */
#include "cpu6800.h"

typedef sim_6800 cpu;
#define SIM_LENGTH(c, code, have) sim_6800_length(code)

enum { M68_RIGHT_OVERFLOWS = true, M68_TEST_CLEARS_CARRY = true };
#include "m68.h"

/* ---- stack ---- */

/* The stack pointer points below the last byte. */
SIM_INLINE void m6800_push(cpu *c, uint8_t v)
{
    wr(c, c->sp--, v);
}

SIM_INLINE uint8_t m6800_pull(cpu *c)
{
    return rd(c, ++c->sp);
}

SIM_INLINE void m6800_push16(cpu *c, uint16_t v)
{
    c->sp = (uint16_t)(c->sp - 2);
    m68_wr16(c, (uint16_t)(c->sp + 1), v);
}

SIM_INLINE uint16_t m6800_pull16(cpu *c)
{
    uint16_t v = m68_rd16(c, (uint16_t)(c->sp + 1));
    c->sp = (uint16_t)(c->sp + 2);
    return v;
}

/* ---- interrupts ---- */

static void m6800_save(cpu *c)
{
    m6800_push16(c, here(c));
    m6800_push16(c, c->x);
    m6800_push(c, c->a);
    m6800_push(c, c->b);
    m6800_push(c, m68_give_flags(c));
}

static void restore(cpu *c)
{
    m68_take_flags(c, m6800_pull(c) | M68_ONES);
    c->b = m6800_pull(c);
    c->a = m6800_pull(c);
    c->x = m6800_pull16(c);
    jump(c, m6800_pull16(c));
}

static void m6800_enter(cpu *c, uint16_t vector)
{
    c->cc |= M68_I;
    jump(c, m68_rd16(c, vector));
}

/* An instruction that opens the mask is followed by another one before a requested interrupt is
 * taken (CLI and WAI are a pair: the interrupt comes while it waits). */
enum { M6800_LATER };
SIM_INLINE void flags_from(cpu *c, uint8_t flags)
{
    if (c->irq) c->line[M6800_LATER] = (c->cc & M68_I & ~flags) != 0;
    m68_take_flags(c, flags | M68_ONES);
}

/* ---- the table ---- */

/* The opcode is a constant where this is called (SIM_EACH_BYTE): of the switch nothing is left. */
SIM_INLINE unsigned m6800_inherent(cpu *c, uint8_t op)
{
    switch (op) {
    case 0x06: flags_from(c, c->a); return 2;
    case 0x07: c->a = m68_give_flags(c); return 2;
    case 0x08:
    case 0x09:
        c->x = (uint16_t)(op == 0x08 ? c->x + 1 : c->x - 1);
        c->z = (uint8_t)(c->x | c->x >> 8);
        return 4;
    case 0x0A: c->v = 0; return 2;
    case 0x0B: c->v = 0x80; return 2;
    case 0x0C: c->carry = 0; return 2;
    case 0x0D: c->carry = 1; return 2;
    case 0x0E: flags_from(c, m68_give_flags(c) & (uint8_t)~M68_I); return 2;
    case 0x0F: c->cc |= M68_I; return 2;
    case 0x10: c->a = m68_subtract(c, c->a, c->b, 0); return 2;
    case 0x11: m68_subtract(c, c->a, c->b, 0); return 2;
    case 0x16: c->b = logic(c, c->a); return 2;
    case 0x17: c->a = logic(c, c->b); return 2;
    case 0x19: m68_decimal_adjust(c); return 2;
    case 0x1B: c->a = m68_add(c, c->a, c->b, 0); return 2;
    case 0x30: c->x = (uint16_t)(c->sp + 1); return 4;
    case 0x31: c->sp++; return 4;
    case 0x32: c->a = m6800_pull(c); return 4;
    case 0x33: c->b = m6800_pull(c); return 4;
    case 0x34: c->sp--; return 4;
    case 0x35: c->sp = (uint16_t)(c->x - 1); return 4;
    case 0x36: m6800_push(c, c->a); return 4;
    case 0x37: m6800_push(c, c->b); return 4;
    case 0x39: jump(c, m6800_pull16(c)); return 5;
    case 0x3B: restore(c); return 10;
    case 0x3E:
        m6800_save(c);
        c->rest = true;
        SIM_LOOK(c);
        return 9;
    case 0x3F:
        m6800_save(c);
        m6800_enter(c, 0xFFFA);
        return 12;
    default: return 2;
    }
}

/* The operand of the upper half of the table: its way to address chooses where it is. */
SIM_INLINE uint16_t m6800_address(cpu *c, unsigned way)
{
    return way == 1 ? fetch(c) : way == 2 ? (uint16_t)(c->x + fetch(c)) : m68_fetch16(c);
}

SIM_INLINE void subroutine(cpu *c, uint16_t at)
{
    m6800_push16(c, here(c));
    jump(c, at);
}

/* CPX, LDS, LDX, STS, STX, BSR, JSR: the operations from 12 on. */
SIM_INLINE unsigned m6800_wide(cpu *c, uint8_t op)
{
    static const uint8_t load_times[] = {3, 4, 6, 5};
    unsigned way = op >> 4 & 3, low = op & 15;
    bool second = (op & 0x40) != 0;
    if (low == 13 && !second) {
        if (way == 1) return 2; /* not in the data sheet */
        if (way == 0) {
            int8_t distance = (int8_t)fetch(c);
            m6800_push16(c, here(c));
            jump_by(c, distance);
        } else
            subroutine(c, m6800_address(c, way));
        return way == 3 ? 9 : 8;
    }
    if (low == 15 && way == 0) return 2; /* nor this */
    uint16_t *to = second ? &c->x : &c->sp;
    if (low == 15) {
        m68_wr16(c, m6800_address(c, way), *to);
        c->v = 0;
        nz16(c, *to);
        return load_times[way] + 1u;
    }
    unsigned v = way == 0 ? m68_fetch16(c) : m68_rd16(c, m6800_address(c, way));
    c->v = 0;
    if (low == 12 && !second) {
        /* N and V come from the high bytes alone, without a borrow; carry stays. */
        unsigned x = c->x, high = (x >> 8) - (v >> 8);
        c->v = (uint8_t)((x ^ v) >> 8 & (x >> 8 ^ high));
        c->n = (uint8_t)high;
        c->z = (uint8_t)((x ^ v) | (x ^ v) >> 8);
        return load_times[way];
    }
    *to = (uint16_t)v;
    nz16(c, v);
    return load_times[way];
}

SIM_INLINE unsigned m6800_upper(cpu *c, uint8_t op)
{
    static const uint8_t times[] = {2, 3, 5, 4};
    unsigned way = op >> 4 & 3, low = op & 15;
    uint8_t *acc = (op & 0x40) != 0 ? &c->b : &c->a;
    if (low >= 12) {
        if ((op & 0x40) != 0 && (low == 12 || low == 13)) return 2; /* not in the data sheet */
        return m6800_wide(c, op);
    }
    if (low == 3 || (low == 7 && way == 0)) return 2;
    if (low == 7) {
        uint16_t at = m6800_address(c, way);
        wr(c, at, logic(c, *acc));
        return times[way] + 1u;
    }
    m68_operate(c, low, acc, way == 0 ? fetch(c) : rd(c, m6800_address(c, way)));
    return times[way];
}

/* The opcode is a constant where this is called (SIM_EACH_BYTE): of its tests nothing is left. */
SIM_INLINE unsigned m6800_execute(cpu *c, uint8_t op)
{
    unsigned low = op & 15;
    if (op >= 0x80) return m6800_upper(c, op);
    if (op < 0x20 || (op & 0xF0) == 0x30) return m6800_inherent(c, op);
    if (op < 0x30) {
        int8_t distance = (int8_t)fetch(c);
        if (low != 1 && m68_condition(c, low)) jump_by(c, distance);
        return 4;
    }
    if (low == 1 || low == 2 || low == 5 || low == 11 || (op < 0x60 && low == 14)) return 2;
    if (op < 0x60) {
        uint8_t *acc = op < 0x50 ? &c->a : &c->b;
        *acc = change(c, low, *acc);
        return 2;
    }
    uint16_t at = m6800_address(c, op < 0x70 ? 2 : 3);
    if (low == 14) {
        jump(c, at);
        return op < 0x70 ? 4 : 3;
    }
    uint8_t v = change(c, low, rd(c, at)); /* CLR reads, too */
    if (low != 13) wr(c, at, v);
    return op < 0x70 ? 7 : 6;
}

/* ---- running ---- */

void sim_6800_reset(sim_6800 *c)
{
    c->rest = c->special = c->nmi = false;
    c->line[M6800_LATER] = 0;
    c->cc |= M68_I | M68_ONES;
    c->pc = m68_rd16(c, 0xFFFE);
    c->cycles += 3;
}

/* An interrupt, or a wait up to some cycle. False: the next instruction is due. */
static bool m6800_attend(cpu *c, uint64_t cycles)
{
    bool later = c->line[M6800_LATER] != 0;
    c->line[M6800_LATER] = 0;
    if (c->nmi || (c->irq && !later && (c->cc & M68_I) == 0)) {
        uint16_t vector = c->nmi ? 0xFFFC : 0xFFF8;
        c->cycles += c->rest ? 4 : 12; /* WAI has done the most of it */
        if (!c->rest) m6800_save(c);
        c->nmi = c->rest = false;
        m6800_enter(c, vector);
        return true;
    }
    if (c->rest) c->cycles = cycles;
    return c->rest;
}

#define SIM_EXECUTE m6800_execute
SIM_INSTRUCTION(cpu, fetch_first)
SIM_RUN(sim_6800, sim_6800, m68_begin, m6800_attend, m68_end)
SIM_RESET(sim_6800, sim_6800)

static const sim_register registers[] = {
    SIM_REGISTER(sim_6800, "pc", pc, true),
    SIM_REGISTER(sim_6800, "a", a, true),
    SIM_REGISTER(sim_6800, "b", b, true),
    SIM_REGISTER(sim_6800, "x", x, true),
    SIM_REGISTER(sim_6800, "sp", sp, true),
    SIM_REGISTER(sim_6800, "cc", cc, true),
    SIM_REGISTER(sim_6800, "waiting", rest, false),
    SIM_REGISTER(sim_6800, "masked_still", line[M6800_LATER], false),
};
static const char *const sheets[] = {"6800", NULL};
const sim_cpu_kind sim_6800_kind = {
    .sheets = sheets,
    .size = sizeof(cpu),
    .registers = registers,
    .register_count = sizeof registers / sizeof registers[0],
    .reset = reset,
    .step = step,
    .run = run,
    .requests = sim_requests,
    .request_count = SIM_REQUESTS_USUAL,
};
