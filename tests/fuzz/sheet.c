/* sheet.c - any bytes as a sheet; one that is accepted must serve an assembly. */
#include "memory.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);
int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const char source[] = " .org $100\nk: add #1\n nop\n lda k,x\n .word k\n bne k\n";
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_read(&fuzz_memory, "fuzz.sheet", (bl_text){(const char *)data, size}, NULL, &sink,
                      &sheet) != BL_OK)
        return 0;
    bl_asm_options o = {.memory = fuzz_memory, .sheet = sheet, .sink = &sink};
    bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &program);
    bl_program_close(program);
    bl_sheet_close(sheet);
    return 0;
}
