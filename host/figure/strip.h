/* strip.h - a stretch of addresses as a row of marks: what each holds. For pictures of memory. */
#ifndef BOOTLACE_STRIP_H
#define BOOTLACE_STRIP_H

#include "bench/bench.h"

typedef enum strip_mark {
    STRIP_NOTHING, /* not part of it */
    STRIP_THERE,   /* memory; the image has no byte in it */
    STRIP_PARTLY,  /* some bytes are of the image */
    STRIP_FULL,    /* all are */
} strip_mark;

/* What a picture of the memory spans: all addresses of a CPU that has up to 64 KiB of them; of a
 * larger space, and without a CPU, the power of two that holds all areas and chips. */
uint64_t strip_span(const bench *b);

/* The CPU's addresses that lie in the range, marks of them spread over strip_span. image
 * may be NULL. */
void strip_of_range(const bench *b, bl_range range, const bl_image *image, unsigned marks,
                    strip_mark *out);
/* The same of what a chip holds: NOTHING where it is not decoded. */
void strip_of_chip_at_cpu(const bench *b, const bl_chip *chip, const bl_image *image,
                          unsigned marks, strip_mark *out);
/* A chip's own offsets. */
void strip_of_chip(const bl_chip *chip, const bl_image *image, unsigned marks, strip_mark *out);

#endif
