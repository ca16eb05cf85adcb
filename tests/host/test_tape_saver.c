/* Savers: memory of a simulated board onto a cassette, and what is on it then. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "host_support.h"
#include "sim/deck.h"
#include "sim/device/cassette.h"
#include "sim/sim_panel.h"
#include "tape/tape_programs.h"

enum { FIRST = 0x1001, COUNT = 700, RATE = 44100, STUB = 0x0E00, SECONDS = 40 };

/* How a CPU calls the saver at $0400 and stays where it is then. */
static const struct caller {
    const char *cpu, *clock, *data;
    unsigned first; /* offset of save_first from the begin of its data */
    bool high_first;
    uint8_t bytes[12];
} callers[] = {
    {"65c02", "1 MHz", "saver_zero", 0, false, {0x20, 0x00, 0x04, 0x4C, 0x03, 0x0E}},
    {"6800", "1 MHz", "saver_zero", 0, true, {0x8E, 0x01, 0xFF, 0xBD, 0x04, 0x00, 0x20, 0xFE}},
    {"6809",
     "1 MHz",
     "saver_zero",
     0,
     true,
     {0x10, 0xCE, 0x01, 0xFF, 0xBD, 0x04, 0x00, 0x20, 0xFE}},
    {"8080",
     "2 MHz",
     "saver_data",
     5,
     false,
     {0x31, 0x00, 0x02, 0xCD, 0x00, 0x04, 0xC3, 0x06, 0x0E}},
    {"8085",
     "3 MHz",
     "saver_data",
     5,
     false,
     {0x31, 0x00, 0x02, 0xCD, 0x00, 0x04, 0xC3, 0x06, 0x0E}},
    {"z80",
     "2500 kHz",
     "saver_data",
     5,
     false,
     {0x31, 0x00, 0x02, 0xCD, 0x00, 0x04, 0xC3, 0x06, 0x0E}},
};

static bench *bench_for(const struct caller *c)
{
    char text[900];
    bench *b;
    bool ports = c->cpu[0] == '8' || c->cpu[0] == 'z';
    snprintf(text, sizeof text,
             "bench: Skerry-Tape\ncpu: %s\nclock: %s\nareas:\n"
             "  - {name: %s, range: $00B0..$00CF, kind: ram}\n"
             "  - {name: saver, range: $0400..$05FF, kind: ram}\n"
             "  - {name: stack, range: $0100..$01FF, kind: ram}\n"
             "  - {name: program, range: $0E00..$1FFF, kind: ram}\n"
             "  - {name: io, range: $8000..$80FF, kind: io}\n"
             "devices:\n  - {name: cassette, kind: cassette, %s}\n"
             "tape: {baud: 600}\nbuild:\n  - {firmware: tape-saver, for: ram}\n",
             c->cpu, c->clock, c->data, ports ? "port: $20" : "at: $8020");
    test_write_file("bench.yaml", text);
    test_messages_clear();
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return b;
}

static void put_address(uint8_t *at, uint16_t address, bool high_first)
{
    at[high_first ? 1 : 0] = (uint8_t)address, at[high_first ? 0 : 1] = (uint8_t)(address >> 8);
}

/* Lets the board save COUNT bytes, and gives what was recorded. */
static void save(const struct caller *c, const bench *b, sim_tape *tape, uint8_t *memory)
{
    static sim_bench sim;
    sim_deck deck;
    project *p = NULL;
    if (project_build(b, PROJECT_FIRMWARE, NULL, &test_sink, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    sim_bench_begin(&sim, sim_cpu_kind_for(c->cpu, strlen(c->cpu)), b->clock, b->areas,
                    b->area_count, NULL, NULL, 0, b->link_baud, 115200, 1);
    simulation_add_devices(&sim, b);
    sim_deck_begin(&deck, 5);
    deck.ear = false, deck.microphone = true;
    sim_deck_insert(&deck, tape);
    sim_board_device(&sim.board, &sim_cassette_kind)->deck = &deck;
    sim_bench_power_on(&sim);
    uint8_t *ram = sim.board.ram, *data = ram + 0xB0 + c->first;
    bl_image_copy(bl_program_image(p->pieces[0].program), 0x0400, 0x200, 0, ram + 0x0400);
    for (unsigned i = 0; i < COUNT; i++)
        ram[FIRST + i] = memory[i] = (uint8_t)test_random();
    put_address(data, FIRST, c->high_first);
    put_address(data + 2, FIRST + COUNT - 1, c->high_first);
    ram[c->first == 0 ? 0xB4 : 0xB1] = 9; /* the number */
    sim_panel at;
    sim_panel_begin(&at, &sim.board);
    bl_front_panel port = sim_panel_port(&at);
    bl_image *stub;
    bl_panel_entry entry;
    CHECK_INT(bl_image_open(&test_memory, &stub), BL_OK);
    CHECK_INT(bl_image_put(stub, STUB, c->bytes, sizeof c->bytes, (bl_origin){0, 0}), BL_OK);
    bl_panel panel = {.image = stub, .sheet = b->sheet, .radix = BL_HEX, .group = 4};
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_OK);
    bl_image_close(stub);
    bl_panel_run(&port, STUB);
    sim.now = sim_board_now(&sim.board);
    sim_deck_press(&deck, SIM_DECK_RECORDING, sim.now);
    sim_bench_run(&sim, sim.now + (uint64_t)SECONDS * 1000000000);
    sim_deck_press(&deck, SIM_DECK_STOPPED, sim.now);
    project_close(p);
}

typedef struct heard {
    take *t;
} heard;

static void keep_byte(void *context, const bl_tape_byte *byte)
{
    heard *h = context;
    g_array_append_vals(h->t->bytes, byte, 1);
}

static void expect_saved(const struct caller *c)
{
    bench *b = bench_for(c);
    uint8_t memory[COUNT];
    sim_tape tape = {.rate = RATE, .room = (size_t)RATE * (SECONDS + 1)};
    tape.samples = calloc(tape.room, sizeof *tape.samples);
    save(c, b, &tape, memory);
    heard h = {g_new0(take, 1)};
    h.t->bytes = g_array_new(FALSE, FALSE, sizeof(bl_tape_byte));
    bl_demodulator *d;
    bl_demodulator_config config = {.rate = RATE, .keyings = &b->tape.keying, .count = 1};
    CHECK_INT(
        bl_demodulator_open(&host_memory, &config, (bl_tape_listener){&h, keep_byte, NULL}, &d),
        BL_OK);
    bl_demodulator_feed(d, tape.samples, tape.count);
    bl_demodulator_end(d);
    bl_demodulator_close(d);
    GPtrArray *programs = tape_programs_find(&h.t, 1);
    CHECK_INT(programs->len, 1);
    const tape_program *p = g_ptr_array_index(programs, 0);
    CHECK(p->outcome == TAPE_PROVEN && p->number == 9 && p->data == 3 && p->head.no_crc);
    CHECK_BYTES(p->bytes->data, p->bytes->len, memory, COUNT);
    CHECK_INT(bl_image_piece(p->image, 0).first, FIRST);
    g_ptr_array_unref(programs);
    take_close(h.t);
    free(tape.samples);
    bench_close(b);
}
#define expect_saved(...) TEST_CALL(expect_saved(__VA_ARGS__))

TEST(savers_write_what_can_be_read)
{
    for (size_t i = 0; i < BL_COUNT(callers); i++)
        expect_saved(&callers[i]);
}
