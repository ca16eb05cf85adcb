/* Eyelet on the simulated board, over a simulated line: what it does, what it refuses, what noise
 * cannot do. */
#include <string.h>

#include "pump/pump.h"
#include "support.h"

enum { PROGRAM = 0x0300, COUNT = 1500 };

static bench *b;
static project *p;
static sim_bench sim;
static uint8_t cells[32768];
static uint8_t wanted[COUNT];
static bl_exchange exchange;
static bl_transfer job;

/* A board with Eyelet and the light in its chip, switched on. */
static void set_up(uint64_t seed)
{
    static uint8_t *all[] = {cells};
    uint32_t used;
    b = example_bench();
    CHECK_INT(project_build(b, PROJECT_CHIPS, NULL, &test_sink, &p), BL_OK);
    bl_chip_contents(&b->chips[0], p->chips, cells, &used);
    sim_bench_begin(&sim, &sim_65c02_kind, b->clock, b->areas, b->area_count, b->chips, all, 1,
                    b->link_baud, b->programmer_baud, seed);
    sim_board_add(&sim.board, SIM_DEVICE_ACIA, 0x8000, false, &sim.board_line.from_pc,
                  &sim.board_line.to_pc);
    sim_board_add(&sim.board, SIM_DEVICE_LATCH, 0x8010, false, NULL, NULL);
    sim_bench_power_on(&sim);
    bl_exchange_begin(&exchange, b->link_baud);
    for (size_t i = 0; i < COUNT; i++)
        wanted[i] = (uint8_t)test_random();
}

static void tear_down(void)
{
    project_close(p);
    bench_close(b);
}

static bl_status transfer(bl_goal goal, uint32_t first, size_t count, bool run, bool resume)
{
    bl_piece piece = {first, count, wanted};
    static uint8_t buffer[0x10000];
    bl_transfer_options o = {.goal = goal,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 128,
                             .who = BL_WHO_EYELET,
                             .run = run,
                             .entry = first,
                             .resume = resume,
                             .sum_ns = 150000,
                             .buffer = buffer,
                             .range = {first, count}};
    bl_serial port = sim_line_port(&sim.board_line);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_pump_transfer(&port, &exchange, &job, NULL);
    bl_transfer_end(&job);
    if (goal == BL_GOAL_READ && status == BL_OK)
        CHECK_BYTES(buffer, count, sim.board.ram + first, count);
    return status;
}

TEST(eyelet_fits_its_kilobyte)
{
    set_up(1);
    CHECK(bl_image_count(p->chips, (bl_range){0xFC00, 0x400}) <= 1024);
    CHECK_INT(bl_image_count(p->chips, (bl_range){0xFFFA, 6}), 6);
    tear_down();
}

TEST(write_prove_and_write_nothing)
{
    set_up(1);
    CHECK_INT(transfer(BL_GOAL_WRITE, PROGRAM, COUNT, false, false), BL_OK);
    CHECK_BYTES(sim.board.ram + PROGRAM, COUNT, wanted, COUNT);
    CHECK_INT(job.bytes_proved, COUNT);
    CHECK_TEXT(job.name, "Eyelet 65C02");
    CHECK_INT(transfer(BL_GOAL_WRITE, PROGRAM, COUNT, false, false), BL_OK);
    CHECK_INT(job.blocks_written, 0);
    wanted[700] ^= 1;
    CHECK_INT(transfer(BL_GOAL_COMPARE, PROGRAM, COUNT, false, false), BL_E_DIFFERS);
    CHECK_INT(job.differences, 1);
    CHECK_INT(job.difference[0].address, PROGRAM + 700);
    CHECK_INT(transfer(BL_GOAL_WRITE, PROGRAM, COUNT, false, false), BL_OK);
    CHECK_INT(job.blocks_written, 1);
    CHECK_INT(transfer(BL_GOAL_READ, PROGRAM, COUNT, false, false), BL_OK);
    tear_down();
}

TEST(any_place_and_any_length)
{
    set_up(1);
    for (unsigned i = 0; i < 60; i++) {
        size_t count = test_below(400) + 1;
        uint32_t first = PROGRAM + test_below(0x7000);
        for (size_t k = 0; k < count; k++)
            wanted[k] = (uint8_t)test_random();
        uint8_t before = sim.board.ram[first - 1], after = sim.board.ram[first + count];
        CHECK_INT(transfer(BL_GOAL_WRITE, first, count, false, false), BL_OK);
        CHECK_BYTES(sim.board.ram + first, count, wanted, count);
        CHECK_INT(sim.board.ram[first - 1], before);
        CHECK_INT(sim.board.ram[first + count], after);
    }
    tear_down();
}

TEST(rom_does_not_take_a_write)
{
    set_up(1);
    CHECK_INT(transfer(BL_GOAL_WRITE, 0xC000, 64, false, false), BL_E_DIFFERS);
    CHECK_INT(job.difference[0].address, 0xC000);
    CHECK_INT(job.difference[0].expected, wanted[0]);
    CHECK_INT(job.difference[0].found, cells[0x4000]);
    CHECK_INT(transfer(BL_GOAL_WRITE, 0x9000, 64, false, false),
              BL_E_DIFFERS); /* nothing is there at all */
    tear_down();
}

TEST(eyelet_guards_its_own_memory_and_checks_its_input)
{
    static const struct {
        uint8_t kind, length, payload[8], code;
    } all[] = {
        {0x00, 0, {0}, BL_ANSWER_UNKNOWN},
        {0x07, 0, {0}, BL_ANSWER_UNKNOWN},
        {0x7F, 3, {0}, BL_ANSWER_UNKNOWN},
        {BL_ASK_READ, 3, {0, 3, 0}, BL_ANSWER_MALFORMED},
        {BL_ASK_READ, 4, {0, 3, 0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_READ, 4, {0, 3, 0, 240}, BL_ANSWER_RANGE},
        {BL_ASK_READ, 4, {0, 3, 1, 1}, BL_ANSWER_RANGE}, /* beyond 16 bits */
        {BL_ASK_READ, 4, {0, 3, 0, 239}, BL_ANSWER_GOOD},
        {BL_ASK_WRITE, 3, {0, 3, 0}, BL_ANSWER_MALFORMED},
        {BL_ASK_WRITE, 4, {0xFF, 2, 0, 1}, BL_ANSWER_RANGE}, /* its own page */
        {BL_ASK_WRITE, 4, {0xE0, 0, 0, 1}, BL_ANSWER_RANGE},
        {BL_ASK_WRITE, 6, {0xFE, 0xFF, 0, 1, 2, 3}, BL_ANSWER_RANGE}, /* over the end */
        {BL_ASK_WRITE, 4, {0, 3, 0, 1}, BL_ANSWER_GOOD},
        {BL_ASK_SUMS, 5, {0, 3, 0, 1, 0}, BL_ANSWER_MALFORMED},
        {BL_ASK_SUMS, 6, {0, 3, 0, 0, 0, 1}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, {0, 3, 0, 1, 0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, {0, 3, 0, 1, 0, 60}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, {0, 3, 0, 1, 0, 59}, BL_ANSWER_GOOD},
        {BL_ASK_RUN, 2, {0, 3}, BL_ANSWER_MALFORMED},
        {BL_ASK_HELLO, 0, {0}, BL_ANSWER_GOOD},
    };
    set_up(1);
    bl_serial port = sim_line_port(&sim.board_line);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_frame f = {.kind = all[i].kind, .length = all[i].length};
        memcpy(f.payload, all[i].payload, sizeof all[i].payload);
        CHECK_INT(bl_pump_ask(&port, &exchange, &f, 100000, 240), BL_OK);
        if (exchange.answer.payload[0] != all[i].code)
            test_fail(__FILE__, __LINE__, "request %zu was answered with %u, expected %u", i,
                      exchange.answer.payload[0], all[i].code);
    }
    tear_down();
}

/* A program that never polls, counts in page zero and returns. */
TEST(a_program_runs_and_returns_to_the_monitor)
{
    static const uint8_t program[] = {0xA9, 0x5A, 0x85, 0x10, 0x60}; /* LDA #$5A, STA $10, RTS */
    set_up(1);
    memcpy(wanted, program, sizeof program);
    CHECK_INT(transfer(BL_GOAL_WRITE, PROGRAM, sizeof program, true, false), BL_OK);
    CHECK_INT(sim.board.ram[0x10], 0x5A);
    CHECK_INT(transfer(BL_GOAL_COMPARE, PROGRAM, sizeof program, false, true),
              BL_OK); /* it is back, and answers */
    CHECK(!job.resumed);
    tear_down();
}

TEST(a_program_that_polls_goes_on_where_it_was)
{
    set_up(1);
    bl_image_copy(p->chips, 0xC000, COUNT, 0xFF, wanted);
    sim_bench_run(&sim, 1000000000); /* the light is running by now */
    uint8_t stack = sim.board.m65c02.s;
    for (unsigned i = 0; i < 40; i++) {
        CHECK_INT(transfer(BL_GOAL_COMPARE, 0xC000, 51, false, true), BL_OK);
        CHECK(job.resumed);
        sim_bench_run(&sim, sim.now + 1000000u * test_below(700));
        uint8_t depth = (uint8_t)(stack - sim.board.m65c02.s);
        CHECK(sim.board.cpu.pc >= 0xC000 &&
              (depth < 16 || depth > 240)); /* the stack does not creep */
    }
    unsigned changes = 0;
    for (uint8_t last = sim.board.devices[1].latch, i = 0; i < 130; i++) {
        sim_bench_run(&sim, sim.now + 50000000u);
        changes += sim.board.devices[1].latch != last;
        last = sim.board.devices[1].latch;
    }
    CHECK(changes >= 4); /* two flashes in six seconds */
    tear_down();
}

TEST(noise_never_passes_for_success)
{
    unsigned good = 0;
    for (uint64_t seed = 1; seed <= 40; seed++) {
        test_seed(seed);
        set_up(seed);
        if (seed % 2 == 0)
            sim.board_line.faults.lose_one_in = 300 + test_below(400);
        else
            sim.board_line.faults.flip_one_in = 1000 + test_below(4000);
        bl_status status = transfer(BL_GOAL_WRITE, PROGRAM, 600, false, false);
        if (status == BL_OK) CHECK_BYTES(sim.board.ram + PROGRAM, 600, wanted, 600);
        good += status == BL_OK;
        tear_down();
    }
    CHECK(good >= 38);
}

TEST(a_cut_line_ends_in_an_error)
{
    for (uint64_t after = 50; after < 750; after += 53) {
        set_up(1);
        sim.board_line.faults.vanish_after = after;
        CHECK(transfer(BL_GOAL_WRITE, PROGRAM, 600, false, false) != BL_OK);
        tear_down();
    }
}

/* Frames cut anywhere, garbage, typing: the monitor still answers the next request. */
TEST(garbage_does_not_lock_the_monitor)
{
    set_up(3);
    bl_serial port = sim_line_port(&sim.board_line);
    for (unsigned i = 0; i < 60; i++) {
        uint8_t bytes[60];
        size_t n = test_below(60), taken;
        for (size_t k = 0; k < n; k++)
            bytes[k] = (uint8_t)(test_below(3) == 0 ? 0x7D + test_below(2) : test_random() & 0x7F);
        for (size_t k = 0; k < n; k++)
            if (bytes[k] == 'r' || bytes[k] == 'R')
                bytes[k] = '?'; /* that would start the program in ROM */
        port.send(port.context, bytes, n, &taken);
        bl_frame hello = {.kind = BL_ASK_HELLO};
        CHECK_INT(bl_pump_ask(&port, &exchange, &hello, 20000, 40), BL_OK);
        CHECK_INT(exchange.answer.payload[2], BL_WHO_EYELET);
    }
    tear_down();
}
