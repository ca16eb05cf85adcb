/* First-stage loaders: blocks from a cassette into the memory of a simulated board. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "host_support.h"
#include "sim/deck.h"
#include "sim/device/cassette.h"
#include "sim/sim_panel.h"
#include "tape/tape_plan.h"
#include "tape/tape_stage.h"

enum { FIRST = 0x0800, RATE = 44100 };

static bench *b;
static project *p;
static sim_bench sim;
static sim_deck deck;
static sim_tape cassette;
static bl_image *meant;

static bl_status onto_tape(void *context, const int32_t *samples, size_t count)
{
    sim_tape *t = context;
    for (size_t i = 0; i < count; i++)
        t->samples[t->count++] = (int16_t)(samples[i] / 65536);
    return BL_OK;
}

/* What shows $5A and goes on for ever, for each kind of CPU. */
static const struct code {
    const char *cpu;
    uint8_t bytes[10];
} codes[] = {
    {"6502", {0xA9, 0x5A, 0x8D, 0x10, 0x80, 0x4C, 0x05, 0x08}},
    {"65c", {0xA9, 0x5A, 0x8D, 0x10, 0x80, 0x4C, 0x05, 0x08}},
    {"z80", {0x3E, 0x5A, 0xD3, 0x10, 0xC3, 0x04, 0x08}},
    {"808", {0x3E, 0x5A, 0xD3, 0x10, 0xC3, 0x04, 0x08}},
    {"680", {0x86, 0x5A, 0xB7, 0x80, 0x10, 0x20, 0xFE}},
};

/* A program of some repeats and some chance, so that packing has both to do. */
static void make_program(const char *cpu, size_t count)
{
    uint8_t *bytes = malloc(count);
    for (size_t i = 0; i < count; i++)
        bytes[i] = (uint8_t)(i % 97 < 40 ? i % 7 : test_random());
    memset(bytes + count / 2, 0, count / 4);
    for (size_t i = 0; i < BL_COUNT(codes); i++)
        if (strncmp(cpu, codes[i].cpu, strlen(codes[i].cpu)) == 0)
            memcpy(bytes, codes[i].bytes, sizeof codes[i].bytes);
    CHECK_INT(bl_image_open(&test_memory, &meant), BL_OK);
    CHECK_INT(bl_image_put(meant, FIRST, bytes, count, (bl_origin){0, 0}), BL_OK);
    bl_image_set_entry(meant, FIRST);
    free(bytes);
}

/* The cassette has the program in blocks, after a leader. */
static void record_program(bool packs)
{
    tape_plan plan;
    bl_modulator m;
    tape_item item = {.name = "buoy", .number = 1, .image = meant};
    tape_plan_begin(&plan, &b->tape.keying);
    plan.clock = b->clock;
    if (packs) plan.keying.stop_bits = 1; /* as on staged tapes */
    tape_plan_rest(&plan, 1000);
    tape_plan_blocks(&plan, &item, packs);
    tape_plan_rest(&plan, 500);
    cassette =
        (sim_tape){.rate = RATE, .room = (size_t)(plan.length / 1000 * RATE / 1000000) + RATE};
    cassette.samples = calloc(cassette.room, sizeof *cassette.samples);
    CHECK_INT(bl_modulator_begin(&m, &plan.keying, RATE, BL_WAVE_SINE, 500,
                                 (bl_sample_sink){&cassette, onto_tape}),
              BL_OK);
    CHECK_INT(tape_plan_play(&plan, &m), BL_OK);
    tape_plan_end(&plan);
}

/* A board of a CPU with the loader in RAM, started; tape: the section of the bench file. */
static void set_up(const char *cpu, const char *clock, const char *tape, bool unpacks)
{
    char text[1500];
    bool ports = cpu[0] == '8' || cpu[0] == 'z';
    const char *cassette_at = ports ? "port: $20" : "at: $8020",
               *lamps_at = ports ? "port: $10" : "at: $8010";
    snprintf(text, sizeof text,
             "bench: Skerry-Tape\ncpu: %s\nclock: %s\nareas:\n"
             "  - {name: %s, range: $00C0..$00DF, kind: ram}\n"
             "  - {name: stack,       range: $0100..$01FF, kind: ram}\n"
             "  - {name: loader_page, range: $0200..$0306, kind: ram}\n"
             "  - {name: loader,      range: $0400..$057F, kind: ram}\n"
             "  - {name: program,     range: $0800..$7FFF, kind: ram}\n"
             "  - {name: io,          range: $8000..$80FF, kind: io}\n"
             "devices:\n  - {name: cassette, kind: cassette, %s}\n"
             "  - {name: lamps, kind: latch, %s}\n%s%s"
             "build:\n  - {firmware: tape-loader, for: ram}\n",
             cpu, clock, !ports ? "loader_zero" : "loader_data", cassette_at, lamps_at,
             unpacks ? "define: {UNPACKS: 1}\n" : "", tape);
    test_write_file("bench.yaml", text);
    test_messages_clear();
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    if (project_build(b, PROJECT_FIRMWARE, NULL, &test_sink, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    sim_bench_begin(&sim, sim_cpu_kind_for(cpu, strlen(cpu)), b->clock, b->areas, b->area_count,
                    NULL, NULL, 0, b->link_baud, 115200, 1);
    simulation_add_devices(&sim, b);
    sim_deck_begin(&deck, 5);
    sim_board_device(&sim.board, &sim_cassette_kind)->deck = &deck;
    sim_bench_power_on(&sim);
    sim_panel at;
    sim_panel_begin(&at, &sim.board);
    bl_front_panel port = sim_panel_port(&at);
    bl_image *loader = bl_program_image(p->pieces[0].program);
    bl_panel panel = {.image = loader, .sheet = b->sheet, .radix = BL_HEX, .group = 4};
    bl_panel_entry entry;
    uint32_t start;
    CHECK(bl_image_entry(loader, &start));
    CHECK(bl_image_size(loader) <= (unpacks ? 384 : 256));
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_OK);
    bl_panel_run(&port, start);
    sim.now = sim_board_now(&sim.board);
}

static void tear_down(void)
{
    bl_image_close(meant);
    free(cassette.samples);
    meant = NULL, cassette.samples = NULL;
    project_close(p);
    bench_close(b);
}

static uint8_t lamps(void)
{
    for (size_t i = 0; i < sim.board.device_count; i++)
        if (sim.board.devices[i].kind->lamps != NULL)
            return sim.board.devices[i].kind->lamps(&sim.board.devices[i]);
    return 0;
}

/* Plays the cassette from its begin to its end. */
static void play(void)
{
    sim_deck_wind(&deck, 0, sim.now);
    CHECK(sim_deck_press(&deck, SIM_DECK_PLAYING, sim.now));
    uint64_t length = cassette.room * (uint64_t)1000000000 / RATE;
    sim_bench_run(&sim, sim.now + length * 1000 / deck.speed + 1000000);
}

/* How many bytes in memory are not what they should be. */
static size_t wrong_bytes(void)
{
    bl_piece piece = bl_image_piece(meant, 0);
    size_t wrong = 0;
    for (size_t i = 0; i < piece.count; i++)
        wrong += sim.board.ram[piece.first + i] != piece.bytes[i];
    return wrong;
}

static void expect_loaded(const char *cpu, const char *clock, const char *tape, bool packs,
                          size_t count, uint16_t speed)
{
    set_up(cpu, clock, tape, packs);
    make_program(cpu, count);
    record_program(packs);
    sim_deck_insert(&deck, &cassette);
    deck.speed = speed;
    memset(sim.board.ram + FIRST, 0xEE, count);
    play();
    CHECK_INT(wrong_bytes(), 0);
    CHECK_INT(lamps(), 0x5A); /* it was started */
    tear_down();
}
#define expect_loaded(...) TEST_CALL(expect_loaded(__VA_ARGS__))

TEST(a_loader_of_256_bytes_loads_and_starts)
{
    expect_loaded("6502", "1 MHz", "tape: {baud: 300}\n", false, 700, 1000);
    expect_loaded("65c02", "2 MHz", "tape: {baud: 600}\n", false, 1000, 1000);
    expect_loaded("65c02", "2 MHz", "tape: {baud: 1200}\n", false, 1000, 1000);
}

TEST(a_loader_of_384_bytes_unpacks)
{
    expect_loaded("6502", "1 MHz", "tape: {baud: 300}\n", true, 1500, 1000);
    expect_loaded("65c02", "2 MHz", "tape: {baud: 1200}\n", true, 6000, 1000);
}

TEST(loaders_for_other_cpus)
{
    expect_loaded("8080", "2 MHz", "tape: {baud: 300}\n", false, 700, 1000);
    expect_loaded("8085", "3 MHz", "tape: {baud: 1200}\n", false, 1000, 1060);
    expect_loaded("8080", "2 MHz", "tape: {baud: 1200}\n", true, 3000, 950);
    expect_loaded("z80", "4 MHz", "tape: {baud: 1200}\n", false, 1000, 1000);
    expect_loaded("6800", "1 MHz", "tape: {baud: 300}\n", false, 600, 1000);
    expect_loaded("6800", "1 MHz", "tape: {baud: 1200}\n", true, 3000, 1050);
    expect_loaded("6809", "1 MHz", "tape: {baud: 1200}\n", false, 1000, 950);
    expect_loaded("6809", "1 MHz", "tape: {baud: 600}\n", true, 3000, 1000);
    expect_loaded("z80", "2500 kHz", "tape: {baud: 600}\n", true, 3000, 1050);
}

TEST(a_loader_follows_the_speed_of_the_recorder)
{
    expect_loaded("65c02", "2 MHz", "tape: {baud: 1200}\n", true, 2000, 900);
    expect_loaded("65c02", "2 MHz", "tape: {baud: 1200}\n", false, 1000, 1100);
}

/* What is damaged gets nowhere; when the tape is played again only that is missing, and then it
 * starts. */
TEST(a_damaged_block_is_loaded_from_a_second_play)
{
    set_up("65c02", "2 MHz", "tape: {baud: 1200}\n", false);
    make_program("65c02", 1500);
    record_program(false);
    sim_deck_insert(&deck, &cassette);
    memset(sim.board.ram + FIRST, 0xEE, 1500);
    size_t hurt = cassette.count / 2;
    int16_t *kept = malloc(400 * sizeof *kept);
    memcpy(kept, cassette.samples + hurt, 400 * sizeof *kept);
    memset(cassette.samples + hurt, 0, 400 * sizeof *kept);
    play();
    CHECK(lamps() == 0xFF);
    CHECK(wrong_bytes() > 200 && wrong_bytes() <= 256);
    memcpy(cassette.samples + hurt, kept, 400 * sizeof *kept);
    play();
    CHECK_INT(wrong_bytes(), 0);
    CHECK_INT(lamps(), 0x5A);
    free(kept);
    tear_down();
}

/* Started too late, without the cord, with both cords: nothing is loaded that is not there, and
 * nothing is started. */
TEST(mistakes_at_the_recorder)
{
    set_up("65c02", "2 MHz", "tape: {baud: 1200}\n", false);
    make_program("65c02", 1000);
    record_program(false);
    sim_deck_insert(&deck, &cassette);
    memset(sim.board.ram + FIRST, 0xEE, 1000);
    sim_deck_wind(&deck, 4, sim.now);
    CHECK_INT(sim_deck_place(&deck, sim.now), 4);
    CHECK(sim_deck_press(&deck, SIM_DECK_PLAYING, sim.now));
    sim_bench_run(&sim, sim.now + (uint64_t)12000000000);
    CHECK_INT(lamps(), 0xFF);
    CHECK(wrong_bytes() > 0);
    deck.ear = false;
    play();
    CHECK(wrong_bytes() > 0 && lamps() == 0xFF);
    deck.ear = true, deck.microphone = true;
    play();
    CHECK(wrong_bytes() > 0 && lamps() == 0xFF);
    deck.microphone = false;
    play();
    CHECK(wrong_bytes() == 0 && lamps() == 0x5A);
    tear_down();
}

static void expect_refused(const char *cpu, uint32_t at)
{
    static const uint8_t byte = 0x5A;
    tape_stage stage;
    bl_image *program = NULL;
    uint32_t where = 0;
    set_up(cpu, "2 MHz", "tape: {baud: 300}\n", false);
    CHECK_INT(tape_stage_begin(b, false, &test_sink, &stage), BL_OK);
    CHECK_INT(bl_image_open(&test_memory, &program), BL_OK);
    CHECK_INT(bl_image_put(program, FIRST, &byte, 1, (bl_origin){0, 0}), BL_OK);
    CHECK(tape_stage_allows(&stage, program, &where));
    CHECK_INT(bl_image_put(program, at, &byte, 1, (bl_origin){0, 0}), BL_OK);
    CHECK(!tape_stage_allows(&stage, program, &where));
    CHECK_INT(where, at);
    bl_image_close(program);
    tape_stage_end(&stage);
    tear_down();
}
#define expect_refused(...) TEST_CALL(expect_refused(__VA_ARGS__))

/* A program that would overwrite the loader while it is loaded: the variables of each CPU's loader,
 * its page, its code. */
TEST(a_program_over_its_loader_is_refused)
{
    static const char *const cpus[] = {"6502", "z80", "8080", "6800", "6809"};
    for (size_t i = 0; i < BL_COUNT(cpus); i++) {
        expect_refused(cpus[i], 0x00C4);
        expect_refused(cpus[i], 0x0306);
        expect_refused(cpus[i], 0x0400);
    }
}
