/* The Z80 against its sheet (cycles), against sums done with whole numbers (flags), and at work. */
#include <string.h>

#include "sim/cpu/cpuz80.h"
#include "sim_support.h"

static uint8_t memory[0x10000], ports[256];
static uint16_t last_port;
static sim_bus bus;
static sim_z80 cpu;

static uint8_t port_in(void *context, uint16_t port)
{
    (void)context;
    last_port = port;
    return ports[port & 0xFF];
}

static void port_out(void *context, uint16_t port, uint8_t value)
{
    (void)context;
    last_port = port;
    ports[port & 0xFF] = value;
}

static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    bus.in = port_in;
    bus.out = port_out;
    bus.vector = 0xFF;
    cpu = (sim_z80){.bus = &bus, .pc = 0x8000, .sp = 0xF000, .ix = 0x4000, .iy = 0x4100};
    cpu.r[Z80_B] = cpu.r[Z80_H] = cpu.r[Z80_D] = 0x50;
}

static unsigned run_one(void)
{
    uint64_t before = cpu.cycles;
    sim_z80_step(&cpu);
    return (unsigned)(cpu.cycles - before);
}

/* ---- cycles ---- */

TEST(cycles_and_lengths_of_every_z80_form_are_the_sheets)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"z80+undocumented", 16}, NULL, &sheet), BL_OK);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        unsigned extra = extra_cycles(sheet, f);
        bool short_seen = false, long_seen = false;
        for (unsigned turn = 0; turn < 32; turn++) {
            set_up();
            memset(memory + 0x5000, 0, 256);
            place_form(sheet, f, turn / 4, memory + 0x8000);
            cpu.r[Z80_F] = (turn & 1) != 0 ? 0xFF : 0;
            cpu.r[Z80_A] = 1;
            cpu.r[Z80_B] = (turn & 2) != 0 ? 0 : 1; /* with C: 1 or 256 of a block */
            cpu.r[Z80_C] = (turn & 2) != 0 ? 1 : 0;
            unsigned took = run_one();
            /* 0 of B is 256 for DJNZ and ports */
            if (took != f->cycles && took != f->cycles + extra)
                test_fail(__FILE__, __LINE__, "%.*s took %u cycles, the sheet says %u and %u more",
                          (int)f->written.length, f->written.at, took, f->cycles, extra);
            if (took == f->cycles) short_seen = true;
            if (took == f->cycles + extra) long_seen = true;
            bool goes = f->flow != 0 || f->alias || extra > 0 || cpu.rest;
            if (!goes && cpu.pc != 0x8000 + f->size)
                test_fail(__FILE__, __LINE__, "%.*s went to $%04X", (int)f->written.length,
                          f->written.at, cpu.pc);
        }
        if (!short_seen || !long_seen)
            test_fail(__FILE__, __LINE__, "%.*s: only one of its times was seen",
                      (int)f->written.length, f->written.at);
    }
    bl_sheet_close(sheet);
}

/* ---- flags, worked out with whole numbers ---- */

static bool even(unsigned v)
{
    unsigned ones = 0;
    for (; v != 0; v >>= 1)
        ones += v & 1;
    return ones % 2 == 0;
}

static unsigned flags(unsigned result, bool carry, bool negative, bool overflow, bool half)
{
    unsigned f = result & (Z80_SIGN | Z80_X5 | Z80_X3);
    if ((result & 0xFF) == 0) f |= Z80_ZERO;
    if (carry) f |= Z80_CARRY;
    if (negative) f |= Z80_N;
    if (overflow) f |= Z80_PV;
    if (half) f |= Z80_HALF;
    return f;
}

/* What an operation on A makes of A and F. */
static unsigned expected(unsigned op, unsigned a, unsigned v, unsigned carry, unsigned *f)
{
    int sign_a = a > 127 ? (int)a - 256 : (int)a, sign_v = v > 127 ? (int)v - 256 : (int)v;
    int c = op == 1 || op == 3 ? (int)carry : 0, sum, low;
    unsigned r;
    switch (op) {
    case 0:
    case 1:
        sum = sign_a + sign_v + c;
        r = (a + v + (unsigned)c) & 0xFF;
        *f = flags(r, a + v + (unsigned)c > 255, false, sum < -128 || sum > 127,
                   (a & 15) + (v & 15) + (unsigned)c > 15);
        return r;
    case 2:
    case 3:
    case 7:
        sum = sign_a - sign_v - c;
        low = (int)(a & 15) - (int)(v & 15) - c;
        r = (unsigned)((int)a - (int)v - c) & 0xFF;
        *f = flags(r, (int)a - (int)v - c < 0, true, sum < -128 || sum > 127, low < 0);
        if (op == 7) *f = (*f & 0xD7u) | (v & 0x28u);
        return op == 7 ? a : r;
    case 4: r = a & v; break;
    case 5: r = a ^ v; break;
    default: r = a | v; break;
    }
    *f = flags(r, false, false, even(r), op == 4);
    return r;
}

TEST(sums_and_logic_for_all_inputs)
{
    set_up();
    for (unsigned op = 0; op < 8; op++)
        for (unsigned a = 0; a < 256; a++)
            for (unsigned v = 0; v < 256; v++)
                for (unsigned carry = 0; carry < 2; carry++) {
                    unsigned f = 0, r = expected(op, a, v, carry, &f);
                    cpu.pc = 0x8000;
                    memory[0x8000] = (uint8_t)(0x80 | op << 3);
                    cpu.r[Z80_A] = (uint8_t)a, cpu.r[Z80_B] = (uint8_t)v;
                    cpu.r[Z80_F] = (uint8_t)carry;
                    sim_z80_step(&cpu);
                    if (cpu.r[Z80_A] != r || cpu.r[Z80_F] != f)
                        test_fail(
                            __FILE__, __LINE__,
                            "operation %u of %02X and %02X, carry %u: %02X %02X, not %02X %02X", op,
                            a, v, carry, cpu.r[Z80_A], cpu.r[Z80_F], r, f);
                }
}

/* The correction by the table in the data sheet: C, high digit, H, low digit. */
static unsigned correction(unsigned a, bool c, bool h, bool *carry)
{
    unsigned high = a >> 4, low = a & 15;
    bool digit = h || low > 9, tens = c || high > 9 || (high == 9 && low > 9);
    *carry = tens;
    return (tens ? 0x60u : 0u) + (digit ? 6u : 0u);
}

TEST(decimal_adjust_for_all_inputs)
{
    set_up();
    for (unsigned a = 0; a < 256; a++)
        for (unsigned f = 0; f < 256; f++) {
            bool carry, minus = (f & Z80_N) != 0, h = (f & Z80_HALF) != 0;
            unsigned fix = correction(a, (f & Z80_CARRY) != 0, h, &carry);
            unsigned r = (minus ? a - fix : a + fix) & 0xFF;
            bool half = minus ? h && (a & 15) < 6 : (a & 15) > 9;
            cpu.pc = 0x8000, memory[0x8000] = 0x27;
            cpu.r[Z80_A] = (uint8_t)a, cpu.r[Z80_F] = (uint8_t)f;
            sim_z80_step(&cpu);
            CHECK_INT(cpu.r[Z80_A], r);
            CHECK_INT(cpu.r[Z80_F], flags(r, carry, minus, even(r), half));
        }
}

TEST(decimal_sums_are_decimal)
{
    set_up();
    for (unsigned x = 0; x < 100; x++)
        for (unsigned y = 0; y < 100; y++) {
            cpu.pc = 0x8000;
            memcpy(memory + 0x8000, "\x80\x27", 2); /* ADD A,B; DAA */
            cpu.r[Z80_A] = (uint8_t)(x / 10 * 16 + x % 10);
            cpu.r[Z80_B] = (uint8_t)(y / 10 * 16 + y % 10);
            sim_z80_step(&cpu);
            sim_z80_step(&cpu);
            unsigned sum = (x + y) % 100;
            CHECK_INT(cpu.r[Z80_A], sum / 10 * 16 + sum % 10);
            CHECK_INT(cpu.r[Z80_F] & Z80_CARRY, x + y > 99);
        }
}

TEST(rotations_for_all_inputs)
{
    set_up();
    for (unsigned op = 0; op < 8; op++)
        for (unsigned v = 0; v < 256; v++)
            for (unsigned carry = 0; carry < 2; carry++) {
                char bits[10], turned[10]; /* carry, then the byte from its highest bit */
                bits[0] = (char)carry;
                for (unsigned i = 0; i < 8; i++)
                    bits[i + 1] = (char)(v >> (7 - i) & 1);
                bool left = (op & 1) == 0;
                char out = left ? bits[1] : bits[8];
                char into = op < 2 ? out : op < 4 ? bits[0] : op == 5 ? bits[1] : op == 6;
                for (unsigned i = 1; i <= 8; i++)
                    turned[i] = left ? (i < 8 ? bits[i + 1] : into) : (i > 1 ? bits[i - 1] : into);
                unsigned r = 0;
                for (unsigned i = 1; i <= 8; i++)
                    r = r * 2 + (unsigned)turned[i];
                cpu.pc = 0x8000;
                memory[0x8000] = 0xCB, memory[0x8001] = (uint8_t)(op << 3);
                cpu.r[Z80_B] = (uint8_t)v, cpu.r[Z80_F] = (uint8_t)carry;
                sim_z80_step(&cpu);
                CHECK_INT(cpu.r[Z80_B], r);
                CHECK_INT(cpu.r[Z80_F], flags(r, out != 0, false, even(r), false));
            }
}

TEST(words_with_whole_numbers)
{
    for (unsigned round = 0; round < 20000; round++) {
        static const uint8_t codes[] = {0x42, 0x4A}; /* SBC HL,BC and ADC HL,BC */
        unsigned x = test_random() & 0xFFFF, y = test_random() & 0xFFFF, carry = round & 1;
        bool minus = (round & 2) != 0;
        set_up();
        memory[0x8000] = 0xED, memory[0x8001] = codes[!minus];
        cpu.r[Z80_H] = (uint8_t)(x >> 8), cpu.r[Z80_L] = (uint8_t)x;
        cpu.r[Z80_B] = (uint8_t)(y >> 8), cpu.r[Z80_C] = (uint8_t)y;
        cpu.r[Z80_F] = (uint8_t)carry;
        sim_z80_step(&cpu);
        int sx = (int16_t)x, sy = (int16_t)y, c = (int)carry;
        int sum = minus ? sx - sy - c : sx + sy + c;
        int whole = minus ? (int)x - (int)y - c : (int)x + (int)y + c;
        int low = minus ? (int)(x & 0xFFF) - (int)(y & 0xFFF) - c
                        : (int)(x & 0xFFF) + (int)(y & 0xFFF) + c;
        unsigned r = (unsigned)whole & 0xFFFF;
        unsigned f = flags(r >> 8, whole < 0 || whole > 0xFFFF, minus, sum < -32768 || sum > 32767,
                           low < 0 || low > 0xFFF);
        f = (f & ~(unsigned)Z80_ZERO) | (r == 0 ? Z80_ZERO : 0);
        CHECK_INT(cpu.r[Z80_H] << 8 | cpu.r[Z80_L], r);
        CHECK_INT(cpu.r[Z80_F], f);
    }
}

/* ---- at work ---- */

/* Assembles a program at $8000 and runs it to its HALT. */
static void run_program(const char *source)
{
    load_program("z80+undocumented", source, memory);
    set_up();
    for (unsigned i = 0; i < 100000 && !cpu.rest; i++)
        sim_z80_step(&cpu);
    CHECK(cpu.rest);
}

TEST(blocks_are_moved_compared_and_sent)
{
    run_program(" .org $8000\n ld hl,from\n ld de,$9000\n ld bc,12\n ldir\n"
                " ld hl,$900B\n ld de,$A00B\n ld bc,12\n lddr\n"
                " ld hl,$A000\n ld bc,100\n ld a,'g'\n cpir\n ld ($B000),hl\n ld ($B002),bc\n"
                " ld hl,from\n ld b,3\n ld c,$20\n otir\n ld hl,$B010\n ld b,2\n ini\n ind\n halt\n"
                "from: .text \"Skerry light\"\n");
    CHECK_BYTES(memory + 0x9000, 12, "Skerry light", 12);
    CHECK_BYTES(memory + 0xA000, 12, "Skerry light", 12);
    CHECK_INT(memory[0xB000] | memory[0xB001] << 8, 0xA00A); /* one behind the g */
    CHECK_INT(memory[0xB002], 90);
    CHECK_INT(ports[0x20], 'e');
    CHECK_BYTES(memory + 0xB010, 2, "ee", 2);
    CHECK_INT(last_port, 0x0120);
    CHECK((cpu.r[Z80_F] & Z80_ZERO) != 0);
}

TEST(index_registers_and_their_halves)
{
    run_program(" .org $8000\n ld ix,$9000\n ld (ix+5),$12\n inc (ix+5)\n ld a,(ix+5)\n"
                " ld iy,$900A\n ld b,(iy-5)\n add a,(iy-5)\n set 7,(ix+5)\n rlc (ix+5),c\n"
                " ld ixh,$AA\n ld ixl,b\n ld d,ixh\n push ix\n pop hl\n halt\n");
    CHECK_INT(cpu.r[Z80_A], 0x26);
    CHECK_INT(cpu.r[Z80_B], 0x13);
    CHECK_INT(memory[0x9005], 0x27);
    CHECK_INT(cpu.r[Z80_C], 0x27);
    CHECK_INT(cpu.r[Z80_D], 0xAA);
    CHECK_INT(cpu.r[Z80_H] << 8 | cpu.r[Z80_L], 0xAA13);
}

TEST(a_program_that_checks_itself)
{
    /* 200 primes with a sieve, then their sum by repeated addition: 200th prime is 1223 */
    run_program(" .org $8000\n ld hl,$9000\n ld de,$9001\n ld bc,1299\n ld (hl),0\n ldir\n"
                " ld de,2\nnext: ld hl,$9000\n add hl,de\n ld a,(hl)\n or a\n jr nz,skip\n"
                " ld hl,(count)\n inc hl\n ld (count),hl\n ld (last),de\n"
                " ld hl,$9000\n add hl,de\nmark: add hl,de\n ld bc,$9000+1300\n or a\n sbc hl,bc\n"
                " jr nc,skip\n add hl,bc\n ld (hl),1\n jr mark\n"
                "skip: inc de\n ld hl,1224\n or a\n sbc hl,de\n jr nz,next\n halt\n"
                "count: .word 0\nlast: .word 0\n here2 = here\n .assert here2 < $8100\n"
                " .org $8080\n .byte 0\n");
    /* count and last stand behind the program; find them by their values */
    bool found = false;
    for (unsigned i = 0x8000; i < 0x8080; i++)
        found |= memory[i] == 200 && memory[i + 1] == 0 && memory[i + 2] == (1223 & 0xFF) &&
                 memory[i + 3] == 1223 >> 8;
    CHECK(found);
}

TEST(interrupts)
{
    run_program(
        " .org $8000\n ld sp,$F000\n im 1\n ei\n halt\n .org $38\n inc b\n ei\n ret\n"
        " .org $66\n inc c\n retn\n .org $9010\n .word $9100\n .org $9100\n inc d\n reti\n");
    uint8_t b = cpu.r[Z80_B], c = cpu.r[Z80_C], d = cpu.r[Z80_D];
    uint16_t at = cpu.pc;
    cpu.irq = true;
    CHECK_INT(run_one(), 13);
    CHECK_INT(cpu.pc, 0x38);
    cpu.irq = false;
    run_one(), run_one(), run_one(); /* INC B, EI, RET */
    CHECK_INT(cpu.pc, at);
    CHECK_INT(cpu.r[Z80_B], b + 1);
    CHECK(cpu.iff1);
    cpu.nmi = true;
    CHECK_INT(run_one(), 11);
    CHECK(!cpu.iff1 && cpu.iff2 && !cpu.nmi);
    run_one(), run_one();
    CHECK(cpu.iff1);
    CHECK_INT(cpu.r[Z80_C], c + 1);
    /* Mode 2: a table behind I. */
    cpu.mode = 2, cpu.i = 0x90, bus.vector = 0x10;
    cpu.irq = true;
    CHECK_INT(run_one(), 19);
    CHECK_INT(cpu.pc, 0x9100);
    run_one();
    CHECK_INT(cpu.r[Z80_D], d + 1);
    /* EI lets one more instruction through. */
    memory[0xA000] = 0xFB, memory[0xA001] = 0x00, cpu.pc = 0xA000;
    cpu.irq = true;
    run_one();
    CHECK_INT(cpu.pc, 0xA001);
    run_one();
    CHECK_INT(cpu.pc, 0xA002);
    run_one();
    CHECK_INT(cpu.pc, 0x9100);
}

TEST(refresh_counts_opcode_fetches)
{
    run_program(" .org $8000\n ld a,$85\n ld r,a\n nop\n ld ix,5\n bit 0,(ix+1)\n ld a,r\n halt\n");
    /* NOP 1, LD IX 2, BIT 2, LD A,R 2; bit 7 stays */
    CHECK_INT(cpu.r[Z80_A], 0x85 + 7);
}

TEST(what_the_flags_of_the_instruction_before_leave)
{
    static const struct {
        const char *source;
        uint8_t f;
    } cases[] = {
        {" ld a,0\n or a\n ld a,$28\n scf\n halt\n", 0x6D},    /* F was set before LD: A alone */
        {" ld a,$28\n or a\n scf\n halt\n", 0x2D},             /* the same bits in both */
        {" ld hl,$2800\n ld a,0\n bit 0,(hl)\n halt\n", 0x54}, /* WZ is not HL */
    };
    for (size_t i = 0; i < sizeof cases / sizeof cases[0]; i++) {
        run_program(cases[i].source);
        CHECK_INT(cpu.r[Z80_F] & 0xFD, cases[i].f);
    }
}
