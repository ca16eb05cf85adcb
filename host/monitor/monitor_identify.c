/* monitor_identify.c - who are you: which of all builds that the logbook knows are in memory. Names
 * of an older one come along. */
#include <string.h>

#include "bootlace/crc.h"
#include "logbook.h"
#include "monitor_parts.h"

/* ---- names of older builds ---- */

struct monitor_older {
    char *name;
    uint32_t address;
};

void monitor_forget_older(monitor *m)
{
    for (guint i = 0; i < m->older->len; i++)
        g_free(g_array_index(m->older, monitor_older, i).name);
    g_array_set_size(m->older, 0);
}

GArray *monitor_new_older(void)
{
    return g_array_new(FALSE, FALSE, sizeof(monitor_older));
}

const char *monitor_older_name(const monitor *m, uint32_t address)
{
    for (guint i = 0; i < m->older->len; i++)
        if (g_array_index(m->older, monitor_older, i).address == address)
            return g_array_index(m->older, monitor_older, i).name;
    return NULL;
}

bool monitor_older_address(const monitor *m, const char *name, uint32_t *address)
{
    for (guint i = 0; i < m->older->len; i++) {
        const monitor_older *o = &g_array_index(m->older, monitor_older, i);
        *address = o->address;
        if (strcmp(o->name, name) == 0) return true;
    }
    return false;
}

/* "label NAME $ADDRESS LINE FILE" of a symbol file. */
static void take_older_names(monitor *m, const char *symbols)
{
    char **lines = g_strsplit(symbols, "\n", 0);
    for (char **l = lines; *l != NULL; l++) {
        char **word = g_strsplit(*l, " ", 4);
        if (g_strv_length(word) >= 3 && strcmp(word[0], "label") == 0 && word[2][0] == '$') {
            monitor_older o = {g_strdup(word[1]),
                               (uint32_t)g_ascii_strtoull(word[2] + 1, NULL, 16)};
            g_array_append_val(m->older, o);
        }
        g_strfreev(word);
    }
    g_strfreev(lines);
}

/* ---- what is in memory ---- */

typedef struct asking {
    monitor *m;
    GHashTable *sums;  /* of ranges that were asked for: "FIRST+COUNT" and CRC-32 */
    GHashTable *found; /* pieces that are known by now; 2: another version of it is not */
    bl_status status;
} asking;

/* The machine's own sum where it makes one; otherwise its bytes come over. */
static bl_status sum_of_range(asking *a, bl_range range, uint32_t *crc)
{
    const bl_target *t = &a->m->debug.target;
    char key[40];
    g_snprintf(key, sizeof key, "%x+%llx", range.first, (unsigned long long)range.count);
    gpointer known;
    if (g_hash_table_lookup_extended(a->sums, key, NULL, &known)) {
        *crc = GPOINTER_TO_UINT(known);
        return BL_OK;
    }
    bl_status status = BL_E_UNSUPPORTED;
    if (t->sum != NULL && range.count > 64) status = t->sum(t->context, range, crc);
    if (status == BL_E_UNSUPPORTED) {
        uint8_t *bytes = g_malloc((size_t)range.count);
        status = monitor_read(a->m, range.first, bytes, (size_t)range.count);
        if (status == BL_OK) *crc = bl_crc32(0, bytes, (size_t)range.count);
        g_free(bytes);
    }
    if (status == BL_OK) g_hash_table_insert(a->sums, g_strdup(key), GUINT_TO_POINTER(*crc));
    return status;
}

/* Are all bytes of an image there? */
static bool image_is_there(asking *a, const bl_image *image)
{
    bool there = bl_image_pieces(image) > 0;
    for (size_t i = 0; i < bl_image_pieces(image) && there && a->status == BL_OK; i++) {
        bl_piece p = bl_image_piece(image, i);
        uint32_t crc;
        if ((uint64_t)p.first + p.count > a->m->space) return false;
        a->status = sum_of_range(a, (bl_range){p.first, p.count}, &crc);
        there = a->status == BL_OK && crc == bl_crc32(0, p.bytes, p.count);
    }
    return there && a->status == BL_OK;
}

/* Is it byte by byte a piece of the build of now? */
static bool is_of_now(const monitor *m, const logbook_built_piece *piece)
{
    uint64_t same = 0;
    for (size_t i = 0; i < bl_image_pieces(piece->image); i++) {
        bl_piece p = bl_image_piece(piece->image, i);
        for (size_t k = 0; k < p.count; k++) {
            uint8_t byte;
            same += monitor_built_byte(m, p.first + (uint32_t)k, &byte) && byte == p.bytes[k];
        }
    }
    return same == bl_image_size(piece->image);
}

static bool look_at_piece(void *context, const logbook_built_piece *piece)
{
    asking *a = context;
    monitor *m = a->m;
    if (!monitor_may_go_on(m)) return false;
    if (GPOINTER_TO_UINT(g_hash_table_lookup(a->found, piece->name)) == 1) return true;
    bool there = image_is_there(a, piece->image);
    g_hash_table_insert(a->found, g_strdup(piece->name), GUINT_TO_POINTER(there ? 1 : 2));
    if (!there) return a->status == BL_OK;
    bool now = is_of_now(m, piece);
    char *when = logbook_time_text(piece->time);
    g_string_append_printf(m->out, "%-16s %s %s%s%s\n", piece->name,
                           now ? "as the sources are now, built" : "of an older build,", when,
                           *piece->version != '\0' ? ", version " : "", piece->version);
    g_free(when);
    if (!now) take_older_names(m, piece->symbols);
    if (!now) g_hash_table_add(m->outdated, g_strdup(piece->name));
    return true;
}

/* Pieces of which no version is there. */
static void tell_unidentified(gpointer name, gpointer found, gpointer context)
{
    monitor *m = context;
    if (GPOINTER_TO_UINT(found) == 2)
        g_string_append_printf(m->out, "%-16s in no version that the logbook knows\n",
                               (const char *)name);
}

bool monitor_do_identify(monitor *m)
{
    static const bl_sink silent = {NULL, NULL};
    if (!monitor_at_most(m, 0)) return false;
    monitor_need_build(m);
    monitor_forget_older(m);
    g_hash_table_remove_all(m->outdated);
    monitor_gather_names(m);
    asking a = {.m = m,
                .sums = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL),
                .found = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL)};
    logbook *book = logbook_open(m->b, &silent);
    logbook_pieces(book, m->b, look_at_piece, &a);
    bool read = logbook_was_read(book), any = g_hash_table_size(a.found) > 0;
    g_hash_table_foreach(a.found, tell_unidentified, m);
    logbook_close(book);
    monitor_gather_names(m);
    g_hash_table_destroy(a.sums);
    g_hash_table_destroy(a.found);
    if (a.status != BL_OK) return monitor_fail_status(m, "memory", a.status);
    if (!read) return monitor_fail(m, "the logbook cannot be read");
    if (!any)
        return monitor_fail(m, "the logbook knows no build of this bench file; 'bootlace build' "
                               "and 'bootlace send' tell it");
    if (m->older->len > 0)
        g_string_append(m->out, "names of what is older are known now; 'compare RANGE build' tells "
                                "what differs from the sources\n");
    return true;
}
