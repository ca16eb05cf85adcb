/* running.c - runs and steps: until a breakpoint, a place, a line, a return. */
#include "debug_parts.h"

enum { MANY_TURNS = 1000 }; /* single steps between two questions whether to go on */

/* A place of our own to stop at, while the stack is as high as it was. */
typedef struct goal {
    uint32_t places[BL_DEBUG_NEXT];
    size_t count;
    uint32_t stack; /* not below this; 0: wherever it is */
} goal;

static bool may_go_on(const bl_debug_watch *w)
{
    return w == NULL || w->go_on == NULL || w->go_on(w->context);
}

/* 0 where there is no stack pointer, which every stack is above. */
static uint32_t stack_now(const bl_debug *d)
{
    uint32_t value = 0;
    bl_text name = bl_sheet_stack(d->sheet);
    if (name.length == 0 || bl_debug_register(d, name, &value) != BL_OK) return 0;
    return value;
}

/* ---- goals ---- */

static bl_status mark_goal(bl_debug *d, const goal *g, bool on)
{
    bl_status worst = BL_OK;
    if (d->target.set_breakpoint == NULL) return BL_E_UNSUPPORTED;
    for (size_t i = 0; i < g->count; i++) {
        if (bl_debug_breakpoint_at(d, g->places[i]) != BL_DEBUG_BREAKPOINTS) continue;
        bl_status status = d->target.set_breakpoint(d->target.context, g->places[i], on);
        if (status != BL_OK) worst = status;
        if (status != BL_OK && on) return status;
    }
    return worst;
}

static bool is_goal(const bl_debug *d, const goal *g, uint32_t pc)
{
    return debug_is_among(g->places, g->count, pc) && (g->stack == 0 || stack_now(d) >= g->stack);
}

/* What a breakpoint of the user's says about where the CPU stands. False: nothing. */
static bool user_stops(bl_debug *d, bl_debug_result *r)
{
    bool stops = false;
    size_t index = bl_debug_breakpoint_at(d, r->pc);
    if (index == BL_DEBUG_BREAKPOINTS) return false;
    bl_status status = debug_breakpoint_stops(d, index, &stops);
    if (status == BL_OK && !stops) return false;
    r->why = status == BL_OK ? BL_DEBUG_BREAKPOINT : BL_DEBUG_FAULT;
    r->index = index;
    return true;
}

/* Lets the target run until it stands, or nobody wants it to go on. *ended: the run is over,
 * whatever is where it stands. */
static bl_status wait_until_it_stands(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r,
                                      bool *ended)
{
    bl_stop why = BL_STOP_NOT;
    *ended = false;
    for (;;) {
        bl_status status = d->target.wait(d->target.context, BL_DEBUG_SLICE_US, &why);
        if (status != BL_OK) return status;
        if (why == BL_STOP_WATCHPOINT) {
            r->why = BL_DEBUG_WATCHPOINT;
            *ended = true;
            return BL_OK;
        }
        if (why == BL_STOP_BREAKPOINT || why == BL_STOP_ASKED) return BL_OK;
        if (may_go_on(w)) continue;
        *ended = true;
        r->why = why == BL_STOP_WAITS ? BL_DEBUG_WAITS : BL_DEBUG_ENDED;
        return d->target.stop != NULL ? d->target.stop(d->target.context) : BL_E_UNSUPPORTED;
    }
}

/* The goal's marks are set. A stop that is nobody's (the stack is elsewhere, a condition is not
 * met) goes on. */
static bl_status run_marked(bl_debug *d, const uint32_t *entry, const goal *g,
                            const bl_debug_watch *w, bl_debug_result *r)
{
    bool ended;
    for (;;) {
        bl_status status = d->target.go(d->target.context, entry);
        if (status == BL_OK) status = wait_until_it_stands(d, w, r, &ended);
        if (status == BL_OK) status = debug_program_counter(d, &r->pc);
        if (status != BL_OK || ended) return status;
        if (is_goal(d, g, r->pc)) {
            r->why = BL_DEBUG_DONE;
            return BL_OK;
        }
        if (user_stops(d, r)) return BL_OK;
        entry = NULL;
        if (may_go_on(w)) continue;
        r->why = BL_DEBUG_ENDED; /* it stands already */
        return BL_OK;
    }
}

/* One instruction, of which next tells where it goes, from a place where a breakpoint may be, which
 * is out of the way meanwhile. */
static bl_status step_off(bl_debug *d, const bl_debug_next *next, const bl_debug_watch *w,
                          bl_debug_result *r)
{
    goal g = {.count = 0};
    uint32_t from = r->pc;
    bl_status status = BL_OK;
    /* What leads to itself can only be run through; what leads nowhere else has been executed. */
    for (size_t i = 0; i < next->count; i++)
        if (next->places[i] != from) g.places[g.count++] = next->places[i];
    r->why = BL_DEBUG_DONE;
    if (g.count == 0 && next->count == 1 && !next->repeats) return BL_OK;
    if (g.count == 0) g.places[g.count++] = from;
    bool broken = bl_debug_breakpoint_at(d, from) != BL_DEBUG_BREAKPOINTS;
    if (broken) status = d->target.set_breakpoint(d->target.context, from, false);
    if (status == BL_OK) status = mark_goal(d, &g, true);
    if (status == BL_OK) status = run_marked(d, NULL, &g, w, r);
    bl_status cleared = mark_goal(d, &g, false);
    if (broken) {
        bl_status again = d->target.set_breakpoint(d->target.context, from, true);
        if (cleared == BL_OK) cleared = again;
    }
    return status == BL_OK ? cleared : status;
}

/* Is something set at the place where the CPU stands, that it would meet before it has done
 * anything? */
static bool stands_on_breakpoint(bl_debug *d, const goal *g, bl_debug_result *r)
{
    if (!d->target.breakpoints_are_code || debug_program_counter(d, &r->pc) != BL_OK) return false;
    return bl_debug_breakpoint_at(d, r->pc) != BL_DEBUG_BREAKPOINTS ||
           debug_is_among(g->places, g->count, r->pc);
}

/* Runs to a goal, or to a breakpoint. */
static bl_status run_to(bl_debug *d, const uint32_t *entry, const goal *g, const bl_debug_watch *w,
                        bl_debug_result *r)
{
    const bl_target *t = &d->target;
    if (t->go == NULL || t->wait == NULL) return BL_E_UNSUPPORTED;
    if (entry == NULL && stands_on_breakpoint(d, g, r)) {
        bl_debug_next next;
        bl_status off = bl_debug_next_places(d, &next);
        if (off == BL_OK) off = step_off(d, &next, w, r);
        if (off != BL_OK || r->why != BL_DEBUG_DONE || is_goal(d, g, r->pc)) return off;
        if (user_stops(d, r)) return BL_OK;
    }
    bl_status status = g->count > 0 ? mark_goal(d, g, true) : BL_OK;
    if (status == BL_OK) status = run_marked(d, entry, g, w, r);
    if (g->count == 0) return status;
    bl_status cleared = mark_goal(d, g, false);
    return status == BL_OK ? cleared : status;
}

static goal goal_at(uint32_t place, uint32_t stack)
{
    return (goal){.places = {place}, .count = 1, .stack = stack};
}

/* ---- one instruction ---- */

/* Has an interrupt been taken before the instruction at back? Then some return leads there. */
static bool was_interrupted(const bl_debug *d, uint32_t back)
{
    debug_source source = {.debug = d};
    const bl_sheet *sheet = debug_sheet_now(d);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        if ((f->flow & BL_FLOW_RETURNS) == 0 || f->operands > 0) continue;
        bl_text formulas = f->leads;
        uint32_t place;
        bl_status status;
        while (debug_lead(&source, &formulas, &place, &status))
            if (status == BL_OK && place == back) return true;
    }
    return false;
}

/* A step of the target's, and what it was: the instruction; an interrupt, which is run through
 * before the instruction gets its turn; or nothing, where the CPU waits. */
static bl_status step_of_target(bl_debug *d, const bl_debug_next *next, const bl_debug_watch *w,
                                bl_debug_result *r)
{
    uint32_t from = r->pc, stack = stack_now(d);
    for (unsigned turn = 1;; turn++) {
        bl_access access;
        bl_status status = d->target.step(d->target.context);
        if (status == BL_OK) status = debug_program_counter(d, &r->pc);
        r->steps++;
        r->why = BL_DEBUG_DONE;
        if (status == BL_OK && d->target.last_access != NULL &&
            d->target.last_access(d->target.context, &access) == BL_OK) {
            r->why = BL_DEBUG_WATCHPOINT;
            return BL_OK;
        }
        if (status != BL_OK || debug_is_among(next->places, next->count, r->pc)) return status;
        if (r->pc == from && !next->repeats) {
            r->why = BL_DEBUG_WAITS;
            return BL_OK;
        }
        if (r->pc != from) {
            if (!was_interrupted(d, from)) return BL_OK;
            const goal back = goal_at(from, stack);
            status = run_to(d, NULL, &back, w, r);
            if (status != BL_OK || r->why != BL_DEBUG_DONE) return status;
        }
        if (turn % MANY_TURNS == 0 && !may_go_on(w)) {
            r->why = BL_DEBUG_ENDED;
            return BL_OK;
        }
    }
}

/* Without steps of the target's: marks at all places where the instruction can go. */
static bl_status step_by_marks(bl_debug *d, const bl_debug_next *next, const bl_debug_watch *w,
                               bl_debug_result *r)
{
    goal g = {.count = 0};
    if (d->target.breakpoints_are_code) {
        r->steps++;
        return step_off(d, next, w, r);
    }
    for (size_t i = 0; i < next->count; i++)
        g.places[g.count++] = next->places[i];
    bl_status status = run_to(d, NULL, &g, w, r);
    r->steps++;
    return status;
}

/* Where the CPU stands, and where the instruction there can go. */
static bl_status look_at_next(const bl_debug *d, bl_debug_result *r, bl_debug_next *next)
{
    bl_debug_instruction i;
    memset(next, 0, sizeof *next);
    bl_status status = debug_program_counter(d, &r->pc);
    if (status == BL_OK) status = bl_debug_decode(d, r->pc, &i);
    return status == BL_OK ? debug_next_of(d, &i, next) : status;
}

/* known: what looking ahead said. What the sheet does not know can be stepped by the target alone.
 */
static bl_status step_known(bl_debug *d, bl_status known, const bl_debug_next *next,
                            const bl_debug_watch *w, bl_debug_result *r)
{
    if (d->target.step == NULL) return known == BL_OK ? step_by_marks(d, next, w, r) : known;
    if (known != BL_OK && known != BL_E_NOT_FOUND) return known;
    return step_of_target(d, next, w, r);
}

static bl_status step_at(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r)
{
    bl_debug_next next;
    bl_status known = look_at_next(d, r, &next);
    return step_known(d, known, &next, w, r);
}

bl_status bl_debug_step(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r)
{
    memset(r, 0, sizeof *r);
    return step_at(d, w, r);
}

/* ---- steps that are more than one ---- */

/* A step; a call is run through until it comes back with the stack as high as it was. *next: of the
 * instruction that was executed. */
static bl_status over_at(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r,
                         bl_debug_next *next)
{
    bl_status known = look_at_next(d, r, next);
    if (known != BL_OK || !next->calls) return step_known(d, known, next, w, r);
    goal g = goal_at(next->behind, stack_now(d));
    return run_to(d, NULL, &g, w, r);
}

bl_status bl_debug_over(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r)
{
    bl_debug_next next;
    memset(r, 0, sizeof *r);
    return over_at(d, w, r, &next);
}

/* Instruction by instruction, what is called run through, up to a return that is taken. */
static bl_status out_by_steps(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r)
{
    bl_debug_next next;
    for (;;) {
        bl_status status = over_at(d, w, r, &next);
        if (status != BL_OK || r->why != BL_DEBUG_DONE) return status;
        if (next.returns && r->pc != next.behind) return BL_OK;
        if (user_stops(d, r)) return BL_OK;
        if (r->steps % MANY_TURNS == MANY_TURNS - 1 && !may_go_on(w)) {
            r->why = BL_DEBUG_ENDED;
            return BL_OK;
        }
    }
}

bl_status bl_debug_out(bl_debug *d, const bl_debug_watch *w, bl_debug_result *r)
{
    bl_debug_caller callers[BL_DEBUG_CALLERS];
    size_t count = 0, best = 0;
    memset(r, 0, sizeof *r);
    if (d->target.step != NULL) return out_by_steps(d, w, r);
    bl_status status = bl_debug_callers(d, 64, callers, BL_DEBUG_CALLERS, &count);
    if (status != BL_OK) return status;
    if (count == 0) return BL_E_NOT_FOUND;
    /* One that calls the routine it is in is better than one that is nearer. */
    while (best < count && !callers[best].fits)
        best++;
    const bl_debug_caller *caller = &callers[best < count ? best : 0];
    goal g = goal_at(caller->back, stack_now(d) + caller->stack);
    return run_to(d, NULL, &g, w, r);
}

bl_status bl_debug_until(bl_debug *d, uint32_t address, const bl_debug_watch *w, bl_debug_result *r)
{
    goal g = goal_at(address, 0);
    memset(r, 0, sizeof *r);
    return run_to(d, NULL, &g, w, r);
}

static bool same_line(const bl_place *a, const bl_place *b)
{
    return a->line == b->line && bl_text_same(bl_text_of(a->file), bl_text_of(b->file));
}

/* A line that jumps to itself has come round when it is where it began. */
bl_status bl_debug_line(bl_debug *d, bool into, const bl_debug_watch *w, bl_debug_result *r)
{
    bl_place from, now;
    bl_debug_next next;
    uint32_t start;
    memset(r, 0, sizeof *r);
    bl_status status = debug_program_counter(d, &start);
    if (status != BL_OK) return status;
    bool known = bl_debug_place(d, start, &from);
    for (;;) {
        status = into ? step_at(d, w, r) : over_at(d, w, r, &next);
        if (status != BL_OK || r->why != BL_DEBUG_DONE || !known || r->pc == start) return status;
        if (bl_debug_place(d, r->pc, &now) && !same_line(&from, &now)) return BL_OK;
        if (user_stops(d, r)) return BL_OK;
        if (!may_go_on(w)) {
            r->why = BL_DEBUG_ENDED;
            return BL_OK;
        }
    }
}

bl_status bl_debug_go(bl_debug *d, const uint32_t *entry, const bl_debug_watch *w,
                      bl_debug_result *r)
{
    const goal none = {.count = 0};
    memset(r, 0, sizeof *r);
    return run_to(d, entry, &none, w, r);
}

/* ---- a call of our own ---- */

/* Leaves on the stack what a return takes for back: the formula says where it looks, how many bytes
 * it takes, and what it adds. What was written is proved by working it out again. */
static bl_status push_return(bl_debug *d, uint32_t back)
{
    debug_source s = {.debug = d, .zeros = true};
    bl_formula_source source = debug_formula_source(&s);
    bl_text formula = debug_return_formula(d), name = bl_sheet_stack(d->sheet);
    int64_t added, found;
    bl_register stack;
    uint8_t bytes[4];
    if (formula.length == 0 || name.length == 0 || d->target.write == NULL) return BL_E_UNSUPPORTED;
    bl_status status = bl_formula_evaluate(formula, &source, &added, NULL);
    if (status == BL_OK) status = debug_plain_register(d, name, &stack);
    if (status != BL_OK) return status;
    size_t units = s.last_count;
    if (units == 0 || units > sizeof bytes) return BL_E_UNSUPPORTED;
    uint32_t mask = (uint32_t)(((uint64_t)1 << stack.bits) - 1);
    status = bl_debug_set_register(d, name, (stack.value - (uint32_t)units) & mask);
    if (status == BL_OK) status = bl_formula_evaluate(formula, &source, &added, NULL);
    if (status != BL_OK) return status;
    uint32_t value = debug_wrap(d, (int64_t)back - added);
    bool big = bl_sheet_order(d->sheet) == BL_BIG;
    for (size_t i = 0; i < units; i++)
        bytes[big ? units - 1 - i : i] = (uint8_t)(value >> 8 * i);
    status = d->target.write(d->target.context, s.last_read, bytes, units);
    s.zeros = false;
    if (status == BL_OK) status = bl_formula_evaluate(formula, &source, &found, NULL);
    if (status != BL_OK) return status;
    return debug_wrap(d, found) == back ? BL_OK : BL_E_DIFFERS;
}

bl_status bl_debug_call(bl_debug *d, uint32_t routine, const bl_debug_watch *w, bl_debug_result *r)
{
    uint32_t back, stack = stack_now(d);
    memset(r, 0, sizeof *r);
    bl_status status = debug_program_counter(d, &back);
    if (status == BL_OK) status = push_return(d, back);
    if (status != BL_OK) return status;
    goal g = goal_at(back, stack);
    return run_to(d, &routine, &g, w, r);
}
