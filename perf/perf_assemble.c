/* perf_assemble.c - lines per second on a generated source: labels, forward references,
 * expressions, branches, in banks of 32 KiB stored one after the other. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "files/files.h"
#include "wall.h"

/* A group of ten lines, 21 bytes. */
static size_t group(char *at, unsigned n)
{
    return (size_t)sprintf(
        at,
        "l%u: lda #%u+2*3\n sta $%X\n ldx lo(l%u)\n bne _on%u\n lda k%u,x ; load\n"
        "_on%u: inc $12\n cmp #>l%u\n beq l%u\n k%u = %u\n nop\n",
        n, n % 100, 0x200 + n % 4096, n + 1, n, n, n, n, n, n, n % 50000);
}

int main(int argc, char **argv)
{
    unsigned lines = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 300000;
    char *source = malloc((size_t)lines * 40 + 4096);
    size_t length = 0;
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (source == NULL || bl_sheet_open(&host_memory, (bl_text){"65c02", 5}, NULL, &sheet) != BL_OK)
        return 1;
    unsigned groups = lines / 10;
    for (unsigned i = 0; i < groups; i++) {
        if (i % 1500 == 0)
            length += (size_t)sprintf(source + length, "%s .org $%X\n .runat $8000\n",
                                      i == 0 ? "" : " .end\n", i / 1500 * 0x10000 + 0x8000);
        length += group(source + length, i);
    }
    length += (size_t)sprintf(source + length, "l%u:\n .end\n", groups);
    bl_asm_options o = {.memory = host_memory, .sheet = sheet};
    if (argc > 2) { /* only write the source, for compare.sh */
        FILE *out = fopen(argv[2], "wb");
        bool good = out != NULL && fwrite(source, 1, length, out) == length;
        if (out != NULL && fclose(out) != 0) good = false;
        bl_sheet_close(sheet);
        free(source);
        return good ? 0 : 1;
    }
    double began = seconds();
    bl_status status = bl_assemble_text(&o, "generated.asm", (bl_text){source, length}, &program);
    double took = seconds() - began;
    if (status == BL_OK)
        printf("%u lines, %zu bytes of source, %.0f bytes of image: %.3f s, %.2f million lines a "
               "second\n",
               lines, length, (double)bl_image_size(bl_program_image(program)), took,
               lines / took / 1e6);
    else
        printf("%s\n", bl_status_text(status));
    bl_program_close(program);
    bl_sheet_close(sheet);
    free(source);
    return status == BL_OK ? 0 : 1;
}
