/* The sheet that docs/sheets.md builds up step by step is complete and works. */
#include "harness.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static char *read_manual(void)
{
    size_t n;
    char *text = strdup(test_read_source("docs/sheets.md", &n));
    CHECK(text != NULL && n > 1000);
    return text;
}

/* The blocks of one section that begin with this fence, put together. */
static void blocks(const char *from, const char *end, const char *fence, char *out)
{
    *out = '\0';
    for (const char *p = from; (p = strstr(p, "\n```")) != NULL && p < end;) {
        const char *start = strchr(p + 1, '\n') + 1, *stop = strstr(start, "\n```\n");
        CHECK(stop != NULL);
        bool wanted = strncmp(p, fence, strlen(fence)) == 0;
        if (wanted) strncat(out, start, (size_t)(stop + 1 - start));
        p = stop + 4;
    }
}

TEST(the_sheet_of_the_manual_assembles_its_program)
{
    static char sheet_text[8192], source[2048];
    char *manual = read_manual();
    const char *from = strstr(manual, "## The smallest one"), *end = strstr(manual, "## The lines");
    CHECK(from != NULL && end != NULL);
    blocks(from, end, "\n```\n", sheet_text);
    blocks(from, end, "\n```asm\n", source);
    free(manual);
    bl_sheet *sheet = NULL;
    test_messages_clear();
    if (bl_sheet_read(&test_memory, "pebble", (bl_text){sheet_text, strlen(sheet_text)}, NULL,
                      &test_sink, &sheet) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_INT(bl_sheet_forms(sheet), 10);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    bl_program *program = NULL;
    if (bl_assemble_text(&o, "m", (bl_text){source, strlen(source)}, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_piece p = bl_image_piece(bl_program_image(program), 0);
    CHECK_BYTES(p.bytes, p.count, "\x01\x05\x04\xFF\x86\x11\x09\x10\x02\x00", 10);
    bl_disasm_options d = {
        .memory = test_memory, .sheet = sheet, .image = bl_program_image(program)};
    test_written_clear();
    CHECK_INT(bl_disassemble(&d, NULL, &test_writer), BL_OK);
    CHECK_CONTAINS(test_written(NULL), "JMP at_02");
    bl_program_close(program);
    bl_sheet_close(sheet);
}
