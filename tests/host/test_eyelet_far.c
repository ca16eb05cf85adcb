/* Eyelet for the eZ80 beyond 64 KiB: memory, and programs in 24-bit mode. */
#include <string.h>

#include "bootlace/drive_frames.h"
#include "eyelet.h"
#include "host_support.h"

enum { FAR = 0x10000, BOUNDARY = 0x20000, END = 0x30000, COUNT = 3000 };

static bench *b;
static project *p;
static sim_bench sim;
static uint8_t cells[8192], wanted[COUNT];
static bl_exchange exchange;
static bl_transfer job;

/* Skerry-24 with 128 KiB beyond the first 64, so that a boundary lies in it. */
static void set_up(void)
{
    static const char *const changes[] = {"$10000..$1FFFF", "$10000..$2FFFF", NULL};
    static uint8_t *all[] = {cells};
    uint32_t used;
    b = example_bench_changed("skerry-24", changes);
    bl_text cpu = bl_sheet_name(b->sheet);
    CHECK_INT(project_build(b, PROJECT_CHIPS, NULL, &test_sink, &p), BL_OK);
    bl_chip_contents(&b->chips[0], p->chips, cells, &used);
    sim_bench_begin(&sim, sim_cpu_kind_for(cpu.at, cpu.length), b->clock, b->areas, b->area_count,
                    b->chips, all, 1, b->link_baud, b->programmer_baud, 1);
    simulation_add_devices(&sim, b);
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

static bl_status transfer(bl_goal goal, uint32_t first, size_t count, bool run)
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
                             .resume = true,
                             .sum_ns = eyelet_sum_ns(b),
                             .buffer = buffer,
                             .range = {first, count}};
    bl_serial port = sim_line_port(&sim.board_line);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_transfer(&port, &exchange, &job, NULL);
    bl_transfer_end(&job);
    if (goal == BL_GOAL_READ && status == BL_OK)
        CHECK_BYTES(buffer, count, sim.board.ram + first, count);
    return status;
}

/* One request; its answer is in exchange. */
static uint8_t ask(uint8_t kind, uint32_t at, const void *rest, size_t count)
{
    bl_serial port = sim_line_port(&sim.board_line);
    bl_frame f = {.kind = kind, .length = (uint8_t)(3 + count)};
    for (unsigned i = 0; i < 3; i++)
        f.payload[i] = (uint8_t)(at >> i * 8);
    memcpy(f.payload + 3, rest, count);
    CHECK_INT(bl_drive_ask(&port, &exchange, &f, 200000, 240), BL_OK);
    return exchange.answer.payload[0];
}

/* Also where a page, and 64 KiB, end in the middle: writes, pours, both sums, reads. */
TEST(beyond_64_kib_any_place_and_any_length)
{
    set_up();
    CHECK_INT(transfer(BL_GOAL_WRITE, BOUNDARY - COUNT / 2, COUNT, false), BL_OK);
    CHECK_BYTES(sim.board.ram + BOUNDARY - COUNT / 2, COUNT, wanted, COUNT);
    CHECK_INT(transfer(BL_GOAL_READ, BOUNDARY - COUNT / 2, COUNT, false), BL_OK);
    for (unsigned i = 0; i < 30; i++) {
        size_t count = test_below(600) + 1;
        uint32_t first =
            i % 2 == 0 ? BOUNDARY - 300 + test_below(300) : FAR + test_below(END - FAR - 600);
        for (size_t k = 0; k < count; k++)
            wanted[k] = (uint8_t)test_random();
        uint8_t before = sim.board.ram[first - 1], after = sim.board.ram[first + count];
        CHECK_INT(transfer(BL_GOAL_WRITE, first, count, false), BL_OK);
        CHECK_BYTES(sim.board.ram + first, count, wanted, count);
        CHECK_INT(sim.board.ram[first - 1], before);
        CHECK_INT(sim.board.ram[first + count], after);
        wanted[count / 2] ^= 0x10;
        CHECK_INT(transfer(BL_GOAL_COMPARE, first, count, false), BL_E_DIFFERS);
        CHECK_INT(job.result.differences, 1);
        CHECK_INT(job.result.difference[0].address, first + count / 2);
    }
    tear_down();
}

TEST(what_cannot_be_reached_is_told_with_its_whole_address)
{
    set_up();
    CHECK_INT(ask(BL_ASK_WRITE, END + 0x123, "\x12\x34", 2), BL_ANSWER_DIFFERS);
    CHECK_BYTES(exchange.answer.payload + 1, 5, ((uint8_t[]){0x23, 0x01, 0x03, 0x12, 0xFF}), 5);
    CHECK_INT(ask(BL_ASK_WRITE, 0xFFFFFE, "abc", 3), BL_ANSWER_RANGE);
    CHECK_INT(ask(BL_ASK_POUR, 0xFFFFFE, "\x03\x00", 2), BL_ANSWER_RANGE);
    CHECK_INT(ask(BL_ASK_WRITE, 0x0080FF, "a", 1), BL_ANSWER_RANGE); /* its own page */
    CHECK_INT(ask(BL_ASK_WRITE, 0x0180FF, "a", 1), BL_ANSWER_GOOD);
    CHECK_INT(sim.board.ram[0x180FF], 'a');
    CHECK_INT(transfer(BL_GOAL_WRITE, END, 700, false), BL_E_DIFFERS); /* poured, and not there */
    CHECK_INT(job.result.difference[0].address, END);
    tear_down();
}

static uint64_t cpu_register(const char *name)
{
    const sim_cpu_kind *kind = sim.board.kind;
    for (size_t i = 0; i < kind->register_count; i++)
        if (strcmp(kind->registers[i].name, name) == 0)
            return sim_register_get(&sim.board.cpu, &kind->registers[i]);
    test_fail(__FILE__, __LINE__, "no register %s", name);
    return 0;
}

/* It polls with every register full, is checked meanwhile, goes on unharmed, and returns. */
TEST(a_program_in_24_bit_mode_polls_and_returns)
{
    set_up();
    int64_t poll;
    CHECK_INT(bl_program_value(p->pieces[0].program, (bl_text){"far_poll", 8}, &poll), BL_OK);
    const uint8_t code[] = {0x01, 0x56, 0x34,          0x12, /* LD BC,$123456 */
                            0x11, 0xBC, 0x9A,          0x78, /* LD DE,$789ABC */
                            0xDD, 0x21, 0x12,          0xF0,
                            0xDE, /* LD IX,$DEF012 */
                            0xFD, 0x21, 0x45,          0x23,
                            0xA1, /* LD IY,$A12345 */
                            0xD9, 0x21, 0x33,          0x22,
                            0x11, /* EXX, LD HL,$112233 */
                            0xD9, 0x21, 0x40,          0x00,
                            0x01, /* EXX, LD HL,$010040 */
                            0x49, 0xCD, (uint8_t)poll, (uint8_t)(poll >> 8), /* CALL.IS */
                            0x34,                                            /* INC (HL) */
                            0x3A, 0x41, 0x00,          0x01,                 /* LD A,($010041) */
                            0xB7, 0x28, 0xF4, /* OR A, JR Z to the call */
                            0xED, 0x43, 0x42,          0x00,
                            0x01,        /* LD ($010042),BC */
                            0x5B, 0xC9}; /* RET.L */
    memset(wanted, 0, 0x60);
    memcpy(wanted, code, sizeof code);
    CHECK(sizeof code <= 0x40);
    CHECK_INT(transfer(BL_GOAL_WRITE, FAR, 0x60, true), BL_OK);
    for (unsigned i = 0; i < 5; i++) {
        sim_bench_run(&sim, sim.now + 20000000);
        CHECK_INT(transfer(BL_GOAL_COMPARE, FAR, sizeof code, false), BL_OK);
        CHECK(job.result.resumed);
        uint8_t turns = sim.board.ram[FAR + 0x40];
        sim_bench_run(&sim, sim.now + 20000000 + test_below(1000));
        CHECK(sim.board.ram[FAR + 0x40] != turns || cpu_register("adl") == 1);
        CHECK_INT(cpu_register("bc"), 0x123456);
        CHECK_INT(cpu_register("de"), 0x789ABC);
        CHECK_INT(cpu_register("hl"), 0x010040);
        CHECK_INT(cpu_register("ix"), 0xDEF012);
        CHECK_INT(cpu_register("iy"), 0xA12345);
        CHECK_INT(cpu_register("hl2"), 0x112233);
    }
    sim.board.ram[FAR + 0x41] = 1;
    sim_bench_run(&sim, sim.now + 50000000);
    CHECK_INT(sim.board.ram[FAR + 0x44], 0x12);
    CHECK_INT(transfer(BL_GOAL_COMPARE, FAR, sizeof code, false), BL_OK);
    CHECK(!job.result.resumed); /* it is back at the prompt */
    tear_down();
}
