/* messages.c - diagnostics through a sink of one's own: here counted, and shown without the source
 * line. */
#include <bootlace/bootlace.h>
#include <stdio.h>
#include <stdlib.h>

typedef struct counter {
    unsigned errors, warnings;
} counter;

static void count(void *context, const bl_diag *d)
{
    counter *c = context;
    if (d->severity == BL_ERROR) c->errors++;
    if (d->severity == BL_WARNING) c->warnings++;
    printf("line %lu, column %lu: %s%s%s\n", (unsigned long)d->line, (unsigned long)d->column,
           d->message, d->hint != NULL ? " - " : "", d->hint != NULL ? d->hint : "");
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
    static const char source[] =
        "horn:   ldaa #1\n        jmp hron\n        .warn \"no fog today\"\n";
    const bl_memory memory = {NULL, resize};
    counter seen = {0, 0};
    const bl_sink sink = {&seen, count};
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_open(&memory, (bl_text){"65c02", 5}, &sink, &sheet) != BL_OK) return 1;
    bl_asm_options options = {.memory = memory, .sheet = sheet, .sink = &sink};
    bl_assemble_text(&options, "horn.asm", (bl_text){source, sizeof source - 1}, &program);
    printf("%u errors, %u warnings\n", seen.errors, seen.warnings);
    bl_program_close(program);
    bl_sheet_close(sheet);
    return 0;
}
