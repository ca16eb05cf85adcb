/* What only the 6809 has: index bytes, register lists and pairs, sixteen bits, its interrupts. */
#include "sim/cpu/cpu6809.h"

#include <string.h>

#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_6809 cpu;

static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = memory + i * 256;
    cpu = (sim_6809){.bus = &bus, .pc = 0x8000, .index = {0x4000, 0x5000, 0x6000, 0xF000}};
}

static void put(uint16_t at, size_t count, const char *bytes)
{
    memcpy(memory + at, bytes, count);
}

static unsigned word_at(uint16_t at)
{
    return (unsigned)memory[at] << 8 | memory[(uint16_t)(at + 1)];
}

/* The address that an index byte means, computed by the words of the manual. */
static unsigned meant(unsigned how, unsigned *left, unsigned *bytes)
{
    unsigned n = how >> 5 & 3, r = cpu.index[n], at = r;
    int byte = (int8_t)memory[0x8002];
    unsigned word = word_at(0x8002);
    *left = r, *bytes = 0;
    if (how < 0x80) return (r + (how & 31) - ((how & 16) != 0 ? 32 : 0)) & 0xFFFF;
    switch (how & 15) {
    case 0: *left = r + 1; break;
    case 1: *left = r + 2; break;
    case 2: at = *left = r - 1; break;
    case 3: at = *left = r - 2; break;
    case 5: at = r + (unsigned)(int8_t)cpu.b; break;
    case 6: at = r + (unsigned)(int8_t)cpu.a; break;
    case 8: at = r + (unsigned)byte, *bytes = 1; break;
    case 9: at = r + word, *bytes = 2; break;
    case 11: at = r + cpu.a * 256u + cpu.b; break;
    case 12: at = 0x8003 + (unsigned)byte, *bytes = 1; break;
    case 13: at = 0x8004 + word, *bytes = 2; break;
    case 15:
        if ((how & 16) != 0) at = word, *bytes = 2;
        break;
    default: break;
    }
    *left &= 0xFFFF, at &= 0xFFFF;
    return (how & 16) != 0 ? word_at((uint16_t)at) : at;
}

TEST(index_bytes_mean_what_the_manual_says)
{
    for (unsigned turn = 0; turn < 200; turn++)
        for (unsigned how = 0; how < 256; how++) {
            static const uint8_t codes[] = {0x30, 0x31, 0x32, 0x33}; /* LEA of X, Y, S, U */
            static const unsigned to[] = {M68_X, M68_Y, M68_S, M68_U};
            unsigned left, bytes, n = turn & 3;
            set_up();
            for (unsigned i = 0; i < 4; i++)
                cpu.index[i] = (uint16_t)test_random();
            for (unsigned i = 0; i < 64; i++)
                memory[test_random() & 0xFFFF] = (uint8_t)test_random();
            cpu.a = (uint8_t)test_random(), cpu.b = (uint8_t)test_random();
            memory[0x8000] = codes[n], memory[0x8001] = (uint8_t)how;
            memory[0x8002] = (uint8_t)test_random(), memory[0x8003] = (uint8_t)test_random();
            unsigned at = meant(how, &left, &bytes), used = how >> 5 & 3;
            sim_6809_step(&cpu);
            if (cpu.index[to[n]] != at || cpu.pc != 0x8002 + bytes)
                test_fail(__FILE__, __LINE__, "index byte %02X: %04X, not %04X, then at %04X", how,
                          cpu.index[to[n]], at, cpu.pc);
            if (used != to[n]) CHECK_INT(cpu.index[used], left);
            if (n < 2) CHECK_INT((cpu.cc & M68_Z) != 0, at == 0);
        }
}

TEST(register_lists_come_back_as_they_went)
{
    for (unsigned stack = 0; stack < 2; stack++)
        for (unsigned list = 0; list < 256; list++) {
            set_up();
            cpu.a = 1, cpu.b = 2, cpu.dp = 3, cpu.cc = 0x55;
            sim_6809 before = cpu;
            unsigned s = stack == 0 ? M68_S : M68_U, other = stack == 0 ? M68_U : M68_S;
            memory[0x8000] = stack == 0 ? 0x34 : 0x36, memory[0x8001] = (uint8_t)list;
            memory[0x8002] = stack == 0 ? 0x35 : 0x37, memory[0x8003] = (uint8_t)list;
            sim_6809_step(&cpu);
            unsigned bytes = (unsigned)(before.index[s] - cpu.index[s]), at = cpu.index[s];
            CHECK_INT(cpu.cycles, 5 + bytes);
            /* The condition codes are on top, then A, B; the program counter is at the bottom. */
            if ((list & 1) != 0) CHECK_INT(memory[at++], 0x55);
            if ((list & 2) != 0) CHECK_INT(memory[at++], 1);
            if ((list & 4) != 0) CHECK_INT(memory[at++], 2);
            if ((list & 0x80) != 0) CHECK_INT(word_at((uint16_t)(before.index[s] - 2)), 0x8002);
            cpu.a = cpu.b = cpu.dp = cpu.cc = 0;
            cpu.index[M68_X] = cpu.index[M68_Y] = cpu.index[other] = 0;
            sim_6809_step(&cpu);
            CHECK_INT(cpu.index[s], before.index[s]);
            CHECK_INT(cpu.cc, (list & 1) != 0 ? 0x55 : 0);
            CHECK_INT(cpu.a, (list & 2) != 0 ? 1 : 0);
            CHECK_INT(cpu.b, (list & 4) != 0 ? 2 : 0);
            CHECK_INT(cpu.dp, (list & 8) != 0 ? 3 : 0);
            CHECK_INT(cpu.index[M68_X], (list & 16) != 0 ? 0x4000 : 0);
            CHECK_INT(cpu.index[M68_Y], (list & 32) != 0 ? 0x5000 : 0);
            CHECK_INT(cpu.index[other], (list & 64) != 0 ? before.index[other] : 0);
            CHECK_INT(cpu.pc, (list & 128) != 0 ? 0x8002 : 0x8004);
        }
}

static unsigned flags16(unsigned r, bool overflow, bool carry)
{
    return ((r & 0x8000) != 0 ? M68_N : 0) | (r == 0 ? M68_Z : 0) | (overflow ? M68_V : 0) |
           (carry ? M68_C : 0);
}

TEST(sixteen_bits_against_whole_numbers)
{
    static const struct {
        const char *code;
        unsigned size;
        int what; /* 1 add, -1 subtract, 0 compare */
        int n;    /* which index register, -1: D */
    } cases[] = {{"\xC3", 1, 1, -1},       {"\x83", 1, -1, -1},       {"\x10\x83", 2, 0, -1},
                 {"\x8C", 1, 0, M68_X},    {"\x10\x8C", 2, 0, M68_Y}, {"\x11\x83", 2, 0, M68_U},
                 {"\x11\x8C", 2, 0, M68_S}};
    static const uint16_t edges[] = {0, 1, 0x7FFF, 0x8000, 0xFFFF, 0x00FF, 0x0100, 0x8001};
    for (unsigned k = 0; k < sizeof cases / sizeof cases[0]; k++)
        for (unsigned turn = 0; turn < 5000; turn++) {
            unsigned a = turn < 64 ? edges[turn & 7] : test_random() & 0xFFFF;
            unsigned v = turn < 64 ? edges[turn >> 3] : test_random() & 0xFFFF;
            set_up();
            put(0x8000, cases[k].size, cases[k].code);
            memory[0x8000 + cases[k].size] = (uint8_t)(v >> 8);
            memory[0x8001 + cases[k].size] = (uint8_t)v;
            if (cases[k].n < 0)
                cpu.a = (uint8_t)(a >> 8), cpu.b = (uint8_t)a;
            else
                cpu.index[cases[k].n] = (uint16_t)a;
            sim_6809_step(&cpu);
            bool plus = cases[k].what > 0;
            long whole = plus ? (long)a + v : (long)a - (long)v;
            long with_sign = plus ? (int16_t)a + (int16_t)v : (int16_t)a - (int16_t)v;
            unsigned r = (unsigned)whole & 0xFFFF;
            CHECK_INT(cpu.cc, flags16(r, with_sign < -32768 || with_sign > 32767,
                                      whole < 0 || whole > 0xFFFF));
            if (cases[k].n < 0)
                CHECK_INT(cpu.a * 256u + cpu.b, cases[k].what == 0 ? a : r);
            else
                CHECK_INT(cpu.index[cases[k].n], a);
        }
}

TEST(products_and_signs)
{
    set_up();
    for (unsigned a = 0; a < 256; a++)
        for (unsigned b = 0; b < 256; b++) {
            cpu.pc = 0x8000, memory[0x8000] = 0x3D, cpu.a = (uint8_t)a, cpu.b = (uint8_t)b;
            cpu.cc = M68_N | M68_V;
            sim_6809_step(&cpu);
            CHECK_INT(cpu.a * 256u + cpu.b, a * b);
            CHECK_INT(cpu.cc, M68_N | M68_V | (a * b == 0 ? M68_Z : 0) | (a * b >> 7 & 1));
        }
    for (unsigned b = 0; b < 256; b++) {
        cpu.pc = 0x8000, memory[0x8000] = 0x1D, cpu.b = (uint8_t)b, cpu.cc = 0;
        sim_6809_step(&cpu);
        CHECK_INT(cpu.a, b < 128 ? 0 : 255);
        CHECK_INT(cpu.cc, b == 0 ? M68_Z : b < 128 ? 0 : M68_N);
    }
}

TEST(registers_move_and_change_places)
{
    set_up();
    cpu.a = 0x12, cpu.b = 0x34, cpu.dp = 0x56;
    put(0x8000, 10, "\x1F\x01\x1E\x12\x1F\x8B\x1F\x40\x1E\x35");
    sim_6809_step(&cpu); /* D to X */
    CHECK_INT(cpu.index[M68_X], 0x1234);
    sim_6809_step(&cpu); /* X and Y */
    CHECK_INT(cpu.index[M68_X], 0x5000);
    CHECK_INT(cpu.index[M68_Y], 0x1234);
    sim_6809_step(&cpu); /* A to DP */
    CHECK_INT(cpu.dp, 0x12);
    sim_6809_step(&cpu); /* S to D */
    CHECK_INT(cpu.a * 256 + cpu.b, 0xF000);
    sim_6809_step(&cpu); /* U and PC */
    CHECK_INT(cpu.pc, 0x6000);
    CHECK_INT(cpu.index[M68_U], 0x800A);
}

TEST(long_branches_go_where_short_ones_go)
{
    for (unsigned op = 0x21; op < 0x30; op++)
        for (unsigned cc = 0; cc < 16; cc++) {
            set_up();
            cpu.cc = (uint8_t)cc;
            memory[0x8000] = (uint8_t)op, memory[0x8001] = 0x40;
            sim_6809_step(&cpu);
            bool taken = cpu.pc == 0x8042;
            set_up();
            cpu.cc = (uint8_t)cc;
            put(0x8000, 4, "\x10\x20\xF0\x00");
            memory[0x8001] = (uint8_t)op;
            sim_6809_step(&cpu);
            CHECK_INT(cpu.pc, taken ? 0x7004 : 0x8004);
            CHECK_INT(cpu.cycles, taken ? 6 : 5);
        }
}

static const char handlers[] =
    " .org $8000\nstart: lds #$F000\n andcc #$AF\n ldd #$1234\n ldx #$5678\nloop: bra loop\n"
    "irq: ldb #1\n stb $9000\n rti\nfirq: inc $9001\n rti\nnmi: inc $9002\n rti\n"
    "swi: inc $9003\n rti\nswi2: inc $9004\n rti\nswi3: inc $9005\n rti\n"
    "twice: swi2\n swi3\n swi\n bra twice\nwait: cwai #$EF\n inc $9006\n sync\n inc $9007\n"
    "done: bra done\n .vector irq, irq\n .vector firq, firq\n .vector nmi, nmi\n"
    " .vector swi, swi\n .vector swi2, swi2\n .vector swi3, swi3\n .vector reset, start\n";

static void to_loop(void)
{
    load_program("6809", handlers, memory);
    set_up();
    cpu.nmi = true; /* before S is loaded there is none */
    sim_6809_reset(&cpu);
    sim_6809_run(&cpu, 40);
    CHECK_INT(memory[0x9002], 0);
}

TEST(interrupts_of_the_6809_save_what_they_should)
{
    to_loop();
    CHECK_INT(cpu.cc & (M68_I | M68_F), 0);
    uint64_t before = cpu.cycles;
    cpu.irq = true;
    sim_6809_step(&cpu);
    CHECK_INT(cpu.cycles - before, 19);
    CHECK_INT(cpu.index[M68_S], 0xF000 - 12);
    CHECK_INT(cpu.cc & (M68_E | M68_I | M68_F), M68_E | M68_I);
    cpu.irq = false;
    /* The fast one comes between. */
    cpu.line[0] = 1;
    before = cpu.cycles;
    sim_6809_step(&cpu);
    CHECK_INT(cpu.cycles - before, 10);
    CHECK_INT(cpu.index[M68_S], 0xF000 - 15);
    CHECK_INT(cpu.cc & (M68_E | M68_I | M68_F), M68_I | M68_F);
    cpu.line[0] = 0;
    sim_6809_run(&cpu, cpu.cycles + 100);
    CHECK_INT(memory[0x9000], 1);
    CHECK_INT(memory[0x9001], 1);
    CHECK_INT(cpu.index[M68_S], 0xF000);
    CHECK_INT(cpu.a * 256 + cpu.b, 0x1234);
    CHECK_INT(cpu.cc & (M68_I | M68_F), 0);
    cpu.nmi = true;
    sim_6809_run(&cpu, cpu.cycles + 100);
    CHECK_INT(memory[0x9002], 1);
    CHECK(!cpu.nmi);
    /* Masked, a level waits; an NMI does not. */
    cpu.cc |= M68_I | M68_F, cpu.irq = cpu.nmi = true, cpu.line[0] = 1;
    sim_6809_run(&cpu, cpu.cycles + 100);
    CHECK_INT(memory[0x9001], 1);
    CHECK_INT(memory[0x9002], 2);
}

/* Where wait: begins: behind the routines. */
static uint16_t find(const char *bytes, size_t count)
{
    for (unsigned at = 0x8000; at < 0x8100; at++)
        if (memcmp(memory + at, bytes, count) == 0) return (uint16_t)at;
    return 0;
}

TEST(software_interrupts_and_waiting)
{
    to_loop();
    cpu.pc = find("\x10\x3F\x11\x3F", 4);
    sim_6809_run(&cpu, cpu.cycles + 400);
    CHECK(memory[0x9003] >= 1 && memory[0x9004] >= memory[0x9003]);
    CHECK(memory[0x9005] >= memory[0x9003]);

    to_loop();
    cpu.pc = find("\x3C\xEF", 2);
    sim_6809_run(&cpu, cpu.cycles + 100);
    CHECK(cpu.rest && cpu.saved);
    CHECK_INT(cpu.index[M68_S], 0xF000 - 12); /* all is saved before the wait */
    cpu.line[0] = 1;
    sim_6809_step(&cpu);
    CHECK_INT(cpu.index[M68_S], 0xF000 - 12);
    CHECK((cpu.cc & M68_E) != 0); /* also for the fast one, which RTI then sees */
    cpu.line[0] = 0;
    sim_6809_run(&cpu, cpu.cycles + 100);
    CHECK_INT(memory[0x9001], 1);
    CHECK_INT(memory[0x9006], 1);
    CHECK_INT(cpu.index[M68_S], 0xF000);
    /* SYNC now; a masked request is enough to go on, and is not taken. */
    CHECK(cpu.rest && !cpu.saved);
    CHECK_INT(memory[0x9007], 0);
    cpu.cc |= M68_I, cpu.irq = true;
    sim_6809_run(&cpu, cpu.cycles + 30);
    CHECK_INT(memory[0x9007], 1);
    CHECK_INT(memory[0x9000], 0);
}

TEST(a_program_of_the_6809)
{
    /* Sorts eight words by their sum of bytes, through both stacks. */
    static const char source[] =
        " .org $8000\n lds #$F000\n lda #$90\n tfr a,dp\n ldy #text\n ldu #$9110\n"
        "next: lda ,y+\n beq sorted\n ldx #$9100\n ldb $9080\nplace: cmpb #0\n beq here_\n"
        " decb\n cmpa b,x\n bhs after\n pshs a\n lda b,x\n incb\n sta b,x\n decb\n puls a\n"
        " bra place\nafter: incb\nhere_: sta b,x\n inc $9080\n bra next\n"
        "sorted: ldb $9080\n leax [where]\nback: lda ,x+\n pshu a\n decb\n bne back\n"
        " stu $9082\nstop: bra stop\nwhere: .word $9100\n"
        "text: .text \"harbour\" ending 0\n .vector reset, $8000\n";
    load_program("6809", source, memory);
    set_up();
    sim_6809_reset(&cpu);
    sim_6809_run(&cpu, 5000);
    CHECK_BYTES(memory + 0x9100, 7, "abhorru", 7);
    CHECK_BYTES(memory + 0x9109, 7, "urrohba", 7);
    CHECK_INT(word_at(0x9082), 0x9109);
}
