/* Tapes: what is written comes back, and what was damaged on the way is told. */
#include "cli_support.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { HEADER = 44 }; /* of a WAV file */

/* A file of bytes that mean nothing. */
static void random_file(const char *name, size_t count)
{
    uint8_t *bytes = malloc(count);
    for (size_t i = 0; i < count; i++)
        bytes[i] = (uint8_t)test_random();
    test_write_bytes(name, bytes, count);
    free(bytes);
}

/* Another take of a recording of 44,100 Hz and 16 bit: some seconds of it are gone, and all of it
 * has some noise. */
static void worse(const char *from, const char *to, double at, double seconds, int noise)
{
    size_t count;
    const char *old = test_read_file(from, &count);
    char *bytes = malloc(count);
    memcpy(bytes, old, count);
    int16_t *samples = (int16_t *)(void *)(bytes + HEADER);
    for (size_t i = 0; i < (count - HEADER) / 2; i++) {
        double time = (double)i / 44100;
        int value = time >= at && time < at + seconds ? 0 : samples[i] / 2;
        samples[i] =
            (int16_t)(value + (noise > 0 ? (int)test_below(2 * (uint32_t)noise) - noise : 0));
    }
    test_write_bytes(to, bytes, count);
    free(bytes);
}

TEST(programs_data_and_texts_on_one_tape)
{
    copy_example();
    random_file("chart.dat", 700);
    test_write_file("notes.txt", "The lamp at Skerry head:\ntwo long, one short.\n");
    test_run r = expect_code(0, "bootlace tape write lamp.asm chart.dat notes.txt -o evening.flac "
                                "--number 7 --baud 1200");
    CHECK_CONTAINS(r.out, "7 lamp: $0300..$0332, 51 bytes, 1 block, begins at $0300");
    CHECK_CONTAINS(r.out, "8 chart: 700 bytes, 3 blocks");
    CHECK_CONTAINS(r.out, "verified: every byte of the recording was read back");
    r = expect_code(0, "bootlace tape list evening.flac");
    CHECK_CONTAINS(r.out, "7  lamp              $0300..$0332    1 of 1 block good, CRC-32 right");
    CHECK_CONTAINS(r.out, "8  chart             data            3 of 3 blocks good, CRC-32 right");
    CHECK_CONTAINS(r.out, "9  notes             text            1 of 1 block good, CRC-32 right");
    expect_code(0,
                "bootlace tape read evening.flac --number 8 -o back.dat && cmp chart.dat back.dat");
    expect_code(0, "bootlace tape read evening.flac --name notes -o b.txt --against notes.txt");
    expect_code(0, "bootlace assemble lamp.asm -o lamp.hex -q && bootlace tape read evening.flac "
                   "--number 7 -o back.hex && cmp lamp.hex back.hex");
    CHECK_CONTAINS(expect_code(1, "bootlace tape read evening.flac -o x.hex").err,
                   "3 programs are on the tape");
    CHECK_CONTAINS(expect_code(1, "bootlace tape read evening.flac -o x --number 1").err,
                   "there is no such program");
    CHECK(!test_file_exists("x.hex") && !test_file_exists("x"));
    CHECK_CONTAINS(
        expect_code(1, "bootlace tape read evening.flac --number 8 --against notes.txt").err,
        "differs from notes.txt");
}

TEST(every_form_of_a_recording_comes_back)
{
    static const char *const forms[] = {"--baud 300 --bits 8 --rate 8000 -o t.wav",
                                        "--baud 600 --bits 24 --rate 96000 -o t.flac",
                                        "--baud 1200 --wave square --rate 22050 -o t.wav",
                                        "--baud 2400 --rate 48000 --bits 24 -o t.wav",
                                        "--compress --wave square --bits 8 -o t.flac"};
    random_file("chart.bin", 300);
    for (size_t i = 0; i < BL_COUNT(forms); i++) {
        expect_code(0, "rm -f t.* && bootlace tape write chart.bin --at 0x4000 --leader 1.5 %s",
                    forms[i]);
        expect_code(0, "bootlace tape read t.* -o back.bin && cmp chart.bin back.bin");
    }
    expect_code(0, "bootlace tape write chart.bin --at 0x4000 -o - | bootlace tape read - -o - | "
                   "cmp - chart.bin");
}

TEST(bare_bytes_and_records)
{
    random_file("chart.bin", 200);
    expect_code(0, "bootlace tape write chart.bin --at 0x4000 --as bare --leader 1 -o bare.wav");
    test_run r =
        expect_code(0, "bootlace tape read bare.wav -o back.bin && cmp chart.bin back.bin");
    CHECK_CONTAINS(r.out, "200 bare bytes");
    CHECK_CONTAINS(expect_code(2, "bootlace tape read bare.wav -o back.hex").err,
                   "--at says where");
    expect_code(0, "bootlace image convert chart.bin --at 0x4000 -o chart.hex");
    expect_code(0, "bootlace tape read bare.wav -o back.hex --at 0x4000 --against chart.hex");
    for (int srec = 0; srec < 2; srec++) {
        const char *type = srec ? "srec" : "hex";
        expect_code(
            0, "bootlace tape write chart.hex --as records -f %s --leader 1 --baud 1200 -o r.wav",
            type);
        r = expect_code(0, "bootlace tape read r.wav -o back.hex && cmp chart.hex back.hex");
        CHECK_CONTAINS(r.out,
                       srec ? "16 good records of S-record" : "14 good records of Intel HEX");
    }
    worse("r.wav", "hurt.wav", 2.5, 0.05, 0);
    r = expect_code(1, "bootlace tape read hurt.wav -o part.hex");
    CHECK_CONTAINS(r.out, "no good record: S1");
    CHECK_CONTAINS(r.err, "part.hex: 1");
    CHECK_CONTAINS(r.err, "not whole");
    worse("r.wav", "other.wav", 3.2, 0.05, 0);
    expect_code(0, "bootlace tape read hurt.wav other.wav -o back.hex && cmp chart.hex back.hex");
}

/* Two takes of which neither is whole; and one tape that has everything twice. */
TEST(takes_mend_each_other)
{
    random_file("chart.dat", 1500);
    expect_code(0, "bootlace tape write chart.dat -o t.wav --baud 1200 --leader 2");
    worse("t.wav", "one.wav", 5, 0.6, 2500);
    worse("t.wav", "two.wav", 9, 0.02, 2500);
    test_run r = expect_code(1, "bootlace tape read one.wav -o part.dat");
    CHECK_CONTAINS(r.out, "not whole: 1 chart: data, 5 of 6 blocks good, 1 ");
    CHECK_CONTAINS(r.out, "block 2");
    size_t count;
    test_read_file("part.dat", &count);
    CHECK_INT(count, 256); /* up to what is not there */
    r = expect_code(1, "bootlace tape list two.wav");
    CHECK_CONTAINS(r.out, "5 of 6 blocks good, 1 bad");
    CHECK_CONTAINS(r.out, "most doubtful is byte");
    r = expect_code(0, "bootlace tape read one.wav two.wav -o back.dat && cmp chart.dat back.dat");
    CHECK_CONTAINS(r.out, "6 of 6 blocks good, CRC-32 right");
    r = expect_code(1, "bootlace tape read one.wav --json -o part.dat");
    CHECK_CONTAINS(r.out, "\"whole\": false");
    CHECK_CONTAINS(expect_code(0, "bootlace tape list t.wav --json").out, "\"state\": \"proven\"");
    expect_code(1, "bootlace tape read one.wav two.wav --picture takes.png --number 9");
    CHECK(test_file_exists("takes.png")); /* it is wanted most when something is wrong */
    expect_code(0,
                "bootlace tape read one.wav two.wav --picture takes.svg && grep -q .svg takes.svg");
    expect_code(0, "bootlace tape read t.wav --picture takes.pdf");
    CHECK_CONTAINS(expect_code(2, "bootlace tape read t.wav --picture t.wav").err,
                   "a picture ends in");
    expect_code(0, "bootlace tape write chart.dat -o twice.wav --baud 1200 --leader 2 --times 2");
    worse("twice.wav", "hurt.wav", 6, 1.5, 1000);
    r = expect_code(0, "bootlace tape read hurt.wav -o back.dat && cmp chart.dat back.dat");
}

/* Recorded from the middle on: what is missing has numbers. */
TEST(a_tape_started_too_late)
{
    copy_example();
    random_file("chart.bin", 900);
    expect_code(0, "bootlace tape write chart.bin --at 0x4000 -o t.wav --baud 1200 --leader 1");
    worse("t.wav", "late.wav", 0, 3, 0);
    test_run r = expect_code(1, "bootlace tape read late.wav -o part.hex");
    CHECK_CONTAINS(r.out, "1 missing");
    CHECK_CONTAINS(r.out, "block 1: not heard");
    CHECK_CONTAINS(expect_code(0, "bootlace image show part.hex").out, "4100");
    CHECK_CONTAINS(
        expect_code(1, "bootlace tape read late.wav --against chart.bin --at 0x4000").err,
        "256 bytes of chart.bin differ or are missing; the first is at $4000");
}

/* For machines with tape routines of their own: what to enter, and the mistakes. */
TEST(a_card_for_the_machines_own_routines)
{
    copy_example();
    CHECK_CONTAINS(expect_code(1, "bootlace tape card lamp.asm").err,
                   "no tape routines are described");
    edit("bench.yaml", "link:",
         "tape:\n  save:\n    set:\n"
         "      - {at: $17F5, to: first-low}\n      - {at: $17F6, to: first-high}\n"
         "      - {at: $17F7, to: end-low}\n      - {at: $17F8, to: end-high}\n"
         "      - {at: $17F9, to: number}\n      - {at: $00F1, to: 0}\n"
         "    start: $E800\n    shows: the first address\n    uses: [$0300..$030F]\n"
         "  load:\n    set: [{at: $17F9, to: number}]\n    start: $E873\nlink:");
    CHECK_CONTAINS(expect_code(1, "bootlace tape card lamp.asm").err,
                   "lamp.asm: the byte at $0300 lies where the tape routine works");
    edit("bench.yaml", "$0300..$030F", "$0200..$02FF");
    expect_code(0, "bootlace assemble lamp.asm -o short.hex -q");
    test_run r = expect_code(0, "bootlace tape card lamp.asm --number 3");
    CHECK_CONTAINS(r.out, "3. set $17F7 to $33   (last address + 1, low byte)");
    CHECK_CONTAINS(r.out, "5. set $17F9 to $03   (number of the program)");
    CHECK_CONTAINS(r.out, "6. set $00F1 to $00\n");
    CHECK_CONTAINS(r.out, "8. start at $E800\n  9. when it went well it shows: the first address");
    CHECK_CONTAINS(r.out, "To check: $0300 holds $A2, $0332 holds $2E");
    CHECK_CONTAINS(expect_code(2, "bootlace tape card lamp.asm --typed save").err,
                   "needs a dialogue");
    expect_code(0, "cp %s/examples/bollard/bollard.dialogue .", test_source_folder());
    edit("bench.yaml", "monitor: eyelet}", "dialogue: bollard.dialogue}");
    r = expect_code(0, "bootlace tape card short.hex --typed save -b bench.yaml");
    CHECK_CONTAINS(r.out, "17F7");
    CHECK_CONTAINS(r.out, "E800");
    expect_code(2, "bootlace tape card short.hex --typed both");
    edit("bench.yaml", "dialogue: bollard.dialogue}", "monitor: eyelet}");
    edit("bench.yaml", "radix: hex", "radix: octal");
    edit("bench.yaml", "to: end-low", "to: last-low");
    CHECK_CONTAINS(expect_code(0, "bootlace tape card lamp.asm").out,
                   "3. set 0o013767 to 0o062   (last address, low byte)");
    CHECK_CONTAINS(expect_code(0, "bootlace tape card lamp.asm --json").out, "\"last_byte\": 46");
    edit("bench.yaml", "to: last-low", "to: lst");
    CHECK_CONTAINS(expect_code(1, "bootlace tape card lamp.asm").err, "'lst' is nothing that");
}

TEST(an_end_address_that_is_off_by_one)
{
    copy_example();
    random_file("meant.bin", 60);
    expect_code(
        0, "head -c 59 meant.bin > short.bin && (cat meant.bin; echo) | head -c 61 > long.bin");
    expect_code(0, "bootlace tape write short.bin --at 0x300 --as bare -o s.wav --leader 1 -q");
    CHECK_CONTAINS(expect_code(1, "bootlace tape read s.wav --at 0x300 --against meant.bin").err,
                   "only the last byte is missing: was the end address one too small");
    expect_code(0, "bootlace tape write long.bin --at 0x300 --as bare -o l.wav --leader 1 -q");
    CHECK_CONTAINS(expect_code(1, "bootlace tape read l.wav --at 0x300 --against meant.bin").err,
                   "one byte too many is at the end");
}

/* The board saves and loads with its own firmware, and mistakes at the recorder are told. */
TEST(an_evening_with_the_recorder)
{
    test_run r = expect_code(0, "sh %s/examples/skerry-tape/evening.sh .", test_source_folder());
    CHECK_CONTAINS(r.err, "1 byte of out/buoy.hex differ or are missing; the first is at $083D");
    CHECK_CONTAINS(r.out, "$0800..$083D, 1 of 1 block good, as many as there should be\n"
                          "verified: the same as out/buoy.hex");
    CHECK_CONTAINS(r.out, "block 1: not heard");
    CHECK_CONTAINS(r.out, "block 9: not heard");
    CHECK_CONTAINS(r.out, "verified: the same as out/eyelet.hex");
    CHECK_CONTAINS(r.out, "lamps    ......*.  $02");
    const char *waiting = "bootlace board run --power-cycle --for 200ms && "
                          "bootlace send out/tape-loader.hex -p sim --run -q";
    expect_code(0, "%s", waiting);
    r = expect_code(0, "bootlace board run --for 7s --play start.wav --fault tape-speed=1060 "
                       "--fault tape-wow=15 --fault tape-hiss=1500");
    CHECK_CONTAINS(r.out, "lamps    .....*..  $04");
    expect_code(0, "%s", waiting);
    r = expect_code(0, "bootlace board run --for 7s --play start.wav --fault tape-cords");
    CHECK_NOT_CONTAINS(r.out, "lamps    .....*..  $04");
    expect_code(0, "%s", waiting);
    r = expect_code(0, "bootlace board run --for 7s --play start.wav --fault tape-level=20");
    CHECK_NOT_CONTAINS(r.out, "lamps    .....*..  $04");
    /* What is recorded is whole for every reader: the header says how long it is. */
    expect_code(0, "bootlace board run --for 2s --record r.wav -q && bootlace board run --for 2s "
                   "--record r.flac -q && [ $(od -An -tu4 -j4 -N4 r.wav) -eq $(($(wc -c <r.wav) - "
                   "8)) ] && [ $(od -An -tu4 -j40 -N4 r.wav) -gt 100000 ]");
    CHECK_CONTAINS(expect_code(1, "bootlace tape read r.flac --as bare -o r.bin").err, "no bytes");
    CHECK_CONTAINS(expect_code(2, "bootlace board run --play a.wav --record b.wav").err, "usage:");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --play none.wav").err, "No such file");
    /* Without lamps the loader says at the terminal how it goes, and the data's end is Eyelet
     * again. */
    edit("bench.yaml", "  - {name: lamps,    kind: latch, at: $8010}\n", "");
    edit("bench.yaml", "  - {source: buoy.asm, for: ram}\n", "");
    random_file("chart.bin", 300);
    expect_code(0, "rm -rf state && bootlace build -q && bootlace chip write -p sim -q");
    expect_code(0, "bootlace tape write chart.bin --at 0x1000 -o chart.wav");
    expect_code(0, "%s", waiting);
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 9s --play chart.wav").out,
                   "says     ....\n");
    edit("bench.yaml", "kind: cassette,", "kind: latch,   ");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --play buoy.wav --state other").err,
                   "the board has no device of kind cassette");
}

TEST(a_staged_tape_is_faster_than_the_standard)
{
    copy_example();
    edit("bench.yaml", "  - {name: program,     range: $0300..$7FFF, kind: ram}",
         "  - {name: program,     range: $1000..$7FFF, kind: ram}\n"
         "  - {name: loader,      range: $0300..$047F, kind: ram}\n"
         "  - {name: loader_page, range: $0500..$05FF, kind: ram}");
    edit("bench.yaml", "$0000..$00DF", "$0000..$00BF");
    edit("bench.yaml", "areas:", "areas:\n  - {name: loader_zero, range: $00C0..$00DF, kind: ram}");
    edit("bench.yaml", "devices:", "devices:\n  - {name: cassette, kind: cassette, at: $8020}");
    expect_code(0, "bootlace build -q && bootlace image convert out/eyelet.hex -o e.bin && "
                   "cat e.bin e.bin out/U5.bin | head -c 7200 > program.bin");
    test_run r =
        expect_code(0, "bootlace tape write program.bin --at 0x2000 --as staged --compress "
                       "-o staged.wav");
    CHECK_CONTAINS(r.out,
                   "the loader: 384 bytes as they are; then 3.0 seconds to start it at $0300");
    expect_code(0, "bootlace tape read staged.wav -o b.hex --against program.bin --at 0x2000");
    CHECK_CONTAINS(
        expect_code(1, "bootlace tape write program.bin --at 0x400 --as staged -o s.wav").err,
        "lies where the loader works");
    CHECK_CONTAINS(expect_code(1, "bootlace tape write bench.yaml --as staged -o s.wav").err,
                   "it is no program");
    CHECK(!test_file_exists("s.wav"));
}

TEST(a_keying_of_the_bench_files_own)
{
    copy_example();
    expect_code(0,
                "echo 'tape: {tones: [1 kHz, 2500 Hz], cycles: [2, 5], stop_bits: 1, parity: even, "
                "leader: 2 s}' >> bench.yaml");
    CHECK_CONTAINS(expect_code(0, "bootlace tape write lamp.asm -o t.wav").out, "at 500 baud");
    expect_code(0, "bootlace tape list t.wav");
    edit("bench.yaml", "leader: 2 s",
         "leader: 2 s, counter: [{at: 0 s, shows: 100}, {at: 4 s, shows: 104}]");
    CHECK_CONTAINS(expect_code(0, "bootlace tape list t.wav").out, "  0:02.0      102    1  lamp");
    CHECK_CONTAINS(expect_code(0, "bootlace tape write lamp.asm -o u.wav").out,
                   "0:02.0  counter 102  1 lamp");
    edit("bench.yaml", "at: 4 s", "at: 0 s");
    CHECK_CONTAINS(expect_code(1, "bootlace tape list t.wav").err, "times and counts must rise");
    edit("bench.yaml", ", counter: [{at: 0 s, shows: 100}, {at: 0 s, shows: 104}]", "");
    CHECK_CONTAINS(expect_code(1, "bootlace tape list t.wav -b /dev/null").err, "error");
    edit("bench.yaml", "cycles: [2, 5]", "duration: [2.1 ms, 2 ms]");
    CHECK_CONTAINS(expect_code(1, "bootlace tape list t.wav").err,
                   "2.1 ms is no whole number of half cycles of 1000 Hz");
    edit("bench.yaml", "duration: [2.1 ms, 2 ms]", "baud: 450");
    CHECK_CONTAINS(expect_code(1, "bootlace tape list t.wav").err, "450 baud is no standard");
}

TEST(what_cannot_be_written_or_read)
{
    static const char *const wrong[] = {
        "write chart.bin",
        "write -o t.wav",
        "write chart.bin -o t.mp4",
        "write chart.bin -o t.wav --baud 110",
        "write chart.bin -o t.wav --rate 4000",
        "write chart.bin -o t.wav --bits 12",
        "write chart.bin -o t.wav --wave saw",
        "write chart.bin -o t.wav --as tar",
        "write chart.bin -o t.wav --leader no",
        "write chart.bin -o t.wav --number 256",
        "write chart.bin -o t.wav --times 21",
        "write chart.bin -o t.wav --as bare --compress",
        "read",
        "list",
        "read t.wav",
        "read t.wav -o x --as tar",
        "read - - -o x",
        "write chart.bin --at 0 -o t.wav --name 'a name of seventeen'"};
    random_file("chart.bin", 50);
    for (size_t i = 0; i < BL_COUNT(wrong); i++)
        CHECK_CONTAINS(expect_code(2, "bootlace tape %s", wrong[i]).err, "usage:");
    CHECK_INT(count_files(), 1);
    CHECK_CONTAINS(expect_code(1, "bootlace tape list none.wav").err, "No such file");
    CHECK_CONTAINS(expect_code(1, "bootlace tape list chart.bin").err,
                   "no recording that can be read");
    CHECK_CONTAINS(expect_code(1, "bootlace tape write chart.bin --at 0xFFF0 -o t.wav").err,
                   "addresses of 16 bits");
    expect_code(
        0, "bootlace tape write chart.bin --at 0x300 -o t.wav --leader 1 -q && cp t.wav u.wav");
    expect_code(2, "bootlace tape write chart.bin t.wav -o t.wav");
    expect_code(0, "cmp t.wav u.wav");
    expect_code(2, "bootlace tape read t.wav -o t.wav");
    expect_code(0, "cmp t.wav u.wav");
}
