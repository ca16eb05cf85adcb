/* cpu65c02.c - one switch; every case says its own cycles. */
#include "cpu65c02.h"

typedef sim_65c02 cpu;

/* ---- memory ---- */

SIM_INLINE uint8_t rd(const cpu *c, uint16_t a)
{
    return sim_read(c->bus, a);
}

SIM_INLINE void wr(const cpu *c, uint16_t a, uint8_t v)
{
    sim_write(c->bus, a, v);
}

SIM_INLINE uint8_t fetch(cpu *c)
{
    return rd(c, c->pc++);
}

SIM_INLINE uint16_t fetch_word(cpu *c)
{
    const uint8_t *page = c->bus->read_page[c->pc >> 8];
    if (page == NULL || (c->pc & 0xFF) == 0xFF) {
        uint8_t low = fetch(c);
        return (uint16_t)(low | fetch(c) << 8);
    }
    page += c->pc & 0xFF;
    c->pc = (uint16_t)(c->pc + 2);
    return (uint16_t)(page[0] | page[1] << 8);
}

SIM_INLINE uint16_t word_at(cpu *c, uint16_t a)
{
    uint8_t low = rd(c, a);
    return (uint16_t)(low | rd(c, (uint16_t)(a + 1)) << 8);
}

/* A pointer in page zero wraps within it. */
SIM_INLINE uint16_t zero_word(cpu *c, uint8_t a)
{
    uint8_t low = rd(c, a);
    return (uint16_t)(low | rd(c, (uint8_t)(a + 1)) << 8);
}

SIM_INLINE void push(cpu *c, uint8_t v)
{
    wr(c, (uint16_t)(0x100 | c->s--), v);
}

SIM_INLINE uint8_t pull(cpu *c)
{
    return rd(c, (uint16_t)(0x100 | ++c->s));
}

/* ---- addresses; indexed ones add the cycle of a crossed page to extra ---- */

SIM_INLINE uint16_t indexed(cpu *c, uint16_t base, uint8_t index)
{
    uint16_t a = (uint16_t)(base + index);
    c->extra = (uint8_t)(c->extra + ((a ^ base) >> 8 != 0));
    return a;
}

SIM_INLINE uint16_t zp(cpu *c)
{
    return fetch(c);
}

SIM_INLINE uint16_t zpx(cpu *c)
{
    return (uint8_t)(fetch(c) + c->x);
}

SIM_INLINE uint16_t zpy(cpu *c)
{
    return (uint8_t)(fetch(c) + c->y);
}

SIM_INLINE uint16_t absx(cpu *c)
{
    return indexed(c, fetch_word(c), c->x);
}

SIM_INLINE uint16_t absy(cpu *c)
{
    return indexed(c, fetch_word(c), c->y);
}

SIM_INLINE uint16_t indx(cpu *c)
{
    return zero_word(c, (uint8_t)(fetch(c) + c->x));
}

SIM_INLINE uint16_t indy(cpu *c)
{
    return indexed(c, zero_word(c, fetch(c)), c->y);
}

SIM_INLINE uint16_t ind(cpu *c)
{
    return zero_word(c, fetch(c));
}

/* ---- operations ---- */

SIM_INLINE void flag(cpu *c, uint8_t mask, bool on)
{
    c->p = (uint8_t)(on ? c->p | mask : c->p & ~mask);
}

SIM_INLINE uint8_t nz(cpu *c, uint8_t v)
{
    c->p = (uint8_t)((c->p & ~(SIM_FLAG_N | SIM_FLAG_Z)) | (v & SIM_FLAG_N) |
                     (v == 0 ? SIM_FLAG_Z : 0));
    return v;
}

static void add_binary(cpu *c, uint8_t v)
{
    unsigned sum = (unsigned)c->a + v + (c->p & SIM_FLAG_C);
    flag(c, SIM_FLAG_V, (~(c->a ^ v) & (c->a ^ sum) & 0x80) != 0);
    flag(c, SIM_FLAG_C, sum > 0xFF);
    c->a = nz(c, (uint8_t)sum);
}

/* Decimal: each digit is corrected by 6 when it passes 9; overflow as the sum before the high
 * digit's correction shows it; N and Z from the result. One cycle more. */
static void add_decimal(cpu *c, uint8_t v)
{
    unsigned low = (c->a & 0x0Fu) + (v & 0x0Fu) + (c->p & SIM_FLAG_C);
    if (low > 9) low = ((low + 6) & 0x0F) + 0x10;
    unsigned sum = (c->a & 0xF0u) + (v & 0xF0u) + low;
    flag(c, SIM_FLAG_V, (~(c->a ^ v) & (c->a ^ sum) & 0x80) != 0);
    if (sum > 0x9F) sum += 0x60;
    flag(c, SIM_FLAG_C, sum > 0xFF);
    c->a = nz(c, (uint8_t)sum);
    c->extra++;
}

static void subtract_decimal(cpu *c, uint8_t v)
{
    int borrow = (c->p & SIM_FLAG_C) == 0;
    int low = (c->a & 0x0F) - (v & 0x0F) - borrow;
    int sum = c->a - v - borrow;
    flag(c, SIM_FLAG_V, ((c->a ^ v) & (c->a ^ sum) & 0x80) != 0);
    flag(c, SIM_FLAG_C, sum >= 0);
    if (sum < 0) sum -= 0x60;
    if (low < 0) sum -= 0x06;
    c->a = nz(c, (uint8_t)sum);
    c->extra++;
}

SIM_INLINE void adc(cpu *c, uint8_t v)
{
    if ((c->p & SIM_FLAG_D) != 0)
        add_decimal(c, v);
    else
        add_binary(c, v);
}

SIM_INLINE void sbc(cpu *c, uint8_t v)
{
    if ((c->p & SIM_FLAG_D) != 0)
        subtract_decimal(c, v);
    else
        add_binary(c, (uint8_t)~v);
}

SIM_INLINE void and_(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a & v);
}

SIM_INLINE void ora(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a | v);
}

SIM_INLINE void eor(cpu *c, uint8_t v)
{
    c->a = nz(c, c->a ^ v);
}

SIM_INLINE void lda(cpu *c, uint8_t v)
{
    c->a = nz(c, v);
}

SIM_INLINE void compare(cpu *c, uint8_t r, uint8_t v)
{
    flag(c, SIM_FLAG_C, r >= v);
    nz(c, (uint8_t)(r - v));
}

SIM_INLINE void cmp(cpu *c, uint8_t v)
{
    compare(c, c->a, v);
}

SIM_INLINE void bit(cpu *c, uint8_t v)
{
    c->p = (uint8_t)((c->p & ~(SIM_FLAG_N | SIM_FLAG_V | SIM_FLAG_Z)) |
                     (v & (SIM_FLAG_N | SIM_FLAG_V)) | ((c->a & v) == 0 ? SIM_FLAG_Z : 0));
}

SIM_INLINE uint8_t asl(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_C, (v & 0x80) != 0);
    return nz(c, (uint8_t)(v << 1));
}

SIM_INLINE uint8_t lsr(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_C, (v & 1) != 0);
    return nz(c, v >> 1);
}

SIM_INLINE uint8_t rol(cpu *c, uint8_t v)
{
    uint8_t carry = c->p & SIM_FLAG_C;
    flag(c, SIM_FLAG_C, (v & 0x80) != 0);
    return nz(c, (uint8_t)(v << 1 | carry));
}

SIM_INLINE uint8_t ror(cpu *c, uint8_t v)
{
    uint8_t carry = c->p & SIM_FLAG_C;
    flag(c, SIM_FLAG_C, (v & 1) != 0);
    return nz(c, (uint8_t)(v >> 1 | carry << 7));
}

SIM_INLINE uint8_t inc(cpu *c, uint8_t v)
{
    return nz(c, (uint8_t)(v + 1));
}

SIM_INLINE uint8_t dec(cpu *c, uint8_t v)
{
    return nz(c, (uint8_t)(v - 1));
}

SIM_INLINE uint8_t tsb(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_Z, (c->a & v) == 0);
    return c->a | v;
}

SIM_INLINE uint8_t trb(cpu *c, uint8_t v)
{
    flag(c, SIM_FLAG_Z, (c->a & v) == 0);
    return (uint8_t)(v & ~c->a);
}

/* One cycle more when taken, another when that leads to a different page. */
SIM_INLINE void branch(cpu *c, bool taken)
{
    int8_t distance = (int8_t)fetch(c);
    if (!taken) return;
    uint16_t from = c->pc;
    c->pc = (uint16_t)(from + distance);
    c->extra = (uint8_t)(c->extra + 1 + ((c->pc ^ from) >> 8 != 0));
}

static void interrupt(cpu *c, uint16_t vector, uint8_t b)
{
    push(c, (uint8_t)(c->pc >> 8));
    push(c, (uint8_t)c->pc);
    push(c, (uint8_t)((c->p & ~SIM_FLAG_B) | b | SIM_FLAG_ONE));
    c->p = (uint8_t)((c->p | SIM_FLAG_I) & ~SIM_FLAG_D);
    c->pc = word_at(c, vector);
}

void sim_65c02_reset(sim_65c02 *c)
{
    c->s = (uint8_t)(c->s - 3);
    c->p = (uint8_t)((c->p | SIM_FLAG_I | SIM_FLAG_ONE | SIM_FLAG_B) & ~SIM_FLAG_D);
    c->rest = c->special = c->nmi = false;
    c->pc = word_at(c, 0xFFFC);
    c->cycles += 7;
}

/* The eight-column family of the arithmetic and logic instructions. */
#define FAMILY(base, op)                                                                           \
    case (base) | 0x09: op(c, fetch(c)); return 2;                                                 \
    case (base) | 0x05: op(c, rd(c, zp(c))); return 3;                                             \
    case (base) | 0x15: op(c, rd(c, zpx(c))); return 4;                                            \
    case (base) | 0x0D: op(c, rd(c, fetch_word(c))); return 4;                                     \
    case (base) | 0x1D: op(c, rd(c, absx(c))); return 4;                                           \
    case (base) | 0x19: op(c, rd(c, absy(c))); return 4;                                           \
    case (base) | 0x01: op(c, rd(c, indx(c))); return 6;                                           \
    case (base) | 0x11: op(c, rd(c, indy(c))); return 5;                                           \
    case (base) | 0x12:                                                                            \
        op(c, rd(c, ind(c)));                                                                      \
        return 5;

#define MODIFY(op, address_of)                                                                     \
    do {                                                                                           \
        uint16_t a_ = address_of;                                                                  \
        wr(c, a_, op(c, rd(c, a_)));                                                               \
    } while (0)

#define SHIFT(base, op)                                                                            \
    case (base) | 0x0A: c->a = op(c, c->a); return 2;                                              \
    case (base) | 0x06: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x16: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0E: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x1E: MODIFY(op, absx(c)); return 6;

/* INC and DEC indexed take seven cycles whether a page is crossed or not. */
#define COUNT(base, op)                                                                            \
    case (base) | 0x06: MODIFY(op, zp(c)); return 5;                                               \
    case (base) | 0x16: MODIFY(op, zpx(c)); return 6;                                              \
    case (base) | 0x0E: MODIFY(op, fetch_word(c)); return 6;                                       \
    case (base) | 0x1E:                                                                            \
        MODIFY(op, absx(c));                                                                       \
        c->extra = 0;                                                                              \
        return 7;

#define ONE_BIT(n)                                                                                 \
    case 0x07 | (n) << 4: {                                                                        \
        uint16_t a_ = zp(c);                                                                       \
        wr(c, a_, (uint8_t)(rd(c, a_) & ~(1 << (n))));                                             \
        return 5;                                                                                  \
    }                                                                                              \
    case 0x87 | (n) << 4: {                                                                        \
        uint16_t a_ = zp(c);                                                                       \
        wr(c, a_, (uint8_t)(rd(c, a_) | 1 << (n)));                                                \
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
SIM_INLINE unsigned execute(cpu *c, uint8_t opcode)
{
    switch (opcode) {
        FAMILY(0x60, adc)
        FAMILY(0x20, and_)
        FAMILY(0xC0, cmp)
        FAMILY(0x40, eor)
        FAMILY(0xA0, lda)
        FAMILY(0x00, ora)
        FAMILY(0xE0, sbc)
        SHIFT(0x00, asl)
        SHIFT(0x40, lsr)
        SHIFT(0x20, rol)
        SHIFT(0x60, ror)
        COUNT(0xC0, dec)
        COUNT(0xE0, inc)
        ONE_BIT(0)
        ONE_BIT(1)
        ONE_BIT(2)
        ONE_BIT(3)
        ONE_BIT(4)
        ONE_BIT(5)
        ONE_BIT(6)
        ONE_BIT(7)

    case 0x85: wr(c, zp(c), c->a); return 3;
    case 0x95: wr(c, zpx(c), c->a); return 4;
    case 0x8D: wr(c, fetch_word(c), c->a); return 4;
    case 0x9D:
        wr(c, absx(c), c->a);
        c->extra = 0;
        return 5;
    case 0x99:
        wr(c, absy(c), c->a);
        c->extra = 0;
        return 5;
    case 0x81: wr(c, indx(c), c->a); return 6;
    case 0x91:
        wr(c, indy(c), c->a);
        c->extra = 0;
        return 6;
    case 0x92: wr(c, ind(c), c->a); return 5;
    case 0x64: wr(c, zp(c), 0); return 3;
    case 0x74: wr(c, zpx(c), 0); return 4;
    case 0x9C: wr(c, fetch_word(c), 0); return 4;
    case 0x9E:
        wr(c, absx(c), 0);
        c->extra = 0;
        return 5;
    case 0x86: wr(c, zp(c), c->x); return 3;
    case 0x96: wr(c, zpy(c), c->x); return 4;
    case 0x8E: wr(c, fetch_word(c), c->x); return 4;
    case 0x84: wr(c, zp(c), c->y); return 3;
    case 0x94: wr(c, zpx(c), c->y); return 4;
    case 0x8C: wr(c, fetch_word(c), c->y); return 4;

    case 0xA2: c->x = nz(c, fetch(c)); return 2;
    case 0xA6: c->x = nz(c, rd(c, zp(c))); return 3;
    case 0xB6: c->x = nz(c, rd(c, zpy(c))); return 4;
    case 0xAE: c->x = nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBE: c->x = nz(c, rd(c, absy(c))); return 4;
    case 0xA0: c->y = nz(c, fetch(c)); return 2;
    case 0xA4: c->y = nz(c, rd(c, zp(c))); return 3;
    case 0xB4: c->y = nz(c, rd(c, zpx(c))); return 4;
    case 0xAC: c->y = nz(c, rd(c, fetch_word(c))); return 4;
    case 0xBC: c->y = nz(c, rd(c, absx(c))); return 4;
    case 0xE0: compare(c, c->x, fetch(c)); return 2;
    case 0xE4: compare(c, c->x, rd(c, zp(c))); return 3;
    case 0xEC: compare(c, c->x, rd(c, fetch_word(c))); return 4;
    case 0xC0: compare(c, c->y, fetch(c)); return 2;
    case 0xC4: compare(c, c->y, rd(c, zp(c))); return 3;
    case 0xCC: compare(c, c->y, rd(c, fetch_word(c))); return 4;

    case 0x24: bit(c, rd(c, zp(c))); return 3;
    case 0x34: bit(c, rd(c, zpx(c))); return 4;
    case 0x2C: bit(c, rd(c, fetch_word(c))); return 4;
    case 0x3C: bit(c, rd(c, absx(c))); return 4;
    case 0x89: flag(c, SIM_FLAG_Z, (c->a & fetch(c)) == 0); return 2; /* immediate: Z only */
    case 0x14: MODIFY(trb, zp(c)); return 5;
    case 0x1C: MODIFY(trb, fetch_word(c)); return 6;
    case 0x04: MODIFY(tsb, zp(c)); return 5;
    case 0x0C: MODIFY(tsb, fetch_word(c)); return 6;
    case 0x1A: c->a = inc(c, c->a); return 2;
    case 0x3A: c->a = dec(c, c->a); return 2;
    case 0xE8: c->x = inc(c, c->x); return 2;
    case 0xCA: c->x = dec(c, c->x); return 2;
    case 0xC8: c->y = inc(c, c->y); return 2;
    case 0x88: c->y = dec(c, c->y); return 2;

    case 0xAA: c->x = nz(c, c->a); return 2;
    case 0x8A: c->a = nz(c, c->x); return 2;
    case 0xA8: c->y = nz(c, c->a); return 2;
    case 0x98: c->a = nz(c, c->y); return 2;
    case 0xBA: c->x = nz(c, c->s); return 2;
    case 0x9A: c->s = c->x; return 2;
    case 0x48: push(c, c->a); return 3;
    case 0x68: c->a = nz(c, pull(c)); return 4;
    case 0xDA: push(c, c->x); return 3;
    case 0xFA: c->x = nz(c, pull(c)); return 4;
    case 0x5A: push(c, c->y); return 3;
    case 0x7A: c->y = nz(c, pull(c)); return 4;
    case 0x08: push(c, c->p | SIM_FLAG_B | SIM_FLAG_ONE); return 3;
    case 0x28: c->p = pull(c) | SIM_FLAG_B | SIM_FLAG_ONE; return 4;

    case 0x18: flag(c, SIM_FLAG_C, false); return 2;
    case 0x38: flag(c, SIM_FLAG_C, true); return 2;
    case 0x58: flag(c, SIM_FLAG_I, false); return 2;
    case 0x78: flag(c, SIM_FLAG_I, true); return 2;
    case 0xB8: flag(c, SIM_FLAG_V, false); return 2;
    case 0xD8: flag(c, SIM_FLAG_D, false); return 2;
    case 0xF8: flag(c, SIM_FLAG_D, true); return 2;

    case 0x10: branch(c, (c->p & SIM_FLAG_N) == 0); return 2;
    case 0x30: branch(c, (c->p & SIM_FLAG_N) != 0); return 2;
    case 0x50: branch(c, (c->p & SIM_FLAG_V) == 0); return 2;
    case 0x70: branch(c, (c->p & SIM_FLAG_V) != 0); return 2;
    case 0x90: branch(c, (c->p & SIM_FLAG_C) == 0); return 2;
    case 0xB0: branch(c, (c->p & SIM_FLAG_C) != 0); return 2;
    case 0xD0: branch(c, (c->p & SIM_FLAG_Z) == 0); return 2;
    case 0xF0: branch(c, (c->p & SIM_FLAG_Z) != 0); return 2;
    case 0x80: branch(c, true); return 2;

    case 0x4C: c->pc = fetch_word(c); return 3;
    case 0x6C: c->pc = word_at(c, fetch_word(c)); return 6;
    case 0x7C: c->pc = word_at(c, (uint16_t)(fetch_word(c) + c->x)); return 6;
    case 0x20: {
        uint16_t target = fetch_word(c), back = (uint16_t)(c->pc - 1);
        push(c, (uint8_t)(back >> 8));
        push(c, (uint8_t)back);
        c->pc = target;
        return 6;
    }
    case 0x60: {
        uint8_t low = pull(c);
        c->pc = (uint16_t)((low | pull(c) << 8) + 1);
        return 6;
    }
    case 0x40: {
        c->p = pull(c) | SIM_FLAG_B | SIM_FLAG_ONE;
        uint8_t low = pull(c);
        c->pc = (uint16_t)(low | pull(c) << 8);
        return 6;
    }
    case 0x00:
        c->pc++;
        interrupt(c, 0xFFFE, SIM_FLAG_B);
        return 7;
    case 0xCB: c->rest = true; return 3;
    case 0xDB: c->special = true; return 3;
    case 0xEA: return 2;

    /* Reserved opcodes: no-operations, some of which read an operand. */
    case 0x02:
    case 0x22:
    case 0x42:
    case 0x62:
    case 0x82:
    case 0xC2:
    case 0xE2: c->pc++; return 2;
    case 0x44: c->pc++; return 3;
    case 0x54:
    case 0xD4:
    case 0xF4: c->pc++; return 4;
    case 0x5C: c->pc = (uint16_t)(c->pc + 2); return 8;
    case 0xDC:
    case 0xFC: c->pc = (uint16_t)(c->pc + 2); return 4;
    default: return 1;
    }
}

/* An interrupt, or a cycle of waiting. False: neither, the next instruction is due. */
static bool attend(cpu *c)
{
    if (c->rest && (c->irq || c->nmi)) c->rest = false;
    if (c->special || c->rest) {
        c->cycles++;
        return true;
    }
    if (!c->nmi && (!c->irq || (c->p & SIM_FLAG_I) != 0)) return false;
    uint16_t vector = c->nmi ? 0xFFFA : 0xFFFE;
    c->nmi = false;
    interrupt(c, vector, 0);
    c->cycles += 7;
    return true;
}

void sim_65c02_run(sim_65c02 *c, uint64_t cycles)
{
    while (c->cycles < cycles) {
        if (SIM_ATTENTION(c)) {
            bool idle = c->special || (c->rest && !c->irq && !c->nmi);
            if (idle) {
                c->cycles = cycles;
                return;
            }
            if (attend(c)) continue;
        }
        c->extra = 0;
        unsigned spent = execute(c, fetch(c));
        c->cycles += spent + c->extra;
    }
}

void sim_65c02_step(sim_65c02 *c)
{
    sim_65c02_run(c, c->cycles + 1);
}

static void reset(sim_cpu *c)
{
    sim_65c02_reset((sim_65c02 *)c);
}
static void step(sim_cpu *c)
{
    sim_65c02_step((sim_65c02 *)c);
}
static void run(sim_cpu *c, uint64_t cycles)
{
    sim_65c02_run((sim_65c02 *)c, cycles);
}

#define REGISTER(name, shown)                                                                      \
    {                                                                                              \
#name, offsetof(sim_65c02, name), sizeof(((cpu *)0)->name), shown                          \
    }
static const sim_register registers[] = {
    REGISTER(pc, true),
    REGISTER(a, true),
    REGISTER(x, true),
    REGISTER(y, true),
    REGISTER(s, true),
    REGISTER(p, true),
    {"waiting", offsetof(cpu, rest), 1, false},
    {"stopped", offsetof(cpu, special), 1, false},
};
static const char *const sheets[] = {"65c02", "65c02+plain", NULL};
const sim_cpu_kind sim_65c02_kind = {
    sheets, sizeof(sim_65c02), registers, sizeof registers / sizeof registers[0], reset, step, run};
