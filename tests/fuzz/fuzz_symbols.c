/* fuzz_symbols.c - any bytes as a symbol file: read by itself, and through .use. */
#include "fuzz_memory.h"

typedef struct file {
    bl_text text;
} file;

static bl_status open_file(void *context, bl_text name, const char *from, bl_text *text,
                           bl_text *found, void **handle)
{
    const file *f = context;
    (void)name, (void)from;
    *text = f->text;
    *found = (bl_text){"fuzz.sym", 8};
    *handle = NULL;
    return BL_OK;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const char source[] = " .use \"fuzz.sym\" as K\n .byte K.a & 1\n .word K.b\n";
    static bl_sheet *sheet;
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bl_text rest = {(const char *)data, size};
    bl_symbol_line line;
    uint32_t number = 0;
    bl_status status;
    while (bl_symbols_read("fuzz.sym", &rest, &number, &line, &sink, &status))
        if (line.name.length == 0) abort();
    if (sheet == NULL && bl_sheet_open(&fuzz_memory, (bl_text){"65c02", 5}, NULL, &sheet) != BL_OK)
        abort();
    file f = {{(const char *)data, size}};
    bl_source_provider provider = {&f, open_file, NULL};
    bl_program *program = NULL;
    bl_asm_options o = {
        .memory = fuzz_memory, .sheet = sheet, .provider = &provider, .sink = &sink};
    bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &program);
    bl_program_close(program);
    return 0;
}
