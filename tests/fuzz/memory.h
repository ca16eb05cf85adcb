/* memory.h - an allocator with a ceiling, so that a leak or a runaway input is a finding. */
#ifndef BOOTLACE_FUZZ_MEMORY_H
#define BOOTLACE_FUZZ_MEMORY_H

#include <stdlib.h>

#include "bootlace/bootlace.h"

static void *fuzz_resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size == 0) {
        free(block);
        return NULL;
    }
    return size > (size_t)96 << 20 ? NULL : realloc(block, size);
}

static const bl_memory fuzz_memory = {NULL, fuzz_resize};

/* Touches every message, so that one that points nowhere is found. */
static void fuzz_report(void *context, const bl_diag *d)
{
    volatile size_t *sum = context;
    for (size_t i = 0; i < d->source.length; i++)
        *sum += (unsigned char)d->source.at[i];
    for (const char *p = d->message; *p != '\0'; p++)
        *sum += (unsigned char)*p;
}

#endif
