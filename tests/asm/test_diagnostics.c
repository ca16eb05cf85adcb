/* What the assembler says when it cannot. */
#include "asm_support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

TEST(misspelt_words_get_suggestions)
{
    refuse(" ldaa #1\n", "t.asm:1:2: error: the 65c02 has no instruction 'ldaa'",
           "did you mean LDA?", NULL);
    refuse(" .bite 1\n", "no directive is called '.bite'", "did you mean .byte?", NULL);
    refuse("flash: nop\n jmp flahs\n", "t.asm:2:6: error: undefined name 'flahs'",
           "did you mean 'flash' (t.asm:1)?", NULL);
    refuse(" sta board.lamps.dat\n", "did you mean 'board.lamps.data'?", NULL);
    refuse(" sta board.lamp.data\n", "did you mean 'board.lamps.data'?", NULL);
    refuse("one: nop\n_on: nop\ntwo: bra _on\n", "did you mean 'one._on' (t.asm:2)?", NULL);
}

TEST(a_form_the_cpu_lacks_lists_those_it_has)
{
    refuse(" stx $1234,y\n", "is not an address of 8 bits", NULL);
    refuse(" ldx ($12),y\n", "t.asm:1:6: error: LDX has no such operand", "LDX #imm | LDX zp",
           NULL);
    refuse(" sta #1\n", "STA has no such operand", NULL);
    refuse(" lda\n", "LDA needs an operand", NULL);
    refuse(" nop 1\n", "NOP has no such operand", NULL);
    refuse(" lda #1,2,3,4,5\n", "error", NULL);
    refuse(" lda #300\n", "300 does not fit into 8 bits: -128 to 255", NULL);
    refuse(" lda -1\n", "is not an address of 16 bits", NULL);
}

TEST(all_errors_are_shown_in_one_run)
{
    refuse(" ldaa #1\n lda #300\n jmp nowhere\n .byte 1 +\n jmp nowhere\n",
           "t.asm:1:", "t.asm:2:", "t.asm:3:", "t.asm:4:", NULL);
    CHECK_INT(test_error_count(), 4); /* the undefined name once */
    CHECK_NOT_CONTAINS(test_messages(), "t.asm:5:");
}

TEST(double_definitions_name_both_places)
{
    refuse("k: nop\nb: nop\nk = 5\n", "t.asm:3:1: error: 'k' is defined twice",
           "the first is at t.asm:1", NULL);
    refuse("board.clock = 1\n", "has no dot", NULL);
    refuse("board: nop\n", "it comes from the bench file", NULL);
    refuse("x: nop\n", "'x' is a register of the 65c02", NULL);
}

TEST(leftovers_on_a_line)
{
    refuse(" lda #1 2\n", "t.asm:1:9: error: unexpected text", NULL);
    refuse(" .byte 1 2\n", "unexpected text", NULL);
    refuse(" .org 1, 2\n", ".org takes at most 1 value", NULL);
    refuse(" )\n", "a label, an instruction or a directive is expected here", NULL);
}

TEST(after_a_hundred_errors_it_stops)
{
    static char source[4000] = "";
    for (unsigned i = 0; i < 300; i++)
        strcat(source, " ldaa\n");
    refuse(source, "stopped after 100 errors", NULL);
    CHECK_INT(test_error_count(), 100);
}

/* ---- hostile sources ---- */

TEST(a_very_long_line)
{
    enum { LENGTH = 3000000 };
    char *source = malloc(LENGTH + 1);
    memset(source, 'a', LENGTH);
    source[0] = ' ';
    source[LENGTH] = '\0';
    refuse(source, "has no instruction", NULL);
    CHECK(strlen(test_messages()) < 2000);
    free(source);
}

TEST(random_sources_never_crash)
{
    static const char *const bits[] = {"lda",
                                       " ",
                                       "#",
                                       "$12",
                                       ",",
                                       "x",
                                       "(",
                                       ")",
                                       "\n",
                                       "label",
                                       ":",
                                       "_l",
                                       "=",
                                       ".byte ",
                                       ".word ",
                                       ".org ",
                                       ".text \"a\" ",
                                       "\"",
                                       "'",
                                       "counted",
                                       "marked",
                                       "ending",
                                       "<",
                                       ">",
                                       "+",
                                       "-",
                                       "*",
                                       "/",
                                       "mod ",
                                       "?",
                                       "here",
                                       ".place rom",
                                       ".align ",
                                       ".fill ",
                                       ".reserve ",
                                       "$FFFFFFFF",
                                       ";",
                                       "bne ",
                                       ".vector reset,",
                                       ".entry ",
                                       "%",
                                       "\\",
                                       "\x00",
                                       "\xFF",
                                       "5",
                                       "jmp ",
                                       ".macro m A1, B1 = 2, R...\n",
                                       ".end\n",
                                       " m 1, _q\n",
                                       ".repeat 3, I\n",
                                       ".end\n",
                                       ".if ",
                                       ".if 1\n",
                                       ".else\n",
                                       ".end\n",
                                       ".group s\n",
                                       ".end\n",
                                       "defined(label)",
                                       "pick(1,2,3)",
                                       "sizeof(s)",
                                       ".runat $300\n",
                                       ".end\n",
                                       ".alphabet swapped\n",
                                       "A1",
                                       "I",
                                       "R",
                                       "s.label",
                                       ".note \"n\"\n",
                                       ".assert ",
                                       "board.clock",
                                       ".use ",
                                       ".include ",
                                       "a",
                                       "b"};
    for (unsigned i = 0; i < 20000; i++) {
        char source[400] = "";
        for (unsigned n = test_below(24); n > 0; n--)
            strcat(source, bits[test_below(sizeof bits / sizeof bits[0])]);
        bl_asm_options o = options();
        bl_program *p;
        test_messages_clear();
        if (bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, &p) == BL_OK) {
            test_written_clear();
            CHECK_INT(bl_listing_write(p, BL_OCTAL, test_below(2) == 0, &test_writer), BL_OK);
            bl_program_close(p);
        } else if (test_error_count() == 0) {
            test_fail(__FILE__, __LINE__, "fails without a word:\n%s", source);
        }
    }
}

TEST(texts_of_other_editors)
{
    expect("\xEF\xBB\xBFstart: .byte 1\n", 0, "\x01", 1);
    bl_asm_options o = options();
    bl_program *p;
    test_messages_clear();
    CHECK_INT(bl_assemble_text(&o, "t.asm", (bl_text){"\xFF\xFE n\0o\0p\0\n\0", 10}, &p),
              BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "16-bit characters");
    CHECK_INT(test_error_count(), 1);
}

TEST(one_error_for_one_mistake)
{
    /* An area that is full: what runs over it lies on the next one, which is not another mistake.
     */
    refuse(" .place rom\n .byte 1\n .org $300\n .place ram\n .fill $30\n .org $320\n .fill 4\n",
           "area 'ram' ends at $031F and is full", NULL);
    CHECK_INT(test_error_count(), 1);
    refuse(" mov 1\n", "the 65c02 has no instruction 'mov'", NULL);
    CHECK_NOT_CONTAINS(test_messages(), "did you mean");
    refuse(" lad 1\n", "did you mean LDA?", NULL);
}

TEST(a_listing_keeps_its_columns_where_code_runs_elsewhere)
{
    bl_program *p = assemble(" .org $C000\n nop\n .runat $300\nk: inc $10\n .byte 1,2,3,4,5,6,7,8\n"
                             " .repeat 2, I\n lda #I\n .end\n .end\n rts\n");
    test_written_clear();
    CHECK_INT(bl_listing_write(p, BL_HEX, false, &test_writer), BL_OK);
    size_t n;
    const char *text = test_written(&n);
    CHECK_CONTAINS(text, "\n     C000  EA                    2      2   nop\n");
    CHECK_CONTAINS(text, "\nC001>0300  E6 10                 5      4  k: inc $10\n");
    CHECK_CONTAINS(text, "\nC003>0302  01 02 03 04 05 06            5   .byte");
    CHECK_CONTAINS(text, "\nC009>0308  07 08\n");
    CHECK_CONTAINS(text, "\nC00B>030A  A9 00\nC00D>030C  A9 01\n");
    CHECK_CONTAINS(text, "\n     C00F  60                    6     10   rts\n");
    bl_program_close(p);
}

TEST(every_allocation_may_fail)
{
    static const char source[] =
        " .macro m V, W = 3\n .byte V, W\n .end\n .group s\n m 1\n .end\n .repeat 2, I\n "
        ".byte I\n .end\n .alphabet q, \"ab\", 1\n .if 1\n .note \"x\"\n .end\nk: m "
        "_z\n_z: .byte 1, \"text\", b\nb = 5\n .place rom\n_c: lda k+b*2\n "
        ".org 9\n .word k._q\n_q: nop\n";
    for (long nth = 1;; nth++) {
        bl_asm_options o = options();
        bl_program *p = NULL;
        o.sink = NULL;
        test_memory_fail_at(nth);
        bl_status status = bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &p);
        bool failed = test_memory_failed();
        test_memory_fail_at(0);
        bl_program_close(p);
        if (!failed) break;
        CHECK_INT(status, BL_E_MEMORY);
        CHECK(p == NULL);
    }
}
