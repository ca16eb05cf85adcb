/* cpu6502.c - what the NMOS part does otherwise than the CMOS one. */
#include "cpu6502.h"

#define M65_NMOS             true
#define M65_ADD_DECIMAL      nmos_add_decimal
#define M65_SUBTRACT_DECIMAL nmos_subtract_decimal
#include "m6502.h"

/* ---- decimal mode: the result is right, the flags come from halfway ---- */

static void nmos_add_decimal(cpu *c, uint8_t v)
{
    unsigned carry = c->carry, binary = (unsigned)c->a + v + carry;
    unsigned low = (c->a & 0x0Fu) + (v & 0x0Fu) + carry;
    if (low > 9) low = ((low + 6) & 0x0F) + 0x10;
    unsigned sum = (c->a & 0xF0u) + (v & 0xF0u) + low;
    c->z = (uint8_t)binary;
    c->n = (uint8_t)sum;
    c->v = (uint8_t)(~(c->a ^ v) & (c->a ^ sum));
    if (sum > 0x9F) sum += 0x60;
    c->carry = sum > 0xFF;
    c->a = (uint8_t)sum;
}

static void nmos_subtract_decimal(cpu *c, uint8_t v)
{
    int borrow = 1 - c->carry;
    int low = (c->a & 0x0F) - (v & 0x0F) - borrow;
    if (low < 0) low = ((low - 6) & 0x0F) - 0x10;
    int sum = (c->a & 0xF0) - (v & 0xF0) + low;
    if (sum < 0) sum -= 0x60;
    add_binary(c, (uint8_t)~v); /* all flags are those of binary subtraction */
    c->a = (uint8_t)sum;
}

/* ---- undocumented: two operations at once ---- */

SIM_INLINE void lax(cpu *c, uint8_t v)
{
    c->a = c->x = m65_nz(c, v);
}

SIM_INLINE uint8_t slo(cpu *c, uint8_t v)
{
    v = asl(c, v);
    ora(c, v);
    return v;
}

SIM_INLINE uint8_t rla(cpu *c, uint8_t v)
{
    v = rol(c, v);
    and_(c, v);
    return v;
}

SIM_INLINE uint8_t sre(cpu *c, uint8_t v)
{
    v = lsr(c, v);
    eor(c, v);
    return v;
}

SIM_INLINE uint8_t rra(cpu *c, uint8_t v)
{
    v = ror(c, v);
    adc(c, v);
    return v;
}

SIM_INLINE uint8_t dcp(cpu *c, uint8_t v)
{
    v--;
    cmp(c, v);
    return v;
}

SIM_INLINE uint8_t isc(cpu *c, uint8_t v)
{
    v++;
    sbc(c, v);
    return v;
}

/* AND, then a rotation whose carry and overflow come from bits 6 and 5; in decimal mode each digit
 * is adjusted as after an addition. */
static void arr(cpu *c, uint8_t v)
{
    unsigned both = c->a & v;
    c->a = m65_nz(c, (uint8_t)(both >> 1 | (unsigned)c->carry << 7));
    if ((c->p & SIM_FLAG_D) == 0) {
        c->carry = c->a >> 6 & 1;
        c->v = (uint8_t)((c->a << 1) ^ (c->a << 2));
        return;
    }
    c->v = (uint8_t)((both ^ c->a) << 1);
    if ((both & 0x0F) + (both & 0x01) > 0x05) c->a = (c->a & 0xF0) | ((c->a + 0x06) & 0x0F);
    c->carry = (both & 0xF0) + (both & 0x10) > 0x50;
    if (c->carry != 0) c->a = (uint8_t)(c->a + 0x60);
}

/* Stores a register and the high byte of the address plus one; when the index leads to the next
 * page, what is stored is also the high byte that it goes to. */
static void store_high(cpu *c, uint16_t base, uint8_t index, uint8_t v)
{
    uint16_t at = (uint16_t)(base + index);
    v &= (uint8_t)((base >> 8) + 1);
    if ((at ^ base) >> 8 != 0) at = (uint16_t)(v << 8 | (at & 0xFF));
    wr(c, at, v);
}

/* What A leaves on the inner bus while two sources drive it: it differs from part to part. */
enum { BUS_KEEPS = 0xEE };

static void sbx(cpu *c, uint8_t v)
{
    unsigned both = c->a & c->x;
    c->carry = both >= v;
    c->x = m65_nz(c, (uint8_t)(both - v));
}

#define SHIFT(base, op)                                                                            \
    case (base) | 0x0A:                                                                            \
        c->a = op(c, c->a);                                                                        \
        return 2;                                                                                  \
        COUNT(base, op)

#define COMBINED(base, op)                                                                         \
    case (base) | 0x07: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x17: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0F: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x03: MODIFY(op, indx(c)); return 8;                                             \
    case (base) | 0x1F: MODIFY(op, absx_same(c)); return 7;                                        \
    case (base) | 0x1B: MODIFY(op, absy_same(c)); return 7;                                        \
    case (base) | 0x13: MODIFY(op, indy_same(c)); return 8;

/* Reads that do nothing; the twelve codes that are left hang the part. */
SIM_INLINE unsigned idle(cpu *c, uint8_t opcode)
{
    switch (opcode) {
    case 0x1A:
    case 0x3A:
    case 0x5A:
    case 0x7A:
    case 0xDA:
    case 0xFA: return 2;
    case 0x80:
    case 0x82:
    case 0x89:
    case 0xC2:
    case 0xE2: fetch(c); return 2;
    case 0x04:
    case 0x44:
    case 0x64: rd(c, zp(c)); return 3;
    case 0x14:
    case 0x34:
    case 0x54:
    case 0x74:
    case 0xD4:
    case 0xF4: rd(c, zpx(c)); return 4;
    case 0x0C: rd(c, fetch_word(c)); return 4;
    case 0x1C:
    case 0x3C:
    case 0x5C:
    case 0x7C:
    case 0xDC:
    case 0xFC: rd(c, absx(c)); return 4;
    default:
        c->special = true; /* only reset helps */
        SIM_LOOK(c);
        return 2;
    }
}

/* What the half-decoded instructions of the NMOS part do; those that depend on the single chip use
 * the constant $EE. */
SIM_INLINE unsigned undocumented(cpu *c, uint8_t opcode)
{
    switch (opcode) {
        COMBINED(0x00, slo)
        COMBINED(0x20, rla)
        COMBINED(0x40, sre)
        COMBINED(0x60, rra)
        COMBINED(0xC0, dcp)
        COMBINED(0xE0, isc)
    case 0xA7: lax(c, rd(c, zp(c))); return 3;
    case 0xB7: lax(c, rd(c, zpy(c))); return 4;
    case 0xAF: lax(c, rd(c, fetch_word(c))); return 4;
    case 0xBF: lax(c, rd(c, absy(c))); return 4;
    case 0xA3: lax(c, rd(c, indx(c))); return 6;
    case 0xB3: lax(c, rd(c, indy(c))); return 5;
    case 0x87: wr(c, zp(c), c->a & c->x); return 3;
    case 0x97: wr(c, zpy(c), c->a & c->x); return 4;
    case 0x8F: wr(c, fetch_word(c), c->a & c->x); return 4;
    case 0x83: wr(c, indx(c), c->a & c->x); return 6;
    case 0x0B:
    case 0x2B:
        and_(c, fetch(c));
        c->carry = c->a >> 7;
        return 2;
    case 0x4B:
        and_(c, fetch(c));
        c->a = lsr(c, c->a);
        return 2;
    case 0x6B: arr(c, fetch(c)); return 2;
    case 0xCB: sbx(c, fetch(c)); return 2;
    case 0xEB: sbc(c, fetch(c)); return 2;
    case 0x8B: c->a = m65_nz(c, (c->a | BUS_KEEPS) & c->x & fetch(c)); return 2;
    case 0xAB: lax(c, (c->a | BUS_KEEPS) & fetch(c)); return 2;
    case 0xBB:
        lax(c, rd(c, absy(c)) & c->s);
        c->s = c->a;
        return 4;
    case 0x93: store_high(c, zero_word(c, fetch(c)), c->y, c->a & c->x); return 6;
    case 0x9F: store_high(c, fetch_word(c), c->y, c->a & c->x); return 5;
    case 0x9C: store_high(c, fetch_word(c), c->x, c->y); return 5;
    case 0x9E: store_high(c, fetch_word(c), c->y, c->x); return 5;
    case 0x9B:
        c->s = c->a & c->x;
        store_high(c, fetch_word(c), c->y, c->s);
        return 5;
    default: return idle(c, opcode);
    }
}

/* The opcode is a constant where this is called (SIM_EACH_BYTE): of its tests nothing is left. */
SIM_INLINE unsigned nmos_execute(cpu *c, uint8_t opcode)
{
    uint16_t at;
    switch (opcode) {
        FAMILIES
    case 0x6C: { /* the pointer's high byte comes from the same page */
        at = fetch_word(c);
        uint8_t low = rd(c, at);
        jump(c, (uint16_t)(low | rd(c, (uint16_t)((at & 0xFF00) | ((at + 1) & 0xFF))) << 8));
        return 5;
    }
    case 0x00:
        fetch(c);
        m65_interrupt(c, 0xFFFE, SIM_FLAG_B);
        return 7;
    default: {
        unsigned cycles = execute_common(c, opcode);
        return cycles != 0 ? cycles : undocumented(c, opcode);
    }
    }
}

void sim_6502_reset(sim_65c02 *c)
{
    start(c); /* decimal mode is whatever it was */
}

/* An interrupt, or the hang up to some cycle. False: the next instruction is due. */
static bool nmos_attend(cpu *c, uint64_t cycles)
{
    if (c->special) {
        c->cycles = cycles;
        return true;
    }
    uint16_t vector = take_request(c);
    if (vector == 0) return false;
    m65_interrupt(c, vector, 0);
    c->cycles += 7;
    return true;
}

#define SIM_EXECUTE nmos_execute
SIM_INSTRUCTION(cpu, fetch_first)
SIM_RUN(sim_65c02, sim_6502, m65_begin, nmos_attend, m65_end)
SIM_RESET(sim_65c02, sim_6502)

static const char *const sheets[] = {"6502", "6502+undocumented", NULL};
const sim_cpu_kind sim_6502_kind = {
    .sheets = sheets,
    .size = sizeof(sim_65c02),
    .registers = sim_65c02_registers,
    .register_count = SIM_65C02_REGISTERS,
    .reset = reset,
    .step = step,
    .run = run,
    .requests = sim_requests,
    .request_count = SIM_REQUESTS_USUAL,
    .special_stops = true,
};
