/* The interface that all simulated CPUs share, and the board as it uses it. */
#include <string.h>

#include "harness.h"
#include "sim/board.h"

TEST(every_simulated_cpu_has_a_sheet)
{
    unsigned count = 0;
    for (; sim_cpu_name(count) != NULL; count++) {
        const char *name = sim_cpu_name(count);
        bl_sheet *sheet = NULL;
        CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, strlen(name)}, &test_sink, &sheet),
                  BL_OK);
        bl_sheet_close(sheet);
        CHECK(sim_cpu_kind_for(name, strlen(name)) != NULL);
        CHECK(sim_cpu_kind_for(name, strlen(name) - 1) != sim_cpu_kind_for(name, strlen(name)) ||
              strchr(name, '+') != NULL);
    }
    CHECK(count >= 10);
    CHECK(sim_cpu_kind_for("Z80", 3) == &sim_z80_kind); /* in either case */
    CHECK(sim_cpu_kind_for("gannet", 6) == NULL);
    CHECK(sim_cpu_kind_for("", 0) == NULL);
}

TEST(registers_by_name_keep_what_is_put_there)
{
    static sim_board b;
    static const bl_area ram = {"ram", {0, 0x10000}, BL_AREA_RAM, 0, NULL, 0, false};
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const sim_cpu_kind *kind = sim_cpu_kind_for(sim_cpu_name(k), strlen(sim_cpu_name(k)));
        sim_chance chance = {7};
        sim_board_begin(&b, kind, 1000000, &ram, 1, NULL, NULL, 0);
        sim_board_power_on(&b, &chance, 5000000);
        CHECK(b.cpu.cycles >= 5000 && b.cpu.cycles < 5020); /* 5 ms have passed, and the reset */
        for (size_t i = 0; i < kind->register_count; i++) {
            const sim_register *r = &kind->registers[i];
            sim_register_set(&b.cpu, r, 1);
            CHECK_INT(sim_register_get(&b.cpu, r), 1);
            sim_register_set(&b.cpu, r, 0);
            CHECK_INT(sim_register_get(&b.cpu, r), 0);
            for (size_t j = 0; j < i; j++)
                CHECK(strcmp(kind->registers[j].name, r->name) != 0);
        }
        /* A step takes time, and running takes at least what was asked for. */
        uint64_t before = b.cpu.cycles;
        kind->step(&b.cpu);
        CHECK(b.cpu.cycles > before);
        sim_board_run(&b, 6000000);
        CHECK(b.cpu.cycles >= 6000 && b.cpu.cycles < 6040);
    }
}

/* The same memory twice: in one piece, and with its pages in any order in the host's memory, where
 * no instruction goes on after its page. Random bytes must run alike in both. */
TEST(code_runs_alike_wherever_its_pages_are)
{
    static uint8_t whole[0x10000], parts[0x10100], order[256];
    static sim_bus buses[2];
    static union {
        sim_cpu cpu;
        sim_65c02 m65c02;
        sim_6809 m6809;
        sim_8080 i8080;
        sim_z80 z80;
        sim_ez80 ez80;
    } states[2];
    for (unsigned i = 0; i < 256; i++)
        order[i] = (uint8_t)i;
    for (unsigned i = 255; i > 0; i--) {
        unsigned other = test_below(i + 1);
        uint8_t kept = order[i];
        order[i] = order[other], order[other] = kept;
    }
    for (unsigned i = 0; i < 256; i++) {
        buses[0].read_page[i] = buses[0].write_page[i] = whole + i * 256;
        buses[1].read_page[i] = buses[1].write_page[i] = parts + order[i] * 256u;
    }
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const sim_cpu_kind *kind = sim_cpu_kind_for(sim_cpu_name(k), strlen(sim_cpu_name(k)));
        memset(states, 0, sizeof states);
        for (unsigned turn = 0; turn < 60; turn++) {
            for (unsigned i = 0; i < 0x10000; i++) {
                whole[i] = (uint8_t)test_random();
                buses[1].write_page[i >> 8][i & 0xFF] = whole[i];
            }
            uint16_t at = (uint16_t)test_random();
            for (unsigned i = 0; i < 2; i++) {
                states[i].cpu.bus = &buses[i];
                kind->reset(&states[i].cpu);
                states[i].cpu.pc = at;
            }
            for (unsigned n = 0; n < 300; n++) {
                /* Also in the middle of a longer run, where nothing is set anew. */
                uint64_t until = states[0].cpu.cycles + 1 + test_below(40);
                kind->run(&states[0].cpu, until);
                kind->run(&states[1].cpu, until);
                CHECK_INT(states[1].cpu.cycles, states[0].cpu.cycles);
                for (size_t i = 0; i < kind->register_count; i++)
                    if (sim_register_get(&states[0].cpu, &kind->registers[i]) !=
                        sim_register_get(&states[1].cpu, &kind->registers[i]))
                        test_fail(__FILE__, __LINE__, "%s: %s differs", sim_cpu_name(k),
                                  kind->registers[i].name);
            }
            for (unsigned i = 0; i < 256; i++)
                CHECK_BYTES(buses[1].read_page[i], 256, whole + i * 256, 256);
        }
    }
}

/* Random bytes, on one board run with random breakpoints, on the other step by step up to them. */
TEST(a_run_ends_where_steps_would_meet_a_breakpoint)
{
    static sim_board boards[2];
    static const bl_area ram = {"ram", {0, 0x10000}, BL_AREA_RAM, 0, NULL, 0, false};
    size_t met = 0;
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const sim_cpu_kind *kind = sim_cpu_kind_for(sim_cpu_name(k), strlen(sim_cpu_name(k)));
        for (unsigned turn = 0; turn < 40; turn++) {
            uint64_t seed = test_random(), at = test_random();
            for (unsigned i = 0; i < 2; i++) {
                sim_chance chance = {seed};
                sim_board_begin(&boards[i], kind, 1000000, &ram, 1, NULL, NULL, 0);
                sim_board_power_on(&boards[i], &chance, 0);
                boards[i].cpu.pc = (uint16_t)at;
            }
            static uint8_t marks[0x10000];
            memset(marks, 0, sizeof marks);
            for (unsigned i = 0; i < 4000; i++) {
                uint16_t mark = (uint16_t)test_random();
                marks[mark] = 1;
                sim_board_break(&boards[0], mark, true);
            }
            for (unsigned n = 0; n < 60; n++) {
                uint64_t end = boards[0].cpu.cycles + 1 + test_below(60);
                bl_stop why = sim_board_run(&boards[0], end * 1000);
                bool found = false;
                while (boards[1].cpu.cycles < end && !found) {
                    sim_board_step(&boards[1]);
                    bool far = kind == &sim_ez80_kind && boards[1].ez80.far_pc > 0xFFFF;
                    found = marks[boards[1].cpu.pc] && !far && !sim_cpu_waits(kind, &boards[1].cpu);
                }
                CHECK_INT(why == BL_STOP_BREAKPOINT, found);
                CHECK_INT(boards[0].cpu.cycles, boards[1].cpu.cycles);
                CHECK_INT(boards[0].cpu.pc, boards[1].cpu.pc);
                met += found;
            }
            CHECK(memcmp(boards[0].ram, boards[1].ram, sizeof boards[0].ram) == 0);
        }
    }
    CHECK(met > 1000);
}

/* Areas that do not fill a page, and none at all: code there is seen as the CPU would see it. */
TEST(code_at_the_edges_of_memory)
{
    static sim_board b;
    static const bl_area areas[] = {{"ram", {0x1000, 0x180}, BL_AREA_RAM, 0, NULL, 0, false},
                                    {"io", {0x1180, 0x10}, BL_AREA_IO, 0, NULL, 0, false}};
    sim_chance chance = {3};
    sim_board_begin(&b, &sim_65c02_kind, 1000000, areas, 2, NULL, NULL, 0);
    sim_board_power_on(&b, &chance, 0);
    /* LDA #$5A, STA $1005 over the end of the page, then a branch back to its start. */
    static const uint8_t code[] = {0xA9, 0x5A, 0x8D, 0x05, 0x10, 0x80, 0xF9};
    memcpy(b.ram + 0x10FC, code, sizeof code);
    b.ram[0x1005] = 0;
    b.cpu.pc = 0x10FC;
    b.kind->step(&b.cpu);
    b.kind->step(&b.cpu);
    CHECK_INT(b.ram[0x1005], 0x5A);
    CHECK_INT(b.cpu.pc, 0x1101);
    uint64_t before = b.cpu.cycles;
    b.kind->step(&b.cpu);
    CHECK_INT(b.cpu.pc, 0x10FC);
    CHECK_INT(b.cpu.cycles - before, 4); /* taken, and into another page */
    /* Nothing drives the bus beyond: $FF is BBS7, with an operand of $FF and a distance of -1. */
    b.cpu.pc = 0x1180;
    b.kind->step(&b.cpu);
    CHECK(b.cpu.pc == 0x1182 || b.cpu.pc == 0x1183);
}
