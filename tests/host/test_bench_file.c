/* Bench files: the good one, and each way to get one wrong. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

#include "bench/bench.h"
#include "simulation/sim_faults.h"
#include "simulation/simulation.h"

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
    return bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, b);
}

/* good with a piece replaced; valid until the next call. */
static const char *replaced(const char *piece, const char *with)
{
    static char text[4096];
    const char *at = strstr(good, piece);
    CHECK(at != NULL);
    size_t before = (size_t)(at - good);
    memcpy(text, good, before);
    strcpy(text + before, with);
    strcat(text, at + strlen(piece));
    return text;
}

/* That must be refused, and this must be said. */
static void refuse(const char *piece, const char *with, const char *said)
{
    const char *text = replaced(piece, with);
    bench *b;
    if (open_text(text, &b) == BL_OK) {
        bench_close(b);
        test_fail(__FILE__, __LINE__, "'%s' was accepted", with);
    }
    CHECK_CONTAINS(test_messages(), said);
}
#define refuse(...) TEST_CALL(refuse(__VA_ARGS__))

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
    CHECK_CONTAINS(test_messages(), "known: 2716 2732");
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
    refuse("at: $8020", "at: $8003", "device 'keys' overlaps device 'serial' at $8003");
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
    CHECK_INT(bench_open(test_path("none.yaml"), &simulation_hardware, &test_sink, &b),
              BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "no such file");
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

/* A kind of device is known to bench files as soon as somebody describes it. */
static const bl_device_kind *keyboard(size_t index)
{
    static const bl_device_kind kind = {
        .name = "keys-16", .what = "a keyboard", .registers = {"row", "column"}};
    return index == 0 ? &kind : NULL;
}

static const char *no_line(const bl_sheet *sheet, size_t index)
{
    (void)sheet, (void)index;
    return NULL;
}

static const char *nobody(size_t index)
{
    (void)index;
    return NULL;
}

TEST(devices_are_those_of_the_hardware_at_hand)
{
    const bench_hardware hardware = {keyboard, no_line, nobody};
    char text[1024], *at;
    bench *b = NULL;
    snprintf(text, sizeof text, "%s", good);
    test_write_file("bench.yaml", text);
    test_messages_clear();
    CHECK_INT(bench_open(test_path("bench.yaml"), &hardware, &test_sink, &b), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "known: keys-16, other (with registers)");
    at = strstr(text, "acia-6551");
    CHECK(at != NULL);
    memcpy(at, "  keys-16", 9);
    test_write_file("bench.yaml", text);
    CHECK_INT(bench_open(test_path("bench.yaml"), &hardware, &test_sink, &b), BL_OK);
    CHECK(b->devices[0].kind == keyboard(0) && b->devices[0].size == 2);
    CHECK_TEXT(b->definitions[3].name, "board.serial.column");
    CHECK_INT(b->definitions[3].value, 0x8001);
    bench_close(b);
}

/* docs/board.md has a row for each fault, and no other. */
TEST(faults_are_in_the_docs)
{
    const char *text = test_read_source("docs/board.md", NULL);
    char row[256];
    const char *name, *form, *help, *table;
    size_t rows = 0, count = 0;
    for (; (name = simulation_fault(count, &form, &help)) != NULL; count++) {
        snprintf(row, sizeof row, "| `%s%s%s` | %s |", name, form != NULL ? "=" : "",
                 form != NULL ? form : "", help);
        CHECK_CONTAINS(text, row);
    }
    table = strstr(text, "| fault |");
    CHECK(table != NULL);
    for (const char *line = table; *line == '|'; rows++) {
        line = strchr(line, '\n');
        CHECK(line != NULL);
        line++;
    }
    CHECK_INT(rows, count + 2);
}

/* docs/bench.md has rows for each kind of device, with its registers and its pins. */
TEST(devices_are_in_the_docs)
{
    const char *text = test_read_source("docs/bench.md", NULL);
    char row[600];
    const bl_device_kind *kind;
    for (size_t i = 0; (kind = simulation_hardware.device(i)) != NULL; i++) {
        size_t n = (size_t)snprintf(row, sizeof row, "| `%s` |", kind->name);
        for (unsigned k = 0; k < bl_device_register_count(kind); k++)
            if (*kind->registers[k] != '\0')
                n += (size_t)snprintf(row + n, sizeof row - n, " `%s`", kind->registers[k]);
        if (kind->registers[0] == NULL) n -= 2; /* it has no column of them */
        snprintf(row + n, sizeof row - n, " | %s", kind->what);
        CHECK_CONTAINS(text, row);
        if (kind->pins == NULL) continue;
        n = (size_t)snprintf(row, sizeof row, "| `%s` |", kind->name);
        for (unsigned k = 0; kind->pins[k] != NULL; k++)
            n += (size_t)snprintf(row + n, sizeof row - n, " `%s`", kind->pins[k]);
        CHECK_CONTAINS(text, row);
    }
}

TEST(parts_of_its_own)
{
    static const char parts[] =
        "parts:\n  - {name: 27C64, like: 2764, vpp: 12.5 V, cycle: 100 us, over: 0, access: 90 "
        "120}\n"
        "  - {name: odd, algorithm: commands, size: 0x10000, pins: 32, page: 64, cycle: 30 us,"
        " sector: 16384, erase: 1 s}\nchips:\n";
    char text[4096], *at = strstr(good, "chips:\n");
    bench *b;
    snprintf(text, sizeof text, "%.*s%s%s", (int)(at - good), good, parts, at + 7);
    at = strstr(text, "28C256");
    memcpy(at, "27C64 ", 6);
    memcpy(strstr(text, "offset: $4000"), "mirrored: yes", 13);
    if (open_text(text, &b) != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    const bl_part *p = b->chips[0].part;
    CHECK(p == &b->parts[0]);
    CHECK_INT(p->vpp, 125);
    CHECK_INT(p->cycle_us, 100);
    CHECK_INT(p->over, 0);
    CHECK_INT(p->pulses, 15); /* as the part it is like */
    CHECK_INT(p->access_ns[1], 120);
    CHECK_INT(p->access_ns[2], 0);
    CHECK_INT(b->parts[1].erase_us, 1000000);
    CHECK_INT(b->parts[1].algorithm, BL_ALGORITHM_COMMAND);
    bench_close(b);
    refuse("chips:\n", "parts:\n  - {name: x, like: 2799}\nchips:\n", "no part is called '2799'");
    refuse("chips:\n", "parts:\n  - {name: x, size: 100}\nchips:\n", "part 'x': its size must be");
    refuse("chips:\n", "parts:\n  - {name: x, like: 2764, cycle: 1 day}\nchips:\n",
           "'1 day' needs to be a number and a unit");
    refuse("chips:\n", "parts:\n  - {name: x, like: 2764, vpp: 99 V}\nchips:\n",
           "99 V is too small or too large here");
    refuse("chips:\n",
           "parts:\n  - {name: x, like: 2764, method: pulses, algorithm: pulses}\nchips:\n",
           "'algorithm' and 'method' are the same");
    refuse("chips:\n", "parts:\n  - {name: x, like: 2764, access: 1 2 3 4 5 6}\nchips:\n",
           "at most 5 access times");
    refuse("chips:\n", "parts:\n  - {name: x, like: 2764, method: magic}\nchips:\n",
           "'magic' is no algorithm for writing a part");
}

TEST(lanes_nibbles_and_mirrors)
{
    static const char two[] = "maps: [{cpu: $C000..$FFFF, lane: even}]}\n"
                              "  - {name: U6, part: 28C256, maps: [{cpu: $C000..$FFFF, ";
    static const char map[] = "maps: [{cpu: $C000..$FFFF, offset: $4000}]}";
    char with[300];
    bench *b;
    snprintf(with, sizeof with, "%s%s", two, "lane: even}]}");
    refuse(map, with, "two chips answer at $C000: U5 and U6");
    snprintf(with, sizeof with, "%s%s", two, "lane: 3 of 2}]}");
    refuse(map, with, "'3 of 2' is no lane");
    refuse(map, "maps: [{cpu: $C000..$FFFF, nibble: low}]}",
           "only half of the byte at $C000 is held");
    refuse(map, "maps: [{cpu: $C000..$FFFF, nibble: middle}]}", "'middle' is no nibble");
    refuse(map, "maps: [{cpu: $C000..$FFFF, mirrored: perhaps}]}", "neither yes nor no");
    refuse("part: 28C256", "part: 28C64", "'$4000' is not a number from 0 to 8191");
    refuse("28C256, maps: [{cpu: $C000..$FFFF, offset: $4000}]",
           "28C64, maps: [{cpu: $C000..$FFFF}]", "say: mirrored: yes");
    refuse("part: 28C256", "part: 28C256, copies: 0", "at least one copy");
    refuse("clock: 1.8432 MHz\n", "clock: 1.8432 MHz\ndecoder: slow\n",
           "'slow' needs to be a number and a unit");
    refuse("link: {", "programmer: {vpp: 90 V}\nlink: {", "too small or too large");
    char text[4096], *at = strstr(good, map);
    snprintf(text, sizeof text, "%.*s%slane: 2 of 2}]}%s", (int)(at - good), good, two,
             at + strlen(map));
    if (open_text(text, &b) != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_INT(b->chips[1].maps[0].lane, 1);
    CHECK_INT(b->chips[1].maps[0].lanes, 2);
    bench_close(b);
}

/* Who is at the other end of the line, and how bytes get there. */
TEST(links)
{
    static const char link[] = "link: {device: serial, baud: 9600}";
    static const struct {
        const char *with;
        bl_method method;
        uint32_t baud;
    } all[] = {
        {"link: {device: serial, baud: 300}", BL_METHOD_EYELET, 300},
        {"link: {device: serial, baud: 9600, monitor: aglet}", BL_METHOD_ACKED, 9600},
        {"link: {baud: 9600, method: xmodem-1k}", BL_METHOD_XMODEM_1K, 9600},
        {"link: {baud: 4800, method: packets, packet: 64}", BL_METHOD_PACKETS, 4800},
        {"link: {baud: 4800, method: blind-packets, rounds: 5}", BL_METHOD_BLIND, 4800},
        {"link: {dialogue: dot.dialogue}", BL_METHOD_SREC, 2400},
        {"link: {dialogue: dot.dialogue, baud: 1200, method: typing}", BL_METHOD_TYPING, 1200},
        {"link: {method: parallel}", BL_METHOD_PARALLEL, 9600},
    };
    test_write_file("dot.dialogue", "prompt \". \"\nbaud 2400\nload \"L\"\nloader s-records\n"
                                    "write \"{address} {bytes}\"\n");
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bench *b = NULL;
        const char *text = replaced(link, all[i].with);
        if (open_text(text, &b) != BL_OK)
            test_fail(__FILE__, __LINE__, "%s: %s", all[i].with, test_messages());
        CHECK_INT(b->method, all[i].method);
        CHECK_INT(b->link_baud, all[i].baud);
        CHECK(b->has_link);
        CHECK((b->link_dialogue != NULL) == (strstr(all[i].with, "dialogue") != NULL));
        bench_close(b);
    }
    refuse(link, "link: {device: serial, baud: 9600, monitor: keeper}", "others are described by");
    refuse(link, "link: {device: serial, baud: 9600, method: pigeon}",
           "there is no method 'pigeon'");
    refuse(link, "link: {device: serial, baud: 9600, method: typing}", "typing needs a dialogue");
    refuse(link, "link: {device: serial}", "the line's rate is missing");
    refuse(link, "link: {device: serial, baud: 10}", "too slow for any line");
    refuse(link, "link: {device: cereal, baud: 9600}", "no device is called 'cereal'");
    refuse(link, "link: {baud: 9600, method: packets, packet: 8}", "'packet' is at least 16");
    refuse(link, "link: {baud: 9600, method: packets, packet: 200}", "not a number from 0 to 128");
    refuse(link, "link: {baud: 9600, neighbour: keeper}", "nobody called 'keeper'");
    refuse(link, "link: {dialogue: none.dialogue}", "the dialogue 'none.dialogue' cannot be used");
    refuse(link, "link: {dialogue: dot.dialogue, monitor: eyelet}", "either a monitor of ours");
    refuse("build:\n", "programmer: {dialogue: dot.dialogue}\nbuild:\n",
           "the dialogue of a programmer needs 'write' and 'read'");
}
