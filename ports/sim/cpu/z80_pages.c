/* z80_pages.c - the Z80's other pages: bits after CB, blocks and the rest after ED. */
#include "z80_state.h"

/* ---- CB: rotations and bits ---- */

/* The page of $CB: rotates, and bits that are tested, reset or set. */
unsigned z80_bits(cpu *c)
{
    uint8_t op = fetch_opcode(c);
    unsigned y = op >> 3 & 7, z = op & 7;
    uint16_t at = pair(c, Z80_H);
    uint8_t v = z == 6 ? rd(c, at) : c->r[z];
    switch (op >> 6) {
    case 0: v = z80_rotate(c, y, v); break;
    case 1: {
        unsigned set = v & 1u << y, shown = z == 6 ? c->wz >> 8 : v;
        set_f(c, (F & Z80_CARRY) | Z80_HALF | (set & Z80_SIGN) | (shown & (Z80_X3 | Z80_X5)) |
                     (set == 0 ? Z80_ZERO | Z80_PV : 0));
        return z == 6 ? 12 : 8;
    }
    case 2: v &= (uint8_t) ~(1u << y); break;
    default: v |= (uint8_t)(1u << y); break;
    }
    if (z != 6) {
        c->r[z] = v;
        return 8;
    }
    wr(c, at, v);
    return 15;
}

/* After DD CB or FD CB: the distance, then the opcode, which is not fetched with a refresh. */
unsigned z80_indexed_bits(cpu *c, unsigned index)
{
    c->wz = (uint16_t)(hl(c, index) + (int8_t)fetch(c));
    uint8_t op = fetch(c), v = rd(c, c->wz);
    unsigned y = op >> 3 & 7, z = op & 7;
    switch (op >> 6) {
    case 0: v = z80_rotate(c, y, v); break;
    case 1: {
        unsigned set = v & 1u << y;
        set_f(c, (F & Z80_CARRY) | Z80_HALF | (set & Z80_SIGN) | (c->wz >> 8 & (Z80_X3 | Z80_X5)) |
                     (set == 0 ? Z80_ZERO | Z80_PV : 0));
        return 16;
    }
    case 2: v &= (uint8_t) ~(1u << y); break;
    default: v |= (uint8_t)(1u << y); break;
    }
    wr(c, c->wz, v);
    if (z != 6) c->r[z] = v; /* undocumented: a copy */
    return 19;
}

/* ---- ED: blocks and the rest ---- */

/* ADC HL and SBC HL set all flags. */
static void carry16(cpu *c, unsigned v, bool minus)
{
    unsigned a = pair(c, Z80_H), r = minus ? a - v - (F & 1u) : a + v + (F & 1u);
    unsigned over = minus ? (a ^ v) & (a ^ r) : ~(a ^ v) & (a ^ r);
    c->wz = (uint16_t)(a + 1);
    set_f(c, (r >> 8 & (Z80_SIGN | Z80_X3 | Z80_X5)) | ((r & 0xFFFF) == 0 ? Z80_ZERO : 0) |
                 ((a ^ v ^ r) >> 8 & Z80_HALF) | ((over & 0x8000) >> 13) | (minus ? Z80_N : 0) |
                 (r >> 16 & 1));
    set_pair(c, Z80_H, (uint16_t)r);
}

/* Goes back to the instruction itself. Bits 3 and 5 then come from the high byte of PC. */
static void repeat(cpu *c)
{
    jump_by(c, -2);
    SIM_SPEND(c, 5);
    set_f(c, (F & ~(unsigned)(Z80_X3 | Z80_X5)) | (here(c) >> 8 & (Z80_X3 | Z80_X5)));
}

static void load_block(cpu *c, unsigned y)
{
    uint16_t from = pair(c, Z80_H), to = pair(c, Z80_D), count = (uint16_t)(pair(c, Z80_B) - 1);
    uint8_t v = rd(c, from);
    wr(c, to, v);
    set_pair(c, Z80_H, (uint16_t)(from + step_of(y)));
    set_pair(c, Z80_D, (uint16_t)(to + step_of(y)));
    set_pair(c, Z80_B, count);
    unsigned n = (unsigned)A + v;
    set_f(c, (F & (Z80_SIGN | Z80_ZERO | Z80_CARRY)) | (count != 0 ? Z80_PV : 0) | (n & Z80_X3) |
                 (n << 4 & Z80_X5));
    if ((y & 2) == 0 || count == 0) return;
    repeat(c);
    c->wz = (uint16_t)(here(c) + 1);
}

static void compare_block(cpu *c, unsigned y)
{
    uint16_t at = pair(c, Z80_H), count = (uint16_t)(pair(c, Z80_B) - 1);
    unsigned v = rd(c, at), r = (A - v) & 0xFF, half = (A ^ v ^ r) & Z80_HALF, n;
    n = r - (half != 0);
    set_pair(c, Z80_H, (uint16_t)(at + step_of(y)));
    set_pair(c, Z80_B, count);
    c->wz = (uint16_t)(c->wz + step_of(y));
    set_f(c, (F & Z80_CARRY) | Z80_N | (r & Z80_SIGN) | (r == 0 ? Z80_ZERO : 0) | half |
                 (count != 0 ? Z80_PV : 0) | (n & Z80_X3) | (n << 4 & Z80_X5));
    if ((y & 2) == 0 || count == 0 || r == 0) return;
    repeat(c);
    c->wz = (uint16_t)(here(c) + 1);
}

/* Flags of the port blocks: sums that nobody meant to be seen. */
static void port_flags(cpu *c, uint8_t v, unsigned sum, bool again)
{
    unsigned f =
        sz(B) | (v >> 6 & Z80_N) | (sum > 0xFF ? Z80_HALF | Z80_CARRY : 0) | parity((sum & 7) ^ B);
    set_f(c, f);
    if (!again) return;
    repeat(c);
    unsigned turned = 0, half = F & Z80_HALF;
    if ((f & Z80_CARRY) == 0)
        turned = parity(B & 7) ^ Z80_PV;
    else if ((v & 0x80) != 0)
        turned = parity((B - 1) & 7) ^ Z80_PV, half = (B & 0x0F) == 0 ? Z80_HALF : 0;
    else
        turned = parity((B + 1) & 7) ^ Z80_PV, half = (B & 0x0F) == 0x0F ? Z80_HALF : 0;
    set_f(c, ((F & ~(unsigned)Z80_HALF) | half) ^ turned);
}

static void in_block(cpu *c, unsigned y)
{
    uint16_t port = pair(c, Z80_B), at = pair(c, Z80_H);
    uint8_t v = in(c, port);
    c->wz = (uint16_t)(port + step_of(y));
    wr(c, at, v);
    B--;
    set_pair(c, Z80_H, (uint16_t)(at + step_of(y)));
    port_flags(c, v, (unsigned)v + (uint8_t)(C + step_of(y)), (y & 2) != 0 && B != 0);
}

static void out_block(cpu *c, unsigned y)
{
    uint16_t at = pair(c, Z80_H);
    uint8_t v = rd(c, at);
    B--;
    out(c, pair(c, Z80_B), v);
    c->wz = (uint16_t)(pair(c, Z80_B) + step_of(y));
    set_pair(c, Z80_H, (uint16_t)(at + step_of(y)));
    port_flags(c, v, (unsigned)v + c->r[Z80_L], (y & 2) != 0 && B != 0);
}

/* RRD and RLD: a digit of A and two in memory turn round. */
static void digits(cpu *c, bool left)
{
    uint16_t at = pair(c, Z80_H);
    unsigned v = rd(c, at), a = A;
    A = (uint8_t)((a & 0xF0) | (left ? v >> 4 : v & 0x0F));
    wr(c, at, (uint8_t)(left ? v << 4 | (a & 0x0F) : a << 4 | v >> 4));
    c->wz = (uint16_t)(at + 1);
    set_f(c, (F & Z80_CARRY) | szp[A]);
}

static unsigned special(cpu *c, unsigned y)
{
    switch (y) {
    case 0: c->i = A; return 9;
    case 1: c->refresh = c->refreshes = A; return 9;
    case 2:
    case 3:
        A = y == 2 ? c->i : refresh(c);
        set_f(c, (F & Z80_CARRY) | sz(A) | (c->iff2 ? Z80_PV : 0));
        c->line[Z80_COPIED] = 1;
        SIM_LOOK(c);
        return 9;
    case 4:
    case 5: digits(c, y == 5); return 18;
    default: return 8;
    }
}

/* The page of $ED; what is not in it does nothing for eight cycles, as the part does. */
unsigned z80_extended(cpu *c)
{
    static const uint8_t modes[] = {0, 0, 1, 2};
    uint8_t op = fetch_opcode(c);
    unsigned y = op >> 3 & 7, z = op & 7, p = y >> 1;
    if (op >= 0xA0 && op < 0xC0 && z < 4) {
        static void (*const blocks[])(cpu *, unsigned) = {load_block, compare_block, in_block,
                                                          out_block};
        blocks[z](c, y - 4);
        return 16;
    }
    if (op >> 6 != 1) return 8; /* a no-operation */
    uint16_t at;
    switch (z) {
    case 0: {
        uint8_t v = in(c, pair(c, Z80_B));
        c->wz = (uint16_t)(pair(c, Z80_B) + 1);
        if (y != 6) c->r[y] = v;
        set_f(c, (F & Z80_CARRY) | szp[v]);
        return 12;
    }
    case 1:
        out(c, pair(c, Z80_B), y == 6 ? 0 : c->r[y]);
        c->wz = (uint16_t)(pair(c, Z80_B) + 1);
        return 12;
    case 2: carry16(c, z80_word(c, p, 0), (y & 1) == 0); return 15;
    case 3:
        at = little_fetch16(c);
        c->wz = (uint16_t)(at + 1);
        if ((y & 1) == 0)
            little_wr16(c, at, z80_word(c, p, 0));
        else
            z80_set_word(c, p, 0, little_rd16(c, at));
        return 20;
    case 4: {
        unsigned v = A;
        A = 0;
        A = (uint8_t)z80_subtract(c, v, 0);
        return 8;
    }
    case 5:
        jump(c, c->wz = pop(c));
        c->iff1 = c->iff2;
        if (op == 0x4D && c->bus->returned != NULL) c->bus->returned(c->bus->context);
        return 14;
    case 6: c->mode = modes[y & 3]; return 8;
    default: return special(c, y);
    }
}
