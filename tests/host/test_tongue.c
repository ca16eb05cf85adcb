/* Tongue at the prompt of each Eyelet: its words as a person types them, and what programs show. */
#include <glib.h>
#include <string.h>

#include "bootlace/drive_transport.h"
#include "host_support.h"

#define ROOM(rom, area, rest)                                                                      \
    rom, rest "\n  - {name: tongue, range: " area ", kind: rom, fill: $FF}",                       \
        "  - {firmware: eyelet, for: chips}",                                                      \
        "  - {firmware: eyelet, for: chips}\n  - {firmware: tongue, for: chips}"

#define ROM(range) "  - {name: rom,         range: " range ", kind: rom, fill: $FF}"

static const struct board {
    const char *folder;
    const char *changes[7];
    unsigned place; /* RAM for programs, and */
    const char *source, *registers;
} boards[] = {
    {"skerry-65",
     {ROOM(ROM("$C000..$F7FF"), "$F000..$F3FF", ROM("$C000..$EFFF")), NULL},
     0x0400,
     "        lda #$12\n        ldx #$34\n        ldy #$56\n        sec\n",
     "PC 0407  A 12  X 34  Y 56  S FD  P "},
    {"skerry-80",
     {ROOM(ROM("$0800..$1FFF"), "$1C00..$1FFF", ROM("$0800..$1BFF")), NULL},
     0x8400,
     "        ld bc,$1234\n        ld de,$5678\n        ld ix,$1111\n        ld iy,$2222\n"
     "        ld hl,$9ABC\n",
     "PC 8411  AF "},
    {"skerry-85",
     {ROOM(ROM("$0800..$1FFF"), "$1C00..$1FFF", ROM("$0800..$1BFF")), NULL},
     0x4400,
     "        lxi b,$1234\n        lxi d,$5678\n        lxi h,$9ABC\n",
     "PC 4409  AF "},
    {"skerry-68",
     {ROOM(ROM("$F000..$F7FF"), "$F000..$F3FF", ROM("$F400..$F7FF")), NULL},
     0x0400,
     "        ldd #$1234\n        ldx #$5678\n        ldy #$9ABC\n        ldu #$DEF0\n",
     "PC 040D  D 1234  X 5678  Y 9ABC  U DEF0  S "},
    {"skerry-60", /* has one itself */
     {NULL},
     0x0400,
     "        ldaa #$12\n        ldab #$34\n        ldx #$5678\n",
     "PC 0407  A 12  B 34  X 5678  SP "},
};
static const struct board *k;

static bench *b;
static project *p;
static simulation *s;
static GString *said;

/* What comes in so many milliseconds. */
static void hear(unsigned ms)
{
    bl_serial port = sim_line_port(&s->sim.board_line);
    for (unsigned i = 0; i < ms; i++) {
        uint8_t bytes[64];
        size_t got = 0;
        sim_bench_run(&s->sim, s->sim.now + 1000000);
        CHECK_INT(port.receive(port.context, bytes, sizeof bytes, &got), BL_OK);
        g_string_append_len(said, (const char *)bytes, (gssize)got);
    }
}

/* A line as somebody types it, and what is answered. */
static const char *ask(const char *line, ...)
{
    char text[100];
    va_list list;
    va_start(list, line);
    vsnprintf(text, sizeof text, line, list);
    va_end(list);
    bl_serial port = sim_line_port(&s->sim.board_line);
    g_string_truncate(said, 0);
    for (const char *c = text; *c != '\0'; c++) {
        CHECK_INT(bl_drive_send(&port, (const uint8_t *)c, 1), BL_OK);
        hear(3);
    }
    CHECK_INT(bl_drive_send(&port, (const uint8_t *)"\r", 1), BL_OK);
    hear(900);
    return said->str;
}

static void set_up(const char *radix)
{
    const char *changes[G_N_ELEMENTS(k->changes) + 3];
    size_t n = 0;
    for (size_t i = 0; k->changes[i] != NULL && g_str_has_prefix(k->changes[i], "  - "); i++)
        changes[n++] = k->changes[i];
    if (radix != NULL) changes[n++] = "radix: hex", changes[n++] = radix;
    changes[n] = NULL;
    b = example_bench_changed(k->folder, changes);
    s = example_board(b, &p);
    said = g_string_new(NULL);
    CHECK_CONTAINS(ask(""), "eyelet> ");
}

static void tear_down(void)
{
    g_string_free(said, TRUE);
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

static void type_words(void)
{
    unsigned at = k->place;
    uint8_t *ram = s->sim.board.ram;
    CHECK_CONTAINS(ask("help"), "change PLACE BYTE BYTE...\r\nfill FIRST LAST BYTE");
    CHECK_CONTAINS(ask("change %04X 12 34 41 9f 0", at), "eyelet> ");
    CHECK_BYTES(ram + at, 5, "\x12\x34\x41\x9F\x00", 5);
    CHECK_CONTAINS(ask("s %x %X", at, at + 3), " 12 34 41 9F .4A.\r\n");
    CHECK_CONTAINS(ask("FILL %04X %04X EE", at + 1, at + 0x11), "eyelet> ");
    for (unsigned i = 0; i < 0x20; i++)
        CHECK(i < 1 || i > 0x11 || ram[at + i] == 0xEE);
    CHECK(ram[at] == 0x12);
    CHECK_CONTAINS(ask("show %04X %04X", at, at + 0x10),
                   "12 EE EE EE EE EE EE EE EE EE EE EE EE EE EE EE ................\r\n");
    char next[40];
    snprintf(next, sizeof next, "\r\n%04X EE ", at + 0x11);
    CHECK_CONTAINS(ask("show"), next); /* on from there */
    snprintf(next, sizeof next, "\r\n%04X ", at + 0x20 + 0x71 - 0x10);
    CHECK_CONTAINS(said->str, next);
    uint8_t before = ram[at];
    CHECK_CONTAINS(ask("change %04X 100", at), "not understood");
    CHECK_CONTAINS(ask("change %04X", at), "not understood");
    CHECK_CONTAINS(ask("change %04X 1z", at), "not understood");
    CHECK_CONTAINS(ask("fill %04X", at), "not understood");
    CHECK_INT(ram[at], before);
    CHECK_CONTAINS(ask("change 0 1"), "not kept there"); /* below Eyelet's own memory */
    CHECK_CONTAINS(ask("cx\b\bshow %04X %04X", at + 1, at + 1), "EE .\r\n");
    for (unsigned i = 0; i < 30; i++) { /* whatever is typed, it comes back */
        char line[60];
        size_t n = test_below(sizeof line - 1);
        for (size_t c = 0; c < n; c++)
            line[c] = (char)('0' + test_below(30));
        line[n] = '\0';
        ask("s %s", line);
        CHECK_CONTAINS(ask(""), "eyelet> ");
    }
}
#define type_words(...) TEST_CALL(type_words(__VA_ARGS__))

TEST(a_person_types_words_at_every_eyelet)
{
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++) {
        set_up(NULL);
        type_words();
        tear_down();
    }
}

TEST(a_person_types_octal_where_the_machine_is_octal)
{
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++) {
        set_up("radix: octal");
        char row[40];
        snprintf(row, sizeof row, "\r\n%06o 101 377 000 A..\r\n", k->place);
        ask("change %o 101 377 0", k->place);
        CHECK_CONTAINS(ask("show %o %o", k->place, k->place + 2), row);
        CHECK_CONTAINS(ask("change %o 8", k->place), "not understood");
        CHECK_CONTAINS(ask("change %o 400", k->place), "not understood");
        CHECK_INT(s->sim.board.ram[k->place], 0101);
        tear_down();
    }
}

/* The macros change nothing: what is shown the second time is the same. */
TEST(a_program_shows_its_registers_and_a_range)
{
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++) {
        bl_program *program;
        uint32_t entry = k->place;
        set_up(NULL);
        bl_text cpu = bl_sheet_name(b->sheet);
        bool is_8085 = strcmp(k->folder, "skerry-85") == 0;
        char *text = g_strdup_printf(
            "        .use \"out/eyelet.sym\" as eyelet\n        .use \"out/tongue.sym\" as tongue\n"
            "        .include \"<%.*s/show>\"\n        .place program\n        .org $%04X\n%s"
            "        show_registers\n        show_range $%04X, $%04X\n        show_registers\n"
            "        %s\n",
            is_8085 ? 4 : (int)cpu.length, is_8085 ? "8080" : cpu.at, entry, k->source, entry,
            entry + 2, strstr(k->folder, "-8") != NULL ? "ret" : "rts");
        CHECK(g_file_set_contents(test_path("talk.asm"), text, -1, NULL));
        g_free(text);
        if (project_assemble(p, test_path("talk.asm"), NULL, &test_sink, &program) != BL_OK)
            test_fail(__FILE__, __LINE__, "%s", test_messages());
        bl_piece piece = bl_image_piece(bl_program_image(program), 0);
        memcpy(s->sim.board.ram + piece.first, piece.bytes, piece.count);
        ask("run %04X", entry);
        const char *first = strstr(said->str, k->registers);
        if (first == NULL) test_fail(__FILE__, __LINE__, "%s says: %s", k->folder, said->str);
        const char *second = strstr(first + 8, "\nPC ");
        CHECK(second != NULL);
        size_t all = strcspn(first, "\r");
        CHECK(all > 30);
        CHECK(strncmp(first + 8, second + 9, all - 8) == 0); /* but for the place */
        char row[40];
        snprintf(row, sizeof row, "\r\n%04X %02X %02X %02X ", entry, piece.bytes[0], piece.bytes[1],
                 piece.bytes[2]);
        CHECK_CONTAINS(first, row);
        CHECK(g_str_has_suffix(said->str, "eyelet> "));
        bl_program_close(program);
        tear_down();
    }
}
