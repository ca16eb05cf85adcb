/* cpu8080.c - the 8080 and the 8085. Opcodes are taken apart into two bits of group, three of
 * destination or operation (y), three of source (z). Where the two parts differ in time, the
 * 8080's number stands first.
 */
#include "cpu8080.h"

typedef sim_8080 cpu;
#define SIM_LENGTH(c, code, have) sim_8080_length(code, (c)->later)
#include "little.h"

#define A c->r[I80_A]
#define F c->r[I80_F]

/* ---- registers ---- */

/* BC, DE, HL, SP */
SIM_INLINE uint16_t i8080_word(const cpu *c, unsigned p)
{
    return p == 3 ? c->sp : pair(c, p * 2);
}

SIM_INLINE void i8080_set_word(cpu *c, unsigned p, uint16_t v)
{
    if (p == 3)
        c->sp = v;
    else
        set_pair(c, p * 2, v);
}

SIM_INLINE uint8_t source(const cpu *c, unsigned z)
{
    return z == 6 ? rd(c, pair(c, I80_H)) : c->r[z];
}

SIM_INLINE void store(cpu *c, unsigned y, uint8_t v)
{
    if (y == 6)
        wr(c, pair(c, I80_H), v);
    else
        c->r[y] = v;
}

SIM_INLINE unsigned time_of(const cpu *c, unsigned on_8080, unsigned on_8085)
{
    return c->later ? on_8085 : on_8080;
}

/* ---- flags ---- */

#define SZP(v) SIGN_ZERO_PARITY(v) | I80_ONE,
static const uint8_t szp[256] = {SIM_EACH_BYTE(SZP)};

SIM_INLINE void i8080_add(cpu *c, unsigned v, unsigned carry)
{
    unsigned a = A, r = a + v + carry;
    F = (uint8_t)(szp[r & 0xFF] | ((a ^ v ^ r) & I80_HALF) | r >> 8);
    A = (uint8_t)r;
}

/* Half carry is that of adding the complement, as the part does it. */
SIM_INLINE uint8_t i8080_subtract(cpu *c, unsigned v, unsigned borrow)
{
    unsigned a = A, r = a - v - borrow;
    F = (uint8_t)(szp[r & 0xFF] | (~(a ^ v ^ r) & I80_HALF) | (r >> 8 & 1));
    return (uint8_t)r;
}

SIM_INLINE void i8080_operate(cpu *c, unsigned y, unsigned v)
{
    unsigned half = 0;
    switch (y) {
    case 0: i8080_add(c, v, 0); return;
    case 1: i8080_add(c, v, F & I80_CARRY); return;
    case 2: A = i8080_subtract(c, v, 0); return;
    case 3: A = i8080_subtract(c, v, F & I80_CARRY); return;
    case 4:
        half = c->later ? I80_HALF : ((A | v) & 8u) << 1;
        A &= (uint8_t)v;
        break;
    case 5: A ^= (uint8_t)v; break;
    case 6: A |= (uint8_t)v; break;
    default: i8080_subtract(c, v, 0); return;
    }
    F = (uint8_t)(szp[A] | half);
}

SIM_INLINE uint8_t i8080_count(cpu *c, uint8_t v, bool up)
{
    uint8_t r = (uint8_t)(up ? v + 1 : v - 1);
    bool half = up ? (r & 0x0F) == 0 : (r & 0x0F) != 0x0F;
    F = (uint8_t)(szp[r] | (F & I80_CARRY) | (half ? I80_HALF : 0));
    return r;
}

static void i8080_decimal_adjust(cpu *c)
{
    unsigned fix = 0, carry = F & I80_CARRY, a = A;
    if ((F & I80_HALF) != 0 || (a & 0x0F) > 9) fix = 0x06;
    if (carry != 0 || a > 0x99) fix |= 0x60, carry = I80_CARRY;
    i8080_add(c, fix, 0);
    F = (uint8_t)((F & ~(unsigned)I80_CARRY) | carry);
}

SIM_INLINE void i8080_rotate(cpu *c, unsigned y)
{
    unsigned a = A, out = (y & 1) != 0 ? a & 1 : a >> 7, into = y < 2 ? out : F & 1u;
    A = (uint8_t)((y & 1) != 0 ? a >> 1 | into << 7 : a << 1 | into);
    F = (uint8_t)((F & ~(unsigned)I80_CARRY) | out);
}

SIM_INLINE bool i8080_condition(const cpu *c, unsigned y)
{
    static const uint8_t masks[] = {I80_ZERO, I80_CARRY, I80_PARITY, I80_SIGN};
    return ((F & masks[y >> 1]) != 0) == ((y & 1) != 0);
}

/* ---- RIM and SIM ---- */

static void read_masks(cpu *c)
{
    bool enabled = c->trapped ? c->before_trap : c->enabled;
    A = (uint8_t)(c->mask | enabled << 3 | c->line[0] << 4 | c->serial_in << 7);
    c->trapped = false;
}

static void set_masks(cpu *c)
{
    if ((A & 0x08) != 0) c->mask = A & 7;
    if ((A & 0x10) != 0) c->line[0] &= 3;
    if ((A & 0x40) != 0) c->serial_out = (A & 0x80) != 0;
}

/* ---- the groups ---- */

SIM_INLINE unsigned i8080_indirect(cpu *c, unsigned y)
{
    uint16_t at = y < 4 ? pair(c, (y >> 1) * 2) : little_fetch16(c);
    switch (y) {
    case 0:
    case 2: wr(c, at, A); return 7;
    case 1:
    case 3: A = rd(c, at); return 7;
    case 4: little_wr16(c, at, pair(c, I80_H)); return 16;
    case 5: set_pair(c, I80_H, little_rd16(c, at)); return 16;
    case 6: wr(c, at, A); return 13;
    default: A = rd(c, at); return 13;
    }
}

SIM_INLINE void on_a(cpu *c, unsigned y)
{
    switch (y) {
    case 4: i8080_decimal_adjust(c); break;
    case 5: A = (uint8_t)~A; break;
    case 6: F |= I80_CARRY; break;
    case 7: F ^= I80_CARRY; break;
    default: i8080_rotate(c, y); break;
    }
}

/* Opcodes $00 to $3F, by their low three bits. */
SIM_INLINE unsigned i8080_low_group(cpu *c, unsigned y, unsigned z)
{
    unsigned p = y >> 1, sum;
    switch (z) {
    case 0:
        if (c->later && y == 4) read_masks(c);
        if (c->later && y == 6) set_masks(c);
        return 4;
    case 1:
        if ((y & 1) == 0) {
            i8080_set_word(c, p, little_fetch16(c));
            return 10;
        }
        sum = (unsigned)pair(c, I80_H) + i8080_word(c, p);
        set_pair(c, I80_H, (uint16_t)sum);
        F = (uint8_t)((F & ~(unsigned)I80_CARRY) | sum >> 16);
        return 10;
    case 2: return i8080_indirect(c, y);
    case 3:
        i8080_set_word(c, p, (uint16_t)(i8080_word(c, p) + ((y & 1) != 0 ? -1 : 1)));
        return time_of(c, 5, 6);
    case 4:
    case 5:
        store(c, y, i8080_count(c, source(c, y), z == 4));
        return y == 6 ? 10 : time_of(c, 5, 4);
    case 6: store(c, y, fetch(c)); return y == 6 ? 10 : 7;
    default: on_a(c, y); return 4;
    }
}

/* What has no pattern among the opcodes from $C0 on. */
SIM_INLINE unsigned i8080_mixed(cpu *c, unsigned y)
{
    uint16_t v;
    uint8_t port;
    switch (y) {
    case 0: jump(c, little_fetch16(c)); return 10;
    case 1:
        if (c->later) return 4;
        jump(c, little_fetch16(c));
        return 10;
    case 2:
        port = fetch(c);
        if (c->bus->out != NULL) c->bus->out(c->bus->context, (uint16_t)(port << 8 | port), A);
        return 10;
    case 3:
        port = fetch(c);
        A = c->bus->in != NULL ? c->bus->in(c->bus->context, (uint16_t)(port << 8 | port)) : 0xFF;
        return 10;
    case 4:
        v = little_rd16(c, c->sp);
        little_wr16(c, c->sp, pair(c, I80_H));
        set_pair(c, I80_H, v);
        return time_of(c, 18, 16);
    case 5:
        v = pair(c, I80_D);
        set_pair(c, I80_D, pair(c, I80_H));
        set_pair(c, I80_H, v);
        return 4;
    case 6: c->enabled = false; return 4;
    default:
        c->enabled = c->special = true;
        SIM_LOOK(c);
        return 4;
    }
}

/* Opcodes $C0 to $FF, by their low three bits. */
SIM_INLINE unsigned i8080_high_group(cpu *c, unsigned y, unsigned z)
{
    unsigned p = y >> 1;
    uint16_t at;
    switch (z) {
    case 0:
        if (i8080_condition(c, y)) jump(c, pop(c)), SIM_SPEND(c, 6);
        return time_of(c, 5, 6);
    case 1:
        if ((y & 1) == 0) {
            uint16_t v = pop(c);
            if (p == 3)
                A = (uint8_t)(v >> 8), F = (uint8_t)((v & 0xD5) | I80_ONE);
            else
                i8080_set_word(c, p, v);
            return 10;
        }
        if (p == 1 && c->later) return 4;
        if (p < 2)
            jump(c, pop(c));
        else if (p == 2)
            jump(c, pair(c, I80_H));
        else
            c->sp = pair(c, I80_H);
        return p < 2 ? 10 : time_of(c, 5, 6);
    case 2:
        at = little_fetch16(c);
        if (i8080_condition(c, y)) jump(c, at), SIM_SPEND(c, time_of(c, 0, 3));
        return time_of(c, 10, 7);
    case 3: return i8080_mixed(c, y);
    case 4:
        at = little_fetch16(c);
        if (i8080_condition(c, y)) call(c, at), SIM_SPEND(c, time_of(c, 6, 9));
        return time_of(c, 11, 9);
    case 5:
        if ((y & 1) == 0) {
            little_push(c, p == 3 ? (uint16_t)((unsigned)A << 8 | F) : i8080_word(c, p));
            return time_of(c, 11, 12);
        }
        if (p > 0 && c->later) return 4;
        call(c, little_fetch16(c));
        return time_of(c, 17, 18);
    case 6: i8080_operate(c, y, fetch(c)); return 7;
    default: call(c, (uint16_t)(y * 8)); return time_of(c, 11, 12);
    }
}

SIM_INLINE unsigned i8080_execute(cpu *c, uint8_t op)
{
    unsigned y = op >> 3 & 7, z = op & 7;
    switch (op >> 6) {
    case 0: return i8080_low_group(c, y, z);
    case 1:
        if (op == 0x76) {
            c->rest = true;
            SIM_LOOK(c);
            return time_of(c, 7, 5);
        }
        store(c, y, source(c, z));
        return y == 6 || z == 6 ? 7 : time_of(c, 5, 4);
    case 2: i8080_operate(c, y, source(c, z)); return z == 6 ? 7 : 4;
    default: return i8080_high_group(c, y, z);
    }
}

/* The same away from the loop that runs most instructions. */
static unsigned i8080_elsewhere(cpu *c, uint8_t op)
{
    return i8080_execute(c, op);
}

/* ---- running ---- */

void sim_8080_reset(sim_8080 *c)
{
    c->pc = 0;
    c->enabled = c->special = c->rest = c->nmi = false;
    c->mask = 7;
    c->line[0] = 0;
    c->serial_out = c->trapped = false;
    F = (uint8_t)((F & 0xD5) | I80_ONE);
    c->cycles += 3;
}

/* The 8085's own requests by rank: where they lead, or 0. */
static uint16_t own_request(cpu *c)
{
    if (c->nmi) {
        c->nmi = false;
        c->trapped = true;
        c->before_trap = c->enabled;
        return 0x24;
    }
    for (unsigned bit = 3; bit > 0 && c->enabled; bit--) {
        unsigned mask = 1u << (bit - 1);
        if ((c->line[0] & ~c->mask & mask) == 0) continue;
        if (bit == 3) c->line[0] &= 3; /* taken */
        return (uint16_t)(0x24 + bit * 8);
    }
    return 0;
}

static bool interrupted(const cpu *c)
{
    bool own = c->later && (c->nmi || (c->enabled && (c->line[0] & ~c->mask & 7) != 0));
    return own || (c->irq && c->enabled);
}

static void i8080_interrupt(cpu *c)
{
    uint16_t at = c->later ? own_request(c) : 0;
    c->rest = c->enabled = false;
    if (at != 0) {
        call(c, at);
        c->cycles += 12;
        return;
    }
    unsigned cycles =
        i8080_elsewhere(c, sim_acknowledge(c->bus)); /* the device puts an RST on the bus */
    c->cycles += cycles;
}

/* An interrupt, or a halt up to some cycle. False: the next instruction is due. */
static bool i8080_attend(cpu *c, uint64_t cycles)
{
    bool held = c->special;
    c->special = false;
    if ((c->later && c->nmi) || (!held && interrupted(c))) {
        i8080_interrupt(c);
        return true;
    }
    if (c->rest) c->cycles = cycles;
    return c->rest;
}

SIM_INLINE void i8080_begin(cpu *c)
{
    jump(c, c->pc);
}

SIM_INLINE void i8080_end(cpu *c)
{
    c->pc = here(c);
}

#define SIM_EXECUTE i8080_execute
SIM_INSTRUCTION(cpu, fetch_first)
SIM_RUN(sim_8080, sim_8080, i8080_begin, i8080_attend, i8080_end)
static void reset_8080(sim_cpu *c)
{
    ((cpu *)c)->later = false;
    sim_8080_reset((cpu *)c);
}
static void reset_8085(sim_cpu *c)
{
    ((cpu *)c)->later = true;
    sim_8080_reset((cpu *)c);
}

static const sim_register registers[] = {
    SIM_REGISTER(sim_8080, "pc", pc, true),
    SIM_REGISTER(sim_8080, "a", r[7], true),
    SIM_REGISTER(sim_8080, "f", r[6], true),
    SIM_REGISTER(sim_8080, "b", r[0], true),
    SIM_REGISTER(sim_8080, "c", r[1], true),
    SIM_REGISTER(sim_8080, "d", r[2], true),
    SIM_REGISTER(sim_8080, "e", r[3], true),
    SIM_REGISTER(sim_8080, "h", r[4], true),
    SIM_REGISTER(sim_8080, "l", r[5], true),
    SIM_REGISTER(sim_8080, "sp", sp, true),
    SIM_REGISTER(sim_8080, "enabled", enabled, false),
    SIM_REGISTER(sim_8080, "held", special, false),
    SIM_REGISTER(sim_8080, "halted", rest, false),
    SIM_REGISTER(sim_8080, "mask", mask, false),
    SIM_REGISTER(sim_8080, "requests", line[0], false),
    SIM_REGISTER(sim_8080, "later", later, false),
    SIM_REGISTER(sim_8080, "serial_in", serial_in, false),
    SIM_REGISTER(sim_8080, "serial_out", serial_out, false),
    SIM_REGISTER(sim_8080, "trapped", trapped, false),
    SIM_REGISTER(sim_8080, "before_trap", before_trap, false),
};
enum { REGISTERS = sizeof registers / sizeof registers[0] };
static const char *const old_sheets[] = {"8080", NULL}, *const new_sheets[] = {"8085", NULL};
static const sim_request requests[] = {
    SIM_REQUEST_IRQ("irq"),
    SIM_REQUEST_NMI("trap"),
    {"rst5.5", offsetof(cpu, line[0]), 0, false},
    {"rst6.5", offsetof(cpu, line[0]), 1, false},
    {"rst7.5", offsetof(cpu, line[0]), 2, true},
};
const sim_cpu_kind sim_8080_kind = {
    .sheets = old_sheets,
    .size = sizeof(cpu),
    .registers = registers,
    .register_count = REGISTERS - 7,
    .reset = reset_8080,
    .step = step,
    .run = run,
    .requests = requests,
    .request_count = 1,
};
const sim_cpu_kind sim_8085_kind = {
    .sheets = new_sheets,
    .size = sizeof(cpu),
    .registers = registers,
    .register_count = REGISTERS,
    .reset = reset_8085,
    .step = step,
    .run = run,
    .requests = requests,
    .request_count = sizeof requests / sizeof requests[0],
};
