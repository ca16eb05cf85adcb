/* Commands that are killed at any moment: what they write is old or new, nothing is left lying
 * about, and the next command works. BOOTLACE_KILLS: how many times each (perf/kills.sh asks for
 * many). */
#include "cli_support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

/* What a killed command leaves: sums of the files that it writes. Those of before and after, and of
 * stages in between that are whole in themselves. */
enum { STATES = 4, SUM = 200 };

typedef struct victim {
    const char *line;    /* what is run */
    const char *sums;    /* prints what must be old or new, all together */
    const char *restore; /* brings the old back, from a copy in ../old */
    const char *check;   /* must succeed afterwards */
} victim;

static const victim victims[] = {
    {"bootlace build", "cat out/* | cksum", "rm -rf out && cp -a ../old/out out",
     "bootlace build -q"},
    {"bootlace assemble lamp.asm -o x.hex", "cksum x.hex", "cp ../old/x.hex x.hex",
     "test -s x.hex"},
    {"bootlace image convert out/chips.hex -o x.hex -f srec", "cksum x.hex",
     "cp ../old/x.hex x.hex", "test -s x.hex"},
    {"bootlace disassemble out/chips.hex -c 65c02 -o x.hex", "cksum x.hex", "cp ../old/x.hex x.hex",
     "test -s x.hex"},
    {"bootlace chip plan -o x.svg", "cksum x.svg", "cp ../old/x.svg x.svg", "test -s x.svg"},
    {"bootlace chip write -p sim", "cksum state/U5.bin", "rm -rf state && cp -a ../old/state state",
     "bootlace board on -q && bootlace chip history >/dev/null"},
    {"bootlace send lamp.asm -p sim --run", "cksum state/U5.bin",
     "rm -rf state && cp -a ../old/state state", "bootlace send lamp.asm -p sim -q"},
    {"bootlace new harbour", "test ! -e harbour && echo none || cat harbour/* | cksum",
     "rm -rf harbour", "test ! -e harbour || (cd harbour && bootlace build -q); rm -rf harbour"},
    {"bootlace fetch 0x300+256 -o x.hex -p sim", "cksum x.hex", "cp ../old/x.hex x.hex",
     "bootlace check lamp.asm -p sim || true"},
    {"bootlace disk put d.img light.asm out/chips.hex", "cksum d.img", "cp ../old/d.img d.img",
     "bootlace disk check d.img"},
};

static void sums_of(const victim *v, char *sum)
{
    test_run r = test_command("cd work && %s", v->sums);
    snprintf(sum, SUM, "%s", r.out);
}

static void begin(void)
{
    copy_example();
    expect_code(0,
                "mkdir work old && mv *.asm *.yaml work && cd work && bootlace build -q && "
                "bootlace chip write -p sim -q && bootlace send lamp.asm -p sim -q && "
                "echo old >x.hex && echo old >x.svg && "
                "bootlace disk create d.img --kind fat12 -q && cp -a out state x.hex x.svg d.img "
                "../old");
    /* What is written now is something else. */
    expect_code(0, "cd work && sed -i 's/^ON  = .*/ON  = 7/' light.asm");
}

static double duration(const victim *v)
{
    struct timespec a, b;
    clock_gettime(CLOCK_MONOTONIC, &a);
    test_command("cd work && %s >/dev/null 2>&1", v->line);
    clock_gettime(CLOCK_MONOTONIC, &b);
    return (double)(b.tv_sec - a.tv_sec) + (double)(b.tv_nsec - a.tv_nsec) / 1e9;
}

static void kill_once(const victim *v, const char *signal, double after, const char *before,
                      const char *fresh)
{
    char sum[SUM];
    test_command("cd work && %s", v->restore);
    /* What was being put into place when it was killed is so a moment later. */
    test_command("cd work && timeout -s %s %.4f %s >/dev/null 2>&1; sleep 0.02", signal, after,
                 v->line);
    sums_of(v, sum);
    if (strcmp(sum, before) != 0 && strcmp(sum, fresh) != 0)
        test_fail(__FILE__, __LINE__, "%s after %.4f s of %s: neither old nor new:\n%s%s%s", signal,
                  after, v->line, sum, before, fresh);
    CHECK_TEXT(test_command("find . -name '.bootlace-*'").out, "");
    expect_code(0, "cd work && %s && %s >/dev/null", v->check, v->line);
    CHECK_TEXT(test_command("find . -name '.bootlace-*'").out, "");
}

TEST(killed_commands_leave_old_or_new)
{
    static const char *const signals[] = {"INT", "TERM", "KILL", "HUP", "QUIT"};
    const char *wish = getenv("BOOTLACE_KILLS");
    int turns = wish != NULL ? atoi(wish) : 6;
    begin();
    for (size_t i = 0; i < sizeof victims / sizeof victims[0]; i++) {
        const victim *v = &victims[i];
        char before[SUM], fresh[SUM];
        sums_of(v, before);
        double took = duration(v);
        sums_of(v, fresh);
        for (int k = 0; k < turns; k++)
            kill_once(v, signals[k % 5], took * (test_below(1200) / 1000.0), before, fresh);
        test_command("cd work && %s", v->restore);
    }
}

/* A full disk: an error, the old files, and nothing else. */
TEST(writes_that_fail_leave_the_old)
{
    begin();
    for (size_t i = 0; i < sizeof victims / sizeof victims[0]; i++) {
        const victim *v = &victims[i];
        char before[SUM], after[SUM];
        if (strstr(v->line, "fetch") != NULL)
            continue; /* its file is small, the board's state is not */
        sums_of(v, before);
        for (unsigned blocks = 0; blocks < 3; blocks++) {
            test_run r =
                test_command("cd work && (ulimit -f %u; trap '' XFSZ; %s)", blocks, v->line);
            sums_of(v, after);
            if (r.code == 0) continue; /* it fitted */
            CHECK_INT(r.code, 1);
            CHECK_TEXT(after, before);
            CHECK_TEXT(test_command("find . -name '.bootlace-*'").out, "");
        }
        test_command("cd work && %s", v->restore);
    }
}
