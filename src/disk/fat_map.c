/* fat_map.c - which sectors of a FAT volume belong to what. */
#include "fat_volume.h"

/* Clusters that a file or folder has, noted while the folders are gone through. */
typedef struct fat_mapping {
    bl_disk *d;
    uint32_t *owner; /* of each cluster: index of its path, from 1; */
    uint8_t *use;    /* bl_disk_use */
    char **paths;
    size_t count, room;
    fat_path path;
    fat_item item;
} fat_mapping;

static bl_status note_chain(fat_mapping *m, uint32_t first, bool folder)
{
    const fat *f = fat_of(m->d);
    char **grown = bl_grown(&m->d->memory, m->paths, &m->room, m->count + 1, sizeof *m->paths);
    if (grown == NULL) return BL_E_MEMORY;
    m->paths = grown;
    m->paths[m->count] = bl_text_copy(&m->d->memory, (bl_text){m->path.text, m->path.length});
    if (m->paths[m->count] == NULL) return BL_E_MEMORY;
    uint32_t number = (uint32_t)++m->count;
    for (uint32_t at = first; fat_is_cluster(f, at); at = bl_fat_next(f, at)) {
        if (m->owner[at] == number) break;
        bool crosses = m->owner[at] != 0;
        m->use[at] = (uint8_t)(crosses  ? BL_DISK_USE_CROSS
                               : folder ? BL_DISK_USE_FOLDER
                                        : BL_DISK_USE_FILE);
        if (crosses) break;
        m->owner[at] = number;
    }
    return BL_OK;
}

static bl_status note_folder(fat_mapping *m, uint32_t cluster, unsigned depth)
{
    const fat *f = fat_of(m->d);
    fat_walk w;
    bl_status status;
    bl_fat_walk_begin(&w, cluster);
    while ((status = bl_fat_next_item(m->d, &w, &m->item)) == BL_OK && !m->item.end) {
        char name[BL_DISK_NAME];
        uint32_t first = fat_first_cluster(m->item.raw);
        bool folder = (m->item.raw[11] & FAT_FOLDER) != 0;
        if (!bl_fat_is_listed(m->item.raw)) continue;
        bl_fat_item_name(&m->item, name);
        size_t before = bl_fat_enter(&m->path, name);
        bool fresh = fat_is_cluster(f, first) && m->owner[first] == 0;
        status = note_chain(m, first, folder);
        if (status == BL_OK && folder && fresh && depth < BL_DISK_DEEPEST)
            status = note_folder(m, first, depth + 1);
        bl_fat_leave(&m->path, before);
        if (status != BL_OK) return status;
    }
    return status == BL_E_DAMAGED ? BL_OK : status;
}

static bl_disk_use cluster_use(const fat *f, const fat_mapping *m, uint32_t cluster)
{
    uint32_t next = bl_fat_next(f, cluster);
    if (m->owner[cluster] != 0) return (bl_disk_use)m->use[cluster];
    return next == FAT_FREE  ? BL_DISK_USE_FREE
           : next == FAT_BAD ? BL_DISK_USE_BAD
                             : BL_DISK_USE_LOST;
}

static bl_status tell_clusters(const fat_mapping *m, bl_disk_run *run, void *context)
{
    const fat *f = fat_of(m->d);
    uint32_t unit = f->cluster_sectors * f->ratio, from = FAT_FIRST;
    bl_status status = BL_OK;
    while (fat_is_cluster(f, from) && status == BL_OK) {
        uint32_t to = from + 1, owner = m->owner[from];
        bl_disk_use use = cluster_use(f, m, from);
        while (fat_is_cluster(f, to) && m->owner[to] == owner && cluster_use(f, m, to) == use)
            to++;
        status = run(context, fat_cluster_sector(f, from) * f->ratio, (to - from) * unit, use,
                     owner != 0 ? m->paths[owner - 1] : NULL);
        from = to;
    }
    return status;
}

static bl_status tell_all(const fat_mapping *m, bl_disk_run *run, void *context)
{
    const fat *f = fat_of(m->d);
    uint32_t r = f->ratio, end = (f->data + f->clusters * f->cluster_sectors) * r;
    bl_status status = run(context, 0, f->reserved * r, BL_DISK_USE_BOOT, NULL);
    if (status == BL_OK)
        status = run(context, f->reserved * r, f->tables * f->table_sectors * r, BL_DISK_USE_TABLE,
                     NULL);
    if (status == BL_OK)
        status = run(context, f->root * r, f->root_sectors * r, BL_DISK_USE_FOLDER, "/");
    if (status == BL_OK) status = tell_clusters(m, run, context);
    if (status == BL_OK && end < m->d->sectors.count)
        status = run(context, end, m->d->sectors.count - end, BL_DISK_USE_SPARE, NULL);
    return status;
}

bl_status bl_fat_map(bl_disk *d, bl_disk_run *run, void *context)
{
    const fat *f = fat_of(d);
    uint32_t places = f->clusters + FAT_FIRST;
    fat_mapping *m = bl_disk_room(d, 1, sizeof *m);
    if (m == NULL) return BL_E_MEMORY;
    m->d = d;
    m->owner = bl_disk_room(d, places, sizeof *m->owner);
    m->use = bl_disk_room(d, places, 1);
    bl_status status = m->owner != NULL && m->use != NULL ? BL_OK : BL_E_MEMORY;
    if (status == BL_OK) status = note_folder(m, 0, 0);
    if (status == BL_OK) status = tell_all(m, run, context);
    for (size_t i = 0; i < m->count; i++)
        bl_disk_free(d, m->paths[i]);
    bl_disk_free(d, m->paths);
    bl_disk_free(d, m->owner);
    bl_disk_free(d, m->use);
    bl_disk_free(d, m);
    return status;
}
