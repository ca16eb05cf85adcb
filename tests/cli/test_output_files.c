/* What is written: never over what is read, whole or not at all, and told when it is not. */
#include "cli_support.h"

#include <stdio.h>
#include <string.h>

static const char source[] = "        .org $300\n        .include \"part.asm\"\nstart:  nop\n";

static void a_source(void)
{
    test_write_file("s.asm", source);
    test_write_file("part.asm", "        .byte 1, 2, 3\n");
}

static void stays(const char *name, const char *text)
{
    size_t n;
    const char *now = test_read_file(name, &n);
    CHECK_BYTES(now, n, text, strlen(text));
}

TEST(an_output_is_no_input)
{
    static const char *const lines[] = {
        "-o s.asm",           "-l s.asm",         "-y s.asm",           "--map s.asm",
        "-o part.asm -f bin", "-l ./part.asm",    "-o ../*/s.asm",      "--depend s.asm -o x.hex",
        "-o hard.asm",        "-l soft.asm",      "-o x.hex -l x.hex",  "-o - -l - -f hex",
        "-l x.lst -y x.lst",  "-y x.y --map x.y", "-o x.hex -l ./x.hex"};
    a_source();
    expect_code(0, "ln s.asm hard.asm && ln -s s.asm soft.asm");
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++) {
        test_run r = expect_code(2, "bootlace assemble s.asm -c 65c02 -f bin %s", lines[i]);
        CHECK_CONTAINS(r.err, "usage:");
        CHECK_TEXT(r.out, "");
        stays("s.asm", source);
        stays("part.asm", "        .byte 1, 2, 3\n");
        CHECK(!test_file_exists("x.hex") && !test_file_exists("x.lst"));
    }
    expect_code(0, "bootlace assemble s.asm -c 65c02 -o s.hex -q && cp s.hex keep.hex");
    expect_code(2, "bootlace image convert s.hex -o s.hex");
    expect_code(2, "bootlace image convert s.hex -o ./s.hex -f srec");
    expect_code(2, "bootlace image join s.hex s.hex@0 -o s.hex");
    expect_code(2, "bootlace image cut s.hex -r 0x300 -o s.hex");
    expect_code(2, "bootlace disassemble s.hex -c 65c02 -o s.hex");
    expect_code(2, "bootlace panel s.hex -c 65c02 -o s.hex");
    expect_code(0, "cmp s.hex keep.hex");
}

TEST(links_and_permissions_stay)
{
    a_source();
    expect_code(0, "mkdir far && echo old > far/real.hex && ln -s far/real.hex s.hex && "
                   "chmod 640 far/real.hex");
    expect_code(0, "bootlace assemble s.asm -c 65c02 -o s.hex -q");
    CHECK_CONTAINS(
        expect_code(0, "readlink s.hex; stat -c %%a far/real.hex; head -1 far/real.hex").out,
        "far/real.hex\n640\n:04030000");
    expect_code(0, "ln -s far/new.hex dangling.hex");
    expect_code(0, "bootlace assemble s.asm -c 65c02 -o dangling.hex -q && test -L dangling.hex");
    expect_code(0, "cmp far/new.hex far/real.hex");
    expect_code(0, "echo mine > locked.hex && chmod 444 locked.hex");
    test_run r = expect_code(1, "bootlace assemble s.asm -c 65c02 -o locked.hex");
    CHECK_CONTAINS(r.err, "locked.hex: error: cannot write: the file is read-only");
    stays("locked.hex", "mine\n");
    CHECK_TEXT(expect_code(0, "ls -A | grep -c bootlace || true").out, "0\n");
}

/* Everything that prints a result, with a standard output that is full, closed, or not read. */
TEST(what_is_not_written_is_told)
{
    static const char *const lines[] = {"build --json",
                                        "cpus",
                                        "cpus 65c02 --json",
                                        "chip plan",
                                        "chip plan --json",
                                        "chip write -p sim",
                                        "image show out/chips.hex",
                                        "image show out/chips.hex --json",
                                        "image convert out/chips.hex -o - -f srec",
                                        "assemble lamp.asm -o - -f hex",
                                        "assemble lamp.asm -l -",
                                        "disassemble out/chips.hex -c 65c02",
                                        "panel lamp.asm",
                                        "board run -p sim --for 10ms",
                                        "ports",
                                        "--help",
                                        "chip --help",
                                        "send --help"};
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write -p sim");
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++) {
        test_run r = test_command("bootlace %s >/dev/full", lines[i]);
        if (r.code != 1) test_fail(__FILE__, __LINE__, "%s ended with %d", lines[i], r.code);
        CHECK_CONTAINS(r.err, "standard output");
        r = test_command("bootlace %s >&-", lines[i]);
        if (r.code != 1) test_fail(__FILE__, __LINE__, "%s ended with %d", lines[i], r.code);
        CHECK_CONTAINS(r.err, "standard output");
    }
    test_run r = expect_code(1, "(bootlace disassemble out/U5.bin --at 0x8000 -c 65c02 --all; "
                                "echo $? >code) | head -1 >/dev/null; exit $(cat code)");
    CHECK_CONTAINS(r.err, "standard output: Broken pipe");
    CHECK_CONTAINS(expect_code(1, "echo quit | bootlace console -p sim --keep /dev/full "
                                  ">/dev/null || exit 1; exit 1")
                       .err,
                   "");
    r = expect_code(1, "printf 'send lamp.asm run\\n' | bootlace console -p sim --keep /dev/full");
    CHECK_CONTAINS(r.err, "/dev/full: not all was kept");
}

/* A message of ours is nothing for the machine. */
TEST(closed_streams_do_not_become_the_line)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write -p sim");
    expect_code(0,
                "(bootlace board serve -q >serve.txt & echo $! >pid); await '[ -e state/serial ]'");
    test_run r = test_command("bootlace send lamp.asm -p state/serial --trace t.txt <&- >&- 2>&-");
    CHECK_INT(r.code, 1);
    expect_code(0, "kill $(cat pid); await '! kill -0 $(cat pid) 2>/dev/null'");
    size_t n;
    CHECK_NOT_CONTAINS(test_read_file("t.txt", &n), "76 65 72 69 66"); /* "verif" */
}

TEST(results_of_one_name_are_refused)
{
    copy_example();
    expect_code(0, "cp lamp.asm eyelet.asm");
    edit("bench.yaml", "{source: lamp.asm,",
         "{source: eyelet.asm, for: ram}\n  - {source: lamp.asm,");
    test_run r = expect_code(1, "bootlace build");
    CHECK_CONTAINS(r.err, "bench.yaml:35: error: two pieces are called 'eyelet'");
    CHECK(!test_file_exists("out"));
}

TEST(a_chip_is_not_the_ram)
{
    copy_example();
    edit("bench.yaml", "name: U5", "name: ram");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim").err,
                   "the simulated bench keeps the board's memory in ram.bin");
    CHECK(!test_file_exists("state/ram.bin"));
}

TEST(chips_are_told_apart_by_case)
{
    copy_example_named("skerry-store");
    edit("bench.yaml", "name: U12", "name: u11");
    expect_code(0, "bootlace chip write u11 -p sim && bootlace chip write U11 -p sim");
    expect_code(0, "! cmp -s state/u11.bin state/U11.bin");
    CHECK_NOT_CONTAINS(expect_code(1, "bootlace chip verify u13 -p sim").err, "no chip is called");
    CHECK_CONTAINS(expect_code(2, "bootlace chip verify u99 -p sim").err, "no chip is called");
}

/* Out is old or new, with whatever else lies in it. */
TEST(a_folder_of_results_is_replaced_as_a_set)
{
    copy_example();
    expect_code(0, "bootlace build -q && echo note > out/note.txt && ln -s note.txt out/link && "
                   "chmod 750 out && cp out/lamp.hex old.hex");
    expect_code(0, "echo '        .byte 7' >> lamp.asm");
    expect_code(0, "bootlace build -q && ! cmp -s out/lamp.hex old.hex");
    CHECK_CONTAINS(expect_code(0, "cat out/link; stat -c %%a out").out, "note\n750\n");
    /* Also when whoever started the command ignores the ends of children. */
    expect_code(0, "(trap '' CHLD; exec env --ignore-signal=CHLD bootlace build -q)");
    /* A member that may not be written: all stay as they were. */
    expect_code(0, "cp -a out before && chmod 444 out/lamp.lst");
    expect_code(0, "echo '        .byte 7' >> lamp.asm");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err,
                   "lamp.lst: error: cannot write: the file is");
    expect_code(0, "chmod 644 out/lamp.lst && diff -r before out");
    /* Where the folder cannot be exchanged, its files are replaced one by one. */
    expect_code(0, "mkdir out/deep && echo x > out/deep/x && bootlace build -q && cat out/deep/x");
    expect_code(0, "cd out && bootlace build -q -b ../bench.yaml && test -e lamp.hex");
    CHECK_TEXT(expect_code(0, "find . -name '.bootlace-*'").out, "");
}

TEST(paths_out_of_the_project)
{
    copy_example();
    expect_code(0, "cp bench.yaml plain.yaml && echo 'logbook: ../../log.sqlite' >> bench.yaml");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "leads out of the project's folder");
    expect_code(0, "cp plain.yaml bench.yaml && echo 'out: a/../../b' >> bench.yaml");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "leads out of the project's folder");
    expect_code(0, "cp plain.yaml bench.yaml && echo 'out: a/../b' >> bench.yaml");
    expect_code(0, "bootlace build -q && test -e b/lamp.hex");
    expect_code(0, "cp plain.yaml bench.yaml && echo \"logbook: $PWD/log.sqlite\" >> bench.yaml");
    expect_code(0, "bootlace build -q && stat -c %%a log.sqlite | grep -qx 600");
}

TEST(a_binary_that_is_mostly_gaps)
{
    test_write_file("s.asm", " .org 0\n .byte 1\n .org $20000000\n .byte 2\n");
    CHECK_CONTAINS(expect_code(2, "bootlace assemble s.asm -c 6502 -o s.bin").err,
                   "would have 536870913 bytes, of which 2 are in the image");
    expect_code(0, "bootlace assemble s.asm -c 6502 -o s.hex -q");
    expect_code(2, "bootlace image convert s.hex -o s.bin");
    CHECK(!test_file_exists("s.bin"));
    expect_code(0, "bootlace image cut s.hex -r 0+16 -o s.bin -q && test -s s.bin");
}

/* In the console each command is a piece of work of its own. */
TEST(what_was_read_may_be_written_later)
{
    copy_example();
    expect_code(0, "bootlace chip write -p sim -q");
    expect_code(
        0, "printf '\\017send lamp.asm\\n\\017fetch 0300..0310 page.hex\\n\\017send page.hex\\n"
           "\\017fetch 0300..0310 page.hex\\n' | bootlace console -p sim >/dev/null");
}
