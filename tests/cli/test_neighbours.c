/* Machines that are not ours: four neighbours with monitors of their own, Bollard in assembly, bare
 * machines, radio, and lines on which something is wrong. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cli_support.h"

TEST(thrift_and_its_single_letters)
{
    copy_example_named("thrift");
    edit("buoy.asm", ".fill 160, 0", ".fill 256, 0"); /* $0401 is in it */
    test_run r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "verified: Thrift gave all 293 bytes back");
    r = expect_code(1, "bootlace check -p sim --fault poke='$0401:$5A'");
    CHECK_CONTAINS(r.err, "contents differ: 1 byte is wrong");
    CHECK_CONTAINS(r.err, "$0401  expected 00  found 5A  flashes+228, buoy.asm:28");
    r = expect_code(0, "bootlace send -p sim --method typing");
    CHECK_CONTAINS(r.out, "32 of 293 bytes written in 1 block");
    expect_code(0, "bootlace fetch '$0300+293' -o back.bin -p sim && bootlace assemble buoy.asm -q "
                   "-o built.bin && cmp built.bin back.bin");
    /* Started, it is the CPU that goes on from there. */
    r = expect_code(0, "bootlace send -p sim --run && bootlace board run --for 1s");
    CHECK_CONTAINS(r.out, "started from $0300; nothing there says whether it runs");
    CHECK_CONTAINS(r.out, "lamps");
}

TEST(bollard_takes_xmodem_on_a_real_rom)
{
    copy_example_named("bollard");
    edit("buoy.asm", ".fill 160, 0", ".fill 300, 0");
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "verified: Bollard gave all 337 bytes back");
    CHECK_CONTAINS(r.err, "47 bytes behind it, from $0451 on, had to be sent too: they were read");
    r = expect_code(1, "bootlace check -p sim --fault poke='$0401:$5A'");
    CHECK_CONTAINS(r.err, "expected 00  found 5A");
    r = expect_code(0, "bootlace send -p sim --method typing");
    CHECK_CONTAINS(r.out, "32 of 337 bytes written in 1 block");
    r = expect_code(0, "bootlace send -p sim --all --method xmodem");
    CHECK_CONTAINS(r.out, "337 of 337 bytes written");
}

TEST(cleat_speaks_octal_words)
{
    copy_example_named("cleat");
    test_run r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "verified: Cleat gave all 110 bytes back, and each is right");
    r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "were there already; nothing written");
    expect_code(0, "bootlace assemble winch.asm -q -o built.bin && bootlace fetch '0o200+55' -o "
                   "back.bin -p sim && cmp built.bin back.bin");
    /* A word that has changed is told with its place, and mended with its block. */
    r = expect_code(1, "bootlace check -p sim --fault poke='$0110:$5A'");
    CHECK_CONTAINS(r.err, "1 byte is wrong");
    CHECK_CONTAINS(r.err, "0o000210  expected 01  found 5A  step, winch.asm:13");
    r = expect_code(0, "bootlace send -p sim --run");
    CHECK_CONTAINS(r.out, "32 of 110 bytes written in 1 block");
    CHECK_CONTAINS(r.out, "started from 0o000200");
}

TEST(purser_asks_and_takes_records)
{
    copy_example_named("purser");
    edit("buoy.asm", ".fill 160, 0", ".fill 256, 0");
    test_run r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "verified: Purser gave all 293 bytes back");
    r = expect_code(0, "bootlace send -p sim --all --method typing");
    CHECK_CONTAINS(r.out, "verified: Purser gave all 293 bytes back");
    r = expect_code(1, "bootlace check -p sim --fault poke='$0401:$5A'");
    CHECK_CONTAINS(r.err, "expected 00  found 5A");
    expect_code(0, "bootlace send -q -p sim && bootlace check -p sim");
    /* The menu's questions are not the program's words. */
    r = expect_code(0, "bootlace send -p sim --run");
    CHECK_CONTAINS(r.out, "started from $0300");
    CHECK_NOT_CONTAINS(r.out, "says  ");
}

TEST(neighbours_on_bad_lines)
{
    static const char *const folders[] = {"thrift", "cleat", "purser", "bollard", "petrel"};
    for (size_t i = 0; i < 5; i++) {
        copy_example_named(folders[i]);
        if (i == 3) expect_code(0, "bootlace chip write -q -p sim");
        for (int seed = 0; seed < 4; seed++) {
            test_run r = test_command("bootlace send -p sim --all --seed %d --fault flip=1/20000 "
                                      "--fault lose=1/2000",
                                      seed);
            /* It may fail; it may not claim what is not so. */
            bool verified = strstr(r.out, "verified: ") != NULL;
            CHECK_INT(r.code, verified ? 0 : 1);
            if (i < 4 && verified) expect_code(0, "bootlace check -p sim");
        }
    }
}

TEST(petrel_is_reached_by_radio)
{
    copy_example_named("petrel");
    test_run r = expect_code(0, "bootlace send -p sim");
    CHECK_CONTAINS(r.out, "verified: the machine compared the CRC-32 of all 197 bytes");
    r = expect_code(0, "bootlace send -p sim --method blind-packets");
    CHECK_CONTAINS(r.out, "not verified: nothing there can be asked");
    CHECK_CONTAINS(expect_code(0, "bootlace send -p sim --method blind-packets --json").out,
                   "\"verified\": false");
    r = expect_code(1, "bootlace send -p sim --run");
    CHECK_CONTAINS(r.err, "nothing was sent, because packets cannot be told to start a program");
    CHECK_CONTAINS(expect_code(1, "bootlace check -p sim").err, "memory cannot be read back");
    CHECK_CONTAINS(expect_code(2, "bootlace send -p sim --method pigeon").err, "--method pigeon: ");
}

TEST(a_bare_machine_from_switches_to_a_running_program)
{
    copy_example_named("skerry-bare");
    expect_code(0, "bootlace build -q");
    CHECK_CONTAINS(expect_code(0, "bootlace panel out/aglet.hex").out, "75 to enter");
    test_run r = expect_code(0, "bootlace panel out/aglet.hex --enter --run");
    CHECK_CONTAINS(r.out, "verified: the lamps show all 75 as they should be");
    /* Eyelet is not there yet, and that can be told. */
    r = expect_code(1, "bootlace send lamp.asm -p sim");
    CHECK_CONTAINS(r.err, "that is how Aglet does it");
    r = expect_code(0, "bootlace send out/eyelet.hex --method acked -p sim --run");
    CHECK_CONTAINS(r.out, "verified: Aglet answered each of the 2014 bytes");
    r = expect_code(0, "bootlace send lamp.asm -p sim --run && bootlace board run --for 2s");
    CHECK_CONTAINS(r.out, "computed double sums over all 51 bytes");
    CHECK_CONTAINS(r.out, "lamps    ********  $FF");
}

TEST(deposit_commands_for_somebody_elses_fingers)
{
    copy_example_named("cleat");
    test_run r = expect_code(0, "bootlace panel winch.asm --typed --run");
    CHECK_CONTAINS(r.out, "0200=7200 1210 6051 3207 2211 5201 7602 0000 0001 1750 7300");
    CHECK_CONTAINS(r.out, "\n0200 go\n");
    copy_example_named("purser");
    r = expect_code(0, "bootlace panel buoy.asm --typed");
    CHECK_CONTAINS(r.out, "2\n0300\nA0 00 B9 1D 03");
    copy_example_named("thrift");
    /* What is listed is what sets memory: pasted, it is all there. */
    edit("buoy.asm", ".fill 160, 0", ".fill 3, 7");
    expect_code(0, "bootlace panel buoy.asm --typed -o script.txt && "
                   "tr -d '\n' <script.txt >one.txt && "
                   "printf '\017paste one.txt\n\017check\n' | bootlace console -p sim");
    copy_example();
    CHECK_CONTAINS(expect_code(2, "bootlace panel lamp.asm --typed").err, "needs a dialogue");
}

/* ---- the console ---- */

TEST(console_talks_sends_and_fetches)
{
    copy_example_named("bollard");
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(1, "printf 'v 0300 2\\n\\017send\\nv 0300 8\\n\\017fetch $0300+$20 "
                                "back.hex\\n\\017nonsense\\n\\017hex on\\nq\\n\\017hex off\\n"
                                "\\017check\\n\\017quit\\nv 0400 8\\n' | bootlace console -p sim "
                                "--keep said.txt");
    CHECK_CONTAINS(r.out, "bollard> v 0300 2\r\n0300: ");
    CHECK_CONTAINS(r.out, "verified: Bollard gave all 197 bytes back");
    CHECK_CONTAINS(r.out, "0300: A0 00 B9 1D 03 8D 10 80");
    CHECK_CONTAINS(r.out, "71 0D 0A"); /* the echo of q */
    CHECK_CONTAINS(r.out, "buoy.asm: same: Bollard gave back");
    CHECK_NOT_CONTAINS(r.out, "0400: "); /* behind quit */
    CHECK_CONTAINS(r.err, "'nonsense' is no command of the console");
    CHECK_CONTAINS(test_read_file("said.txt", NULL), "0300: A0 00 B9 1D 03 8D 10 80\r\n");
    CHECK_CONTAINS(test_read_file("back.hex", NULL), ":10030000A000B91D038D1080");
    CHECK_CONTAINS(expect_code(2, "bootlace console here -p sim").err, "takes no operand");
    CHECK_CONTAINS(expect_code(2, "bootlace console --pace -1 -p sim").err, "milliseconds");
}

TEST(a_text_is_pasted_at_the_pace_it_needs)
{
    copy_example_named("thrift");
    /* Thrift loses characters that come without a pause; its dialogue says so. */
    test_write_file("line.txt", "P0300DA5D5AP0300EE\n");
    test_run r = expect_code(0, "printf '\\017paste line.txt\\n' | bootlace console -p sim");
    CHECK_CONTAINS(r.out, "E\r\nA5\r\n- E\r\n5A\r\n- ");
    CHECK_CONTAINS(r.err, "not verified");
    edit("thrift.dialogue", "pace      1 ms", "pace      0 ms");
    r = expect_code(0, "printf '\\017paste line.txt\\n' | bootlace console -p sim --state other");
    CHECK_NOT_CONTAINS(r.out, "A5\r\n- E\r\n5A");
}

TEST(stay_and_watch)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "printf '?\\n' | bootlace send -p sim --stay");
    CHECK_CONTAINS(r.out, "double sums over all 51 bytes");
    CHECK_CONTAINS(r.out, "R runs the ROM");
    /* The second turn finds one byte changed, the third an error, the fourth goes on. */
    r = test_command("said() { await \"[ \\$(cat watch.out watch.err | grep -c $1) -ge $2 ]\"; }; "
                     "bootlace send -p sim --run --watch >watch.out 2>watch.err & pid=$!; "
                     "said waiting 1; sed -i 's/ON  = %%11111111/ON  = %%01111111/' light.asm; "
                     "said waiting 2; echo ' frob' >>light.asm; "
                     "said frob 1; sed -i '/frob/d' light.asm; "
                     "said waiting 3; kill -INT $pid; wait $pid; cat watch.out watch.err");
    CHECK_CONTAINS(r.out, "lamp.asm: 51 of 51 bytes written in 1 block");
    CHECK_CONTAINS(r.out, "has no instruction 'frob'");
    CHECK_CONTAINS(r.out, "lamp.asm: all 51 bytes were there already");
    CHECK_CONTAINS(r.out, "waiting for the next save");
}

/* ---- what is wrong with a line ---- */

TEST(what_is_wrong_with_a_line_is_told)
{
    copy_example();
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p sim").err, "nothing answers on sim");
    copy_example_named("purser");
    edit("bench.yaml", "dialogue: purser.dialogue, ", "baud: 9600, ");
    test_run r = expect_code(1, "bootlace send -p sim");
    CHECK_CONTAINS(r.err, "unexpected text on sim: \"Purser at your");
    edit("bench.yaml", "baud: 9600, ", "dialogue: purser.dialogue, ");
    edit("purser.dialogue", "choice? ", "order? ");
    r = expect_code(1, "bootlace send -p sim --state other");
    CHECK_CONTAINS(r.err, "by its dialogue, Purser says \"order? \" when it is ready");
    /* Another rate than the ROM's. */
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    edit("bench.yaml", "baud: 19200", "baud: 9600");
    CHECK_CONTAINS(
        expect_code(1, "bootlace send lamp.asm -p sim").err,
        "wrong rate: Eyelet 65C02 answers on sim at 19200 baud, and bench.yaml says 9600");
    /* A loop-back: what is sent comes back, and nothing else. */
    copy_example();
    r = test_command(
        "peer-loop >loop.out & pid=$!; "
        "await '[ -s loop.out ]'; "
        "bootlace send lamp.asm -p \"$(cat loop.out)\"; code=$?; kill $pid; exit $code");
    CHECK_INT(r.code, 1);
    CHECK_CONTAINS(r.err, "our own bytes come back");
    CHECK_CONTAINS(expect_code(2, "bootlace send lamp.asm").err, "no port given");
    CHECK_CONTAINS(expect_code(2, "bootlace send lamp.asm -p ''").err, "-p is empty");
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p /dev/nowhere").err, "no such device");
}

/* ---- XMODEM against a second implementation ---- */

static void both_ways(const char *kind, const char *method, unsigned size)
{
    static uint8_t bytes[3000];
    for (unsigned i = 0; i < size; i++)
        bytes[i] = (uint8_t)test_random();
    test_write_bytes("data.bin", bytes, size);
    test_run r =
        expect_code(0,
                    "rm -f peer.out; peer-xmodem receive%s got.bin >peer.out & pid=$!; await '[ -s "
                    "peer.out ]'; "
                    "bootlace send data.bin --at '$0400' --method %s -p \"$(cat peer.out)\""
                    " || exit 9; wait $pid",
                    kind, method);
    CHECK_CONTAINS(r.out, "not verified: nothing there can be asked");
    if (size % 128 != 0) CHECK_CONTAINS(r.err, "are now $1A: XMODEM fills its last block up");
    expect_code(0, "head -c %u got.bin | cmp - data.bin", size);
    r = expect_code(
        0,
        "rm -f peer.out; peer-xmodem send%s data.bin >peer.out & pid=$!; await '[ -s peer.out ]'; "
        "bootlace fetch "
        "'$0400+%u' -o back.bin --method %s -p \"$(cat peer.out)\" || exit 9; wait $pid",
        kind, size, method);
    CHECK_CONTAINS(r.err, "not verified: they came once");
    expect_code(0, "cmp back.bin data.bin");
}

/* Text has no check: a reading that the line damaged is not a difference in memory. */
TEST(a_bad_line_is_not_called_a_difference)
{
    copy_example_named("cleat");
    expect_code(0, "bootlace send -p sim -q");
    unsigned same = 0;
    for (unsigned i = 0; i < 12; i++) {
        test_run r = test_command("bootlace check -p sim --fault flip=1/%u", 900 + 300 * i);
        CHECK_NOT_CONTAINS(r.err, "contents differ");
        same += r.code == 0;
    }
    CHECK(same > 8);
    expect_code(0, "bootlace send -p sim --fault flip=1/1500");
    CHECK_CONTAINS(expect_code(0, "bootlace check -p sim").out, "same");
}

/* Each thing that can go wrong with a fetch has a sentence of its own. */
TEST(xmodem_that_brings_another_length)
{
    static const struct {
        unsigned asked;
        const char *said;
    } all[] = {{2000, "sent 1024 of the 2000 bytes that were asked for; no file was written"},
               {300, "sent more than the 300 bytes that were asked for; no file was written"}};
    static uint8_t bytes[1000];
    copy_example();
    test_write_bytes("data.bin", bytes, sizeof bytes);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        test_run r = expect_code(
            1,
            "rm -f peer.out; peer-xmodem send data.bin >peer.out 2>&1 & pid=$!; await '[ -s "
            "peer.out ]'; bootlace fetch '$0400+%u' -o back.bin --method xmodem -p \"$(cat "
            "peer.out)\"; code=$?; kill $pid; exit $code",
            all[i].asked);
        CHECK_CONTAINS(r.err, all[i].said);
        CHECK(!test_file_exists("back.bin"));
    }
}

TEST(xmodem_with_somebody_elses_xmodem)
{
    copy_example();
    both_ways("", "xmodem", 1000);
    both_ways("", "xmodem-1k", 2560);
    both_ways("-old", "xmodem", 300);
}
