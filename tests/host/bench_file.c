/* Bench files: the good one, and each way to get one wrong. */
#include "harness.h"

#include <string.h>

#include "bench.h"

static const char good[] =
    "bench: Test\n"
    "cpu: 65c02\n"
    "clock: 1.8432 MHz\n"
    "areas:\n"
    "  - {name: ram, range: $0000..$7FFF, kind: ram}\n"
    "  - {name: io, range: $8000..$80FF, kind: io}\n"
    "  - {name: rom, range: $C000..$FFFF, kind: rom}\n"
    "devices:\n"
    "  - {name: serial, kind: acia-6551, at: $8000}\n"
    "  - {name: keys, kind: other, at: $8020, registers: [{name: row, offset: 0}, {name: column, "
    "offset: 3}]}\n"
    "chips:\n"
    "  - {name: U5, part: 28C256, maps: [{cpu: $C000..$FFFF, offset: $4000}]}\n"
    "link: {device: serial, baud: 9600}\n"
    "build:\n"
    "  - {source: a.asm, for: ram}\n";

static bl_status open_text(const char *text, bench **b)
{
    test_write_file("bench.yaml", text);
    test_messages_clear();
    *b = NULL;
    return bench_open(test_path("bench.yaml"), &test_sink, b);
}

/* good with a piece replaced must be refused, and this must be said. */
static void refuse(const char *piece, const char *with, const char *said)
{
    char text[4096];
    const char *at = strstr(good, piece);
    bench *b;
    CHECK(at != NULL);
    size_t before = (size_t)(at - good);
    memcpy(text, good, before);
    strcpy(text + before, with);
    strcat(text, at + strlen(piece));
    if (open_text(text, &b) == BL_OK) {
        bench_close(b);
        test_fail(__FILE__, __LINE__, "'%s' was accepted", with);
    }
    CHECK_CONTAINS(test_messages(), said);
}

TEST(a_good_file)
{
    bench *b;
    if (open_text(good, &b) != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_TEXT(b->name, "Test");
    CHECK_INT(b->clock, 1843200);
    CHECK_INT(b->area_count, 3);
    CHECK_INT(b->areas[2].range.count, 0x4000);
    CHECK_INT(b->chips[0].maps[0].offset, 0x4000);
    CHECK_INT(b->link_baud, 9600);
    CHECK_INT(b->programmer_baud, 115200);
    CHECK(b->link_device == &b->devices[0]);
    bool found = false;
    for (size_t i = 0; i < b->definition_count; i++)
        found |= strcmp(b->definitions[i].name, "board.keys.column") == 0 &&
                 b->definitions[i].value == 0x8023;
    CHECK(found);
    bench_close(b);
}

TEST(unknown_and_missing_keys_have_lines_and_suggestions)
{
    refuse("clock: 1.8", "clocks: 1.8", "bench.yaml:3:1: error: unknown key 'clocks'");
    CHECK_CONTAINS(test_messages(), "did you mean 'clock'?");
    CHECK_CONTAINS(test_messages(), "'clock' is missing here");
    refuse("{name: io, range: $8000..$80FF, kind: io}", "{name: io, kind: io}",
           "bench.yaml:6:5: error: 'range' is missing here");
    refuse("kind: io}", "kind: io, colour: red}", "bench.yaml:6:47: error: unknown key 'colour'");
    refuse("areas:\n", "areas:\n  - 5\n", "keys and values are expected here");
    refuse("clock: 1.8432 MHz", "clock: [1, 2]", "a single value is expected here");
    refuse("cpu: 65c02\n", "cpu: 65c02\ncpu: 6502\n", "'cpu' is given twice");
}

TEST(values_that_make_no_sense)
{
    refuse("65c02", "z8000", "bench.yaml:2:6: error: no sheet for a CPU named 'z8000'");
    refuse("1.8432 MHz", "fast", "'fast' is not a clock rate");
    refuse("1.8432 MHz", "5 GHz", "is not a clock rate");
    refuse("1.8432 MHz", "0", "is not a clock rate");
    refuse("$0000..$7FFF", "$7FFF..$0000", "ends before it begins");
    refuse("$0000..$7FFF", "lots", "'lots' is not a range");
    refuse("$C000..$FFFF, kind", "$C000..$1FFFF, kind", "beyond the CPU's addresses");
    refuse("kind: ram", "kind: rum", "'rum' is no kind of area");
    refuse("name: ram", "name: 2ram", "cannot be used as a name");
    refuse("acia-6551", "acia-6552", "no kind of device is called 'acia-6552'");
    refuse("28C256", "27C256", "no part is called '27C256'");
    refuse("baud: 9600", "baud: 5", "too slow");
    refuse("device: serial", "device: cereal", "no device is called 'cereal'");
    refuse("for: ram}", "for: fun}", "nothing is built for 'fun'");
    refuse("source: a.asm", "firmware: sandal", "no firmware 'sandal' comes with");
    refuse("{source: a.asm, for", "{for", "a source or a firmware is needed");
}

TEST(things_in_each_others_way)
{
    refuse("$8000..$80FF", "$7F00..$80FF",
           "bench.yaml:6:23: error: area 'io' overlaps area 'ram' ($0000..$7FFF, line 5)");
    refuse("name: io", "name: ram", "area 'ram' is described twice (first on line 5)");
    refuse("at: $8020", "at: $8003", "device 'keys' overlaps device 'serial' at $8000");
    refuse("at: $8000", "at: $9000", "device 'serial' ($9000..$9003) lies in no io area");
    refuse("chips:\n", "chips:\n  - {name: U6, part: 28C64, maps: [{cpu: $E000..$FFFF}]}\n",
           "two chips answer at $E000: U6 and U5");
    refuse("offset: $4000", "offset: $4001", "do not fit into a 28C256");
    refuse("$C000..$FFFF, offset: $4000", "$D000..$FFFF, offset: $5000",
           "bench.yaml:7:5: error: area 'rom' is ROM, and no chip holds $C000");
}

TEST(not_even_yaml)
{
    bench *b;
    CHECK_INT(open_text("bench: [1,\n", &b), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "not well-formed YAML");
    CHECK_INT(open_text("", &b), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "the file is empty");
    CHECK_INT(open_text("- a\n- b\n", &b), BL_E_SYNTAX);
    CHECK_INT(open_text("a: &x {b: *x}\n", &b), BL_E_SYNTAX);
    CHECK_INT(bench_open(test_path("none.yaml"), &test_sink, &b), BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "no such file");
}

TEST(clock_rates)
{
    uint32_t hz;
    CHECK_INT(bench_clock_parse("2 MHz", &hz), BL_OK);
    CHECK_INT(hz, 2000000);
    CHECK_INT(bench_clock_parse("500kHz", &hz), BL_OK);
    CHECK_INT(hz, 500000);
    CHECK_INT(bench_clock_parse("1000000", &hz), BL_OK);
    CHECK_INT(hz, 1000000);
    CHECK(bench_clock_parse("1 parsec", &hz) != BL_OK);
    CHECK(bench_clock_parse("-1", &hz) != BL_OK);
}

TEST(devices_in_the_io_space)
{
    static const char text[] = "bench: Test\ncpu: z80\nclock: 4 MHz\n"
                               "areas:\n  - {name: ram, range: $8000..$FFFF, kind: ram}\n"
                               "devices:\n  - {name: serial, kind: acia-6551, port: $10}\n"
                               "  - {name: horn, kind: latch, port: $20}\n"
                               "chips: []\nlink: {device: serial, baud: 9600}\nbuild: []\n";
    bench *b;
    if (open_text(text, &b) != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK(b->devices[0].in_ports && b->devices[1].at == 0x20);
    CHECK_INT(b->devices[0].size, 4);
    bench_close(b);
    refuse("at: $8000}", "at: $8000, port: $10}", "has one place, an address or a port");
    refuse("acia-6551, at: $8000}", "acia-6551}", "at: ADDRESS, or port: NUMBER");
    refuse("at: $8000}", "port: $100}", "$100");
}
