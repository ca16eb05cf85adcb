/* bootlace console as a monitor: scripts, pipes, a served board, what a failure ends with. */
#include <string.h>

#include "cli_support.h"

static void begin_board(void)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write -q -p sim");
}
#define begin_board(...) TEST_CALL(begin_board(__VA_ARGS__))

/* Assemble, send, break at a source line, step, change a byte, run, save, compare, and put the
 * change back into the source. */
TEST(an_evening_in_the_monitor)
{
    begin_board();
    test_write_file("session.txt", "# the light is too slow\n"
                                   "load lamp.asm\n"
                                   "compare light+51 build\n"
                                   "breakpoint light.asm:13\n"
                                   "run light for 1s\n"
                                   "step\n"
                                   "put character+1 2\n"
                                   "changes\n"
                                   "breakpoint drop 1\n"
                                   "run for 300ms\n"
                                   "value byte(character + 1)\n"
                                   "save light..character_end-1 patched.bin\n"
                                   "patch patched.hex\n"
                                   "power off\n"
                                   "power on\n"
                                   "value byte(character + 1) == 2\n");
    test_run r = expect_code(0, "bootlace console -p sim --commands session.txt");
    CHECK_CONTAINS(r.out, "all 51 bytes are the same");
    CHECK_CONTAINS(r.out, "breakpoint 1\nPC 0305");
    CHECK_CONTAINS(r.out, "light.asm:13          sta board.lamps.data\n");
    CHECK_CONTAINS(r.out, "$032C character+1, light.asm:40: 04 -> 02\n");
    CHECK_CONTAINS(r.out, "$02  2  %00000010");
    CHECK_CONTAINS(r.out, "$00  0"); /* RAM is forgotten */
    CHECK_CONTAINS(r.err, "patched.bin: 51 bytes from $0300");
    edit("light.asm", ".byte ON,  4", ".byte ON,  2");
    expect_code(0, "bootlace assemble -q lamp.asm -b bench.yaml -o new.bin");
    expect_code(0, "bootlace assemble -q lamp.asm -b bench.yaml -o lamp.hex");
    CHECK_CONTAINS(expect_code(0, "bootlace image compare new.bin patched.bin --at 0x0300").out,
                   "all 51 bytes");
    CHECK_CONTAINS(expect_code(0, "bootlace image compare lamp.hex patched.hex").out,
                   "all 51 bytes");
    CHECK_CONTAINS(expect_code(1, "echo 'patch x.hex' | bootlace console -p sim --commands -").err,
                   "nothing was changed here");
    CHECK(!test_file_exists("x.hex"));
}

/* What is in memory is told from all that was ever built; an older one brings its names. */
TEST(the_monitor_tells_which_build_is_in_memory)
{
    begin_board();
    CHECK_CONTAINS(expect_code(0, "echo identify | bootlace console -p sim --commands -").out,
                   "lamp             in no version that the logbook knows");
    expect_code(0, "bootlace send lamp.asm -q -p sim");
    test_run r = expect_code(0, "echo identify | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.out, "lamp             as the sources are now, built 20");
    CHECK_CONTAINS(r.out, "eyelet           as the sources are now, built 20");
    edit("light.asm", "light:  ldx #0", "dusk:   nop\nlight:  ldx #0");
    test_write_file("who.txt", "identify\nvalue light\ncode 031D 1\ncompare 0300+2 build\n");
    r = expect_code(1, "bootlace console -p sim --commands who.txt");
    CHECK_CONTAINS(r.out, "lamp             of an older build, 20");
    CHECK_CONTAINS(r.out, "$300  768"); /* where it is in memory, not where it would be now */
    CHECK_CONTAINS(r.out, "$0300  expected EA  found A2");
    expect_code(0, "bootlace build -q");
    r = expect_code(0, "printf 'put 0300 1\nidentify\n' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.out, "lamp             in no version that the logbook knows");
}

TEST(a_script_ends_with_the_first_command_that_fails)
{
    begin_board();
    test_write_file("bad.txt", "see C000+4\nstep nonsense\nsee C010+4\n");
    test_run r = expect_code(1, "bootlace console -p sim --commands bad.txt");
    CHECK_CONTAINS(r.out, "$C000 A2 00 BD 2B");
    CHECK_NOT_CONTAINS(r.out, "$C010");
    CHECK_CONTAINS(r.err, "stopped at line 2 of bad.txt: step nonsense");
    CHECK_CONTAINS(expect_code(1, "bootlace console -p sim --commands none.txt").err,
                   "none.txt: cannot be read");
    r = expect_code(0, "printf 'enter 0400\\nlda #1\\nrts\\n\\nsee 0400+3\\n' | "
                       "bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.out, "$0400 A9 01 60");
    r = expect_code(1, "printf 'break 0400\\n' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.err, "'breakpoint PLACE' stops a program");
    r = expect_code(0, "printf 'help breakpoint\\n' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.err, "for example: breakpoint light every 3 when X > 2");
    expect_code(1, "printf 'help dance\\n' | bootlace console -p sim --commands -");
}

/* What the machine says while it runs comes out, too; afterwards it goes on without breakpoints. */
TEST(a_machine_that_stood_goes_on_afterwards)
{
    begin_board();
    test_run r = expect_code(0, "printf '\\017registers\\n\\017breakpoint C00B\\n\\017run\\n' | "
                                "bootlace console -p sim");
    CHECK_CONTAINS(r.out, "breakpoint 1\nPC C00B");
    CHECK_CONTAINS(r.out, "Eyelet 1 for the 65C02");
    r = expect_code(0, "bootlace board run -p sim --for 7s");
    CHECK_CONTAINS(r.out, "lamps");
    expect_code(0, "bootlace send lamp.asm -p sim");
    r = expect_code(1, "printf 'halt\\nsend lamp.asm\\n' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.err, "the CPU stands, so nothing there hears the line");
}

/* Control characters in memory and in sources stay what they are: text. */
TEST(the_monitor_keeps_control_characters_from_the_terminal)
{
    begin_board();
    expect_code(0, "printf 'v: .byte 27 ; \\033[31m\\n .place program\\n' > odd.asm");
    test_write_file("odd.txt", "put 0400 1B \"[31m\" 7\nsee 0400+6\ntext 0400+6\n");
    test_run r = expect_code(0, "bootlace console -p sim --commands odd.txt");
    CHECK_CONTAINS(r.out, ".[31m.");
    CHECK_CONTAINS(r.out, "<1B>[31m<07>");
    CHECK_NOT_CONTAINS(r.out, "\033");
}
