/* Machines down a line as targets: a board with Eyelet, and monitors that dialogues describe. What
 * each does is looked at in the simulated board itself. */
#include <string.h>

#include "bootlace/crc.h"
#include "eyelet.h"
#include "host_support.h"
#include "sim/sim_target.h"

enum { PLACE = 0x0400, MARK = 0x0700, COUNT = 200 };

static bench *b;
static project *p;
static simulation *s;
static bl_serial port;
static bl_eyelet_target eyelet;
static bl_talk_target talker;
static bl_target target;

static void set_up(const char *folder)
{
    b = example_bench_named(folder);
    s = example_board(b, &p);
    port = sim_line_port(&s->sim.board_line);
    if (b->link_dialogue != NULL) {
        bl_talk_target_begin(&talker, &port, b->link_dialogue, NULL);
        target = bl_talk_target_functions(&talker);
    } else {
        bl_eyelet_target_begin(&eyelet, &port, b->link_baud, eyelet_sum_ns(b), NULL);
        target = bl_eyelet_target_functions(&eyelet);
    }
}

static void tear_down(void)
{
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

/* What is written is there, and what is there is read; more than one frame or command of it. */
static void check_memory(void)
{
    uint8_t wanted[COUNT], found[COUNT];
    uint32_t crc;
    for (size_t i = 0; i < COUNT; i++)
        wanted[i] = (uint8_t)test_random();
    CHECK_INT(target.write(target.context, PLACE, wanted, COUNT), BL_OK);
    CHECK_BYTES(s->sim.board.ram + PLACE, COUNT, wanted, COUNT);
    s->sim.board.ram[PLACE + 77] ^= 0x20;
    CHECK_INT(target.read(target.context, PLACE, found, COUNT), BL_OK);
    CHECK_BYTES(found, COUNT, s->sim.board.ram + PLACE, COUNT);
    if (target.sum == NULL) return;
    CHECK_INT(target.sum(target.context, (bl_range){PLACE, COUNT}, &crc), BL_OK);
    CHECK_INT(crc, bl_crc32(0, found, COUNT));
}
#define check_memory(...) TEST_CALL(check_memory(__VA_ARGS__))

/* lda #$5A; sta MARK; here: jmp here */
static void check_start(void)
{
    static const uint8_t program[] = {0xA9,      0x5A, 0x8D, MARK & 0xFF,
                                      MARK >> 8, 0x4C, 0x05, PLACE >> 8};
    const uint32_t entry = PLACE;
    s->sim.board.ram[MARK] = 0;
    CHECK_INT(target.write(target.context, PLACE, program, sizeof program), BL_OK);
    CHECK_INT(target.go(target.context, &entry), BL_OK);
    sim_bench_run(&s->sim, s->sim.now + 400u * 1000 * 1000);
    CHECK_INT(s->sim.board.ram[MARK], 0x5A);
    CHECK_INT(s->sim.board.cpu.pc, PLACE + 5);
}
#define check_start(...) TEST_CALL(check_start(__VA_ARGS__))

TEST(eyelet_as_a_target)
{
    set_up("skerry-65");
    CHECK(target.step == NULL && target.registers == NULL && target.set_breakpoint == NULL);
    check_memory();
    CHECK_INT(target.write(target.context, 0xFFF0, (const uint8_t[]){1, 2}, 2), BL_E_DIFFERS);
    CHECK_INT(target.read(target.context, 0xFFFFFF, (uint8_t[2]){0}, 2), BL_E_RANGE);
    CHECK_INT(target.sum(target.context, (bl_range){0, 0x10000}, &(uint32_t){0}), BL_E_RANGE);
    check_start();
    CHECK_INT(target.stop(target.context), BL_E_TIMEOUT); /* it does not poll the line */
    tear_down();
}

/* The program in the ROM polls: it gives way, and is let go on where it was. */
TEST(a_program_gives_way_to_a_target_and_goes_on)
{
    set_up("skerry-65");
    sim_bench_run(&s->sim, s->sim.now + 3000u * 1000 * 1000);
    CHECK_INT(target.stop(target.context), BL_OK);
    const sim_device *lamp = &s->sim.board.devices[1];
    uint8_t before = lamp->kind->lamps(lamp);
    sim_bench_run(&s->sim, s->sim.now + 100u * 1000 * 1000);
    CHECK_INT(lamp->kind->lamps(lamp), before);
    check_memory();
    CHECK_INT(target.go(target.context, NULL), BL_OK);
    unsigned changes = 0;
    for (unsigned i = 0; i < 160; i++) {
        before = lamp->kind->lamps(lamp);
        sim_bench_run(&s->sim, s->sim.now + 50u * 1000 * 1000);
        changes += lamp->kind->lamps(lamp) != before;
    }
    CHECK(changes >= 4);
    CHECK_INT(target.stop(target.context), BL_OK);
    tear_down();
}

TEST(monitors_as_targets)
{
    static const char *const folders[] = {"bollard", "thrift"};
    for (size_t i = 0; i < sizeof folders / sizeof folders[0]; i++) {
        set_up(folders[i]);
        CHECK(target.sum == NULL && target.stop == NULL && target.reset == NULL);
        CHECK_INT(target.go(target.context, NULL), BL_E_UNSUPPORTED);
        check_memory();
        if (b->chip_count > 0) /* ROM */
            CHECK_INT(target.write(target.context, 0xFFF0, (const uint8_t[]){1, 2}, 2),
                      BL_E_DIFFERS);
        check_start();
        CHECK_INT(target.read(target.context, PLACE, (uint8_t[1]){0}, 1), BL_E_TIMEOUT);
        CHECK(talker.retries > 0);
        tear_down();
    }
}

/* Somebody else at the end of the line is told from Eyelet. */
TEST(a_target_looks_who_is_there)
{
    uint8_t byte;
    set_up("bollard");
    bl_eyelet_target_begin(&eyelet, &port, b->link_baud, 1000, NULL);
    target = bl_eyelet_target_functions(&eyelet);
    bl_status status = target.read(target.context, PLACE, &byte, 1);
    CHECK(status == BL_E_LINE || status == BL_E_UNSUPPORTED || status == BL_E_TIMEOUT);
    simulation_power_off(s);
    CHECK_INT(target.read(target.context, PLACE, &byte, 1), BL_E_TIMEOUT);
    tear_down();
}
