/* perf_disassemble.c - bytes per second of the disassembler, on a program repeated until it is
 * large, for each sheet that has one. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bootlace/disasm.h"
#include "files/files.h"
#include "wall.h"

enum { SIZE = 4 << 20 };

static bl_status drop(void *context, const void *bytes, size_t count)
{
    (void)bytes;
    *(size_t *)context += count;
    return BL_OK;
}

/* Common instructions of each CPU, one after the other. */
static const struct {
    const char *cpu;
    const char *bytes;
    size_t count;
} mixes[] = {
    {"65c02", "\xA9\x12\x8D\x10\x80\xA2\x08\xBD\x34\x12\x95\x20\xE8\xD0\xF8\x18\x65\x20\x60", 19},
    {"z80", "\x3E\x12\x21\x00\x80\x7E\x23\x10\xFC\xDD\x7E\x05\xCB\x3F\xED\xB0\xC5\xC9", 18},
    {"6809", "\x86\x12\xB7\x80\x10\xA6\x84\x30\x01\x26\xFA\x34\x06\xBD\x12\x34\x35\x86", 18},
};

int main(void)
{
    uint8_t *bytes = malloc(SIZE);
    if (bytes == NULL) return 1;
    for (size_t m = 0; m < sizeof mixes / sizeof mixes[0]; m++) {
        bl_sheet *sheet = NULL;
        bl_image *image = NULL;
        size_t written = 0;
        bl_writer writer = {&written, drop};
        bl_disasm_counts counts;
        for (size_t i = 0; i < SIZE; i++)
            bytes[i] = (uint8_t)mixes[m].bytes[i % mixes[m].count];
        double began = seconds();
        if (bl_sheet_open(&host_memory, (bl_text){mixes[m].cpu, strlen(mixes[m].cpu)}, NULL,
                          &sheet) != BL_OK ||
            bl_image_open(&host_memory, &image) != BL_OK ||
            bl_image_put(image, 0, bytes, SIZE, (bl_origin){0, 0}) != BL_OK)
            return 1;
        double opened = seconds();
        bl_disasm_options o = {
            .memory = host_memory, .sheet = sheet, .image = image, .all_code = true};
        if (bl_disassemble(&o, &counts, &writer) != BL_OK) return 1;
        double took = seconds() - opened;
        printf("%-6s %4.1f MB/s, %5.1f million instructions a second, %zu bytes of text; the sheet "
               "was read in %.2f ms\n",
               mixes[m].cpu, SIZE / took / 1e6, counts.instructions / took / 1e6, written,
               (opened - began) * 1e3);
        bl_image_close(image);
        bl_sheet_close(sheet);
    }
    free(bytes);
    return 0;
}
