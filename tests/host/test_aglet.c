/* Aglet on simulated boards that have nothing in their memory: toggled in, then used to send
 * Eyelet, then a program. */
#include <stdio.h>
#include <string.h>

#include "bootlace/drive_frames.h"
#include "bootlace/drive_remote.h"
#include "host_support.h"
#include "sim/sim_panel.h"

/* A board of RAM and a serial interface for each CPU that has an Aglet. */
typedef struct bare {
    const char *cpu, *clock, *device, *areas;
    bool eyelet; /* there is one, too */
} bare;

#define MEMORY                                                                                     \
    "  - {name: aglet_zero, range: $0000..$000F, kind: ram}\n"                                     \
    "  - {name: eyelet_zero, range: $0010..$003F, kind: ram}\n"                                    \
    "  - {name: stack, range: $0100..$01FF, kind: ram}\n"                                          \
    "  - {name: eyelet_page, range: $0200..$02FF, kind: ram}\n"                                    \
    "  - {name: aglet, range: $0300..$03AF, kind: ram}\n"                                          \
    "  - {name: program, range: $0400..$7FFF, kind: ram}\n"                                        \
    "  - {name: io, range: $8000..$80FF, kind: io}\n"
#define PORTS                                                                                      \
    "  - {name: eyelet, range: $0000..$04FF, kind: ram}\n"                                         \
    "  - {name: low, range: $0500..$7FFF, kind: ram}\n"                                            \
    "  - {name: program, range: $8200..$FBFF, kind: ram}\n"                                        \
    "  - {name: aglet, range: $8000..$807F, kind: ram}\n"                                          \
    "  - {name: eyelet_vars, range: $8080..$809F, kind: ram}\n"                                    \
    "  - {name: eyelet_page, range: $8100..$81FF, kind: ram}\n"                                    \
    "  - {name: stack, range: $FC00..$FFFF, kind: ram}\n"

static const bare boards[] = {
    {"65c02", "2 MHz", "at: $8000", MEMORY "  - {name: eyelet, range: $F800..$FFFF, kind: ram}\n",
     true},
    {"6809", "1 MHz", "at: $8000",
     MEMORY "  - {name: eyelet_vars, range: $0040..$005F, kind: ram}\n"
            "  - {name: eyelet, range: $F800..$FFFF, kind: ram}\n",
     true},
    {"6502", "1 MHz", "at: $8000", MEMORY "  - {name: eyelet, range: $F700..$FFFF, kind: ram}\n",
     true},
    {"6800", "1 MHz", "at: $8000", MEMORY, false},
    {"8080", "2 MHz", "port: $10", PORTS, true},
    {"8085", "3 MHz", "port: $10", PORTS, true},
    {"z80", "4 MHz", "port: $10", PORTS, true},
};
static const bare *m;
/* What is at the line, and its rate. */
static const char *chip = "acia-6551", *rate = "19200";

#define BOARD_TEST(name)                                                                           \
    static void name##_here(void);                                                                 \
    TEST(name)                                                                                     \
    {                                                                                              \
        for (m = boards; m < boards + sizeof boards / sizeof boards[0]; m++)                       \
            name##_here();                                                                         \
    }                                                                                              \
    static void name##_here(void)

static bench *b;
static project *p;
static sim_bench sim;

static bl_image *image_of(size_t piece)
{
    return bl_program_image(p->pieces[piece].program);
}

/* Switched on, with what chance has left in its memory, and Aglet toggled in and running. */
static void set_up(uint64_t seed)
{
    char text[2500];
    snprintf(text, sizeof text,
             "bench: Bare\ncpu: %s\nclock: %s\nareas:\n%sdevices:\n"
             "  - {name: serial, kind: %s, %s}\nlink: {device: serial, baud: %s}\n"
             "build:\n  - {firmware: aglet, for: ram}\n%s",
             m->cpu, m->clock, m->areas, chip, m->device, rate,
             m->eyelet ? "  - {firmware: eyelet, for: ram}\n" : "");
    test_write_file("bench.yaml", text);
    test_messages_clear();
    b = NULL;
    p = NULL;
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK ||
        project_build(b, PROJECT_ALL, NULL, &test_sink, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    sim_bench_begin(&sim, sim_cpu_kind_for(m->cpu, strlen(m->cpu)), b->clock, b->areas,
                    b->area_count, NULL, NULL, 0, b->link_baud, 115200, seed);
    simulation_add_devices(&sim, b);
    sim_bench_power_on(&sim);
    sim_panel at;
    sim_panel_begin(&at, &sim.board);
    bl_front_panel port = sim_panel_port(&at);
    bl_panel panel = {.image = image_of(0), .sheet = b->sheet, .radix = BL_HEX, .group = 4};
    bl_panel_entry entry;
    uint32_t start;
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_OK);
    CHECK(bl_image_entry(image_of(0), &start));
    bl_panel_run(&port, start);
    sim.now = sim_board_now(&sim.board);
}

static void tear_down(void)
{
    project_close(p);
    bench_close(b);
}

static bl_transfer job;

static bl_status send(const bl_piece *pieces, size_t count, bool run, uint32_t entry)
{
    static bl_remote_words words;
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = pieces,
                             .piece_count = count,
                             .block = 64,
                             .who = BL_WHO_EYELET,
                             .run = run,
                             .entry = entry};
    bl_remote far = {.method = BL_METHOD_ACKED, .baud = b->link_baud};
    bl_serial port = sim_line_port(&sim.board_line);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_remote(&port, &far, &job, NULL, &words);
    bl_transfer_end(&job);
    return status;
}

BOARD_TEST(aglet_is_small)
{
    set_up(1);
    uint64_t size = bl_image_size(image_of(0));
    CHECK(size > 40 && size <= 80);
    tear_down();
}

/* Every length around the ends of rows, at an odd place; nothing before or behind is touched. */
BOARD_TEST(aglet_stores_exactly_what_is_sent)
{
    static const size_t counts[] = {1, 2, 254, 255, 256, 510, 511, 1000};
    static uint8_t bytes[1000];
    set_up(2);
    for (size_t i = 0; i < sizeof counts / sizeof counts[0]; i++) {
        size_t n = counts[i];
        uint16_t at = (uint16_t)(0x1001 + i);
        for (size_t k = 0; k < n; k++)
            bytes[k] = (uint8_t)test_random();
        sim.board.ram[at - 1] = 0x5A;
        sim.board.ram[at + n] = 0xA5;
        bl_piece piece = {at, n, bytes};
        CHECK_INT(send(&piece, 1, false, 0), BL_OK);
        CHECK_BYTES(sim.board.ram + at, n, bytes, n);
        CHECK_INT(sim.board.ram[at - 1], 0x5A);
        CHECK_INT(sim.board.ram[at + n], 0xA5);
        CHECK_INT(job.result.proved_by, BL_PROOF_ANSWERS);
        CHECK_INT(job.result.bytes_proved, n);
    }
    tear_down();
}

/* One byte each way is two byte times; a twentieth more is allowed to the 65C02. */
BOARD_TEST(aglet_is_as_fast_as_one_byte_each_way)
{
    static uint8_t bytes[4096];
    set_up(3);
    for (size_t k = 0; k < sizeof bytes; k++)
        bytes[k] = (uint8_t)test_random();
    bl_piece piece = {0x1000, sizeof bytes, bytes};
    uint64_t began = sim.now;
    CHECK_INT(send(&piece, 1, false, 0), BL_OK);
    double ideal = 2.0 * sizeof bytes * 10 / b->link_baud;
    double took = (double)(sim.now - began) / 1e9;
    if (took > ideal * (m == boards ? 1.05 : 1.10))
        test_fail(__FILE__, __LINE__, "%s: %.3f times", m->cpu, took / ideal);
    tear_down();
}

/* A bad line may make an end of it, and must not make wrong bytes. */
BOARD_TEST(aglet_on_a_bad_line)
{
    static uint8_t bytes[100];
    unsigned whole = 0, turns = 170;
    set_up(4);
    sim.board_line.faults.flip_one_in = 1000;
    sim.board_line.faults.lose_one_in = 1000;
    for (unsigned turn = 0; turn < turns; turn++) {
        size_t n = 1 + test_below(sizeof bytes);
        for (size_t k = 0; k < n; k++)
            bytes[k] = (uint8_t)test_random();
        bl_piece piece = {0x1000 + test_below(0x1000), n, bytes};
        if (send(&piece, 1, false, 0) != BL_OK) continue;
        CHECK_BYTES(sim.board.ram + piece.first, n, bytes, n);
        whole++;
    }
    CHECK(whole > turns * 9 / 10);
    tear_down();
}

/* What is no RAM answers with another sum, and does not pass. */
TEST(aglet_tells_memory_that_does_not_keep)
{
    static const uint8_t bytes[] = {1, 2, 3};
    m = boards;
    set_up(5);
    bl_piece piece = {0x9000, sizeof bytes, bytes}; /* nothing is there */
    CHECK_INT(send(&piece, 1, false, 0), BL_E_LINE);
    tear_down();
}

BOARD_TEST(aglet_pulls_in_eyelet_and_eyelet_the_rest)
{
    static uint8_t bytes[700];
    bl_piece pieces[8];
    uint32_t entry;
    if (!m->eyelet) return;
    set_up(6);
    bl_image *eyelet = image_of(1);
    size_t count = bl_image_pieces(eyelet);
    CHECK(count <= 8);
    for (size_t i = 0; i < count; i++)
        pieces[i] = bl_image_piece(eyelet, i);
    CHECK(bl_image_entry(eyelet, &entry));
    CHECK_INT(send(pieces, count, true, entry), BL_OK);
    CHECK(!job.result.run_doubted);

    for (size_t k = 0; k < sizeof bytes; k++)
        bytes[k] = (uint8_t)test_random();
    uint32_t at = m->device[0] == 'p' ? 0x9000 : 0x1000; /* behind Eyelet's own */
    bl_piece program = {at, sizeof bytes, bytes};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &program,
                             .piece_count = 1,
                             .block = 128,
                             .region = 1024,
                             .who = BL_WHO_EYELET,
                             .sum_ns = 1000000};
    bl_serial port = sim_line_port(&sim.board_line);
    bl_exchange x;
    bl_exchange_begin(&x, b->link_baud);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    CHECK_INT(bl_drive_transfer(&port, &x, &job, NULL), BL_OK);
    bl_transfer_end(&job);
    CHECK_CONTAINS(job.result.name, "Eyelet");
    CHECK_BYTES(sim.board.ram + at, sizeof bytes, bytes, sizeof bytes);
    tear_down();
}

/* With every interface that there is a driver for: what differs is how it is set up. */
TEST(aglet_with_every_interface)
{
    static const char *const chips[][2] = {{"acia-6850, clock: 307.2 kHz", "19200"},
                                           {"uart-8250", "19200"},
                                           {"uart-16550", "19200"},
                                           {"usart-8251, clock: 1.2288 MHz", "19200"},
                                           {"z80-sio, clock: 614.4 kHz", "19200"},
                                           {"acia-6551", "19200"}};
    static const uint8_t bytes[] = {0x00, 0x5A, 0xA5, 0xFF, 0x7E};
    for (size_t i = 0; i < sizeof chips / sizeof chips[0]; i++) {
        chip = chips[i][0], rate = chips[i][1];
        for (m = boards; m < boards + sizeof boards / sizeof boards[0]; m++) {
            set_up(7);
            bl_piece piece = {0x1001, sizeof bytes, bytes};
            if (send(&piece, 1, false, 0) != BL_OK)
                test_fail(__FILE__, __LINE__, "%s with %s", m->cpu, chip);
            CHECK_BYTES(sim.board.ram + 0x1001, sizeof bytes, bytes, sizeof bytes);
            tear_down();
        }
    }
}
