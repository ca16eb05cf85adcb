/* disassembly.h - what the disassembler knows of each unit, shared by its files.
 */
#ifndef BOOTLACE_SRC_DISASM_H
#define BOOTLACE_SRC_DISASM_H

#include "base/core.h"
#include "bootlace/disasm.h"

enum {
    CELL_START = 1, /* an instruction begins here */
    CELL_REST = 2,  /* inside of one */
    CELL_LABEL = 4, /* something refers to it */
    CELL_VECTOR = 8 /* an address that the CPU takes; the first unit of it */
};

/* A stretch of the image without a gap: addresses from first on, cells beside its bytes. */
typedef struct stretch {
    uint32_t first;
    size_t count; /* units */
    const uint8_t *bytes;
    size_t cells; /* where its cells begin */
} stretch;

typedef struct disasm {
    const bl_disasm_options *o;
    const bl_sheet *sheet;
    unsigned wide; /* bytes a unit */
    bool big;
    stretch *stretches;
    size_t stretch_count, stretch_capacity;
    uint8_t *cells;
    size_t cell_count;
    uint32_t *queue; /* places of code still to be followed */
    size_t queue_count, queue_capacity;
    bl_disasm_name *names; /* by address */
    size_t name_count;
    bl_status status;
} disasm;

/* The stretch that holds an address, or NULL. */
const stretch *disasm_find(const disasm *d, uint32_t address);
static inline uint16_t disasm_unit(const disasm *d, const stretch *s, size_t at)
{
    if (d->wide == 1) return s->bytes[at];
    const uint8_t *b = s->bytes + at * 2;
    return (uint16_t)(b[!d->big] << 8 | b[d->big]);
}
/* Recognises the instruction at a place of a stretch. */
bool disasm_decode(const disasm *d, const stretch *s, size_t at, bl_decoded *out);
/* The address that the CPU takes from a vector in this stretch, or false. */
bool disasm_vector_target(const disasm *d, const bl_vector *v, uint32_t *target);

void disasm_trace(disasm *d);
bl_status disasm_write(disasm *d, bl_disasm_counts *counts, const bl_writer *w);

#endif
