/* The monitor's words beyond 64 KiB: an eZ80 whose program runs in 24-bit mode and calls Z80 mode.
 */
#include <string.h>

#include "eyelet.h"
#include "host_support.h"
#include "monitor_support.h"
#include "sim/sim_past.h"
#include "sim/sim_target.h"

static const char source[] = "        .use \"out/eyelet.sym\" as eyelet\n"
                             "        .cpu ez80\n"
                             "        .place far\n"
                             "        .entry begin\n"
                             "begin:  ld hl,$123456\n"
                             "        call twice\n"
                             "        ld (kept),hl\n"
                             "_loop:  call.is eyelet.far_poll\n"
                             "        jr _loop\n"
                             "twice:  add hl,hl\n"
                             "        ld de,$010203\n"
                             "        add hl,de\n"
                             "        ret\n"
                             "kept:   .reserve 3\n";

static bench *b;
static project *p;
static simulation *s;
static bl_target target;

static void set_up(void)
{
    static const char *const changes[] = {"squares.asm", "deep.asm", NULL};
    test_write_file("deep.asm", source);
    b = example_bench_changed("skerry-24", changes);
    s = example_board(b, &p);
    target = sim_target(&s->sim);
    begin_asking(b, &target);
}

static void tear_down(void)
{
    end_asking();
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

static void load(void)
{
    bl_program *program;
    char *path = g_build_filename(test_folder(), "deep.asm", NULL);
    CHECK_INT(project_assemble(p, path, NULL, &test_sink, &program), BL_OK);
    bl_image *image = bl_program_image(program);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        CHECK_INT(target.write(target.context, piece.first, piece.bytes, piece.count), BL_OK);
    }
    bl_program_close(program);
    g_free(path);
}

TEST(code_beyond_64_kib_is_read_as_it_was_written)
{
    set_up();
    load();
    ask("code deep.begin 10");
    CHECK_CONTAINS(out->str, "$010000  21 56 34 12     LD HL,$123456");
    CHECK_CONTAINS(out->str, "CALL twice");
    CHECK_CONTAINS(out->str, "LD (kept),HL");
    CHECK_CONTAINS(ask("code eyelet.far_poll 2"), "IN A,"); /* Z80 mode */
    /* The loader in ROM is in both modes. */
    CHECK_CONTAINS(ask("code loader-rom.copy 1"), "ED 4B 09 82 00");
    CHECK_CONTAINS(ask("code loader-rom.idle 1"), "CALL poll");
    tear_down();
}

TEST(steps_calls_and_breakpoints_through_both_modes)
{
    set_up();
    load();
    ask("halt");
    CHECK_CONTAINS(refused("registers PC=deep.begin"), "does not fit"); /* in Z80 mode */
    ask("registers ADL=1 SPL=0x1F000 PC=deep.begin");
    refused("registers ADL=0");
    CHECK_CONTAINS(ask("step"), "HL 123456");
    CHECK_CONTAINS(out->str, "SP 01F000");
    CHECK_CONTAINS(ask("over"), "PC 010008");
    CHECK_CONTAINS(out->str, "HL 256AAF");
    ask("breakpoint deep.twice");
    CHECK_CONTAINS(ask("run deep.begin for 1s"), "PC 010012");
    CHECK_CONTAINS(ask("callers"), "fits    0 up  called at $010004");
    CHECK(strstr(out->str, "$000038") == NULL); /* nothing is not full of RST */
    CHECK_CONTAINS(ask("out"), "PC 010008");
    CHECK_CONTAINS(ask("step 2"), "ADL 0"); /* into Z80 mode */
    CHECK_CONTAINS(out->str, "far_poll");
    CHECK_CONTAINS(ask("out"), "PC 010010");
    CHECK_CONTAINS(ask("until deep.begin._loop"), "PC 01000C");
    CHECK_CONTAINS(ask("over"), "PC 010010"); /* over the other mode */
    ask("registers HL=1");
    ask("breakpoint drop 1");
    ask("registers PC=deep.begin._loop");
    CHECK_CONTAINS(ask("call deep.twice"), "HL 010205");
    CHECK_CONTAINS(out->str, "PC 01000C");
    CHECK_CONTAINS(out->str, "SPL 01F000");
    /* And a routine of Z80 mode from Z80 mode: its return takes two bytes. */
    ask("run loader-rom.idle for 1ms");
    ask("until loader-rom.idle");
    ask("registers SPS=0xFF00");
    CHECK_CONTAINS(ask("call eyelet.poll"), "SPS FF00");
    tear_down();
}

TEST(the_past_beyond_64_kib)
{
    sim_past *past;
    set_up();
    load();
    ask("halt");
    CHECK_INT(sim_past_open(&s->sim, &test_memory, &past), BL_OK);
    ask("registers ADL=1 SPL=0x1F000 PC=deep.begin");
    ask("watchpoint deep.kept");
    CHECK_CONTAINS(ask("run for 1s"), "PC 01000C");
    CHECK_CONTAINS(ask("history 2"), "$01001B=25");
    CHECK_CONTAINS(ask("back write deep.kept"), "PC 010008");
    CHECK_CONTAINS(ask("back to deep.twice"), "PC 010012");
    CHECK_CONTAINS(ask("back"), "PC 010004");
    sim_past_close(past);
    tear_down();
}

TEST(memory_words_reach_all_of_it)
{
    set_up();
    CHECK_CONTAINS(ask("put 0x1FFFE 1 2"), "2 bytes, read back");
    CHECK_CONTAINS(ask("copy 0x1FFFE..0x1FFFF 0x10100"), "read back");
    CHECK_CONTAINS(ask("find 0x10000..0x1FFFF 1 2"), "$010100");
    CHECK_CONTAINS(ask("compare 0x10100..0x10101 0x1FFFE"), "same");
    CHECK_CONTAINS(ask("changes"), "$01FFFE");
    refused("put 0x20000 1"); /* nothing is there */
    CHECK_CONTAINS(refused("see 0x1000000"), "beyond the machine's addresses");
    ask("undo 2");
    CHECK_CONTAINS(ask("test 0x11000..0x113FF"), "1024 bytes of RAM keep what they should");
    tear_down();
}

/* Two programs for one place: the names are those of the one that is there. */
TEST(names_are_of_the_program_that_is_in_memory)
{
    static const char *const changes[] = {
        "squares.asm, for: ram}", "squares.asm, for: ram}\n  - {source: deep.asm, for: ram}", NULL};
    test_write_file("deep.asm", source);
    b = example_bench_changed("skerry-24", changes);
    s = example_board(b, &p);
    target = sim_target(&s->sim);
    load();
    begin_asking(b, &target);
    CHECK_CONTAINS(ask("code 0x10004 1"),
                   "CALL twice"); /* squares.asm is there, too, in the build */
    tear_down();
}
