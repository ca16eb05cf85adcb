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
    uint32_t used;
    b = example_bench_named(folder);
    s = NULL;
    if (simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_INT(project_build(b, PROJECT_CHIPS, NULL, &test_sink, &p), BL_OK);
    for (size_t i = 0; i < b->chip_count && p->chips != NULL; i++)
        bl_chip_contents(&b->chips[i], p->chips, s->cells[i], &used);
    simulation_come_up(s);
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

/* ---- registers and breakpoints through Eyelet ---- */

/* Calls, a table, a jump through it, pushes, a loop: it counts for ever in total. */
static const char counting[] = "        .place program\n"
                               "        .entry start\n"
                               "start:  ldx #3\n"
                               "loop:   jsr outer\n"
                               "        inc turn\n"
                               "        lda turn\n"
                               "        and #3\n"
                               "        asl a\n"
                               "        tax\n"
                               "        jmp (table,x)\n"
                               "outer:  jsr inner\n"
                               "        pha\n"
                               "        php\n"
                               "        jsr inner\n"
                               "        plp\n"
                               "        pla\n"
                               "        rts\n"
                               "inner:  inc total\n"
                               "        bne _done\n"
                               "        inc total+1\n"
                               "_done:  rts\n"
                               "one:    dec extra\n"
                               "two:    bra loop\n"
                               "three:  ldy #4\n"
                               "_more:  dey\n"
                               "        bne _more\n"
                               "        bbr0 turn_zero, loop\n"
                               "        jmp loop\n"
                               "table:  .word one, two, three, loop\n"
                               "total:  .word 0\n"
                               "turn:   .byte 0\n"
                               "extra:  .byte 0\n"
                               "turn_zero = $0010\n";

/* The program in the memory of a board that is on, and a debugger on it. */
static void load_counting(bl_program **program)
{
    bl_asm_options o = {.memory = host_memory,
                        .sheet = b->sheet,
                        .areas = b->areas,
                        .area_count = b->area_count,
                        .sink = &test_sink};
    if (bl_assemble_text(&o, "t", (bl_text){counting, strlen(counting)}, program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_piece piece = bl_image_piece(bl_program_image(*program), 0);
    memcpy(s->sim.board.ram + piece.first, piece.bytes, piece.count);
    s->sim.board.ram[0x10] = 0xFF;
}

/* What both must have alike: all registers (of the flags those that are kept), the program's bytes,
 * and the stack above its pointer. */
static void compare_boards(const bl_debug *d, const bl_debug *other, const sim_board *one,
                           const sim_board *two, const bl_program *program)
{
    static const char *const names[] = {"pc", "a", "x", "y", "s", "p"};
    uint32_t a, c;
    for (size_t i = 0; i < BL_COUNT(names); i++) {
        bl_text name = {names[i], strlen(names[i])};
        CHECK_INT(bl_debug_register(d, name, &a), BL_OK);
        CHECK_INT(bl_debug_register(other, name, &c), BL_OK);
        if (i == 5) a &= 0xCF, c &= 0xCF; /* B and the bit beside it are no flags */
        if (a != c) test_fail(__FILE__, __LINE__, "%s is $%02X and $%02X", names[i], a, c);
        if (i == 4) CHECK(memcmp(one->ram + 0x101 + a, two->ram + 0x101 + a, 0xFF - a) == 0);
    }
    bl_piece piece = bl_image_piece(bl_program_image((bl_program *)program), 0);
    uint8_t found[200];
    CHECK(piece.count <= sizeof found);
    CHECK_INT(d->target.read(d->target.context, piece.first, found, piece.count), BL_OK);
    CHECK_BYTES(found, piece.count, two->ram + piece.first, piece.count);
}

TEST(steps_through_eyelet_are_those_of_the_cpu)
{
    enum { STEPS = 1500 };
    static bl_debug d, other;
    bl_program *program;
    simulation *second = NULL;
    bl_debug_result r;
    uint32_t entry;
    set_up("skerry-65");
    load_counting(&program);
    CHECK(bl_image_entry(bl_program_image(program), &entry));
    bl_eyelet_target_with_registers(&eyelet, b->sheet);
    target = bl_eyelet_target_functions(&eyelet);
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(bl_debug_register(&d, (bl_text){"pc", 2}, &(uint32_t){0}), BL_E_REFUSED);
    if (simulation_open(b, test_path("second"), 1, NULL, &test_sink, &second) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    simulation_power_on(second);
    bl_target own = sim_target(&second->sim);
    bl_debug_begin(&other, &own, b->sheet);
    CHECK_INT(own.stop(&second->sim), BL_OK);
    /* To the first instruction of both, with the same registers. */
    size_t index;
    CHECK_INT(bl_debug_break(&d, entry + 2, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_BREAKPOINT);
    CHECK_INT(r.pc, entry + 2);
    static const char *const names[] = {"pc", "a", "x", "y", "s", "p"};
    for (size_t i = 0; i < BL_COUNT(names); i++) {
        uint32_t value;
        bl_text name = {names[i], strlen(names[i])};
        CHECK_INT(bl_debug_register(&d, name, &value), BL_OK);
        CHECK_INT(bl_debug_set_register(&other, name, value), BL_OK);
    }
    memcpy(second->sim.board.ram, s->sim.board.ram, sizeof s->sim.board.ram);
    bl_piece piece = bl_image_piece(bl_program_image(program), 0);
    memcpy(second->sim.board.ram + piece.first, piece.bytes, piece.count);
    uint64_t began = s->sim.now;
    for (unsigned n = 0; n < STEPS; n++) {
        CHECK_INT(bl_debug_step(&d, NULL, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK_INT(bl_debug_step(&other, NULL, &r), BL_OK);
        if (n % 10 == 0) compare_boards(&d, &other, &s->sim.board, &second->sim.board, program);
    }
    uint64_t each = (s->sim.now - began) / STEPS / 1000;
    if (each > 60000) test_fail(__FILE__, __LINE__, "a step takes %u us", (unsigned)each);
    /* Registers that are set are there when it goes on; the stack pointer stays. */
    CHECK_INT(bl_debug_set_register(&d, (bl_text){"a", 1}, 0x5A), BL_OK);
    CHECK_INT(bl_debug_set_register(&d, (bl_text){"s", 1}, 0x40), BL_E_UNSUPPORTED);
    CHECK_INT(bl_debug_set_register(&other, (bl_text){"a", 1}, 0x5A), BL_OK);
    CHECK_INT(bl_debug_out(&d, NULL, &r) == BL_OK || r.pc != 0, 1);
    CHECK_INT(bl_debug_end(&d), BL_OK);
    CHECK_INT(target.go(target.context, NULL), BL_OK);
    sim_bench_run(&s->sim, s->sim.now + 1000u * 1000 * 1000);
    CHECK(memcmp(s->sim.board.ram + piece.first, piece.bytes, 60) == 0); /* no breakpoint is left */
    bl_program_close(program);
    simulation_close(second);
    tear_down();
}

TEST(a_breakpoint_in_rom_is_told)
{
    static bl_debug d;
    bl_debug_result r;
    size_t index;
    const uint32_t entry = 0xC000;
    set_up("skerry-65");
    bl_eyelet_target_with_registers(&eyelet, b->sheet);
    target = bl_eyelet_target_functions(&eyelet);
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(bl_debug_break(&d, 0xC00B, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_E_DIFFERS);
    tear_down();
}

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
