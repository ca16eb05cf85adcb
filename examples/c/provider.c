/* provider.c - assembles sources that live in memory: the library asks for each by name. */
#include <bootlace/bootlace.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const struct {
    const char *name, *text;
} shelf[] = {
    {"main.asm", "        .org $0300\n        .include \"flash.inc\"\n        .byte FLASHES\n"},
    {"flash.inc", "FLASHES = 3\n"},
};

static bl_status find(void *context, bl_text name, const char *from, bl_text *text, bl_text *found,
                      void **handle)
{
    (void)context, (void)from;
    *handle = NULL;
    for (size_t i = 0; i < sizeof shelf / sizeof shelf[0]; i++) {
        if (strlen(shelf[i].name) != name.length ||
            memcmp(shelf[i].name, name.at, name.length) != 0)
            continue;
        *text = (bl_text){shelf[i].text, strlen(shelf[i].text)};
        *found = (bl_text){shelf[i].name, name.length};
        return BL_OK;
    }
    return BL_E_NOT_FOUND;
}

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

int main(void)
{
    const bl_memory memory = {NULL, resize};
    const bl_source_provider provider = {NULL, find, NULL};
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_open(&memory, (bl_text){"none", 4}, NULL, &sheet) != BL_OK) return 1;
    bl_asm_options options = {.memory = memory, .sheet = sheet, .provider = &provider};
    bl_status status = bl_assemble(&options, "main.asm", &program);
    if (status == BL_OK)
        printf("byte at $0300: %u\n", bl_image_piece(bl_program_image(program), 0).bytes[0]);
    bl_program_close(program);
    bl_sheet_close(sheet);
    return status == BL_OK ? 0 : 1;
}
