/* cpu65c02.c - one switch; every case says its own cycles. */
#define M65_NMOS             false
#define M65_ADD_DECIMAL      cmos_add_decimal
#define M65_SUBTRACT_DECIMAL cmos_subtract_decimal
#include "m6502.h"

/* Decimal: each digit is corrected by 6 when it passes 9; overflow as the sum before the high
 * digit's correction shows it; N and Z from the result. One cycle more. */
static void cmos_add_decimal(cpu *c, uint8_t v)
{
    unsigned low = (c->a & 0x0Fu) + (v & 0x0Fu) + c->carry;
    if (low > 9) low = ((low + 6) & 0x0F) + 0x10;
    unsigned sum = (c->a & 0xF0u) + (v & 0xF0u) + low;
    c->v = (uint8_t)(~(c->a ^ v) & (c->a ^ sum));
    if (sum > 0x9F) sum += 0x60;
    c->carry = sum > 0xFF;
    c->a = m65_nz(c, (uint8_t)sum);
    SIM_SPEND(c, 1);
}

static void cmos_subtract_decimal(cpu *c, uint8_t v)
{
    int borrow = 1 - c->carry;
    int low = (c->a & 0x0F) - (v & 0x0F) - borrow;
    int sum = c->a - v - borrow;
    c->v = (uint8_t)((c->a ^ v) & (c->a ^ sum));
    c->carry = sum >= 0;
    if (sum < 0) sum -= 0x60;
    if (low < 0) sum -= 0x06;
    c->a = m65_nz(c, (uint8_t)sum);
    SIM_SPEND(c, 1);
}

SIM_INLINE uint8_t tsb(cpu *c, uint8_t v)
{
    c->z = c->a & v;
    return c->a | v;
}

SIM_INLINE uint8_t trb(cpu *c, uint8_t v)
{
    c->z = c->a & v;
    return (uint8_t)(v & ~c->a);
}

/* Decimal mode ends, other than on the NMOS part. */
static void interrupt_binary(cpu *c, uint16_t vector, uint8_t b)
{
    m65_interrupt(c, vector, b);
    flag(c, SIM_FLAG_D, false);
}

void sim_65c02_reset(sim_65c02 *c)
{
    start(c);
    flag(c, SIM_FLAG_D, false);
}

#define SHIFT(base, op)                                                                            \
    case (base) | 0x0A: c->a = op(c, c->a); return 2;                                              \
    case (base) | 0x06: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x16: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0E: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x1E:                                                                            \
        MODIFY(op, absx(c));                                                                       \
        return 6;

#define ONE_BIT(n)                                                                                 \
    case 0x07 | (n) << 4: {                                                                        \
        uint16_t a_ = zp(c);                                                                       \
        uint8_t v_ = rd(c, a_);                                                                    \
        spare_cycle(c, a_, v_);                                                                    \
        wr(c, a_, (uint8_t)(v_ & ~(1 << (n))));                                                    \
        return 5;                                                                                  \
    }                                                                                              \
    case 0x87 | (n) << 4: {                                                                        \
        uint16_t a_ = zp(c);                                                                       \
        uint8_t v_ = rd(c, a_);                                                                    \
        spare_cycle(c, a_, v_);                                                                    \
        wr(c, a_, (uint8_t)(v_ | 1 << (n)));                                                       \
        return 5;                                                                                  \
    }                                                                                              \
    case 0x0F | (n) << 4: {                                                                        \
        uint8_t v_ = rd(c, zp(c));                                                                 \
        branch(c, (v_ >> (n)&1) == 0);                                                             \
        return 5;                                                                                  \
    }                                                                                              \
    case 0x8F | (n) << 4: {                                                                        \
        uint8_t v_ = rd(c, zp(c));                                                                 \
        branch(c, (v_ >> (n)&1) != 0);                                                             \
        return 5;                                                                                  \
    }

/* Executes one opcode; returns its cycles without extras. */
SIM_INLINE unsigned cmos_execute(cpu *c, uint8_t opcode)
{
    switch (opcode) {
        FAMILIES
        ONE_BIT(0)
        ONE_BIT(1)
        ONE_BIT(2)
        ONE_BIT(3)
        ONE_BIT(4)
        ONE_BIT(5)
        ONE_BIT(6)
        ONE_BIT(7)

    case 0x72: adc(c, rd(c, ind(c))); return 5;
    case 0x32: and_(c, rd(c, ind(c))); return 5;
    case 0xD2: cmp(c, rd(c, ind(c))); return 5;
    case 0x52: eor(c, rd(c, ind(c))); return 5;
    case 0xB2: lda(c, rd(c, ind(c))); return 5;
    case 0x12: ora(c, rd(c, ind(c))); return 5;
    case 0xF2: sbc(c, rd(c, ind(c))); return 5;
    case 0x92: wr(c, ind(c), c->a); return 5;
    case 0x64: wr(c, zp(c), 0); return 3;
    case 0x74: wr(c, zpx(c), 0); return 4;
    case 0x9C: wr(c, fetch_word(c), 0); return 4;
    case 0x9E: wr(c, absx_same(c), 0); return 5;
    case 0x34: bit(c, rd(c, zpx(c))); return 4;
    case 0x3C: bit(c, rd(c, absx(c))); return 4;
    case 0x89: c->z = c->a & fetch(c); return 2; /* immediate: Z only */
    case 0x14: MODIFY(trb, zp(c)); return 5;
    case 0x1C: MODIFY(trb, fetch_word(c)); return 6;
    case 0x04: MODIFY(tsb, zp(c)); return 5;
    case 0x0C: MODIFY(tsb, fetch_word(c)); return 6;
    case 0x1A: c->a = inc(c, c->a); return 2;
    case 0x3A: c->a = dec(c, c->a); return 2;
    case 0xDA: m65_push(c, c->x); return 3;
    case 0xFA: c->x = m65_nz(c, m65_pull(c)); return 4;
    case 0x5A: m65_push(c, c->y); return 3;
    case 0x7A: c->y = m65_nz(c, m65_pull(c)); return 4;
    case 0x80: branch(c, true); return 2;

    case 0x6C: jump(c, word_at(c, fetch_word(c))); return 6;
    case 0x7C: jump(c, word_at(c, (uint16_t)(fetch_word(c) + c->x))); return 6;
    case 0x00:
        fetch(c);
        interrupt_binary(c, 0xFFFE, SIM_FLAG_B);
        return 7;
    case 0xCB:
        c->rest = true;
        SIM_LOOK(c);
        return 3;
    case 0xDB:
        c->special = true;
        SIM_LOOK(c);
        return 3;

    /* Reserved opcodes: no-operations, some of which read an operand. */
    case 0x02:
    case 0x22:
    case 0x42:
    case 0x62:
    case 0x82:
    case 0xC2:
    case 0xE2: fetch(c); return 2;
    case 0x44: fetch(c); return 3;
    case 0x54:
    case 0xD4:
    case 0xF4: fetch(c); return 4;
    case 0x5C: fetch_word(c); return 8;
    case 0xDC:
    case 0xFC: fetch_word(c); return 4;
    default: {
        unsigned cycles = execute_common(c, opcode);
        return cycles != 0 ? cycles : 1;
    }
    }
}

/* An interrupt, or a wait up to some cycle. False: the next instruction is due. */
static bool cmos_attend(cpu *c, uint64_t cycles)
{
    if (c->rest && (c->irq || c->nmi)) c->rest = false;
    if (c->special || c->rest) {
        c->cycles = cycles;
        return true;
    }
    uint16_t vector = take_request(c);
    if (vector == 0) return false;
    interrupt_binary(c, vector, 0);
    c->cycles += 7;
    return true;
}

#define SIM_EXECUTE cmos_execute
SIM_INSTRUCTION(cpu, fetch_first)
SIM_RUN(sim_65c02, sim_65c02, m65_begin, cmos_attend, m65_end)
SIM_RESET(sim_65c02, sim_65c02)

const sim_register sim_65c02_registers[SIM_65C02_REGISTERS] = {
    SIM_REGISTER(sim_65c02, "pc", pc, true),
    SIM_REGISTER(sim_65c02, "a", a, true),
    SIM_REGISTER(sim_65c02, "x", x, true),
    SIM_REGISTER(sim_65c02, "y", y, true),
    SIM_REGISTER(sim_65c02, "s", s, true),
    SIM_REGISTER(sim_65c02, "p", p, true),
    SIM_REGISTER(sim_65c02, "waiting", rest, false),
    SIM_REGISTER(sim_65c02, "stopped", special, false),
    SIM_REGISTER(sim_65c02, "mask_before", line[M65_LATER], false),
};
static const char *const sheets[] = {"65c02", "65c02+plain", NULL};
const sim_cpu_kind sim_65c02_kind = {
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
