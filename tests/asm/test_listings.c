/* Listings, symbol files, and asking a program about its addresses. */
#include "asm_support.h"

#include <stdio.h>
#include <string.h>

static const char source[] = "; two lines\nstart: lda #$12 ; load\n bne _on\n_on: .byte "
                             "1,2,3,4,5,6,7\nSIZE = 3\n .vector reset, start\n";

TEST(a_listing_shows_address_bytes_cycles_line_source)
{
    bl_program *p = assemble(source);
    CHECK_INT(bl_listing_write(p, BL_HEX, false, &test_writer), BL_OK);
    const char *listing = test_written(NULL);
    CHECK_CONTAINS(listing, "  0000  A9 12                 2      2  start: lda #$12 ; load\n");
    CHECK_CONTAINS(listing, "  0002  D0 00                2+      3   bne _on\n");
    CHECK_CONTAINS(listing, "  0004  01 02 03 04 05 06            4  _on: .byte 1,2,3,4,5,6,7\n");
    CHECK_CONTAINS(listing, "  000A  07\n");
    CHECK_CONTAINS(listing, " =0003");
    CHECK_CONTAINS(listing, "  FFFC  00 00");
    CHECK_CONTAINS(listing, "; two lines");
    CHECK_CONTAINS(listing, "Symbols by name (3)\n");
    CHECK(strstr(listing, "= SIZE") < strstr(listing, "start._on"));
    bl_program_close(p);
}

TEST(an_octal_listing)
{
    bl_program *p = assemble(" .org 0o1000\n lda #0o77\n");
    bl_listing_write(p, BL_OCTAL, test_below(2) == 0, &test_writer);
    CHECK_CONTAINS(test_written(NULL), "001000  251 077 ");
    bl_program_close(p);
}

TEST(every_source_line_is_listed_once)
{
    bl_program *p = assemble("k: nop\n\n; c\nb:\n nop\n\n");
    bl_listing_write(p, BL_HEX, false, &test_writer);
    const char *at = test_written(NULL);
    unsigned lines = 0;
    at = strstr(at, "source\n");
    for (at = strchr(at, '\n') + 1; *at != '\0' && strncmp(at, "\nAreas", 6) != 0;
         at = strchr(at, '\n') + 1)
        lines++;
    CHECK_INT(lines, 6);
    bl_program_close(p);
}

TEST(areas_have_a_bar_and_labels_an_order)
{
    bl_program *p = assemble(" .place ram\nzz: .fill 16, 1\naa: nop\n");
    bl_listing_write(p, BL_HEX, false, &test_writer);
    const char *listing = test_written(NULL);
    CHECK_CONTAINS(listing,
                   "  ram              #################............... 17 of 32 bytes, 15 free\n");
    CHECK(strstr(listing, "  0310    aa") < strstr(listing, "  0300    zz"));
    CHECK_CONTAINS(listing, "Labels by address (2)\n  0300    zz");
    bl_program_close(p);
}

TEST(a_map_tells_the_line_of_every_byte)
{
    bl_program *p = assemble(" .org $10\n nop\n lda #1\n .macro two\n .byte 1\n .byte 2\n "
                             ".end\n two\n .org $30\n nop\n");
    CHECK_INT(bl_map_write(p, &test_writer), BL_OK);
    CHECK_TEXT(test_written(NULL), "bootlace map 1\n$0010 1 2 t.asm\n$0011 2 3 t.asm\n$0013 1 5 "
                                   "t.asm\n$0014 1 6 t.asm\n$0030 1 10 t.asm\n");
    bl_program_close(p);
}

TEST(symbol_files_round_trip)
{
    bl_program *p = assemble("start: nop\n_x: nop\nNEG = -5\nBIG = $12345678\n .entry start\n");
    CHECK_INT(bl_symbols_write(p, &test_writer), BL_OK);
    const char *text = test_written(NULL);
    CHECK_CONTAINS(text, "bootlace symbols 1\ncpu 65c02\nentry $0000\nlabel start $0000 1 "
                         "t.asm\nlabel start._x $0001 2 t.asm\n");
    bl_text rest = {text, strlen(text)};
    uint32_t line = 0;
    bl_symbol_line s;
    bl_status status;
    unsigned count = 0;
    while (bl_symbols_read("s", &rest, &line, &s, &test_sink, &status)) {
        char name[32] = "";
        int64_t value = 0;
        memcpy(name, s.name.at, s.name.length);
        CHECK_INT(bl_program_value(p, s.name, &value), BL_OK);
        CHECK_INT(s.value, value);
        count++;
    }
    CHECK_INT(status, BL_OK);
    CHECK_INT(count, 4);
    bl_program_close(p);
}

TEST(malformed_symbol_files)
{
    static const char *const bad[] = {"label x $1\n",
                                      "bootlace symbols 2\n",
                                      "bootlace symbols 1\nlabel x\n",
                                      "bootlace symbols 1\nvalue x zz 1 f\n",
                                      "bootlace symbols 1\nvalue .c -$1 3 f\n",
                                      "bootlace symbols 1\nvalue a..b 1 3 f\n",
                                      "bootlace symbols 1\nvalue a. 1 3 f\n",
                                      "bootlace symbols 1\nlabel g,c $2 3 f\n",
                                      "bootlace symbols 1\nlabel a.2 $2 3 f\n"};
    for (size_t i = 0; i < BL_COUNT(bad); i++) {
        bl_text rest = {bad[i], strlen(bad[i])};
        uint32_t line = 0;
        bl_symbol_line s;
        bl_status status;
        while (bl_symbols_read("s", &rest, &line, &s, &test_sink, &status))
            continue;
        CHECK_INT(status, BL_E_SYNTAX);
    }
}

/* A name of 600 letters is kept whole. */
TEST(long_names_are_written_whole)
{
    char two[1400], name[600];
    memset(name, 'k', sizeof name);
    snprintf(two, sizeof two, "%.*s: nop\n_%.*s: nop\n", 600, name, 599, name);
    bl_program *p = assemble(two);
    CHECK_INT(bl_symbols_write(p, &test_writer), BL_OK);
    bl_text rest = {test_written(NULL), strlen(test_written(NULL))};
    uint32_t line = 0;
    bl_symbol_line s;
    bl_status status;
    size_t lengths[2] = {0}, count = 0;
    while (bl_symbols_read("s", &rest, &line, &s, &test_sink, &status)) {
        CHECK(count < 2);
        lengths[count++] = s.name.length;
    }
    CHECK_INT(status, BL_OK);
    CHECK_INT(lengths[0], 600);
    CHECK_INT(lengths[1], 1201);
    bl_program_close(p);
}

TEST(names_that_are_given_must_be_names)
{
    static const char *const bad[] = {"", ".", "a.", ".a", "a..b", "a.2", "2a", "a-b", "a b"};
    static const char *const good[] = {"a", "_a", "a2", "a.b", "a._b", "area.ram.first"};
    for (size_t i = 0; i < BL_COUNT(bad); i++) {
        bl_definition d = {bad[i], 1};
        bl_asm_options o = options();
        bl_program *p = NULL;
        CHECK(!bl_symbol_name_is_valid((bl_text){bad[i], strlen(bad[i])}));
        o.definitions = &d;
        o.definition_count = 1;
        CHECK(bl_assemble_text(&o, "t.asm", (bl_text){" nop\n", 5}, &p) != BL_OK);
        CHECK_CONTAINS(test_messages(), "cannot be a name");
        bl_program_close(p);
    }
    for (size_t i = 0; i < BL_COUNT(good); i++)
        CHECK(bl_symbol_name_is_valid((bl_text){good[i], strlen(good[i])}));
}

TEST(an_address_is_near_a_label)
{
    bl_program *p = assemble(" .org $100\nk: nop\n nop\nb: nop\n");
    bl_symbol s;
    CHECK(bl_program_label_near(p, 0x101, &s));
    CHECK_TEXT(s.name, "k");
    CHECK(bl_program_label_near(p, 0x102, &s));
    CHECK_TEXT(s.name, "b");
    CHECK(!bl_program_label_near(p, 0xFF, &s));
    CHECK_INT(bl_program_symbol(p, 1, &s), BL_OK);
    CHECK_TEXT(s.name, "b");
    CHECK_INT(s.line, 4);
    CHECK_INT(bl_program_symbol(p, 2, &s), BL_E_RANGE);
    bl_program_close(p);
}
