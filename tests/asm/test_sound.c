/* What is accepted means what it says: no holes, no values that were never worked out, no code
 * where the CPU has no addresses. */
#include <stdio.h>
#include <string.h>

#include "asm_support.h"

static bl_text text_of(const char *text)
{
    return (bl_text){text, strlen(text)};
}

static bl_sheet *open_sheet(const char *cpu)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, text_of(cpu), &test_sink, &sheet), BL_OK);
    return sheet;
}

/* Assembles for a CPU and compares the bytes from an address on. */
static void expect_for(const char *cpu, const char *source, uint32_t at, const char *bytes,
                       size_t count)
{
    uint8_t found[256];
    bl_asm_options o = options();
    bl_sheet *sheet = open_sheet(cpu);
    bl_program *p = NULL;
    o.sheet = sheet;
    CHECK(count <= sizeof found);
    if (bl_assemble_text(&o, "t.asm", text_of(source), &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "does not assemble:\n%s%s", source, test_messages());
    CHECK_INT(bl_image_copy(bl_program_image(p), at, count, 0xAA, found), count);
    CHECK_BYTES(found, count, bytes, count);
    bl_program_close(p);
    bl_sheet_close(sheet);
}
#define expect_for(...) TEST_CALL(expect_for(__VA_ARGS__))

TEST(a_name_that_leads_to_names_is_no_value)
{
    static const char *const uses[] = {
        " sta board.lamps\n",
        " .word board.lamps\n",
        " .byte lo(board.lamps)\n",
        " .org board.lamps\n",
        " .fill board.lamps\n",
        " .reserve board.lamps + 1\n",
        " .align board.lamps\n",
        "k = board.lamps\n lda #k\n",
        " .entry board.lamps\n",
        " .vector reset, board.lamps\n",
        " .assert board.lamps, \"x\"\n",
        " .if board.lamps\n .end\n",
        " .repeat board.lamps\n .end\n",
        " .runat board.lamps\n nop\n .end\n",
        " .checksum sum16, board.lamps, 5\n",
        " .text \"a\" ending board.lamps\n",
        " bne board.lamps\n",
        " .byte 1 ? board.lamps : 2\n",
        " .byte pick(0, board.lamps)\n",
    };
    for (size_t i = 0; i < sizeof uses / sizeof uses[0]; i++)
        refuse(uses[i], "'board.lamps' has no value: it only leads to other names",
               "there is board.lamps.data", NULL);
    refuse(" lda board\n", "there is board.serial, board.lamps, board.clock", NULL);
    refuse(" lda area\n", "there is area.zero, area.ram, area.rom", NULL);
}

TEST(a_group_is_no_value)
{
    refuse(" .group horn\nloud: nop\nsoft: rts\n .end\n jmp horn\n",
           "t.asm:5:6: error: 'horn' has no value: it is a group of names",
           "there is horn.loud, horn.soft; sizeof() tells its size", NULL);
    refuse(" .group horn\n nop\n .end\n .org horn\n", "'horn' has no value", NULL);
    refuse(" jmp horn\n .group horn\n nop\n .end\n", "'horn' has no value", NULL);
    refuse(" .group out\n .group horn\n nop\n .end\n jmp horn\n .end\n", "'out.horn' has no value",
           NULL);
    refuse(" lda #sizeof(k)\nk = 5\n", "sizeof() is of a group; 'k' is not one", NULL);
    expect(" .group horn\n nop\n nop\n .end\n .byte sizeof(horn), defined(horn)\n", 0,
           "\xEA\xEA\x02\x01", 4);
}

TEST(the_value_of_a_group_is_not_told)
{
    int64_t value;
    bl_program *p = assemble(" .group horn\nloud: nop\n .end\n");
    CHECK_INT(bl_program_value(p, text_of("horn"), &value), BL_E_NOT_FOUND);
    CHECK_INT(bl_program_value(p, text_of("horn.loud"), &value), BL_OK);
    bl_program_close(p);
}

TEST(code_must_run_where_there_are_addresses)
{
    refuse(" .org $FFFF\n nop\n nop\n", "t.asm:3:2: error: this instruction runs beyond the last",
           "$FFFF", ".runat", NULL);
    refuse(" .org $FFFE\n lda $1234\n", "t.asm:2:2: error: this instruction runs beyond", NULL);
    refuse(" .org $12000\n nop\n", "this instruction runs beyond", NULL);
    refuse(" .org $FFF0\n bra there\n .org $10000\nthere: .byte 0\n",
           "$00010000 is beyond the last address, $FFFF", NULL);
    expect(" .org $FFFF\n nop\n", 0xFFFF, "\xEA", 1);
    expect(" .org $12000\n .runat $8000\nthere: jmp there\n .end\n", 0x12000, "\x4C\x00\x80", 3);
}

TEST(data_that_flows_over_the_top_is_warned_of)
{
    bl_program_close(assemble(" .org $FFFF\n .byte 1, 2\n"));
    CHECK_CONTAINS(test_messages(), "t.asm:2:2: warning: this runs over the last address, $FFFF");
    test_messages_clear();
    bl_program_close(assemble(" .org $FFFF\n nop\n .word 1\n .word 2\n"));
    CHECK_CONTAINS(test_messages(), "t.asm:3:2: warning: this runs over the last address");
    CHECK_NOT_CONTAINS(test_messages(), "t.asm:4");
    test_messages_clear();
    bl_program_close(
        assemble(" .org $FFFE\n .word 1\nend:\n .org $10000\n .byte 1, end - $FFFE\n"));
    CHECK_TEXT(test_messages(), "");
}

TEST(branches_wrap_where_addresses_do)
{
    expect_for("6809", " .org $1000\n lbra $F000\n", 0x1000, "\x16\xDF\xFD", 3);
    expect_for("6809", " .org $F000\n lbsr $1000\n", 0xF000, "\x17\x1F\xFD", 3);
    expect_for("6809", " .org $FFF0\n bra 5\n", 0xFFF0, "\x20\x13", 2);
    expect_for("65c02", " .org $10\n bne $FFF0\n", 0x10, "\xD0\xDE", 2);
    expect_for("65c02", " .org $FFFE\n bne 0\n", 0xFFFE, "\xD0\x00", 2);
    expect_for("z80", " .org 2\n djnz $FFF4\n", 2, "\x10\xF0", 2);
    refuse(" .org $10\n bne $FF00\n", "bytes too far", NULL);
    refuse(" .org $FF00\n bne $20\n", "bytes too far", NULL);
}

TEST(blocks_end_alike)
{
    expect(" .if 0\n .macro x\n .end\n .group g\n .repeat 2\n .end repeat\n .end group\n .else\n "
           ".byte 1\n .END If\n",
           0, "\x01", 1);
    expect("w: .repeat 1, I\n_v: .if I == 0\n .byte I\n .end\n .end repeat\n .byte 7\n", 0,
           "\x00\x07", 2);
    expect(" .macro m\n .repeat 2\n nop\n .end\n .end\n m\n", 0, "\xEA\xEA", 2);
    refuse(" .if 1\n .end macro\n", "'.end macro' does not end a .if", "the .if of line 1", NULL);
    refuse(" .macro m\n .repeat 2\n .end macro\n", "'.end macro' does not end a .repeat",
           "the .repeat of line 2", NULL);
    refuse(" .macro m\n .if 1\n nop\n .end\n", "this .macro is never ended", NULL);
    refuse(" .macro m\n .if 1\n .repeat 2\n .if 1\n .end\n", "the .repeat of line 3 is still open",
           NULL);
    refuse(" nop\n .end start\n", ".entry ADDRESS says where the program begins", NULL);
    refuse(" .group g\n .else\n .end\n", "no .if is open here", "the .group of line 1", NULL);
    refuse(" .ifdef LAMP\n", "write .if defined(NAME)", NULL);
    refuse(" .if LAMP\n .end\n", "nothing above defines it", "ask defined(NAME)", NULL);
}

/* ---- by chance ---- */

/* Of three values two are good. */
static const char *const values[] = {
    "board.lamps", "board",
    "g",           "g.h",
    "_x",          "nothing",
    "$FFFE",       "g.p",
    "p",           "b",
    "k",           "k2",
    "5",           "here",
    "sizeof(g)",   "lo(g.p)",
    "lo(p+b)",     "k*2",
    "p",           "u",
    "defined(g)",  "area.ram.first",
    "sizeof(g.h)", "board.lamps.data",
};

static const char *value(void)
{
    return values[test_below(sizeof values / sizeof values[0])];
}

/* A line that makes bytes, alone on its line; counts of bytes are not known ahead. */
static void line(char *text, size_t capacity)
{
    static const char *const shapes[] = {
        " lda %s\n",
        " lda #lo(%s)\n",
        " jmp %s\n",
        " bra %s\n",
        " sta %s,x\n",
        " .byte %s\n",
        " .word %s, 1\n",
        " .long %s\n",
        " .triple %s\n",
        " .fill 3, %s\n",
        " .byte \"ab\", %s\n",
        " .text \"abc\" ending %s\n",
        " .checksum sum16, 0, %s\n",
        " .vector nmi, %s\n",
    };
    snprintf(text, capacity, shapes[test_below(sizeof shapes / sizeof shapes[0])], value());
}

static void source_of_chance(char *source, size_t capacity)
{
    static const char *const frames[] = {
        "_x: nop\n",
        "c: nop\n",
        " .org $4000\n",
        " .place rom\n",
        " .runat $300\n nop\n .end\n",
        " .org $FFF8\n",
        " .align 4\n",
        " .reserve 2\n",
    };
    static const char begin[] = "p: nop\nb:\nk = p + 1\nk2 = k - b\nu = 9\n"
                                " .group g\np: nop\n .group h\n nop\n .end\n .end\n";
    size_t n = (size_t)snprintf(source, capacity, "%s", begin);
    for (unsigned i = 1 + test_below(10); i > 0 && n + 100 < capacity; i--) {
        char text[100];
        if (test_below(3) == 0)
            snprintf(text, sizeof text, "%s", frames[test_below(sizeof frames / sizeof frames[0])]);
        else
            line(text, sizeof text);
        n += (size_t)snprintf(source + n, capacity - n, "%s", text);
    }
}

/* Every byte from the first to the last of a row was made by that row: asked of the image, row by
 * row, so that it does not believe the assembler's own count. */
static void check_no_holes(bl_program *p, const char *source)
{
    bl_image *image = bl_program_image(p);
    uint32_t first[40] = {0}, last[40] = {0}, count[40] = {0};
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        for (size_t k = 0; k < piece.count; k++) {
            uint32_t at = piece.first + (uint32_t)k, row = bl_image_origin(image, at).line;
            CHECK(row > 0 && row < 40);
            if (count[row]++ == 0) first[row] = at;
            last[row] = at;
        }
    }
    unsigned row = 1;
    for (const char *at = source; *at != '\0'; at = strchr(at, '\n') + 1, row++) {
        bool makes = strncmp(at, " lda", 4) == 0 || strncmp(at, " jmp", 4) == 0 ||
                     strncmp(at, " bra", 4) == 0 || strncmp(at, " sta", 4) == 0 ||
                     strncmp(at, " .byte", 6) == 0 || strncmp(at, " .word", 6) == 0 ||
                     strncmp(at, " .long", 6) == 0 || strncmp(at, " .triple", 8) == 0 ||
                     strncmp(at, " .fill", 6) == 0 || strncmp(at, " .text", 6) == 0 ||
                     strncmp(at, " .vector", 8) == 0 || strncmp(at, " .checksum", 10) == 0;
        if (!makes) continue;
        if (count[row] == 0 || last[row] - first[row] + 1 != count[row])
            test_fail(__FILE__, __LINE__, "row %u made %u bytes from %X to %X:\n%s", row,
                      count[row], first[row], last[row], source);
    }
}

TEST(nothing_that_takes_room_leaves_a_hole)
{
    unsigned good = 0;
    for (unsigned i = 0; i < 20000; i++) {
        char source[2000];
        bl_asm_options o = options();
        bl_program *p;
        source_of_chance(source, sizeof source);
        test_messages_clear();
        if (bl_assemble_text(&o, "t.asm", text_of(source), &p) != BL_OK) {
            CHECK_NOT_CONTAINS(test_messages(), "internal error");
            CHECK(test_error_count() > 0);
            continue;
        }
        check_no_holes(p, source);
        bl_program_close(p);
        good++;
    }
    CHECK(good > 500);
}
