/* breakpoint.c - breakpoints: set, counted, their conditions. */
#include "debug_parts.h"

size_t bl_debug_breakpoint_at(const bl_debug *d, uint32_t address)
{
    size_t i = 0;
    while (i < BL_DEBUG_BREAKPOINTS && (!d->breakpoints[i].used || d->breakpoints[i].off ||
                                        d->breakpoints[i].address != address))
        i++;
    return i;
}

/* The one at an address, switched off or not, else the first that is free. */
static size_t slot_for(const bl_debug *d, uint32_t address)
{
    size_t free = BL_DEBUG_BREAKPOINTS;
    for (size_t i = BL_DEBUG_BREAKPOINTS; i-- > 0;) {
        const bl_breakpoint *b = &d->breakpoints[i];
        if (b->used && b->address == address) return i;
        if (!b->used) free = i;
    }
    return free;
}

/* A condition is worked out once when it is set: a name that nobody knows is told then, not when
 * the program runs. What memory or division says may change. */
static bl_status check_condition(const bl_debug *d, bl_text condition, bl_formula_fault *fault)
{
    int64_t value;
    bl_status status = bl_debug_evaluate(d, condition, &value, fault);
    return status == BL_E_NOT_FOUND || status == BL_E_SYNTAX ? BL_E_SYNTAX : BL_OK;
}

/* Set on the target at once, so that what it cannot do is told now. */
bl_status bl_debug_break(bl_debug *d, uint32_t address, uint32_t count, bl_text condition,
                         size_t *index, bl_formula_fault *fault)
{
    size_t i = slot_for(d, address);
    if (d->target.set_breakpoint == NULL) return BL_E_UNSUPPORTED;
    if (i == BL_DEBUG_BREAKPOINTS) return BL_E_MEMORY;
    condition = bl_text_trim(condition);
    bl_status status = condition.length > 0 ? check_condition(d, condition, fault) : BL_OK;
    if (status == BL_OK) status = d->target.set_breakpoint(d->target.context, address, true);
    if (status != BL_OK) return status;
    bl_breakpoint *b = &d->breakpoints[i];
    *b = (bl_breakpoint){.used = true, .address = address, .count = count};
    if (condition.length > 0) memcpy(b->condition, condition.at, condition.length);
    b->condition[condition.length] = '\0';
    *index = i;
    return BL_OK;
}

bl_status bl_debug_break_off(bl_debug *d, size_t index, bool off)
{
    if (index >= BL_DEBUG_BREAKPOINTS || !d->breakpoints[index].used) return BL_E_NOT_FOUND;
    bl_breakpoint *b = &d->breakpoints[index];
    bl_status status = d->target.set_breakpoint(d->target.context, b->address, !off);
    if (status == BL_OK) b->off = off;
    return status;
}

bl_status bl_debug_unbreak(bl_debug *d, size_t index)
{
    bl_status status = bl_debug_break_off(d, index, true);
    if (status == BL_OK) d->breakpoints[index].used = false;
    return status;
}

/* The condition first, then each count-th time that it was met. */
bl_status debug_breakpoint_stops(bl_debug *d, size_t index, bool *stops)
{
    bl_breakpoint *b = &d->breakpoints[index];
    int64_t value = 1;
    if (b->condition[0] != '\0') {
        bl_status status = bl_debug_evaluate(d, bl_text_of(b->condition), &value, NULL);
        if (status != BL_OK) return status;
    }
    if (value != 0) b->reached++;
    *stops = value != 0 && (b->count == 0 || b->reached % b->count == 0);
    return BL_OK;
}

void bl_debug_begin(bl_debug *d, const bl_target *target, const bl_sheet *sheet)
{
    memset(d, 0, sizeof *d);
    d->target = *target;
    d->sheet = sheet;
}

bl_status bl_debug_end(bl_debug *d)
{
    bl_status worst = BL_OK;
    for (size_t i = 0; i < BL_DEBUG_BREAKPOINTS; i++) {
        if (!d->breakpoints[i].used) continue;
        bl_status status = bl_debug_unbreak(d, i);
        if (status != BL_OK) worst = status;
    }
    return worst;
}
