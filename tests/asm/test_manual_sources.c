/* The manual's examples: every block marked asm in docs/language.md must assemble. */
#include <stdio.h>
#include <string.h>

#include "asm_support.h"

static bl_program *assemble_file(const char *name)
{
    return assemble(test_read_source(name, NULL));
}

TEST(a_tide_block)
{
    bl_program *p = assemble_file("examples/wrappers/tide-block.asm");
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_INT(piece.first, 0);
    CHECK_BYTES(piece.bytes, 16, "TIDE GAUGE\x00\x04\x16\x00\x08\x04", 16);
    CHECK_INT(piece.count, 16 + 0x16 + 2);
    CHECK_BYTES(piece.bytes + 24, 5, "\xA2\x00\xBD\x00\x04", 5);
    bl_program_close(p);
}

TEST(a_keeper_line)
{
    bl_program *p = assemble_file("examples/wrappers/keeper-line.asm");
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    uint32_t entry = 0;
    CHECK_INT(piece.first, 0x0801);
    CHECK_BYTES(piece.bytes, 12,
                "\x0B\x08\x0A\x00\x9E"
                "2061"
                "\x00\x00\x00",
                12);
    CHECK(bl_image_entry(bl_program_image(p), &entry) && entry == 2061);
    bl_program_close(p);
}

TEST(a_horn_slot)
{
    bl_program *p = assemble_file("examples/wrappers/horn-slot.asm");
    bl_piece piece = bl_image_piece(bl_program_image(p), 0);
    CHECK_INT(piece.first, 0xA000);
    CHECK_INT(piece.count, 0x2000);
    CHECK_BYTES(piece.bytes, 4, "HORN", 4);
    CHECK_BYTES(piece.bytes + 8, 10, "fog horn \xB3", 10);
    CHECK_BYTES(piece.bytes + 0x1FFE, 2, "\xFF\x5F", 2);
    bl_program_close(p);
}

TEST(every_example_of_the_manual_assembles)
{
    static char example[8000];
    const char *text = test_read_source("docs/language.md", NULL);
    unsigned examples = 0;
    for (const char *at = strstr(text, "```asm\n"); at != NULL; at = strstr(at, "```asm\n")) {
        at += 7;
        const char *end = strstr(at, "```");
        CHECK(end != NULL && (size_t)(end - at) < sizeof example);
        snprintf(example, sizeof example, "%.*s", (int)(end - at), at);
        bl_program *p = assemble(example);
        CHECK(bl_image_size(bl_program_image(p)) > 0);
        bl_program_close(p);
        examples++;
    }
    CHECK(examples >= 9);
}
