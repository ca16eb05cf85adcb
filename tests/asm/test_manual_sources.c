/* The manual's examples: every block marked asm in docs/language.md must assemble. */
#include <stdio.h>
#include <string.h>

#include "asm_support.h"

static size_t read_project_file(const char *name, char *text, size_t capacity)
{
    char path[512];
    snprintf(path, sizeof path, "%s/%s", test_source_folder(), name);
    FILE *f = fopen(path, "rb");
    if (f == NULL) test_fail(__FILE__, __LINE__, "cannot read %s", path);
    size_t n = fread(text, 1, capacity - 1, f);
    fclose(f);
    text[n] = '\0';
    return n;
}

static bl_program *assemble_file(const char *name)
{
    static char text[20000];
    read_project_file(name, text, sizeof text);
    return assemble(text);
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
    static char text[60000], example[8000];
    read_project_file("docs/language.md", text, sizeof text);
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
