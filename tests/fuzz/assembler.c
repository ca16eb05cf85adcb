/* assembler.c - any bytes as a source: never a crash, never a failure without a word. */
#include "memory.h"

static unsigned errors;

static void report(void *context, const bl_diag *d)
{
    if (d->severity == BL_ERROR) errors++;
    fuzz_report(context, d);
}

static bl_status drop(void *context, const void *bytes, size_t count)
{
    (void)context, (void)bytes, (void)count;
    return BL_OK;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);
int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const bl_area areas[] = {{"ram", {0x300, 0x100}, BL_AREA_RAM, 0xFF, NULL, 0},
                                    {"rom", {0xC000, 0x4000}, BL_AREA_ROM, 0xFF, NULL, 0}};
    static const bl_definition definitions[] = {{"board.clock", 2000000}};
    static bl_sheet *sheet;
    size_t sum = 0;
    bl_sink sink = {&sum, report};
    bl_writer writer = {NULL, drop};
    bl_program *program = NULL;
    if (sheet == NULL && bl_sheet_open(&fuzz_memory, (bl_text){"65c02", 5}, NULL, &sheet) != BL_OK)
        abort();
    bl_asm_options o = {.memory = fuzz_memory,
                        .sheet = sheet,
                        .areas = areas,
                        .area_count = 2,
                        .definitions = definitions,
                        .definition_count = 1,
                        .sink = &sink};
    errors = 0;
    bl_status status =
        bl_assemble_text(&o, "fuzz.asm", (bl_text){(const char *)data, size}, &program);
    if (status == BL_OK) {
        bl_listing_write(program, BL_HEX, size % 2 == 0, &writer);
        bl_symbols_write(program, &writer);
        bl_map_write(program, &writer);
    } else if (errors == 0) {
        abort(); /* it failed and said nothing */
    }
    bl_program_close(program);
    return 0;
}
