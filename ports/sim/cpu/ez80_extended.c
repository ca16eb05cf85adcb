/* ez80_extended.c - the eZ80's page of $ED: words through HL, multiplication, ports, blocks. */
#include "ez80_state.h"

static void set_logic(sim_ez80 *c, uint8_t v, bool half)
{
    c->f = (uint8_t)((c->f & EZ_C) | ez80_szp(v) | (half ? EZ_H : 0));
}

/* TST: AND without a result. */
static void test_bits(sim_ez80 *c, uint8_t v)
{
    c->f = ez80_szp(v) | EZ_H;
}

/* ---- codes below $40 ---- */

static void word_through_hl(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    uint32_t *words[4] = {&c->bc, &c->de, &c->hl, &c->ix};
    uint32_t at = c->hl;
    switch (op & 0x0F) {
    case 0x07: *words[op >> 4] = ez80_load_word(x, at); break;
    case 0x0F: ez80_store_word(x, at, *words[op >> 4]); break;
    case 0x01: c->iy = ez80_load_word(x, at); break;
    default: ez80_store_word(x, at, c->iy); break;
    }
}

/* LEA: an index register and a distance. */
static void load_address(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    bool iy = (op & 1) != 0;
    uint32_t v = (iy ? c->iy : c->ix) + ez80_distance(ez80_next_byte(x));
    uint32_t *to[4] = {&c->bc, &c->de, &c->hl, iy ? &c->iy : &c->ix};
    *to[op >> 4] = ez80_narrow(x, v);
}

static void first_quarter(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    unsigned r = op >> 3 & 7;
    if (op == 0x31 || op == 0x3E || (op & 7) == 7) {
        word_through_hl(x, op);
        return;
    }
    switch (op & 7) {
    case 0: {
        uint8_t v = ez80_in(x, ez80_next_byte(x));
        if (r != 6) ez80_set(x, r, v, true);
        set_logic(c, v, false);
        break;
    }
    case 1: {
        uint8_t port = ez80_next_byte(x);
        ez80_out(x, port, r == 6 ? 0 : ez80_get(x, r, true));
        break;
    }
    case 2:
    case 3:
        if ((op & 8) == 0) load_address(x, op);
        break;
    case 4: test_bits(c, c->a & ez80_get(x, r, true)); break;
    default: break;
    }
}

/* ---- codes from $40 to $7F ---- */

static void carry_words(ez80_run *x, unsigned p, bool adds)
{
    sim_ez80 *c = x->c;
    uint32_t a = ez80_narrow(x, c->hl), v = ez80_pair(x, p), carry = c->f & EZ_C;
    uint32_t r = adds ? a + v + carry : a - v - carry, top = x->wide ? 0x800000 : 0x8000;
    uint32_t over = adds ? ~(a ^ v) & (a ^ r) : (a ^ v) & (a ^ r);
    c->f = (uint8_t)(((r & top) != 0 ? EZ_S : 0) | (ez80_narrow(x, r) == 0 ? EZ_Z : 0) |
                     ((a ^ v ^ r) >> 8 & EZ_H) | ((over & top) != 0 ? EZ_P : 0) |
                     (adds ? 0 : EZ_N) | ((r & top << 1) != 0 ? EZ_C : 0));
    c->hl = ez80_narrow(x, r);
}

static void digits(ez80_run *x, bool left)
{
    sim_ez80 *c = x->c;
    unsigned v = ez80_load(x, c->hl), a = c->a;
    c->a = (uint8_t)((a & 0xF0) | (left ? v >> 4 : v & 0x0F));
    ez80_store(x, c->hl, (uint8_t)(left ? v << 4 | (a & 0x0F) : a << 4 | v >> 4));
    set_logic(c, c->a, false);
}

/* The product of a pair's halves, which stays in it. */
static void multiply_halves(ez80_run *x, unsigned p)
{
    uint32_t v = ez80_pair(x, p);
    ez80_set_pair(x, p, (v & 0xFF0000) | (v >> 8 & 0xFF) * (v & 0xFF));
    x->c->left -= 4;
}

static void copy_flag(sim_ez80 *c)
{
    c->f = (uint8_t)((c->f & EZ_C) | ez80_sz(c->a) | (c->iff2 ? EZ_P : 0));
}

/* What stands alone. True: it was one of them. */
static bool single(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    switch (op) {
    case 0x44: c->a = ez80_subtract(c, 0, c->a, 0); return true;
    case 0x45:
    case 0x4D:
        ez80_return(x);
        c->iff1 = c->iff2;
        if (op == 0x4D && c->bus->returned != NULL) c->bus->returned(c->bus->context);
        return true;
    case 0x46: c->mode = 0; return true;
    case 0x56: c->mode = 1; return true;
    case 0x5E: c->mode = 2; return true;
    case 0x47: c->i = (uint16_t)((c->i & 0xFF00) | c->a); return true;
    case 0x4F: c->r = c->a; return true;
    case 0x57:
        c->a = (uint8_t)c->i;
        copy_flag(c);
        return true;
    case 0x5F:
        c->a = c->r;
        copy_flag(c);
        return true;
    case 0x67: digits(x, false); return true;
    case 0x6F: digits(x, true); return true;
    case 0x54: c->ix = ez80_narrow(x, c->iy + ez80_distance(ez80_next_byte(x))); return true;
    case 0x55: c->iy = ez80_narrow(x, c->ix + ez80_distance(ez80_next_byte(x))); return true;
    case 0x65: ez80_push(x, c->ix + ez80_distance(ez80_next_byte(x))); return true;
    case 0x66: ez80_push(x, c->iy + ez80_distance(ez80_next_byte(x))); return true;
    case 0x64: test_bits(c, c->a & ez80_next_byte(x)); return true;
    case 0x74: {
        uint8_t mask = ez80_next_byte(x);
        test_bits(c, ez80_in(x, ez80_low(c->bc)) & mask);
        return true;
    }
    case 0x76:
        c->rest = true; /* sleep: until an interrupt, as halt */
        SIM_LOOK(c);
        return true;
    case 0x7D: c->madl = true; return true;
    case 0x7E: c->madl = false; return true;
    case 0x6D:
        if (c->adl) c->mb = c->a; /* in Z80 mode it does nothing */
        return true;
    case 0x6E: c->a = c->mb; return true;
    default: return false;
    }
}

static void second_quarter(ez80_run *x, uint8_t op)
{
    sim_ez80 *c = x->c;
    unsigned y = op >> 3 & 7, p = y >> 1;
    if (single(x, op)) return;
    switch (op & 7) {
    case 0: {
        uint8_t v = ez80_in(x, c->bc);
        if (y != 6) ez80_set(x, y, v, true);
        set_logic(c, v, false);
        break;
    }
    case 1: ez80_out(x, c->bc, y == 6 ? 0 : ez80_get(x, y, true)); break;
    case 2: carry_words(x, p, (y & 1) != 0); break;
    case 3:
        if ((y & 1) == 0)
            ez80_store_word(x, ez80_immediate(x), ez80_pair(x, p));
        else
            ez80_set_pair(x, p, ez80_load_word(x, ez80_immediate(x)));
        break;
    case 4:
        if ((y & 1) != 0) multiply_halves(x, p);
        break;
    default: break;
    }
}

/* ---- blocks ---- */

static void move(ez80_run *x, uint32_t *pointer, bool down)
{
    *pointer = ez80_narrow(x, *pointer + (down ? 0xFFFFFF : 1));
}

static bool counts_to_zero(ez80_run *x)
{
    x->c->bc = ez80_narrow(x, x->c->bc - 1);
    return x->c->bc == 0;
}

static void again(ez80_run *x, bool repeats)
{
    if (repeats) x->c->far_pc = x->start;
}

static void load_block(ez80_run *x, bool down, bool repeats)
{
    sim_ez80 *c = x->c;
    ez80_store(x, c->de, ez80_load(x, c->hl));
    move(x, &c->hl, down);
    move(x, &c->de, down);
    bool over = counts_to_zero(x);
    c->f = (uint8_t)((c->f & (EZ_S | EZ_Z | EZ_C)) | (over ? 0 : EZ_P));
    again(x, repeats && !over);
}

static void compare_block(ez80_run *x, bool down, bool repeats)
{
    sim_ez80 *c = x->c;
    uint8_t carry = c->f & EZ_C, left = ez80_subtract(c, c->a, ez80_load(x, c->hl), 0);
    move(x, &c->hl, down);
    bool over = counts_to_zero(x);
    c->f = (uint8_t)((c->f & (EZ_S | EZ_Z | EZ_H | EZ_N)) | carry | (over ? 0 : EZ_P));
    again(x, repeats && !over && left != 0);
}

/* Which port, what counts, and what moves beside HL, by the code without its direction bits. */
typedef struct port_block {
    uint8_t code;
    bool out;
    enum { BY_B, BY_B_AND_C, PORT_IN_C, BY_BC_DE, BY_BC } way;
} port_block;

static const port_block port_blocks[] = {
    {0xA2, false, BY_B},     {0xA3, true, BY_B},        {0x82, false, PORT_IN_C},
    {0x83, true, PORT_IN_C}, {0x84, false, BY_B_AND_C}, {0xA4, true, BY_B_AND_C},
    {0x94, false, BY_BC_DE}, {0xB4, true, BY_BC_DE},    {0xC2, false, BY_BC},
    {0xC3, true, BY_BC},
};

static void move_port_byte(ez80_run *x, uint32_t port, bool out, uint8_t *v)
{
    if (out) {
        *v = ez80_load(x, x->c->hl);
        ez80_out(x, port, *v);
    } else {
        *v = ez80_in(x, port);
        ez80_store(x, x->c->hl, *v);
    }
}

static void port_step(ez80_run *x, const port_block *b, bool down, bool repeats)
{
    sim_ez80 *c = x->c;
    uint32_t port = b->way == PORT_IN_C ? ez80_low(c->bc) : b->way >= BY_BC_DE ? c->de : c->bc;
    uint8_t v;
    move_port_byte(x, port, b->out, &v);
    move(x, &c->hl, down);
    bool over;
    if (b->way >= BY_BC_DE) {
        over = counts_to_zero(x);
        if (b->way == BY_BC_DE) move(x, &c->de, down);
    } else {
        ez80_set_high(&c->bc, (uint8_t)(ez80_high(c->bc) - 1));
        over = ez80_high(c->bc) == 0;
        if (b->way != BY_B) ez80_set_low(&c->bc, (uint8_t)(c->bc + (down ? 0xFFu : 1u)));
    }
    c->f = (uint8_t)((c->f & (EZ_S | EZ_H | EZ_P | EZ_C)) | (over ? EZ_Z : 0) |
                     ((v & 0x80) != 0 ? EZ_N : 0));
    again(x, repeats && !over);
}

/* Bit 3 of the code is the direction, bit 4 says that it repeats; some repeat in any case. */
static void blocks(ez80_run *x, uint8_t op)
{
    bool down = (op & 0x08) != 0, repeats = (op & 0x10) != 0;
    uint8_t plain = op & 0xE7;
    if (plain == 0xA0) {
        load_block(x, down, repeats);
        return;
    }
    if (plain == 0xA1) {
        compare_block(x, down, repeats);
        return;
    }
    for (size_t i = 0; i < sizeof port_blocks / sizeof port_blocks[0]; i++) {
        const port_block *b = &port_blocks[i];
        bool always = b->way >= BY_BC_DE;
        if (b->code == (always ? op & 0xF7 : plain)) {
            port_step(x, b, down, repeats || always);
            return;
        }
    }
}

void ez80_extended(ez80_run *x)
{
    sim_ez80 *c = x->c;
    uint8_t op = ez80_next_byte(x);
    if (op < 0x40)
        first_quarter(x, op);
    else if (op < 0x80)
        second_quarter(x, op);
    else if (op == 0xC7)
        c->i = (uint16_t)c->hl;
    else if (op == 0xD7)
        c->hl = ez80_narrow(x, (c->hl & 0xFF0000) | c->i);
    else
        blocks(x, op);
}
