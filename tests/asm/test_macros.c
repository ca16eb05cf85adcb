/* Macros, repeats, conditions, groups, alphabets, code that runs elsewhere. */
#include <stdio.h>
#include <string.h>

#include "asm_support.h"

TEST(conditions_choose_lines)
{
    expect("FAST = 2\n .if FAST > 1\n .byte 1\n .elseif FAST\n .byte 2\n .else\n .byte 3\n "
           ".end\n .byte 4\n",
           0, "\x01\x04", 2);
    expect("F = 0\n .if F\n .byte 1\n .if 1\n .byte 9\n .else\n nonsense !\n .end\n .elseif F == "
           "0\n .byte 2\n .else\n .byte 3\n .end\n",
           0, "\x02", 1);
    expect(" .IF defined(board.clock) && !defined(NOTHING)\n .byte 5\n .END IF\n", 0, "\x05", 1);
    expect("lab: nop\n .if defined(lab) && !defined(later)\n .byte 1\n .end\nlater:\n", 0,
           "\xEA\x01", 2);
    expect(" .if area.ram.size == 32 && board.clock >= 2000000\n .byte 1\n .end\n", 0, "\x01", 1);
}

TEST(conditions_that_are_wrong)
{
    refuse("lab: nop\n .if lab\n .end\n", "t.asm:2:6: error: this must be known here", NULL);
    refuse(" .if LATER\n .end\nLATER = 1\n", "this must be known here", NULL);
    CHECK_INT(test_error_count(), 1);
    refuse(" .if 1\n nop\n", "t.asm:1:2: error: this .if is never ended", NULL);
    refuse(" .else\n", "no .if is open here", NULL);
    refuse(" .else\n", "no .if is open here", NULL);
    refuse(" .if 1\n .else\n .else\n .end\n", "a second .else", NULL);
    refuse(" .if 1\n .else\n .elseif 1\n .end\n", ".elseif after .else", NULL);
    refuse(" .if 1 / 0\n .end\n", "this has no value", NULL);
}

TEST(macros_take_arguments)
{
    expect(" .macro put VALUE, TO = $10\n lda VALUE\n sta TO\n .end\n put #5\n put ($20,x), "
           "$1234\n put {#lo($1234)}\n",
           0, "\xA9\x05\x85\x10\xA1\x20\x8D\x34\x12\xA9\x34\x85\x10", 13);
    expect(" .macro row FIRST, REST...\n .byte FIRST\n .word REST\n .end\n row 1, 2, 3\n row "
           "\"a,b\", 4\n",
           0,
           "\x01\x02\x00\x03\x00"
           "a,b\x04\x00",
           10);
    expect("none: .macro nothing\n .end\n nothing\n nop\n", 0, "\xEA", 1);
    expect(" .macro quoted WORD\n .byte \"WORD\", 'W' ; WORD\n .end\n quoted X\n", 0, "WORDW", 5);
}

TEST(labels_of_an_expansion_are_its_own)
{
    expect(" .macro wait N\n ldx #N\n_loop: dex\n bne _loop\n .end\nmain: wait 1\n_loop: wait "
           "2\n bra _loop\n",
           0, "\xA2\x01\xCA\xD0\xFD\xA2\x02\xCA\xD0\xFD\x80\xF9", 12);
    /* a local name that is passed in keeps its meaning */
    expect(" .macro unless TARGET\n bne _skip\n bra TARGET\n_skip:\n .end\nmain: nop\n_end: "
           "unless _end\n",
           0, "\xEA\xD0\x02\x80\xFC", 5);
    bl_program *p = assemble(" .macro m\n_x: nop\n .end\nmain: m\n");
    CHECK_INT(bl_program_symbols(p), 1);
    bl_program_close(p);
}

TEST(macros_use_macros_and_themselves)
{
    expect(" .macro one V\n .byte V\n .end\n .macro two V, W\n one V\n one W\n .end\n "
           "two 1, 2\n",
           0, "\x01\x02", 2);
    expect(" .macro down N\n .if N > 0\n .byte N\n down N - 1\n .end\n .end\n down 5\n", 0,
           "\x05\x04\x03\x02\x01", 5);
    refuse(" .macro again\n again\n .end\n again\n", "does it expand itself without end?", NULL);
    CHECK_INT(test_error_count(), 1);
}

TEST(errors_in_macros_tell_how_they_came_about)
{
    refuse(" .macro inner V\n lda #V\n .end\n .macro outer V\n inner V\n .end\n nop\n "
           "outer 300\n",
           "t.asm:2:7: error: 300 does not fit", "t.asm:5: note: in macro 'inner', used here",
           "t.asm:8: note: in macro 'outer', used here", NULL);
    refuse(" .macro m A1\n .end\n m\n m 1, 2\n", "macro 'm' needs an argument for 'A1'",
           "macro 'm' takes at most 1 argument", NULL);
    refuse(" .macro lda V\n .end\n", "'lda' is an instruction", NULL);
    refuse(" .macro m\n .end\n .macro m\n .end\n", "macro 'm' is defined twice", NULL);
    refuse(" .macro m\n nop\n", "this .macro is never ended", "end it with .end macro", NULL);
    refuse(" .end\n", "no block is open here", NULL);
    refuse(" .macro m R..., S\n .end\n", "nothing follows the parameter that takes the rest", NULL);
    refuse(" .macro\n .end\n", "a macro needs a name", NULL);
}

TEST(repeats)
{
    expect(" .repeat 4, I\n .byte I * I\n .end\n", 0, "\x00\x01\x04\x09", 4);
    expect(" .repeat 2, I\n .repeat 2, K\n .byte I * 16 + K\n .end\n .end\n", 0, "\x00\x01\x10\x11",
           4);
    expect(" .repeat 0\n nonsense\n .end\n nop\n", 0, "\xEA", 1);
    expect(" .repeat 6, I\n .byte pick(I mod 3, 10, 20, 30)\n .end\n", 0,
           "\x0A\x14\x1E\x0A\x14\x1E", 6);
    refuse(" .repeat 1 << 40\n nop\n .end\n", "t.asm:1:2: error: this repeats too often", NULL);
    refuse(" .repeat -1\n .end\n", "the count is negative", NULL);
    refuse(" .repeat 3\n nop\n", "this .repeat is never ended", NULL);
    refuse(" nop\n .repeat 2, I\n nop\n lda #300\n .end\n", "t.asm:4:7: error: 300 does not fit",
           NULL);
}

TEST(hostile_expansion_ends_soon)
{
    refuse(" .repeat 1000000\n .repeat 1000000\n nop\n .end\n .end\n", "8 MiB", NULL);
    refuse(" .fill 16000000\n .fill 16000000\n .fill 16000000\n .fill 16000000\n .fill 16000000\n",
           "t.asm:2:2: error: the program has more than 16 MiB", NULL);
    CHECK_INT(test_error_count(), 1);
    static char deep[8000] = "";
    for (unsigned i = 0; i < 100; i++)
        strcat(deep, " .if 1\n");
    refuse(deep, "blocks are nested more than 64 deep", NULL);
}

TEST(groups_hide_and_reach)
{
    expect("v = 1\n .group lamp\nv = 2\n .byte v, w\nw = 3\n .end\n .byte v, lamp.v, lamp.w\n", 0,
           "\x02\x03\x01\x02\x03", 5);
    expect(" .group out\n .group in\n .byte deep, v, top\ndeep = 7\n .end\nv = 8\n "
           ".end\ntop = 9\n .byte out.in.deep\n",
           0, "\x07\x08\x09\x07", 4);
    expect(" .group s\nk: nop\n_l: bra _l\n .byte lo(board.clock), lo(area.ram.first)\n "
           ".end\n jmp s.k\n .byte lo(s.k._l)\n",
           0, "\xEA\x80\xFE\x80\x00\x4C\x00\x00\x01", 9);
}

TEST(sizes_of_groups)
{
    bl_program *p = assemble(" .word sizeof(s), sizeof(s.t)\n .group s\n .fill 10\n .group t\n lda "
                             "$12\n lda later\n .end\n .end\nlater = $1234\n");
    uint8_t b[4];
    bl_image_copy(bl_program_image(p), 0, 4, 0, b);
    CHECK_BYTES(b, 4, "\x0F\x00\x05\x00", 4);
    bl_program_close(p);
    refuse(" .byte sizeof(nothing)\n", "error", NULL);
}

TEST(groups_that_are_wrong)
{
    refuse(" .group s\n nop\n", "t.asm:1:2: error: this .group is never ended", NULL);
    refuse(" nop\n .end group\n", "no block is open here", NULL);
    refuse(" .group\n .end\n", "a group needs a name", NULL);
    refuse(" .group s\n .end\n .group s\n .end\n", "'s' is defined twice", NULL);
    refuse(" .group s\n jmp nowhere\n .end\n", "undefined name", NULL);
}

TEST(messages_of_the_source)
{
    bl_program *p = assemble(" .note \"small lamp\"\n .warn \"no horn\"\n nop\n");
    CHECK_CONTAINS(test_messages(), "t.asm:1:2: note: small lamp");
    CHECK_CONTAINS(test_messages(), "t.asm:2:2: warning: no horn");
    bl_program_close(p);
    refuse(" .if board.clock > 1000000\n .fail \"too fast for this lamp\"\n .end\n",
           "t.asm:2:2: error: too fast for this lamp", NULL);
}

TEST(alphabets)
{
    expect(" .alphabet swapped\n .byte \"Fog 7\"\n .alphabet ascii\n .byte \"Fog\", 'F'\n", 0,
           "fOG 7FogF", 9);
    expect(" .alphabet screen, \"@ABCDEFGHIJKLMNOPQRSTUVWXYZ\", 0, \" 0123\", $20\n .alphabet "
           "screen\n .text \"A1 Z\" marked\n",
           0, "\x01\x22\x20\x9A", 4);
    refuse(" .alphabet runes\n", "no alphabet is called 'runes'", NULL);
    refuse(" .alphabet r, \"ab\", 255\n", "a code is 0 to 255", NULL);
    refuse(" .alphabet ascii, \"ab\", 1\n", "exists already", NULL);
    refuse(" .alphabet r, \"ab\"\n", "the code of the first character is missing", NULL);
}

TEST(code_that_runs_elsewhere)
{
    static const char source[] = " .org $C000\ncopy: nop\n .runat $0300\ngo: jmp go\n bne go\n "
                                 ".byte lo(here), hi(here)\n .end\nafter: .word after\n";
    bl_program *p = assemble(source);
    int64_t value = 0;
    bl_program_value(p, (bl_text){"go", 2}, &value);
    CHECK_INT(value, 0x0300);
    bl_program_value(p, (bl_text){"after", 5}, &value);
    CHECK_INT(value, 0xC008);
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_INT(piece.first, 0xC000);
    CHECK_BYTES(piece.bytes, piece.count, "\xEA\x4C\x00\x03\xD0\xFB\x05\x03\x08\xC0", 10);
    bl_listing_write(p, BL_HEX, false, &test_writer);
    CHECK_CONTAINS(test_written(NULL), "C001>0300  4C 00 03");
    test_written_clear();
    bl_symbols_write(p, &test_writer);
    CHECK_CONTAINS(test_written(NULL),
                   "label go $0300 4 t.asm\nkept go $C001\nlabel after $C008 8 t.asm\n");
    bl_program_close(p);
    refuse(" .runat 5\n .runat 6\n .end\n", "this stands in another .runat", NULL);
    refuse(" .end\n", "no block is open here", "a source ends by itself", NULL);
}

TEST(a_listing_folds_expansions)
{
    bl_program *p = assemble(" .macro two V\n .byte V\n .byte V + 1\n .end\nk: two 5\n "
                             ".repeat 2, I\n .byte I\n .end\n nop\n");
    bl_listing_write(p, BL_HEX, false, &test_writer);
    const char *listing = test_written(NULL);
    CHECK_CONTAINS(listing, "k: two 5\n  0000  05\n  0001  06\n");
    CHECK_CONTAINS(listing, ".end\n  0002  00\n  0003  01\n");
    CHECK_CONTAINS(listing, "  0004  EA");
    bl_program_close(p);
}

TEST(a_listing_shows_expansions_on_request)
{
    bl_program *p = assemble(" .macro two V\n lda #V\n nop\n .end\nk: two 5\n .repeat 2, I\n "
                             ".byte I\n .end\n nop\n");
    bl_listing_write(p, BL_HEX, true, &test_writer);
    const char *listing = test_written(NULL);
    CHECK_CONTAINS(listing, "  0000  A9 05                 2      2+  lda #5\n");
    CHECK_CONTAINS(listing, "      7+  .byte 0\n");
    CHECK_CONTAINS(listing, "      7+  .byte 1\n");
    CHECK_CONTAINS(listing, "  0005  EA                    2      9   nop\n");
    bl_program_close(p);
}

/* The words of a loader's header: a name padded to a length, addresses and counts of what comes
 * later. */
TEST(wrappers_of_other_loaders)
{
    expect("first = $0800\n .text \"LIGHT\"\n .fill 8 - 5, ' '\n .word first, end - first, start\n "
           ".runat first\nstart: lda #1\n rts\nend:\n .end\n .byte $FF\n",
           0, "LIGHT   \x00\x08\x03\x00\x00\x08\xA9\x01\x60\xFF", 18);
}

TEST(an_overfull_area_names_what_is_largest)
{
    refuse(" .place ram\nsmall: .fill 4, 1\n .group horn\nlong: .fill 20, 1\nmore: .fill 6, 1\n "
           ".end\nlight: .fill 9, 1\n",
           "area 'ram' has 32 bytes; 7 too many", "largest in it: horn 26, light 9, small 4", NULL);
}

TEST(the_cpu_can_be_named_in_the_source)
{
    refuse(" .cpu 6502\n bra here\n", "the 6502 has no instruction 'bra'", NULL);
    expect(" .cpu 65C02\n stz $12\n", 0, "\x64\x12", 2);
    refuse(" nop\n .cpu 6502\n", "the CPU cannot change in the middle", NULL);
    refuse(" .cpu z99\n", "no sheet for a CPU named 'z99'", NULL);
}

/* Each mode reads its own instructions, also where some of them grow, and in a second walk. */
TEST(the_modes_of_a_cpu_may_change)
{
    expect(" .cpu ez80\nwide: ld hl,later\n call.is old\n ret\n"
           " .cpu ez80+z80\nold: ld hl,later\n jp.lil wide\n"
           " .cpu ez80\nlater: ld a,(old)\n",
           0,
           "\x21\x11\x00\x00\x49\xCD\x09\x00\xC9"
           "\x21\x11\x00\x5B\xC3\x00\x00\x00"
           "\x3A\x09\x00\x00",
           21);
    refuse(" .cpu ez80\n nop\n .cpu z80\n", "the CPU cannot change in the middle", NULL);
    refuse(" .cpu ez80+z80\n nop\n .cpu ez80\n ld hl,$123456\n .cpu ez80+z80\n ld hl,$123456\n",
           "1193046 does not fit into 16 bits", NULL);
}

TEST(data_alone_needs_no_cpu)
{
    bl_asm_options o = options();
    bl_sheet *none = NULL;
    bl_program *p = NULL;
    static const char source[] = "; segments of a display\nA1 = 1\nX = 2\nrow: .byte %00111111, "
                                 "%00000110, A1 | X\n .fill 13, $FF\n";
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"none", 4}, &test_sink, &none), BL_OK);
    o.sheet = none;
    CHECK_INT(bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &p), BL_OK);
    CHECK_INT(bl_image_size(bl_program_image(p)), 16);
    bl_program_close(p);
    bl_sheet_close(none);
}

TEST(warnings_can_be_errors)
{
    bl_asm_options o = options();
    bl_program *p = NULL;
    o.strict = true;
    CHECK_INT(bl_assemble_text(&o, "t", (bl_text){" .warn \"w\"\n", 11}, &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "error: w");
}
