/* disk_map.c - runs of sectors become cells. */
#include "disk_map.h"

#include <string.h>

static const char *const use_words[] = {"boot", "table", "folder", "file", "free",
                                        "bad",  "lost",  "shared", "spare"};

const char *disk_use_word(bl_disk_use use)
{
    return use_words[use];
}

/* What of several a cell shows. */
static unsigned weight_of(bl_disk_use use)
{
    static const uint8_t weights[] = {4, 5, 6, 3, 1, 7, 8, 9, 0};
    return weights[use];
}

static void free_owner(void *data)
{
    disk_owner *o = data;
    g_free(o->path);
    g_free(o);
}

static uint16_t owner_index(disk_map *m, const char *path, bl_disk_use use, GHashTable *known)
{
    gpointer found;
    if (path == NULL) return DISK_NOBODY;
    if (g_hash_table_lookup_extended(known, path, NULL, &found))
        return (uint16_t)GPOINTER_TO_UINT(found);
    if (m->owners->len == DISK_NOBODY) return DISK_NOBODY;
    disk_owner *o = g_new0(disk_owner, 1);
    o->path = g_strdup(path), o->folder = use == BL_DISK_USE_FOLDER;
    if (!o->folder) o->ordinal = m->files++;
    g_ptr_array_add(m->owners, o);
    g_hash_table_insert(known, o->path, GUINT_TO_POINTER(m->owners->len - 1));
    return (uint16_t)(m->owners->len - 1);
}

typedef struct mapping {
    disk_map *map;
    GHashTable *known;
} mapping;

static bl_status note_run(void *context, uint32_t first, uint32_t count, bl_disk_use use,
                          const char *path)
{
    mapping *k = context;
    disk_map *m = k->map;
    uint16_t owner = owner_index(m, path, use, k->known);
    m->sectors[use] += count;
    if (owner != DISK_NOBODY) {
        disk_owner *o = g_ptr_array_index(m->owners, owner);
        if (o->sectors == 0) o->first = first;
        if (o->sectors == 0 || o->last + 1 != first) o->pieces++;
        o->last = first + count - 1, o->sectors += count;
    }
    for (uint32_t cell = first / m->each; cell <= (first + count - 1) / m->each; cell++) {
        disk_cell *c = &g_array_index(m->cells, disk_cell, cell);
        if (weight_of(use) >= weight_of(c->use)) *c = (disk_cell){use, owner};
    }
    return BL_OK;
}

bl_status disk_map_make(bl_disk *d, uint32_t most_cells, disk_map *m)
{
    *m = (disk_map){.total = d->sectors.count};
    m->each = (m->total + most_cells - 1) / most_cells;
    m->cells = g_array_new(FALSE, TRUE, sizeof(disk_cell));
    m->owners = g_ptr_array_new_with_free_func(free_owner);
    g_array_set_size(m->cells, (m->total + m->each - 1) / m->each);
    for (guint i = 0; i < m->cells->len; i++)
        g_array_index(m->cells, disk_cell, i) = (disk_cell){BL_DISK_USE_SPARE, DISK_NOBODY};
    mapping k = {m, g_hash_table_new(g_str_hash, g_str_equal)};
    bl_status status = bl_disk_map(d, note_run, &k);
    g_hash_table_unref(k.known);
    return status;
}

void disk_map_end(disk_map *m)
{
    if (m->cells != NULL) g_array_unref(m->cells);
    if (m->owners != NULL) g_ptr_array_unref(m->owners);
    *m = (disk_map){.total = 0};
}

unsigned disk_map_fullness(const disk_map *m)
{
    uint64_t used = (uint64_t)m->sectors[BL_DISK_USE_FILE] + m->sectors[BL_DISK_USE_LOST] +
                    m->sectors[BL_DISK_USE_CROSS] + m->sectors[BL_DISK_USE_BAD];
    uint64_t all = used + m->sectors[BL_DISK_USE_FREE];
    return all == 0 ? 0 : (unsigned)(used * 1000 / all);
}
