/* monitor_break.c - breakpoints, and values that are shown after each stop. */
#include "monitor_parts.h"

#include <string.h>

static void put_breakpoint(monitor *m, size_t i)
{
    const bl_breakpoint *b = &m->debug.breakpoints[i];
    bl_place place;
    g_string_append_printf(m->out, "breakpoint %zu: ", i + 1);
    monitor_put_address(m, b->address);
    monitor_put_name(m, " ", b->address);
    if (bl_debug_place(&m->debug, b->address, &place))
        g_string_append_printf(m->out, ", %s:%u", place.file, place.line);
    if (b->count > 1) g_string_append_printf(m->out, ", every %u", b->count);
    if (b->condition[0] != '\0') g_string_append_printf(m->out, ", when %s", b->condition);
    if (b->reached > 0) g_string_append_printf(m->out, ", reached %u times", b->reached);
    g_string_append(m->out, b->off ? ", off\n" : "\n");
}

static bool list_breakpoints(monitor *m)
{
    size_t count = 0;
    for (size_t i = 0; i < BL_DEBUG_BREAKPOINTS; i++) {
        if (!m->debug.breakpoints[i].used) continue;
        put_breakpoint(m, i);
        count++;
    }
    if (count == 0) g_string_append(m->out, "there are no breakpoints\n");
    return true;
}

/* off N, on N, drop N */
static bool switch_breakpoint(monitor *m)
{
    int64_t number;
    if (!monitor_at_most(m, 2)) return false;
    if (!monitor_take_count(m, 2, BL_DEBUG_BREAKPOINTS, &number)) return false;
    size_t i = (size_t)number - 1;
    bl_status status = monitor_is(m, 1, "drop")
                           ? bl_debug_unbreak(&m->debug, i)
                           : bl_debug_break_off(&m->debug, i, monitor_is(m, 1, "off"));
    if (status == BL_E_NOT_FOUND)
        return monitor_fail(m, "there is no breakpoint %lld", (long long)number);
    if (status != BL_OK) return monitor_fail_status(m, "the breakpoint", status);
    return list_breakpoints(m);
}

/* [every N] [when FORMULA], the formula being the rest of the line. */
static bool take_conditions(monitor *m, int64_t *count, const char **condition)
{
    size_t i = 2;
    if (monitor_is(m, i, "every")) {
        if (!monitor_take_count(m, i + 1, UINT32_MAX, count)) return false;
        i += 2;
    }
    if (monitor_is(m, i, "when") && monitor_has(m, i + 1))
        *condition = monitor_rest(m, i + 1);
    else if (monitor_has(m, i))
        return monitor_fail(m, "'%s'? like: breakpoint PLACE every 3 when X > 2", m->token[i].text);
    return true;
}

/* Sets one, or tells why that cannot be. */
static bool break_at(monitor *m, uint32_t address, int64_t count, const char *condition)
{
    size_t index;
    bl_formula_fault fault;
    bl_status status = bl_debug_break(&m->debug, address, (uint32_t)count,
                                      (bl_text){condition, strlen(condition)}, &index, &fault);
    if (status == BL_E_SYNTAX) return monitor_fail_formula(m, condition, &fault);
    if (status == BL_E_MEMORY) return monitor_fail(m, "there are 32 breakpoints already");
    if (status == BL_E_DIFFERS)
        return monitor_fail(m, "a breakpoint cannot be there: it is an instruction in RAM, and "
                               "this memory does not keep one");
    if (status != BL_OK) return monitor_fail_status(m, "the breakpoint", status);
    put_breakpoint(m, index);
    return true;
}

/* A line of a source may be at several places: in a chip, and sent to RAM. Each gets one. */
static bool break_at_line(monitor *m, bl_text file, uint32_t line, int64_t count,
                          const char *condition)
{
    uint32_t address, before[BL_DEBUG_BREAKPOINTS];
    size_t count_before = 0;
    for (size_t i = 0; i < m->debug.program_count; i++) {
        if (bl_program_line_places(m->programs[i], file, line, &address, 1) == 0) continue;
        bool again = false;
        for (size_t k = 0; k < count_before; k++)
            again |= before[k] == address;
        if (again) continue; /* sent, and built: the same program */
        if (!break_at(m, address, count, condition)) return false;
        before[count_before++] = address;
    }
    return count_before > 0 || monitor_fail(m, "no instruction came from '%s'", m->token[1].text);
}

size_t monitor_breakpoint_at(const monitor *m, uint32_t address)
{
    size_t i = bl_debug_breakpoint_at(&m->debug, address);
    return i < BL_DEBUG_BREAKPOINTS ? i + 1 : 0;
}

bool monitor_do_breakpoint(monitor *m)
{
    uint32_t address, line;
    int64_t count = 0;
    const char *condition = "";
    bl_text file;
    monitor_need_build(m);
    if (!monitor_has(m, 1)) return list_breakpoints(m);
    if (monitor_is(m, 1, "off") || monitor_is(m, 1, "on") || monitor_is(m, 1, "drop"))
        return switch_breakpoint(m);
    if (!take_conditions(m, &count, &condition)) return false;
    if (monitor_split_line(m->token[1].text, &file, &line))
        return break_at_line(m, file, line, count, condition);
    return monitor_take_address(m, 1, &address) && break_at(m, address, count, condition);
}

/* ---- watched values ---- */

static bool watch_more(monitor *m, const char *text)
{
    int64_t value;
    bl_formula_fault fault;
    size_t i = 0;
    while (i < MONITOR_WATCHED && m->watched[i] != NULL)
        i++;
    if (i == MONITOR_WATCHED)
        return monitor_fail(m, "%d values are watched already", MONITOR_WATCHED);
    monitor_need_build(m);
    bl_status status = bl_debug_evaluate(&m->debug, (bl_text){text, strlen(text)}, &value, &fault);
    if (status == BL_E_SYNTAX || status == BL_E_NOT_FOUND)
        return monitor_fail_formula(m, text, &fault);
    m->watched[i] = g_strdup(text);
    return true;
}

bool monitor_do_watch(monitor *m)
{
    if (monitor_is(m, 1, "drop")) {
        int64_t number;
        if (!monitor_take_count(m, 2, MONITOR_WATCHED, &number)) return false;
        if (m->watched[number - 1] == NULL)
            return monitor_fail(m, "no value %lld is watched", (long long)number);
        g_free(m->watched[number - 1]);
        m->watched[number - 1] = NULL;
    } else if (monitor_has(m, 1) && !watch_more(m, monitor_rest(m, 1)))
        return false;
    size_t before = m->out->len;
    monitor_put_watched(m);
    if (m->out->len == before) g_string_append(m->out, "nothing is watched\n");
    return true;
}
