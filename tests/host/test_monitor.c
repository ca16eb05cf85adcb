/* The monitor's words: on the simulated board itself, through its Eyelet, and through the monitor
 * that a dialogue describes. */
#include <string.h>

#include "bootlace/drive_target.h"
#include "eyelet.h"
#include "host_support.h"
#include "monitor_support.h"
#include "sim/sim_target.h"

static bench *b;
static project *p;
static simulation *s;
static bl_serial port;
static bl_eyelet_target eyelet;
static bl_talk_target talker;
static bl_target target;

/* through_line: whoever is in the board's ROM; otherwise the board itself. */
static void set_up(const char *folder, bool through_line)
{
    b = example_bench_named(folder);
    s = example_board(b, &p);
    port = sim_line_port(&s->sim.board_line);
    if (!through_line) {
        target = sim_target(&s->sim);
    } else if (b->link_dialogue != NULL) {
        bl_talk_target_begin(&talker, &port, b->link_dialogue, NULL);
        target = bl_talk_target_functions(&talker);
    } else {
        bl_eyelet_target_begin(&eyelet, &port, b->link_baud, eyelet_sum_ns(b), NULL);
        bl_eyelet_target_with_registers(&eyelet, b->sheet);
        target = bl_eyelet_target_functions(&eyelet);
    }
    begin_asking(b, &target);
}

static void tear_down(void)
{
    end_asking();
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

/* What all targets must do alike. */
static void look_and_change(void)
{
    CHECK_CONTAINS(ask("put 0400 1 2 0x0F words 1234 \"Ay\""), "$0400: 7 bytes, read back\n");
    CHECK_TEXT(ask("see 0400+7"),
               "$0400 01 02 0F 34 12 41 79                              ...4.Ay\n");
    CHECK_CONTAINS(ask("fill 0410..0417 AA 55"), "8 bytes");
    CHECK_CONTAINS(ask("copy 0410..0417 0413"), "8 bytes"); /* they overlap */
    CHECK_CONTAINS(ask("see 0410+B"), "$0410 AA 55 AA AA 55 AA 55 AA  55 AA 55");
    CHECK_CONTAINS(ask("put 0402 10"), "1 byte");
    CHECK_CONTAINS(ask("see 0400+7"), "$0400 01 02 10*34 12 41 79");
    CHECK_CONTAINS(ask("see 0400+7"), "$0400 01 02 10 34 12 41 79");
    CHECK_CONTAINS(ask("find 0400..041F words 1234"), "$0403\n");
    CHECK_CONTAINS(ask("find 0400..041F \"Ay\""), "$0405\n");
    CHECK_CONTAINS(refused("find 0400..041F \"Bee\""), "not found");
    CHECK_CONTAINS(ask("text 0403..0406"), "4<12>Ay\n");
    CHECK_CONTAINS(ask("compare 0410..0411 0413"), "all 2 bytes are the same");
    CHECK_CONTAINS(refused("compare 0400..0401 0410"), "2 of 2 bytes differ");
    CHECK_CONTAINS(out->str, "$0400  expected AA  found 01\n");
    CHECK_CONTAINS(ask("undo"), "$0402: 1 byte");
    CHECK_CONTAINS(ask("see 0402+1"), "$0402 0F*");
    CHECK_CONTAINS(ask("undo 2"), "$0413");
    CHECK_CONTAINS(ask("value byte(0x0402) + 1"), "$10  16  %00010000");
    CHECK_CONTAINS(refused("put FFFF 1 2"), "more than there are addresses");
    CHECK_CONTAINS(refused("see 0400..10400"), "beyond the machine's addresses");
    CHECK_CONTAINS(refused("put 0400"), "a value is missing");
    CHECK_CONTAINS(refused("put 0400 1FF"), "511, not -128 to 255");
}
#define look_and_change(...) TEST_CALL(look_and_change(__VA_ARGS__))

TEST(memory_on_the_simulated_board)
{
    set_up("skerry-65", false);
    look_and_change();
    tear_down();
}

TEST(memory_through_eyelet)
{
    static const char *const folders[] = {"skerry-65", "skerry-80", "skerry-85"};
    for (size_t i = 0; i < BL_COUNT(folders); i++) {
        set_up(folders[i], true);
        CHECK_CONTAINS(ask("put area.program.first 1 2 3"), "3 bytes, read back");
        CHECK_CONTAINS(ask("compare program+3 area.program.first"), "all 3 bytes are the same");
        if (i == 0) look_and_change();
        CHECK_CONTAINS(refused("registers"), "no program waits there");
        CHECK_CONTAINS(refused(i == 0 ? "put FFF0 0 1 2 3" : "put 0000 0 1 2 3"), "memory at");
        tear_down();
    }
}

TEST(programs_run_through_eyelet)
{
    set_up("skerry-65", true);
    ask("enter 0400 ldx #3");
    ask("enter 0402 dex");
    ask("enter 0403 bne 0402h");
    ask("enter 0405 jmp 0400h");
    CHECK_CONTAINS(ask("breakpoint 0405"), "breakpoint 1: $0405");
    CHECK_CONTAINS(ask("run 0400"), "breakpoint 1\nPC 0405  A ");
    CHECK_CONTAINS(out->str, "X 00");
    CHECK_CONTAINS(ask("see 0405+3"), "$0405 4C 00 04"); /* as if it were not there */
    CHECK_CONTAINS(ask("step"), "PC 0400");
    CHECK_CONTAINS(ask("step 2"), "PC 0403");
    CHECK_CONTAINS(ask("registers X=9 Z=1"), "X 09");
    CHECK_CONTAINS(ask("step"), "PC 0405"); /* Z was set */
    CHECK_CONTAINS(ask("run"), "breakpoint 1\nPC 0405");
    CHECK_CONTAINS(ask("until 0402"), "PC 0402");
    CHECK_CONTAINS(refused("back"), "this machine's monitor cannot");
    CHECK_CONTAINS(refused("watchpoint 0400"), "this machine's monitor cannot");
    CHECK_CONTAINS(ask("breakpoint C00B"), "$C00B");
    CHECK_CONTAINS(refused("run"), "ROM keeps none");
    CHECK_INT(bl_eyelet_target_clear(&eyelet), BL_OK);
    CHECK_INT(s->sim.board.ram[0x405], 0x4C);
    CHECK_INT(s->sim.board.ram[0x402], 0xCA);
    tear_down();
}

TEST(memory_through_a_dialogue)
{
    set_up("bollard", true);
    CHECK_CONTAINS(ask("put 0400 1 2 3 4"), "4 bytes, read back");
    CHECK_CONTAINS(ask("see 0400+4"), "$0400 01 02 03 04 ");
    CHECK_CONTAINS(ask("undo"), "4 bytes");
    CHECK_CONTAINS(refused("run 0400"), "tells nothing about its CPU");
    tear_down();
}

TEST(instructions_are_shown_and_entered)
{
    set_up("skerry-65", false);
    CHECK_CONTAINS(ask("code lamp-rom.light 3"), "light:\n$C000  A2 00           LDX #$00");
    CHECK_CONTAINS(out->str, "LDA character,X              4+p\n");
    CHECK_CONTAINS(ask("enter 0400 jsr eyelet.poll"), "JSR poll");
    CHECK(monitor_enters(m) == NULL);
    ask("enter 0403");
    CHECK_TEXT(monitor_enters(m), "$0403");
    CHECK_CONTAINS(ask("lda #character_end - character"), "A9 08");
    g_string_truncate(said, 0);
    CHECK_INT(monitor_obey(m, "lda nobody", out, said), MONITOR_FAILED);
    CHECK_CONTAINS(said->str, "nobody");
    CHECK_TEXT(monitor_enters(m), "$0405"); /* the same place is asked for again */
    ask(".byte 1, 2");
    ask("");
    CHECK(monitor_enters(m) == NULL);
    CHECK_CONTAINS(ask("see 0400+7"), " A9 08 01 02");
    CHECK_CONTAINS(refused("enter C000 nop"), "it is not kept there");
    CHECK_CONTAINS(refused("enter 0400 LABEL = 3"), "makes no bytes");
    CHECK_CONTAINS(ask("see C000+2"), "$C000 A2 00"); /* as it was */
    tear_down();
}

TEST(runs_steps_and_breakpoints_by_name)
{
    set_up("skerry-65", false);
    CHECK_CONTAINS(ask("breakpoint light.asm:18"), "$C010 light._hold+5, ");
    CHECK_CONTAINS(out->str, "light.asm:18\n");
    CHECK_CONTAINS(ask("run lamp-rom.light"), "breakpoint 2\nPC C010  A 00  X 00  Y 00  S F");
    CHECK_CONTAINS(out->str, "light.asm:18          ply\n");
    CHECK_CONTAINS(ask("watch Y + 1"), "1: Y + 1 = $01  1\n");
    CHECK_CONTAINS(ask("step"), "PC C011  A 00  X 00  Y 04");
    CHECK_CONTAINS(out->str, "1: Y + 1 = $05  5\n");
    CHECK_CONTAINS(ask("line"), "light.asm:20          dey\n");
    CHECK_CONTAINS(ask("registers A=7 C=1 Z=0"), "A 07");
    CHECK_CONTAINS(out->str, "zC");
    CHECK_CONTAINS(ask("registers C=0"), "zc");
    CHECK_CONTAINS(refused("registers Q=1"), "no register or flag 'Q'");
    CHECK_CONTAINS(refused("registers A=256"), "A=256: the value does not fit");
    CHECK_CONTAINS(ask("breakpoint off 2"), ", off\n");
    CHECK_CONTAINS(ask("until lamp-rom.light._hold"), "PC C00B");
    CHECK_CONTAINS(ask("breakpoint lamp-rom.tenth when Y == 2"), "breakpoint 3: $C01D tenth");
    CHECK_CONTAINS(ask("run"), "breakpoint 3\nPC C01D  A 00  X 00  Y 02");
    CHECK_CONTAINS(ask("callers"),
                   "fits    0 up  called at $C00D light._hold+2, calls $C01D tenth\n");
    CHECK_CONTAINS(ask("out"), "PC C010");
    CHECK_CONTAINS(ask("call lamp-rom.tenth"), "PC C010");
    CHECK_CONTAINS(ask("breakpoint drop 3"), "breakpoint 1");
    CHECK_CONTAINS(ask("run for 50ms"), "stopped\n");
    CHECK_CONTAINS(ask("source"), "->  ");
    CHECK_CONTAINS(ask("source light.asm:11"), "->    11  light:  ldx #0\n");
    CHECK_CONTAINS(refused("source light.asm:999"), "no source of the build has a line");
    CHECK_CONTAINS(refused("breakpoint light when Y =="), "Y ==");
    CHECK_CONTAINS(said->str, "a value is missing at the end");
    CHECK_CONTAINS(refused("breakpoint drop 9"), "there is no breakpoint 9");
    CHECK_CONTAINS(refused("run light for long"), "for how long?");
    CHECK_CONTAINS(ask("reset"), "reset");
    tear_down();
}

TEST(what_was_changed_is_told_as_source_lines)
{
    set_up("skerry-65", false);
    bl_program *program = NULL;
    CHECK_INT(project_assemble(p, test_path("lamp.asm"), NULL, &test_sink, &program), BL_OK);
    monitor_set_program(m, program);
    bl_image *image = bl_program_image(program);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        CHECK_INT(monitor_write(m, piece.first, piece.bytes, piece.count), BL_OK);
    }
    CHECK_CONTAINS(ask("changes"), "nothing is other than it was");
    CHECK_CONTAINS(ask("compare light..character_end-1 build"), "all 51 bytes are the same");
    ask("put character+1 9");
    ask("put 0500 9");
    CHECK_CONTAINS(ask("changes"), "$032C character+1, ");
    CHECK_CONTAINS(out->str, "light.asm:40: 04 -> 09\n");
    CHECK_CONTAINS(out->str, "$0500: ");
    ask("undo 2");
    CHECK_CONTAINS(ask("changes"), "nothing is other than it was");
    monitor_set_program(m, NULL);
    bl_program_close(program);
    tear_down();
}

TEST(words_may_be_short_while_one_is_meant)
{
    set_up("skerry-65", false);
    CHECK_CONTAINS(ask("reg"), "PC ");
    CHECK_CONTAINS(ask("regis A=12"), "A 12"); /* the machine's radix */
    CHECK_CONTAINS(refused("s"), "'s' may be see or");
    CHECK_CONTAINS(refused("see 0400 0500"), "'0500' is too much");
    CHECK_CONTAINS(refused("put 0400 \"open"), "a text is never closed");
    CHECK_INT(monitor_obey(m, "dance", out, said), MONITOR_UNKNOWN);
    CHECK_INT(monitor_obey(m, "   ", out, said), MONITOR_GOOD);
    CHECK(!monitor_help("dance", out));
    const char *docs = test_read_source("docs/console.md", NULL), *operands, *what;
    for (size_t i = 0; monitor_word(i, &operands, &what) != NULL; i++) {
        char row[200], line[80];
        g_snprintf(row, sizeof row, "| `%s", monitor_word(i, NULL, NULL));
        CHECK_CONTAINS(docs, row);
        g_string_truncate(out, 0);
        CHECK(monitor_help(monitor_word(i, NULL, NULL), out));
        CHECK_CONTAINS(out->str, "for example: ");
        /* The example is one: it is obeyed, or refused for what is there. */
        g_snprintf(line, sizeof line, "%s", strstr(out->str, "for example: ") + 13);
        g_string_truncate(out, 0);
        g_string_truncate(said, 0);
        monitor_set_watch(m, (bl_debug_watch){NULL, NULL});
        if (strncmp(line, "run", 3) == 0 || strncmp(line, "call", 4) == 0 ||
            strncmp(line, "until", 5) == 0 || strncmp(line, "out", 3) == 0 ||
            strncmp(line, "cycles", 6) == 0)
            continue; /* those that may go on for ever */
        CHECK(monitor_obey(m, g_strchomp(line), out, said) != MONITOR_UNKNOWN);
        CHECK_NOT_CONTAINS(said->str, "is too much");
    }
    tear_down();
}

/* The answers are the same on the board itself and through its Eyelet. */
TEST(the_same_answers_on_both_ways)
{
    static const char *const lines[] = {"see C000+40",
                                        "code lamp-rom.light 8",
                                        "find C000..C0FF D0 F5",
                                        "compare C000+20 build",
                                        "value word(0xC001)",
                                        "text C000+10",
                                        "see 0300+4",
                                        "enter 0300 LDA #5"};
    char *answers[BL_COUNT(lines)];
    for (int way = 0; way < 2; way++) {
        set_up("skerry-65", way == 1);
        ask("put 0300 1 2 3 4");
        for (size_t i = 0; i < BL_COUNT(lines); i++) {
            const char *answer = ask(lines[i]);
            if (way == 0)
                answers[i] = g_strdup(answer);
            else {
                CHECK_TEXT(answer, answers[i]);
                g_free(answers[i]);
            }
        }
        tear_down();
    }
}
