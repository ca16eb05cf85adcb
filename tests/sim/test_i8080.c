/* The 8080 and the 8085 against their sheets (cycles), against sums done with whole numbers
 * (flags), and at work. */
#include <string.h>

#include "sim/cpu/cpu8080.h"
#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_8080 cpu;

static void set_up(bool later)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    bus.vector = 0xFF;
    cpu = (sim_8080){.bus = &bus, .pc = 0x8000, .sp = 0xF000, .later = later, .mask = 7};
    cpu.r[I80_B] = cpu.r[I80_H] = cpu.r[I80_D] = 0x50;
    cpu.r[I80_F] = I80_ONE;
}

static void cycles_of(const char *name, bool later)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, 4}, NULL, &sheet), BL_OK);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        unsigned extra = extra_cycles(sheet, f);
        bool short_seen = false, long_seen = false;
        for (unsigned turn = 0; turn < 16; turn++) {
            set_up(later);
            place_form(sheet, f, turn / 2, memory + 0x8000);
            cpu.r[I80_F] = (turn & 1) != 0 ? 0xD7 : I80_ONE;
            sim_8080_step(&cpu);
            if (cpu.cycles != f->cycles && cpu.cycles != f->cycles + extra)
                test_fail(__FILE__, __LINE__, "%s %.*s took %u cycles, the sheet says %u and %u",
                          name, (int)f->written.length, f->written.at, (unsigned)cpu.cycles,
                          f->cycles, extra);
            short_seen |= cpu.cycles == f->cycles;
            long_seen |= cpu.cycles == f->cycles + extra;
            if (f->flow == 0 && extra == 0 && f->value[0] != 0xC7 && !cpu.rest &&
                (f->fixed[0] == 0xFF || (f->value[0] & 0xC7) != 0xC7) && cpu.pc != 0x8000 + f->size)
                test_fail(__FILE__, __LINE__, "%s %.*s went to $%04X", name, (int)f->written.length,
                          f->written.at, cpu.pc);
        }
        if (!short_seen || !long_seen)
            test_fail(__FILE__, __LINE__, "%.*s: only one of its times was seen",
                      (int)f->written.length, f->written.at);
    }
    bl_sheet_close(sheet);
}

TEST(cycles_of_every_8080_form_are_the_sheets)
{
    cycles_of("8080", false);
}

TEST(cycles_of_every_8085_form_are_the_sheets)
{
    cycles_of("8085", true);
}

static unsigned flags(unsigned r, bool carry, bool half)
{
    unsigned ones = 0;
    for (unsigned bit = 0; bit < 8; bit++)
        ones += r >> bit & 1;
    return I80_ONE | (r & 0x80) | (r == 0 ? I80_ZERO : 0) | (ones % 2 == 0 ? I80_PARITY : 0) |
           (carry ? I80_CARRY : 0) | (half ? I80_HALF : 0);
}

TEST(sums_and_logic_of_the_8080_for_all_inputs)
{
    for (unsigned op = 0; op < 16; op++) {
        bool later = op >= 8;
        set_up(later);
        for (unsigned a = 0; a < 256; a++)
            for (unsigned v = 0; v < 256; v++)
                for (unsigned carry = 0; carry < 2; carry++) {
                    unsigned c = (op & 7) == 1 || (op & 7) == 3 ? carry : 0, r = a, f;
                    int whole;
                    switch (op & 7) {
                    case 0:
                    case 1:
                        r = (a + v + c) & 0xFF;
                        f = flags(r, a + v + c > 255, (a & 15) + (v & 15) + c > 15);
                        break;
                    case 2:
                    case 3:
                    case 7:
                        whole = (int)a - (int)v - (int)c;
                        r = (unsigned)whole & 0xFF;
                        /* a carry out of the low digit of a + ~v + 1 */
                        f = flags(r, whole < 0, (int)(a & 15) - (int)(v & 15) - (int)c >= 0);
                        if ((op & 7) == 7) r = a;
                        break;
                    case 4:
                        r = a & v;
                        f = flags(r, false, later || ((a | v) & 8) != 0);
                        break;
                    case 5: f = flags(r = a ^ v, false, false); break;
                    default: f = flags(r = a | v, false, false); break;
                    }
                    cpu.pc = 0x8000, memory[0x8000] = (uint8_t)(0x80 | (op & 7) << 3);
                    cpu.r[I80_A] = (uint8_t)a, cpu.r[I80_B] = (uint8_t)v;
                    cpu.r[I80_F] = (uint8_t)(I80_ONE | carry);
                    sim_8080_step(&cpu);
                    if (cpu.r[I80_A] != r || cpu.r[I80_F] != f)
                        test_fail(
                            __FILE__, __LINE__,
                            "operation %u of %02X and %02X, carry %u: %02X %02X, not %02X %02X", op,
                            a, v, carry, cpu.r[I80_A], cpu.r[I80_F], r, f);
                }
    }
}

TEST(decimal_sums_of_the_8080_are_decimal)
{
    set_up(false);
    for (unsigned x = 0; x < 100; x++)
        for (unsigned y = 0; y < 100; y++) {
            cpu.pc = 0x8000;
            memcpy(memory + 0x8000, "\x80\x27", 2); /* ADD B; DAA */
            cpu.r[I80_A] = (uint8_t)(x / 10 * 16 + x % 10);
            cpu.r[I80_B] = (uint8_t)(y / 10 * 16 + y % 10);
            sim_8080_step(&cpu);
            sim_8080_step(&cpu);
            unsigned sum = (x + y) % 100;
            CHECK_INT(cpu.r[I80_A], sum / 10 * 16 + sum % 10);
            CHECK_INT(cpu.r[I80_F] & I80_CARRY, x + y > 99);
        }
}

/* Assembles a program for the 8085 at $8000 and runs it to its HLT. */
static void run_program(const char *source)
{
    load_program("8085", source, memory);
    set_up(true);
    for (unsigned i = 0; i < 100000 && !cpu.rest; i++)
        sim_8080_step(&cpu);
    CHECK(cpu.rest);
}

TEST(a_program_of_the_8080_that_checks_itself)
{
    /* 13 * 17 by shifting and adding; a text turned round through the stack */
    run_program(" .org $8000\n mvi d,0\n mvi e,13\n mvi a,17\n lxi h,0\n mvi c,8\n"
                "next: dad h\n ral\n jnc skip\n dad d\nskip: dcr c\n jnz next\n shld $9000\n"
                " lxi d,text\n mvi b,5\nput: ldax d\n push psw\n inx d\n dcr b\n jnz put\n"
                " lxi h,$9010\n mvi b,5\nget: pop psw\n mov m,a\n inx h\n dcr b\n jnz get\n"
                " lda $9000\n cpi 221\n mvi a,1\n jz good\n mvi a,0\ngood: hlt\n"
                "text: .text \"light\"\n");
    CHECK_INT(cpu.r[I80_A], 1);
    CHECK_INT(memory[0x9000] | memory[0x9001] << 8, 221);
    CHECK_BYTES(memory + 0x9010, 5, "thgil", 5);
}

TEST(interrupts_of_the_8085)
{
    run_program(" .org $8000\n lxi sp,$F000\n mvi a,$0B\n sim\n ei\n hlt\n"
                " .org $24\n inr b\n ret\n .org $3C\n inr c\n ei\n ret\n .org $38\n inr d\n ret\n");
    uint8_t b = cpu.r[I80_B], c = cpu.r[I80_C], d = cpu.r[I80_D];
    CHECK_INT(cpu.mask, 3);
    cpu.line[0] = 7; /* 7.5 comes first; 6.5 and 5.5 are masked */
    sim_8080_step(&cpu);
    CHECK_INT(cpu.pc, 0x3C);
    CHECK_INT(cpu.line[0], 3);
    for (unsigned i = 0; i < 3; i++)
        sim_8080_step(&cpu);
    CHECK_INT(cpu.r[I80_C], c + 1);
    cpu.enabled = false;
    cpu.nmi = true; /* TRAP cannot be masked */
    sim_8080_step(&cpu);
    CHECK_INT(cpu.pc, 0x24);
    sim_8080_step(&cpu);
    CHECK_INT(cpu.r[I80_B], b + 1);
    cpu.enabled = cpu.irq = true; /* INTR: the bus holds RST 7 */
    sim_8080_step(&cpu);
    CHECK_INT(cpu.pc, 0x38);
    sim_8080_step(&cpu);
    CHECK_INT(cpu.r[I80_D], d + 1);
}
