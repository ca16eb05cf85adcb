/* Projects: pieces that know each other, what they are together, and their files; the kept
 * simulated bench. */
#include <stdio.h>
#include <string.h>

#include "host_support.h"
#include "project/whereis.h"

static project *build(bench *b)
{
    project *p = NULL;
    if (project_build(b, PROJECT_ALL, NULL, &test_sink, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return p;
}

TEST(a_piece_uses_the_symbols_of_one_before_it_without_a_file)
{
    bench *b = example_bench();
    project *p = build(b);
    CHECK_INT(p->piece_count, 3);
    CHECK(!test_file_exists("out/eyelet.sym"));
    int64_t poll = 0;
    CHECK_INT(bl_program_value(p->pieces[0].program, (bl_text){"poll", 4}, &poll), BL_OK);
    uint8_t call[3];
    bl_image_copy(bl_program_image(p->pieces[2].program), 0x0321, 3, 0, call);
    CHECK_INT(call[0], 0x20);
    CHECK_INT(call[1] | call[2] << 8, poll);
    project_close(p);
    bench_close(b);
}

TEST(what_is_written_is_what_was_built)
{
    bench *b = example_bench();
    project *p = build(b);
    size_t files = 0, count = 0;
    uint32_t used = 0;
    static uint8_t bytes[32768];
    CHECK_INT(project_write(p, &test_sink, &files), BL_OK);
    CHECK_INT(files, 11);
    bl_chip_contents(&b->chips[0], p->chips, bytes, &used);
    const char *text = test_read_file("out/U5.bin", &count);
    CHECK_BYTES(text, count, bytes, sizeof bytes);
    bl_image *image = NULL;
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    text = test_read_file("out/chips.hex", &count);
    CHECK_INT(bl_imagefile_read(BL_FILE_HEX, "chips.hex", text, count, 0, image, &test_sink),
              BL_OK);
    CHECK_INT(bl_image_size(image), bl_image_size(p->chips));
    bl_image_close(image);
    project_close(p);
    bench_close(b);
}

TEST(one_broken_piece_does_not_hide_the_next)
{
    bench *b = example_bench();
    project *p = NULL;
    test_write_file("lamp-rom.asm", " .place rom\n ldaa #1\n");
    test_write_file("lamp.asm", " .place program\n stta 1\n");
    CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "lamp-rom.asm:2:2: error");
    CHECK_CONTAINS(test_messages(), "lamp.asm:2:2: error");
    bench_close(b);
}

TEST(definitions_and_folders_reach_the_source)
{
    bench *b = example_bench();
    project *p = NULL;
    bl_program *program = NULL;
    bl_definition d = {"COUNT", 7};
    char *folders[] = {(char *)(uintptr_t)test_folder(), NULL};
    project_extras extras = {.folders = folders, .definitions = &d, .definition_count = 1};
    test_write_file("more.inc", " .byte COUNT\n");
    test_write_file("main.asm", " .include \"more.inc\"\n");
    CHECK_INT(project_build(b, PROJECT_FIRMWARE, NULL, &test_sink, &p), BL_OK);
    CHECK_INT(p->piece_count, 1);
    CHECK_INT(project_assemble(p, test_path("main.asm"), &extras, &test_sink, &program), BL_OK);
    CHECK_BYTES(bl_image_piece(bl_program_image(program), 0).bytes, 1, "\x07", 1);
    bl_program_close(program);
    project_close(p);
    bench_close(b);
}

TEST(addresses_are_described)
{
    bench *b = example_bench();
    project *p = build(b);
    whereis w = {.count = 0};
    char text[300];
    whereis_add_project(&w, p);
    whereis_describe(&w, 0x0313, text, sizeof text);
    CHECK_CONTAINS(text, "light._hold+8, ");
    CHECK_CONTAINS(text, "light.asm:21");
    whereis_describe(&w, 0xF7FE, text, sizeof text); /* a word of its own, far from any label */
    CHECK_NOT_CONTAINS(text, "character_end");
    CHECK_CONTAINS(text, "lamp-rom.asm:9");
    whereis_describe(&w, 0x9000, text, sizeof text);
    CHECK_TEXT(text, "");
    project_close(p);
    bench_close(b);
}

/* ---- the simulated bench between two commands ---- */

static simulation *open_simulation(bench *b)
{
    simulation *s = NULL;
    if (simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return s;
}

TEST(the_bench_is_found_as_it_was_left)
{
    bench *b = example_bench();
    simulation *s = open_simulation(b);
    for (size_t i = 0; i < 32768; i++)
        CHECK_INT(s->cells[0][i], 0xFF); /* a new chip is blank */
    memset(s->cells[0], 0xEA, 32768);
    s->cells[0][0x7FFC] = 0x00, s->cells[0][0x7FFD] = 0xC0;
    s->sim.parts[0].protect = true;
    simulation_power_on(s);
    sim_bench_run(&s->sim, 1000000);
    s->sim.board.ram[0x1234] = 0x56;
    uint16_t pc = s->sim.board.cpu.pc;
    uint64_t now = s->sim.now, cycles = s->sim.board.cpu.cycles;
    CHECK_INT(simulation_save(s, &test_sink), BL_OK);
    simulation_close(s);

    s = open_simulation(b);
    CHECK(s->sim.powered && s->sim.parts[0].protect);
    CHECK_INT(s->cells[0][5], 0xEA);
    CHECK_INT(s->sim.board.ram[0x1234], 0x56);
    CHECK_INT(s->sim.board.cpu.pc, pc);
    CHECK_INT(s->sim.board.cpu.cycles, cycles);
    CHECK_INT(s->sim.now, now);
    simulation_power_off(s);
    CHECK_INT(simulation_save(s, &test_sink), BL_OK);
    simulation_close(s);

    s = open_simulation(b);
    CHECK(!s->sim.powered);
    simulation_power_on(s);
    CHECK(s->sim.board.ram[0x1234] != 0x56 ||
          s->sim.board.ram[0x1235] != 0); /* what was in RAM is gone */
    simulation_close(s);
    bench_close(b);
}

TEST(two_users_are_kept_apart)
{
    bench *b = example_bench();
    simulation *s = open_simulation(b), *other = NULL;
    CHECK_INT(simulation_open(b, test_path("state"), 1, NULL, &test_sink, &other), BL_E_BUSY);
    simulation_close(s);
    s = open_simulation(b); /* and free again */
    simulation_close(s);
    bench_close(b);
}

TEST(faults_by_name)
{
    bench *b = example_bench();
    simulation *s = NULL;
    char *good[] = {"flip=1/500", "lose=1/100",    "vanish=9", "stuck=$10:3:1", "blocked", "locked",
                    "cycle=20",   "poke=$400:$12", NULL};
    CHECK_INT(simulation_open(b, test_path("state"), 1, good, &test_sink, &s), BL_OK);
    CHECK_INT(s->sim.board_line.faults.flip_one_in, 500);
    CHECK_INT(s->sim.socket_line.faults.lose_one_in, 100);
    CHECK_INT(s->sim.socket_line.faults.vanish_after, 9);
    CHECK_INT(s->sim.parts[0].faults.stuck[0].address, 0x10);
    CHECK_INT(s->sim.parts[0].faults.cycle_us, 20000);
    CHECK(s->sim.parts[0].protect && s->sim.parts[0].faults.write_blocked);
    CHECK_INT(s->sim.board.ram[0x400], 0x12);
    simulation_close(s);
    static const char *const bad[] = {
        "flip",          "flip=2/5",   "flip=1/0",  "lose=x",  "vanish=0",   "stuck=1:8:0",
        "stuck=1:1:2",   "stuck=1",    "blocked=1", "cycle=0", "cycle=5000", "poke=$400",
        "poke=$10000:1", "poke=1:256", "",          "=",       "gremlins"};
    for (size_t i = 0; i < sizeof bad / sizeof bad[0]; i++) {
        char *list[] = {(char *)(uintptr_t)bad[i], NULL};
        if (simulation_open(b, test_path("state"), 1, list, NULL, &s) == BL_OK)
            test_fail(__FILE__, __LINE__, "'%s' was taken", bad[i]);
    }
    bench_close(b);
}

TEST(cpus_without_a_simulator_are_refused)
{
    bench *b = example_bench();
    bench_close(b);
    size_t n;
    char text[4000];
    const char *whole = test_read_file("bench.yaml", &n), *at = strstr(whole, "65c02");
    snprintf(text, sizeof text, "%.*stern%s", (int)(at - whole), whole, at + 5);
    char *build_list = strstr(text, "build:");
    *build_list = '\0';
    test_write_file("old.yaml", text);
    CHECK_INT(bench_open(test_path("old.yaml"), &simulation_hardware, &test_sink, &b), BL_OK);
    simulation *s = NULL;
    CHECK_INT(simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s), BL_OK); /* to burn */
    simulation_close(s);
    CHECK_INT(simulation_check_cpu(b, &test_sink), BL_E_UNSUPPORTED);
    CHECK_CONTAINS(test_messages(), "there is no simulator for the tern");
    bench_close(b);
}
