/* Grommet behind a parallel port with an interrupt, on the bare 65C02 board. */
#include <string.h>

#include "bootlace/drive_parallel.h"
#include "host_support.h"
#include "sim/device/port8.h"
#include "sim/sim_panel.h"

enum { COUNT = 1500, FIRST = 0x1001 };

static bench *b;
static project *p;
static sim_bench sim;
static bl_transfer job;
static uint8_t wanted[COUNT];

static void set_up(bool with_grommet)
{
    b = example_bench_named("skerry-bare");
    CHECK_INT(project_build(b, PROJECT_FIRMWARE, NULL, &test_sink, &p), BL_OK);
    sim_bench_begin(&sim, sim_cpu_kind_for("65c02", 5), b->clock, b->areas, b->area_count, NULL,
                    NULL, 0, b->link_baud, 115200, 1);
    simulation_add_devices(&sim, b);
    sim_bench_power_on(&sim);
    sim_panel at;
    sim_panel_begin(&at, &sim.board);
    bl_front_panel port = sim_panel_port(&at);
    bl_image *grommet = bl_program_image(p->pieces[1].program);
    bl_panel panel = {.image = grommet, .sheet = b->sheet, .radix = BL_HEX, .group = 4};
    bl_panel_entry entry;
    uint32_t start;
    CHECK(bl_image_entry(grommet, &start));
    CHECK(bl_image_size(grommet) <= 96);
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_OK);
    if (with_grommet) bl_panel_run(&port, start);
    sim.now = sim_board_now(&sim.board);
    for (size_t i = 0; i < COUNT; i++)
        wanted[i] = (uint8_t)test_random();
}

static void tear_down(void)
{
    project_close(p);
    bench_close(b);
}

static bl_status send(uint32_t first, size_t count, bool run)
{
    bl_piece piece = {first, count, wanted};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 64,
                             .who = BL_WHO_EYELET,
                             .run = run,
                             .entry = first};
    bl_parallel port = sim_parallel_port(&sim);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_parallel(&port, &job);
    bl_transfer_end(&job);
    return status;
}

TEST(grommet_stores_exactly_what_is_sent)
{
    static const size_t counts[] = {1, 2, 254, 255, 256, 510, 511, COUNT};
    set_up(true);
    for (size_t i = 0; i < sizeof counts / sizeof counts[0]; i++) {
        size_t n = counts[i];
        memset(sim.board.ram + FIRST - 1, 0x5A, COUNT + 2);
        CHECK_INT(send(FIRST, n, false), BL_OK);
        CHECK_BYTES(sim.board.ram + FIRST, n, wanted, n);
        CHECK_INT(sim.board.ram[FIRST - 1], 0x5A);
        CHECK_INT(sim.board.ram[FIRST + n], 0x5A);
        CHECK_INT(job.result.proved_by, BL_PROOF_ROWS);
    }
    tear_down();
}

TEST(grommet_starts_a_program)
{
    static const uint8_t code[] = {0xA9, 0x5A, 0x85, 0x10, 0x80, 0xFE};
    set_up(true);
    memcpy(wanted, code, sizeof code);
    sim.board.ram[0x10] = 0;
    CHECK_INT(send(0x2000, 400, true), BL_OK);
    sim_bench_run(&sim, sim.now + 1000000);
    CHECK_INT(sim.board.ram[0x10], 0x5A);
    tear_down();
}

/* The wires, and what is no memory: Grommet stops, and that is told. */
TEST(grommet_stops_when_a_sum_is_wrong)
{
    for (unsigned bit = 0; bit < 8; bit++) {
        set_up(true);
        sim_port8_of(sim_board_device(&sim.board, &sim_port8_kind))->stuck = (uint8_t)(1u << bit);
        bl_status status = send(FIRST, 300, false);
        CHECK(status == BL_E_REFUSED || status == BL_E_LINE);
        CHECK_INT(job.result.bytes_proved, 0);
        tear_down();
    }
    set_up(true);
    CHECK_INT(send(0x9000, 300, false), BL_E_REFUSED);
    tear_down();
    set_up(false);
    CHECK_INT(send(FIRST, 300, false), BL_E_TIMEOUT); /* the port has one; nobody fetches it */
    sim.powered = false;
    CHECK_INT(send(FIRST, 300, false), BL_E_TIMEOUT);
    tear_down();
}
