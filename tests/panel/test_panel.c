/* Switch sheets: a person who follows one ends with the image in memory. */
#include "bootlace/panel.h"

#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "sim/sim_panel.h"

static char text[400000];
static size_t length;

static bl_status keep(void *context, const void *bytes, size_t count)
{
    (void)context;
    CHECK(length + count < sizeof text);
    memcpy(text + length, bytes, count);
    length += count;
    text[length] = '\0';
    return BL_OK;
}
static const bl_writer writer = {NULL, keep};

static bl_sheet *sheet_of(const char *cpu)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){cpu, strlen(cpu)}, &test_sink, &sheet), BL_OK);
    return sheet;
}

/* The number that switch positions show. */
static unsigned shown(const char *positions)
{
    unsigned v = 0;
    for (; *positions == '*' || *positions == '.' || *positions == ' '; positions++)
        if (*positions != ' ') v = v << 1 | (*positions == '*');
    return v;
}

/* Sets the switches, deposits, adds up; the sums must come out. Returns how many were deposited. */
static unsigned enter(uint16_t *memory, bool octal)
{
    unsigned address = 0, deposited = 0, sum = 0, all = 0, lines = 0, count;
    for (char *line = strtok(text, "\n"); line != NULL; line = strtok(NULL, "\n")) {
        char where[20], hex[8], digits[8];
        unsigned total;
        int from = 0;
        if (sscanf(line, "set the address %19s %n", where, &from) == 1) {
            address = shown(line + from);
            unsigned written;
            CHECK(sscanf(where, octal ? "0o%o" : "$%X", &written) == 1 && written == address);
        } else if (sscanf(line, octal ? " sum of %u: 0o%o" : " sum of %u: $%X", &count, &total) ==
                   2) {
            CHECK_INT(count, lines);
            CHECK_INT(total, sum & 0xFFFF);
            CHECK(count <= 16);
            lines = sum = 0;
        } else if (sscanf(line, octal ? " total of %u: 0o%o" : " total of %u: $%X", &count,
                          &total) == 2) {
            CHECK_INT(count, deposited);
            CHECK_INT(total, all & 0xFFFF);
        } else {
            unsigned value, same;
            CHECK(sscanf(line, "  %19s %7s %7s  %n", where, hex, digits, &from) == 3);
            value = shown(line + from);
            CHECK(sscanf(hex, "%X", &same) == 1 && same == value);
            CHECK(sscanf(digits, "%o", &same) == 1 && same == value);
            memory[address++] = (uint16_t)value;
            deposited++, lines++, sum += value, all += value;
        }
    }
    CHECK_INT(lines, 0); /* no line without a sum */
    return deposited;
}

static void sheet_for(const bl_panel *panel, bl_panel_count *count)
{
    bl_panel_count look;
    length = 0, text[0] = '\0';
    CHECK_INT(bl_panel_look(panel, &look), BL_OK);
    CHECK_INT(bl_panel_write(panel, &writer, count), BL_OK);
    CHECK(memcmp(&look, count, sizeof look) == 0);
}

TEST(following_a_sheet_gives_the_image)
{
    static uint16_t memory[0x10000];
    for (unsigned turn = 0; turn < 40; turn++) {
        bl_image *image = NULL, *have = NULL;
        uint8_t bytes[300];
        CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
        CHECK_INT(bl_image_open(&test_memory, &have), BL_OK);
        memset(memory, 0, sizeof memory);
        for (unsigned piece = 0; piece < 4; piece++) {
            uint32_t at = piece * 0x4000 + test_below(0x3000), n = 1 + test_below(sizeof bytes);
            for (unsigned i = 0; i < n; i++)
                bytes[i] = (uint8_t)test_random();
            bl_image_put(image, at, bytes, n, (bl_origin){0, 0});
            /* Something like it is there already. */
            for (unsigned i = 0; i < n; i += 1 + test_below(9))
                bytes[i] ^= (uint8_t)(1u << test_below(8));
            bl_image_put(have, at, bytes, n, (bl_origin){0, 0});
            for (unsigned i = 0; i < n; i++)
                if (turn % 2 == 1) memory[at + i] = bytes[i];
        }
        bl_panel panel = {.image = image,
                          .have = turn % 2 == 1 ? have : NULL,
                          .radix = turn % 3 == 0 ? BL_OCTAL : BL_HEX,
                          .group = 3 + turn % 2};
        bl_panel_count count;
        sheet_for(&panel, &count);
        CHECK_INT(count.units, bl_image_size(image));
        CHECK_INT(enter(memory, turn % 3 == 0), count.listed);
        CHECK(turn % 2 == 0 ? count.listed == count.units : count.listed < count.units);
        for (uint32_t a = 0; a < 0x10000; a++) {
            uint8_t byte;
            if (bl_image_get(image, a, &byte)) CHECK_INT(memory[a], byte);
        }
        bl_image_close(image);
        bl_image_close(have);
    }
}

TEST(words_ranges_and_refusals)
{
    static const char source[] = " .org 0o200\nstart: .word 1234q, -1, 7\n .org 0o300\n .word 5\n";
    bl_sheet *sheet = sheet_of("gannet");
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    bl_program *p = NULL;
    CHECK_INT(bl_assemble_text(&o, "w", (bl_text){source, sizeof source - 1}, &p), BL_OK);
    bl_panel panel = {.image = bl_program_image(p), .sheet = sheet, .radix = BL_OCTAL, .group = 3};
    bl_panel_count count;
    sheet_for(&panel, &count);
    CHECK_INT(count.units, 4);
    CHECK_INT(count.settings, 2);
    CHECK_CONTAINS(text, "set the address 0o0200   ... .*. ... ...\n");
    CHECK_CONTAINS(text, "  0o0200  29C  1234  ..* .*. .** *..\n");
    CHECK_CONTAINS(text, "  0o0201  FFF  7777  *** *** *** ***\n");
    CHECK_CONTAINS(text, "    sum of 3: ");
    static uint16_t memory[0x1000];
    CHECK_INT(enter(memory, true), 4);
    CHECK_INT(memory[0xC0], 5);
    panel.range = (bl_range){0x81, 2};
    sheet_for(&panel, &count);
    CHECK_INT(count.listed, 2);
    CHECK_CONTAINS(text, "set the address 0o0201");
    panel.have = panel.image; /* all is there */
    sheet_for(&panel, &count);
    CHECK(count.units == 2 && count.listed == 0 && count.settings == 0 && length == 0);
    panel.group = 5;
    CHECK_INT(bl_panel_look(&panel, &count), BL_E_ARGUMENT);
    bl_program_close(p);
    bl_sheet_close(sheet);
}

/* ---- a panel ---- */

static sim_board board;
static sim_panel machine;
static const bl_area ram_only[] = {{.name = "ram", .range = {0, 0x8000}, .kind = BL_AREA_RAM},
                                   {.name = "rom", .range = {0x8000, 0x8000}, .kind = BL_AREA_ROM}};

static bl_front_panel switch_on(const char *cpu)
{
    sim_chance chance = {7};
    const sim_cpu_kind *kind = sim_cpu_kind_for(cpu, strlen(cpu));
    CHECK(kind != NULL);
    sim_board_begin(&board, kind, 1000000, ram_only, 2, NULL, NULL, 0);
    sim_board_power_on(&board, &chance, 0);
    sim_panel_begin(&machine, &board);
    return sim_panel_port(&machine);
}

static bl_program *program_for(const char *cpu, const char *source, bl_sheet **sheet)
{
    *sheet = sheet_of(cpu);
    bl_asm_options o = {.memory = test_memory, .sheet = *sheet, .sink = &test_sink};
    bl_program *p = NULL;
    if (bl_assemble_text(&o, "p", (bl_text){source, strlen(source)}, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return p;
}

TEST(a_program_is_toggled_in_and_runs)
{
    static const struct {
        const char *cpu, *source;
    } all[] = {
        {"65c02", " .org $0200\n lda #0\nup: inc\n cmp #100\n bne up\n sta $10\nstay: bra stay\n"},
        {"8080", " .org $0200\n mvi a,0\nup: inr a\n cpi 100\n jnz up\n sta $10\nstay: jmp stay\n"},
        {"z80",
         " .org $0200\n ld a,0\nup: inc a\n cp 100\n jr nz,up\n ld ($10),a\nstay: jr stay\n"},
        {"6800", " .org $0200\n clra\nup: inca\n cmpa #100\n bne up\n staa $10\nstay: bra stay\n"},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_sheet *sheet;
        bl_program *p = program_for(all[i].cpu, all[i].source, &sheet);
        bl_front_panel port = switch_on(all[i].cpu);
        bl_panel panel = {.image = bl_program_image(p), .sheet = sheet, .group = 4};
        bl_panel_entry entry;
        CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_OK);
        CHECK_INT(entry.deposited, bl_image_size(panel.image));
        CHECK_INT(entry.read_back, entry.deposited);
        bl_panel_run(&port, 0x200);
        CHECK(port.lamps(port.context).running);
        sim_panel_pass(&machine, 20000000);
        CHECK_INT(board.ram[0x10], 100);
        port.press(port.context, BL_KEY_DEPOSIT); /* nothing happens while it runs */
        port.press(port.context, BL_KEY_STOP);
        uint32_t at = port.lamps(port.context).address;
        CHECK(at >= 0x200 && at < 0x200 + entry.deposited);
        sim_panel_pass(&machine, 30000000); /* it stands */
        CHECK_INT(board.cpu.pc, at);
        port.set(port.context, 0x200);
        port.press(port.context, BL_KEY_EXAMINE);
        port.press(port.context, BL_KEY_STEP);
        CHECK(port.lamps(port.context).address > 0x200);
        bl_program_close(p);
        bl_sheet_close(sheet);
    }
}

TEST(lamps_that_show_something_else_are_told)
{
    bl_sheet *sheet;
    bl_program *p = program_for("65c02", " .org $7FFE\n .byte 1, 2, 3\n", &sheet);
    bl_front_panel port = switch_on("65c02");
    bl_panel panel = {.image = bl_program_image(p), .sheet = sheet, .group = 4};
    bl_panel_entry entry;
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_E_DIFFERS); /* $8000 is ROM */
    CHECK_INT(entry.wrong, 1);
    CHECK_INT(entry.where, 0x8000);
    CHECK_INT(entry.expected, 3);
    CHECK_INT(entry.found, 0xFF);
    panel.have = panel.image; /* nothing to toggle, but all is looked at */
    CHECK_INT(bl_panel_enter(&panel, &port, &entry), BL_E_DIFFERS);
    CHECK_INT(entry.deposited, 0);
    CHECK_INT(entry.read_back, 3);
    bl_program_close(p);
    bl_sheet_close(sheet);
}
