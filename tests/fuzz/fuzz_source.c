/* fuzz_source.c - any bytes as a source for any CPU: never a crash, never a failure without a word,
 * and the same source twice gives the same bytes. The first byte chooses the CPU. */
#include "fuzz_memory.h"

static unsigned errors;

static void report(void *context, const bl_diag *d)
{
    if (d->severity == BL_ERROR) errors++;
    fuzz_report(context, d);
}

static const bl_sheet *sheet_numbered(uint8_t number)
{
    static bl_sheet *sheets[64];
    size_t i = number % bl_sheet_shipped_count() % 64;
    if (sheets[i] == NULL &&
        bl_sheet_open(&fuzz_memory, bl_sheet_shipped_name(i), NULL, &sheets[i]) != BL_OK)
        abort();
    return sheets[i];
}

static bl_status assemble(bl_text text, uint8_t cpu, size_t *sum, bl_program **program)
{
    static const bl_range hole = {0xD000, 0x100};
    static const bl_area areas[] = {{"ram", {0x300, 0x100}, BL_AREA_RAM, 0xFF, NULL, 0, false},
                                    {"rom", {0xC000, 0x4000}, BL_AREA_ROM, 0xFF, &hole, 1, false}};
    static const bl_definition definitions[] = {{"board.clock", 2000000}};
    bl_sink sink = {sum, report};
    bl_asm_options o = {.memory = fuzz_memory,
                        .sheet = sheet_numbered(cpu),
                        .areas = areas,
                        .area_count = 2,
                        .definitions = definitions,
                        .definition_count = 1,
                        .version = "1.0",
                        .sink = &sink};
    errors = 0;
    return bl_assemble_text(&o, "fuzz.asm", text, program);
}

static void write_all(bl_program *program, size_t size, size_t *sum)
{
    bl_writer writer = {sum, fuzz_drop};
    bl_symbol symbol;
    bl_listing_write(program, size % 3 == 0 ? BL_OCTAL : BL_HEX, size % 2 == 0, &writer);
    bl_symbols_write(program, &writer);
    bl_map_write(program, &writer);
    for (size_t i = 0; i < bl_program_symbols(program); i++)
        bl_program_symbol(program, i, &symbol);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    size_t sum = 0;
    if (size == 0) return 0;
    bl_text text = {(const char *)data + 1, size - 1};
    bl_program *program = NULL, *again = NULL;
    bl_status status = assemble(text, data[0], &sum, &program);
    if (status != BL_OK && errors == 0 && status != BL_E_MEMORY) abort(); /* and said nothing */
    if (status == BL_OK) {
        write_all(program, size, &sum);
        if (assemble(text, data[0], &sum, &again) != BL_OK ||
            !bl_image_compare(bl_program_image(program), bl_program_image(again), NULL,
                              fuzz_difference))
            abort();
    }
    bl_program_close(program);
    bl_program_close(again);
    return 0;
}
