/* Several sources: what is included, embedded and used, lent by a provider. */
#include "asm_support.h"

#include <stdlib.h>
#include <string.h>

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
    {"unended.asm", " .include \"sub.inc\"\n .embed \"sub.inc\", 0, 3\n nop"},
    {"badsym.asm", " .use \"sub.inc\" as mon\n"},
    {"embed.asm", " .embed \"sub.inc\"\n .embed \"sub.inc\", 5\n .embed \"sub.inc\", 5, 5\n"},
    {"embed2.asm", " .embed \"sub.inc\", 5, 50\n .embed \"sub.inc\", -1\n .embed \"none\"\n"},
    {"local.asm", " .use \"mon.sym\" as mon\n .word mon.put._x\n"},
};

/* Lends a copy of its own each time, so that use after release is seen by the sanitizers. */
static unsigned lent;

static bl_status open_file(void *context, bl_text name, const char *from, bl_text *text,
                           bl_text *found, void **handle)
{
    (void)context, (void)from;
    for (size_t i = 0; i < sizeof files / sizeof files[0]; i++) {
        if (strlen(files[i].name) != name.length ||
            memcmp(files[i].name, name.at, name.length) != 0)
            continue;
        *found = (bl_text){files[i].name, name.length};
        *handle = strdup(files[i].text);
        *text = (bl_text){*handle, strlen(*handle)};
        lent++;
        return BL_OK;
    }
    return BL_E_NOT_FOUND;
}

static void release_file(void *context, void *handle)
{
    (void)context;
    free(handle);
    lent--;
}

static bl_status run(const char *name, bl_program **program)
{
    static const bl_source_provider provider = {NULL, open_file, release_file};
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
    CHECK_CONTAINS(test_messages(), "sub.inc:1:1: error: this is not a symbol file");
    CHECK_INT(run("local.asm", &p), BL_E_SYNTAX);
}

TEST(what_was_lent_is_given_back)
{
    bl_program *p;
    static const char *const names[] = {"main.asm", "twice.asm", "loop.asm",   "missing.asm",
                                        "use.asm",  "embed.asm", "unended.asm"};
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        bl_status status = run(names[i], &p);
        CHECK_INT(lent > 0, status == BL_OK);
        if (status == BL_OK) {
            test_written_clear();
            CHECK_INT(bl_listing_write(p, BL_HEX, false, &test_writer), BL_OK);
            CHECK_CONTAINS(test_written(NULL), names[i]);
            bl_program_close(p);
        }
        CHECK_INT(lent, 0);
    }
}
