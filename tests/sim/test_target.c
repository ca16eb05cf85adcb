/* The simulated board as a target: memory, registers, steps, breakpoints, and time. */
#include "harness.h"

#include <string.h>

#include "bootlace/crc.h"
#include "sim/sim_target.h"

/* 0200  ldx #3; 0202 loop: inc $10; 0204 dex; 0205 bne loop; 0207 stp
 * 0300  jmp 0300 */
static const uint8_t counting[] = {0xA2, 0x03, 0xE6, 0x10, 0xCA, 0xD0, 0xFB, 0xDB};
static const uint8_t forever[] = {0x4C, 0x00, 0x03};

static sim_bench bench;
static bl_target target;

static void set_up(void)
{
    static const bl_area areas[] = {{"ram", {0, 0x8000}, BL_AREA_RAM, 0, NULL, 0, false},
                                    {"top", {0xFF00, 0x100}, BL_AREA_RAM, 0, NULL, 0, false}};
    sim_bench_begin(&bench, sim_cpu_kind_for("65c02", 5), 1000000, areas, 2, NULL, NULL, 0, 9600,
                    115200, 1);
    target = sim_target(&bench);
    sim_bench_power_on(&bench);
    CHECK_INT(target.stop(&bench), BL_OK);
    CHECK_INT(target.write(&bench, 0x200, counting, sizeof counting), BL_OK);
    CHECK_INT(target.write(&bench, 0x300, forever, sizeof forever), BL_OK);
    CHECK_INT(target.write(&bench, 0x10, (const uint8_t[]){0}, 1), BL_OK);
}
#define set_up(...) TEST_CALL(set_up(__VA_ARGS__))

static uint32_t value_of(const char *name)
{
    bl_register list[16];
    size_t count = 0;
    CHECK_INT(target.registers(&bench, list, 16, &count), BL_OK);
    CHECK(count > 0 && count <= 16);
    for (size_t i = 0; i < count; i++)
        if (strcmp(list[i].name, name) == 0) return list[i].value;
    test_fail(__FILE__, __LINE__, "there is no register '%s'", name);
    return 0;
}
#define value_of(...) TEST_VALUE(value_of(__VA_ARGS__))

static uint8_t byte_at(uint32_t address)
{
    uint8_t byte = 0;
    CHECK_INT(target.read(&bench, address, &byte, 1), BL_OK);
    return byte;
}
#define byte_at(...) TEST_VALUE(byte_at(__VA_ARGS__))

static bl_stop wait_ms(uint32_t milliseconds)
{
    bl_stop why = BL_STOP_NOT;
    CHECK_INT(target.wait(&bench, milliseconds * 1000, &why), BL_OK);
    return why;
}
#define wait_ms(...) TEST_VALUE(wait_ms(__VA_ARGS__))

TEST(a_target_steps_through_a_program)
{
    const uint32_t entry = 0x200;
    set_up();
    CHECK_INT(target.set_register(&bench, "pc", entry), BL_OK);
    static const uint32_t places[] = {0x202, 0x204, 0x205, 0x202, 0x204,
                                      0x205, 0x202, 0x204, 0x205, 0x207};
    for (size_t i = 0; i < sizeof places / sizeof places[0]; i++) {
        uint64_t before = bench.now;
        CHECK_INT(target.step(&bench), BL_OK);
        CHECK_INT(value_of("pc"), places[i]);
        CHECK(bench.now > before); /* an instruction takes its time */
        CHECK_INT(wait_ms(5), BL_STOP_ASKED);
        CHECK_INT(value_of("pc"), places[i]); /* it stands meanwhile */
    }
    CHECK_INT(byte_at(0x10), 3);
    CHECK_INT(value_of("x"), 0);
}

TEST(a_target_stops_at_breakpoints_and_goes_on_from_them)
{
    const uint32_t entry = 0x200;
    set_up();
    CHECK_INT(target.set_breakpoint(&bench, 0x204, true), BL_OK);
    CHECK_INT(target.set_breakpoint(&bench, 0x204, true), BL_OK); /* twice is once */
    CHECK_INT(target.go(&bench, &entry), BL_OK);
    for (uint8_t n = 1; n <= 3; n++) {
        uint64_t before = bench.now;
        CHECK_INT(wait_ms(1000), BL_STOP_BREAKPOINT);
        CHECK(bench.now - before < 100000); /* time stops with it */
        CHECK_INT(value_of("pc"), 0x204);
        CHECK_INT(byte_at(0x10), n);
        CHECK_INT(target.go(&bench, NULL), BL_OK);
    }
    CHECK_INT(wait_ms(10), BL_STOP_WAITS); /* stp */
    CHECK_INT(target.set_breakpoint(&bench, 0x204, false), BL_OK);
    CHECK_INT(bench.board.breakpoints.near_count, 0);
    CHECK_INT(target.go(&bench, &entry), BL_OK);
    CHECK_INT(wait_ms(10), BL_STOP_WAITS);
    CHECK_INT(byte_at(0x10), 6);
}

TEST(a_target_is_stopped_and_reset_where_it_runs)
{
    const uint32_t entry = 0x300;
    set_up();
    CHECK_INT(target.write(&bench, 0xFFFC, (const uint8_t[]){0x00, 0x02}, 2), BL_OK);
    CHECK_INT(target.go(&bench, &entry), BL_OK);
    CHECK_INT(wait_ms(3), BL_STOP_NOT);
    CHECK_INT(bench.now % 1000000, 0);
    CHECK_INT(target.stop(&bench), BL_OK);
    CHECK_INT(wait_ms(3), BL_STOP_ASKED);
    CHECK_INT(value_of("pc"), 0x300);
    CHECK_INT(target.reset(&bench), BL_OK);
    CHECK_INT(value_of("pc"), 0x200);
    CHECK_INT(wait_ms(3), BL_STOP_ASKED);
    sim_target_end(&bench); /* whoever looked has gone: it runs */
    sim_bench_run(&bench, bench.now + 1000000);
    CHECK_INT(bench.board.ram[0x10], 3);
}

TEST(a_target_tells_what_it_cannot_do)
{
    uint8_t bytes[4] = {1, 2, 3, 4};
    uint32_t crc, beyond = 0x10000;
    bl_stop why;
    set_up();
    CHECK_INT(target.write(&bench, 0x9000, bytes, 4), BL_E_DIFFERS); /* nothing is there */
    CHECK_INT(target.read(&bench, 0xFFFE, bytes, 4), BL_E_RANGE);
    CHECK_INT(target.go(&bench, &beyond), BL_E_RANGE);
    CHECK_INT(target.set_breakpoint(&bench, beyond, true), BL_E_RANGE);
    CHECK_INT(target.set_register(&bench, "a", 0x100), BL_E_RANGE);
    CHECK_INT(target.set_register(&bench, "ix", 1), BL_E_NOT_FOUND);
    CHECK_INT(target.sum(&bench, (bl_range){0x200, sizeof counting}, &crc), BL_OK);
    CHECK_INT(crc, bl_crc32(0, counting, sizeof counting));
    bench.powered = false;
    CHECK_INT(target.read(&bench, 0, bytes, 1), BL_E_TIMEOUT);
    CHECK_INT(target.step(&bench), BL_E_TIMEOUT);
    CHECK_INT(target.wait(&bench, 1, &why), BL_E_TIMEOUT);
    bench.powered = bench.stands = true;
    CHECK_INT(target.step(&bench), BL_E_UNSUPPORTED);
    CHECK_INT(target.read(&bench, 0x200, bytes, 1), BL_OK);
}

/* Breakpoints make the CPU go step by step: the run is the same to the cycle. */
TEST(breakpoints_change_nothing_but_where_it_stops)
{
    static uint8_t ram[0x10000];
    const uint32_t entry = 0x200;
    uint64_t cycles = 0;
    for (unsigned watched = 0; watched < 2; watched++) {
        set_up();
        if (watched) CHECK_INT(target.set_breakpoint(&bench, 0x7000, true), BL_OK);
        CHECK_INT(target.go(&bench, &entry), BL_OK);
        CHECK_INT(wait_ms(2), BL_STOP_WAITS);
        if (watched) {
            CHECK_INT(bench.board.cpu.cycles, cycles);
            CHECK_BYTES(bench.board.ram, sizeof ram, ram, sizeof ram);
        }
        cycles = bench.board.cpu.cycles;
        memcpy(ram, bench.board.ram, sizeof ram);
    }
}
