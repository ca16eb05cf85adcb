/* monitor_past.c - what simulated boards can tell besides: watchpoints, cycles, the last
 * instructions and what they did, and the way back. */
#include "monitor_parts.h"

#include <string.h>

/* ---- watchpoints ---- */

static void put_watchpoint(monitor *m, size_t i)
{
    const monitor_watchpoint *w = &m->watchpoints[i];
    g_string_append_printf(m->out, "watchpoint %zu: ", i + 1);
    monitor_put_address(m, w->range.first);
    if (w->range.count > 1) {
        g_string_append(m->out, "..");
        monitor_put_address(m, (uint32_t)bl_range_last(w->range));
    }
    monitor_put_name(m, " ", w->range.first);
    g_string_append(m->out, w->reads ? ", reads and writes\n" : ", writes\n");
}

static bool list_watchpoints(monitor *m)
{
    size_t count = 0;
    for (size_t i = 0; i < MONITOR_WATCHPOINTS; i++) {
        if (m->watchpoints[i].range.count == 0) continue;
        put_watchpoint(m, i);
        count++;
    }
    if (count == 0) g_string_append(m->out, "there are no watchpoints\n");
    return true;
}

static bool drop_watchpoint(monitor *m)
{
    int64_t number;
    const bl_target *t = &m->debug.target;
    if (!monitor_at_most(m, 2) || !monitor_take_count(m, 2, MONITOR_WATCHPOINTS, &number))
        return false;
    monitor_watchpoint *w = &m->watchpoints[number - 1];
    if (w->range.count == 0)
        return monitor_fail(m, "there is no watchpoint %lld", (long long)number);
    bl_status status = t->set_watchpoint(t->context, w->range, false, false);
    if (status != BL_OK) return monitor_fail_status(m, "the watchpoint", status);
    w->range.count = 0;
    return list_watchpoints(m);
}

static bool new_watchpoint(monitor *m)
{
    bl_range range;
    size_t i = 0;
    const bl_target *t = &m->debug.target;
    bool reads = monitor_is(m, 2, "reads");
    if (!monitor_at_most(m, reads ? 2 : 1) || !monitor_take_range(m, 1, &range)) return false;
    while (i < MONITOR_WATCHPOINTS && m->watchpoints[i].range.count != 0 &&
           (m->watchpoints[i].range.first != range.first ||
            m->watchpoints[i].range.count != range.count))
        i++;
    bl_status status =
        i == MONITOR_WATCHPOINTS ? BL_E_MEMORY : t->set_watchpoint(t->context, range, reads, true);
    if (status == BL_E_MEMORY) return monitor_fail(m, "there are %zu watchpoints already", i);
    if (status != BL_OK) return monitor_fail_status(m, "the watchpoint", status);
    m->watchpoints[i] = (monitor_watchpoint){range, reads};
    put_watchpoint(m, i);
    return true;
}

bool monitor_do_watchpoint(monitor *m)
{
    if (m->debug.target.set_watchpoint == NULL)
        return monitor_fail_status(m, "watchpoints", BL_E_UNSUPPORTED);
    monitor_need_build(m);
    if (!monitor_has(m, 1)) return list_watchpoints(m);
    return monitor_is(m, 1, "drop") ? drop_watchpoint(m) : new_watchpoint(m);
}

void monitor_put_access(monitor *m)
{
    bl_access a;
    const bl_target *t = &m->debug.target;
    if (t->last_access == NULL || t->last_access(t->context, &a) != BL_OK) return;
    g_string_append(m->out, a.write ? "watchpoint: " : "watchpoint: read ");
    monitor_put_address(m, a.address);
    monitor_put_name(m, " ", a.address);
    g_string_append(m->out, a.write ? " = " : ": ");
    monitor_put_byte(m->out, m->b, a.value);
    if (a.write && !monitor_is_device(m, a.address)) {
        g_string_append(m->out, ", was ");
        monitor_put_byte(m->out, m->b, a.before);
    }
    g_string_append_c(m->out, '\n');
}

/* ---- the last instructions ---- */

/* The instruction is shown as it is in memory now. */
static void put_past_step(void *context, const bl_past_step *s)
{
    monitor *m = context;
    bl_debug_instruction in;
    char text[200] = "?";
    if (bl_debug_decode(&m->debug, s->address, &in) == BL_OK)
        bl_debug_text(&m->debug, &in, text, sizeof text);
    monitor_put_address(m, s->address);
    g_string_append_printf(m->out, "  %-28s", text);
    for (size_t i = 0; i < s->register_count; i++) {
        char *name = g_ascii_strup(s->changed[i].name, -1);
        g_string_append_printf(m->out, " %s=%0*X", name, (int)(s->changed[i].bits + 3) / 4,
                               s->changed[i].value);
        g_free(name);
    }
    for (size_t i = 0; i < s->write_count && i < BL_PAST_ACCESSES; i++) {
        g_string_append(m->out, "  ");
        monitor_put_address(m, s->writes[i].address);
        g_string_append_c(m->out, '=');
        monitor_put_byte(m->out, m->b, s->writes[i].value);
    }
    g_string_append_c(m->out, '\n');
}

/* Registers with what they became, and what was written, behind each instruction. */
bool monitor_do_history(monitor *m)
{
    int64_t count = 16;
    const bl_target *t = &m->debug.target;
    if (!monitor_at_most(m, 1)) return false;
    if (monitor_has(m, 1) && !monitor_take_count(m, 1, 100000, &count)) return false;
    if (t->history == NULL) return monitor_fail_status(m, "the past", BL_E_UNSUPPORTED);
    monitor_need_build(m);
    size_t before = m->out->len;
    bl_status status = t->history(t->context, (uint32_t)count, m, put_past_step);
    if (status != BL_OK) return monitor_fail_status(m, "the past", status);
    if (m->out->len == before) g_string_append(m->out, "nothing was executed since\n");
    return true;
}

/* ---- back ---- */

static bool went_back(monitor *m, bl_back what, uint32_t number)
{
    const bl_target *t = &m->debug.target;
    bl_status status = t->back(t->context, what, number);
    if (status == BL_E_NOT_FOUND)
        return monitor_fail(m, "that is not in the past that is remembered; it stands where it "
                               "stood");
    if (status != BL_OK) return monitor_fail_status(m, "the past", status);
    monitor_show_stop(m);
    return true;
}

/* [COUNT] | to PLACE | write PLACE */
bool monitor_do_back(monitor *m)
{
    int64_t count = 1;
    uint32_t address;
    if (m->debug.target.back == NULL) return monitor_fail_status(m, "the past", BL_E_UNSUPPORTED);
    bool visit = monitor_is(m, 1, "to"), write = monitor_is(m, 1, "write");
    if (visit || write)
        return monitor_at_most(m, 2) && monitor_take_address(m, 2, &address) &&
               went_back(m, visit ? BL_BACK_VISIT : BL_BACK_WRITE, address);
    if (!monitor_at_most(m, 1)) return false;
    if (monitor_has(m, 1) && !monitor_take_count(m, 1, UINT32_MAX, &count)) return false;
    return went_back(m, BL_BACK_STEPS, (uint32_t)count);
}

/* ---- cycles ---- */

/* Of the machine, and their time. */
static void put_cycles_between(monitor *m, uint64_t cycles)
{
    g_string_append_printf(m->out, "%llu cycles", (unsigned long long)cycles);
    if (m->b->clock > 0)
        g_string_append_printf(m->out, ", %.3f ms", (double)cycles * 1000 / m->b->clock);
    g_string_append_c(m->out, '\n');
}

/* From the next time that the CPU is at the first place to when it is at the second. */
bool monitor_do_cycles(monitor *m)
{
    uint32_t place[2];
    uint64_t at[2];
    bl_debug_result r;
    const bl_target *t = &m->debug.target;
    if (t->cycles == NULL) return monitor_fail_status(m, "cycles", BL_E_UNSUPPORTED);
    if (!monitor_at_most(m, 2) || !monitor_take_address(m, 1, &place[0]) ||
        !monitor_take_address(m, 2, &place[1]))
        return false;
    for (size_t i = 0; i < 2; i++) {
        bl_status status = bl_debug_until(&m->debug, place[i], &m->watch, &r);
        if (status == BL_OK) status = t->cycles(t->context, &at[i]);
        if (status != BL_OK) return monitor_fail_status(m, "the CPU", status);
        if (r.why == BL_DEBUG_DONE) continue;
        monitor_show_stop(m);
        return monitor_fail(m, "it did not get to %s", m->token[i + 1].text);
    }
    put_cycles_between(m, at[1] - at[0]);
    return true;
}
