/* The NMOS 6502 against its sheet (cycles), and where it differs from the CMOS part. */
#include <string.h>

#include "sim/cpu/cpu6502.h"
#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_65c02 cpu;

static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    cpu = (sim_65c02){.bus = &bus, .pc = 0x8000, .s = 0xF0, .p = SIM_FLAG_ONE | SIM_FLAG_B};
}

static bool has(const bl_sheet *sheet, const bl_form *f, char name)
{
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++)
        if (bl_sheet_extra(sheet, i)->name.at[0] == name) return (f->extras >> i & 1) != 0;
    return false;
}

TEST(cycles_of_every_nmos_form_are_the_sheets)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"6502+undocumented", 17}, NULL, &sheet), BL_OK);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        bool branches = has(sheet, f, 't');
        for (unsigned turn = 0; turn < 8; turn++) {
            bool cross = (turn & 1) != 0;
            set_up();
            memset(memory, 0, 0x8000);
            cpu.pc = branches ? 0x80F0 : 0x8000;
            place_form(sheet, f, 0, memory + cpu.pc);
            /* An operand of $05: a pointer there to $12F0, so that an index of $20 crosses. */
            memory[5] = 0xF0, memory[6] = 0x12;
            cpu.x = cpu.y = cross ? 0x20 : 1;
            if (f->size == 3) memory[cpu.pc + 1] = 0xF0;
            if (branches) memory[cpu.pc + 1] = cross ? 0x20 : 5;
            cpu.p |= (turn & 2) != 0 ? 0xC3 : 0;
            cpu.p |= (turn & 4) != 0 ? SIM_FLAG_D : 0;
            uint16_t next = (uint16_t)(cpu.pc + f->size);
            sim_6502_step(&cpu);
            unsigned expected = f->cycles;
            bool taken = branches && cpu.pc != next;
            if (taken) expected += 1u + cross;
            if (!branches && has(sheet, f, 'p') && cross) expected++;
            if (cpu.cycles != expected)
                test_fail(__FILE__, __LINE__, "%.*s took %u cycles, not %u (turn %u)",
                          (int)f->written.length, f->written.at, (unsigned)cpu.cycles, expected,
                          turn);
        }
    }
    bl_sheet_close(sheet);
}

TEST(decimal_results_are_right_and_flags_are_not)
{
    set_up();
    for (unsigned x = 0; x < 100; x++)
        for (unsigned y = 0; y < 100; y++)
            for (unsigned carry = 0; carry < 2; carry++) {
                unsigned a = x / 10 * 16 + x % 10, v = y / 10 * 16 + y % 10;
                unsigned sum = (x + y + carry) % 100;
                int difference = (int)x - (int)y - !carry;
                unsigned left = (unsigned)(difference + 100) % 100;
                cpu.pc = 0x8000, memory[0x8000] = 0x69, memory[0x8001] = (uint8_t)v;
                cpu.a = (uint8_t)a, cpu.p = (uint8_t)(SIM_FLAG_D | carry);
                sim_6502_step(&cpu);
                CHECK_INT(cpu.a, sum / 10 * 16 + sum % 10);
                CHECK_INT(cpu.p & SIM_FLAG_C, x + y + carry > 99);
                CHECK_INT((cpu.p & SIM_FLAG_Z) != 0, ((a + v + carry) & 0xFF) == 0);
                cpu.pc = 0x8000, memory[0x8000] = 0xE9;
                cpu.a = (uint8_t)a, cpu.p = (uint8_t)(SIM_FLAG_D | carry);
                sim_6502_step(&cpu);
                CHECK_INT(cpu.a, left / 10 * 16 + left % 10);
                CHECK_INT(cpu.p & SIM_FLAG_C, difference >= 0);
                CHECK_INT((cpu.p & SIM_FLAG_N) != 0, ((a - v - !carry) & 0x80) != 0);
            }
}

TEST(where_the_older_part_differs)
{
    set_up();
    /* JMP ($90FF) takes its high byte from $9000. */
    memcpy(memory + 0x8000, "\x6C\xFF\x90", 3);
    memory[0x90FF] = 0x34, memory[0x9000] = 0x12, memory[0x9100] = 0x56;
    sim_6502_step(&cpu);
    CHECK_INT(cpu.pc, 0x1234);
    /* BRK leaves decimal mode on. */
    set_up();
    memory[0x8000] = 0, memory[0xFFFE] = 0x00, memory[0xFFFF] = 0xA0;
    cpu.p |= SIM_FLAG_D;
    sim_6502_step(&cpu);
    CHECK_INT(cpu.pc, 0xA000);
    CHECK((cpu.p & SIM_FLAG_D) != 0 && (cpu.p & SIM_FLAG_I) != 0);
    /* An opcode that hangs the part. */
    set_up();
    memory[0x8000] = 0x02;
    sim_6502_run(&cpu, 100);
    CHECK(cpu.special);
    CHECK_INT(cpu.pc, 0x8001);
}

TEST(two_operations_at_once)
{
    for (unsigned round = 0; round < 3000; round++) {
        static const uint8_t codes[] = {0x07, 0x27, 0x47, 0x67, 0xC7, 0xE7,
                                        0xA7, 0x87, 0x0B, 0x4B, 0xCB};
        uint8_t code = codes[round % sizeof codes], v = (uint8_t)test_random();
        unsigned a = test_below(256), x = test_below(256), carry = round & 1, m = v, r = a, rx = x;
        set_up();
        cpu.a = (uint8_t)a, cpu.x = (uint8_t)x, cpu.p = (uint8_t)carry;
        memory[0x8000] = code,
        memory[0x8001] = code == 0x0B || code == 0x4B || code == 0xCB ? v : 0x40;
        memory[0x40] = v;
        switch (code) {
        case 0x07: m = v * 2u & 0xFF, r = a | m; break;
        case 0x27: m = (v * 2u + carry) & 0xFF, r = a & m; break;
        case 0x47: m = v / 2u, r = a ^ m; break;
        case 0x67: m = v / 2u + carry * 128, r = (a + m + (v & 1)) & 0xFF; break;
        case 0xC7: m = (v - 1u) & 0xFF; break;
        case 0xE7: m = (v + 1u) & 0xFF, r = (a - m - !carry) & 0xFF; break;
        case 0xA7: r = rx = v; break;
        case 0x87: m = a & x; break;
        case 0x0B: r = a & v; break;
        case 0x4B: r = (a & v) / 2; break;
        default: rx = ((a & x) - v) & 0xFF; break;
        }
        sim_6502_step(&cpu);
        if (cpu.a != r || cpu.x != rx || memory[0x40] != m)
            test_fail(__FILE__, __LINE__, "%02X: A %02X X %02X memory %02X, not %02X %02X %02X",
                      code, cpu.a, cpu.x, memory[0x40], r, rx, m);
        if (code == 0xC7) CHECK_INT(cpu.p & SIM_FLAG_C, a >= m);
    }
}
