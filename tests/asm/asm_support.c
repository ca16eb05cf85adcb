#include "asm_support.h"

#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

/* The sheet outlives the cases, so it is not counted as theirs. */
static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}
static const bl_memory lasting = {NULL, resize};
static bl_sheet *sheet;

__attribute__((destructor)) static void close_sheet(void)
{
    bl_sheet_close(sheet);
}

static const bl_area areas[] = {
    {"zero", {0x0000, 0x100}, BL_AREA_RAM, 0xFF, NULL, 0, false},
    {"ram", {0x0300, 0x20}, BL_AREA_RAM, 0xFF, NULL, 0, false},
    {"rom", {0xC000, 0x4000}, BL_AREA_ROM, 0xFF, NULL, 0, false},
};
static const bl_definition definitions[] = {
    {"board.serial.data", 0x8000}, {"board.lamps.data", 0x8010}, {"board.clock", 2000000}};

bl_asm_options options(void)
{
    if (sheet == NULL)
        CHECK_INT(bl_sheet_open(&lasting, (bl_text){"65c02", 5}, &test_sink, &sheet), BL_OK);
    return (bl_asm_options){.memory = test_memory,
                            .sheet = sheet,
                            .areas = areas,
                            .area_count = 3,
                            .definitions = definitions,
                            .definition_count = 3,
                            .sink = &test_sink};
}

bl_program *assemble(const char *source)
{
    bl_asm_options o = options();
    bl_program *program;
    if (bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "does not assemble:\n%s%s", source, test_messages());
    return program;
}

void expect(const char *source, uint32_t at, const char *bytes, size_t count)
{
    uint8_t found[1024];
    bl_program *program = assemble(source);
    const bl_image *image = bl_program_image(program);
    size_t size = (size_t)bl_image_size(image);
    CHECK(size <= sizeof found);
    CHECK_INT(bl_image_copy(image, at, size, 0, found), size);
    CHECK_BYTES(found, size, bytes, count);
    bl_program_close(program);
}

void refuse(const char *source, ...)
{
    bl_asm_options o = options();
    bl_program *program;
    va_list list;
    test_messages_clear();
    if (bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, &program) == BL_OK) {
        bl_program_close(program);
        test_fail(__FILE__, __LINE__, "this should not assemble:\n%s", source);
    }
    va_start(list, source);
    for (const char *part = va_arg(list, const char *); part != NULL;
         part = va_arg(list, const char *))
        CHECK_CONTAINS(test_messages(), part);
    va_end(list);
}
