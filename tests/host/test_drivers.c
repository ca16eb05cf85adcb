/* The drivers of serial interfaces: every CPU that has an Eyelet with every chip that there is a
 * driver for, on boards that differ in nothing else. */
#include <stdio.h>
#include <string.h>

#include "bootlace/drive_frames.h"
#include "bootlace/drive_transport.h"
#include "eyelet.h"
#include "host_support.h"

enum { COUNT = 6000 };

typedef struct machine {
    const char *cpu, *clock, *areas, *place, *rom;
    uint32_t program;
    uint32_t fastest;  /* baud: the highest of the usual rates that Eyelet keeps up with */
    uint32_t by_bits;  /* the same where the program times the bits itself */
    uint8_t polls[12]; /* a program: call poll, jump back; the address of poll at byte 1 */
    uint8_t poll_count;
    bool big_endian;
} machine;

#define LOW                                                                                        \
    "  - {name: serial_zero, range: $0050..$005F, kind: ram}\n"                                    \
    "  - {name: eyelet_zero, range: $0000..$002F, kind: ram}\n"                                    \
    "  - {name: eyelet_vars, range: $0030..$004F, kind: ram}\n"                                    \
    "  - {name: stack, range: $0100..$01FF, kind: ram}\n"                                          \
    "  - {name: eyelet_page, range: $0200..$02FF, kind: ram}\n"                                    \
    "  - {name: program, range: $0300..$7FFF, kind: ram}\n"                                        \
    "  - {name: io, range: $8000..$80FF, kind: io}\n"
#define TOP  LOW "  - {name: eyelet, range: $F800..$FFFF, kind: rom}\n"
#define MORE LOW "  - {name: eyelet, range: $F700..$FFFF, kind: rom}\n"
#define AREAS(eyelet)                                                                              \
    "  - {name: eyelet, range: " eyelet ", kind: rom}\n"                                           \
    "  - {name: eyelet_vars, range: $8000..$801F, kind: ram}\n"                                    \
    "  - {name: eyelet_page, range: $8100..$81FF, kind: ram}\n"                                    \
    "  - {name: program, range: $8200..$EFFF, kind: ram}\n"                                        \
    "  - {name: io, range: $F000..$F0FF, kind: io}\n"                                              \
    "  - {name: stack, range: $FC00..$FFFF, kind: ram}\n"

#define HIGH      AREAS("$0000..$07FF")
#define HIGH_MORE AREAS("$0000..$08FF")

#define JSR_JMP(a) {0x20, 0, 0, 0x4C, (a)&0xFF, (a) >> 8}, 6, false
#define CALL_JP    {0xCD, 0, 0, 0xC3, 0x00, 0x82}, 6, false
#define JSR_JMP_68 {0xBD, 0, 0, 0x7E, 0x03, 0x00}, 6, true

static const machine machines[] = {
    {"65c02", "2 MHz", TOP, "at: $8000", "$E000..$FFFF", 0x0300, 115200, 19200, JSR_JMP(0x0300)},
    {"6502", "1 MHz", MORE, "at: $8000", "$E000..$FFFF", 0x0300, 57600, 4800, JSR_JMP(0x0300)},
    {"6800", "1 MHz", TOP, "at: $8000", "$E000..$FFFF", 0x0300, 38400, 4800, JSR_JMP_68},
    {"6809", "1 MHz", TOP, "at: $8000", "$E000..$FFFF", 0x0300, 57600, 4800, JSR_JMP_68},
    {"8080", "2 MHz", HIGH, "port: $10", "$0000..$1FFF", 0x8200, 38400, 4800, CALL_JP},
    {"8085", "3 MHz", HIGH_MORE, "at: $F000", "$0000..$1FFF", 0x8200, 57600, 4800, CALL_JP},
    {"z80", "4 MHz", HIGH, "port: $10", "$0000..$1FFF", 0x8200, 57600, 9600, CALL_JP},
    {"z80", "4 MHz", HIGH_MORE, "at: $F000", "$0000..$1FFF", 0x8200, 57600, 9600, CALL_JP},
};

typedef struct chip {
    const char *kind;
    unsigned divider; /* of a clock that is given; 0: it has its own */
    unsigned registers;
    uint32_t fastest; /* that the chip can do itself */
} chip;

static const chip chips[] = {
    {"acia-6551", 0, 4, 19200},    {"acia-6850", 16, 2, 115200},  {"acia-6850", 64, 2, 115200},
    {"uart-8250", 0, 8, 115200},   {"uart-16450", 0, 8, 115200},  {"uart-16550", 0, 8, 115200},
    {"usart-8251", 16, 2, 115200}, {"usart-8251", 64, 2, 115200}, {"z80-sio", 16, 4, 115200},
    {"z80-sio", 32, 4, 115200},    {"z80-sio", 64, 4, 115200},
};

static const machine *m;
static const chip *c;
static bench *b;
static project *p;
static simulation *s;

/* What times bits itself is larger. */
static const char *areas(void)
{
    if (strcmp(c->kind, "serial-bits") != 0) return m->areas;
    return m->program < 0x8000 ? MORE : HIGH_MORE;
}

static void set_up(uint32_t baud)
{
    char text[2500], clock[40] = "";
    if (c->divider != 0)
        snprintf(clock, sizeof clock, ", clock: %lu Hz", (unsigned long)baud * c->divider);
    snprintf(text, sizeof text,
             "bench: Drivers\ncpu: %s\nclock: %s\nareas:\n%sdevices:\n"
             "  - {name: serial, kind: %s, %s%s}\n"
             "chips:\n  - {name: U1, part: 28C64, maps: [{cpu: %s}]}\n"
             "link: {device: serial, baud: %lu}\nbuild:\n  - {firmware: eyelet, for: chips}\n",
             m->cpu, m->clock, areas(), c->kind, m->place, clock, m->rom, (unsigned long)baud);
    test_write_file("bench.yaml", text);
    test_messages_clear();
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    s = example_board(b, &p);
}

static void tear_down(void)
{
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

static bl_transfer_result result;

static bl_status send(const uint8_t *bytes, size_t count, bool run)
{
    static bl_transfer job;
    static bl_exchange exchange;
    bl_piece piece = {m->program, count, bytes};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 128,
                             .region = 2048,
                             .who = BL_WHO_EYELET,
                             .run = run,
                             .entry = m->program,
                             .sum_ns = 150000};
    bl_serial port = sim_line_port(&s->sim.board_line);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_exchange_begin(&exchange, b->link_baud);
    bl_status status = bl_drive_transfer(&port, &exchange, &job, NULL);
    result = job.result;
    bl_transfer_end(&job);
    return status;
}

/* Sends, proves, runs a program that polls, sends it changed: what every evening does. */
static void an_evening(uint32_t baud)
{
    static uint8_t bytes[COUNT];
    int64_t poll;
    set_up(baud);
    for (size_t i = 0; i < COUNT; i++)
        bytes[i] = (uint8_t)test_random();
    memcpy(bytes, m->polls, m->poll_count);
    CHECK_INT(bl_program_value(p->pieces[0].program, (bl_text){"poll", 4}, &poll), BL_OK);
    bytes[1] = (uint8_t)(m->big_endian ? poll >> 8 : poll);
    bytes[2] = (uint8_t)(m->big_endian ? poll : poll >> 8);
    uint64_t began = s->sim.now;
    if (send(bytes, COUNT, true) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s, %s at %lu baud", m->cpu, c->kind, (unsigned long)baud);
    double took = (double)(s->sim.now - began) / 1e9;
    CHECK_BYTES(s->sim.board.ram + m->program, COUNT, bytes, COUNT);
    CHECK_INT(result.bytes_proved, COUNT);
    CHECK(took < 60);
    for (unsigned k = 0; k < 3; k++) {
        bytes[1000 + k * 100] ^= 0xFF;
        CHECK_INT(send(bytes, COUNT, true), BL_OK);
        CHECK_BYTES(s->sim.board.ram + m->program, COUNT, bytes, COUNT);
    }
    tear_down();
}

TEST(every_cpu_with_every_chip)
{
    for (m = machines; m < machines + sizeof machines / sizeof machines[0]; m++)
        for (c = chips; c < chips + sizeof chips / sizeof chips[0]; c++)
            an_evening(9600);
}

/* The table of docs/serial.md: at these rates the line is well used, and nothing is sent twice. */
TEST(the_highest_rate_of_each)
{
    for (m = machines; m < machines + sizeof machines / sizeof machines[0]; m++)
        for (c = chips; c < chips + sizeof chips / sizeof chips[0]; c++) {
            static uint8_t bytes[COUNT];
            set_up(m->fastest < c->fastest ? m->fastest : c->fastest);
            for (size_t k = 0; k < COUNT; k++)
                bytes[k] = (uint8_t)test_random();
            uint64_t began = s->sim.now;
            CHECK_INT(send(bytes, COUNT, false), BL_OK);
            double took = (double)(s->sim.now - began) / 1e9,
                   share = COUNT * 10.0 / b->link_baud / took;
            if (share < 0.6)
                test_fail(__FILE__, __LINE__, "%s, %s at %lu baud: %.3f of the line", m->cpu,
                          c->kind, (unsigned long)b->link_baud, share);
            tear_down();
        }
}

static void refused(const char *kind, const char *more, const char *message)
{
    char text[2500];
    bench *none = NULL;
    project *nothing = NULL;
    snprintf(text, sizeof text,
             "bench: Drivers\ncpu: 65c02\nclock: 2 MHz\nareas:\n" TOP "devices:\n"
             "  - {name: serial, kind: %s, at: $8000%s}\n"
             "chips:\n  - {name: U1, part: 28C64, maps: [{cpu: $E000..$FFFF}]}\n"
             "link: {device: serial, baud: 9600}\nbuild:\n  - {firmware: eyelet, for: chips}\n",
             kind, more);
    test_write_file("bench.yaml", text);
    test_messages_clear();
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &none) == BL_OK) {
        CHECK(project_build(none, PROJECT_CHIPS, NULL, &test_sink, &nothing) != BL_OK);
        bench_close(none);
    }
    CHECK_CONTAINS(test_messages(), message);
}

/* The table of docs/serial.md from the other side: what Eyelet loses bytes at is not built. */
TEST(a_line_that_is_too_fast_for_eyelet)
{
    static const struct {
        const char *cpu, *clock, *baud, *works;
    } all[] = {{"65c02", "1 MHz", "115200", "57600"},
               {"65c02", "1.8432 MHz", "230400", "115200"},
               {"6809", "1 MHz", "115200", "57600"},
               {"6800", "1 MHz", "57600", "38400"},
               {"6502", "1 MHz", "76800", "57600"}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        char text[2500], expected[100];
        bench *none = NULL;
        project *nothing = NULL;
        snprintf(text, sizeof text,
                 "bench: Fast\ncpu: %s\nclock: %s\nareas:\n" MORE "devices:\n"
                 "  - {name: serial, kind: uart-16550, at: $8000, clock: 14.7456 MHz}\n"
                 "chips:\n  - {name: U1, part: 28C64, maps: [{cpu: $E000..$FFFF}]}\n"
                 "link: {device: serial, baud: %s}\nbuild:\n  - {firmware: eyelet, for: chips}\n",
                 all[i].cpu, all[i].clock, all[i].baud);
        test_write_file("bench.yaml", text);
        test_messages_clear();
        CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &none),
                  BL_OK);
        CHECK(project_build(none, PROJECT_CHIPS, NULL, &test_sink, &nothing) != BL_OK);
        bench_close(none);
        snprintf(expected, sizeof expected, "the fastest usual rate that works is %s baud",
                 all[i].works);
        CHECK_CONTAINS(test_messages(), expected);
    }
}

TEST(a_clock_that_gives_no_such_rate)
{
    refused("acia-6850", "", "device 'serial' needs a clock: its rate comes from it");
    refused("acia-6850", ", clock: 1 MHz", "a 6850 makes its clock divided by 16 or 64");
    refused("acia-6850", ", clock: 307.2 kHz", "a 6850 makes its clock divided by 16 or 64");
    refused("usart-8251", ", clock: 2 MHz", "an 8251 makes its clock divided by 16 or 64");
    refused("z80-sio", ", clock: 2 MHz", "divided by 16, 32 or 64");
    refused("uart-16550", ", clock: 50 kHz", "gives no such rate");
    refused("uart-16550", ", clock: 400 kHz", "gives no rate within 2 %");
    refused("acia-6551", ", clock: 1.8432 MHz", "a 'acia-6551' has no clock of its own");
    refused("latch", "", "no driver for device 'serial', a latch");
}

/* Without a chip the program times the bits itself. */
TEST(every_cpu_without_a_chip)
{
    static const chip bits = {"serial-bits", 0, 1, 0};
    static uint8_t bytes[COUNT];
    c = &bits;
    for (m = machines; m < machines + sizeof machines / sizeof machines[0]; m++) {
        set_up(m->by_bits);
        for (size_t k = 0; k < COUNT; k++)
            bytes[k] = (uint8_t)test_random();
        uint64_t began = s->sim.now;
        CHECK_INT(send(bytes, COUNT, false), BL_OK);
        double took = (double)(s->sim.now - began) / 1e9,
               share = COUNT * 10.0 / b->link_baud / took;
        if (share < 0.8)
            test_fail(__FILE__, __LINE__, "%s at %lu baud: %.3f of the line", m->cpu,
                      (unsigned long)b->link_baud, share);
        CHECK_BYTES(s->sim.board.ram + m->program, COUNT, bytes, COUNT);
        tear_down();
    }
}

/* At two pins of a port, beside outputs of others, which stay as they are. */
TEST(two_pins_of_a_port_are_the_line)
{
    static const chip bits = {"serial-bits", 0, 1, 0};
    static uint8_t bytes[500];
    c = &bits, m = machines;
    set_up(9600);
    tear_down();
    char text[3000], *at;
    snprintf(text, sizeof text, "%s", test_read_file("bench.yaml", NULL));
    at = strstr(text, "kind: serial-bits, at: $8000}");
    CHECK(at != NULL);
    char rest[3000];
    snprintf(rest, sizeof rest, "%s", at + strlen("kind: serial-bits, at: $8000}"));
    snprintf(at, sizeof text - (size_t)(at - text), "%s%s",
             "kind: serial-bits, wires: {tx: via.pb4, rx: via.pb1}}\n"
             "  - {name: via, kind: via-6522, at: $8010}",
             rest);
    test_write_file("bench.yaml", text);
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    s = example_board(b, &p);
    CHECK_INT(sim_board_poke(&s->sim.board, 0x8012, 0x1C), true); /* its own pin, and two more */
    CHECK_INT(sim_board_poke(&s->sim.board, 0x8010, 0x18), true);
    CHECK_INT(send(bytes, sizeof bytes, false), BL_OK);
    CHECK_INT(s->sim.board.devices[1].kind->read(&s->sim.board.devices[1], s->sim.now, 0) & 0x0C,
              0x08);
    tear_down();
}
