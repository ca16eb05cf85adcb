/* cpu6809.c - the 6809. The table of opcodes is the 6800's with a direct page that moves, index
 * bytes, and two more pages for the registers that the 6800 did not have.
 */
#include "cpu6809.h"

typedef sim_6809 cpu;
#define SIM_LENGTH(c, code, have) sim_6809_length(code, have)
enum { M68_RIGHT_OVERFLOWS = false, M68_TEST_CLEARS_CARRY = false };
#include "m68.h"

SIM_INLINE unsigned d(const cpu *c)
{
    return (unsigned)c->a << 8 | c->b;
}

SIM_INLINE void set_d(cpu *c, unsigned v)
{
    c->a = (uint8_t)(v >> 8);
    c->b = (uint8_t)v;
}

/* ---- stacks; sp is where the last byte pushed is ---- */

SIM_INLINE void m6809_push(cpu *c, unsigned stack, uint8_t v)
{
    wr(c, --c->index[stack], v);
}

SIM_INLINE uint8_t m6809_pull(cpu *c, unsigned stack)
{
    return rd(c, c->index[stack]++);
}

SIM_INLINE void m6809_push16(cpu *c, unsigned stack, uint16_t v)
{
    c->index[stack] = (uint16_t)(c->index[stack] - 2);
    m68_wr16(c, c->index[stack], v);
}

SIM_INLINE uint16_t m6809_pull16(cpu *c, unsigned stack)
{
    uint16_t v = m68_rd16(c, c->index[stack]);
    c->index[stack] = (uint16_t)(c->index[stack] + 2);
    return v;
}

/* The registers that a list names, from the highest bit down. Returns the bytes: each takes a
 * cycle. */
static unsigned push_list(cpu *c, unsigned stack, unsigned list)
{
    unsigned other = stack == M68_S ? M68_U : M68_S, bytes = 0;
    if ((list & 0x80) != 0) m6809_push16(c, stack, here(c)), bytes += 2;
    if ((list & 0x40) != 0) m6809_push16(c, stack, c->index[other]), bytes += 2;
    if ((list & 0x20) != 0) m6809_push16(c, stack, c->index[M68_Y]), bytes += 2;
    if ((list & 0x10) != 0) m6809_push16(c, stack, c->index[M68_X]), bytes += 2;
    if ((list & 0x08) != 0) m6809_push(c, stack, c->dp), bytes++;
    if ((list & 0x04) != 0) m6809_push(c, stack, c->b), bytes++;
    if ((list & 0x02) != 0) m6809_push(c, stack, c->a), bytes++;
    if ((list & 0x01) != 0) m6809_push(c, stack, m68_give_flags(c)), bytes++;
    return bytes;
}

static unsigned pull_list(cpu *c, unsigned stack, unsigned list)
{
    unsigned other = stack == M68_S ? M68_U : M68_S, bytes = 0;
    if ((list & 0x01) != 0) m68_take_flags(c, m6809_pull(c, stack)), bytes++;
    if ((list & 0x02) != 0) c->a = m6809_pull(c, stack), bytes++;
    if ((list & 0x04) != 0) c->b = m6809_pull(c, stack), bytes++;
    if ((list & 0x08) != 0) c->dp = m6809_pull(c, stack), bytes++;
    if ((list & 0x10) != 0) c->index[M68_X] = m6809_pull16(c, stack), bytes += 2;
    if ((list & 0x20) != 0) c->index[M68_Y] = m6809_pull16(c, stack), bytes += 2;
    if ((list & 0x40) != 0) {
        c->index[other] = m6809_pull16(c, stack), bytes += 2;
        if (other == M68_S) c->armed = true; /* a load of S */
    }
    if ((list & 0x80) != 0) jump(c, m6809_pull16(c, stack)), bytes += 2;
    return bytes;
}

/* ---- where an operand is ---- */

SIM_INLINE uint16_t direct(cpu *c)
{
    return (uint16_t)(c->dp << 8 | fetch(c));
}

/* The address that an index byte means, first of those with bytes behind them or with a pointer in
 * memory. The numbers of cycles added are the data sheet's. */
static uint16_t indexed_far(cpu *c, uint8_t how)
{
    static const uint8_t times[] = {2, 3, 2, 3, 0, 1, 1, 0, 1, 4, 0, 4, 1, 5, 0, 2};
    uint16_t *r = &c->index[how >> 5 & 3], at = *r;
    unsigned way = how & 15;
    if (way == 15 && (how & 0x10) == 0) return at; /* undefined */
    SIM_SPEND(c, times[way] + ((how & 0x10) != 0 ? 3u : 0u));
    switch (way) {
    case 0: *r = (uint16_t)(at + 1); break;
    case 1: *r = (uint16_t)(at + 2); break;
    case 2: *r = at = (uint16_t)(at - 1); break;
    case 3: *r = at = (uint16_t)(at - 2); break;
    case 5: at = (uint16_t)(at + (int8_t)c->b); break;
    case 6: at = (uint16_t)(at + (int8_t)c->a); break;
    case 8: at = (uint16_t)(at + (int8_t)fetch(c)); break;
    case 9: at = (uint16_t)(at + m68_fetch16(c)); break;
    case 11: at = (uint16_t)(at + d(c)); break;
    case 12:
        at = (uint16_t)(int8_t)fetch(c);
        at = (uint16_t)(at + here(c));
        break;
    case 13:
        at = m68_fetch16(c);
        at = (uint16_t)(at + here(c));
        break;
    case 15: at = m68_fetch16(c); break;
    default: break;
    }
    return (how & 0x10) != 0 ? m68_rd16(c, at) : at;
}

/* Those that need the register alone, without a frame on the host's stack. */
SIM_INLINE uint16_t index_address(cpu *c, uint8_t how)
{
    uint16_t *r = &c->index[how >> 5 & 3], at = *r;
    if ((how & 0x80) == 0) {
        SIM_SPEND(c, 1);
        return (uint16_t)(at + (how & 0x0F) - (how & 0x10)); /* five bits with a sign */
    }
    switch (how & 0x1F) {
    case 0:
        SIM_SPEND(c, 2);
        (*r)++;
        return at;
    case 2: SIM_SPEND(c, 2); return --*r;
    case 4: return at;
    case 5: SIM_SPEND(c, 1); return (uint16_t)(at + (int8_t)c->b);
    default: return indexed_far(c, how);
    }
}

#define ONE_INDEX_BYTE(how)                                                                        \
    case how: return index_address(c, how);

static uint16_t indexed_by(cpu *c, uint8_t how)
{
    switch (how) {
        SIM_EACH_BYTE(ONE_INDEX_BYTE)
    default: SIM_NEVER;
    }
    return 0;
}

SIM_INLINE uint16_t m6809_indexed(cpu *c)
{
    uint8_t how = fetch(c);
    if ((how & 0x9F) != 0x88) return indexed_by(c, how);
    SIM_SPEND(c, 1); /* eight bits */
    uint16_t at = c->index[how >> 5 & 3];
    return (uint16_t)(at + (int8_t)fetch(c));
}

/* way: 1 direct, 2 indexed, 3 a whole address */
SIM_INLINE uint16_t m6809_address(cpu *c, unsigned way)
{
    return way == 1 ? direct(c) : way == 2 ? m6809_indexed(c) : m68_fetch16(c);
}

SIM_INLINE unsigned operand16(cpu *c, unsigned way)
{
    return way == 0 ? m68_fetch16(c) : m68_rd16(c, m6809_address(c, way));
}

/* ---- sixteen bits ---- */

SIM_INLINE unsigned m6809_add16(cpu *c, unsigned a, unsigned v)
{
    unsigned r = a + v;
    c->v = (uint8_t)((~(a ^ v) & (a ^ r)) >> 8);
    c->carry = (uint8_t)(r >> 16);
    nz16(c, r & 0xFFFF);
    return r;
}

SIM_INLINE unsigned subtract16(cpu *c, unsigned a, unsigned v)
{
    unsigned r = a - v;
    c->v = (uint8_t)(((a ^ v) & (a ^ r)) >> 8);
    c->carry = r >> 16 & 1;
    nz16(c, r & 0xFFFF);
    return r;
}

SIM_INLINE void load16(cpu *c, unsigned n, unsigned v)
{
    c->index[n] = (uint16_t)v;
    c->v = 0;
    nz16(c, v);
    if (n == M68_S) c->armed = true;
}

/* Where a register is stored is formed before it is looked at: it may be the one that indexes. */
SIM_INLINE void store16(cpu *c, uint16_t at, unsigned v)
{
    m68_wr16(c, at, (uint16_t)v);
    c->v = 0;
    nz16(c, v);
}

/* ---- registers by their code in TFR and EXG ---- */

static unsigned register_get(const cpu *c, unsigned code)
{
    switch (code) {
    case 0: return d(c);
    case 1: return c->index[M68_X];
    case 2: return c->index[M68_Y];
    case 3: return c->index[M68_U];
    case 4: return c->index[M68_S];
    case 5: return here(c);
    case 8: return 0xFF00u | c->a;
    case 9: return 0xFF00u | c->b;
    case 10: return 0xFF00u | m68_give_flags(c);
    case 11: return 0xFF00u | c->dp;
    default: return 0xFFFF;
    }
}

static void register_set(cpu *c, unsigned code, unsigned v)
{
    switch (code) {
    case 0: set_d(c, v); break;
    case 1: c->index[M68_X] = (uint16_t)v; break;
    case 2: c->index[M68_Y] = (uint16_t)v; break;
    case 3: c->index[M68_U] = (uint16_t)v; break;
    case 4:
        c->index[M68_S] = (uint16_t)v;
        c->armed = true;
        break;
    case 5: jump(c, (uint16_t)v); break;
    case 8: c->a = (uint8_t)v; break;
    case 9: c->b = (uint8_t)v; break;
    case 10: m68_take_flags(c, v & 0xFF); break;
    case 11: c->dp = (uint8_t)v; break;
    default: break;
    }
}

static unsigned exchange(cpu *c, bool both)
{
    unsigned codes = fetch(c), from = codes >> 4, to = codes & 15;
    unsigned a = register_get(c, from), b = register_get(c, to);
    register_set(c, to, a);
    if (both) register_set(c, from, b);
    return both ? 8 : 6;
}

/* ---- interrupts ---- */

enum { EVERYTHING = 0xFF, PC_AND_CC = 0x81 };

/* Saves the registers; E tells RTI later how many. Its cycles are counted by the caller. */
static void m6809_save(cpu *c, unsigned list)
{
    c->cc = (uint8_t)(list == EVERYTHING ? c->cc | M68_E : c->cc & ~M68_E);
    push_list(c, M68_S, list);
}

static void m6809_enter(cpu *c, uint16_t vector, unsigned masks)
{
    c->cc |= (uint8_t)masks;
    jump(c, m68_rd16(c, vector));
}

static unsigned return_from_interrupt(cpu *c)
{
    m68_take_flags(c, m6809_pull(c, M68_S));
    bool whole = (c->cc & M68_E) != 0;
    pull_list(c, M68_S, (whole ? EVERYTHING : PC_AND_CC) & ~1u);
    return whole ? 15 : 6;
}

static unsigned software_interrupt(cpu *c, uint16_t vector, unsigned masks)
{
    m6809_save(c, EVERYTHING);
    m6809_enter(c, vector, masks);
    return 19;
}

/* ---- the other pages ---- */

static unsigned long_branch(cpu *c, uint8_t op)
{
    int16_t distance = (int16_t)m68_fetch16(c);
    if (op == 0x21 || !m68_condition(c, op & 15)) return 5;
    jump_by(c, distance);
    return 6;
}

/* After $10: Y and S for X and U, and comparing D. After $11: comparing U and S. */
static unsigned other_page(cpu *c, bool second)
{
    static const uint8_t compare_times[] = {5, 7, 7, 8}, load_times[] = {4, 6, 6, 7};
    uint8_t op = fetch(c);
    unsigned way = op >> 4 & 3, n = (op & 0x40) != 0 ? M68_S : M68_Y, v;
    uint16_t at;
    if (op == 0x3F) return software_interrupt(c, second ? 0xFFF2 : 0xFFF4, 0) + 1;
    if (!second && op > 0x20 && op < 0x30) return long_branch(c, op);
    if (op < 0x80) return 2; /* not in the data sheet */
    switch (op & 0x4F) {
    case 0x03:
        v = operand16(c, way); /* which may change the register */
        subtract16(c, second ? c->index[M68_U] : d(c), v);
        return compare_times[way];
    case 0x0C:
        v = operand16(c, way);
        subtract16(c, c->index[second ? M68_S : M68_Y], v);
        return compare_times[way];
    case 0x0E:
    case 0x4E:
        if (second) return 2;
        load16(c, n, operand16(c, way));
        return load_times[way];
    case 0x0F:
    case 0x4F:
        if (second || way == 0) return 2;
        at = m6809_address(c, way);
        store16(c, at, c->index[n]);
        return load_times[way];
    default: return 2;
    }
}

/* ---- the main page ---- */

SIM_INLINE void load_address(cpu *c, unsigned n)
{
    uint16_t at = m6809_indexed(c);
    c->index[n] = at;
    if (n == M68_X || n == M68_Y) c->z = (uint8_t)(at | at >> 8);
    if (n == M68_S) c->armed = true;
}

static unsigned multiply(cpu *c)
{
    unsigned r = (unsigned)c->a * c->b;
    set_d(c, r);
    c->z = (uint8_t)(r | r >> 8);
    c->carry = r >> 7 & 1;
    return 11;
}

/* Where NMI, FIRQ and IRQ reach the CPU: is one requested that is not masked? */
static bool interrupt_requested(const cpu *c)
{
    return (c->nmi && c->armed) || (c->line[0] != 0 && (c->cc & M68_F) == 0) ||
           (c->irq && (c->cc & M68_I) == 0);
}

/* Twenty cycles to the handler when it need not wait, seven of which m6809_interrupt() counts. */
static unsigned wait_for_interrupt(cpu *c)
{
    m68_take_flags(c, m68_give_flags(c) & fetch(c));
    m6809_save(c, EVERYTHING);
    c->rest = c->saved = true;
    SIM_LOOK(c);
    return interrupt_requested(c) ? 13 : 20;
}

/* From $10 to $3F, without the branches. */
SIM_INLINE unsigned m6809_inherent(cpu *c, uint8_t op)
{
    uint16_t distance;
    switch (op) {
    case 0x10: return other_page(c, false);
    case 0x11: return other_page(c, true);
    case 0x13:
        c->rest = true;
        SIM_LOOK(c);
        return 4;
    case 0x16:
    case 0x17:
        distance = m68_fetch16(c);
        if (op == 0x17) m6809_push16(c, M68_S, here(c));
        jump_by(c, (int16_t)distance);
        return op == 0x17 ? 9 : 5;
    case 0x19: m68_decimal_adjust(c); return 2;
    case 0x1A: m68_take_flags(c, m68_give_flags(c) | fetch(c)); return 3;
    case 0x1C: m68_take_flags(c, m68_give_flags(c) & fetch(c)); return 3;
    case 0x1D:
        c->a = (c->b & 0x80) != 0 ? 0xFF : 0;
        nz16(c, d(c));
        return 2;
    case 0x1E: return exchange(c, true);
    case 0x1F: return exchange(c, false);
    case 0x30:
    case 0x31:
    case 0x32:
    case 0x33: load_address(c, op == 0x32 ? M68_S : op == 0x33 ? M68_U : op & 3u); return 4;
    case 0x34: return 5 + push_list(c, M68_S, fetch(c));
    case 0x35: return 5 + pull_list(c, M68_S, fetch(c));
    case 0x36: return 5 + push_list(c, M68_U, fetch(c));
    case 0x37: return 5 + pull_list(c, M68_U, fetch(c));
    case 0x39: jump(c, m6809_pull16(c, M68_S)); return 5;
    case 0x3A: c->index[M68_X] = (uint16_t)(c->index[M68_X] + c->b); return 3;
    case 0x3B: return return_from_interrupt(c);
    case 0x3C: return wait_for_interrupt(c);
    case 0x3D: return multiply(c);
    case 0x3F: return software_interrupt(c, 0xFFFA, M68_I | M68_F);
    default: return 2;
    }
}

/* D, X, U and JSR in the upper half of the table. */
SIM_INLINE unsigned m6809_wide(cpu *c, uint8_t op)
{
    static const uint8_t sum_times[] = {4, 6, 6, 7}, load_times[] = {3, 5, 5, 6};
    unsigned way = op >> 4 & 3, n = (op & 0x40) != 0 ? M68_U : M68_X, v;
    uint16_t at;
    switch (op & 0x4F) {
    case 0x03:
        v = operand16(c, way);
        set_d(c, subtract16(c, d(c), v));
        return sum_times[way];
    case 0x43:
        v = operand16(c, way);
        set_d(c, m6809_add16(c, d(c), v));
        return sum_times[way];
    case 0x0C:
        v = operand16(c, way); /* which may change X */
        subtract16(c, c->index[M68_X], v);
        return sum_times[way];
    case 0x4C:
        set_d(c, operand16(c, way));
        c->v = 0;
        nz16(c, d(c));
        return load_times[way];
    case 0x0E:
    case 0x4E: load16(c, n, operand16(c, way)); return load_times[way];
    case 0x0F:
    case 0x4F:
        if (way == 0) return 2; /* not in the data sheet */
        at = m6809_address(c, way);
        store16(c, at, c->index[n]);
        return load_times[way];
    case 0x4D:
        if (way == 0) return 2; /* nor this */
        at = m6809_address(c, way);
        store16(c, at, d(c));
        return load_times[way];
    default: /* BSR, JSR */
        if (way == 0) {
            int8_t distance = (int8_t)fetch(c);
            m6809_push16(c, M68_S, here(c));
            jump_by(c, distance);
            return 7;
        }
        at = m6809_address(c, way);
        m6809_push16(c, M68_S, here(c));
        jump(c, at);
        return way == 3 ? 8 : 7;
    }
}

SIM_INLINE unsigned m6809_upper(cpu *c, uint8_t op)
{
    static const uint8_t times[] = {2, 4, 4, 5};
    unsigned way = op >> 4 & 3, low = op & 15;
    uint8_t *acc = (op & 0x40) != 0 ? &c->b : &c->a;
    if (low == 3 || low >= 12) return m6809_wide(c, op);
    if (low == 7 && way == 0) return 2;
    if (low == 7 && way == 1) {
        uint8_t at = fetch(c);
        wr_page(c, c->dp, at, logic(c, *acc));
    } else if (low == 7) {
        uint16_t at = m6809_address(c, way);
        wr(c, at, logic(c, *acc));
    } else if (way == 1)
        m68_operate(c, low, acc, rd_page(c, c->dp, fetch(c)));
    else
        m68_operate(c, low, acc, way == 0 ? fetch(c) : rd(c, m6809_address(c, way)));
    return times[way];
}

/* The opcode is a constant where this is called (SIM_EACH_BYTE): of its tests nothing is left. */
SIM_INLINE unsigned m6809_execute(cpu *c, uint8_t op)
{
    unsigned low = op & 15;
    if (op >= 0x80) return m6809_upper(c, op);
    if (op >= 0x20 && op < 0x30) {
        int8_t distance = (int8_t)fetch(c);
        if (low != 1 && m68_condition(c, low)) jump_by(c, distance);
        return 3;
    }
    if (op >= 0x10 && op < 0x40) return m6809_inherent(c, op);
    bool in_register = op >= 0x40 && op < 0x60;
    if (low == 1 || low == 2 || low == 5 || low == 11 || (in_register && low == 14)) return 2;
    if (in_register) {
        uint8_t *acc = op < 0x50 ? &c->a : &c->b;
        *acc = change(c, low, *acc);
        return 2;
    }
    if (op < 0x10 && low != 14) {
        uint8_t page = c->dp, at = fetch(c);
        uint8_t v = change(c, low, rd_page(c, page, at)); /* CLR reads, too */
        if (low != 13) wr_page(c, page, at, v);
        return 6;
    }
    uint16_t at = m6809_address(c, op < 0x10 ? 1 : op < 0x70 ? 2 : 3);
    if (low == 14) {
        jump(c, at);
        return op < 0x70 ? 3 : 4;
    }
    uint8_t v = change(c, low, rd(c, at));
    if (low != 13) wr(c, at, v);
    return op < 0x70 ? 6 : 7;
}

/* ---- running ---- */

void sim_6809_reset(sim_6809 *c)
{
    c->rest = c->special = c->nmi = c->saved = c->armed = false;
    c->dp = 0;
    c->cc |= M68_I | M68_F;
    c->pc = m68_rd16(c, 0xFFFE);
    c->cycles += 7;
}

/* Takes what is requested and not masked; the registers may be on the stack already, all of them.
 */
static bool m6809_interrupt(cpu *c)
{
    bool nmi = c->nmi && c->armed, fast = c->line[0] != 0 && (c->cc & M68_F) == 0;
    if (!interrupt_requested(c)) return false;
    if (!c->rest) c->saved = false; /* CWAI's wait was ended from the panel */
    unsigned list = nmi || !fast ? EVERYTHING : PC_AND_CC;
    if (!c->saved) m6809_save(c, list);
    c->cycles += c->saved ? 7 : list == EVERYTHING ? 19 : 10;
    c->rest = c->saved = false;
    if (nmi) c->nmi = false;
    m6809_enter(c, nmi ? 0xFFFC : fast ? 0xFFF6 : 0xFFF8, nmi || fast ? M68_I | M68_F : M68_I);
    return true;
}

/* An interrupt, or a wait up to some cycle. False: the next instruction is due. */
static bool m6809_attend(cpu *c, uint64_t cycles)
{
    if (c->nmi && !c->armed) c->nmi = false;
    if (m6809_interrupt(c)) return true;
    /* SYNC goes on at any request, masked or not. */
    if (c->rest && !c->saved && (c->irq || c->line[0] != 0)) c->rest = false;
    if (c->rest) c->cycles = cycles;
    return c->rest;
}

#define SIM_EXECUTE m6809_execute
SIM_INSTRUCTION(cpu, fetch_first)
SIM_RUN(sim_6809, sim_6809, m68_begin, m6809_attend, m68_end)
SIM_RESET(sim_6809, sim_6809)

static const sim_register registers[] = {
    SIM_REGISTER(sim_6809, "pc", pc, true),        SIM_REGISTER(sim_6809, "a", a, true),
    SIM_REGISTER(sim_6809, "b", b, true),          SIM_REGISTER(sim_6809, "x", index[0], true),
    SIM_REGISTER(sim_6809, "y", index[1], true),   SIM_REGISTER(sim_6809, "u", index[2], true),
    SIM_REGISTER(sim_6809, "s", index[3], true),   SIM_REGISTER(sim_6809, "dp", dp, true),
    SIM_REGISTER(sim_6809, "cc", cc, true),        SIM_REGISTER(sim_6809, "waiting", rest, false),
    SIM_REGISTER(sim_6809, "saved", saved, false), SIM_REGISTER(sim_6809, "armed", armed, false),
};
static const char *const sheets[] = {"6809", NULL};
static const sim_request requests[] = {
    SIM_REQUEST_IRQ("irq"), SIM_REQUEST_NMI("nmi"), {"firq", offsetof(cpu, line[0]), 0, false}};
const sim_cpu_kind sim_6809_kind = {
    .sheets = sheets,
    .size = sizeof(cpu),
    .registers = registers,
    .register_count = sizeof registers / sizeof registers[0],
    .reset = reset,
    .step = step,
    .run = run,
    .requests = requests,
    .request_count = sizeof requests / sizeof requests[0],
};
