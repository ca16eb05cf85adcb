/* What the language does for other machines than the 65C02: direct pages, words, forms that settle.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "asm_support.h"

static bl_sheet *sheet;

static bl_status assemble_for(const char *cpu, const char *source, bl_program **program)
{
    sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){cpu, strlen(cpu)}, &test_sink, &sheet), BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    test_messages_clear();
    bl_status status = bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, program);
    if (status != BL_OK) bl_sheet_close(sheet);
    return status;
}

static bl_program *good(const char *cpu, const char *source)
{
    bl_program *p = NULL;
    if (assemble_for(cpu, source, &p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s:\n%s", source, test_messages());
    return p;
}

static void close_all(bl_program *p)
{
    bl_program_close(p);
    bl_sheet_close(sheet);
}

static void bytes_of(const char *cpu, const char *source, const char *bytes, size_t count)
{
    bl_program *p = good(cpu, source);
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_BYTES(piece.bytes, piece.count, bytes, count);
    close_all(p);
}

static void wrong(const char *cpu, const char *source, const char *said)
{
    bl_program *p = NULL;
    CHECK_INT(assemble_for(cpu, source, &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), said);
}

TEST(the_direct_page_can_be_moved)
{
    bytes_of("6809",
             " lda $12\n lda $1234\n .direct $12\n lda $1234\n lda $34\n lda >$1234\n ldb <$1256\n"
             " .direct 0\n sta $56\n",
             "\x96\x12\xB6\x12\x34\x96\x34\xB6\x00\x34\xB6\x12\x34\xD6\x56\x97\x56", 17);
    wrong("6809", " .direct $12\n lda <$34\n",
          "t.asm:2:7: error: $0034 is not in the direct page, which is page $12");
    wrong("6809", " .direct later\nlater = 5\n", "must be known here");
    wrong("6809", " .direct $10000\n", "65536 is not a page");
}

TEST(labels_find_their_way_into_the_direct_page)
{
    /* The label lies in page $12 only when all that stands before it has its size. */
    bytes_of("6809",
             " .org $11FD\n .direct $12\n lda $3456\nvalue: .byte 7\n ldb value\n stb other\n"
             "other = $1300\n",
             "\xB6\x34\x56\x07\xD6\x00\xF7\x13\x00", 9);
}

TEST(distances_are_taken_between_places_of_one_walk)
{
    /* Everything before grows by a byte each, a long way in all; what is near stays near. */
    char *source = malloc(60000), *s = source;
    bl_program *p;
    for (unsigned i = 0; i < 2000; i++)
        s += sprintf(s, " lda far\n");
    sprintf(s,
            "near: .fill 100, 0\nhere1: leax near,pcr\nhere2: leax after,pcr\nend: .fill 100, 0\n"
            "after:\nfar:\n");
    p = good("6809", source);
    int64_t first = 0, second = 0, end = 0, near = 0;
    CHECK_INT(bl_program_value(p, (bl_text){"near", 4}, &near), BL_OK);
    CHECK_INT(bl_program_value(p, (bl_text){"here1", 5}, &first), BL_OK);
    CHECK_INT(bl_program_value(p, (bl_text){"here2", 5}, &second), BL_OK);
    CHECK_INT(bl_program_value(p, (bl_text){"end", 3}, &end), BL_OK);
    CHECK_INT(near, 6000);
    CHECK_INT(second - first, 3);
    CHECK_INT(end - second, 3);
    close_all(p);
    free(source);
}

TEST(numbers_that_code_moves_towards)
{
    /* The target is a number; the instruction comes near it only when all before it has grown. */
    char *source = malloc(60000), *s = source;
    for (unsigned i = 0; i < 500; i++)
        s += sprintf(s, " lda far\n");
    sprintf(s, "here1: leax 1520,pcr\nend:\nfar = $1234\n");
    bl_program *p = good("6809", source);
    int64_t first = 0, end = 0;
    CHECK_INT(bl_program_value(p, (bl_text){"here1", 5}, &first), BL_OK);
    CHECK_INT(bl_program_value(p, (bl_text){"end", 3}, &end), BL_OK);
    CHECK_INT(first, 1500);
    CHECK_INT(end - first, 3);
    close_all(p);
    free(source);
}

TEST(sums_and_differences_behind_registers)
{
    bytes_of("z80", " ld a,(ix+2*3)\n ld a,(ix-1)\n ld (iy+k-1),5\n ld a,(ix + 1)\nk = 3\n",
             "\xDD\x7E\x06\xDD\x7E\xFF\xFD\x36\x02\x05\xDD\x7E\x01", 13);
    wrong("z80", " ld a,(ix+128)\n", "128 does not fit into 8 bits: -128 to 127");
    wrong("z80", " ld a,(hl+1)\n", "LD has no such operand");
    wrong("z80", "ix: nop\n", "'ix' is a register of the z80");
    wrong("z80", " jr far\n .fill 200, 0\nfar:\n", "JP reaches everywhere");
    bytes_of("6809", " lda ,x+\n lda ,x++\n lda ,-y\n lda ,--y\n lda -1,y\n lda -(1),y\n",
             "\xA6\x80\xA6\x81\xA6\xA2\xA6\xA3\xA6\x3F\xA6\x3F", 12);
}

TEST(a_start_is_not_a_vector)
{
    wrong("z80", " .vector reset, 5\n", "the z80 runs what stands at $0000");
    wrong("z80", " .vector resett, 5\n", "the z80 has no vector 'resett'");
}

TEST(a_listing_of_words_in_octal)
{
    bl_program *p = good("gannet", " .org 200q\nstart: add @ptr ; look\n do clr inc\n"
                                   "ptr: .word 1234q, -1, 1, 2, 3\n .text \"AB\"\n");
    test_written_clear();
    CHECK_INT(bl_listing_write(p, 0, false, &test_writer), BL_OK);
    const char *s = test_written(NULL);
    CHECK_CONTAINS(s, "t.asm, for the gannet: 9 words\n");
    CHECK_CONTAINS(s, "  0200  1602                    3      2  start: add @ptr ; look\n");
    CHECK_CONTAINS(s, "  0202  1234 7777 0001 0002            4  ptr: .word");
    CHECK_CONTAINS(s, "  0206  0003");
    CHECK_CONTAINS(s, "  0207  0101 0102 ");
    CHECK_CONTAINS(s, "  0202    ptr ");
    test_written_clear();
    CHECK_INT(bl_map_write(p, &test_writer), BL_OK);
    CHECK_CONTAINS(test_written(NULL), "$0082 5 4 t.asm");
    /* In a file a word takes two bytes, the high one first. */
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_INT(piece.first, 0x100);
    CHECK_BYTES(piece.bytes, 6, "\x03\x82\x0E\x81\x02\x9C", 6);
    close_all(p);
}

TEST(words_that_overlap_or_do_not_fit)
{
    wrong("gannet", " .org 200q\n .word 1,2\n .org 201q\n .word 3\n",
          "address 0o0201 is filled twice");
    wrong("gannet", " .fill 3, 10000q\n", "4096 does not fit into a word");
    wrong("gannet", " .org 200q\n add 400q\n", "0o0400 is not on this instruction's page of 128");
    wrong("gannet", " do clr skip\n", "DO has no such operand");
}

TEST(forms_are_listed_but_not_without_end)
{
    bl_program *p = NULL;
    CHECK_INT(assemble_for("z80", " ld (ix),(iy)\n", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "it has: LD r:d,r:s | LD r,n");
    CHECK_CONTAINS(test_messages(), "and more: bootlace cpus z80");
    CHECK(strlen(test_messages()) < 500);
}
