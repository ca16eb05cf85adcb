/* What the assembler says when it cannot. */
#include "support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

TEST(misspelt_words_get_suggestions)
{
    refuse(" ldaa #1\n", "t.asm:1:2: error: the 65c02 has no instruction 'ldaa'",
           "did you mean LDA?", NULL);
    refuse(" .bite 1\n", "no directive is called '.bite'", "did you mean .byte?", NULL);
    refuse("flash: nop\n jmp flahs\n", "t.asm:2:6: error: nothing is called 'flahs'",
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
    refuse(" lda #1 2\n", "t.asm:1:9: error: this is left over", NULL);
    refuse(" .byte 1 2\n", "left over", NULL);
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

/* ---- several sources ---- */

typedef struct file {
    const char *name, *text;
} file;

static const file files[] = {
    {"main.asm", " .include \"sub.inc\"\n .byte 2\n"},
    {"sub.inc", "one: .byte 1\n"},
    {"twice.asm", " .include \"sub.inc\"\n .include \"sub.inc\"\n"},
    {"loop.asm", " .include \"loop2.asm\"\n"},
    {"loop2.asm", " .include \"loop.asm\"\n"},
    {"missing.asm", "\n .include \"nothing.inc\"\n"},
    {"broken.asm", " .include \"broken.inc\"\n"},
    {"broken.inc", "\n\n  lda #999\n"},
    {"use.asm", " .use \"mon.sym\" as mon\n jsr mon.put\n .word mon.SIZE\n"},
    {"mon.sym", "bootlace symbols 1\ncpu 65c02\nlabel put $FE00 12 mon.asm\nlabel put._x $FE02 13 "
                "mon.asm\nvalue SIZE $0010 3 mon.asm\n"},
    {"badsym.asm", " .use \"sub.inc\" as mon\n"},
    {"embed.asm", " .embed \"sub.inc\"\n .embed \"sub.inc\", 5\n .embed \"sub.inc\", 5, 5\n"},
    {"embed2.asm", " .embed \"sub.inc\", 5, 50\n .embed \"sub.inc\", -1\n .embed \"none\"\n"},
    {"local.asm", " .use \"mon.sym\" as mon\n .word mon.put._x\n"},
};

static bl_status open_file(void *context, bl_text name, const char *from, bl_text *text,
                           bl_text *found, void **handle)
{
    (void)context, (void)from;
    *handle = NULL;
    for (size_t i = 0; i < sizeof files / sizeof files[0]; i++) {
        if (strlen(files[i].name) != name.length ||
            memcmp(files[i].name, name.at, name.length) != 0)
            continue;
        *found = (bl_text){files[i].name, name.length};
        *text = (bl_text){files[i].text, strlen(files[i].text)};
        return BL_OK;
    }
    return BL_E_NOT_FOUND;
}

static bl_status run(const char *name, bl_program **program)
{
    static const bl_source_provider provider = {NULL, open_file, NULL};
    bl_asm_options o = options();
    o.provider = &provider;
    test_messages_clear();
    return bl_assemble(&o, name, program);
}

TEST(includes_and_their_faults)
{
    bl_program *p;
    CHECK_INT(run("main.asm", &p), BL_OK);
    CHECK_TEXT(
        bl_image_file_name(bl_program_image(p), bl_image_origin(bl_program_image(p), 0).file),
        "sub.inc");
    CHECK_INT(bl_image_origin(bl_program_image(p), 1).line, 2);
    bl_program_close(p);
    CHECK_INT(run("twice.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "'one' is defined twice");
    CHECK_INT(run("loop.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "loop2.asm:1:12: error: 'loop.asm' includes itself");
    CHECK_INT(run("missing.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(),
                   "missing.asm:2:12: error: cannot read source 'nothing.inc': not found");
    CHECK_INT(run("broken.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "broken.inc:3:8: error");
    CHECK_CONTAINS(test_messages(), "broken.asm:1: note: 'broken.inc' is included here");
    CHECK_INT(run("absent.asm", &p), BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "cannot read source 'absent.asm'");
}

TEST(parts_of_files_are_embedded)
{
    bl_program *p;
    CHECK_INT(run("embed.asm", &p), BL_OK);
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_BYTES(piece.bytes, piece.count, "one: .byte 1\n.byte 1\n.byte", 13 + 8 + 5);
    bl_program_close(p);
    CHECK_INT(run("embed2.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "'sub.inc' has 13 bytes; this asks for 50 from 5 on");
    CHECK_CONTAINS(test_messages(), "embed2.asm:2:2: error");
    CHECK_CONTAINS(test_messages(), "cannot read file 'none'");
}

TEST(symbols_of_another_program)
{
    bl_program *p;
    CHECK_INT(run("use.asm", &p), BL_OK);
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_BYTES(piece.bytes, piece.count, "\x20\x00\xFE\x10\x00", 5);
    CHECK_INT(bl_program_symbols(p), 0); /* only its own count */
    bl_program_close(p);
    CHECK_INT(run("badsym.asm", &p), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "sub.inc:1: error: this is not a symbol file");
    CHECK_INT(run("local.asm", &p), BL_E_SYNTAX);
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
                                       ".endmacro\n",
                                       " m 1, _q\n",
                                       ".repeat 3, I\n",
                                       ".endrepeat\n",
                                       ".if ",
                                       ".if 1\n",
                                       ".else\n",
                                       ".endif\n",
                                       ".scope s\n",
                                       ".endscope\n",
                                       "defined(label)",
                                       "pick(1,2,3)",
                                       "sizeof(s)",
                                       ".runat $300\n",
                                       ".endrunat\n",
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

TEST(every_allocation_may_fail)
{
    static const char source[] =
        " .macro m V, W = 3\n .byte V, W\n .endmacro\n .scope s\n m 1\n .endscope\n .repeat 2, I\n "
        ".byte I\n .endrepeat\n .alphabet q, \"ab\", 1\n .if 1\n .note \"x\"\n .endif\nk: m "
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
