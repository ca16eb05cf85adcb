/* Memory that is switched: banks, RAM behind ROM, protected and repeated areas, and nothing at all.
 */
#include <stdio.h>
#include <string.h>

#include "host_support.h"

static bench *b;
static simulation *s;

static const char board_text[] =
    "bench: Levels\ncpu: 65c02\nclock: 1 MHz\n"
    "undriven: last\n"
    "banks:\n"
    "  - {window: $8000..$BFFF, first: $10000, by: [page.q0, page.q1]}\n"
    "areas:\n"
    "  - {name: low, range: $0000..$07FF, kind: ram, repeats: $0000..$1FFF}\n"
    "  - {name: kept, range: $2000..$2FFF, kind: ram, protect: page.q7, battery: true}\n"
    "  - {name: fixed, range: $3000..$30FF, kind: ram, protect: always}\n"
    "  - {name: io, range: $7000..$7FFF, kind: io}\n"
    "  - {name: level0, range: $10000..$13FFF, kind: rom}\n"
    "  - {name: level1, range: $14000..$17FFF, kind: rom}\n"
    "  - {name: store, range: $18000..$1FFFF, kind: ram}\n"
    "  - {name: rom, range: $E000..$FFFF, kind: rom, under: page.q6}\n"
    "devices:\n"
    "  - {name: page, kind: latch, at: $7000, reach: 256}\n"
    "chips:\n"
    "  - {name: U1, part: 28C64, maps: [{cpu: $E000..$FFFF}]}\n"
    "  - {name: U2, part: 28C256, maps: [{cpu: $10000..$17FFF}]}\n"
    "build:\n  - {source: levels.asm, for: chips}\n";

/* Subroutines in both ROM banks at one address; the ROM calls the one, then the other. */
static const char source[] = "        .place rom\n"
                             "start:  ldx #$FF\n        txs\n"
                             "        stz board.page.data\n        jsr $8000\n        sta $10\n"
                             "        lda #1\n        sta board.page.data\n        jsr $8000\n"
                             "        sta $11\n\nstay:   bra stay\n"
                             "        .vector reset, start\n        .vector nmi, start\n"
                             "        .vector irq, start\n"
                             "        .place level0\n        .runat $8000\n        lda #$A0\n"
                             "        rts\n        .end\n"
                             "        .place level1\n        .runat $8000\n        lda #$A1\n"
                             "        rts\n        .end\n";

static void set_up(void)
{
    project *p = NULL;
    test_write_file("bench.yaml", board_text);
    test_write_file("levels.asm", source);
    test_messages_clear();
    b = NULL;
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    s = example_board(b, &p);
    project_close(p);
}

static void tear_down(void)
{
    simulation_close(s);
    bench_close(b);
}

static uint8_t see(uint16_t address)
{
    return s->sim.board.bus.read_page[address >> 8] != NULL
               ? s->sim.board.bus.read_page[address >> 8][address & 0xFF]
               : s->sim.board.bus.read(s->sim.board.bus.context, address);
}

static void store(uint16_t address, uint8_t value)
{
    uint8_t *page = s->sim.board.bus.write_page[address >> 8];
    if (page != NULL)
        page[address & 0xFF] = value;
    else
        s->sim.board.bus.write(s->sim.board.bus.context, address, value);
}

TEST(code_runs_in_the_bank_that_is_seen)
{
    set_up();
    sim_bench_run(&s->sim, s->sim.now + 10000000);
    CHECK_INT(see(0x10), 0xA0);
    CHECK_INT(see(0x11), 0xA1);
    tear_down();
}

TEST(banks_of_ram_keep_what_they_have)
{
    set_up();
    for (unsigned bank = 0; bank < 4; bank++) {
        store(0x7000, (uint8_t)bank);
        store(0x9234, (uint8_t)(0x50 + bank));
    }
    for (unsigned bank = 0; bank < 4; bank++) {
        store(0x7080, (uint8_t)bank);                          /* the latch answers there, too */
        CHECK_INT(see(0x9234), bank < 2 ? 0xFF : 0x50 + bank); /* ROM is what it was */
    }
    tear_down();
}

TEST(ram_behind_rom)
{
    set_up();
    uint8_t rom = see(0xE000);
    store(0xE000, 0x5A); /* through it */
    CHECK_INT(see(0xE000), rom);
    store(0x7000, 0x40);
    CHECK_INT(see(0xE000), 0x5A);
    store(0xE000, 0x3C);
    CHECK_INT(see(0xE000), 0x3C);
    store(0x7000, 0x00);
    CHECK_INT(see(0xE000), rom);
    tear_down();
}

TEST(protected_and_repeated)
{
    set_up();
    store(0x2000, 0x11);
    store(0x7000, 0x80);
    store(0x2000, 0x22);
    CHECK_INT(see(0x2000), 0x11);
    store(0x7000, 0x00);
    store(0x2000, 0x22);
    CHECK_INT(see(0x2000), 0x22);
    uint8_t before = see(0x3000);
    store(0x3000, (uint8_t)~before);
    CHECK_INT(see(0x3000), before);
    store(0x0123, 0x77);
    CHECK_INT(see(0x1923), 0x77);
    store(0x1FFF, 0x66);
    CHECK_INT(see(0x07FF), 0x66);
    CHECK_INT(see(0xC123), 0xC1); /* what was on the bus last */
    tear_down();
}

/* Left switched on, and opened again: what is seen is what was seen. */
TEST(switched_memory_is_kept)
{
    set_up();
    store(0x7000, 0x03);
    store(0x9000, 0x99);
    CHECK_INT(simulation_save(s, &test_sink), BL_OK);
    simulation_close(s);
    CHECK_INT(simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s), BL_OK);
    CHECK_INT(see(0x9000), 0x99);
    store(0x7000, 0x00);
    CHECK_INT(see(0x8000), 0xA9); /* LDA # */
    tear_down();
}

static void refused(const char *old, const char *fresh, const char *message)
{
    char text[3000], *at;
    snprintf(text, sizeof text, "%s", board_text);
    at = strstr(text, old);
    CHECK(at != NULL);
    char rest[3000];
    snprintf(rest, sizeof rest, "%s", at + strlen(old));
    snprintf(at, sizeof text - (size_t)(at - text), "%s%s", fresh, rest);
    test_write_file("bench.yaml", text);
    test_messages_clear();
    CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b),
              BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), message);
}

TEST(rules_that_cannot_be)
{
    refused("$3000..$30FF", "$9000..$90FF", "area 'fixed' lies in a window of banks");
    refused("repeats: $0000..$1FFF", "repeats: $0100..$1FFF",
            "area 'low' repeats in a range that begins where it does, and is larger");
    refused("kind: ram, protect: always", "kind: ram, under: always",
            "'under' is for areas of kind rom");
    refused("protect: page.q7", "protect: page.q8", "device 'page' has no pin 'q8'");
    refused("by: [page.q0, page.q1]", "by: []", "1 to 8 pins choose a bank");
    refused("by: [page.q0, page.q1]", "by: [page.q0]", "goes beyond the CPU's addresses");
    refused("$18000..$1FFFF, kind: ram", "$18000..$1FFFF, kind: ram, protect: always",
            "memory beyond the first 64 KiB is not switched, protected or repeated here");
    refused("undriven: last", "undriven: first", "is nothing that is read where nothing is");
    refused("reach: 256", "reach: 0", "device 'page' has 1 registers: it reaches as far at least");
}
