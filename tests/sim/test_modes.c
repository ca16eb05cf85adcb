/* Every load, store and read-modify-write form of the sheet, run with random operands: the address
 * it works on is worked out here from the way the form is written, not from its opcode. */
#include "harness.h"

#include <string.h>

#include "sim/cpu/cpu65c02.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_65c02 cpu;

static void set_up(void)
{
    for (size_t i = 0; i < sizeof memory; i++)
        memory[i] = (uint8_t)test_random();
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    cpu = (sim_65c02){.bus = &bus,
                      .a = (uint8_t)test_random(),
                      .x = (uint8_t)test_random(),
                      .y = (uint8_t)test_random(),
                      .s = 0xF0,
                      .p = SIM_FLAG_ONE | SIM_FLAG_B | (test_random() & SIM_FLAG_C),
                      .pc = 0x8000};
}

static uint16_t word(uint16_t at)
{
    return (uint16_t)(memory[at] | memory[(uint16_t)(at + 1)] << 8);
}

static uint16_t zero_word(uint8_t at)
{
    return (uint16_t)(memory[at] | memory[(uint8_t)(at + 1)] << 8);
}

static bool written(const bl_form *f, const char *operand)
{
    const char *blank = memchr(f->written.at, ' ', f->written.length);
    size_t n = blank == NULL ? 0 : f->written.length - (size_t)(blank + 1 - f->written.at);
    return n == strlen(operand) && (n == 0 || memcmp(blank + 1, operand, n) == 0);
}

/* The address an operand means; false for forms that work on none. */
static bool effective(const bl_form *f, uint16_t *address)
{
    uint8_t low = memory[0x8001];
    uint16_t wide = word(0x8001);
    if (written(f, "zp"))
        *address = low;
    else if (written(f, "zp,X"))
        *address = (uint8_t)(low + cpu.x);
    else if (written(f, "zp,Y"))
        *address = (uint8_t)(low + cpu.y);
    else if (written(f, "abs"))
        *address = wide;
    else if (written(f, "abs,X"))
        *address = (uint16_t)(wide + cpu.x);
    else if (written(f, "abs,Y"))
        *address = (uint16_t)(wide + cpu.y);
    else if (written(f, "(zp,X)"))
        *address = zero_word((uint8_t)(low + cpu.x));
    else if (written(f, "(zp),Y"))
        *address = (uint16_t)(zero_word(low) + cpu.y);
    else if (written(f, "(zp)"))
        *address = zero_word(low);
    else if (written(f, "#imm"))
        *address = 0x8001;
    else
        return false;
    return true;
}

static bool named(const bl_sheet *sheet, const bl_form *f, const char *name)
{
    bl_text m = bl_sheet_mnemonic(sheet, f->mnemonic);
    return m.length == strlen(name) && memcmp(m.at, name, m.length) == 0;
}

/* What the instruction must have done to A, X, Y or memory; false when it is not one of those
 * checked here. */
static bool expected(const bl_sheet *sheet, const bl_form *f, const sim_65c02 *before, uint8_t old,
                     uint8_t *a, uint8_t *x, uint8_t *y, uint8_t *m)
{
    unsigned carry = before->p & SIM_FLAG_C;
    if (named(sheet, f, "LDA"))
        *a = old;
    else if (named(sheet, f, "LDX"))
        *x = old;
    else if (named(sheet, f, "LDY"))
        *y = old;
    else if (named(sheet, f, "STA"))
        *m = before->a;
    else if (named(sheet, f, "STX"))
        *m = before->x;
    else if (named(sheet, f, "STY"))
        *m = before->y;
    else if (named(sheet, f, "STZ"))
        *m = 0;
    else if (named(sheet, f, "AND"))
        *a = before->a & old;
    else if (named(sheet, f, "ORA"))
        *a = before->a | old;
    else if (named(sheet, f, "EOR"))
        *a = before->a ^ old;
    else if (named(sheet, f, "ADC"))
        *a = (uint8_t)(before->a + old + carry);
    else if (named(sheet, f, "SBC"))
        *a = (uint8_t)(before->a - old - 1u + carry);
    else if (named(sheet, f, "INC"))
        *m = (uint8_t)(old + 1);
    else if (named(sheet, f, "DEC"))
        *m = (uint8_t)(old - 1);
    else if (named(sheet, f, "ASL"))
        *m = (uint8_t)(old << 1);
    else if (named(sheet, f, "LSR"))
        *m = old >> 1;
    else if (named(sheet, f, "ROL"))
        *m = (uint8_t)((unsigned)old << 1 | carry);
    else if (named(sheet, f, "ROR"))
        *m = (uint8_t)((unsigned)old >> 1 | carry << 7);
    else if (named(sheet, f, "TSB"))
        *m = old | before->a;
    else if (named(sheet, f, "TRB"))
        *m = (uint8_t)(old & ~before->a);
    else
        return false;
    return true;
}

TEST(every_memory_form_works_on_the_address_it_is_written_with)
{
    bl_sheet *sheet = NULL;
    unsigned forms = 0;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"65c02", 5}, NULL, &sheet), BL_OK);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        bool counted = false;
        for (unsigned round = 0; round < 200; round++) {
            uint16_t address;
            set_up();
            memory[0x8000] = (uint8_t)f->value[0];
            if (!effective(f, &address)) break;
            bool in_the_way =
                address >= 0x8000 && address < 0x8000u + f->size && !written(f, "#imm");
            if (in_the_way) continue;
            sim_65c02 before = cpu;
            uint8_t old = memory[address], a = cpu.a, x = cpu.x, y = cpu.y, m = old;
            if (!expected(sheet, f, &before, old, &a, &x, &y, &m)) break;
            sim_65c02_step(&cpu);
            counted = true;
            if (cpu.a != a || cpu.x != x || cpu.y != y || memory[address] != m ||
                cpu.pc != 0x8000 + f->size)
                test_fail(
                    __FILE__, __LINE__,
                    "%.*s at $%04X: A %02X X %02X Y %02X memory %02X, expected %02X %02X %02X %02X",
                    (int)f->written.length, f->written.at, address, cpu.a, cpu.x, cpu.y,
                    memory[address], a, x, y, m);
        }
        forms += counted;
    }
    /* 19 loads, 18 stores, 45 sums and logic, 24 shifts and counts, 4 of bits */
    CHECK_INT(forms, 110);
    bl_sheet_close(sheet);
}

TEST(transfers_pushes_and_pulls)
{
    static const struct {
        uint8_t opcode;
        char from, to;
    } moves[] = {{0xAA, 'a', 'x'}, {0x8A, 'x', 'a'}, {0xA8, 'a', 'y'},
                 {0x98, 'y', 'a'}, {0xBA, 's', 'x'}, {0x9A, 'x', 's'}};
    for (unsigned round = 0; round < 300; round++) {
        for (size_t i = 0; i < 6; i++) {
            set_up();
            uint8_t *registers[] = {&cpu.a, &cpu.x, &cpu.y, &cpu.s};
            static const char names[] = "axys";
            memory[0x8000] = moves[i].opcode;
            uint8_t value = *registers[strchr(names, moves[i].from) - names], p = cpu.p;
            sim_65c02_step(&cpu);
            CHECK_INT(*registers[strchr(names, moves[i].to) - names], value);
            if (moves[i].to == 's')
                CHECK_INT(cpu.p, p); /* TXS leaves the flags */
            else
                CHECK_INT(cpu.p & (SIM_FLAG_N | SIM_FLAG_Z),
                          (value & 0x80) | (value == 0 ? SIM_FLAG_Z : 0));
        }
        /* PHA PHX PHY PLA PLX PLY: what went in first comes out last. */
        set_up();
        uint8_t a = cpu.a, x = cpu.x, y = cpu.y;
        memcpy(memory + 0x8000, "\x48\xDA\x5A\x68\xFA\x7A", 6);
        for (unsigned i = 0; i < 6; i++)
            sim_65c02_step(&cpu);
        CHECK_INT(cpu.a, y);
        CHECK_INT(cpu.x, x);
        CHECK_INT(cpu.y, a);
        CHECK_INT(cpu.s, 0xF0);
    }
}

TEST(subroutines_return_where_they_were_called)
{
    for (unsigned round = 0; round < 300; round++) {
        set_up();
        cpu.s = (uint8_t)test_random(); /* the stack wraps within its page */
        uint16_t target = (uint16_t)(0x9000 + test_below(0x6000));
        memory[0x8000] = 0x20, memory[0x8001] = (uint8_t)target,
        memory[0x8002] = (uint8_t)(target >> 8);
        memory[target] = 0x60;
        uint8_t s = cpu.s;
        sim_65c02_step(&cpu);
        CHECK_INT(cpu.pc, target);
        CHECK_INT(cpu.s, (uint8_t)(s - 2));
        sim_65c02_step(&cpu);
        CHECK_INT(cpu.pc, 0x8003);
        CHECK_INT(cpu.s, s);
    }
}

TEST(single_bits_of_page_zero)
{
    for (unsigned bit = 0; bit < 8; bit++) {
        for (unsigned value = 0; value < 256; value++) {
            set_up();
            memory[0x8000] = (uint8_t)(0x07 | bit << 4), memory[0x8001] = 0x40,
            memory[0x40] = (uint8_t)value;
            memory[0x8002] = (uint8_t)(0x87 | bit << 4), memory[0x8003] = 0x40;
            uint8_t p = cpu.p;
            sim_65c02_step(&cpu);
            CHECK_INT(memory[0x40], value & ~(1u << bit));
            sim_65c02_step(&cpu);
            CHECK_INT(memory[0x40], value | 1u << bit);
            CHECK_INT(cpu.p, p);
        }
    }
}
