/* Machines of several chips, and parts of every kind, through the command. */
#include "cli_support.h"

#include <string.h>

TEST(a_memory_over_six_chips)
{
    static const char *const names[] = {"U11", "U12", "U13", "U14", "U15", "U16"};
    copy_example_named("skerry-store");
    test_run r = expect_code(0, "bootlace chip plan");
    CHECK_CONTAINS(r.out, "decoded: $8000..$BFFF is offset $0000..$1FFF, even bytes");
    CHECK_CONTAINS(r.out, "high nibbles");
    CHECK_CONTAINS(r.out, "mirrored");
    CHECK_CONTAINS(r.out, "its grade, 450 ns, is fast enough");
    CHECK_CONTAINS(r.out, "- CPU 50 - decoder 40 = 910 ns");
    CHECK_CONTAINS(r.out, "erase it under ultraviolet light first");
    CHECK_CONTAINS(r.out, "reset  $FFFC  -> $E000  start, store.asm");
    CHECK_CONTAINS(r.out, "last bytes $1FF8  FF FF FF FF 00 E0 FF FF");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan --json").out, "\"lanes\": 2");
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++)
        CHECK_CONTAINS(expect_code(0, "bootlace chip write %s -p sim", names[i]).out, "verified:");
    /* The program sums the messages up, which two chips hold by turns, and finds them whole. */
    CHECK_CONTAINS(expect_code(0, "bootlace board run -p sim --for 10ms").out, "running at $E025");
    expect_code(0, "printf x | dd of=state/U12.bin conv=notrunc seek=3 bs=1 2>dd.txt");
    r = expect_code(0, "bootlace board run -p sim --for 10ms --power-cycle");
    CHECK_CONTAINS(r.out, "running at $E027"); /* not any more */
    edit("bench.yaml", "clock: 1 MHz", "clock: 2 MHz");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan").out, "its grade, 450 ns, is TOO SLOW");
    edit("bench.yaml", "programmer: {vpp: 25 V}", "");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan").out,
                   "it is written with 25.0 V, and the programmer makes 21.0 V");
    edit("store.asm",
         "start:", "        .org $D800\n        .byte 9\n        .place program\nstart:");
    CHECK_CONTAINS(expect_code(1, "bootlace chip plan").err,
                   "two sources for offset $0000 of U15: $D000 wants 01, $D800 wants 09");
}

TEST(a_picture_of_the_plan)
{
    size_t n;
    copy_example();
    expect_code(0, "bootlace chip plan -o plan.png");
    CHECK_BYTES(test_read_file("plan.png", &n), 8, "\x89PNG\r\n\x1A\n", 8);
    expect_code(0, "bootlace chip plan -o plan.svg");
    const char *svg = test_read_file("plan.svg", &n);
    CHECK_CONTAINS(svg, "<svg");
    expect_code(0, "bootlace chip plan -o plan.pdf");
    CHECK_BYTES(test_read_file("plan.pdf", &n), 5, "%PDF-", 5);
    CHECK_CONTAINS(expect_code(2, "bootlace chip plan -o plan.txt").err,
                   "a picture is .png, .svg or .pdf");
    CHECK(!test_file_exists("plan.txt"));
    CHECK_CONTAINS(expect_code(1, "bootlace chip plan -o bench.yaml/plan.png").err,
                   "bench.yaml/plan.png");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan --parts").out, "39F040");
}

TEST(an_eprom_from_blank_to_light)
{
    copy_example();
    edit("bench.yaml", "28C256", "27256");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out,
                   "read all 32768 bytes back at 4.5 V and again at 5.5 V; every CRC-32 is right");
    CHECK_CONTAINS(expect_code(0, "bootlace chip verify -p sim --twice").out,
                   "twice at 4.5 V and twice at 5.5 V");
    edit("light.asm", "ON,  4", "ON,  8");
    test_run r = expect_code(1, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.err,
                   "nothing was written: bits that are 0 in the chip would have to become 1");
    CHECK_CONTAINS(r.err, "erased first: about twenty minutes under an ultraviolet lamp");
    CHECK_NOT_CONTAINS(r.err, "probably:");
    expect_code(0, "bootlace chip blank -p sim --fault ultraviolet");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out, "verified:");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim --state fixed").out, "4.5 V");
    r = expect_code(1, "bootlace chip write -p sim --state new --fault fixed-supply");
    CHECK_CONTAINS(r.err, "a 27256 is written with 12.5 V; is that supply connected");
    CHECK_CONTAINS(expect_code(2, "bootlace chip write -p sim --protect").err,
                   "a 27256 has no software protection");
}

TEST(a_flash_and_the_current_that_fails)
{
    copy_example();
    edit("bench.yaml", "28C256", "39F010");
    edit("bench.yaml", "offset: $4000", "offset: $1C000");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out, "verified:");
    edit("light.asm", "ON,  4", "ON,  8");
    test_run r = expect_code(1, "bootlace chip write -p sim --fault cut=20000");
    CHECK_CONTAINS(r.err, "stopped answering");
    r = expect_code(0, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.out, "1 sector of 4096 bytes erased first");
    CHECK_CONTAINS(r.out, "verified:");
    CHECK_CONTAINS(expect_code(0, "bootlace board run -p sim --for 1s").out, "lamps    ********");
}

/* ---- the logbook ---- */

TEST(a_set_is_written_chip_by_chip)
{
    copy_example_named("skerry-store");
    test_run r =
        expect_code(0, "printf '\\n\\n\\n\\n\\n\\n\\n' | bootlace chip write --set -p sim");
    CHECK_CONTAINS(r.out, "chip 7 of 7: U16, number 2 of 2 alike");
    CHECK_CONTAINS(r.out, "7 of 7 chips written and verified");
    CHECK(test_file_exists("state/U16-2.bin"));
    r = expect_code(0, "bootlace chip history U16");
    CHECK_CONTAINS(r.out, "U16/2  27C64");
    CHECK_NOT_CONTAINS(r.out, "U11");
    /* It does not go on by itself after one that is not good. */
    r = expect_code(
        1, "printf '\\n\\n\\nq\\n' | bootlace chip write --set -p sim --fault stuck=0:0:0");
    CHECK_CONTAINS(r.out, "this one is not good");
    CHECK_NOT_CONTAINS(r.out, "chip 2 of 7");
    CHECK_CONTAINS(r.out, "0 of 7 chips written and verified; stopped");
    CHECK_CONTAINS(expect_code(0, "bootlace chip history").out, "NOT GOOD");
    r = expect_code(1, "printf 's\\ns\\n' | bootlace chip write --set -p sim");
    CHECK_CONTAINS(r.out, "0 of 7 chips written and verified, 2 left out; stopped");
    CHECK_CONTAINS(expect_code(2, "bootlace chip write U11 --set -p sim").err, "name none");
}

TEST(a_chip_is_known_again)
{
    copy_example();
    edit("bench.yaml", "clock:", "version: seven\nclock:");
    CHECK_CONTAINS(expect_code(0, "bootlace chip read --identify -p sim").out, "U5 is blank");
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "bootlace chip read --identify -p sim");
    CHECK_CONTAINS(r.out, "U5 holds what was built on 20");
    CHECK_CONTAINS(r.out, ", version seven");
    CHECK_CONTAINS(r.out, "today's build is the same");
    CHECK_CONTAINS(r.out, "written to 1 time\n");
    edit("light.asm", "ON,  4", "ON,  8");
    edit("bench.yaml", "seven", "eight");
    r = expect_code(0, "bootlace chip read --identify -p sim -o U5.bin");
    CHECK_CONTAINS(r.out, ", version seven");
    CHECK_CONTAINS(r.out, "chip 04, today 08  character+1, light.asm:40");
    CHECK(test_file_exists("U5.bin"));
    /* A state folder of somebody else's, of whom nothing was ever built here. */
    r = expect_code(0, "printf x | dd of=state/U5.bin conv=notrunc 2>dd.txt; bootlace chip read "
                       "--identify -p sim");
    CHECK_CONTAINS(r.out, "holds nothing that the logbook knows");
    CHECK_CONTAINS(expect_code(2, "bootlace chip read -p sim").err, "or --identify");
}

TEST(a_logbook_that_cannot_be_written_stops_nothing)
{
    copy_example();
    edit("bench.yaml", "clock:", "logbook: bench.yaml/book.sqlite\nclock:");
    test_run r = expect_code(0, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.out, "verified:");
    CHECK_CONTAINS(r.err, "the logbook cannot be used");
    copy_example();
    edit("bench.yaml", "clock:", "logbook: book.sqlite\nclock:");
    expect_code(0, "bootlace build -q");
    CHECK(test_file_exists("book.sqlite"));
    CHECK_CONTAINS(expect_code(0, "bootlace chip history").err, "knows of no chip written");
}

TEST(labels_that_fit)
{
    size_t n;
    copy_example_named("skerry-store");
    test_run r = expect_code(0, "bootlace chip label -o labels.svg --date 2026-11-23");
    CHECK_CONTAINS(r.err, "labels.svg: 7 labels; print at 100 %");
    CHECK_CONTAINS(test_read_file("labels.svg", &n), "</svg>");
    expect_code(0, "bootlace chip label -o labels.pdf");
    CHECK_BYTES(test_read_file("labels.pdf", &n), 5, "%PDF-", 5);
    expect_code(0, "bootlace chip label U11 u16 --narrow -o labels.png");
    /* Nothing is cut off: it is refused, and no sheet is left. */
    r = expect_code(1, "bootlace chip label U15 -o no.png --date 'a day in the long summer of the "
                       "supply boat and its crew'");
    CHECK_CONTAINS(r.err, "the label of U15 has no room for '4B1AB0D9 F30B  a day in");
    CHECK(!test_file_exists("no.png"));
    CHECK_CONTAINS(expect_code(2, "bootlace chip label").err, "no output file");
    CHECK_CONTAINS(expect_code(2, "bootlace chip label -o x.txt").err, "labels are .pdf");
    CHECK_CONTAINS(expect_code(2, "bootlace chip label U99 -o x.pdf").err,
                   "no chip is called 'U99'");
}

TEST(a_program_toggled_in_at_the_panel)
{
    size_t n;
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "bootlace panel lamp.asm --enter --run");
    CHECK_CONTAINS(r.out, "51 toggled in with");
    CHECK_CONTAINS(r.out, "verified: the lamps show all 51");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 3s").out, "lamps    ........");

    test_write_file("high.hex", ":02C0000001023B\n:00000001FF\n");
    r = expect_code(1, "bootlace panel high.hex --enter -b bench.yaml");
    CHECK_CONTAINS(r.err, "the lamps differ at 2 of 2 addresses; first at $C000: expected 01");
    CHECK_CONTAINS(expect_code(2, "bootlace panel lamp.asm --run").err, "--run goes with --enter");
    expect_code(0, "bootlace panel lamp.asm -o sheet.pdf");
    CHECK_BYTES(test_read_file("sheet.pdf", &n), 5, "%PDF-", 5);
}

/* ---- somebody else's programmer ---- */

TEST(a_programmer_that_speaks_text)
{
    copy_example();
    edit("bench.yaml", "28C256", "28C64"); /* smaller: it speaks slowly */
    edit("bench.yaml", "{cpu: $C000..$FFFF, offset: $4000}", "{cpu: $C000..$FFFF, mirrored: yes}");
    edit("bench.yaml", "programmer: {baud: 115200}", "programmer: {dialogue: pip.dialogue}");
    test_run r = expect_code(0, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.out, "verified: Pip read all 8192 bytes back; every byte is right");
    r = expect_code(0, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.out, "holds exactly this already");
    /* It says ok whatever became of it. */
    r = expect_code(1,
                    "bootlace chip write -p sim --state worn --fault stuck=5:1:0 --fault blocked");
    CHECK_CONTAINS(r.err, "contents differ");
    CHECK_NOT_CONTAINS(r.out, "verified:");
    CHECK_CONTAINS(
        expect_code(0, "bootlace chip write -p sim --state noisy --fault lose=1/500").out,
        "verified: Pip");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim --state far --fault vanish=500").err,
                   "stopped answering while looking");
    expect_code(0, "bootlace chip read -q -p sim -o U5.bin && cmp U5.bin state/U5.bin");
    CHECK_CONTAINS(expect_code(2, "bootlace chip write -p sim --protect").err,
                   "cannot be told to switch protection");
    edit("pip.dialogue", "prompt    \"pip> \"", "prompt    \"ready> \"");
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim").err,
                   "unexpected text on sim: \"pip> ");
    edit("pip.dialogue", "answer ", "anser ");
    r = expect_code(1, "bootlace chip verify -p sim");
    CHECK_CONTAINS(r.err, "pip.dialogue:10:1: error: unknown key 'anser'");
    CHECK_CONTAINS(r.err, "the dialogue 'pip.dialogue' cannot be used");
}

/* Two halves that are alike, in a socket with a dead address line: reading back finds nothing
 * wrong. */
TEST(an_address_line_that_the_contents_cannot_show)
{
    copy_example();
    test_write_file("bench.yaml", "bench: Skerry-double\ncpu: 65c02\nclock: 1 MHz\nareas:\n"
                                  "  - {name: rom, range: 0x8000..0xFFFF, kind: rom}\nchips:\n"
                                  "  - {name: U9, part: 28C256, maps: [{cpu: 0x8000..0xFFFF}]}\n"
                                  "build:\n  - {source: twice.asm, for: chips}\n");
    test_write_file("twice.asm", "        .repeat 2, I\n        .org $8000 + I * $4000\n"
                                 "        .byte 1, 2, 3, 4\n        .org $BFFC + I * $4000\n"
                                 "        .word $8000, $8000\n        .end\n");
    test_run r = expect_code(0, "bootlace chip write -p sim");
    CHECK_CONTAINS(r.out, "verified:");
    CHECK_NOT_CONTAINS(r.out, "not seen"); /* it was tried */
    expect_code(
        0, "cmp out/U9.bin state/U9.bin || (bootlace build -q && cmp out/U9.bin state/U9.bin)");
    CHECK_CONTAINS(expect_code(0, "bootlace chip verify -p sim").out,
                   "not seen: whether address line A14 works");
    for (int level = 0; level < 2; level++) {
        expect_code(0, "rm -rf state");
        for (int again = 0; again < 2; again++) {
            r = expect_code(1, "bootlace chip write -p sim --fault address=14:%d", level);
            CHECK_CONTAINS(r.err, "address line A14 does nothing");
            CHECK_NOT_CONTAINS(r.out, "verified");
        }
    }
    r = expect_code(1, "bootlace chip write -p sim --fault address=14:0 --json");
    CHECK_CONTAINS(r.out, "\"verified\": false");
    CHECK_CONTAINS(r.out, "\"unseen_lines\": [\n    14\n  ]");
    /* One that is protected takes no changed byte: then it was not tried. */
    expect_code(0, "rm -rf state && bootlace chip write -p sim --protect");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out,
                   "not seen: whether address line A14");
    expect_code(0, "cmp out/U9.bin state/U9.bin");
    /* Lines within a page. */
    expect_code(0, "rm -rf state && cp twice.asm keep.asm");
    test_write_file("twice.asm", "        .org $8000\n        .fill $8000, $EA\n");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim --fault address=3:0").err,
                   "address line A3 does nothing");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim --fault address=0:1").err,
                   "address line A0 does nothing");
    CHECK_NOT_CONTAINS(expect_code(0, "bootlace chip write -p sim").out, "not seen");
    expect_code(0, "cp keep.asm twice.asm");
    /* A part that cannot be written again: it is said. */
    expect_code(0, "rm -rf state");
    edit("bench.yaml", "28C256", "27256");
    edit("bench.yaml", "chips:", "programmer: {vpp: 12.5 V}\nchips:");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out,
                   "not seen: whether address line A14 works");
}
