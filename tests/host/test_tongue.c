/* Tongue at the prompt of each Eyelet: its words as a person types them, and what programs show. */
#include <glib.h>
#include <string.h>

#include "bootlace/drive_transport.h"
#include "host_support.h"
#include "project/stored.h"

#define ROOM(rom, area, rest)                                                                      \
    rom, rest "\n  - {name: tongue, range: " area ", kind: rom, fill: $FF}",                       \
        "  - {firmware: eyelet, for: chips}",                                                      \
        "  - {firmware: eyelet, for: chips}\n  - {firmware: tongue, for: chips}"

#define ROM(range)          "  - {name: rom,         range: " range ", kind: rom, fill: $FF}"
#define ROM_OF(name, range) "  - {name: " name ", range: " range ", kind: rom, fill: $FF}"

static const struct board {
    const char *folder;
    const char *changes[7];
    unsigned place; /* RAM for programs, and */
    const char *source, *registers;
    const char *ram, *kept; /* the area of that RAM, and with some of it that has a battery */
    const char *marks;      /* a program that stores $5A at the beginning of the rest, and stays */
} boards[] = {
    {"skerry-65",
     {ROOM(ROM("$C000..$F7FF"), "$F000..$F3FF",
           ROM("$C000..$EFFF") "\n" ROM_OF("start", "$F7F0..$F7FF")),
      NULL},
     0x0400,
     "        lda #$12\n        ldx #$34\n        ldy #$56\n        sec\n",
     "PC 0407  A 12  X 34  Y 56  S FD  P ",
     "range: $0300..$7FFF, kind: ram}",
     "range: $0300..$6FFF, kind: ram}\n  - {name: stored_head, range: $7000..$7005, kind: ram, "
     "battery: true}\n  - {name: stored, range: $7006..$7FFF, kind: ram, battery: true}",
     "        lda #$5A\n        sta area.program.first\nstay:   bra stay\n"},
    {"skerry-80",
     {ROOM(ROM("$0800..$1FFF"), "$1C00..$1FFF", ROM("$0800..$1BFF")), NULL},
     0x8400,
     "        ld bc,$1234\n        ld de,$5678\n        ld ix,$1111\n        ld iy,$2222\n"
     "        ld hl,$9ABC\n",
     "PC 8411  AF ",
     "range: $8200..$FBFF, kind: ram}",
     "range: $8200..$EFFF, kind: ram}\n  - {name: stored_head, range: $F000..$F005, kind: ram, "
     "battery: true}\n  - {name: stored, range: $F006..$FBFF, kind: ram, battery: true}",
     "        ld a,$5A\n        ld (area.program.first),a\nstay:   jr stay\n"},
    {"skerry-85",
     {ROOM(ROM("$0800..$1FFF"), "$1C00..$1FFF", ROM("$0800..$1BFF")), NULL},
     0x4400,
     "        lxi b,$1234\n        lxi d,$5678\n        lxi h,$9ABC\n",
     "PC 4409  AF ",
     "range: $4200..$5EFF, kind: ram}",
     "range: $4200..$4FFF, kind: ram}\n  - {name: stored_head, range: $5000..$5005, kind: ram, "
     "battery: true}\n  - {name: stored, range: $5006..$5EFF, kind: ram, battery: true}",
     "        mvi a,$5A\n        sta area.program.first\nstay:   jmp stay\n"},
    {"skerry-68",
     {ROOM(ROM("$F000..$F7FF"), "$F000..$F3FF", ROM("$F400..$F7FF")), NULL},
     0x0400,
     "        ldd #$1234\n        ldx #$5678\n        ldy #$9ABC\n        ldu #$DEF0\n",
     "PC 040D  D 1234  X 5678  Y 9ABC  U DEF0  S ",
     "range: $0200..$1DFF, kind: ram}",
     "range: $0200..$0FFF, kind: ram}\n  - {name: stored_head, range: $1000..$1005, kind: ram, "
     "battery: true}\n  - {name: stored, range: $1006..$1DFF, kind: ram, battery: true}",
     "        lda #$5A\n        sta area.program.first\nstay:   bra stay\n"},
    {"skerry-60", /* has one itself */
     {NULL},
     0x0400,
     "        ldaa #$12\n        ldab #$34\n        ldx #$5678\n",
     "PC 0407  A 12  B 34  X 5678  SP ",
     "range: $0200..$1DFF, kind: ram}",
     "range: $0200..$0FFF, kind: ram}\n  - {name: stored_head, range: $1000..$1005, kind: ram, "
     "battery: true}\n  - {name: stored, range: $1006..$1DFF, kind: ram, battery: true}",
     "        ldaa #$5A\n        staa area.program.first\nstay:   bra stay\n"},
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

static void set_up(const char *old, const char *other)
{
    const char *changes[G_N_ELEMENTS(k->changes) + 3];
    size_t n = 0;
    for (size_t i = 0; k->changes[i] != NULL && g_str_has_prefix(k->changes[i], "  - "); i++)
        changes[n++] = k->changes[i];
    if (old != NULL) changes[n++] = old, changes[n++] = other;
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
    for (unsigned i = 0; i < 8; i++) { /* whatever is typed, it comes back */
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
        set_up(NULL, NULL);
        type_words();
        tear_down();
    }
}

TEST(a_person_types_octal_where_the_machine_is_octal)
{
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++) {
        set_up("radix: hex", "radix: octal");
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
        set_up(NULL, NULL);
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

static void power_cycle(const char *key)
{
    bl_serial port = sim_line_port(&s->sim.board_line);
    simulation_power_off(s);
    hear(10);
    g_string_truncate(said, 0);
    simulation_power_on(s);
    hear(100);
    if (key != NULL) CHECK_INT(bl_drive_send(&port, (const uint8_t *)key, 1), BL_OK);
    hear(700);
}

/* Kept with its checksum it starts at power-on; with a key pressed, or a byte of it or of its head
 * another, it does not. */
static void keep_program(void)
{
    bl_program *program;
    char *why = NULL, *text = g_strconcat("        .place stored\n        .byte 1, 2, 3\n"
                                          "        .entry start\nstart:\n",
                                          k->marks, NULL);
    CHECK(g_file_set_contents(test_path("kept.asm"), text, -1, NULL));
    g_free(text);
    if (project_assemble(p, test_path("kept.asm"), NULL, &test_sink, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_image *image = stored_image(b, bl_program_image(program), &why);
    if (image == NULL) test_fail(__FILE__, __LINE__, "%s", why);
    CHECK_INT(bl_image_pieces(image), 1);
    bl_piece piece = bl_image_piece(image, 0);
    const uint8_t *ram = s->sim.board.ram;
    uint32_t mark = 0;
    for (size_t i = 0; i < b->area_count; i++)
        if (strcmp(b->areas[i].name, "program") == 0) mark = b->areas[i].range.first;
    for (unsigned turn = 0; turn < 12; turn++) {
        memcpy(s->sim.board.ram + piece.first, piece.bytes, piece.count);
        s->sim.board.ram[mark] = 0;
        bool pressed = turn == 1, damaged = turn > 1;
        if (damaged) s->sim.board.ram[piece.first + test_below((unsigned)piece.count)] ^= 0x10;
        uint8_t before[64];
        memcpy(before, ram + piece.first, piece.count);
        power_cycle(pressed ? "\r" : NULL);
        CHECK_BYTES(ram + piece.first, piece.count, before, piece.count);
        CHECK_INT(ram[mark] == 0x5A, turn == 0);
        if (pressed) CHECK_CONTAINS(said->str, "eyelet> ");
    }
    bl_image_close(image);
    bl_program_close(program);
}
#define keep_program(...) TEST_CALL(keep_program(__VA_ARGS__))

TEST(a_program_that_is_kept_starts_at_power_on)
{
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++) {
        set_up(k->ram, k->kept);
        keep_program();
        tear_down();
    }
}

/* A button that is held: neither what is kept nor the ROM's program starts. */
TEST(a_button_holds_programs_back)
{
    static const char *const ports[] = {"at: $8020", "port: $30", "port: $30", "at: $A020",
                                        "at: $A020"};
    for (k = boards; k < boards + G_N_ELEMENTS(boards); k++)
        for (unsigned low = 0; low < 2; low++) {
            char *device =
                g_strdup_printf("%sdevices:\n  - {name: hold, kind: port-8, %s}\n",
                                low != 0 ? "define: {HOLD_LOW: 1}\n\n" : "", ports[k - boards]);
            set_up("devices:\n", device);
            g_free(device);
            /* Its latch reads 0 after power-on: held where low is. */
            power_cycle(NULL);
            bool prompt = strstr(said->str, "eyelet> ") != NULL;
            if (prompt != (low == 1))
                test_fail(__FILE__, __LINE__, "%s, %u: %s", k->folder, low, said->str);
            tear_down();
        }
}

TEST(what_cannot_be_kept_is_told)
{
    bl_image *image = NULL;
    char *why;
    k = &boards[0];
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    CHECK_INT(bl_image_put(image, 0x0300, (const uint8_t *)"abc", 3, (bl_origin){0, 0}), BL_OK);
    set_up(NULL, NULL);
    CHECK(stored_image(b, image, &why) == NULL);
    CHECK_CONTAINS(why, "'battery: true'");
    g_free(why);
    tear_down();
    set_up(k->ram, k->kept);
    CHECK(stored_image(b, image, &why) == NULL);
    CHECK_CONTAINS(why, "are not in the area 'stored'");
    g_free(why);
    bl_image_close(image);
    tear_down();
}
