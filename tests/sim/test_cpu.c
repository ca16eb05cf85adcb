/* The simulated 65C02: cycles against the sheet, arithmetic against tables made another way,
 * programs. */
#include "harness.h"

#include <string.h>

#include "sim/cpu/cpu65c02.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_65c02 cpu;

static uint8_t no_read(void *context, uint16_t address)
{
    (void)context, (void)address;
    return 0xFF;
}

static void no_write(void *context, uint16_t address, uint8_t value)
{
    (void)context, (void)address, (void)value;
}

static void power_on(void)
{
    memset(memory, 0, sizeof memory);
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    bus.read = no_read;
    bus.write = no_write;
    cpu = (sim_65c02){.bus = &bus, .s = 0xFF, .p = SIM_FLAG_ONE | SIM_FLAG_B, .pc = 0x0400};
}

/* Cycles of the instruction at pc. */
static uint64_t step(void)
{
    uint64_t before = cpu.cycles;
    sim_65c02_step(&cpu);
    return cpu.cycles - before;
}

static bl_sheet *open_sheet(void)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"65c02", 5}, NULL, &sheet), BL_OK);
    return sheet;
}

/* Does a form have the extra of this name? */
static bool has(const bl_sheet *sheet, const bl_form *f, char name)
{
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++)
        if (bl_sheet_extra(sheet, i)->name.at[0] == name) return (f->extras >> i & 1) != 0;
    return false;
}

/* Runs one form in a situation; the sheet says how many cycles that takes. */
static void check_cycles(const bl_sheet *sheet, const bl_form *f, bool cross, bool decimal)
{
    power_on();
    bool branches = has(sheet, f, 't'), always = (uint8_t)f->value[0] == 0x80;
    /* Operand bytes: $F0 in page zero, $12F0 absolute; an index of $20 crosses a page, of 1 does
     * not. */
    uint16_t at = branches || always ? (cross ? 0x04F0 : 0x0410) : 0x0400;
    cpu.pc = at;
    memory[at] = (uint8_t)f->value[0];
    memory[at + 1] = 0xF0;
    memory[at + 2] = f->size == 3 ? 0x12 : 0;
    if (branches || always) memory[at + f->size - 1] = cross ? 0x20 : 0x04;
    memory[0xF0] = 0xF0, memory[0xF1] = 0x12; /* the pointer in page zero */
    cpu.x = cpu.y = cross && !branches ? 0x20 : 1;
    memory[(uint8_t)(0xF0 + cpu.x)] = 0x00, memory[(uint8_t)(0xF1 + cpu.x)] = 0x13;
    if (decimal) cpu.p |= SIM_FLAG_D;
    uint64_t expected = f->cycles;
    uint16_t next = (uint16_t)(at + f->size);
    uint64_t took = step();
    bool taken = branches && cpu.pc != next;
    if (branches && !taken) {
        /* The other half of the conditions. */
        power_on();
        return;
    }
    if (taken) expected++;
    if (has(sheet, f, 'p') && cross) expected++;
    if (has(sheet, f, 'd') && decimal) expected++;
    if (took != expected)
        test_fail(__FILE__, __LINE__,
                  "%.*s took %u cycles, the sheet says %u (page %d, decimal %d)",
                  (int)f->written.length, f->written.at, (unsigned)took, (unsigned)expected, cross,
                  decimal);
}

TEST(cycles_of_every_form_are_the_sheets)
{
    bl_sheet *sheet = open_sheet();
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++)
        for (unsigned k = 0; k < 4; k++)
            check_cycles(sheet, bl_sheet_form(sheet, i), (k & 1) != 0, (k & 2) != 0);
    bl_sheet_close(sheet);
}

TEST(branches_taken_or_not_with_every_flag)
{
    static const struct {
        uint8_t opcode, flag;
        bool when_set;
    } all[] = {{0x10, SIM_FLAG_N, false}, {0x30, SIM_FLAG_N, true},  {0x50, SIM_FLAG_V, false},
               {0x70, SIM_FLAG_V, true},  {0x90, SIM_FLAG_C, false}, {0xB0, SIM_FLAG_C, true},
               {0xD0, SIM_FLAG_Z, false}, {0xF0, SIM_FLAG_Z, true}};
    for (size_t i = 0; i < 8; i++) {
        for (unsigned set = 0; set < 2; set++) {
            for (int distance = -128; distance < 128; distance++) {
                power_on();
                cpu.pc = 0x0480;
                memory[0x0480] = all[i].opcode;
                memory[0x0481] = (uint8_t)distance;
                cpu.p = (uint8_t)(set ? cpu.p | all[i].flag : cpu.p & ~all[i].flag);
                bool taken = (set != 0) == all[i].when_set;
                uint16_t target = (uint16_t)(0x0482 + (taken ? distance : 0));
                uint64_t cycles = 2u + taken + (taken && target >> 8 != 4);
                CHECK_INT(step(), cycles);
                CHECK_INT(cpu.pc, target);
            }
        }
    }
}

TEST(bit_branches_follow_their_bit)
{
    for (unsigned bit = 0; bit < 8; bit++) {
        for (unsigned value = 0; value < 256; value++) {
            for (unsigned sense = 0; sense < 2; sense++) {
                power_on();
                memory[0x0400] = (uint8_t)((sense ? 0x8F : 0x0F) | bit << 4);
                memory[0x0401] = 0x50;
                memory[0x0402] = 0x10;
                memory[0x50] = (uint8_t)value;
                bool taken = ((value >> bit) & 1) == sense;
                CHECK_INT(step(), 5 + taken);
                CHECK_INT(cpu.pc, taken ? 0x0413 : 0x0403);
            }
        }
    }
}

/* Runs opcode with an immediate operand. */
static void run_immediate(uint8_t opcode, uint8_t a, uint8_t operand, uint8_t flags)
{
    power_on();
    memory[0x0400] = opcode;
    memory[0x0401] = operand;
    cpu.a = a;
    cpu.p = flags | SIM_FLAG_ONE | SIM_FLAG_B;
    step();
}

static unsigned flags_of(void)
{
    return cpu.p & (SIM_FLAG_N | SIM_FLAG_V | SIM_FLAG_Z | SIM_FLAG_C);
}

static unsigned expected_flags(unsigned result, bool carry, bool overflow)
{
    return (result & 0x80) | (overflow ? SIM_FLAG_V : 0u) |
           ((result & 0xFF) == 0 ? SIM_FLAG_Z : 0u) | (carry ? SIM_FLAG_C : 0u);
}

TEST(binary_add_and_subtract_for_all_inputs)
{
    for (int a = 0; a < 256; a++) {
        for (int b = 0; b < 256; b++) {
            for (int carry = 0; carry < 2; carry++) {
                int sum = a + b + carry, signed_sum = (int8_t)a + (int8_t)b + carry;
                run_immediate(0x69, (uint8_t)a, (uint8_t)b, (uint8_t)carry);
                CHECK_INT(cpu.a, sum & 0xFF);
                CHECK_INT(flags_of(), expected_flags((unsigned)sum, sum > 255,
                                                     signed_sum < -128 || signed_sum > 127));
                int difference = a - b - (1 - carry),
                    signed_difference = (int8_t)a - (int8_t)b - (1 - carry);
                run_immediate(0xE9, (uint8_t)a, (uint8_t)b, (uint8_t)carry);
                CHECK_INT(cpu.a, difference & 0xFF);
                CHECK_INT(flags_of(),
                          expected_flags((unsigned)difference & 0xFF, difference >= 0,
                                         signed_difference < -128 || signed_difference > 127));
            }
        }
    }
}

static int from_bcd(int v)
{
    return v / 16 * 10 + v % 16;
}

static int to_bcd(int v)
{
    return v / 10 * 16 + v % 10;
}

TEST(decimal_add_and_subtract_for_all_valid_inputs)
{
    for (int x = 0; x < 100; x++) {
        for (int y = 0; y < 100; y++) {
            for (int carry = 0; carry < 2; carry++) {
                int sum = x + y + carry, difference = x - y - (1 - carry);
                run_immediate(0x69, (uint8_t)to_bcd(x), (uint8_t)to_bcd(y),
                              (uint8_t)(SIM_FLAG_D | carry));
                CHECK_INT(from_bcd(cpu.a), sum % 100);
                CHECK_INT(cpu.p & SIM_FLAG_C, sum > 99);
                CHECK_INT((cpu.p & SIM_FLAG_Z) != 0, cpu.a == 0);
                CHECK_INT(cpu.p & SIM_FLAG_N, cpu.a & 0x80);
                run_immediate(0xE9, (uint8_t)to_bcd(x), (uint8_t)to_bcd(y),
                              (uint8_t)(SIM_FLAG_D | carry));
                CHECK_INT(from_bcd(cpu.a), (difference + 100) % 100);
                CHECK_INT(cpu.p & SIM_FLAG_C, difference >= 0);
                CHECK_INT((cpu.p & SIM_FLAG_Z) != 0, cpu.a == 0);
            }
        }
    }
}

TEST(compares_for_all_inputs)
{
    static const uint8_t opcodes[] = {0xC9, 0xE0, 0xC0};
    for (unsigned a = 0; a < 256; a++) {
        for (unsigned b = 0; b < 256; b++) {
            for (size_t i = 0; i < 3; i++) {
                power_on();
                memory[0x0400] = opcodes[i];
                memory[0x0401] = (uint8_t)b;
                cpu.a = cpu.x = cpu.y = (uint8_t)a;
                step();
                CHECK_INT(flags_of(), expected_flags(a - b, a >= b, false));
            }
        }
    }
}

TEST(shifts_for_all_inputs)
{
    for (unsigned v = 0; v < 256; v++) {
        for (unsigned carry = 0; carry < 2; carry++) {
            const struct {
                uint8_t opcode;
                unsigned result, out;
            } all[] = {{0x0A, v << 1 & 0xFF, v >> 7},
                       {0x4A, v >> 1, v & 1},
                       {0x2A, (v << 1 | carry) & 0xFF, v >> 7},
                       {0x6A, v >> 1 | carry << 7, v & 1}};
            for (size_t i = 0; i < 4; i++) {
                run_immediate(all[i].opcode, (uint8_t)v, 0, (uint8_t)carry);
                CHECK_INT(cpu.a, all[i].result);
                CHECK_INT(flags_of(), expected_flags(all[i].result, all[i].out != 0, false));
            }
        }
    }
}

TEST(test_and_set_or_reset_bits)
{
    for (unsigned a = 0; a < 256; a += 5) {
        for (unsigned m = 0; m < 256; m += 3) {
            for (unsigned i = 0; i < 2; i++) {
                power_on();
                memory[0x0400] = i ? 0x14 : 0x04;
                memory[0x0401] = 0x80;
                memory[0x80] = (uint8_t)m;
                cpu.a = (uint8_t)a;
                step();
                CHECK_INT(memory[0x80], i ? m & ~a & 0xFF : m | a);
                CHECK_INT((cpu.p & SIM_FLAG_Z) != 0, (a & m) == 0);
            }
        }
    }
}

TEST(pointers_wrap_as_documented)
{
    power_on();
    memcpy(memory + 0x0400, "\xB2\xFF\x6C\xFF\x20", 5); /* LDA ($FF); JMP ($20FF) */
    memory[0xFF] = 0x34, memory[0x00] = 0x12, memory[0x1234] = 0x77;
    memory[0x20FF] = 0x00, memory[0x2100] = 0x30, memory[0x2000] = 0x99;
    step();
    CHECK_INT(cpu.a, 0x77);
    step();
    CHECK_INT(cpu.pc, 0x3000); /* the later part carries into the next page */
}

TEST(interrupts_wait_and_stop)
{
    power_on();
    memcpy(memory + 0x0400, "\xCB\xEA\x58\xEA\xEA\xDB", 6); /* WAI NOP CLI NOP NOP STP */
    memory[0xFFFE] = 0x00, memory[0xFFFF] = 0x50, memory[0x5000] = 0x40; /* RTI */
    memory[0xFFFA] = 0x00, memory[0xFFFB] = 0x60, memory[0x6000] = 0x40;
    cpu.p |= SIM_FLAG_I | SIM_FLAG_D;
    CHECK_INT(step(), 3);
    sim_65c02_run(&cpu, cpu.cycles + 1000);
    CHECK_INT(cpu.pc, 0x0401); /* still waiting */
    cpu.irq = true;
    step();
    CHECK_INT(cpu.pc, 0x0402); /* masked: goes on without taking it */
    step();
    CHECK_INT(step(), 2); /* one instruction more behind CLI */
    CHECK_INT(step(), 7);
    CHECK_INT(cpu.pc, 0x5000);
    CHECK_INT(cpu.p & (SIM_FLAG_D | SIM_FLAG_I), SIM_FLAG_I);
    CHECK_INT(memory[0x1FD] & (SIM_FLAG_B | SIM_FLAG_D), SIM_FLAG_D);
    cpu.irq = false;
    cpu.nmi = true;
    step();
    CHECK_INT(cpu.pc, 0x6000);
    step(), step();
    CHECK_INT(cpu.pc, 0x0404);
    step(), step();
    CHECK(cpu.special);
    cpu.nmi = true;
    sim_65c02_run(&cpu, cpu.cycles + 100);
    CHECK_INT(cpu.pc, 0x0406);
    memory[0xFFFC] = 0x34, memory[0xFFFD] = 0x12;
    sim_65c02_reset(&cpu);
    CHECK(!cpu.special && cpu.pc == 0x1234);
}

TEST(break_pushes_the_address_after_its_signature)
{
    power_on();
    memory[0x0400] = 0x00;
    memory[0xFFFE] = 0x00, memory[0xFFFF] = 0x50;
    CHECK_INT(step(), 7);
    CHECK_INT(memory[0x1FF] << 8 | memory[0x1FE], 0x0402);
    CHECK(memory[0x1FD] & SIM_FLAG_B);
}

TEST(reserved_opcodes_do_nothing_for_their_documented_time)
{
    static const struct {
        uint8_t opcode, size, cycles;
    } all[] = {{0x02, 2, 2}, {0x44, 2, 3}, {0x54, 2, 4}, {0xD4, 2, 4}, {0xF4, 2, 4}, {0x5C, 3, 8},
               {0xDC, 3, 4}, {0xFC, 3, 4}, {0x03, 1, 1}, {0xFB, 1, 1}, {0xEB, 1, 1}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        power_on();
        memory[0x0400] = all[i].opcode;
        uint8_t p = cpu.p;
        CHECK_INT(step(), all[i].cycles);
        CHECK_INT(cpu.pc, 0x0400 + all[i].size);
        CHECK_INT(cpu.p, p);
    }
}

/* A program in the CPU's own language: sums 1..100 and sorts, checked afterwards. */
TEST(a_program_sorts)
{
    static const char source[] =
        " .org $0400\n"
        "sort: ldy #0\n ldx #254\n"
        "_next: lda $1000,y\n cmp $1001,y\n bcc _fine\n beq _fine\n"
        " pha\n lda $1001,y\n sta $1000,y\n pla\n sta $1001,y\n lda #1\n sta $10\n"
        "_fine: iny\n dex\n bne _next\n lda $10\n stz $10\n bne sort\n stp\n";
    bl_sheet *sheet = open_sheet();
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    bl_program *p;
    CHECK_INT(bl_assemble_text(&o, "sort", (bl_text){source, sizeof source - 1}, &p), BL_OK);
    power_on();
    bl_image_copy(bl_program_image(p), 0x0400, 100, 0, memory + 0x0400);
    for (unsigned i = 0; i < 255; i++)
        memory[0x1000 + i] = (uint8_t)test_random();
    sim_65c02_run(&cpu, 20000000);
    CHECK(cpu.special);
    for (unsigned i = 1; i < 255; i++)
        CHECK(memory[0x1000 + i - 1] <= memory[0x1000 + i]);
    bl_program_close(p);
    bl_sheet_close(sheet);
}
