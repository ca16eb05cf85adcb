/* cpuez80.c - the instructions of the eZ80 but for the page of $ED (ez80_extended.c), suffixes and
 * interrupts. What they reach is in ez80_bus.c. */
#include "cpuez80.h"

#include "ez80_state.h"

/* ---- arithmetic ---- */

static uint8_t parity(uint8_t v)
{
    v ^= v >> 4, v ^= v >> 2, v ^= v >> 1;
    return (v & 1) == 0 ? EZ_P : 0;
}

uint8_t ez80_sz(uint8_t v)
{
    return (uint8_t)((v & EZ_S) | (v == 0 ? EZ_Z : 0));
}

uint8_t ez80_szp(uint8_t v)
{
    return ez80_sz(v) | parity(v);
}

static uint8_t add(sim_ez80 *c, unsigned a, unsigned v, unsigned carry)
{
    unsigned sum = a + v + carry;
    c->f = (uint8_t)(ez80_sz((uint8_t)sum) | ((a ^ v ^ sum) & EZ_H) |
                     ((~(a ^ v) & (a ^ sum) & 0x80) != 0 ? EZ_P : 0) | (sum > 0xFF ? EZ_C : 0));
    return (uint8_t)sum;
}

uint8_t ez80_subtract(sim_ez80 *c, unsigned a, unsigned v, unsigned borrow)
{
    unsigned r = a - v - borrow;
    c->f = (uint8_t)(ez80_sz((uint8_t)r) | ((a ^ v ^ r) & EZ_H) |
                     (((a ^ v) & (a ^ r) & 0x80) != 0 ? EZ_P : 0) | EZ_N | (r > 0xFF ? EZ_C : 0));
    return (uint8_t)r;
}

static void operate(sim_ez80 *c, unsigned op, uint8_t v)
{
    unsigned carry = c->f & EZ_C;
    switch (op) {
    case 0: c->a = add(c, c->a, v, 0); break;
    case 1: c->a = add(c, c->a, v, carry); break;
    case 2: c->a = ez80_subtract(c, c->a, v, 0); break;
    case 3: c->a = ez80_subtract(c, c->a, v, carry); break;
    case 4:
        c->a &= v;
        c->f = ez80_szp(c->a) | EZ_H;
        break;
    case 5:
        c->a ^= v;
        c->f = ez80_szp(c->a);
        break;
    case 6:
        c->a |= v;
        c->f = ez80_szp(c->a);
        break;
    default: ez80_subtract(c, c->a, v, 0); break;
    }
}

static uint8_t count(sim_ez80 *c, uint8_t v, bool up)
{
    uint8_t carry = c->f & EZ_C, r;
    r = up ? add(c, v, 1, 0) : ez80_subtract(c, v, 1, 0);
    c->f = (uint8_t)((c->f & ~EZ_C) | carry);
    return r;
}

static uint8_t rotate(sim_ez80 *c, unsigned op, uint8_t v)
{
    unsigned carry = c->f & EZ_C, out = (op & 1) != 0 ? v & 1u : (unsigned)v >> 7;
    switch (op) {
    case 0: v = (uint8_t)(v << 1 | v >> 7); break;
    case 1: v = (uint8_t)(v >> 1 | v << 7); break;
    case 2: v = (uint8_t)((unsigned)v << 1 | carry); break;
    case 3: v = (uint8_t)((unsigned)v >> 1 | carry << 7); break;
    case 4: v = (uint8_t)(v << 1); break;
    case 5: v = (uint8_t)((v >> 1) | (v & 0x80)); break;
    default: v = (uint8_t)(v >> 1); break;
    }
    c->f = (uint8_t)(ez80_szp(v) | out);
    return v;
}

static void decimal(sim_ez80 *c)
{
    unsigned fix = 0, carry = c->f & EZ_C, a = c->a;
    if ((c->f & EZ_H) != 0 || (a & 15) > 9) fix = 6;
    if (carry != 0 || a > 0x99) fix |= 0x60, carry = 1;
    unsigned r = (c->f & EZ_N) != 0 ? a - fix : a + fix;
    c->f = (uint8_t)(ez80_szp((uint8_t)r) | ((a ^ r) & EZ_H) | (c->f & EZ_N) | carry);
    c->a = (uint8_t)r;
}

/* RLCA and the like, DAA, CPL, SCF, CCF. */
static void on_a(sim_ez80 *c, unsigned y)
{
    uint8_t kept = c->f & (EZ_S | EZ_Z | EZ_P);
    switch (y) {
    case 4: decimal(c); break;
    case 5:
        c->a = (uint8_t)~c->a;
        c->f |= EZ_H | EZ_N;
        break;
    case 6: c->f = kept | EZ_C; break;
    case 7: c->f = (uint8_t)(kept | ((c->f & EZ_C) != 0 ? EZ_H : EZ_C)); break;
    default:
        c->a = rotate(c, y, c->a);
        c->f = (uint8_t)(kept | (c->f & EZ_C));
        break;
    }
}

static uint32_t add_words(ez80_run *x, uint32_t a, uint32_t v)
{
    sim_ez80 *c = x->c;
    uint32_t sum = a + v, top = x->wide ? 0x1000000 : 0x10000;
    c->f = (uint8_t)((c->f & (EZ_S | EZ_Z | EZ_P)) | ((a ^ v ^ sum) >> 8 & EZ_H) |
                     (sum >= top ? EZ_C : 0));
    return sum;
}

static bool condition(const sim_ez80 *c, unsigned y)
{
    static const uint8_t masks[4] = {EZ_Z, EZ_C, EZ_P, EZ_S};
    return ((c->f & masks[y >> 1]) != 0) == ((y & 1) != 0);
}

/* ---- instructions ---- */

static void relative(ez80_run *x, bool taken)
{
    uint32_t distance = ez80_distance(ez80_next_byte(x));
    if (!taken) return;
    x->c->left--;
    ez80_jump(x->c, x->c->far_pc + distance);
}

static void exchange(uint32_t *a, uint32_t *b)
{
    uint32_t v = *a;
    *a = *b;
    *b = v;
}

static void branches(ez80_run *x, unsigned y)
{
    sim_ez80 *c = x->c;
    uint8_t v;
    switch (y) {
    case 0: break;
    case 1:
        v = c->a, c->a = c->a2, c->a2 = v;
        v = c->f, c->f = c->f2, c->f2 = v;
        break;
    case 2:
        v = (uint8_t)(ez80_high(c->bc) - 1);
        ez80_set_high(&c->bc, v);
        relative(x, v != 0);
        break;
    case 3: relative(x, true); break;
    default: relative(x, condition(c, y - 4)); break;
    }
}

/* Through BC, DE, and an address in the code. */
static void indirect(ez80_run *x, unsigned y)
{
    sim_ez80 *c = x->c;
    switch (y) {
    case 0: ez80_store(x, c->bc, c->a); break;
    case 1: c->a = ez80_load(x, c->bc); break;
    case 2: ez80_store(x, c->de, c->a); break;
    case 3: c->a = ez80_load(x, c->de); break;
    case 4: ez80_store_word(x, ez80_immediate(x), *ez80_hl(x)); break;
    case 5: ez80_set_pair(x, 2, ez80_load_word(x, ez80_immediate(x))); break;
    case 6: ez80_store(x, ez80_immediate(x), c->a); break;
    default: c->a = ez80_load(x, ez80_immediate(x)); break;
    }
}

/* Behind an index prefix some codes load and store words through it. True: it was one. */
static bool indexed_words(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    uint32_t *other = x->index == 1 ? &c->iy : &c->ix;
    if (x->index == 0) return false;
    uint32_t *words[4] = {&c->bc, &c->de, &c->hl, ez80_hl(x)};
    if ((op & 0xCF) == 0x07) {
        *words[op >> 4] = ez80_load_word(x, ez80_pointer(x));
    } else if ((op & 0xCF) == 0x0F) {
        ez80_store_word(x, ez80_pointer(x), *words[op >> 4]);
    } else if (op == 0x31) {
        *other = ez80_load_word(x, ez80_pointer(x));
    } else if (op == 0x3E) {
        ez80_store_word(x, ez80_pointer(x), *other);
    } else {
        return false;
    }
    return true;
}

static void low_group(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    unsigned y = op >> 3 & 7, p = y >> 1;
    uint32_t step = (y & 1) == 0 ? 1 : 0xFFFFFF;
    if (indexed_words(x, op)) return;
    switch (op & 7) {
    case 0: branches(x, y); break;
    case 1:
        if ((y & 1) == 0)
            ez80_set_pair(x, p, ez80_immediate(x));
        else
            ez80_set_pair(x, 2, add_words(x, ez80_pair(x, 2), ez80_pair(x, p)));
        break;
    case 2: indirect(x, y); break;
    case 3: ez80_set_pair(x, p, ez80_pair(x, p) + step); break;
    case 4: ez80_set(x, y, count(c, ez80_get(x, y, false), true), false); break;
    case 5: ez80_set(x, y, count(c, ez80_get(x, y, false), false), false); break;
    case 6:
        if (y == 6) ez80_pointer(x); /* the distance stands before the value */
        ez80_set(x, y, ez80_next_byte(x), false);
        break;
    default: on_a(c, y); break;
    }
}

static void push_or_call(ez80_run *x, unsigned y)
{
    sim_ez80 *c = x->c;
    if ((y & 1) != 0) {
        ez80_call(x, ez80_immediate(x));
    } else if (y == 6) {
        ez80_push(x, (uint32_t)c->a << 8 | c->f);
    } else {
        ez80_push(x, ez80_pair(x, y >> 1));
    }
}

static void pop_and_more(ez80_run *x, unsigned y)
{
    sim_ez80 *c = x->c;
    uint32_t v;
    switch (y) {
    case 1: ez80_return(x); break;
    case 3: exchange(&c->bc, &c->bc2), exchange(&c->de, &c->de2), exchange(&c->hl, &c->hl2); break;
    case 5:
        if (x->suffix) c->adl = x->wide;
        ez80_jump(c, *ez80_hl(x));
        break;
    case 7: ez80_set_pair(x, 3, *ez80_hl(x)); break;
    case 6:
        v = ez80_pop(x);
        c->a = ez80_high(v), c->f = ez80_low(v);
        break;
    default: ez80_set_pair(x, y >> 1, ez80_pop(x)); break;
    }
}

static void jump_far(ez80_run *x, bool taken)
{
    uint32_t to = ez80_immediate(x);
    if (!taken) return;
    if (x->suffix) x->c->adl = x->wide_code;
    x->c->left--;
    ez80_jump(x->c, to);
}

/* $CB: rotations, and single bits. With an index register the distance stands before the code. */
static void bits_page(ez80_run *x)
{
    sim_ez80 *c = x->c;
    if (x->index != 0) ez80_pointer(x);
    uint8_t op = ez80_next_byte(x), v = ez80_get(x, op & 7, true);
    unsigned y = op >> 3 & 7;
    switch (op >> 6) {
    case 0: v = rotate(c, y, v); break;
    case 1:
        c->f = (uint8_t)((c->f & EZ_C) | EZ_H | ((v >> y & 1) == 0 ? EZ_Z | EZ_P : 0) |
                         (y == 7 && (v & 0x80) != 0 ? EZ_S : 0));
        return;
    case 2: v = (uint8_t)(v & ~(1u << y)); break;
    default: v = (uint8_t)(v | 1u << y); break;
    }
    ez80_set(x, op & 7, v, true);
}

static void mixed(ez80_run *x, unsigned y)
{
    sim_ez80 *c = x->c;
    uint32_t v;
    switch (y) {
    case 0: jump_far(x, true); break;
    case 1: bits_page(x); break;
    case 2: ez80_out(x, (uint32_t)c->a << 8 | ez80_next_byte(x), c->a); break;
    case 3: c->a = ez80_in(x, (uint32_t)c->a << 8 | ez80_next_byte(x)); break;
    case 4:
        v = ez80_load_word(x, x->wide ? c->spl : c->sps);
        ez80_store_word(x, x->wide ? c->spl : c->sps, *ez80_hl(x));
        ez80_set_pair(x, 2, v);
        break;
    case 5: exchange(&c->de, &c->hl); break;
    case 6: c->iff1 = c->iff2 = false; break;
    default:
        c->iff1 = c->iff2 = c->later = true;
        SIM_LOOK(c);
        break;
    }
}

static void high_group(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    unsigned y = op >> 3 & 7;
    switch (op & 7) {
    case 0:
        c->left--;
        if (condition(c, y)) ez80_return(x);
        break;
    case 1: pop_and_more(x, y); break;
    case 2: jump_far(x, condition(c, y)); break;
    case 3: mixed(x, y); break;
    case 4: {
        uint32_t to = ez80_immediate(x);
        if (condition(c, y)) ez80_call(x, to);
        break;
    }
    case 5: push_or_call(x, y); break;
    case 6: operate(c, y, ez80_next_byte(x)); break;
    default: ez80_restart(x, y * 8u); break;
    }
}

static void halt(sim_ez80 *c)
{
    c->rest = true;
    SIM_LOOK(c);
}

/* Prefixes: a suffix, an index register, the page of $ED. */
static void execute(ez80_run *x)
{
    sim_ez80 *c = x->c;
    uint8_t op = ez80_next_byte(x);
    if (op == 0x40 || op == 0x49 || op == 0x52 || op == 0x5B) {
        x->suffix = true;
        x->wide = (op & 0x09) == 0x09;
        x->wide_code = op >= 0x52;
        op = ez80_next_byte(x);
    }
    while (op == 0xDD || op == 0xFD) {
        x->index = op == 0xDD ? 1 : 2;
        op = ez80_next_byte(x);
    }
    c->r = (uint8_t)((c->r & 0x80) | ((c->r + 1) & 0x7F));
    if (op == 0xED) {
        x->index = 0;
        ez80_extended(x);
    } else if (op == 0x76) {
        halt(c);
    } else if (op < 0x40) {
        low_group(x, op);
    } else if (op < 0x80) {
        bool memory = (op & 7) == 6 || (op >> 3 & 7) == 6;
        ez80_set(x, op >> 3 & 7, ez80_get(x, op & 7, memory), memory);
    } else if (op < 0xC0) {
        operate(c, op >> 3 & 7, ez80_get(x, op & 7, false));
    } else {
        high_group(x, op);
    }
}

/* ---- interrupts ---- */

/* With MADL the mode is kept on the stack, and the handler runs in ADL mode. */
static void interrupt(sim_ez80 *c)
{
    c->rest = false;
    uint32_t to = 0x66;
    if (c->nmi) {
        c->nmi = c->iff1 = false;
    } else {
        uint8_t vector = sim_acknowledge(c->bus);
        c->iff1 = c->iff2 = false;
        to = 0x38;
        if (c->mode == 2) {
            uint32_t at = (uint32_t)c->i << 8 | vector;
            bool wide = c->madl || c->adl;
            if (!wide) at = (uint32_t)c->mb << 16 | (at & 0xFFFF);
            to = ez80_read(c, at);
            to |= (uint32_t)ez80_read(c, at + 1) << 8;
            if (wide) to |= (uint32_t)ez80_read(c, at + 2) << 16;
        } else if (c->mode == 0) {
            to = vector & 0x38u; /* an RST on the bus */
        }
    }
    if (c->madl)
        ez80_far_call(c, to, true);
    else
        ez80_near_call(c, to);
}

static bool takes_interrupt(const sim_ez80 *c, bool later)
{
    return c->nmi || (c->irq && c->iff1 && !later);
}

static void step_one(sim_ez80 *c, uint64_t until)
{
    bool later = c->later;
    c->later = false;
    if (takes_interrupt(c, later)) {
        interrupt(c);
    } else if (c->rest) {
        c->cycles = until;
    } else {
        ez80_run x = {.c = c, .wide = c->adl, .wide_code = c->adl, .start = c->far_pc};
        execute(&x);
    }
    c->cycles -= (uint64_t)c->left; /* left counts down below 0 */
    c->left = 0;
}

/* Does a run end in front of this instruction? */
static bool stops_here(const sim_ez80 *c)
{
    const sim_bus *b = c->bus;
    if (c->far_pc < 0x10000) return sim_stops(b->stops, c->pc);
    for (size_t i = 0; i < b->far_stop_count; i++)
        if (b->far_stops[i] == c->far_pc) return true;
    return false;
}

static void run(sim_cpu *cpu, uint64_t cycles)
{
    sim_ez80 *c = (sim_ez80 *)cpu;
    c->left = 0;
    if (c->pc != c->told_pc) /* somebody has set it who knows 16 bits of it */
        c->far_pc = c->adl ? (c->far_pc & 0xFF0000) | c->pc : c->pc;
    do {
        step_one(c, cycles);
        c->pc = c->told_pc = (uint16_t)c->far_pc;
    } while (c->cycles < cycles && !stops_here(c));
}

static void step(sim_cpu *cpu)
{
    run(cpu, cpu->cycles + 1);
}

/* Out of reset in Z80 mode, from 0 on. */
static void reset(sim_cpu *cpu)
{
    sim_ez80 *c = (sim_ez80 *)cpu;
    c->far_pc = c->pc = c->told_pc = 0;
    c->adl = c->madl = c->iff1 = c->iff2 = c->later = false;
    c->rest = c->nmi = false;
    c->mb = c->mode = c->r = 0;
    c->i = 0;
    c->sps = 0;
    c->spl = 0;
    c->cycles += 3;
}

static const sim_register registers[] = {
    SIM_REGISTER(sim_ez80, "pc", far_pc, true),  SIM_REGISTER(sim_ez80, "a", a, true),
    SIM_REGISTER(sim_ez80, "f", f, true),        SIM_REGISTER(sim_ez80, "bc", bc, true),
    SIM_REGISTER(sim_ez80, "de", de, true),      SIM_REGISTER(sim_ez80, "hl", hl, true),
    SIM_REGISTER(sim_ez80, "ix", ix, true),      SIM_REGISTER(sim_ez80, "iy", iy, true),
    SIM_REGISTER(sim_ez80, "sps", sps, true),    SIM_REGISTER(sim_ez80, "spl", spl, true),
    SIM_REGISTER(sim_ez80, "mb", mb, true),      SIM_REGISTER(sim_ez80, "i", i, true),
    SIM_REGISTER(sim_ez80, "adl", adl, true),    SIM_REGISTER(sim_ez80, "r", r, false),
    SIM_REGISTER(sim_ez80, "a2", a2, false),     SIM_REGISTER(sim_ez80, "f2", f2, false),
    SIM_REGISTER(sim_ez80, "bc2", bc2, false),   SIM_REGISTER(sim_ez80, "de2", de2, false),
    SIM_REGISTER(sim_ez80, "hl2", hl2, false),   SIM_REGISTER(sim_ez80, "mode", mode, false),
    SIM_REGISTER(sim_ez80, "madl", madl, false), SIM_REGISTER(sim_ez80, "iff1", iff1, false),
    SIM_REGISTER(sim_ez80, "iff2", iff2, false), SIM_REGISTER(sim_ez80, "later", later, false),
    SIM_REGISTER(sim_ez80, "low_pc", pc, false), SIM_REGISTER(sim_ez80, "told_pc", told_pc, false),
};

static const char *const sheets[] = {"ez80", "ez80+z80", NULL};
const sim_cpu_kind sim_ez80_kind = {
    .sheets = sheets,
    .size = sizeof(sim_ez80),
    .registers = registers,
    .register_count = sizeof registers / sizeof registers[0],
    .reset = reset,
    .step = step,
    .run = run,
    .requests = sim_requests,
    .request_count = SIM_REQUESTS_USUAL,
};
