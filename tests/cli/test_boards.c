/* The whole path on the other boards: source, chip, verified, running, changed, proved. */
#include "cli_support.h"

#include <stdio.h>
#include <stdlib.h>
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
    {"skerry-68", "Skerry-68", "U2", "reset  $FFFE  -> $F800  cold", "6809 at 1 MHz",
     "Eyelet 1 for the 6809", "0.274 s  lantern  ********  $FF", "0.374 s  lantern  ........  $00",
     "blink.asm", "message.asm", "FOG AT DAWN", "FOG AT DUWN", "Eyelet 6809 computed",
     "$0278  expected 41  found 55  message+8, blink.asm:63", "$0200+124", "124", "$1DFC"},
    {"skerry-60", "Skerry-60", "U2", "reset  $FFFE  -> $FA00  cold", "6800 at 1 MHz",
     "Eyelet 1 for the 6800", "0.274 s  bell     .......*  $01", "0.374 s  bell     ........  $00",
     "ring.asm", "bell.asm", "$80 | 1, 14", "$80 | 1, 15", "Eyelet 6800 computed",
     "$022E  expected 0E  found 0F  strokes+3, ring.asm:37", "$0200+48", "48", "$1DFC"},
};
#define FOR_EACH_BOARD(b)                                                                          \
    for (const struct board *b = boards; b < boards + sizeof boards / sizeof boards[0]; b++)

/* From source to proven memory. */
static void whole_path(const struct board *b)
{
    copy_example_named(b->folder);
    test_run r = expect_code(0, "bootlace build");
    CHECK_CONTAINS(r.err, " files in out");
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

TEST(skerry_60_from_source_to_proven_memory)
{
    whole_path(&boards[3]);
}

/* What is there is read from the lamps, and stepped through; what was sent last is known. */
TEST(a_panel_examines_and_steps_and_what_was_sent_is_checked)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    CHECK_CONTAINS(expect_code(1, "bootlace check --sent -p sim").err,
                   "knows of nothing that was sent over this line");
    expect_code(0, "bootlace send lamp.asm -q -p sim");
    test_run r = expect_code(0, "bootlace panel lamp.asm --examine --steps 3");
    CHECK_CONTAINS(r.out, "the lamps show all 51 as they should be\n"
                          "step 1: the lamps show $0302  BD  light._step, light.asm:12\n"
                          "step 2: the lamps show $0305  8D  light._step+3, light.asm:13\n"
                          "step 3: the lamps show $0308  BC  light._step+6, light.asm:14\n");
    CHECK_NOT_CONTAINS(r.out, "toggled");
    expect_code(0, "echo 'put 0303 5' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(expect_code(1, "bootlace panel lamp.asm --examine").err,
                   "the lamps differ at 1 of 51 addresses; first at $0303: expected 2B, found 05");
    expect_code(0, "bootlace panel lamp.asm --examine -r light+2");
    expect_code(2, "bootlace panel lamp.asm --steps 3");
    expect_code(2, "bootlace panel lamp.asm --enter --examine");
    edit("light.asm", "ldx #0", "ldx #1"); /* the source is not asked */
    CHECK_CONTAINS(expect_code(1, "bootlace check --sent -p sim").err,
                   "$0303  expected 2B  found 05");
    expect_code(0, "bootlace check --sent -p sim -r '$0304+40'");
    expect_code(2, "bootlace check --sent lamp.asm -p sim");
}

/* Stored, switched off and on: it runs. Then the area is not there. */
TEST(a_program_is_kept_without_power)
{
    copy_example_named("skerry-60");
    edit("bench.yaml", "$0200..$1DFF, kind: ram}",
         "$0200..$17FF, kind: ram}\n"
         "  - {name: stored_head, range: $1800..$1805, kind: ram, battery: true}\n"
         "  - {name: stored, range: $1806..$1DFF, kind: ram, battery: true}");
    test_write_file("kept.asm", "        .use \"out/eyelet.sym\" as eyelet\n"
                                "        .place stored\n        .entry start\n"
                                "start:  ldx #text\n        jsr eyelet.say\n"
                                "_stay:  jsr eyelet.poll\n        bra _stay\n"
                                "text:   .text \"kept and running\" ending 0\n");
    expect_code(0, "bootlace build -q && bootlace chip write -q -p sim");
    CHECK_NOT_CONTAINS(expect_code(0, "bootlace board run -p sim --for 1s").out, "kept");
    test_run r = expect_code(0, "bootlace send kept.asm --store -p sim");
    CHECK_CONTAINS(r.out, "kept: it starts at power-on");
    expect_code(0, "bootlace board off");
    CHECK_CONTAINS(expect_code(0, "bootlace board run -p sim --for 1s").out, "kept and running");
    r = expect_code(0, "printf 'reset\\nrun for 1s\\n' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.out, "kept and running");
    r = expect_code(0,
                    "printf 'reset held\\nrun for 1s\\n' | bootlace console -p sim --commands -");
    CHECK_NOT_CONTAINS(r.out, "kept and running");
    CHECK_CONTAINS(r.out, "eyelet> ");
    CHECK_CONTAINS(expect_code(1, "bootlace send bell.asm --store -p sim").err,
                   "48 bytes at $0200 are not in the area 'stored'");
    edit("bench.yaml", "kind: rom, fill: $FF}", "kind: rom, battery: true}");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "a battery keeps nothing there");
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
    edit("bench.yaml", "cpu: 8080", "cpu: 4004");
    expect_code(1, "bootlace build");
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

/* A slow line without faults: nothing is sent twice. */
TEST(nothing_is_sent_again_at_300_baud)
{
    static const char *const slow[] = {"skerry-65", "skerry-80", "skerry-85", "skerry-68"};
    for (size_t i = 0; i < sizeof slow / sizeof slow[0]; i++) {
        expect_code(0, "rm -rf *");
        copy_example_named(slow[i]);
        expect_code(
            0, "sed -i 's/baud: *[0-9]*/baud: 300/' bench.yaml && bootlace chip write -p sim -q");
        expect_code(
            0, "(echo '        .place program'; for i in $(seq 60); do echo \"        .byte $i, 3, "
               "$i, 17, 99, 0, $((255 - i)), $i\"; done) >block.asm");
        test_run r = expect_code(0, "bootlace send block.asm -p sim");
        CHECK_CONTAINS(r.out, "block.asm: 480 of 480 bytes written");
        CHECK_NOT_CONTAINS(r.out, "sent again");
        CHECK_NOT_CONTAINS(expect_code(0, "bootlace send block.asm -p sim").out, "sent again");
    }
}

TEST(a_board_that_was_switched_on_hears_at_once)
{
    copy_example();
    expect_code(0, "bootlace chip write -p sim -q && bootlace board on -q");
    CHECK_NOT_CONTAINS(expect_code(0, "bootlace send lamp.asm -p sim").out, "sent again");
}

/* A client that is killed leaves nothing behind: the next one has the port at once. */
TEST(the_port_of_a_killed_client_is_free_at_once)
{
    copy_example();
    expect_code(0, "bootlace chip write -p sim -q");
    expect_code(0, "mkfifo keys; exec 9<>keys; "
                   "bootlace board serve >serve.log 2>&1 & server=$!; "
                   "await '[ -e state/serial ]'; code=0; "
                   "for i in 1 2 3 4 5 6; do "
                   "bootlace console -p state/serial <&9 >said.txt 2>&1 & client=$!; "
                   "sleep 0.3; kill -KILL $client; "
                   "bootlace send lamp.asm -p state/serial -q || code=7; done; "
                   "kill $server; wait $server; exit $code");
}

/* After a send that broke off, what is right already is kept: also when another one had gone well
 * before. */
TEST(what_is_right_already_is_kept)
{
    copy_example_named("skerry-80");
    expect_code(0, "bootlace chip write -p sim -q");
    expect_code(
        0, "(echo '        .place program'; for i in $(seq 250); do echo \"        .byte $i, 3, "
           "$i, 17, 99, 0, $((255 - i)), $i\"; done) >block.asm");
    expect_code(0, "bootlace send block.asm -p sim");
    expect_code(0, "sed -i 's/17/18/' block.asm");
    test_run r = expect_code(1, "bootlace send block.asm -p sim --fault vanish=1700");
    CHECK_CONTAINS(r.err, "nothing is verified; run the command again");
    r = expect_code(0, "bootlace send block.asm -p sim");
    unsigned long written = strtoul(r.out + strlen("block.asm: "), NULL, 10);
    if (written == 0 || written >= 2000) test_fail(__FILE__, __LINE__, "%s", r.out);
}

/* Addresses of a machine with words are its own, whatever asks for them. */
TEST(words_have_addresses_of_their_own)
{
    copy_example_named("cleat");
    expect_code(0, "bootlace send winch.asm -p sim -q");
    expect_code(0, "printf '\\016\\001\\002\\003' >two.bin");
    CHECK_CONTAINS(expect_code(0, "bootlace send two.bin --at 0o301 -p sim").out,
                   "two.bin: 4 of 4 bytes written");
    expect_code(0, "bootlace fetch 0o301+2 -o back.bin -p sim -q && cmp two.bin back.bin");
    expect_code(0, "bootlace fetch 0o301..0o302 -o back.hex -p sim -q");
    CHECK_CONTAINS(expect_code(0, "cat back.hex").out,
                   ":040182000E01020365"); /* bytes: twice 0301 */
    test_run r = expect_code(1, "bootlace send two.bin --at 0o100 -p sim");
    CHECK_CONTAINS(r.err, "is in no area");
    expect_code(0, "printf '\\001' >half.bin");
    CHECK_CONTAINS(expect_code(1, "bootlace send half.bin --at 0o300 -p sim").err,
                   "begin or end within a word");
    CHECK_CONTAINS(expect_code(0, "bootlace panel winch.asm -r 0o201+2").out, "2 to enter");
    CHECK_CONTAINS(expect_code(0, "bootlace build").err, "winch");
}

/* Wider than the protocol: nothing is sent, whatever would have been verified. */
TEST(addresses_wider_than_the_protocol)
{
    copy_example();
    test_write_file("big.sheet", "sheet big\naddress 32\noperand n value 8\nform NOP | 00 | 1\n");
    edit("bench.yaml", "cpu: 65c02", "cpu: big.sheet");
    edit("bench.yaml",
         "areas:", "areas:\n  - {name: high, range: 0x1000000..0x10000FF, kind: ram}");
    edit("bench.yaml",
         "  - {firmware: eyelet, for: chips}\n  - {source: lamp-rom.asm, for: chips}\n", "");
    edit("bench.yaml", "  - {source: lamp.asm, for: ram}", "  - {source: far.asm, for: ram}");
    test_write_file("far.asm", " .org 0x1000000\n nop\n");
    expect_code(0, "(bootlace board serve -b nothing.yaml; true) 2>/dev/null");
    expect_code(
        0,
        "cp -r '%s'/examples/skerry-65 real && cd real && bootlace chip write -p sim -q && "
        "(bootlace board serve -q >/dev/null & echo $! >../pid); await '[ -e state/serial ]'",
        test_source_folder());
    test_run r = expect_code(1, "bootlace send far.asm -p real/state/serial");
    CHECK_CONTAINS(r.err, "nothing was done: $01000000 cannot be addressed by method eyelet");
    r = expect_code(1, "bootlace send far.asm -p real/state/serial --method acked");
    CHECK_CONTAINS(r.err, "cannot be addressed by method acked");
    expect_code(0, "kill $(cat pid)");
}
