/* fuzz_memory.h - what the fuzz targets share: an allocator with a ceiling, so that a leak or a
 * runaway input is a finding; messages that are looked at; and the input as a row of choices. */
#ifndef BOOTLACE_FUZZ_MEMORY_H
#define BOOTLACE_FUZZ_MEMORY_H

#include <stdlib.h>
#include <string.h>

#include "bootlace/bootlace.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static inline void *fuzz_resize(void *context, void *block, size_t size)
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
static inline void fuzz_report(void *context, const bl_diag *d)
{
    volatile size_t *sum = context;
    for (size_t i = 0; i < d->source.length; i++)
        *sum += (unsigned char)d->source.at[i];
    for (const char *p = d->message; *p != '\0'; p++)
        *sum += (unsigned char)*p;
    for (const char *p = d->hint; p != NULL && *p != '\0'; p++)
        *sum += (unsigned char)*p;
    for (const char *p = d->file; p != NULL && *p != '\0'; p++)
        *sum += (unsigned char)*p;
}

static inline bl_status fuzz_drop(void *context, const void *bytes, size_t count)
{
    volatile size_t *sum = context;
    for (size_t i = 0; i < count; i++)
        *sum += ((const unsigned char *)bytes)[i];
    return BL_OK;
}

static inline void fuzz_difference(void *context, bl_image_difference kind, bl_range range)
{
    (void)context, (void)kind, (void)range;
}

/* What is written, kept; bytes are to be freed. */
typedef struct fuzz_held {
    uint8_t *bytes;
    size_t count, capacity;
} fuzz_held;

static inline bl_status fuzz_hold(void *context, const void *bytes, size_t count)
{
    fuzz_held *h = context;
    if (h->count + count > h->capacity) {
        h->capacity = (h->count + count) * 2;
        h->bytes = realloc(h->bytes, h->capacity);
        if (h->bytes == NULL) abort();
    }
    memcpy(h->bytes + h->count, bytes, count);
    h->count += count;
    return BL_OK;
}

/* The input, taken from its front; zeros when it has come to its end. */
typedef struct fuzz_input {
    const uint8_t *at;
    size_t left;
} fuzz_input;

static inline uint8_t fuzz_byte(fuzz_input *in)
{
    if (in->left == 0) return 0;
    in->left--;
    return *in->at++;
}

static inline uint32_t fuzz_number(fuzz_input *in)
{
    uint32_t value = 0;
    for (unsigned i = 0; i < 4; i++)
        value = value << 8 | fuzz_byte(in);
    return value;
}

#endif
