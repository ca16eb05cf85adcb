/* debug_parts.h - what the debugger's files share. */
#ifndef BOOTLACE_SRC_DEBUG_PARTS_H
#define BOOTLACE_SRC_DEBUG_PARTS_H

#include "base/core.h"
#include "bootlace/debug.h"

/* evaluate.c: a source of names for formulas. stack_offset is added to the stack pointer: what
 * would be, were it so far up. */
typedef struct debug_source {
    const bl_debug *debug;
    const bl_debug_instruction *instruction; /* whose operands are _0, _1, ...; or NULL */
    uint32_t stack_offset;
    uint32_t last_read; /* the address that memory was last asked for, */
    size_t last_count;  /* and for how many bytes */
    bool zeros;         /* memory reads as 0, and nothing is asked */
} debug_source;
bl_formula_source debug_formula_source(debug_source *source);

/* Cuts a value to the CPU's addresses. */
static inline uint32_t debug_wrap(const bl_debug *d, int64_t value)
{
    unsigned bits = bl_sheet_address_bits(d->sheet);
    return (uint32_t)((uint64_t)value & (bits >= 32 ? UINT32_MAX : ((uint64_t)1 << bits) - 1));
}

/* The sheet of what is at an address, and of what the CPU is about to execute. */
static inline const bl_sheet *debug_sheet_at(const bl_debug *d, uint32_t address)
{
    return d->sheet_at != NULL ? d->sheet_at(d->context, address) : d->sheet;
}
const bl_sheet *debug_sheet_now(const bl_debug *d);

/* A register that the target has itself. BL_E_NOT_FOUND, BL_E_UNSUPPORTED. */
bl_status debug_plain_register(const bl_debug *d, bl_text name, bl_register *out);
/* registers of the target as they are now; BL_E_UNSUPPORTED. */
bl_status debug_program_counter(const bl_debug *d, uint32_t *pc);

static inline bool debug_is_among(const uint32_t *places, size_t count, uint32_t place)
{
    for (size_t i = 0; i < count; i++)
        if (places[i] == place) return true;
    return false;
}

/* next.c: where an instruction can go. */
bl_status debug_next_of(const bl_debug *d, const bl_debug_instruction *i, bl_debug_next *next);
/* Where the n-th formula of an instruction leads. False: there are no more. BL_E_NOT_FOUND in
 * *status: not now, for its registers do not include the program counter. */
bool debug_lead(debug_source *s, bl_text *formulas, uint32_t *place, bl_status *status);
/* The first formula of the sheet's plainest return, or length 0. */
bl_text debug_return_formula(const bl_debug *d);

/* Has the CPU come to a breakpoint that it is to stop at? */
bl_status debug_breakpoint_stops(bl_debug *d, size_t index, bool *stops);

#endif
