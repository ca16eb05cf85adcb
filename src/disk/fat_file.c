/* fat_file.c - files and folders of a FAT volume: read, written, renamed, deleted. */
#include "fat_volume.h"

/* ---- looking ---- */

static void fill_entry(const fat *f, const fat_item *item, bl_disk_entry *e)
{
    const char *why;
    *e = (bl_disk_entry){0};
    bl_fat_item_name(item, e->name);
    bl_fat_name_ascii(item->raw, e->short_name);
    e->folder = (item->raw[11] & FAT_FOLDER) != 0;
    e->size = e->folder ? 0 : bl_little32(item->raw + 28);
    e->attributes = item->raw[11] & 0x27;
    e->changed = bl_fat_time_of(item->raw);
    e->first = fat_first_cluster(item->raw);
    uint32_t length = e->first == 0 ? 0 : bl_fat_chain_length(f, e->first, &why);
    e->pieces = length == 0 ? 0 : bl_fat_chain_pieces(f, e->first, length);
}

static bl_status no_such(bl_disk *d, const char *path, const char *name)
{
    return bl_disk_fail(d, BL_E_NOT_FOUND, "disk list shows what there is", "%s: there is no %s",
                        path, name != NULL ? "such file or folder" : "such folder");
}

/* An item that must be there. */
static bl_status fat_must_exist(bl_disk *d, const char *path, fat_item *item, uint32_t *folder)
{
    const char *name;
    bl_status status = bl_fat_lookup(d, path, item, folder, &name);
    return status == BL_E_NOT_FOUND ? no_such(d, path, name) : status;
}

static bool is_main_folder(const fat_item *item)
{
    return item->raw[0] == 0;
}

bl_status bl_fat_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context)
{
    const fat *f = fat_of(d);
    fat_item item;
    bl_disk_entry e;
    fat_walk w;
    uint32_t folder;
    bl_status status = fat_must_exist(d, path, &item, &folder);
    if (status != BL_OK) return status;
    if ((item.raw[11] & FAT_FOLDER) == 0) {
        fill_entry(f, &item, &e);
        return visit(context, &e);
    }
    uint32_t first = fat_first_cluster(item.raw);
    if (!is_main_folder(&item) && !fat_is_cluster(f, first))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more", "%s: the folder is damaged",
                            path);
    bl_fat_walk_begin(&w, first);
    while ((status = bl_fat_next_item(d, &w, &item)) == BL_OK && !item.end) {
        if (!bl_fat_is_listed(item.raw)) continue;
        fill_entry(f, &item, &e);
        status = visit(context, &e);
        if (status != BL_OK) return status;
    }
    if (status != BL_E_DAMAGED) return status;
    return bl_disk_fail(d, status, "disk check says more", "%s/: its chain of clusters is broken",
                        path);
}

bl_status bl_fat_find(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    fat_item item;
    uint32_t folder;
    bl_status status = fat_must_exist(d, path, &item, &folder);
    if (status == BL_OK) fill_entry(fat_of(d), &item, entry);
    return status;
}

/* ---- reading ---- */

/* Are there as many clusters as the size says? */
static bl_status check_chain(bl_disk *d, const char *path, uint32_t first, uint32_t size)
{
    uint32_t need = fat_clusters_of(fat_of(d), size);
    const char *why;
    if (bl_fat_chain_covers(fat_of(d), first, need, &why)) return BL_OK;
    return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                        "%s: %lu bytes need %lu cluster%s, and its chain is broken: %s", path,
                        (unsigned long)size, (unsigned long)need, bl_plural(need), why);
}

static bl_status read_chain(bl_disk *d, uint32_t cluster, uint32_t size, const bl_writer *writer)
{
    fat *f = fat_of(d);
    bl_status status = BL_OK;
    while (size > 0 && status == BL_OK) {
        BL_ASSERT(fat_is_cluster(f, cluster));
        for (uint32_t i = 0; i < f->cluster_sectors && size > 0 && status == BL_OK; i++) {
            uint32_t count = size < f->sector ? size : f->sector;
            status = bl_fat_read(d, fat_cluster_sector(f, cluster) + i, f->scratch);
            if (status == BL_OK) status = writer->write(writer->context, f->scratch, (size_t)count);
            size -= count;
        }
        cluster = bl_fat_next(f, cluster);
    }
    return status;
}

bl_status bl_fat_get(bl_disk *d, const char *path, const bl_writer *writer)
{
    fat_item item;
    uint32_t folder;
    bl_status status = fat_must_exist(d, path, &item, &folder);
    if (status != BL_OK) return status;
    if ((item.raw[11] & FAT_FOLDER) != 0)
        return bl_disk_fail(d, BL_E_ARGUMENT, NULL, "%s is a folder", path);
    uint32_t size = bl_little32(item.raw + 28), first = fat_first_cluster(item.raw);
    status = check_chain(d, path, first, size);
    return status == BL_OK ? read_chain(d, first, size, writer) : status;
}

/* ---- writing ---- */

/* What a put is about. */
typedef struct fat_putting {
    const char *path;
    const bl_disk_file *file;
    uint32_t folder, first, old_first;
    bool replaces;
    fat_place place;
    uint8_t raw[FAT_ENTRY];
} fat_putting;

/* The entry as it will be; the short name for a name that does not fit. */
static bl_status prepare_entry(bl_disk *d, fat_putting *p)
{
    fat_item item;
    const char *name;
    char text[13];
    bl_status status = bl_fat_lookup(d, p->path, &item, &p->folder, &name);
    if (status == BL_E_NOT_FOUND && name == NULL) return no_such(d, p->path, name);
    if (status == BL_E_NOT_FOUND) {
        memset(p->raw, 0, sizeof p->raw);
        bl_disk_short_name(bl_text_of(name), text, p->raw, &status);
        return status == BL_OK ? BL_OK
                               : bl_disk_fail(d, status, NULL, "%s: this can be no name", p->path);
    }
    if (status != BL_OK) return status;
    if ((item.raw[11] & FAT_FOLDER) != 0 || is_main_folder(&item))
        return bl_disk_fail(d, BL_E_EXISTS, "name the file in it: --to FOLDER/NAME",
                            "%s is a folder", p->path);
    if ((item.raw[11] & BL_DISK_READ_ONLY) != 0)
        return bl_disk_fail(d, BL_E_PROTECTED, "disk delete --force takes it away",
                            "%s is there, and read-only", p->path);
    p->replaces = true, p->place = item.place, p->old_first = fat_first_cluster(item.raw);
    memcpy(p->raw, item.raw, FAT_ENTRY);
    return BL_OK;
}

/* Room for its bytes. Where a failure spoils nothing the old file's room counts, too. */
static bl_status take_room(bl_disk *d, fat_putting *p)
{
    fat *f = fat_of(d);
    const char *why;
    uint32_t need = fat_clusters_of(f, p->file->size), largest, bad;
    if (need == 0) return BL_OK;
    p->first = need > f->clusters ? 0 : bl_fat_take(f, need);
    if (p->first != 0) return BL_OK;
    uint32_t have = bl_fat_count_free(f, &largest, &bad);
    uint32_t old = p->old_first == 0 ? 0 : bl_fat_chain_length(f, p->old_first, &why);
    if (!d->setup.live && old != 0 && need <= have + old) {
        bl_fat_chain_release(f, p->old_first);
        p->old_first = 0;
        p->first = bl_fat_take(f, need);
        return BL_OK;
    }
    const char *hint = old != 0 && need <= have + old
                           ? "on a live disk the old file stays until the new one is there: delete "
                             "it first"
                           : NULL;
    return bl_disk_fail(d, BL_E_FULL, hint,
                        "%s: the disk is full: %lu bytes need %lu clusters of %lu bytes, and %lu "
                        "are free",
                        p->path, (unsigned long)p->file->size, (unsigned long)need,
                        (unsigned long)f->cluster_bytes, (unsigned long)have);
}

/* Writes bytes to a chain, or compares them with what is there: the sectors that they fill. */
static bl_status pass_over(bl_disk *d, const fat_putting *p, bool compare)
{
    fat *f = fat_of(d);
    uint32_t cluster = p->first, done = 0;
    bl_status status = BL_OK;
    for (; done < p->file->size && status == BL_OK; cluster = bl_fat_next(f, cluster)) {
        for (uint32_t i = 0; i < f->cluster_sectors && status == BL_OK; i++) {
            uint32_t sector = fat_cluster_sector(f, cluster) + i, left = p->file->size - done;
            uint32_t count = left < f->sector ? left : f->sector;
            if (left == 0 && compare) break;
            if (compare) {
                status = bl_fat_read(d, sector, f->scratch);
                if (status == BL_OK &&
                    memcmp(f->scratch, p->file->bytes + done, (size_t)count) != 0)
                    status = bl_disk_fail(d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                                          "%s: what was read back from sector %lu differs", p->path,
                                          (unsigned long)sector);
            } else {
                /* What was on the disk before is nobody's. */
                memset(f->scratch, 0, (size_t)f->sector);
                if (count > 0) memcpy(f->scratch, p->file->bytes + done, (size_t)count);
                status = bl_fat_write(d, sector, f->scratch);
            }
            done += count;
        }
    }
    return status;
}

static void complete_entry(const bl_disk *d, fat_putting *p)
{
    uint8_t *raw = p->raw;
    raw[11] =
        (uint8_t)((p->file->attributes & 0x27) | (raw[11] & (BL_DISK_HIDDEN | BL_DISK_SYSTEM)));
    bl_fat_stamp(raw, p->file->changed.year != 0 ? p->file->changed : d->setup.now);
    if (!p->replaces) memcpy(raw + 14, raw + 22, 4), memcpy(raw + 18, raw + 24, 2);
    bl_put_little16(raw + 26, p->first);
    bl_put_little32(raw + 28, p->file->size);
}

/* Reads the entry back past the buffer. */
static bl_status check_entry(bl_disk *d, const fat_putting *p)
{
    fat *f = fat_of(d);
    bl_status status = bl_fat_read(d, p->place.sector, f->scratch);
    if (status == BL_OK && memcmp(f->scratch + p->place.offset, p->raw, FAT_ENTRY) != 0)
        status = bl_disk_fail(d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                              "%s: its entry in the folder was read back, and differs", p->path);
    return status;
}

/* The order is what keeps a disk whole when the power fails (disk.h). */
static bl_status put_steps(bl_disk *d, fat_putting *p)
{
    bl_status status = prepare_entry(d, p);
    if (status == BL_OK && !p->replaces) status = bl_fat_free_slot(d, p->folder, &p->place);
    if (status == BL_OK) status = take_room(d, p);
    if (status == BL_OK) status = pass_over(d, p, false);
    if (status == BL_OK) status = pass_over(d, p, true);
    if (status == BL_OK) status = bl_fat_table_flush(d);
    if (status != BL_OK) return status;
    complete_entry(d, p);
    status = bl_fat_write_entry(d, p->place, p->raw);
    if (status == BL_OK) status = check_entry(d, p);
    if (status != BL_OK || p->old_first == 0) return status;
    bl_fat_chain_release(fat_of(d), p->old_first);
    return bl_fat_table_flush(d);
}

/* What was taken in memory alone is free again. Of a drive that fails enough was told. */
static void forget_taken(bl_disk *d)
{
    bl_sink told = bl_disk_hush(d);
    bl_fat_table_load(d);
    d->setup.sink = told;
}

bl_status bl_fat_put(bl_disk *d, const char *path, const bl_disk_file *file, bl_disk_entry *stored)
{
    fat_putting p = {.path = path, .file = file};
    bl_status status = put_steps(d, &p);
    if (status != BL_OK) {
        forget_taken(d);
        return status;
    }
    fat_item item = {.place = p.place};
    memcpy(item.raw, p.raw, FAT_ENTRY);
    fill_entry(fat_of(d), &item, stored);
    return BL_OK;
}

/* ---- deleting, renaming ---- */

static bl_status check_empty(bl_disk *d, const char *path, uint32_t cluster)
{
    fat_walk w;
    fat_item item;
    bl_status status;
    if (!fat_is_cluster(fat_of(d), cluster))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more", "%s: the folder is damaged",
                            path);
    bl_fat_walk_begin(&w, cluster);
    while ((status = bl_fat_next_item(d, &w, &item)) == BL_OK && !item.end)
        if (!bl_fat_is_dots(item.raw))
            return bl_disk_fail(d, BL_E_EXISTS, "delete what is in it first",
                                "%s: the folder is not empty", path);
    return status;
}

bl_status bl_fat_remove(bl_disk *d, const char *path, bool force)
{
    fat_item item;
    uint32_t folder;
    bl_status status = fat_must_exist(d, path, &item, &folder);
    if (status != BL_OK) return status;
    if (is_main_folder(&item))
        return bl_disk_fail(d, BL_E_ARGUMENT, NULL, "the main folder cannot be deleted");
    if ((item.raw[11] & BL_DISK_READ_ONLY) != 0 && !force)
        return bl_disk_fail(d, BL_E_PROTECTED, "--force deletes it all the same", "%s is read-only",
                            path);
    if ((item.raw[11] & FAT_FOLDER) != 0)
        status = check_empty(d, path, fat_first_cluster(item.raw));
    if (status == BL_OK) status = bl_fat_erase_item(d, &item);
    if (status != BL_OK) return status;
    bl_fat_chain_release(fat_of(d), fat_first_cluster(item.raw));
    return bl_fat_table_flush(d);
}

/* The long name goes first: it is of the old name, and checked by it. */
bl_status bl_fat_rename(bl_disk *d, const char *old_path, const char *new_path)
{
    fat_item item, other;
    uint32_t folder, new_folder;
    const char *name;
    char text[13];
    bool plain = true; /* a name alone stays in the folder */
    bl_status status = fat_must_exist(d, old_path, &item, &folder);
    if (status != BL_OK) return status;
    if (is_main_folder(&item))
        return bl_disk_fail(d, BL_E_ARGUMENT, NULL, "the main folder has no name");
    for (const char *c = new_path; *c != '\0'; c++)
        plain = plain && *c != '/';
    name = new_path, new_folder = folder;
    if (!plain) {
        status = bl_fat_lookup(d, new_path, &other, &new_folder, &name);
        if (name == NULL) return no_such(d, new_path, name);
    }
    if (new_folder != folder)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, "get it, put it there, and delete it here",
                            "%s is in another folder than %s", new_path, old_path);
    uint8_t raw[11];
    bl_disk_short_name(bl_text_of(name), text, raw, &status);
    if (status != BL_OK) return bl_disk_fail(d, status, NULL, "%s: this can be no name", new_path);
    status = bl_fat_find_in(d, folder, text, bl_length(text), &other);
    bool itself = status == BL_OK && other.place.sector == item.place.sector &&
                  other.place.offset == item.place.offset;
    if (status == BL_OK && !itself)
        return bl_disk_fail(d, BL_E_EXISTS, "delete it first", "%s is there already", text);
    if (status == BL_OK || status == BL_E_NOT_FOUND) status = bl_fat_erase_long(d, &item);
    if (status != BL_OK) return status;
    memcpy(item.raw, raw, 11);
    item.raw[12] = 0;
    return bl_fat_write_entry(d, item.place, item.raw);
}

/* ---- folders ---- */

static bl_status write_new_folder(bl_disk *d, const fat_putting *p)
{
    fat *f = fat_of(d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < f->cluster_sectors && status == BL_OK; i++) {
        memset(f->scratch, 0, (size_t)f->sector);
        for (unsigned k = 0; i == 0 && k < 2; k++) {
            uint8_t *dots = f->scratch + k * FAT_ENTRY;
            memcpy(dots, p->raw, FAT_ENTRY);
            memset(dots, ' ', 11);
            memset(dots, '.', k + 1);
            bl_put_little16(dots + 26, k == 0 ? p->first : p->folder);
        }
        status = bl_fat_write(d, fat_cluster_sector(f, p->first) + i, f->scratch);
    }
    return status;
}

static bl_status folder_steps(bl_disk *d, fat_putting *p)
{
    bl_status status = prepare_entry(d, p);
    if (status != BL_OK) return status;
    if (p->replaces) return bl_disk_fail(d, BL_E_EXISTS, NULL, "%s is a file", p->path);
    status = bl_fat_free_slot(d, p->folder, &p->place);
    if (status != BL_OK) return status;
    p->first = bl_fat_take(fat_of(d), 1);
    if (p->first == 0) return bl_disk_fail(d, BL_E_FULL, NULL, "%s: the disk is full", p->path);
    complete_entry(d, p);
    p->raw[11] = FAT_FOLDER;
    bl_put_little32(p->raw + 28, 0);
    status = write_new_folder(d, p);
    if (status == BL_OK) status = bl_fat_table_flush(d);
    if (status == BL_OK) status = bl_fat_write_entry(d, p->place, p->raw);
    return status == BL_OK ? check_entry(d, p) : status;
}

bl_status bl_fat_folder(bl_disk *d, const char *path)
{
    bl_disk_file nothing = {0};
    fat_putting p = {.path = path, .file = &nothing};
    bl_status status = folder_steps(d, &p);
    if (status != BL_OK) forget_taken(d);
    return status;
}
