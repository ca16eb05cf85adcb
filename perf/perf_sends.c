/* Sends to a model machine over lines of seven kinds, and to Eyelets of three: whatever is said to
 * be verified must be in its memory. Usage: perf-sends [SENDS [FIRST SEED]] */
#include <stdio.h>
#include <stdlib.h>

#include "model/model_send.h"

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

int main(int argc, char **argv)
{
    static const bl_memory memory = {NULL, resize};
    static const model_quick quick[] = {MODEL_DOUBLE, MODEL_DOUBLE, MODEL_SHORT, MODEL_UNKNOWN};
    unsigned long sends = argc > 1 ? strtoul(argv[1], NULL, 0) : 1000000,
                  seed = argc > 2 ? strtoul(argv[2], NULL, 0) : 1;
    unsigned long ends[MODEL_LINES][3] = {{0}}, lies = 0;
    for (unsigned long i = 0; i < sends; i++, seed++) {
        size_t wrong;
        unsigned line = (unsigned)(i % MODEL_LINES);
        model_end end = model_send(&memory, line, quick[i / MODEL_LINES % 4], seed, &wrong);
        ends[line][end]++;
        if (end != MODEL_FALSE) continue;
        lies++;
        printf("FALSE: seed %lu, %s, Eyelet %lu: %zu bytes are wrong\n", seed, model_line(line),
               i / MODEL_LINES % 4, wrong);
    }
    for (unsigned line = 0; line < MODEL_LINES; line++)
        printf("%-46s %8lu verified %8lu failed %4lu false\n", model_line(line),
               ends[line][MODEL_VERIFIED], ends[line][MODEL_FAILED], ends[line][MODEL_FALSE]);
    return lies > 0;
}
