/* How much of a line's time a transfer takes, in virtual time, on 65C02 boards of 2 MHz at 19,200
 * baud; and that none is fast by leaving something out. */
#include <string.h>

#include "bootlace/drive_frames.h"
#include "bootlace/drive_transport.h"
#include "bootlace/xmodem.h"
#include "host_support.h"

enum { COUNT = 16384, FIRST = 0x0400 };

static bench *b;
static project *p;
static sim_bench sim;
static uint8_t cells[32768], wanted[COUNT];
static bl_serial port;
static bl_transfer job;
static bl_exchange exchange;

/* The example's board with its ROM burned, switched on and past its greeting. */
static void set_up(const char *folder)
{
    static uint8_t *all[] = {cells};
    uint32_t used;
    b = example_bench_named(folder);
    CHECK_INT(project_build(b, PROJECT_CHIPS, NULL, &test_sink, &p), BL_OK);
    bl_chip_contents(&b->chips[0], p->chips, cells, &used);
    bl_text cpu = bl_sheet_name(b->sheet);
    sim_bench_begin(&sim, sim_cpu_kind_for(cpu.at, cpu.length), b->clock, b->areas, b->area_count,
                    b->chips, all, 1, b->link_baud, 115200, 1);
    simulation_add_devices(&sim, b);
    sim_bench_power_on(&sim);
    sim_bench_run(&sim, 1000u * 1000 * 1000);
    port = sim_line_port(&sim.board_line);
    uint8_t bytes[256];
    size_t got;
    port.receive(port.context, bytes, sizeof bytes, &got);
    for (size_t i = 0; i < COUNT; i++)
        wanted[i] = (uint8_t)test_random();
    bl_exchange_begin(&exchange, b->link_baud);
}

static void tear_down(void)
{
    project_close(p);
    bench_close(b);
}

static bl_status send(size_t count, const bl_piece *known, bool run)
{
    bl_piece piece = {FIRST, count, wanted};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 128,
                             .region = 2048,
                             .who = BL_WHO_EYELET,
                             .known = known,
                             .known_count = known != NULL,
                             .run = run,
                             .entry = FIRST,
                             .sum_ns = 150000};
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_transfer(&port, &exchange, &job, NULL);
    bl_transfer_end(&job);
    return status;
}

static double share(double seconds)
{
    return COUNT * 10.0 / b->link_baud / seconds;
}

TEST(eyelet_keeps_the_line_full)
{
    set_up("skerry-65");
    uint64_t began = sim.now;
    CHECK_INT(send(COUNT, NULL, false), BL_OK);
    double took = (double)(sim.now - began) / 1e9;
    if (share(took) < 0.95) test_fail(__FILE__, __LINE__, "%.4f of the line", share(took));
    CHECK_BYTES(sim.board.ram + FIRST, COUNT, wanted, COUNT);
    CHECK_INT(job.result.bytes_proved, COUNT);
    CHECK_INT(job.result.proved_by, BL_PROOF_DOUBLE);
    tear_down();
}

/* One byte of 16 KiB, from the first word to the running program: it stores its $5A at once. */
TEST(one_changed_byte_is_running_at_once)
{
    static const uint8_t code[] = {0xA9, 0x5A, 0x85, 0x10, 0x80, 0xFE};
    static uint8_t before[COUNT];
    set_up("skerry-65");
    memcpy(wanted, code, sizeof code);
    CHECK_INT(send(COUNT, NULL, false), BL_OK);
    memcpy(before, wanted, COUNT);
    wanted[9000] ^= 1;
    bl_piece known = {FIRST, COUNT, before};
    sim.board.ram[0x10] = 0;
    uint64_t began = sim.now;
    CHECK_INT(send(COUNT, &known, true), BL_OK);
    /* The PC keeps silent for a while behind the start, which the program does not wait for. */
    double took = (double)(sim.now - began) / 1e9 - bl_transfer_silence(&job) / 1e6;
    if (took >= 0.4) test_fail(__FILE__, __LINE__, "%.3f s", took);
    CHECK_INT(sim.board.ram[0x10], 0x5A);
    CHECK_INT(job.result.blocks_written, 1);
    CHECK_INT(job.result.bytes_proved, COUNT);
    tear_down();
}

/* The start is not put off by silence: as soon as the PC has heard the answer. */
TEST(a_program_starts_when_the_answer_was_heard)
{
    static const uint8_t code[] = {0xA9, 0x5A, 0x85, 0x10, 0x80, 0xFE};
    set_up("skerry-65");
    memcpy(wanted, code, sizeof code);
    CHECK_INT(send(sizeof code, NULL, false), BL_OK);
    bl_frame run = {.kind = BL_ASK_RUN, .length = 3, .payload = {0x00, 0x04, 0}};
    static const uint8_t heard = BL_LINK_HEARD;
    CHECK_INT(bl_drive_ask(&port, &exchange, &run, 20000, 1), BL_OK);
    sim.board.ram[0x10] = 0;
    sim_bench_run(&sim, sim.now + 20u * 1000 * 1000);
    CHECK_INT(sim.board.ram[0x10], 0); /* not yet */
    CHECK_INT(bl_drive_send(&port, &heard, 1), BL_OK);
    sim_bench_run(&sim, sim.now + 2u * 1000 * 1000);
    CHECK_INT(sim.board.ram[0x10], 0x5A);
    tear_down();
}

/* What is believed to be there and is not, all of it or a byte of it, is found and mended. */
static void check_belief(const char *board)
{
    static uint8_t before[COUNT];
    set_up(board);
    memcpy(before, wanted, COUNT);
    bl_piece known = {FIRST, 4000, before};
    CHECK_INT(send(4000, &known, false), BL_OK); /* never sent */
    CHECK_BYTES(sim.board.ram + FIRST, 4000, wanted, 4000);
    CHECK(job.result.bytes_written == 4000);
    sim.board.ram[FIRST + 3999] ^= 0x10;
    CHECK_INT(send(4000, &known, false), BL_OK);
    CHECK_BYTES(sim.board.ram + FIRST, 4000, wanted, 4000);
    CHECK_INT(job.result.blocks_written, 1);
    tear_down();
}

TEST(a_belief_is_proved)
{
    check_belief("skerry-65");
    check_belief("skerry-68"); /* its Eyelet makes no double sums */
}

/* Pours are cut short, bytes are lost in them, flags appear: what passes as proved is right. */
TEST(pours_on_a_bad_line)
{
    unsigned whole = 0;
    set_up("skerry-65");
    sim.board_line.faults.flip_one_in = 20000;
    sim.board_line.faults.lose_one_in = 3000;
    for (unsigned turn = 0; turn < 60; turn++) {
        size_t count = 600 + test_below(3000);
        for (size_t i = 0; i < count; i++)
            wanted[i] = (uint8_t)test_random();
        if (send(count, NULL, false) != BL_OK) continue;
        CHECK_BYTES(sim.board.ram + FIRST, count, wanted, count);
        whole++;
    }
    CHECK(whole > 54);
    tear_down();
}

/* A thousand small programs at one flipped bit and one lost byte in a thousand. */
TEST(a_thousand_transfers_on_a_very_bad_line)
{
    unsigned whole = 0;
    set_up("skerry-65");
    sim.board_line.faults.flip_one_in = 1000;
    sim.board_line.faults.lose_one_in = 1000;
    for (unsigned turn = 0; turn < 1000; turn++) {
        size_t count = 1 + test_below(100);
        for (size_t i = 0; i < count; i++)
            wanted[i] = (uint8_t)test_random();
        if (send(count, NULL, false) != BL_OK) continue;
        CHECK_BYTES(sim.board.ram + FIRST, count, wanted, count);
        whole++;
    }
    CHECK(whole > 950);
    tear_down();
}

/* Memory that does not keep a byte ends it, while pouring too. */
TEST(a_pour_into_what_is_no_memory)
{
    set_up("skerry-65");
    bl_piece piece = {0x8100, 2048, wanted}; /* nothing is there */
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 128,
                             .region = 2048,
                             .who = BL_WHO_EYELET,
                             .sum_ns = 150000};
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    CHECK_INT(bl_drive_transfer(&port, &exchange, &job, NULL), BL_E_DIFFERS);
    CHECK_INT(job.result.difference[0].address, 0x8100);
    bl_transfer_end(&job);
    tear_down();
}

/* Bollard's XMODEM is assembly on the same board. */
TEST(xmodem_1k_on_a_65c02)
{
    static bl_xmodem x;
    static const char ask[] = "x 0400\r";
    size_t taken;
    set_up("bollard");
    CHECK_INT(port.send(port.context, (const uint8_t *)ask, strlen(ask), &taken), BL_OK);
    sim_bench_run(&sim, sim.now + 20u * 1000 * 1000);
    uint64_t began = sim.now;
    bl_xmodem_send(&x, b->link_baud, wanted, COUNT, true, 0x1A, port.now(port.context));
    CHECK_INT(bl_drive_transport(&port, &x.transport, NULL), BL_OK);
    double took = (double)(sim.now - began) / 1e9;
    CHECK_BYTES(sim.board.ram + FIRST, COUNT, wanted, COUNT);
    if (share(took) < 0.93) test_fail(__FILE__, __LINE__, "%.4f of the line", share(took));
    tear_down();
}
