/* The order in which the CPUs do things, and what that shows: registers that index themselves,
 * interrupts right behind an instruction, stacks that reach into code or tables. */
#include <string.h>

#include "sim/cpu/cpu6502.h"
#include "sim/cpu/cpu6800.h"
#include "sim/cpu/cpu6809.h"
#include "sim/cpu/cpu8080.h"
#include "sim/cpu/cpuz80.h"
#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static unsigned reads; /* of the device at $D000 */

static uint8_t device_read(void *context, uint16_t address)
{
    (void)context;
    reads++;
    return (uint8_t)address;
}

static void device_write(void *context, uint16_t address, uint8_t value)
{
    (void)context, (void)address, (void)value;
}

static sim_bus *set_up(const char *code, size_t count)
{
    memset(memory, 0, sizeof memory);
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = i == 0xD0 ? NULL : memory + i * 256;
    bus.read = device_read;
    bus.write = device_write;
    bus.vector = 0xFF;
    reads = 0;
    memcpy(memory + 0x8000, code, count);
    return &bus;
}

static unsigned big_word(uint16_t at)
{
    return (unsigned)memory[at] << 8 | memory[(uint16_t)(at + 1)];
}

/* ---- 6809 ---- */

static sim_6809 m6809(const char *code, size_t count)
{
    return (sim_6809){
        .bus = set_up(code, count), .pc = 0x8000, .index = {0x4000, 0x5000, 0x6000, 0x7000}};
}

TEST(a_6809_register_that_indexes_its_own_store)
{
    static const struct {
        const char *code;
        size_t count;
        unsigned n;
        uint16_t at, value;
    } stores[] = {
        {"\xAF\x81", 2, 0, 0x4000, 0x4002},     /* STX ,X++ */
        {"\xAF\x83", 2, 0, 0x3FFE, 0x3FFE},     /* STX ,--X */
        {"\xAF\x80", 2, 0, 0x4000, 0x4001},     /* STX ,X+ */
        {"\x10\xAF\xA1", 3, 1, 0x5000, 0x5002}, /* STY ,Y++ */
        {"\xEF\xC3", 2, 2, 0x5FFE, 0x5FFE},     /* STU ,--U */
        {"\x10\xEF\xE1", 3, 3, 0x7000, 0x7002}, /* STS ,S++ */
    };
    for (size_t i = 0; i < sizeof stores / sizeof stores[0]; i++) {
        sim_6809 c = m6809(stores[i].code, stores[i].count);
        sim_6809_step(&c);
        CHECK_INT(big_word(stores[i].at), stores[i].value);
        CHECK_INT(c.cc & (M68_N | M68_Z), 0);
    }
    /* The flags are those of what is stored. */
    sim_6809 c = m6809("\xAF\x83", 2);
    c.index[0] = 2;
    sim_6809_step(&c);
    CHECK((c.cc & M68_Z) != 0);
    c = m6809("\xAF\x81", 2);
    c.index[0] = 0x7FFF;
    sim_6809_step(&c);
    CHECK((c.cc & M68_N) != 0);
}

TEST(a_6809_register_that_is_compared_with_what_it_points_at)
{
    static const char *const codes[] = {"\xAC\x81", "\x10\xAC\xA1", "\x11\xA3\xC1", "\x11\xAC\xE1"};
    static const char *const down[] = {"\xAC\x83", "\x10\xAC\xA3", "\x11\xA3\xC3", "\x11\xAC\xE3"};
    for (unsigned n = 0; n < 4; n++) {
        sim_6809 c = m6809(codes[n], n == 0 ? 2 : 3);
        uint16_t at = c.index[n], after = (uint16_t)(at + 2);
        memory[at] = (uint8_t)(after >> 8), memory[at + 1] = (uint8_t)after;
        sim_6809_step(&c);
        CHECK((c.cc & M68_Z) != 0);
        c = m6809(down[n], n == 0 ? 2 : 3);
        at = after = (uint16_t)(c.index[n] - 2);
        memory[at] = (uint8_t)(after >> 8), memory[at + 1] = (uint8_t)after;
        sim_6809_step(&c);
        CHECK((c.cc & M68_Z) != 0);
    }
}

TEST(pulling_s_arms_the_nmi)
{
    sim_6809 c = m6809("\x37\x40\x12", 3); /* PULU S */
    memory[0x6000] = 0x71, memory[0x6001] = 0x00;
    memory[0xFFFC] = 0x90;
    CHECK(!c.armed);
    sim_6809_step(&c);
    CHECK(c.armed);
    CHECK_INT(c.index[3], 0x7100);
    c.nmi = true;
    sim_6809_step(&c);
    CHECK_INT(c.pc, 0x9000);
}

TEST(cwai_with_an_interrupt_pending_takes_twenty_cycles)
{
    for (unsigned fast = 0; fast < 2; fast++) {
        sim_6809 c = m6809("\x3C\xAF", 2); /* CWAI #$AF: both enabled */
        c.cc = M68_I | M68_F;
        memory[0xFFF8] = memory[0xFFF6] = 0x90;
        c.irq = fast == 0;
        c.line[0] = (uint8_t)fast;
        while (c.pc != 0x9000 && c.cycles < 100)
            sim_6809_step(&c);
        CHECK_INT(c.cycles, 20);
        CHECK_INT(c.index[3], 0x7000 - 12);
    }
}

TEST(after_a_wait_was_ended_from_the_panel_an_interrupt_stacks_as_usual)
{
    sim_6809 c = m6809("\x3C\xAF\x12\x12", 4);
    memory[0xFFF8] = 0x90;
    sim_6809_step(&c);
    CHECK(c.rest && c.saved);
    c.rest = false; /* what the panel does */
    c.pc = 0x8002;
    c.irq = true;
    uint16_t s = c.index[3];
    sim_6809_step(&c);
    CHECK_INT(c.pc, 0x9000);
    CHECK_INT(c.index[3], s - 12);
    CHECK_INT(big_word((uint16_t)(s - 2)), 0x8002);
}

TEST(clearing_memory_reads_it_first)
{
    sim_6809 c = m6809("\x7F\xD0\x01\x6F\x84", 5); /* CLR $D001, CLR ,X */
    c.index[0] = 0xD001;
    sim_6809_step(&c);
    CHECK_INT(reads, 1);
    sim_6809_step(&c);
    CHECK_INT(reads, 2);
    c = m6809("\x0F\x01", 2); /* CLR <$01, the direct page being $D0 */
    c.dp = 0xD0;
    sim_6809_step(&c);
    CHECK_INT(reads, 1);
    sim_6800 older = {.bus = set_up("\x7F\xD0\x01\x6F\x01", 5), .pc = 0x8000, .x = 0xD000};
    sim_6800_step(&older);
    sim_6800_step(&older);
    CHECK_INT(reads, 2);
}

/* ---- 6800 ---- */

TEST(cpx_of_the_6800_looks_at_the_high_bytes_for_n_and_v)
{
    for (unsigned turn = 0; turn < 20000; turn++) {
        unsigned x = test_below(0x10000), v = turn % 7 == 0 ? x : test_below(0x10000);
        sim_6800 c = {.bus = set_up("\x8C", 1), .pc = 0x8000, .x = (uint16_t)x, .cc = M68_C};
        memory[0x8001] = (uint8_t)(v >> 8), memory[0x8002] = (uint8_t)v;
        sim_6800_step(&c);
        int difference = (int8_t)(x >> 8) - (int8_t)(v >> 8);
        CHECK_INT((c.cc & M68_N) != 0, (difference & 0x80) != 0);
        CHECK_INT((c.cc & M68_V) != 0, difference < -128 || difference > 127);
        CHECK_INT((c.cc & M68_Z) != 0, x == v);
        CHECK((c.cc & M68_C) != 0);
    }
}

/* ---- Z80 ---- */

static sim_z80 z80(const char *code, size_t count)
{
    return (sim_z80){.bus = set_up(code, count), .pc = 0x8000, .sp = 0x7000};
}

TEST(only_maskable_interrupts_wait_for_the_instruction_after_ei)
{
    sim_z80 c = z80("\xFB\x00\x00", 3);
    sim_z80_step(&c);
    c.nmi = true;
    sim_z80_step(&c);
    CHECK_INT(c.pc, 0x66);
    c = z80("\xFB\x00\x00", 3);
    c.mode = 1;
    c.irq = true;
    sim_z80_step(&c);
    sim_z80_step(&c);
    CHECK_INT(c.pc, 0x8002);
    sim_z80_step(&c);
    CHECK_INT(c.pc, 0x38);
    /* A prefix and its instruction are one for both. */
    c = z80("\xDD\xDD\x23", 3);
    sim_z80_step(&c);
    c.nmi = true;
    sim_z80_step(&c);
    CHECK_INT(c.ix, 1);
    sim_z80_step(&c);
    CHECK_INT(c.pc, 0x66);

    sim_8080 e = {.bus = set_up("\xFB\x00\x00", 3), .pc = 0x8000, .sp = 0x7000, .later = true};
    sim_8080_step(&e);
    e.nmi = true;
    sim_8080_step(&e);
    CHECK_INT(e.pc, 0x24);
}

TEST(an_interrupt_spoils_the_copy_of_the_enable_bit)
{
    static const char *const codes[] = {"\xED\x57\x00", "\xED\x5F\x00"};
    for (unsigned i = 0; i < 2; i++) {
        sim_z80 c = z80(codes[i], 3);
        c.iff1 = c.iff2 = true;
        c.mode = 1;
        sim_z80_step(&c);
        CHECK((c.r[Z80_F] & Z80_PV) != 0);
        sim_z80_step(&c); /* a NOP between: nothing is spoiled */
        c.irq = true;
        sim_z80_step(&c);
        CHECK((c.r[Z80_F] & Z80_PV) != 0);
        c = z80(codes[i], 3);
        c.iff1 = c.iff2 = true;
        c.mode = 1;
        c.irq = true;
        c.special = true; /* as behind EI */
        sim_z80_step(&c);
        sim_z80_step(&c);
        CHECK_INT(c.pc, 0x38);
        CHECK_INT(c.r[Z80_F] & Z80_PV, 0);
    }
}

TEST(mode_2_reads_its_table_after_the_push)
{
    sim_z80 c = z80("\x00", 1);
    c.iff1 = c.iff2 = c.irq = true;
    c.mode = 2, c.i = 0x6F, c.sp = 0x7000, bus.vector = 0xFE; /* the table entry is where PC goes */
    memory[0x6FFE] = 0x34, memory[0x6FFF] = 0x12;
    sim_z80_step(&c);
    CHECK_INT(c.pc, 0x8000);
}

/* ---- 8085 ---- */

TEST(rim_after_trap_tells_what_was_before)
{
    for (unsigned enabled = 0; enabled < 2; enabled++) {
        sim_8080 c = {.bus = set_up("\x00", 1), .pc = 0x8000, .sp = 0x7000, .later = true};
        memory[0x24] = memory[0x25] = 0x20; /* RIM, RIM */
        c.enabled = enabled != 0;
        c.nmi = true;
        sim_8080_step(&c);
        sim_8080_step(&c);
        CHECK_INT(c.r[I80_A] >> 3 & 1, enabled);
        sim_8080_step(&c);
        CHECK_INT(c.r[I80_A] >> 3 & 1, 0);
    }
}

TEST(reset_clears_the_serial_output)
{
    sim_8080 c = {.bus = set_up("\x30", 1), .pc = 0x8000, .later = true};
    c.r[I80_A] = 0xC0;
    sim_8080_step(&c);
    CHECK(c.serial_out);
    sim_8080_reset(&c);
    CHECK(!c.serial_out);
}

/* ---- 6502 ---- */

TEST(jsr_fetches_its_high_byte_after_the_pushes)
{
    for (unsigned i = 0; i < 2; i++) {
        sim_65c02 c = {.bus = set_up("\x00", 1), .pc = 0x17A, .s = 0x7D};
        /* JSR at $017A: its high byte at $017C is where the low byte of the return address goes. */
        memory[0x17A] = 0x20, memory[0x17B] = 0x55, memory[0x17C] = 0x13;
        if (i == 0)
            sim_6502_step(&c);
        else
            sim_65c02_step(&c);
        CHECK_INT(c.pc, 0x7C55);
        CHECK_INT(memory[0x17D], 0x01);
        CHECK_INT(memory[0x17C], 0x7C);
    }
}

TEST(twelve_codes_hang_the_nmos_part_and_no_others)
{
    unsigned hung = 0;
    for (unsigned code = 0; code < 256; code++) {
        sim_65c02 c = {.bus = set_up("", 0), .pc = 0x8000, .s = 0xFD};
        memory[0x8000] = (uint8_t)code;
        sim_6502_step(&c);
        hung += c.special;
        CHECK_INT(c.special, (code & 0x1F) == 0x12 || ((code & 0x9F) == 0x02));
    }
    CHECK_INT(hung, 12);
}

TEST(arr_knows_decimal_mode)
{
    static const struct {
        uint8_t a, value, carry, result, out;
    } cases[] = {
        {0xFF, 0x55, 0, 0x80, 1}, /* 55 -> 2A; 5+1 > 5: 20; 50+10 > 50: 80 */
        {0xFF, 0x04, 0, 0x02, 0},
        {0xFF, 0x05, 0, 0x08, 0}, /* 5+1 > 5: 02+6 */
        {0x0F, 0x0F, 1, 0x8D, 0},
    };
    for (size_t i = 0; i < sizeof cases / sizeof cases[0]; i++) {
        sim_65c02 c = {.bus = set_up("\x6B", 1), .pc = 0x8000, .a = cases[i].a};
        c.p = (uint8_t)(SIM_FLAG_D | cases[i].carry);
        memory[0x8001] = cases[i].value;
        sim_6502_step(&c);
        CHECK_INT(c.a, cases[i].result);
        CHECK_INT(c.p & SIM_FLAG_C, cases[i].out);
    }
}
