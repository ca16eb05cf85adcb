/* What scripts, make and terminals see: JSON that always answers, exit statuses, files for make,
 * help at any width. */
#include "cli_support.h"

#include <stdio.h>
#include <string.h>

/* One JSON object on standard output, whatever went wrong. */
static void expect_error(int code, const char *message, const char *line)
{
    test_run r = expect_code(code, "%s", line);
    CHECK_INT(r.out[0], '{');
    CHECK_CONTAINS(r.out, "\"error\": {");
    CHECK_CONTAINS(r.out, message);
    /* Balanced, and nothing behind it. */
    int depth = 0;
    const char *end = NULL;
    for (const char *p = r.out; *p != '\0'; p++) {
        depth += *p == '{';
        depth -= *p == '}';
        if (depth == 0 && *p == '}' && end == NULL) end = p;
    }
    CHECK(end != NULL);
    CHECK_TEXT(end, "}\n");
}
#define expect_error(...) TEST_CALL(expect_error(__VA_ARGS__))

TEST(json_answers_also_when_it_fails)
{
    copy_example();
    expect_error(1, "\"message\": \"/dev/nope: there is no such device\"",
                 "bootlace send lamp.asm -p /dev/nope --json");
    expect_error(2, "Unknown option --frob", "bootlace chip verify -p sim --json --frob");
    expect_error(1, "\"file\": \"none.hex\"", "bootlace image show none.hex --json");
    expect_error(1, "nothing answers on sim", "bootlace send lamp.asm -p sim --json");
    expect_error(1, "nothing answers on sim", "bootlace fetch 0x300..0x310 -o x.hex -p sim --json");
    expect_error(2, "no sheet for a CPU", "bootlace cpus z99 --json");
    edit("light.asm", "lda character,x", "ldq character,x");
    expect_error(1, "\"line\": 12", "bootlace build --json");
    expect_error(1, "\"column\": 9", "bootlace assemble lamp.asm -b bench.yaml --json");
    expect_error(1, "\"hint\": \"did you mean LDA?", "bootlace check lamp.asm -p sim --json");
    edit("bench.yaml", "clock:", "clocks:");
    expect_error(1, "unknown key 'clocks'", "bootlace chip plan --json");
}

TEST(json_of_builds)
{
    copy_example();
    test_run r = expect_code(0, "bootlace build --json 2>/dev/null");
    CHECK_CONTAINS(r.out, "\"bench\": \"Skerry-65\"");
    CHECK_CONTAINS(r.out, "\"used\": 53");
    CHECK_NOT_CONTAINS(r.out, "error");
    r = expect_code(0, "bootlace assemble lamp.asm -b bench.yaml --json");
    CHECK_CONTAINS(r.out, "\"entry\": 768");
}

TEST(a_file_for_make)
{
    copy_example();
    expect_code(0, "bootlace build -q --depend build.d");
    test_run r = expect_code(0, "cat build.d");
    CHECK_CONTAINS(r.out, "out/chips.hex: \\\n");
    CHECK_CONTAINS(r.out, "\n  light.asm \\\n");
    CHECK_CONTAINS(r.out, "\nlight.asm:\n");
    CHECK_NOT_CONTAINS(r.out, "eyelet.sym");
    expect_code(0, "bootlace assemble lamp.asm -b bench.yaml -o lamp.hex -q --depend lamp.d");
    test_write_file("Makefile", "lamp.hex:\n\ttouch made lamp.hex\n-include lamp.d\n");
    expect_code(
        0, "command -v make >/dev/null || exit 0; touch -d '1 minute ago' *.asm bench.yaml; "
           "make -s && test ! -e made && touch -d '1 hour' light.asm && make -s && test -e made");
}

TEST(a_script_in_the_console_that_fails)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    expect_code(0, "printf '\\017send lamp.asm\\n' | bootlace console -p sim");
    expect_code(1, "printf '\\017nonsense\\n' | bootlace console -p sim");
    expect_code(1, "printf '\\017fetch 0300..03FF no/where.hex\\n' | bootlace console -p sim");
    expect_code(
        1, "printf '\\017check lamp-rom.asm\\n\\017send none.asm\\n' | bootlace console -p sim");
}

static size_t widest(const char *text, const char *until)
{
    size_t max = 0;
    const char *end = until != NULL ? strstr(text, until) : NULL;
    for (const char *at = text; *at != '\0' && (end == NULL || at < end);) {
        size_t n = 0, bytes = strcspn(at, "\n");
        for (size_t i = 0; i < bytes; i++)
            n += ((unsigned char)at[i] & 0xC0) != 0x80;
        if (n > max) max = n;
        at += bytes + (at[bytes] == '\n');
    }
    return max;
}

TEST(help_and_tables_fit_the_terminal)
{
    static const char *const commands[] = {"send", "chip write", "assemble", "disassemble",
                                           "image join"};
    copy_example();
    expect_code(0, "bootlace build -q");
    for (size_t i = 0; i < 5; i++) {
        test_run r = expect_code(0, "COLUMNS=60 TERM=dumb bootlace %s --help", commands[i]);
        CHECK(widest(r.out, "Example:") <= 60);
        r = expect_code(0, "COLUMNS=180 bootlace help %s", commands[i]);
        CHECK(widest(r.out, "Example:") > 60);
        CHECK_CONTAINS(r.out, "Example:");
    }
    test_run r = expect_code(0, "COLUMNS=72 env -u TERM bootlace chip plan");
    CHECK(widest(r.out, NULL) <= 72);
    r = expect_code(0, "COLUMNS=80 bootlace cpus z80");
    CHECK_CONTAINS(r.out, "Map of the first code");
    CHECK(widest(strstr(r.out, "Map of the first code"), NULL) <= 80);
    CHECK_CONTAINS(expect_code(2, "bootlace help frobnicate").err, "there is no command");
}
