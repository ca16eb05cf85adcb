/* tape_plan.h - what goes on a tape, one after the other, and how long that takes. */
#ifndef BOOTLACE_TAPE_PLAN_H
#define BOOTLACE_TAPE_PLAN_H

#include <glib.h>

#include "bench/bench.h"
#include "bootlace/image.h"
#include "bootlace/modulate.h"
#include "bootlace/tapeblock.h"

typedef enum tape_framing { TAPE_BARE, TAPE_RECORDS, TAPE_BLOCKS, TAPE_STAGED } tape_framing;

/* Something for the tape: a program, which has addresses, or a file, which has none. */
typedef struct tape_item {
    const char *name;
    uint8_t number;
    bl_tape_content content;
    const bl_image *image; /* of a program */
    const uint8_t *bytes;  /* of a file */
    size_t count;
} tape_item;

typedef enum tape_segment_kind { TAPE_IDLE, TAPE_BYTES } tape_segment_kind;

typedef struct tape_segment {
    tape_segment_kind kind;
    uint32_t milliseconds;
    size_t first, count; /* in the plan's bytes */
    uint8_t stop_bits;
} tape_segment;

typedef struct tape_plan {
    bl_keying keying; /* its stop bits are those of what is appended next */
    uint32_t gap;     /* milliseconds at rest between blocks */
    uint32_t clock;   /* of the machine, Hz: after a packed block it must have time to unpack */
    GArray *segments;
    GByteArray *bytes;
    uint64_t length; /* nanoseconds so far */
} tape_plan;

enum {
    TAPE_TAIL = 500, /* milliseconds at rest at the end */
};

void tape_plan_begin(tape_plan *p, const bl_keying *keying);
void tape_plan_end(tape_plan *p);
/* The tone of the line at rest. */
void tape_plan_rest(tape_plan *p, uint32_t milliseconds);
void tape_plan_bytes(tape_plan *p, const void *bytes, size_t count);
/* Appends an item in our blocks; packs: packed, where that takes less. Returns how many data
 * blocks. */
guint tape_plan_blocks(tape_plan *p, const tape_item *item, bool packs);
/* Appends the bytes of a program, or a file, as they are. BL_E_RANGE: the program has gaps. */
bl_status tape_plan_bare(tape_plan *p, const tape_item *item);

/* Turns the plan into samples. */
bl_status tape_plan_play(const tape_plan *p, bl_modulator *m);

#endif
