/* cpuz80.c - the Z80. Opcodes are taken apart into the fields that its designers gave them: two
 * bits of group, three of destination or operation (y), three of source (z). */
#include "z80_state.h"

SIM_INLINE void z80_add16(cpu *c, unsigned index, unsigned v)
{
    unsigned a = hl(c, index), r = a + v;
    c->wz = (uint16_t)(a + 1);
    set_f(c, (F & (Z80_SIGN | Z80_ZERO | Z80_PV)) | (r >> 8 & (Z80_X3 | Z80_X5)) |
                 ((a ^ v ^ r) >> 8 & Z80_HALF) | (r >> 16));
    set_hl(c, index, (uint16_t)r);
}

static void z80_decimal_adjust(cpu *c)
{
    unsigned fix = 0, carry = F & Z80_CARRY, a = A;
    if ((F & Z80_HALF) != 0 || (a & 0x0F) > 9) fix = 0x06;
    if (carry != 0 || a > 0x99) fix |= 0x60, carry = Z80_CARRY;
    unsigned r = (F & Z80_N) != 0 ? a - fix : a + fix;
    A = (uint8_t)r;
    set_f(c, szp[A] | (F & Z80_N) | carry | ((a ^ r) & Z80_HALF));
}

/* RLCA and its kin leave sign, zero and parity alone. */
static void rotate_a(cpu *c, unsigned y)
{
    unsigned kept = F & (Z80_SIGN | Z80_ZERO | Z80_PV);
    A = z80_rotate(c, y, A);
    set_f(c, kept | (A & (Z80_X3 | Z80_X5)) | (F & Z80_CARRY));
}

SIM_INLINE bool z80_condition(const cpu *c, unsigned y)
{
    static const uint8_t masks[] = {Z80_ZERO, Z80_CARRY, Z80_PV, Z80_SIGN};
    return ((F & masks[y >> 1]) != 0) == ((y & 1) != 0);
}

/* ---- the main page ---- */

SIM_INLINE void jump_relative(cpu *c, bool taken, unsigned more)
{
    int8_t distance = (int8_t)fetch(c);
    if (!taken) return;
    jump_by(c, distance);
    c->wz = here(c);
    SIM_SPEND(c, more);
}

static void exchange_af(cpu *c)
{
    uint8_t a = A, f = F;
    A = c->other[Z80_A], F = c->other[Z80_F];
    c->other[Z80_A] = a, c->other[Z80_F] = f;
}

/* Loads and stores of A and HL through addresses. */
SIM_INLINE unsigned z80_indirect(cpu *c, unsigned y, unsigned index)
{
    uint16_t at;
    if (y < 4) {
        at = pair(c, (y >> 1) * 2);
        if ((y & 1) == 0) {
            wr(c, at, A);
            c->wz = (uint16_t)(A << 8 | ((at + 1) & 0xFF));
        } else {
            A = rd(c, at);
            c->wz = (uint16_t)(at + 1);
        }
        return 7;
    }
    at = little_fetch16(c);
    c->wz = (uint16_t)(at + 1);
    switch (y) {
    case 4: little_wr16(c, at, hl(c, index)); return 16;
    case 5: set_hl(c, index, little_rd16(c, at)); return 16;
    case 6:
        wr(c, at, A);
        c->wz = (uint16_t)(A << 8 | ((at + 1) & 0xFF));
        return 13;
    default: A = rd(c, at); return 13;
    }
}

static void flags_alone(cpu *c, unsigned y, uint8_t before)
{
    unsigned kept = F & (Z80_SIGN | Z80_ZERO | Z80_PV), copied = ((before ^ F) | A) & 0x28;
    switch (y) {
    case 4: z80_decimal_adjust(c); break;
    case 5:
        A = (uint8_t)~A;
        set_f(c, (F & (Z80_SIGN | Z80_ZERO | Z80_PV | Z80_CARRY)) | Z80_HALF | Z80_N | (A & 0x28));
        break;
    case 6: set_f(c, kept | Z80_CARRY | copied); break;
    default: set_f(c, kept | copied | ((F & Z80_CARRY) != 0 ? Z80_HALF : Z80_CARRY)); break;
    }
}

/* Opcodes $00 to $3F; with a prefix HL is IX or IY, and (HL) has a displacement. */
SIM_INLINE unsigned z80_low_group(cpu *c, unsigned y, unsigned z, unsigned index, uint8_t before)
{
    unsigned p = y >> 1;
    uint16_t at;
    switch (z) {
    case 0:
        if (y == 0) return 4;
        if (y == 1) {
            exchange_af(c);
            return 4;
        }
        if (y == 2) {
            B--;
            jump_relative(c, B != 0, 5);
            return 8;
        }
        jump_relative(c, y == 3 || z80_condition(c, y - 4), y == 3 ? 0 : 5);
        return y == 3 ? 12 : 7;
    case 1:
        if ((y & 1) == 0) {
            z80_set_word(c, p, index, little_fetch16(c));
            return 10;
        }
        z80_add16(c, index, z80_word(c, p, index));
        return 11;
    case 2: return z80_indirect(c, y, index);
    case 3: z80_set_word(c, p, index, (uint16_t)(z80_word(c, p, index) + step_of(y))); return 6;
    case 4:
    case 5:
        if (y != 6) {
            uint8_t v = reg(c, y, index);
            set_reg(c, y, index, z == 4 ? increment(c, v) : decrement(c, v));
            return 4;
        }
        at = at_hl(c, index, 8);
        wr(c, at, z == 4 ? increment(c, rd(c, at)) : decrement(c, rd(c, at)));
        return 11;
    case 6:
        if (y != 6) {
            set_reg(c, y, index, fetch(c));
            return 7;
        }
        at = at_hl(c, index, 5);
        wr(c, at, fetch(c));
        return 10;
    default:
        if (y < 4)
            rotate_a(c, y);
        else
            flags_alone(c, y, before);
        return 4;
    }
}

static void exchange_sets(cpu *c)
{
    for (unsigned i = 0; i < 6; i++) {
        uint8_t v = c->r[i];
        c->r[i] = c->other[i];
        c->other[i] = v;
    }
}

SIM_INLINE void call_wz(cpu *c, uint16_t at)
{
    c->wz = at;
    call(c, at);
}

/* EX (SP),HL, EX DE,HL, ports, interrupts, JP. */
SIM_INLINE unsigned z80_mixed(cpu *c, unsigned y, unsigned index)
{
    uint16_t v;
    switch (y) {
    case 0: jump(c, c->wz = little_fetch16(c)); return 10;
    case 2:
        v = (uint16_t)(A << 8 | fetch(c));
        out(c, v, A);
        c->wz = (uint16_t)((v & 0xFF00) | ((v + 1) & 0xFF));
        return 11;
    case 3:
        v = (uint16_t)(A << 8 | fetch(c));
        A = in(c, v);
        c->wz = (uint16_t)(v + 1);
        return 11;
    case 4:
        c->wz = little_rd16(c, c->sp);
        little_wr16(c, c->sp, hl(c, index));
        set_hl(c, index, c->wz);
        return 19;
    case 5: /* never an index register */
        v = pair(c, Z80_D);
        set_pair(c, Z80_D, pair(c, Z80_H));
        set_pair(c, Z80_H, v);
        return 4;
    case 6: c->iff1 = c->iff2 = false; return 4;
    default:
        c->iff1 = c->iff2 = c->special = true;
        SIM_LOOK(c);
        return 4;
    }
}

static unsigned z80_elsewhere(cpu *c, uint8_t op, unsigned index, uint8_t before);

/* Behind a prefix: the same instruction with IX or IY for HL. */
static unsigned prefixed(cpu *c, unsigned index, uint8_t before)
{
    uint8_t op = *c->code.at;
    if (op == 0xDD || op == 0xFD || op == 0xED) {
        c->line[Z80_PREFIX] = 1; /* it did nothing; no interrupt comes between */
        SIM_LOOK(c);
        return 4;
    }
    fetch_opcode(c);
    return 4 + (op == 0xCB ? z80_indexed_bits(c, index) : z80_elsewhere(c, op, index, before));
}

/* Opcodes $C0 to $FF; prefixes are among them, and take the place of an instruction. */
SIM_INLINE unsigned z80_high_group(cpu *c, unsigned y, unsigned z, unsigned index, uint8_t before)
{
    unsigned p = y >> 1;
    uint16_t at;
    switch (z) {
    case 0:
        if (!z80_condition(c, y)) return 5;
        jump(c, c->wz = pop(c));
        SIM_SPEND(c, 6);
        return 5;
    case 1:
        if ((y & 1) == 0) {
            uint16_t v = pop(c);
            if (p == 3)
                A = (uint8_t)(v >> 8), F = (uint8_t)v;
            else
                z80_set_word(c, p, index, v);
            return 10;
        }
        if (p == 0) {
            jump(c, c->wz = pop(c));
            return 10;
        }
        if (p == 1) {
            exchange_sets(c);
            return 4;
        }
        if (p == 2)
            jump(c, hl(c, index));
        else
            c->sp = hl(c, index);
        return p == 2 ? 4 : 6;
    case 2:
        c->wz = little_fetch16(c);
        if (z80_condition(c, y)) jump(c, c->wz);
        return 10;
    case 3: return y == 1 ? z80_bits(c) : z80_mixed(c, y, index);
    case 4:
        at = c->wz = little_fetch16(c);
        if (!z80_condition(c, y)) return 10;
        call_wz(c, at);
        SIM_SPEND(c, 7);
        return 10;
    case 5:
        if ((y & 1) == 0) {
            little_push(c, p == 3 ? (uint16_t)((unsigned)A << 8 | F) : z80_word(c, p, index));
            return 11;
        }
        if (p == 0) {
            call_wz(c, little_fetch16(c));
            return 17;
        }
        if (p == 2) return z80_extended(c);
        return prefixed(c, p == 1 ? 1 : 2, before);
    case 6: z80_operate(c, y, fetch(c)); return 7;
    default: call_wz(c, (uint16_t)(y * 8)); return 11;
    }
}

/* Executes one opcode; returns its T-states without extras. before: the flags of the instruction
 * before, if it set them. */
SIM_INLINE unsigned execute_with(cpu *c, uint8_t op, unsigned index, uint8_t before)
{
    unsigned y = op >> 3 & 7, z = op & 7;
    switch (op >> 6) {
    case 0: return z80_low_group(c, y, z, index, before);
    case 1:
        if (op == 0x76) {
            c->rest = true;
            SIM_LOOK(c);
            return 4;
        }
        /* With (IX+d) the other register is H or L itself. */
        if (z == 6) {
            c->r[y] = rd(c, at_hl(c, index, 8));
            return 7;
        }
        if (y == 6) {
            uint16_t at = at_hl(c, index, 8);
            wr(c, at, c->r[z]);
            return 7;
        }
        set_reg(c, y, index, reg(c, z, index));
        return 4;
    case 2:
        if (z != 6) {
            z80_operate(c, y, reg(c, z, index));
            return 4;
        }
        z80_operate(c, y, rd(c, at_hl(c, index, 8)));
        return 7;
    default: return z80_high_group(c, y, z, index, before);
    }
}

/* The same away from the loop that runs most instructions: with an index register, or from the bus.
 */
static unsigned z80_elsewhere(cpu *c, uint8_t op, unsigned index, uint8_t before)
{
    return execute_with(c, op, index, before);
}

SIM_INLINE unsigned z80_execute(cpu *c, uint8_t op)
{
    uint8_t before = c->q;
    c->q = 0;
    return execute_with(c, op, 0, before);
}

/* ---- running ---- */

void sim_z80_reset(sim_z80 *c)
{
    c->pc = 0;
    c->i = c->refresh = c->mode = 0;
    c->iff1 = c->iff2 = c->rest = c->special = c->nmi = false;
    c->line[Z80_PREFIX] = c->line[Z80_COPIED] = 0;
    A = F = 0xFF;
    c->sp = 0xFFFF;
    c->cycles += 3;
}

/* By interrupt mode: 0 executes what is on the bus, 1 is RST $38, 2 reads a table. */
static void z80_interrupt(cpu *c)
{
    c->rest = false;
    c->refreshes++;
    if (c->nmi) {
        c->nmi = c->iff1 = false;
        call_wz(c, 0x0066);
        c->cycles += 11;
        return;
    }
    c->iff1 = c->iff2 = false;
    c->q = 0;
    uint8_t vector = sim_acknowledge(c->bus);
    if (c->mode == 2) {
        little_push(c, here(c)); /* before the table is read, which the stack may reach into */
        c->wz = little_rd16(c, (uint16_t)(c->i << 8 | vector));
        jump(c, c->wz);
        c->cycles += 19;
    } else if (c->mode == 1) {
        call_wz(c, 0x0038);
        c->cycles += 13;
    } else {
        /* The device's byte is executed as an instruction; only those of one byte make sense. */
        unsigned cycles = z80_elsewhere(c, vector, 0, 0);
        c->cycles += cycles + 2;
    }
}

/* An interrupt, or the no-operations of a HALT up to some cycle. False: the next instruction is
 * due.
 */
static bool z80_attend(cpu *c, uint64_t cycles)
{
    bool held = c->special, inside = c->line[Z80_PREFIX] != 0, copied = c->line[Z80_COPIED] != 0;
    c->special = false;
    c->line[Z80_PREFIX] = c->line[Z80_COPIED] = 0;
    if (!inside && (c->nmi || (c->irq && c->iff1 && !held))) {
        /* LD A,I and LD A,R copy the bit when accepting the interrupt has cleared it already. */
        if (copied && !c->nmi) F &= (uint8_t)~Z80_PV;
        z80_interrupt(c);
        return true;
    }
    if (!c->rest) return false;
    uint64_t idle = (cycles - c->cycles + 3) / 4;
    c->refreshes = (uint8_t)(c->refreshes + idle);
    c->cycles += idle * 4;
    return true;
}

SIM_INLINE void z80_begin(cpu *c)
{
    c->refreshes = c->refresh;
    jump(c, c->pc);
}

SIM_INLINE void z80_end(cpu *c)
{
    c->pc = here(c);
    c->refresh = refresh(c);
}

#define SIM_EXECUTE z80_execute
SIM_INSTRUCTION(cpu, fetch_first_opcode)
SIM_RUN(sim_z80, sim_z80, z80_begin, z80_attend, z80_end)
SIM_RESET(sim_z80, sim_z80)

static const sim_register registers[] = {
    SIM_REGISTER(sim_z80, "pc", pc, true),
    SIM_REGISTER(sim_z80, "a", r[7], true),
    SIM_REGISTER(sim_z80, "f", r[6], true),
    SIM_REGISTER(sim_z80, "b", r[0], true),
    SIM_REGISTER(sim_z80, "c", r[1], true),
    SIM_REGISTER(sim_z80, "d", r[2], true),
    SIM_REGISTER(sim_z80, "e", r[3], true),
    SIM_REGISTER(sim_z80, "h", r[4], true),
    SIM_REGISTER(sim_z80, "l", r[5], true),
    SIM_REGISTER(sim_z80, "ix", ix, true),
    SIM_REGISTER(sim_z80, "iy", iy, true),
    SIM_REGISTER(sim_z80, "sp", sp, true),
    SIM_REGISTER(sim_z80, "i", i, true),
    SIM_REGISTER(sim_z80, "r", refresh, true),
    SIM_REGISTER(sim_z80, "b_other", other[0], false),
    SIM_REGISTER(sim_z80, "c_other", other[1], false),
    SIM_REGISTER(sim_z80, "d_other", other[2], false),
    SIM_REGISTER(sim_z80, "e_other", other[3], false),
    SIM_REGISTER(sim_z80, "h_other", other[4], false),
    SIM_REGISTER(sim_z80, "l_other", other[5], false),
    SIM_REGISTER(sim_z80, "f_other", other[6], false),
    SIM_REGISTER(sim_z80, "a_other", other[7], false),
    SIM_REGISTER(sim_z80, "wz", wz, false),
    SIM_REGISTER(sim_z80, "mode", mode, false),
    SIM_REGISTER(sim_z80, "iff1", iff1, false),
    SIM_REGISTER(sim_z80, "iff2", iff2, false),
    SIM_REGISTER(sim_z80, "halted", rest, false),
    SIM_REGISTER(sim_z80, "held", special, false),
    SIM_REGISTER(sim_z80, "prefix", line[Z80_PREFIX], false),
    SIM_REGISTER(sim_z80, "copied", line[Z80_COPIED], false),
    SIM_REGISTER(sim_z80, "q", q, false),
};
static const char *const sheets[] = {"z80", "z80+halves", "z80+undocumented", NULL};
const sim_cpu_kind sim_z80_kind = {
    .sheets = sheets,
    .size = sizeof(sim_z80),
    .registers = registers,
    .register_count = sizeof registers / sizeof registers[0],
    .reset = reset,
    .step = step,
    .run = run,
    .requests = sim_requests,
    .request_count = SIM_REQUESTS_USUAL,
};
