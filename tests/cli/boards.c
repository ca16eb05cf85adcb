/* The whole path on the other boards: source, chip, verified, running, changed, proved. */
#include "support.h"

#include <stdio.h>
#include <string.h>

/* A board of examples/, and what its program does. */
static const struct board {
    const char *folder, *name, *chip, *start; /* start: what the plan says of the reset */
    const char *power_on, *banner, *first, *second;
    const char *source, *program, *from, *to; /* an edit that changes one byte */
    const char *sent, *difference;
    const char *range, *size; /* of the program in RAM */
    const char *last;         /* where four bytes end at the last address that can be written */
} boards[] = {
    {"skerry-80", "Skerry-80", "U3", "reset  $0000  runs from here", "Z80 at 4 MHz",
     "Eyelet 1 for the Z80", "0.277 s  horn     *......*  $81", "2.277 s  horn     ........  $00",
     "signal.asm", "horn.asm", "SOUND, 20", "SOUND, 10", "Eyelet Z80 computed",
     "$8223  expected 14  found 0A  steps+1, signal.asm:33", "$8200+46", "46", "$FBFC"},
    {"skerry-85", "Skerry-85", "U7", "rst7_5 $003C  runs from here", "8085 at 3.072 MHz",
     "Eyelet 1 for the 8080 and 8085", "staff    .......*  $01", "staff    ********  $FF",
     "staff.asm", "tide.asm", ".byte 4, 9", ".byte 4, 8", "Eyelet 8080/85 computed",
     "$423D  expected 09  found 08  heights+1, staff.asm:47", "$4200+85", "85", "$5EFC"},
    {"skerry-68", "Skerry-68", "U2", "reset  $FFFE  -> $FC00  cold", "6809 at 1 MHz",
     "Eyelet 1 for the 6809", "0.274 s  lantern  ********  $FF", "0.374 s  lantern  ........  $00",
     "blink.asm", "message.asm", "FOG AT DAWN", "FOG AT DUWN", "Eyelet 6809 computed",
     "$0278  expected 41  found 55  message+8, blink.asm:63", "$0200+124", "124", "$1DFC"},
};
#define FOR_EACH_BOARD(b) for (const struct board *b = boards; b < boards + 3; b++)

/* From source to proven memory. */
static void whole_path(const struct board *b)
{
    copy_example_named(b->folder);
    test_run r = expect_code(0, "bootlace build");
    CHECK_CONTAINS(r.err, "built: 11 files in out");
    CHECK_NOT_CONTAINS(r.err, "warning");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan").out, b->start);
    CHECK_CONTAINS(expect_code(0, "bootlace chip write %s -p sim", b->chip).out, "verified:");
    r = expect_code(0, "bootlace board run -p sim --for 9s");
    CHECK_CONTAINS(r.out, b->name);
    CHECK_CONTAINS(r.out, b->power_on);
    CHECK_CONTAINS(r.out, b->banner);
    CHECK_CONTAINS(r.out, b->first);
    CHECK_CONTAINS(r.out, b->second);

    edit(b->source, b->from, b->to);
    r = expect_code(0, "bootlace send %s -p sim --run", b->program);
    CHECK_CONTAINS(r.out, b->sent);
    expect_code(0, "bootlace board run -p sim --for 3s");
    r = expect_code(0, "bootlace check %s -p sim", b->program);
    CHECK_CONTAINS(r.out, "same");
    CHECK_CONTAINS(r.err, "the program that was running goes on");
    edit(b->source, b->to, b->from);
    r = expect_code(1, "bootlace check %s -p sim", b->program);
    CHECK_CONTAINS(r.err, b->difference);
    expect_code(0, "bootlace fetch '%s' -p sim -o back.bin && test $(wc -c <back.bin) -eq %s",
                b->range, b->size);
}

TEST(skerry_80_from_source_to_proven_memory)
{
    whole_path(&boards[0]);
}

TEST(skerry_85_from_source_to_proven_memory)
{
    whole_path(&boards[1]);
}

TEST(skerry_68_from_source_to_proven_memory)
{
    whole_path(&boards[2]);
}

/* The same Eyelet in an 8080, which takes the 8085's place with a slower clock. */
TEST(an_8080_in_the_place_of_the_8085)
{
    copy_example_named("skerry-85");
    edit("bench.yaml", "cpu: 8085", "cpu: 8080");
    edit("bench.yaml", "3.072 MHz", "2 MHz");
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "bootlace board run -p sim --for 1s");
    CHECK_CONTAINS(r.out, "8080 at 2 MHz");
    CHECK_CONTAINS(r.out, "staff    ...*****  $1F");
    CHECK_CONTAINS(expect_code(0, "bootlace send tide.asm -p sim --run").out, "verified:");
    edit("bench.yaml", "cpu: 8080", "cpu: 6800");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err,
                   "no firmware 'eyelet' comes with Bootlace for the 6800");
}

TEST(the_other_boards_on_noisy_lines)
{
    FOR_EACH_BOARD(b)
    {
        copy_example_named(b->folder);
        expect_code(0, "bootlace chip write -q -p sim");
        const char *at = b->range; /* the program's address stands before the plus sign */
        char first[8];
        CHECK(sscanf(at, "%7[$0-9A-F]", first) == 1);
        expect_code(0, "head -c 3000 /dev/urandom > big.bin");
        for (unsigned seed = 1; seed <= 3; seed++) {
            expect_code(0, "bootlace send big.bin --at '%s' -p sim --fault flip=1/3000 --seed %u",
                        first, seed);
            expect_code(0, "bootlace fetch '%s+3000' -o back.bin -p sim && cmp back.bin big.bin",
                        first);
            expect_code(0,
                        "dd if=/dev/urandom of=big.bin bs=1 seek=%u count=90 conv=notrunc 2>dd.err",
                        seed * 600);
        }
        /* The last address below the stack can be written, Eyelet's own RAM cannot. */
        expect_code(0, "printf abcd > top.bin && bootlace send top.bin --at '%s' -p sim", b->last);
        CHECK_CONTAINS(expect_code(1, "bootlace send top.bin --at '$0100' -p sim").err, "error");
    }
}
