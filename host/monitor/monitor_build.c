/* monitor_build.c - what of the build is in memory, and whether there is memory at all. */
#include <string.h>

#include "bootlace/ramtest.h"
#include "monitor_parts.h"

/* ---- pieces ---- */

/* How many bytes of an image memory has; *total of them. False: memory could not be read. */
static bool count_same(monitor *m, const bl_image *image, uint64_t *same, uint64_t *total)
{
    uint8_t found[128];
    *same = *total = 0;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        for (size_t at = 0, n; at < p.count; at += n) {
            n = MIN(sizeof found, p.count - at);
            bl_status status = monitor_read(m, p.first + (uint32_t)at, found, n);
            if (status != BL_OK) return monitor_fail_status(m, "memory", status);
            if (!monitor_may_go_on(m)) return monitor_fail(m, "stopped");
            for (size_t k = 0; k < n; k++)
                *same += found[k] == p.bytes[at + k];
            *total += n;
        }
    }
    return true;
}

static bool put_piece_found(monitor *m, const char *name, bl_program *program)
{
    uint64_t same, total;
    const bl_image *image = bl_program_image(program);
    if (!count_same(m, image, &same, &total)) return false;
    g_string_append_printf(m->out, "%-16s ", name);
    if (same == total)
        g_string_append_printf(m->out, "all %llu bytes are in memory\n", (unsigned long long)total);
    else if (same * 2 > total)
        g_string_append_printf(m->out, "another version: %llu of %llu bytes differ\n",
                               (unsigned long long)(total - same), (unsigned long long)total);
    else
        g_string_append(m->out, "is not in memory\n");
    return true;
}

/* Is most of how an image begins in memory? Where it cannot be read, it may be. */
static bool begins_there(monitor *m, const bl_image *image)
{
    uint8_t found[64];
    if (bl_image_pieces(image) == 0) return true;
    bl_piece p = bl_image_piece(image, 0);
    size_t n = MIN(sizeof found, p.count), same = 0;
    if (m->debug.target.read(m->debug.target.context, p.first, found, n) != BL_OK) return true;
    for (size_t k = 0; k < n; k++)
        same += found[k] == p.bytes[k];
    return same * 2 > n;
}

/* Only where reading disturbs nobody: on the simulated board, which can tell its cycles. */
void monitor_find_absent(monitor *m)
{
    g_hash_table_remove_all(m->absent);
    if (m->debug.target.cycles == NULL || m->debug.target.read == NULL) return;
    for (size_t i = 0; m->built != NULL && i < m->built->piece_count; i++) {
        const project_piece *piece = &m->built->pieces[i];
        if (!piece->piece->for_chips && !begins_there(m, bl_program_image(piece->program)))
            g_hash_table_add(m->absent, g_strdup(piece->stem));
    }
}

bool monitor_do_pieces(monitor *m)
{
    if (!monitor_at_most(m, 0)) return false;
    monitor_need_build(m);
    if (m->sent != NULL && !put_piece_found(m, "sent", m->sent)) return false;
    for (size_t i = 0; m->built != NULL && i < m->built->piece_count; i++)
        if (!put_piece_found(m, m->built->pieces[i].stem, m->built->pieces[i].program))
            return false;
    return m->built != NULL || monitor_fail(m, "there is no build");
}

/* ---- RAM ---- */

static bool ram_go_on(void *context, uint64_t done, uint64_t total)
{
    (void)done, (void)total;
    return monitor_may_go_on(context);
}

/* "D3", or "D3 and D4". */
static void put_lines(GString *s, uint8_t mask)
{
    bool any = false;
    for (unsigned i = 0; i < 8; i++) {
        if ((mask >> i & 1) == 0) continue;
        g_string_append_printf(s, "%sD%u", any ? " and " : "", i);
        any = true;
    }
}

/* What it is, and which wire to look at. */
static bool tell_ram_fault(monitor *m, const bl_ram_result *r)
{
    GString *s = g_string_new(NULL);
    switch (r->fault) {
    case BL_RAM_GOOD: break;
    case BL_RAM_NONE:
        g_string_append(s, "nothing is kept: no RAM there, or its select or write line is open");
        break;
    case BL_RAM_STUCK_LOW:
    case BL_RAM_STUCK_HIGH:
        g_string_append(s, "data line ");
        put_lines(s, r->mask);
        g_string_append(s, r->fault == BL_RAM_STUCK_LOW ? " is always 0" : " is always 1");
        break;
    case BL_RAM_JOINED:
        g_string_append(s, "data lines ");
        put_lines(s, r->mask);
        g_string_append(s, " follow one another: joined");
        break;
    case BL_RAM_ADDRESS_LINE:
        g_string_append_printf(s, "address line A%u makes no difference: open, or stuck", r->line);
        break;
    case BL_RAM_CELL:
        g_string_append_printf(s, "a cell does not keep $%02X: $%02X is there", r->expected,
                               r->found);
        break;
    }
    monitor_address_buffer address;
    monitor_fail(m, "%s: %s", monitor_address_text(m, address, r->address), s->str);
    g_string_free(s, TRUE);
    return false;
}

/* Does each cell keep a byte, and then its inverse, for so long? A fault is that of a cell. */
static bl_status test_retention(monitor *m, bl_range range, uint64_t ns, bl_ram_result *r)
{
    const bl_target *t = &m->debug.target;
    size_t count = (size_t)range.count;
    uint8_t *wanted = g_malloc(count), *found = g_malloc(count);
    bl_status status = BL_OK;
    for (unsigned turn = 0; turn < 2 && status == BL_OK && r->fault == BL_RAM_GOOD; turn++) {
        for (size_t i = 0; i < count; i++)
            wanted[i] = (uint8_t)((i * 37 + i / 256) ^ (turn == 0 ? 0 : 0xFF));
        status = t->write(t->context, range.first, wanted, count);
        for (gint64 end = g_get_monotonic_time() + (gint64)(ns / 1000);
             status == BL_OK && g_get_monotonic_time() < end;) {
            if (!monitor_may_go_on(m)) status = BL_E_REFUSED;
            g_usleep(1000);
        }
        if (status == BL_OK) status = t->read(t->context, range.first, found, count);
        for (size_t i = 0; i < count && status == BL_OK && r->fault == BL_RAM_GOOD; i++)
            if (found[i] != wanted[i])
                *r = (bl_ram_result){.fault = BL_RAM_CELL,
                                     .address = range.first + (uint32_t)i,
                                     .expected = wanted[i],
                                     .found = found[i]};
    }
    g_free(wanted);
    g_free(found);
    return status;
}

/* keeps TIME: up to a minute. Nothing of it: 0. */
static bool take_keeping(monitor *m, uint64_t *ns)
{
    const uint64_t longest = 60u * (uint64_t)1000000000u;
    *ns = 0;
    if (!monitor_has(m, 2)) return true;
    const char *text = monitor_has(m, 3) ? m->token[3].text : "";
    if (!monitor_is(m, 2, "keeps") || m->count != 4 ||
        bl_quantity_parse((bl_text){text, strlen(text)}, BL_NANOSECONDS, NULL, ns) != BL_OK ||
        *ns > longest)
        return monitor_fail(m, "how long is it to keep a byte? like: test 0400..07FF keeps 5s; a "
                               "minute at most");
    return true;
}

/* What was there is put back afterwards, as far as there is memory that keeps it. */
bool monitor_do_test(monitor *m)
{
    bl_range range;
    bl_ram_result r;
    uint64_t keeps;
    if (!monitor_take_range(m, 1, &range) || !take_keeping(m, &keeps)) return false;
    size_t count = (size_t)range.count;
    uint8_t *before = g_malloc(count);
    bl_status status = monitor_read(m, range.first, before, count);
    if (status == BL_OK) {
        status = bl_ram_test(&m->debug.target, range, m, ram_go_on, &r);
        if (status == BL_OK && r.fault == BL_RAM_GOOD && keeps > 0)
            status = test_retention(m, range, keeps, &r);
        m->debug.target.write(m->debug.target.context, range.first, before, count);
    }
    g_free(before);
    if (status == BL_E_REFUSED) return monitor_fail(m, "stopped");
    if (status != BL_OK) return monitor_fail_status(m, "memory", status);
    if (r.fault != BL_RAM_GOOD) return tell_ram_fault(m, &r);
    g_string_append_printf(m->out,
                           "%zu bytes of RAM keep what they should: data lines, address "
                           "lines, cells%s\n",
                           count, keeps > 0 ? ", retention" : "");
    return true;
}
