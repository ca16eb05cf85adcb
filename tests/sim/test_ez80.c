/* The eZ80: in its Z80 mode against the simulated Z80, form by form; in its 24-bit mode, and
 * between the two, with programs.
 */
#include <stdio.h>
#include <string.h>

#include "sim/cpu/cpuez80.h"
#include "sim/cpu/cpuz80.h"
#include "sim_support.h"

static uint8_t memory[0x20000], other[0x10000];
static sim_bus bus, other_bus;
static sim_ez80 cpu;
static sim_z80 z80;

static uint8_t far_read(void *context, uint32_t address)
{
    (void)context;
    return address < sizeof memory ? memory[address] : 0xFF;
}

static void far_write(void *context, uint32_t address, uint8_t value)
{
    (void)context;
    if (address < sizeof memory) memory[address] = value;
}

static uint8_t port_in(void *context, uint16_t port)
{
    (void)context;
    return (uint8_t)(port ^ 0x5A);
}

static uint16_t out_at;
static uint8_t out_value;

static void port_out(void *context, uint16_t port, uint8_t value)
{
    (void)context;
    out_at = port, out_value = value;
}

static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++) {
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
        other_bus.read_page[i] = other_bus.write_page[i] = other + i * 256;
    }
    bus.read_far = far_read, bus.write_far = far_write;
    bus.in = other_bus.in = port_in, bus.out = other_bus.out = port_out;
    bus.vector = other_bus.vector = 0xFF;
    memset(&cpu, 0, sizeof cpu);
    cpu.bus = &bus;
}

/* ---- Z80 mode ---- */

/* The same random state in both. */
static void alike(void)
{
    uint16_t words[8];
    for (unsigned i = 0; i < 8; i++)
        words[i] = (uint16_t)(0x4000 + test_below(0x8000));
    z80 =
        (sim_z80){.bus = &other_bus, .pc = 0x3000, .sp = words[0], .ix = words[1], .iy = words[2]};
    cpu.far_pc = cpu.told_pc = cpu.pc = 0x3000;
    cpu.sps = words[0], cpu.ix = words[1], cpu.iy = words[2];
    cpu.bc = words[3], cpu.de = words[4], cpu.hl = words[5];
    z80.r[Z80_B] = (uint8_t)(words[3] >> 8), z80.r[Z80_C] = (uint8_t)words[3];
    z80.r[Z80_D] = (uint8_t)(words[4] >> 8), z80.r[Z80_E] = (uint8_t)words[4];
    z80.r[Z80_H] = (uint8_t)(words[5] >> 8), z80.r[Z80_L] = (uint8_t)words[5];
    z80.r[Z80_A] = cpu.a = (uint8_t)test_random();
    z80.r[Z80_F] = cpu.f = (uint8_t)test_random() & 0xD7;
    z80.iff2 = cpu.iff2 = test_below(2) != 0;
    z80.iff1 = cpu.iff1 = z80.iff2;
    cpu.a2 = cpu.f2 = 0;
    cpu.bc2 = cpu.de2 = cpu.hl2 = 0;
    cpu.rest = false, cpu.later = false, cpu.adl = false, cpu.mb = 0;
}

static uint16_t pair_of(unsigned high)
{
    return (uint16_t)(z80.r[high] << 8 | z80.r[high + 1]);
}

static void same(const char *what, unsigned found, unsigned expected, const bl_form *f)
{
    if (found != expected)
        test_fail(__FILE__, __LINE__, "%.*s: %s is %04X, the Z80's %04X", (int)f->written.length,
                  f->written.at, what, found, expected);
}

/* Flags that the makers do not define, or define otherwise, are left out. */
static void compare(const bl_form *f, const uint8_t *bytes)
{
    bool ports = bytes[0] == 0xED && (bytes[1] & 0xE6) == 0xA2;
    uint8_t flags = ports ? 0x40 : 0xD7;
    same("A", cpu.a, z80.r[Z80_A], f);
    same("F", cpu.f & flags, z80.r[Z80_F] & flags, f);
    same("BC", cpu.bc, pair_of(Z80_B), f);
    same("DE", cpu.de, pair_of(Z80_D), f);
    same("HL", cpu.hl, pair_of(Z80_H), f);
    same("IX", cpu.ix, z80.ix, f);
    same("IY", cpu.iy, z80.iy, f);
    same("SP", cpu.sps, z80.sp, f);
    same("PC", cpu.far_pc, z80.pc, f);
    same("IFF", cpu.iff1, z80.iff1, f);
    CHECK_BYTES(memory, 0x10000, other, 0x10000);
}

/* What differs on purpose: the suffixes, and what counts opcode fetches. */
static bool is_otherwise(const uint8_t *bytes)
{
    if (bytes[0] == 0x40 || bytes[0] == 0x49 || bytes[0] == 0x52 || bytes[0] == 0x5B) return true;
    return bytes[0] == 0xED && (bytes[1] == 0x5F || bytes[1] == 0x4F);
}

TEST(z80_mode_is_a_z80)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"z80", 3}, NULL, &sheet), BL_OK);
    set_up();
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        for (unsigned turn = 0; turn < 30; turn++) {
            alike();
            memset(memory, 0, 0x10000);
            for (unsigned k = 0x3F00; k < 0xC200; k++)
                memory[k] = (uint8_t)(k * 31 + turn * 7 + k / 256);
            place_form(sheet, f, turn, memory + 0x3000);
            if (is_otherwise(memory + 0x3000)) continue;
            memcpy(other, memory, sizeof other);
            sim_ez80_kind.step((sim_cpu *)&cpu);
            sim_z80_step(&z80);
            compare(f, memory + 0x3000);
        }
    }
    bl_sheet_close(sheet);
}

/* MB stands before every address of Z80 mode. */
TEST(z80_mode_behind_mb)
{
    set_up();
    cpu.mb = 0x01;
    cpu.far_pc = cpu.told_pc = cpu.pc = 0x0200;
    memcpy(memory + 0x10200, "\x3A\x00\x30\x32\x01\x30\xC5",
           7); /* LD A,($3000) LD ($3001),A PUSH BC */
    memory[0x13000] = 0x77;
    cpu.sps = 0x4000, cpu.bc = 0x1234;
    for (unsigned i = 0; i < 3; i++)
        sim_ez80_kind.step((sim_cpu *)&cpu);
    CHECK_INT(memory[0x13001], 0x77);
    CHECK_INT(memory[0x13FFF], 0x12);
    CHECK_INT(memory[0x13FFE], 0x34);
    CHECK_INT(cpu.far_pc, 0x0207);
}

/* ---- programs in 24-bit mode ---- */

static void run_program(const char *source)
{
    set_up();
    memset(memory, 0, sizeof memory);
    load_program("ez80", source, memory);
    cpu.adl = true;
    cpu.far_pc = cpu.told_pc = cpu.pc = 0x1000;
    cpu.spl = 0x1F000;
    cpu.sps = 0x8000;
    for (unsigned i = 0; i < 10000 && !cpu.rest; i++)
        sim_ez80_kind.step((sim_cpu *)&cpu);
    CHECK(cpu.rest);
}

static uint32_t word24(uint32_t at)
{
    return memory[at] | (uint32_t)memory[at + 1] << 8 | (uint32_t)memory[at + 2] << 16;
}

TEST(words_of_24_bits)
{
    run_program(" .org $1000\n ld hl,$123456\n ld ($10100),hl\n ld de,$010101\n add hl,de\n"
                " ld ($10103),hl\n push hl\n pop ix\n lea iy,ix+16\n ld ($10106),iy\n"
                " ld bc,$00000F\n ld b,12\n mlt bc\n ld ($10109),bc\n"
                " ld hl,$FFFFFF\n inc hl\n ld ($1010C),hl\n"
                " or a\n ld hl,0\n ld de,1\n sbc hl,de\n ld ($1010F),hl\n"
                " ld ix,$10100\n ld hl,(ix+3)\n ld (ix+18),hl\n ld hl,$10100\n ld de,(hl)\n"
                " pea ix+5\n pop hl\n halt\n");
    CHECK_INT(word24(0x10100), 0x123456);
    CHECK_INT(word24(0x10103), 0x133557);
    CHECK_INT(word24(0x10106), 0x133567);
    CHECK_INT(word24(0x10109), 12 * 15);
    CHECK_INT(word24(0x1010C), 0);
    CHECK_INT(word24(0x1010F), 0xFFFFFF);
    CHECK_INT(word24(0x10112), 0x133557);
    CHECK_INT(cpu.de, 0x123456);
    CHECK_INT(cpu.hl, 0x10105);
    CHECK((cpu.f & 1) != 0);
    CHECK_INT(cpu.spl, 0x1F000);
}

TEST(blocks_tests_and_ports_of_24_bits)
{
    run_program(" .org $1000\n ld hl,text\n ld de,$18000\n ld bc,12\n ldir\n"
                " tst a,$80\n ld a,$81\n tst a,$80\n jr z,bad\n"
                " in0 d,($20)\n out0 ($21),d\n ld c,$30\n tstio $0F\n jr z,bad\n"
                " ld hl,$18100\n ld b,3\n ld c,$40\n inimr\n halt\n"
                "bad: jr bad\ntext: .text \"Skerry light\"\n");
    CHECK_BYTES(memory + 0x18000, 12, "Skerry light", 12);
    CHECK_INT(cpu.de >> 8 & 0xFF, 0x7A);
    CHECK_INT(out_at, 0x21);
    CHECK_INT(out_value, 0x7A);
    CHECK_BYTES(memory + 0x18100, 3, "\x1A\x1B\x18", 3);
}

/* From ADL mode a routine of Z80 mode is called and comes back, and the other way round. */
TEST(calls_between_the_modes)
{
    run_program(" .org $1000\n ld a,1\n call.is old\n ld ($10200),a\n ld hl,$ABCDEF\n"
                " ld ($10201),hl\n call.il new\n ld ($10204),a\n halt\n"
                "new: ld a,$77\n ret.l\n"
                " .org $2000\nold: inc a\n ret.l\n");
    CHECK_INT(memory[0x10200], 2);
    CHECK_INT(word24(0x10201), 0xABCDEF);
    CHECK_INT(memory[0x10204], 0x77);
    CHECK(cpu.adl);
    CHECK_INT(cpu.spl, 0x1F000);
    CHECK_INT(cpu.sps, 0x8000);
}

TEST(suffixes_change_one_instruction)
{
    run_program(" .org $1000\n ld hl,$123456\n ld.sis hl,$9876\n ld ($10300),hl\n"
                " ld.lis de,$4321\n ld ($10303),de\n push.s hl\n halt\n");
    CHECK_INT(word24(0x10300), 0x009876);
    CHECK_INT(word24(0x10303), 0x004321);
    CHECK_INT(cpu.sps, 0x7FFE);
    CHECK_INT(memory[0x7FFE] | memory[0x7FFF] << 8, 0x9876);
}

/* Out of reset in Z80 mode; JP.LIL leads into the other, JP.SIS back. */
TEST(jumps_between_the_modes)
{
    set_up();
    memset(memory, 0, sizeof memory);
    sim_ez80_kind.reset((sim_cpu *)&cpu);
    memcpy(memory, "\x5B\xC3\x00\x00\x01", 5);                       /* JP.LIL $010000 */
    memcpy(memory + 0x10000, "\x21\x56\x34\x12\x40\xC3\x00\x20", 8); /* LD HL,.. JP.SIS $2000 */
    memory[0x2000] = 0x76;
    sim_ez80_kind.step((sim_cpu *)&cpu);
    CHECK(cpu.adl);
    CHECK_INT(cpu.far_pc, 0x10000);
    sim_ez80_kind.step((sim_cpu *)&cpu), sim_ez80_kind.step((sim_cpu *)&cpu);
    CHECK(!cpu.adl);
    CHECK_INT(cpu.hl, 0x123456);
    CHECK_INT(cpu.far_pc, 0x2000);
}

/* With MADL an interrupt keeps the mode, whatever it was. */
TEST(interrupts_in_both_modes)
{
    for (unsigned adl = 0; adl < 2; adl++)
        for (unsigned mixed = 0; mixed < 2; mixed++) {
            set_up();
            memset(memory, 0, sizeof memory);
            cpu.adl = adl != 0, cpu.madl = mixed != 0;
            cpu.iff1 = cpu.iff2 = true;
            cpu.mode = 1;
            cpu.far_pc = cpu.told_pc = cpu.pc = 0x1234;
            cpu.spl = 0x1F000, cpu.sps = 0x8000;
            memcpy(memory + 0x38, mixed ? "\x5B\xED\x4D" : "\xED\x4D", mixed ? 3 : 2); /* RETI */
            cpu.irq = true;
            sim_ez80_kind.step((sim_cpu *)&cpu);
            CHECK_INT(cpu.far_pc, 0x38);
            CHECK(cpu.adl == (adl != 0 || mixed != 0));
            cpu.irq = false;
            sim_ez80_kind.step((sim_cpu *)&cpu);
            CHECK_INT(cpu.far_pc, 0x1234);
            CHECK(cpu.adl == (adl != 0));
            CHECK_INT(cpu.spl, 0x1F000);
            CHECK_INT(cpu.sps, 0x8000);
        }
}
