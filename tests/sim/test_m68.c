/* The 6800 and the 6809 against their sheets (cycles), against sums done with whole numbers
 * (flags), and at work.
 */
#include "sim/cpu/cpu6809.h"

#include <stdio.h>
#include <string.h>

#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static union {
    sim_cpu any;
    sim_m68 m68;
    sim_6800 m6800;
    sim_6809 m6809;
} state;
#define cpu state.m68

/* What the two do alike is tested on both. */
static const struct part {
    const sim_cpu_kind *kind;
    const char *sheet;
    unsigned ones; /* flags that are always set */
    bool later;
} parts[] = {{&sim_6800_kind, "6800", M68_ONES, false}, {&sim_6809_kind, "6809", 0, true}};
static const struct part *part = parts;
#define FOR_EACH_PART for (part = parts; part < parts + 2; part++)

static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    memset(&state, 0, sizeof state);
    cpu.bus = &bus, cpu.pc = 0x8000, cpu.cc = (uint8_t)part->ones;
    if (part->later) {
        state.m6809.index[M68_X] = state.m6809.index[M68_Y] = 0x4000;
        state.m6809.index[M68_S] = state.m6809.index[M68_U] = 0xF000;
    } else
        state.m6800.sp = 0xF000, state.m6800.x = 0x4000;
}

static void step(void)
{
    part->kind->step(&state.any);
}

static bool is(const bl_extra *e, const char *name)
{
    return e->name.length == 1 && e->name.at[0] == name[0];
}

/* The cycles that the extras of the 6809's sheet add to a form as place_form makes it. */
static unsigned extras_due(const bl_sheet *sheet, const bl_form *f, unsigned turn)
{
    unsigned sum = 0;
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++) {
        if ((f->extras >> i & 1) == 0) continue;
        const bl_extra *e = bl_sheet_extra(sheet, i);
        bool on_zero = f->value[1] == 0x26, taken = (turn & 4) != 0; /* LBNE, LBEQ */
        if (is(e, "b")) sum += 2;                                    /* CC and B */
        if (is(e, "s") && cpu.cc >= 0x80) sum += 9;
        if (is(e, "t") && taken != on_zero) sum += 1;
    }
    return sum;
}

TEST(cycles_and_lengths_of_every_6800_and_6809_form_are_the_sheets)
{
    FOR_EACH_PART
    {
        bl_sheet *sheet = NULL;
        CHECK_INT(bl_sheet_open(&test_memory, (bl_text){part->sheet, 4}, NULL, &sheet), BL_OK);
        for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
            const bl_form *f = bl_sheet_form(sheet, i);
            bool branch = part->later && f->value[0] == 0x10 && f->value[1] < 0x30;
            if (branch && (f->value[1] & 0xFE) != 0x26) continue; /* conditions: another test */
            for (unsigned turn = 0; turn < 16; turn++) {
                set_up();
                memset(memory + 0xF000, turn < 8 ? 0xFF : 0, 16); /* what RTI pulls */
                place_form(sheet, f, 0, memory + 0x8000);
                cpu.cc |= (uint8_t)turn;
                step();
                unsigned due = f->cycles + extras_due(sheet, f, turn);
                if (cpu.cycles != due)
                    test_fail(__FILE__, __LINE__, "%.*s took %u cycles, the sheet says %u",
                              (int)f->written.length, f->written.at, (unsigned)cpu.cycles, due);
                unsigned op = f->value[0];
                bool subroutine = (op & 0xCF) == 0x8D && op < 0xC0, jump = (op | 0x70) == 0x7E;
                bool pulls = part->later && (op & ~2u) == 0x35, branches = (op & 0xF0) == 0x20;
                bool goes = f->flow != 0 || op == 0x3F || f->value[1] == 0x3F || subroutine ||
                            jump || pulls || branches;
                if (!goes && cpu.pc != 0x8000 + f->size)
                    test_fail(__FILE__, __LINE__, "%.*s went to $%04X", (int)f->written.length,
                              f->written.at, cpu.pc);
            }
        }
        bl_sheet_close(sheet);
    }
}

static unsigned flags(unsigned r, bool half, bool overflow, bool carry)
{
    return part->ones | (half ? M68_H : 0) | ((r & 0x80) != 0 ? M68_N : 0) | (r == 0 ? M68_Z : 0) |
           (overflow ? M68_V : 0) | (carry ? M68_C : 0);
}

static int sign(unsigned v)
{
    return v > 127 ? (int)v - 256 : (int)v;
}

static void sums_and_logic(void)
{
    static const uint8_t codes[] = {0x80, 0x81, 0x82, 0x84, 0x85, 0x86, 0x88, 0x89, 0x8A, 0x8B};
    set_up();
    for (size_t k = 0; k < sizeof codes; k++)
        for (unsigned a = 0; a < 256; a++)
            for (unsigned v = 0; v < 256; v++)
                for (unsigned carry = 0; carry < 2; carry++) {
                    unsigned op = codes[k] & 15, r = a, f = part->ones | carry;
                    int c = op == 2 || op == 9 ? (int)carry : 0, sum;
                    if (op <= 2) {
                        sum = sign(a) - sign(v) - c;
                        r = (unsigned)((int)a - (int)v - c) & 0xFF;
                        f = flags(r, false, sum < -128 || sum > 127, (int)a - (int)v - c < 0);
                    } else if (op == 9 || op == 11) {
                        sum = sign(a) + sign(v) + c;
                        r = (a + v + (unsigned)c) & 0xFF;
                        f = flags(r, (a & 15) + (v & 15) + (unsigned)c > 15,
                                  sum < -128 || sum > 127, a + v + (unsigned)c > 255);
                    } else {
                        r = op == 6 ? v : op == 8 ? a ^ v : op == 10 ? a | v : a & v;
                        f = flags(r, false, false, carry != 0);
                    }
                    /* CMP and BIT leave the accumulator */
                    unsigned left = op == 1 || op == 5 ? a : r;
                    cpu.pc = 0x8000, cpu.a = (uint8_t)a, cpu.cc = (uint8_t)(part->ones | carry);
                    memory[0x8000] = codes[k], memory[0x8001] = (uint8_t)v;
                    step();
                    if (cpu.a != left || cpu.cc != f)
                        test_fail(__FILE__, __LINE__,
                                  "%02X of %02X and %02X, carry %u: %02X %02X, not %02X %02X",
                                  codes[k], a, v, carry, cpu.a, cpu.cc, left, f);
                }
}

static void set_x(uint16_t x)
{
    if (part->later)
        state.m6809.index[M68_X] = x;
    else
        state.m6800.x = x;
}

static void one_operand(void)
{
    set_up();
    for (unsigned op = 0; op < 16; op++) {
        if (op == 1 || op == 2 || op == 5 || op == 11 || op == 14) continue;
        for (unsigned v = 0; v < 256; v++)
            for (unsigned carry = 0; carry < 2; carry++) {
                unsigned r = v, out = carry;
                bool overflow = false;
                switch (op) {
                case 0: r = (256 - v) & 0xFF, out = v != 0, overflow = v == 0x80; break;
                case 3: r = 255 - v, out = 1; break;
                case 4: r = v / 2, out = v & 1; break;
                case 6: r = v / 2 + carry * 128, out = v & 1; break;
                case 7: r = v / 2 + (v & 128), out = v & 1; break;
                case 8: r = v * 2 & 255, out = v >> 7; break;
                case 9: r = (v * 2 + carry) & 255, out = v >> 7; break;
                case 10: r = (v + 255) & 255, overflow = v == 128; break;
                case 12: r = (v + 1) & 255, overflow = v == 127; break;
                case 13: out = part->later ? carry : 0; break;
                default: r = 0, out = 0; break;
                }
                bool shift =
                    op == 8 || op == 9 || (!part->later && (op == 4 || op == 6 || op == 7));
                if (shift) overflow = ((r >> 7) ^ out) != 0;
                for (unsigned way = 0; way < 3; way++) { /* accumulators, and memory behind X */
                    static const uint8_t bases[] = {0x40, 0x50, 0x60};
                    set_x(0x4000);
                    cpu.pc = 0x8000;
                    cpu.a = cpu.b = memory[0x4005] = (uint8_t)v;
                    cpu.cc = (uint8_t)(part->ones | carry);
                    memory[0x8000] = (uint8_t)(bases[way] | op), memory[0x8001] = 5; /* 5,X */
                    step();
                    CHECK_INT(way == 0 ? cpu.a : way == 1 ? cpu.b : memory[0x4005], r);
                    CHECK_INT(cpu.cc, flags(r, false, overflow, out != 0));
                }
            }
    }
}

static uint8_t decimal(unsigned v)
{
    return (uint8_t)(v / 10 * 16 + v % 10);
}

static void decimal_sums(void)
{
    set_up();
    for (unsigned x = 0; x < 100; x++)
        for (unsigned y = 0; y < 100; y++) {
            cpu.pc = 0x8000;
            memory[0x8000] = 0x8B, memory[0x8001] = decimal(y), memory[0x8002] = 0x19;
            cpu.a = decimal(x); /* ADDA, DAA */
            step();
            step();
            CHECK_INT(cpu.a, decimal((x + y) % 100));
            CHECK_INT(cpu.cc & M68_C, x + y > 99);
        }
}

static void branches(void)
{
    set_up();
    for (unsigned a = 0; a < 256; a += 3)
        for (unsigned v = 0; v < 256; v++)
            for (unsigned op = 0x22; op < 0x30; op++) {
                bool expected[16] = {0};
                expected[2] = a > v, expected[3] = a <= v, expected[4] = a >= v;
                expected[5] = a < v, expected[6] = a != v, expected[7] = a == v;
                int difference = sign(a) - sign(v);
                expected[8] = difference >= -128 && difference <= 127, expected[9] = !expected[8];
                expected[10] = ((a - v) & 0x80) == 0, expected[11] = !expected[10];
                expected[12] = sign(a) >= sign(v), expected[13] = !expected[12];
                expected[14] = sign(a) > sign(v), expected[15] = !expected[14];
                cpu.pc = 0x8000, cpu.a = (uint8_t)a;
                memory[0x8000] = 0x81, memory[0x8001] = (uint8_t)v; /* CMPA */
                memory[0x8002] = (uint8_t)op, memory[0x8003] = 0x10;
                step();
                step();
                if ((cpu.pc == 0x8014) != expected[op & 15])
                    test_fail(__FILE__, __LINE__, "%02X after comparing %02X with %02X", op, a, v);
            }
}

TEST(sums_logic_shifts_and_branches_of_both_for_all_inputs)
{
    FOR_EACH_PART
    {
        sums_and_logic();
        one_operand();
        decimal_sums();
        branches();
    }
}

TEST(a_program_of_the_6800_and_its_interrupts)
{
    static const char source[] =
        " .org $8000\n lds #$F000\n ldx #text\n ldab #5\nput: ldaa 0,x\n psha\n inx\n decb\n"
        " bne put\n ldx #$9000\n ldab #5\nget: pula\n staa 0,x\n inx\n decb\n bne get\n"
        " bsr sub\n cli\n wai\n stab $9010\nstop: wai\n bra stop\nsub: inc $9008\n rts\n"
        "text: .text \"light\"\nirq: ldab #7\n tsx\n stab 1,x\n rti\n .vector irq, irq\n"
        " .vector reset, $8000\n";
    part = &parts[0];
    load_program("6800", source, memory);
    set_up();
    sim_6800 *c = &state.m6800;
    sim_6800_reset(c);
    sim_6800_run(c, 1000);
    CHECK(c->rest);
    CHECK_BYTES(memory + 0x9000, 5, "thgil", 5);
    CHECK_INT(memory[0x9008], 1);
    CHECK_INT(memory[0x9010], 0);
    uint64_t before = c->cycles;
    c->irq = true;
    sim_6800_step(c);
    CHECK_INT(c->cycles - before, 4); /* WAI had saved the registers already */
    c->irq = false;
    sim_6800_run(c, c->cycles + 100);
    CHECK_INT(memory[0x9010], 7); /* what the routine put where B is restored from */
    CHECK_INT(c->sp, 0xF000 - 7);
}

/* With a request that waits, CLI and TAP are followed by one more instruction; NMI does not wait,
 * and what leaves the mask open delays nothing. */
TEST(a_6800_takes_an_interrupt_one_instruction_after_it_opens_the_mask)
{
    static const struct {
        const char *code;
        uint16_t taken; /* where it is interrupted */
        bool nmi;
    } cases[] = {
        {" cli\n nop\n nop\n", 0x8002, false}, {" clra\n tap\n nop\n nop\n", 0x8003, false},
        {" cli\n cli\n nop\n", 0x8002, false}, {" cli\n sei\n cli\n nop\n nop\n", 0x8004, false},
        {" cli\n wai\n nop\n", 0x8002, false}, {" cli\n nop\n nop\n", 0x8001, true},
    };
    part = &parts[0];
    for (size_t i = 0; i < sizeof cases / sizeof cases[0]; i++) {
        char source[200];
        snprintf(source, sizeof source,
                 " .org $8000\n%s bra *\nin: bra in\n .vector irq, in\n .vector nmi, in\n"
                 " .vector reset, $8000\n",
                 cases[i].code);
        load_program("6800", source, memory);
        set_up();
        sim_6800 *c = &state.m6800;
        sim_6800_reset(c);
        c->sp = 0xF000;
        c->irq = true;
        for (unsigned n = 0; n < 10 && (c->cc & M68_I) != 0; n++)
            sim_6800_step(c);
        c->nmi = cases[i].nmi;
        for (unsigned n = 0; n < 10 && c->sp == 0xF000; n++)
            sim_6800_step(c);
        CHECK_INT(memory[0xEFFF] << 8 | memory[0xF000], cases[i].taken);
    }
}
