/* Eyelet on the simulated board, over a simulated line: what it does, what it refuses, what noise
 * cannot do. */
#include <string.h>

#include "bootlace/drive_frames.h"
#include "eyelet.h"
#include "host_support.h"

enum { COUNT = 1500 };

/* The boards of examples/, each with its Eyelet, large and small. */
typedef struct machine {
    const char *folder, *name;
    uint32_t program, capacity; /* RAM for a program */
    uint32_t rom, rom_program;  /* where ROM does not take a write, and the program in it begins */
    uint32_t empty;             /* where nothing is; 0: nowhere */
    uint16_t page_end, below;   /* the last byte of Eyelet's own page, and one below it */
    uint16_t eyelet, size;      /* the ROM that it lives in */
    const char *stack;          /* the register */
    bool swift;                 /* takes pours, makes double sums */
    bool far;                   /* reaches beyond 64 KiB */
    const char *changes[5];     /* in its bench file */
    uint8_t returning[6]; /* a program that stores $5A at $10 above its own start, and returns */
} machine;
static const machine machines[] = {
    {"skerry-65",
     "Eyelet 65C02",
     0x0300,
     0x7000,
     0xC000,
     0xC000,
     0x9000,
     0x02FF,
     0x00E0,
     0xF800,
     2048,
     "s",
     true,
     false,
     {NULL},
     {0xA9, 0x5A, 0x8D, 0x10, 0x03, 0x60}},
    {"skerry-80",
     "Eyelet Z80",
     0x8200,
     0x7000,
     0x0800,
     0x0802,
     0,
     0x80FF,
     0x0010,
     0x0000,
     2048,
     "sp",
     true,
     false,
     {NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x82, 0xC9}},
    {"skerry-85",
     "Eyelet 8080/85",
     0x4200,
     0x1B00,
     0x0800,
     0x0802,
     0x9000,
     0x40FF,
     0x0010,
     0x0000,
     2048,
     "sp",
     true,
     false,
     {NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x42, 0xC9}},
    {"skerry-68",
     "Eyelet 6809",
     0x0200,
     0x1A00,
     0xF000,
     0xF000,
     0xB000,
     0x01FF,
     0x0000,
     0xF800,
     2048,
     "s",
     true,
     false,
     {NULL},
     {0x86, 0x5A, 0xB7, 0x02, 0x10, 0x39}},
    {"skerry-60",
     "Eyelet 6800",
     0x0200,
     0x1A00,
     0xE000,
     0xE000,
     0xB000,
     0x01FF,
     0x0030,
     0xF800,
     2048,
     "sp",
     true,
     false,
     {NULL},
     {0x86, 0x5A, 0xB7, 0x02, 0x10, 0x39}},
    {"skerry-24",
     "Eyelet eZ80",
     0x8200,
     0x6C00,
     0x0900,
     0x0902,
     0,
     0x80FF,
     0x0010,
     0x0000,
     2304,
     "sps",
     true,
     true,
     {NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x82, 0xC9}},
    /* The Z80's, where the area has no room for more. */
    {"skerry-24",
     "Eyelet Z80",
     0x8200,
     0x6C00,
     0x0900,
     0x0902,
     0,
     0x80FF,
     0x0010,
     0x0000,
     2048,
     "sps",
     true,
     false,
     {"$0000..$08FF", "$0000..$07FF", "$0900..$1FFF", "$0800..$1FFF", NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x82, 0xC9}},
    /* Where there is no room for tables. */
    {"skerry-80",
     "Eyelet Z80",
     0x8200,
     0x7000,
     0x0500,
     0x0502,
     0,
     0x80FF,
     0x0010,
     0x0000,
     1280,
     "sp",
     false,
     false,
     {"$0000..$07FF", "$0000..$04FF", "$0800..$1FFF", "$0500..$1FFF", NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x82, 0xC9}},
    {"skerry-85",
     "Eyelet 8080/85",
     0x4200,
     0x1B00,
     0x0500,
     0x0502,
     0x9000,
     0x40FF,
     0x0010,
     0x0000,
     1280,
     "sp",
     false,
     false,
     {"$0000..$07FF", "$0000..$04FF", "$0800..$1FFF", "$0500..$1FFF", NULL},
     {0x3E, 0x5A, 0x32, 0x10, 0x42, 0xC9}},
    {"skerry-68",
     "Eyelet 6809",
     0x0200,
     0x1A00,
     0xF000,
     0xF000,
     0xB000,
     0x01FF,
     0x0000,
     0xFB00,
     1280,
     "s",
     false,
     false,
     {"$F800..$FFFF", "$FB00..$FFFF", "$F000..$F7FF", "$F000..$FAFF", NULL},
     {0x86, 0x5A, 0xB7, 0x02, 0x10, 0x39}},
};
static const machine *m;

/* A test that is made on each of them. */
#define MACHINE_TEST(name)                                                                         \
    static void name##_here(void);                                                                 \
    TEST(name)                                                                                     \
    {                                                                                              \
        for (m = machines; m < machines + sizeof machines / sizeof machines[0]; m++)               \
            name##_here();                                                                         \
    }                                                                                              \
    static void name##_here(void)

static bench *b;
static project *p;
static sim_bench sim;
static uint8_t cells[32768];
static uint8_t wanted[COUNT];
static bl_exchange exchange;
static bl_transfer job;

/* A board with Eyelet and a program in its chip, switched on. */
static void set_up(uint64_t seed)
{
    static uint8_t *all[] = {cells};
    uint32_t used;
    b = example_bench_changed(m->folder, m->changes);
    bl_text cpu = bl_sheet_name(b->sheet);
    CHECK_INT(project_build(b, PROJECT_CHIPS, NULL, &test_sink, &p), BL_OK);
    bl_chip_contents(&b->chips[0], p->chips, cells, &used);
    sim_bench_begin(&sim, sim_cpu_kind_for(cpu.at, cpu.length), b->clock, b->areas, b->area_count,
                    b->chips, all, 1, b->link_baud, b->programmer_baud, seed);
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

MACHINE_TEST(eyelet_fits_its_place)
{
    set_up(1);
    size_t count = bl_image_count(p->chips, (bl_range){m->eyelet, m->size});
    CHECK(count > 800 && count <= m->size);
    tear_down();
}

MACHINE_TEST(write_prove_and_write_nothing)
{
    set_up(1);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, COUNT, false, false), BL_OK);
    CHECK_BYTES(sim.board.ram + m->program, COUNT, wanted, COUNT);
    CHECK_INT(job.result.bytes_proved, COUNT);
    CHECK_TEXT(job.result.name, m->name);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, COUNT, false, false), BL_OK);
    CHECK_INT(job.result.blocks_written, 0);
    wanted[700] ^= 1;
    CHECK_INT(transfer(BL_GOAL_COMPARE, m->program, COUNT, false, false), BL_E_DIFFERS);
    CHECK_INT(job.result.proved_by, m->swift ? BL_PROOF_DOUBLE : BL_PROOF_SUMS);
    CHECK_INT(job.result.differences, 1);
    CHECK_INT(job.result.difference[0].address, m->program + 700);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, COUNT, false, false), BL_OK);
    CHECK_INT(job.result.blocks_written, 1);
    CHECK_INT(transfer(BL_GOAL_READ, m->program, COUNT, false, false), BL_OK);
    tear_down();
}

MACHINE_TEST(any_place_and_any_length)
{
    set_up(1);
    for (unsigned i = 0; i < 20; i++) {
        size_t count = test_below(400) + 1;
        uint32_t first = m->program + test_below(m->capacity);
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

MACHINE_TEST(rom_does_not_take_a_write)
{
    set_up(1);
    bl_status expected = m->rom > m->page_end ? BL_E_DIFFERS : BL_E_REFUSED; /* below its page */
    CHECK_INT(transfer(BL_GOAL_WRITE, m->rom, 64, false, false), expected);
    if (expected == BL_E_DIFFERS) {
        CHECK_INT(job.result.difference[0].address, m->rom);
        CHECK_INT(job.result.difference[0].expected, wanted[0]);
        CHECK_INT(job.result.difference[0].found, sim_board_peek(&sim.board, (uint16_t)m->rom));
    }
    if (m->empty != 0)
        CHECK_INT(transfer(BL_GOAL_WRITE, m->empty, 64, false, false),
                  BL_E_DIFFERS); /* nothing is there at all */
    tear_down();
}

MACHINE_TEST(eyelet_guards_its_own_memory_and_checks_its_input)
{
    /* The low bytes of addresses; those of the first kind are in the RAM for programs. */
    enum { THERE, OWN, BELOW, TOP };
    static const struct {
        uint8_t kind, length, where, rest[4], code;
    } all[] = {
        {0x00, 0, THERE, {0}, BL_ANSWER_UNKNOWN},
        {0x0D, 0, THERE, {0}, BL_ANSWER_UNKNOWN},
        {0x7F, 3, THERE, {0}, BL_ANSWER_UNKNOWN},
        {BL_ASK_READ, 3, THERE, {0}, BL_ANSWER_MALFORMED},
        {BL_ASK_READ, 4, THERE, {0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_READ, 4, THERE, {0, 240}, BL_ANSWER_RANGE},
        {BL_ASK_READ, 4, THERE, {1, 1}, BL_ANSWER_RANGE}, /* beyond 16 bits */
        {BL_ASK_READ, 4, THERE, {0, 239}, BL_ANSWER_GOOD},
        {BL_ASK_WRITE, 3, THERE, {0}, BL_ANSWER_MALFORMED},
        {BL_ASK_WRITE, 4, OWN, {0, 1}, BL_ANSWER_RANGE},
        {BL_ASK_WRITE, 4, BELOW, {0, 1}, BL_ANSWER_RANGE},
        {BL_ASK_WRITE, 6, TOP, {0, 1, 2, 3}, BL_ANSWER_RANGE}, /* over the end */
        {BL_ASK_WRITE, 4, THERE, {0, 1}, BL_ANSWER_GOOD},
        {BL_ASK_SUMS, 5, THERE, {0, 1, 0}, BL_ANSWER_MALFORMED},
        {BL_ASK_SUMS, 6, THERE, {0, 0, 0, 1}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, THERE, {0, 1, 0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, THERE, {0, 1, 0, 60}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, THERE, {0, 1, 0, 59}, BL_ANSWER_GOOD},
        {BL_ASK_RUN, 2, THERE, {0}, BL_ANSWER_MALFORMED},
        {BL_ASK_RESUME, 0, THERE, {0}, BL_ANSWER_RANGE}, /* nothing gave way */
        {BL_ASK_POUR, 4, THERE, {0, 1}, BL_ANSWER_MALFORMED},
        {BL_ASK_POUR, 5, THERE, {0, 0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_POUR, 5, OWN, {0, 1, 0}, BL_ANSWER_RANGE},
        {BL_ASK_POUR, 5, BELOW, {0, 1, 0}, BL_ANSWER_RANGE},
        {BL_ASK_POUR, 5, TOP, {0, 3, 0}, BL_ANSWER_RANGE},
        {BL_ASK_POUR, 5, THERE, {1, 1, 0}, BL_ANSWER_RANGE},
        {BL_ASK_QUICK, 6, THERE, {0, 1, 0, 0}, BL_ANSWER_RANGE},
        {BL_ASK_QUICK, 6, THERE, {0, 1, 0, 59}, BL_ANSWER_GOOD},
        {BL_ASK_REGISTERS, 0, THERE, {0}, BL_ANSWER_GOOD}, /* the breakpoint alone */
        {BL_ASK_SET_REGISTERS, 6, THERE, {0}, BL_ANSWER_MALFORMED},
        {BL_ASK_SET_REGISTERS, 26, THERE, {0}, BL_ANSWER_RANGE}, /* no program waits */
        {BL_ASK_HELLO, 0, THERE, {0}, BL_ANSWER_GOOD},
    };
    set_up(1);
    bl_serial port = sim_line_port(&sim.board_line);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        const uint16_t places[] = {(uint16_t)m->program, m->page_end, m->below, 0xFFFE};
        uint16_t at = places[all[i].where];
        bl_frame f = {.kind = all[i].kind,
                      .length = all[i].length,
                      .payload = {(uint8_t)at, (uint8_t)(at >> 8)}};
        memcpy(f.payload + 2, all[i].rest, sizeof all[i].rest);
        bool reached = all[i].where == TOP || (all[i].where == THERE && all[i].rest[0] == 1 &&
                                               all[i].code == BL_ANSWER_RANGE);
        if (m->far && reached) continue; /* tests/host/test_eyelet_far.c */
        CHECK_INT(bl_drive_ask(&port, &exchange, &f, 100000, 240), BL_OK);
        bool swift = all[i].kind == BL_ASK_POUR || all[i].kind == BL_ASK_QUICK;
        uint8_t code = swift && !m->swift ? BL_ANSWER_UNKNOWN : (uint8_t)all[i].code;
        if (exchange.answer.payload[0] != code)
            test_fail(__FILE__, __LINE__, "%s: request %zu was answered with %u, expected %u",
                      m->name, i, exchange.answer.payload[0], code);
    }
    tear_down();
}

/* Nanoseconds in which it answers a request for a sum of count bytes: of kind sums, or quick. */
static uint64_t sum_time(const bl_serial *port, uint8_t kind, unsigned count)
{
    bl_frame f = {.kind = kind,
                  .length = 6,
                  .payload = {(uint8_t)m->program, (uint8_t)(m->program >> 8), 0,
                              (uint8_t)(count & 0xFF), (uint8_t)(count >> 8), 1}};
    uint64_t began = sim.now;
    CHECK_INT(bl_drive_ask(port, &exchange, &f, 20000000, 240), BL_OK);
    CHECK_INT(exchange.answer.payload[0], BL_ANSWER_GOOD);
    return sim.now - began;
}

MACHINE_TEST(a_checksum_takes_no_longer_than_it_is_given)
{
    set_up(1);
    bl_serial port = sim_line_port(&sim.board_line);
    sim_bench_run(&sim, 1000u * 1000 * 1000); /* past its greeting */
    uint64_t few = sum_time(&port, BL_ASK_SUMS, 16), many = sum_time(&port, BL_ASK_SUMS, 1016);
    uint64_t one = (many - few) / 1000, max = eyelet_sum_ns(b);
    if (one > max || one < max / 10)
        test_fail(__FILE__, __LINE__, "%s: %lu ns a byte, said to be %lu at most", m->name,
                  (unsigned long)one, (unsigned long)max);
    if (m->swift) { /* 70 cycles a byte at most */
        few = sum_time(&port, BL_ASK_QUICK, 0x400), many = sum_time(&port, BL_ASK_QUICK, 0x1400);
        CHECK((many - few) / 0x1000 * b->clock / 1000000 < 70 * 1000);
    }
    tear_down();
}

/* Any place, any length, also odd ones, and rows of blocks: the firmware's sums are the library's.
 */
MACHINE_TEST(double_sums_are_those_of_the_library)
{
    set_up(1);
    bl_serial port = sim_line_port(&sim.board_line);
    sim_bench_run(&sim, 1000u * 1000 * 1000);
    for (unsigned turn = 0; turn < 60 && m->swift; turn++) {
        unsigned size = 1 + test_below(turn % 4 == 0 ? 1500 : 40), count = 1 + test_below(3);
        uint32_t first = m->program + test_below(1000);
        uint8_t same = (uint8_t)test_random(), kind = (uint8_t)test_below(3);
        for (uint32_t i = 0; i < size * count; i++)
            sim.board.ram[first + i] = kind == 0 ? 0xFF : kind == 1 ? same : (uint8_t)test_random();
        bl_frame f = {.kind = BL_ASK_QUICK,
                      .length = 6,
                      .payload = {(uint8_t)first, (uint8_t)(first >> 8), 0, (uint8_t)size,
                                  (uint8_t)(size >> 8), (uint8_t)count}};
        CHECK_INT(bl_drive_ask(&port, &exchange, &f, 2000000, 240), BL_OK);
        CHECK_INT(exchange.answer.length, 1 + 4 * count);
        for (unsigned k = 0; k < count; k++) {
            uint32_t found = bl_frame_number(exchange.answer.payload + 1 + 4 * k, 4),
                     sum = bl_double_sum(sim.board.ram + first + k * size, size);
            if (found != sum)
                test_fail(__FILE__, __LINE__, "%s, turn %u: %u bytes at %X: %08X, not %08X",
                          m->name, turn, size, first + k * size, found, sum);
        }
    }
    tear_down();
}

/* Damage that is a multiple of the FCS-16's generator: compared, it is found; sent, it is mended.
 */
MACHINE_TEST(what_the_lines_check_cannot_see_is_found_in_memory)
{
    set_up(1);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, COUNT, false, false), BL_OK);
    static const uint8_t pattern[] = {0x11, 0x08, 0x01};
    for (size_t i = 0; i < sizeof pattern; i++)
        sim.board.ram[m->program + 700 + i] ^= pattern[i];
    CHECK_INT(transfer(BL_GOAL_COMPARE, m->program, COUNT, false, false), BL_E_DIFFERS);
    CHECK_INT(job.result.differences, 3);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, COUNT, false, false), BL_OK);
    CHECK_INT(job.result.blocks_written, 1);
    CHECK_BYTES(sim.board.ram + m->program, COUNT, wanted, COUNT);
    tear_down();
}

/* A program that never polls, stores a byte and returns. */
MACHINE_TEST(a_program_runs_and_returns_to_the_monitor)
{
    enum { SIZE = sizeof m->returning };
    set_up(1);
    memcpy(wanted, m->returning, SIZE);
    CHECK_INT(transfer(BL_GOAL_WRITE, m->program, SIZE, true, false), BL_OK);
    CHECK_INT(sim.board.ram[m->program + 0x10], 0x5A);
    CHECK_INT(transfer(BL_GOAL_COMPARE, m->program, SIZE, false, true),
              BL_OK); /* it is back, and answers */
    CHECK(!job.result.resumed);
    tear_down();
}

static unsigned stack_pointer(void)
{
    const sim_cpu_kind *kind = sim.board.kind;
    for (size_t i = 0; i < kind->register_count; i++)
        if (strcmp(kind->registers[i].name, m->stack) == 0)
            return (unsigned)sim_register_get(&sim.board.cpu, &kind->registers[i]);
    test_fail(__FILE__, __LINE__, "no register %s", m->stack);
    return 0;
}

MACHINE_TEST(a_program_that_polls_goes_on_where_it_was)
{
    enum { SIZE = 44 }; /* the shortest of the programs */
    set_up(1);
    bl_image_copy(p->chips, m->rom_program, COUNT, 0xFF, wanted);
    sim_bench_run(&sim, 1000000000); /* it is running by now */
    unsigned stack = stack_pointer();
    for (unsigned i = 0; i < 40; i++) {
        CHECK_INT(transfer(BL_GOAL_COMPARE, m->rom_program, SIZE, false, true), BL_OK);
        CHECK(job.result.resumed);
        sim_bench_run(&sim, sim.now + 1000000u * test_below(700));
        int depth = (int)stack - (int)stack_pointer();
        CHECK(depth > -16 && depth < 16); /* the stack does not creep */
        CHECK_INT(bl_image_count(p->chips, (bl_range){sim.board.cpu.pc, 1}), 1); /* in the ROM */
    }
    unsigned changes = 0;
    const sim_device *lamp = &sim.board.devices[1];
    if (lamp->kind->lamps != NULL) { /* Skerry-24 has a display */
        for (uint8_t last = lamp->kind->lamps(lamp), i = 0; i < 160; i++) {
            sim_bench_run(&sim, sim.now + 50000000u);
            changes += lamp->kind->lamps(lamp) != last;
            last = lamp->kind->lamps(lamp);
        }
        CHECK(changes >= 4); /* two flashes in six seconds, three blasts in eight */
    }
    tear_down();
}

MACHINE_TEST(noise_never_passes_for_success)
{
    unsigned good = 0;
    for (uint64_t seed = 1; seed <= 6; seed++) {
        test_seed(seed);
        set_up(seed);
        if (seed % 2 == 0)
            sim.board_line.faults.lose_one_in = 300 + test_below(400);
        else
            sim.board_line.faults.flip_one_in = 1000 + test_below(4000);
        bl_status status = transfer(BL_GOAL_WRITE, m->program, 600, false, false);
        if (status == BL_OK) CHECK_BYTES(sim.board.ram + m->program, 600, wanted, 600);
        good += status == BL_OK;
        tear_down();
    }
    CHECK(good >= 5);
}

/* The PC's side is the same for all of them; each is cut at other places. */
MACHINE_TEST(a_cut_line_ends_in_an_error)
{
    for (uint64_t after = 50 + (uint64_t)(m - machines) * 53; after < 750; after += 211) {
        set_up(1);
        sim.board_line.faults.vanish_after = after;
        CHECK(transfer(BL_GOAL_WRITE, m->program, 600, false, false) != BL_OK);
        tear_down();
    }
}

/* Frames cut anywhere, garbage, typing: the monitor still answers the next request. */
MACHINE_TEST(garbage_does_not_lock_the_monitor)
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
        CHECK_INT(bl_drive_ask(&port, &exchange, &hello, 20000, 40), BL_OK);
        CHECK_INT(exchange.answer.payload[2], BL_WHO_EYELET);
    }
    tear_down();
}
