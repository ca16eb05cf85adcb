/* ez80_bus.c - what an instruction of the eZ80 reaches: bytes and words on the bus, the two stacks,
 * calls and returns between the modes, registers by their number. */
#include "ez80_state.h"

/* ---- the bus ---- */

uint8_t ez80_read(sim_ez80 *c, uint32_t address)
{
    const sim_bus *b = c->bus;
    address &= 0xFFFFFF;
    c->left--;
    if (address < 0x10000 || b->read_far == NULL) return sim_read(b, (uint16_t)address);
    return b->read_far(b->context, address);
}

void ez80_write(sim_ez80 *c, uint32_t address, uint8_t value)
{
    const sim_bus *b = c->bus;
    address &= 0xFFFFFF;
    c->left--;
    if (address < 0x10000 || b->write_far == NULL)
        sim_write(b, (uint16_t)address, value);
    else
        b->write_far(b->context, address, value);
}

/* Ports have 16 bits of address. */
uint8_t ez80_in(ez80_run *x, uint32_t port)
{
    const sim_bus *b = x->c->bus;
    x->c->left--;
    return b->in != NULL ? b->in(b->context, (uint16_t)port) : 0xFF;
}

void ez80_out(ez80_run *x, uint32_t port, uint8_t v)
{
    const sim_bus *b = x->c->bus;
    x->c->left--;
    if (b->out != NULL) b->out(b->context, (uint16_t)port, v);
}

uint8_t ez80_next_byte(ez80_run *x)
{
    sim_ez80 *c = x->c;
    uint32_t at = c->adl ? c->far_pc : (uint32_t)c->mb << 16 | (c->far_pc & 0xFFFF);
    const sim_bus *b = c->bus;
    uint8_t byte;
    c->left--;
    if (at < 0x10000 || b->read_far == NULL)
        byte = sim_fetch(b, (uint16_t)at);
    else if (at >> 8 == b->far_page)
        byte = b->far_bytes[at & 0xFF];
    else
        byte = (b->fetch_far != NULL ? b->fetch_far : b->read_far)(b->context, at);
    c->far_pc = c->adl ? (c->far_pc + 1) & 0xFFFFFF : (c->far_pc + 1) & 0xFFFF;
    return byte;
}

/* A value in the code: as wide as the suffix says. */
uint32_t ez80_immediate(ez80_run *x)
{
    uint32_t v = ez80_next_byte(x);
    v |= (uint32_t)ez80_next_byte(x) << 8;
    if (x->wide_code) v |= (uint32_t)ez80_next_byte(x) << 16;
    return v;
}

/* Where data lie: 24 bits, or 16 behind MB. */
uint32_t ez80_place(const ez80_run *x, uint32_t address)
{
    return x->wide ? address & 0xFFFFFF : (uint32_t)x->c->mb << 16 | (address & 0xFFFF);
}

uint32_t ez80_narrow(const ez80_run *x, uint32_t v)
{
    return v & (x->wide ? 0xFFFFFF : 0xFFFF);
}

uint8_t ez80_load(ez80_run *x, uint32_t address)
{
    return ez80_read(x->c, ez80_place(x, address));
}

void ez80_store(ez80_run *x, uint32_t address, uint8_t v)
{
    ez80_write(x->c, ez80_place(x, address), v);
}

uint32_t ez80_load_word(ez80_run *x, uint32_t address)
{
    uint32_t v = ez80_load(x, address);
    v |= (uint32_t)ez80_load(x, address + 1) << 8;
    if (x->wide) v |= (uint32_t)ez80_load(x, address + 2) << 16;
    return v;
}

void ez80_store_word(ez80_run *x, uint32_t address, uint32_t v)
{
    ez80_store(x, address, (uint8_t)v);
    ez80_store(x, address + 1, (uint8_t)(v >> 8));
    if (x->wide) ez80_store(x, address + 2, (uint8_t)(v >> 16));
}

/* ---- the stacks ---- */

static void push_byte(sim_ez80 *c, bool wide, uint8_t v)
{
    if (wide) {
        c->spl = (c->spl - 1) & 0xFFFFFF;
        ez80_write(c, c->spl, v);
    } else {
        c->sps--;
        ez80_write(c, (uint32_t)c->mb << 16 | c->sps, v);
    }
}

static uint8_t pop_byte(sim_ez80 *c, bool wide)
{
    uint8_t v;
    if (wide) {
        v = ez80_read(c, c->spl);
        c->spl = (c->spl + 1) & 0xFFFFFF;
    } else {
        v = ez80_read(c, (uint32_t)c->mb << 16 | c->sps);
        c->sps++;
    }
    return v;
}

void ez80_push(ez80_run *x, uint32_t v)
{
    if (x->wide) push_byte(x->c, true, (uint8_t)(v >> 16));
    push_byte(x->c, x->wide, (uint8_t)(v >> 8));
    push_byte(x->c, x->wide, (uint8_t)v);
}

uint32_t ez80_pop(ez80_run *x)
{
    uint32_t v = pop_byte(x->c, x->wide);
    v |= (uint32_t)pop_byte(x->c, x->wide) << 8;
    if (x->wide) v |= (uint32_t)pop_byte(x->c, true) << 16;
    return v;
}

static void push_pc16(sim_ez80 *c, bool wide)
{
    push_byte(c, wide, (uint8_t)(c->far_pc >> 8));
    push_byte(c, wide, (uint8_t)c->far_pc);
}

void ez80_jump(sim_ez80 *c, uint32_t address)
{
    c->far_pc = address & (c->adl ? 0xFFFFFF : 0xFFFF);
}

/* Between modes: what comes back is found by the byte on top of SPL, whose bit 0 is the mode of the
 * caller. to: the mode of what is called. */
void ez80_far_call(sim_ez80 *c, uint32_t address, bool to)
{
    bool from = c->adl;
    if (to) {
        if (from) push_byte(c, true, (uint8_t)(c->far_pc >> 16));
        push_pc16(c, true);
    } else {
        push_pc16(c, false);
        if (from) push_byte(c, true, (uint8_t)(c->far_pc >> 16));
    }
    push_byte(c, true, (uint8_t)(c->madl << 1 | from));
    c->adl = to;
    ez80_jump(c, address);
}

void ez80_near_call(sim_ez80 *c, uint32_t address)
{
    if (c->adl) push_byte(c, true, (uint8_t)(c->far_pc >> 16));
    push_pc16(c, c->adl);
    ez80_jump(c, address);
}

/* With a suffix the mode of what is called is that of the value in the code. */
void ez80_call(ez80_run *x, uint32_t address)
{
    if (x->suffix)
        ez80_far_call(x->c, address, x->wide_code);
    else
        ez80_near_call(x->c, address);
}

/* RST: its suffix says the mode by the width of registers. */
void ez80_restart(ez80_run *x, uint32_t address)
{
    if (x->suffix)
        ez80_far_call(x->c, address, x->wide);
    else
        ez80_near_call(x->c, address);
}

static uint32_t pop_pc16(sim_ez80 *c, bool wide)
{
    uint32_t v = pop_byte(c, wide);
    return v | (uint32_t)pop_byte(c, wide) << 8;
}

void ez80_return(ez80_run *x)
{
    sim_ez80 *c = x->c;
    uint32_t pc;
    if (!x->suffix) {
        pc = pop_pc16(c, c->adl);
        if (c->adl) pc |= (uint32_t)pop_byte(c, true) << 16;
    } else {
        bool was = c->adl, to = (pop_byte(c, true) & 1) != 0;
        uint32_t high = !was && to ? (uint32_t)pop_byte(c, true) << 16 : 0;
        pc = pop_pc16(c, was) | high;
        if (was && to) pc |= (uint32_t)pop_byte(c, true) << 16;
        c->adl = to;
    }
    c->left--;
    ez80_jump(c, pc);
}

/* ---- registers by number ---- */

/* HL, or an index register behind its prefix. */
uint32_t *ez80_hl(ez80_run *x)
{
    return x->index == 1 ? &x->c->ix : x->index == 2 ? &x->c->iy : &x->c->hl;
}

/* (HL), or with an index register and a distance that is fetched once. */
uint32_t ez80_pointer(ez80_run *x)
{
    if (x->index == 0) return x->c->hl;
    if (!x->has_distance) x->distance = ez80_next_byte(x);
    x->has_distance = true;
    return *ez80_hl(x) + ez80_distance(x->distance);
}

/* plain: H and L themselves, as beside a memory operand. */
uint8_t ez80_get(ez80_run *x, unsigned r, bool plain)
{
    sim_ez80 *c = x->c;
    const uint32_t *hl = plain ? &c->hl : ez80_hl(x);
    switch (r) {
    case 0: return ez80_high(c->bc);
    case 1: return ez80_low(c->bc);
    case 2: return ez80_high(c->de);
    case 3: return ez80_low(c->de);
    case 4: return ez80_high(*hl);
    case 5: return ez80_low(*hl);
    case 6: return ez80_load(x, ez80_pointer(x));
    default: return c->a;
    }
}

void ez80_set(ez80_run *x, unsigned r, uint8_t v, bool plain)
{
    sim_ez80 *c = x->c;
    uint32_t *hl = plain ? &c->hl : ez80_hl(x);
    switch (r) {
    case 0: ez80_set_high(&c->bc, v); break;
    case 1: ez80_set_low(&c->bc, v); break;
    case 2: ez80_set_high(&c->de, v); break;
    case 3: ez80_set_low(&c->de, v); break;
    case 4: ez80_set_high(hl, v); break;
    case 5: ez80_set_low(hl, v); break;
    case 6: ez80_store(x, ez80_pointer(x), v); break;
    default: c->a = v; break;
    }
}

/* BC, DE, HL, SP. */
uint32_t ez80_pair(ez80_run *x, unsigned p)
{
    sim_ez80 *c = x->c;
    switch (p) {
    case 0: return ez80_narrow(x, c->bc);
    case 1: return ez80_narrow(x, c->de);
    case 2: return ez80_narrow(x, *ez80_hl(x));
    default: return x->wide ? c->spl : c->sps;
    }
}

void ez80_set_pair(ez80_run *x, unsigned p, uint32_t v)
{
    sim_ez80 *c = x->c;
    v = ez80_narrow(x, v);
    switch (p) {
    case 0: c->bc = v; break;
    case 1: c->de = v; break;
    case 2: *ez80_hl(x) = v; break;
    default:
        if (x->wide)
            c->spl = v;
        else
            c->sps = (uint16_t)v;
        break;
    }
}
