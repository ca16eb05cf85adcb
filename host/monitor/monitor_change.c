/* monitor_change.c - memory that is changed: read back, and taken back when it is not wanted. */
#include "monitor_parts.h"

#include <string.h>

/* What was there before a change. */
typedef struct change {
    uint32_t address;
    size_t count;
    uint8_t *before;
} change;

enum { CHANGES = 200, PART = 128 };

GArray *monitor_new_journal(void)
{
    return g_array_new(FALSE, FALSE, sizeof(change));
}

void monitor_forget_memory(monitor *m)
{
    for (size_t i = 0; i < m->journal->len; i++)
        g_free(g_array_index(m->journal, change, i).before);
    g_array_set_size(m->journal, 0);
}

/* Writes, and looks whether it is there. */
static bl_status write_and_look(monitor *m, uint32_t address, const uint8_t *bytes, size_t count)
{
    const bl_target *t = &m->debug.target;
    uint8_t found[PART];
    if (t->write == NULL) return BL_E_UNSUPPORTED;
    for (size_t at = 0; at < count; at += PART) {
        size_t n = MIN(PART, count - at);
        bl_status status = t->write(t->context, address + (uint32_t)at, bytes + at, n);
        if (status == BL_OK && t->read != NULL)
            status = t->read(t->context, address + (uint32_t)at, found, n);
        if (status != BL_OK) return status;
        if (t->read != NULL && memcmp(found, bytes + at, n) != 0) return BL_E_DIFFERS;
    }
    return BL_OK;
}

/* The oldest change is forgotten when there are many. */
static void remember(monitor *m, change c)
{
    if (m->journal->len == CHANGES) {
        g_free(g_array_index(m->journal, change, 0).before);
        g_array_remove_index(m->journal, 0);
    }
    g_array_append_val(m->journal, c);
}

/* What memory held is read first: without that there would be no way back. */
bl_status monitor_write(monitor *m, uint32_t address, const uint8_t *bytes, size_t count)
{
    change c = {address, count, g_malloc(count + 1)};
    bl_status status = monitor_read(m, address, c.before, count);
    bool known = status == BL_OK;
    if (status == BL_E_UNSUPPORTED) status = BL_OK; /* a monitor that cannot show */
    if (status == BL_OK) status = write_and_look(m, address, bytes, count);
    if (status == BL_OK && known) {
        remember(m, c);
        return BL_OK;
    }
    if (status != BL_OK && known) write_and_look(m, address, c.before, count);
    g_free(c.before);
    return status;
}

static bool told_written(monitor *m, bl_status status, uint32_t address, size_t count)
{
    if (status != BL_OK) {
        char what[40];
        monitor_address_buffer text;
        g_snprintf(what, sizeof what, "memory at %s", monitor_address_text(m, text, address));
        return monitor_fail_status(m, what, status);
    }
    monitor_put_address(m, address);
    monitor_put_name(m, " ", address);
    g_string_append_printf(m->out, ": %zu byte%s%s\n", count, count == 1 ? "" : "s",
                           m->debug.target.read != NULL ? ", read back" : ", not verified");
    return true;
}

bool monitor_do_put(monitor *m)
{
    uint32_t at;
    GByteArray *bytes;
    if (!monitor_take_address(m, 1, &at) || !monitor_take_bytes(m, 2, &bytes)) return false;
    bool good = at + (uint64_t)bytes->len <= m->space ||
                monitor_fail(m, "that is more than there are addresses");
    if (good) good = told_written(m, monitor_write(m, at, bytes->data, bytes->len), at, bytes->len);
    g_byte_array_free(bytes, TRUE);
    return good;
}

bool monitor_do_fill(monitor *m)
{
    bl_range range;
    GByteArray *pattern;
    if (!monitor_take_range(m, 1, &range) || !monitor_take_bytes(m, 2, &pattern)) return false;
    size_t count = (size_t)range.count;
    uint8_t *bytes = g_malloc(count);
    for (size_t i = 0; i < count; i++)
        bytes[i] = pattern->data[i % pattern->len];
    bool good = told_written(m, monitor_write(m, range.first, bytes, count), range.first, count);
    g_byte_array_free(pattern, TRUE);
    g_free(bytes);
    return good;
}

/* All of it is read before any of it is written, so that they may overlap. */
bool monitor_do_copy(monitor *m)
{
    bl_range range;
    uint32_t to;
    if (!monitor_at_most(m, 2) || !monitor_take_range(m, 1, &range) ||
        !monitor_take_address(m, 2, &to))
        return false;
    size_t count = (size_t)range.count;
    if (to + (uint64_t)count > m->space)
        return monitor_fail(m, "the copy would go beyond the machine's addresses");
    uint8_t *bytes = g_malloc(count);
    bl_status status = monitor_read(m, range.first, bytes, count);
    bool good = status == BL_OK || monitor_fail_status(m, "memory", status);
    if (good) good = told_written(m, monitor_write(m, to, bytes, count), to, count);
    g_free(bytes);
    return good;
}

/* The newest first. One that cannot be taken back stays in the journal. */
bool monitor_do_undo(monitor *m)
{
    int64_t count = 1;
    if (!monitor_at_most(m, 1)) return false;
    if (monitor_has(m, 1) && !monitor_take_count(m, 1, CHANGES, &count)) return false;
    if (m->journal->len == 0) return monitor_fail(m, "nothing was changed here");
    for (; count > 0 && m->journal->len > 0; count--) {
        change *c = &g_array_index(m->journal, change, m->journal->len - 1);
        if (!told_written(m, write_and_look(m, c->address, c->before, c->count), c->address,
                          c->count))
            return false;
        g_free(c->before);
        g_array_set_size(m->journal, m->journal->len - 1);
    }
    return true;
}

/* ---- what was changed ---- */

/* Marks each byte that was changed here, and what it should be: what the build has there, or else
 * what it was at first. */
static void gather_changes(const monitor *m, uint8_t *changed, uint8_t *first)
{
    for (size_t i = m->journal->len; i-- > 0;) {
        const change *c = &g_array_index(m->journal, change, i);
        for (size_t k = 0; k < c->count; k++) {
            uint32_t at = c->address + (uint32_t)k;
            changed[at] = 1;
            if (!monitor_built_byte(m, at, &first[at])) first[at] = c->before[k];
        }
    }
}

/* One run of bytes: where, what it was, what it is, whose line that is. */
static void put_change(monitor *m, uint32_t at, uint32_t end, const uint8_t *was, const uint8_t *is)
{
    bl_place place;
    monitor_put_address(m, at);
    monitor_put_name(m, " ", at);
    if (bl_debug_place(&m->debug, at, &place))
        g_string_append_printf(m->out, ", %s:%u", place.file, place.line);
    g_string_append_c(m->out, ':');
    for (uint32_t i = at; i < end; i++) {
        g_string_append_c(m->out, ' ');
        monitor_put_byte(m->out, m->b, was[i]);
    }
    g_string_append(m->out, " ->");
    for (uint32_t i = at; i < end; i++) {
        g_string_append_c(m->out, ' ');
        monitor_put_byte(m->out, m->b, is[i]);
    }
    g_string_append_c(m->out, '\n');
}

/* Bytes in a row that are other than they should be, up to the end of a source line, so that each
 * can be put there. */
static uint32_t end_of_run(const monitor *m, const uint8_t *changed, const uint8_t *was,
                           const uint8_t *is, uint32_t at)
{
    bl_place first, next;
    uint32_t end = at + 1;
    bool known = bl_debug_place(&m->debug, at, &first);
    while (end < m->space && end - at < 16 && changed[end] != 0 && was[end] != is[end]) {
        if (known && (!bl_debug_place(&m->debug, end, &next) || next.line != first.line)) break;
        end++;
    }
    return end;
}

/* Only what was changed here is read: through a slow line all of memory would take minutes. */
static bl_status read_changed(monitor *m, const uint8_t *changed, uint8_t *is)
{
    bl_status status = BL_OK;
    for (uint32_t at = 0; at < m->space && status == BL_OK; at++)
        if (changed[at] != 0) status = monitor_read(m, at, &is[at], 1);
    return status;
}

/* A piece in which something was changed is there as a whole, so that the result can be loaded and
 * burned. Returns whether this is one. */
static bool add_built(const monitor *m, const bl_image *image, uint8_t *changed, uint8_t *is)
{
    bool touched = false;
    uint8_t byte;
    for (uint32_t at = 0; at < m->space && !touched; at++)
        touched = changed[at] == 1 && bl_image_get(image, at, &byte);
    for (uint32_t at = 0; at < m->space && touched; at++) {
        if (changed[at] != 0 || !bl_image_get(image, at, &byte)) continue;
        changed[at] = 2;
        monitor_built_byte(m, at, &is[at]);
    }
    return touched;
}

bl_status monitor_patched(monitor *m, bl_image **image)
{
    uint8_t *changed = g_malloc0(m->space), *is = g_malloc0(m->space);
    monitor_need_build(m);
    gather_changes(m, changed, is);
    bl_status status = read_changed(m, changed, is);
    uint32_t entry = 0;
    bool entered = false;
    for (size_t i = 0; i < m->debug.program_count; i++) {
        const bl_image *built = bl_program_image(m->programs[i]);
        if (add_built(m, built, changed, is) && !entered) entered = bl_image_entry(built, &entry);
    }
    if (status == BL_OK) status = bl_image_open(&host_memory, image);
    if (status == BL_OK && entered) bl_image_set_entry(*image, entry);
    for (uint32_t at = 0, n; at < m->space && status == BL_OK; at += n) {
        for (n = 0; at + n < m->space && changed[at + n] != 0;)
            n++;
        if (n > 0) status = bl_image_put(*image, at, is + at, n, (bl_origin){0, 0});
        if (n == 0) n = 1;
    }
    if (status == BL_OK && bl_image_size(*image) == 0) status = BL_E_NOT_FOUND;
    if (status != BL_OK) {
        bl_image_close(*image);
        *image = NULL;
    }
    g_free(changed);
    g_free(is);
    return status;
}

bool monitor_do_changes(monitor *m)
{
    uint8_t *changed = g_malloc0(m->space), *was = g_malloc0(m->space), *is = g_malloc0(m->space);
    bool any = false, good = monitor_at_most(m, 0);
    monitor_need_build(m);
    gather_changes(m, changed, was);
    bl_status status = good ? read_changed(m, changed, is) : BL_OK;
    if (status != BL_OK) good = monitor_fail_status(m, "memory", status);
    for (uint32_t at = 0; at < m->space && good;) {
        uint32_t end = at + 1;
        if (changed[at] != 0 && was[at] != is[at]) {
            end = end_of_run(m, changed, was, is, at);
            put_change(m, at, end, was, is);
            any = true;
        }
        at = end;
    }
    if (good && !any) g_string_append(m->out, "nothing is other than it was\n");
    g_free(changed);
    g_free(was);
    g_free(is);
    return good;
}
