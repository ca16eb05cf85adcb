/* Projects from anywhere: whatever is in them, the command ends soon, within bounds of memory, with
 * a clear error; and nothing that they hold reaches a terminal raw. */
#include "cli_support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* A sanitized program reserves all addresses there are, and is several times as slow. */
#if defined(__SANITIZE_ADDRESS__)
#define LIMITS "ulimit -t 20"
#else
#define LIMITS "ulimit -t 2; ulimit -v 262144"
#endif

static test_run within(const char *line)
{
    test_run r = test_command("(" LIMITS "; exec bootlace %s)", line);
    if (r.code != 0 && r.code != 1 && r.code != 2)
        test_fail(__FILE__, __LINE__, "%s: ended with %d\n%.300s", line, r.code, r.err);
    return r;
}

static void fails(const char *said, const char *line)
{
    test_run r = within(line);
    CHECK(r.code == 1 || r.code == 2);
    CHECK_CONTAINS(r.err, said);
}
#define fails(...) TEST_CALL(fails(__VA_ARGS__))

/* A text in a file, then something again and again. */
static void write_many(const char *name, const char *head, const char *again, long count,
                       const char *tail)
{
    FILE *f = fopen(test_path(name), "w");
    if (f == NULL) test_fail(__FILE__, __LINE__, "cannot write %s", name);
    fputs(head, f);
    for (long i = 0; i < count; i++)
        fprintf(f, again, i, i + 1);
    fputs(tail, f);
    fclose(f);
}

TEST(sources_that_would_take_for_ever)
{
    test_folder();
    for (int i = 0; i < 40; i++) {
        char name[20], text[80];
        snprintf(name, sizeof name, "i%d.asm", i);
        snprintf(text, sizeof text, " .include \"i%d.asm\"\n .include \"i%d.asm\"\n", i + 1, i + 1);
        test_write_file(name, text);
    }
    test_write_file("i40.asm", "; the end\n");
    fails("more than 10000 files are included", "assemble i0.asm -c 65c02 -o x.bin");
    write_many("big.asm", "", "; a line that says nothing, %ld %ld\n", 100000, "");
    write_many("bigs.asm", "", " .include \"big.asm\" ; %ld %ld\n", 100, "");
    fails("includes bring more than 16 MiB of text", "assemble bigs.asm -c 65c02");
    write_many("terms.asm", " .org 0\n .word (", "%ld - %ld + ", 100000, "0) & 0\n");
    CHECK_INT(within("assemble terms.asm -c 65c02 -o x.bin").code, 0);
    write_many("ones.asm", " .org 0\n .word lo(1", "+1", 1000000, ")\n");
    CHECK_INT(within("assemble ones.asm -c 65c02 -o x.bin").code, 0);
    write_many("fall.asm", "", "c%ld = c%ld + 1\n", 20000,
               "c20000 = last\n .org 0\n .word c0\nlast:\n");
    CHECK_INT(within("assemble fall.asm -c 65c02 -o x.bin").code, 0);
    CHECK_BYTES(test_read_file("x.bin", NULL), 2, "\x22\x4E", 2); /* 20,002 */
    write_many("twice.asm", "", "c%2$ld = c%1$ld + c%1$ld\n", 60,
               "c0 = last - last\n .if c60\n .end\n .org 0\n .word c60\nlast:\n");
    fails("this must be known here", "assemble twice.asm -c 65c02");
    write_many("spread.asm", "", " .org $FFFFFF - %ld * 3\n .byte %ld & 1\n", 60000, "");
    CHECK_INT(within("assemble spread.asm -c 65c02 -o x.hex").code, 0);
    write_many("fill.asm", " .org 0\n", " .fill $F0000, %ld & %ld & 1\n", 20, "");
    fails("more than 16 MiB", "assemble fill.asm -c 65c02 -o x.hex -l x.lst");
    write_many("fills.asm", " .org 0\n", " .fill $F0000, %ld & %ld & 1\n", 16, "");
    CHECK_INT(within("assemble fills.asm -c 65c02 -o x.hex -l x.lst").code, 0);
}

TEST(a_name_for_the_place_is_not_defined)
{
    test_write_file("h.asm", "here = 5\nhere: .byte 1\n .byte here\n");
    test_run r = expect_code(1, "bootlace assemble h.asm -c 65c02");
    CHECK_CONTAINS(r.err, "h.asm:1:1: error: 'here' is the address of the statement");
    CHECK_CONTAINS(r.err, "h.asm:2:1: error: 'here' is the address of the statement");
    test_write_file("h.asm", " .org 0\n .byte here\n");
    CHECK_CONTAINS(expect_code(1, "bootlace assemble h.asm -c 65c02 -D here=4").err,
                   "'here' is the address of the statement, and cannot be given a value");
}

static void record(FILE *f, unsigned long address, size_t count)
{
    unsigned sum =
        (unsigned)(count + 5 + (address >> 24) + (address >> 16) + (address >> 8) + address);
    fprintf(f, "S3%02X%08lX", (unsigned)(count + 5), address);
    for (size_t i = 0; i < count; i++)
        fputs("00", f);
    fprintf(f, "%02X\n", ~sum & 0xFF);
}

TEST(image_files_in_any_order)
{
    static const struct {
        const char *name;
        unsigned long step;
        size_t count;
        bool gaps;
    } all[] = {{"fall.s19", 16, 16, false}, {"gaps.s19", 32, 16, true}, {"apart.s19", 3, 1, false}};
    test_folder();
    for (size_t k = 0; k < sizeof all / sizeof all[0]; k++) {
        FILE *f = fopen(test_path(all[k].name), "w");
        for (unsigned long i = 0; i < 60000; i++)
            record(f, 0x10000000 - i * all[k].step, all[k].count);
        for (unsigned long i = 0; i < 60000 && all[k].gaps; i++)
            record(f, 0x10000010 - i * all[k].step, all[k].count);
        fputs("S70500000000FA\n", f);
        fclose(f);
        char line[80];
        snprintf(line, sizeof line, "image convert %s -o back.hex", all[k].name);
        CHECK_INT(within(line).code, 0);
    }
}

TEST(bench_files_that_would_take_for_ever)
{
    static const char head[] = "bench: x\ncpu: big.sheet\nclock: 1 MHz\n";
    char text[600];
    copy_example();
    write_many("deep.yaml", "", "[", 100000, "");
    fails("nested more than 16 deep", "build -b deep.yaml");
    write_many("keys.yaml", "", "k%ld: %ld\n", 30000, "");
    fails("more than 50,000 items", "build -b keys.yaml");
    write_many("some.yaml", "bench: x\ncpu: 65c02\nclock: 1 MHz\n", "k%ld: %ld\n", 9000, "");
    fails("more faults are not shown", "build -b some.yaml");
    test_write_file("alias.yaml", "bench: &a x\ncpu: 65c02\nclock: *a\n");
    fails("anchors and aliases are not used", "build -b alias.yaml");
    test_write_file("big.sheet", "sheet big\naddress 32\nform NOP | 00 | 1\n");
    test_write_file("a.asm", " .org 0\n nop\n .org $FFFFFF00\n nop\n");
    snprintf(text, sizeof text,
             "%sareas:\n  - {name: rom, range: '0..0xFFFFFFFF', kind: rom}\nchips:\n  - {name: U1, "
             "part: 28C256, maps: [{cpu: '0..0xFFFFFFFF', mirrored: yes}]}\nbuild:\n  - {source: "
             "a.asm, for: chips}\n",
             head);
    test_write_file("whole.yaml", text);
    CHECK_INT(within("build -b whole.yaml").code, 0);
    CHECK_INT(within("chip plan -b whole.yaml").code, 0);
    CHECK_INT(within("chip write -b whole.yaml -p sim").code, 0);
    snprintf(text, sizeof text,
             "%sareas:\n  - {name: rom, range: '0..0xFF', kind: rom}\nchips:\n  - {name: U1, part: "
             "28C256, maps: [{cpu: '0..0xFFFFFFFF'}]}\nbuild:\n  - {source: a.asm, for: chips}\n",
             head);
    test_write_file("map.yaml", text);
    fails("$100000000 bytes from offset $0 on do not fit", "build -b map.yaml");
    test_write_file("vpp.yaml", "bench: x\ncpu: 65c02\nclock: 1 MHz\nprogrammer: {vpp: 50 V}\n");
    fails("50 V is too small or too large here", "build -b vpp.yaml");
    test_write_file("nan.yaml", "bench: x\ncpu: 65c02\nclock: nan MHz\nprogrammer: {vpp: nan V}\n");
    fails("'nan MHz' is not a clock rate", "build -b nan.yaml");
}

TEST(names_of_thousands_of_characters)
{
    static char text[40000], name[5001];
    memset(name, 'n', 5000);
    snprintf(text, sizeof text, "sheet %s\nform NOP | 00 | 1\n", name);
    test_write_file("a.sheet", text);
    fails("a line has at most 1000 characters", "disassemble a.sheet --at 0 -c a.sheet");
    name[500] = '\0';
    snprintf(text, sizeof text, "sheet x\nvector %s 0\nform NOP | 00 | 1\n", name);
    test_write_file("b.sheet", text);
    fails("a name has at most 40 characters", "disassemble a.sheet --at 0 -c b.sheet");
    snprintf(text, sizeof text,
             "bench: x\ncpu: 65c02\nclock: 1 MHz\nareas:\n  - {name: %.190s, range: "
             "0..1, kind: ram}\n",
             name);
    test_write_file("c.yaml", text);
    fails("a name has at most 40 characters", "build -b c.yaml");
}

/* ---- terminals ---- */

static const char *const evil[] = {"\x1b[2J",
                                   "\x1b]0;owned\x07",
                                   "\x9b"
                                   "2J",
                                   "\xC2\x9B"
                                   "31m",
                                   "\x7F",
                                   "\xE2\x80\xAE",
                                   "\b\b\b"};
enum { EVILS = sizeof evil / sizeof evil[0] };

/* Runs the line on a terminal; the text must not come out as it is. */
static void shows_safely(const char *text, const char *line)
{
    test_run r = test_command("env -u NO_COLOR peer-terminal sh -c \"bootlace %s\"", line);
    if (strstr(r.out, text) != NULL)
        test_fail(__FILE__, __LINE__, "%s passed a control sequence on", line);
    CHECK(r.out_count > 0);
}

TEST(control_sequences_do_not_reach_a_terminal)
{
    char text[400], name[60];
    copy_example();
    expect_code(0, "bootlace build -q");
    for (size_t i = 0; i < EVILS; i++) {
        snprintf(text, sizeof text, " lda #%s\n bogus \"%s\"\n .note \"%s\"\n .include \"%s\"\n",
                 evil[i], evil[i], evil[i], evil[i]);
        test_write_file("s.asm", text);
        shows_safely(evil[i], "assemble s.asm -c 65c02");
        snprintf(text, sizeof text, " .org 0 ; %s\n .byte 1 ; %s\n", evil[i], evil[i]);
        test_write_file("s.asm", text);
        shows_safely(evil[i], "assemble s.asm -c 65c02 -l -");
        snprintf(text, sizeof text, "bench: \"a%s\"\ncpu: 65c02\nclock: 1 MHz\n", evil[i]);
        test_write_file("b.yaml", text);
        shows_safely(evil[i], "build -b b.yaml");
        snprintf(text, sizeof text, "sheet a%s\ntitle \"%s\"\nform NOP | 00 | 1\n", evil[i],
                 evil[i]);
        test_write_file("e.sheet", text);
        shows_safely(evil[i], "cpus e.sheet");
        snprintf(text, sizeof text, "bootlace symbols 1\nlabel a%s x%s\n", evil[i], evil[i]);
        test_write_file("e.sym", text);
        shows_safely(evil[i], "disassemble out/chips.hex -c 65c02 -y e.sym");
        snprintf(text, sizeof text, ":00%s\n", evil[i]);
        test_write_file("e.hex", text);
        shows_safely(evil[i], "image show e.hex");
        snprintf(name, sizeof name, "f%s.hex", evil[i]);
        expect_code(0, "cp out/lamp.hex \"%s\"", name);
        snprintf(text, sizeof text, "image show f*.hex; bootlace image compare f*.hex out/U5.bin");
        shows_safely(evil[i], text);
        expect_code(0, "rm f*.hex");
        snprintf(text, sizeof text, "name \"a%s\"\nprompt \">%s\"\nwake \"%s\"\nbogus%s\n", evil[i],
                 evil[i], evil[i], evil[i]);
        test_write_file("e.dialogue", text);
        test_write_file("d.yaml",
                        "bench: x\ncpu: 65c02\nclock: 1 MHz\nlink: {dialogue: e.dialogue}\n");
        shows_safely(evil[i], "build -b d.yaml");
    }
}
