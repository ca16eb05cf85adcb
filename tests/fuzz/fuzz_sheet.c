/* fuzz_sheet.c - any bytes as a sheet; one that is accepted must serve an assembly and a
 * disassembly. */
#include "fuzz_memory.h"

static void disassemble(const bl_sheet *sheet, const uint8_t *bytes, size_t count, size_t *sum)
{
    bl_image *image;
    bl_writer writer = {sum, fuzz_drop};
    bl_disasm_name name = {{"a_name", 6}, 0x102};
    if (bl_image_open(&fuzz_memory, &image) != BL_OK) abort();
    bl_image_put(image, 0x100, bytes, count, (bl_origin){0, 0});
    for (unsigned i = 0; i < 2; i++) {
        bl_disasm_options o = {.memory = fuzz_memory,
                               .sheet = sheet,
                               .image = image,
                               .names = &name,
                               .name_count = 1,
                               .all_code = i == 1,
                               .direct = 0x20};
        bl_disassemble(&o, NULL, &writer);
    }
    bl_image_close(image);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const char source[] = " .org $100\nk: add #1\n nop\n lda k,x\n .word k\n bne k\n"
                                 " .long k\n .triple 5\n .byte k\n";
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bl_writer writer = {&sum, fuzz_drop};
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_read(&fuzz_memory, "fuzz.sheet", (bl_text){(const char *)data, size}, NULL, &sink,
                      &sheet) != BL_OK)
        return 0;
    bl_asm_options o = {.memory = fuzz_memory, .sheet = sheet, .sink = &sink};
    if (bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &program) == BL_OK)
        bl_listing_write(program, BL_HEX, true, &writer);
    bl_program_close(program);
    if (size > 0) disassemble(sheet, data, size, &sum);
    bl_sheet_close(sheet);
    return 0;
}
