/* assemble.c - assembles a program from a string and prints its bytes and symbols.
 *
 *   cc assemble.c $(pkg-config --cflags --libs bootlace) && ./a.out
 */
#include <bootlace/bootlace.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const char source[] = "; the fog horn: three blasts\n"
                             "HORN = $8011\n"
                             "        .org $0300\n"
                             "blast:  lda #42\n"
                             "        sta HORN\n"
                             "        dec count\n"
                             "        bne blast\n"
                             "        rts\n"
                             "count:  .byte 3\n";

/* The library takes memory from whoever calls it. */
static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

static bl_status to_stderr(void *context, const void *bytes, size_t count)
{
    (void)context;
    return fwrite(bytes, 1, count, stderr) == count ? BL_OK : BL_E_IO;
}

static void report(void *context, const bl_diag *diag)
{
    const bl_writer writer = {NULL, to_stderr};
    (void)context;
    bl_diag_render(diag, &writer, false);
}

static void print(bl_program *program)
{
    bl_image *image = bl_program_image(program);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        printf("$%04lX:", (unsigned long)piece.first);
        for (size_t k = 0; k < piece.count; k++)
            printf(" %02X", piece.bytes[k]);
        printf("\n");
    }
    for (size_t i = 0; i < bl_program_symbols(program); i++) {
        bl_symbol symbol;
        if (bl_program_symbol(program, i, &symbol) == BL_OK)
            printf("%-8s $%04llX\n", symbol.name, (unsigned long long)symbol.value);
    }
}

int main(void)
{
    const bl_memory memory = {NULL, resize};
    const bl_sink sink = {NULL, report};
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_open(&memory, (bl_text){"65c02", 5}, &sink, &sheet) != BL_OK) return 1;
    bl_asm_options options = {.memory = memory, .sheet = sheet, .sink = &sink};
    bl_status status =
        bl_assemble_text(&options, "horn.asm", (bl_text){source, strlen(source)}, &program);
    if (status == BL_OK) print(program);
    bl_program_close(program);
    bl_sheet_close(sheet);
    return status == BL_OK ? 0 : 1;
}
