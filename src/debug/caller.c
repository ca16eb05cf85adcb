/* caller.c - who called: a guess from the stack. */
#include "debug_parts.h"

enum { LONGEST_CALL = 5 };

/* An instruction that calls, and ends right before an address. The shortest first: its operand
 * rarely looks like a call itself. */
static bool call_before(const bl_debug *d, uint32_t back, bl_debug_instruction *call)
{
    for (uint32_t size = 1; size <= LONGEST_CALL && size <= back; size++) {
        if (bl_debug_decode(d, back - size, call) != BL_OK) continue;
        if (call->decoded.form->size == size && (call->decoded.form->flow & BL_FLOW_CALLS) != 0)
            return true;
    }
    return false;
}

/* Whom a call calls: known when the instruction itself says it. */
static bool called_by(const bl_debug *d, const bl_debug_instruction *call, uint32_t *callee)
{
    bl_debug_next next;
    if ((call->decoded.form->flow & BL_FLOW_GOES) == 0 || debug_next_of(d, call, &next) != BL_OK)
        return false;
    for (size_t i = 0; i < next.count; i++) {
        if (next.places[i] == next.behind) continue;
        *callee = next.places[i];
        return true;
    }
    return false;
}

/* The label of a routine: without the local names in it. */
static void routine_of(const bl_debug *d, uint32_t address, char *name, size_t capacity)
{
    bl_place place;
    name[0] = '\0';
    if (!bl_debug_place(d, address, &place)) return;
    bl_format(name, capacity, "%s", place.label);
    for (size_t i = 0; name[i] != '\0'; i++) {
        if (name[i] != '.' || name[i + 1] != '_') continue;
        name[i] = '\0';
        return;
    }
}

static bool in_routine(const bl_debug *d, uint32_t callee, uint32_t address)
{
    char a[192], b[192];
    routine_of(d, callee, a, sizeof a);
    routine_of(d, address, b, sizeof b);
    return a[0] != '\0' && bl_text_same(bl_text_of(a), bl_text_of(b));
}

/* Each address of the stack is tried as if a return stood there. The calls must fit one another:
 * each calls the routine in which the next one below stands. */
bl_status bl_debug_callers(const bl_debug *d, uint32_t depth, bl_debug_caller *callers,
                           size_t capacity, size_t *count)
{
    debug_source s = {.debug = d};
    bl_formula_source source = debug_formula_source(&s);
    bl_text formula = debug_return_formula(d);
    uint32_t inside;
    *count = 0;
    if (formula.length == 0 || bl_sheet_stack(d->sheet).length == 0) return BL_E_UNSUPPORTED;
    bl_status status = debug_program_counter(d, &inside);
    for (uint32_t up = 0; up < depth && *count < capacity && status == BL_OK; up++) {
        int64_t value;
        bl_debug_instruction call;
        s.stack_offset = up;
        status = bl_formula_evaluate(formula, &source, &value, NULL);
        if (status != BL_OK) return *count > 0 ? BL_OK : status;
        uint32_t back = debug_wrap(d, value);
        if (!call_before(d, back, &call)) continue;
        bl_debug_caller *c = &callers[(*count)++];
        *c = (bl_debug_caller){.call = call.address, .back = back, .stack = up};
        c->callee_known = called_by(d, &call, &c->callee);
        c->fits = c->callee_known && in_routine(d, c->callee, inside);
        /* What does not fit may be chance; the routine that counts is then still the same. */
        if (c->fits || !c->callee_known) inside = c->call;
    }
    return status;
}
