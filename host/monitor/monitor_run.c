/* monitor_run.c - registers, runs and steps, and what is shown when the CPU stands again. */
#include "monitor_parts.h"

#include <string.h>

enum { MOST_STEPS = 1000000 };

/* ---- registers ---- */

/* Letters of what is set in capitals, of what is not in small ones. */
static void put_flags(monitor *m, bl_text letters, uint32_t value)
{
    for (size_t i = 0; i < letters.length; i++) {
        char c = letters.at[i];
        bool set = (value >> (letters.length - 1 - i) & 1) != 0;
        if (c != '-') g_string_append_c(m->out, set ? g_ascii_toupper(c) : g_ascii_tolower(c));
    }
}

static void put_register(monitor *m, const char *name, unsigned bits, uint32_t value)
{
    char *upper = g_ascii_strup(name, -1);
    const bl_sheet_register *r =
        bl_sheet_register_named(m->b->sheet, (bl_text){name, strlen(name)});
    g_string_append_printf(m->out, "%s ", upper);
    if (m->b->radix == BL_OCTAL)
        g_string_append_printf(m->out, "%0*o", (int)(bits + 2) / 3, value);
    else
        g_string_append_printf(m->out, "%0*X", (int)(bits + 3) / 4, value);
    if (r != NULL && r->flags.length > 0) {
        g_string_append_c(m->out, ' ');
        put_flags(m, r->flags, value);
    }
    g_free(upper);
}

/* All that the target has, in its order; at most 80 columns a line. */
static bool put_registers(monitor *m)
{
    bl_register list[BL_DEBUG_REGISTERS];
    size_t count = 0, line = m->out->len;
    const bl_target *t = &m->debug.target;
    bl_status status = t->registers == NULL
                           ? BL_E_UNSUPPORTED
                           : t->registers(t->context, list, BL_DEBUG_REGISTERS, &count);
    if (status != BL_OK) return monitor_fail_status(m, "the registers", status);
    for (size_t i = 0; i < count && i < BL_DEBUG_REGISTERS; i++) {
        bool full = i > 0 && m->out->len - line > 66;
        if (i > 0) g_string_append(m->out, full ? "\n" : "  ");
        if (full) line = m->out->len;
        put_register(m, list[i].name, list[i].bits, list[i].value);
    }
    g_string_append_c(m->out, '\n');
    return true;
}

/* A letter of the flags that is no register's name. */
static bool set_flag(monitor *m, const char *name, int64_t value)
{
    for (size_t i = 0; i < bl_sheet_registers(m->b->sheet) && name[1] == '\0'; i++) {
        const bl_sheet_register *r = bl_sheet_register_at(m->b->sheet, i);
        for (size_t k = 0; k < r->flags.length; k++) {
            uint32_t now, bit = (uint32_t)1 << (r->flags.length - 1 - k);
            if (r->flags.at[k] == '-' ||
                g_ascii_toupper(r->flags.at[k]) != g_ascii_toupper(name[0]))
                continue;
            if (value != 0 && value != 1) return monitor_fail(m, "flag %s is 0 or 1", name);
            bl_status status = bl_debug_register(&m->debug, r->name, &now);
            if (status == BL_OK)
                status =
                    bl_debug_set_register(&m->debug, r->name, value != 0 ? now | bit : now & ~bit);
            return status == BL_OK || monitor_fail_status(m, name, status);
        }
    }
    return monitor_fail(m, "there is no register or flag '%s'", name);
}

/* NAME=VALUE. A register counts before a flag of the same letter. */
static bool set_named(monitor *m, const char *text)
{
    const char *equals = strchr(text, '=');
    int64_t value;
    if (equals == NULL || equals == text)
        return monitor_fail(m, "'%s': like A=5, without blanks", text);
    if (!monitor_value_of(m, equals + 1, &value)) return false;
    char *name = g_strndup(text, (gsize)(equals - text));
    bl_status status =
        value < 0 || value > UINT32_MAX
            ? BL_E_RANGE
            : bl_debug_set_register(&m->debug, (bl_text){name, strlen(name)}, (uint32_t)value);
    bool good = status == BL_OK;
    if (status == BL_E_NOT_FOUND)
        good = set_flag(m, name, value);
    else if (status == BL_E_RANGE)
        good = monitor_fail(m, "%s: the value does not fit", text);
    else if (!good)
        good = monitor_fail_status(m, name, status);
    g_free(name);
    return good;
}

bool monitor_do_registers(monitor *m)
{
    for (size_t i = 1; i < m->count; i++)
        if (!set_named(m, m->token[i].text)) return false;
    return put_registers(m);
}

/* ---- where it stands ---- */

void monitor_put_watched(monitor *m)
{
    for (size_t i = 0; i < MONITOR_WATCHED; i++) {
        int64_t value;
        bl_formula_fault fault;
        const char *text = m->watched[i];
        if (text == NULL) continue;
        g_string_append_printf(m->out, "%zu: %s = ", i + 1, text);
        bl_status status =
            bl_debug_evaluate(&m->debug, (bl_text){text, strlen(text)}, &value, &fault);
        if (status == BL_OK)
            g_string_append_printf(m->out, "$%02llX  %lld\n", (unsigned long long)value,
                                   (long long)value);
        else
            g_string_append_printf(m->out, "? %s\n", fault.why);
    }
}

static void put_source_line(monitor *m, uint32_t pc)
{
    bl_place place;
    bl_text text;
    if (!bl_debug_place(&m->debug, pc, &place)) return;
    bl_text file = {place.file, strlen(place.file)};
    if (monitor_source_line(m, file, place.line, &text))
        g_string_append_printf(m->out, "%s:%u  %.*s\n", place.file, place.line, (int)text.length,
                               text.at);
}

void monitor_show_stop(monitor *m)
{
    uint32_t pc;
    monitor_need_build(m);
    if (!put_registers(m)) return;
    if (bl_debug_register(&m->debug, (bl_text){"PC", 2}, &pc) != BL_OK) return;
    monitor_put_code(m, pc);
    put_source_line(m, pc);
    monitor_put_watched(m);
    m->next = pc;
    m->next_is_code = true;
}

/* What came of a run. A stop that was not asked for is told in words. */
static bool told(monitor *m, bl_status status, const bl_debug_result *r)
{
    bool good = true;
    if (status == BL_E_DIFFERS)
        return monitor_fail(m, "a breakpoint would have to be where none can be: ROM keeps none");
    if (status == BL_E_NOT_FOUND)
        return monitor_fail(m, "there is no instruction where the CPU stands, or no caller");
    if (status != BL_OK) return monitor_fail_status(m, "the CPU", status);
    switch (r->why) {
    case BL_DEBUG_BREAKPOINT:
        g_string_append_printf(m->out, "breakpoint %zu\n", r->index + 1);
        break;
    case BL_DEBUG_WATCHPOINT: monitor_put_access(m); break;
    case BL_DEBUG_ENDED: g_string_append(m->out, "stopped\n"); break;
    case BL_DEBUG_WAITS: g_string_append(m->out, "the CPU waits for an interrupt\n"); break;
    case BL_DEBUG_FAULT:
        good = monitor_fail(m, "the condition of breakpoint %zu cannot be worked out: %s",
                            r->index + 1, m->debug.breakpoints[r->index].condition);
        break;
    case BL_DEBUG_DONE: break;
    }
    monitor_show_stop(m);
    return good;
}

/* ---- runs ---- */

bool monitor_stands_at(monitor *m, uint32_t *pc)
{
    return bl_debug_register(&m->debug, (bl_text){"PC", 2}, pc) == BL_OK;
}

static bool has_cpu(monitor *m)
{
    uint32_t pc;
    bl_status status = bl_debug_register(&m->debug, (bl_text){"PC", 2}, &pc);
    /* While no program waits there are no registers, but one can be started. */
    if (m->debug.target.go != NULL && m->debug.target.wait != NULL && status != BL_E_UNSUPPORTED)
        return true;
    return monitor_fail(m, "this machine's monitor tells nothing about its CPU; 'send FILE run' "
                           "starts a program");
}

/* A piece of the build by its name is its entry. */
static bool piece_entry(const monitor *m, const char *name, uint32_t *entry)
{
    for (size_t i = 0; m->built != NULL && i < m->built->piece_count; i++)
        if (strcmp(m->built->pieces[i].stem, name) == 0)
            return bl_image_entry(bl_program_image(m->built->pieces[i].program), entry);
    return false;
}

/* A limit of the machine's time, in slices of the debugger's, on top of the user's. */
typedef struct limit {
    monitor *m;
    uint64_t slices;
} limit;

static bool within_limit(void *context)
{
    limit *l = context;
    return l->slices-- > 0 && monitor_may_go_on(l->m);
}

/* for TIME, behind an operand or without one. Nothing of it: for ever. */
static bool take_limit(monitor *m, limit *l)
{
    uint64_t ns;
    size_t at = monitor_is(m, 1, "for") ? 1 : 2;
    l->m = m;
    l->slices = UINT64_MAX;
    if (!monitor_is(m, at, "for")) return monitor_at_most(m, 1);
    const char *text = monitor_has(m, at + 1) ? m->token[at + 1].text : "";
    if (m->count != at + 2 ||
        bl_quantity_parse((bl_text){text, strlen(text)}, BL_NANOSECONDS, NULL, &ns) != BL_OK)
        return monitor_fail(m, "for how long? like: run for 2s, run light for 20ms");
    l->slices = ns / 1000 / BL_DEBUG_SLICE_US;
    return true;
}

bool monitor_do_run(monitor *m)
{
    uint32_t entry;
    bl_debug_result r;
    limit l;
    if (!take_limit(m, &l) || !has_cpu(m)) return false;
    const bl_debug_watch watch = {&l, within_limit};
    bool from = monitor_has(m, 1) && !monitor_is(m, 1, "for");
    monitor_need_build(m);
    if (from && !piece_entry(m, m->token[1].text, &entry) && !monitor_take_address(m, 1, &entry))
        return false;
    bl_status status = bl_debug_go(&m->debug, from ? &entry : NULL, &watch, &r);
    return told(m, status, &r);
}

bool monitor_do_call(monitor *m)
{
    uint32_t routine;
    bl_debug_result r;
    if (!monitor_at_most(m, 1) || !has_cpu(m) || !monitor_take_address(m, 1, &routine))
        return false;
    return told(m, bl_debug_call(&m->debug, routine, &m->watch, &r), &r);
}

bool monitor_do_until(monitor *m)
{
    uint32_t place;
    bl_debug_result r;
    if (!monitor_at_most(m, 1) || !has_cpu(m) || !monitor_take_address(m, 1, &place)) return false;
    return told(m, bl_debug_until(&m->debug, place, &m->watch, &r), &r);
}

bool monitor_do_out(monitor *m)
{
    bl_debug_result r;
    if (!monitor_at_most(m, 0) || !has_cpu(m)) return false;
    monitor_need_build(m);
    return told(m, bl_debug_out(&m->debug, &m->watch, &r), &r);
}

typedef enum pace { PACE_STEP, PACE_OVER, PACE_LINE, PACE_INTO } pace;

/* So many of them, unless something else stops it. */
static bool steps(monitor *m, size_t operand, pace how)
{
    int64_t count = 1;
    bl_debug_result r = {.why = BL_DEBUG_DONE};
    bl_status status = BL_OK;
    if (!monitor_at_most(m, operand) || !has_cpu(m)) return false;
    if (monitor_has(m, operand) && !monitor_take_count(m, operand, MOST_STEPS, &count))
        return false;
    monitor_need_build(m);
    for (; count > 0 && status == BL_OK && r.why == BL_DEBUG_DONE; count--) {
        if (how == PACE_STEP)
            status = bl_debug_step(&m->debug, &m->watch, &r);
        else if (how == PACE_OVER)
            status = bl_debug_over(&m->debug, &m->watch, &r);
        else
            status = bl_debug_line(&m->debug, how == PACE_INTO, &m->watch, &r);
    }
    return told(m, status, &r);
}

bool monitor_do_step(monitor *m)
{
    return steps(m, 1, PACE_STEP);
}

bool monitor_do_over(monitor *m)
{
    return steps(m, 1, PACE_OVER);
}

bool monitor_do_line(monitor *m)
{
    bool into = monitor_is(m, 1, "into");
    return steps(m, into ? 2 : 1, into ? PACE_INTO : PACE_LINE);
}

bool monitor_do_halt(monitor *m)
{
    const bl_target *t = &m->debug.target;
    if (!monitor_at_most(m, 0)) return false;
    bl_status status = t->stop != NULL ? t->stop(t->context) : BL_E_UNSUPPORTED;
    if (status != BL_OK) return monitor_fail_status(m, "the CPU", status);
    g_string_append(m->out, "stopped\n");
    if (t->registers != NULL) monitor_show_stop(m);
    return true;
}

bool monitor_do_reset(monitor *m)
{
    const bl_target *t = &m->debug.target;
    if (!monitor_at_most(m, 0)) return false;
    bl_status status = t->reset != NULL ? t->reset(t->context) : BL_E_UNSUPPORTED;
    if (status != BL_OK) return monitor_fail_status(m, "reset", status);
    g_string_append(m->out, "reset\n");
    return true;
}

/* ---- callers ---- */

/* Each with its evidence: how far up the stack, what stands in front, whom it calls. */
/* What is not memory is no code, whatever it reads as. */
static bool is_memory(const bench *b, uint32_t address)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (b->areas[i].kind != BL_AREA_IO && bl_area_holds(&b->areas[i], (bl_range){address, 1}))
            return true;
    return b->area_count == 0;
}

bool monitor_do_callers(monitor *m)
{
    int64_t depth = 64;
    bl_debug_caller list[BL_DEBUG_CALLERS];
    size_t count = 0;
    if (!monitor_at_most(m, 1)) return false;
    if (monitor_has(m, 1) && !monitor_take_count(m, 1, 1024, &depth)) return false;
    monitor_need_build(m);
    bl_status status = bl_debug_callers(&m->debug, (uint32_t)depth, list, BL_DEBUG_CALLERS, &count);
    if (status != BL_OK) return monitor_fail_status(m, "the stack", status);
    size_t kept = 0;
    for (size_t i = 0; i < count; i++)
        if (is_memory(m->b, list[i].call)) list[kept++] = list[i];
    count = kept;
    if (count == 0) return monitor_fail(m, "no value on the stack looks like a return address");
    g_string_append(m->out, "guesses, from what is on the stack:\n");
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(m->out, "%s  %3u up  called at ", list[i].fits ? "fits" : "    ",
                               list[i].stack);
        monitor_put_address(m, list[i].call);
        monitor_put_name(m, " ", list[i].call);
        if (list[i].callee_known) {
            g_string_append(m->out, ", calls ");
            monitor_put_address(m, list[i].callee);
            monitor_put_name(m, " ", list[i].callee);
        }
        g_string_append_c(m->out, '\n');
    }
    return true;
}
