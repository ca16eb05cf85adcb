/* fat_folder.c - entries of folders: found, added, taken away. */
#include "fat_volume.h"

void bl_fat_walk_begin(fat_walk *w, uint32_t cluster)
{
    *w = (fat_walk){.cluster = cluster, .last = cluster};
}

/* The sector that the walk is at. BL_E_NOT_FOUND: the folder ends. */
static bl_status walked_sector(const fat *f, fat_walk *w, uint32_t *sector)
{
    if (w->cluster == 0) {
        *sector = f->root + w->within;
        return w->within < f->root_sectors ? BL_OK : BL_E_NOT_FOUND;
    }
    if (w->within == f->cluster_sectors) {
        uint32_t next = bl_fat_next(f, w->last);
        if (next == FAT_END) return BL_E_NOT_FOUND;
        w->last = next, w->within = 0;
    }
    if (!fat_is_cluster(f, w->last)) return BL_E_DAMAGED;
    *sector = fat_cluster_sector(f, w->last) + w->within;
    return BL_OK;
}

bl_status bl_fat_walk(bl_disk *d, fat_walk *w, uint8_t raw[FAT_ENTRY], fat_place *place)
{
    const fat *f = fat_of(d);
    uint8_t *bytes;
    if (w->stop != 0 && w->seen == w->stop) return BL_E_NOT_FOUND;
    bl_status status = walked_sector(f, w, &place->sector);
    if (status == BL_OK && w->seen == FAT_FOLDER_MOST) status = BL_E_DAMAGED; /* a loop */
    if (status == BL_OK) status = bl_fat_sector(d, place->sector, &bytes);
    if (status != BL_OK) return status;
    place->offset = w->offset;
    memcpy(raw, bytes + w->offset, FAT_ENTRY);
    w->seen++;
    w->offset += FAT_ENTRY;
    if (w->cluster == 0 && w->seen == f->root_entries)
        w->within = f->root_sectors; /* its last sector need not be full */
    else if (w->offset == f->sector)
        w->offset = 0, w->within++;
    return BL_OK;
}

/* ---- long names ---- */

/* What has been seen of a long name so far: parts come last first. */
typedef struct long_name {
    uint16_t units[FAT_LONG_PARTS * 13];
    uint32_t parts, expected; /* of them; the number of the next one */
    uint8_t sum;
} long_name;

static void take_units(uint16_t *to, const uint8_t *raw)
{
    static const uint8_t at[13] = {1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
    for (unsigned i = 0; i < 13; i++)
        to[i] = bl_little16(raw + at[i]);
}

static void note_orphan(fat_item *item, fat_place place)
{
    if (item->orphans < FAT_LONG_PARTS) item->orphan[item->orphans] = place;
    item->orphans++;
}

/* A part that does not follow the one before: that, and all before it, are orphans. */
static void drop_parts(fat_item *item, long_name *n)
{
    for (uint32_t i = 0; i < n->parts; i++)
        note_orphan(item, item->parts[i]);
    n->parts = 0;
}

static void take_name_part(fat_item *item, long_name *n, const uint8_t *raw, fat_place place)
{
    uint32_t number = raw[0] & 0x3Fu;
    bool first = (raw[0] & 0x40) != 0;
    bool follows = !first && n->parts > 0 && number == n->expected && raw[13] == n->sum;
    if (!follows) drop_parts(item, n);
    if (number == 0 || number > FAT_LONG_PARTS || !(first || follows)) {
        note_orphan(item, place);
        return;
    }
    n->expected = number - 1, n->sum = raw[13];
    take_units(n->units + (number - 1) * 13, raw);
    if (first && number < FAT_LONG_PARTS) n->units[number * 13] = 0;
    item->parts[n->parts++] = place;
}

/* The name belongs to the entry behind it if that has its sum. */
static void finish_name(fat_item *item, long_name *n)
{
    size_t count = 0;
    item->long_name[0] = '\0';
    bool belongs = n->parts > 0 && n->expected == 0 && n->sum == bl_fat_name_sum(item->raw) &&
                   (item->raw[11] & FAT_LABEL) == 0;
    if (!belongs) drop_parts(item, n);
    item->long_parts = n->parts;
    while (belongs && count < n->parts * 13 && n->units[count] != 0)
        count++;
    if (count > 255) count = 255;
    bl_fat_long_text(n->units, count, item->long_name);
}

bl_status bl_fat_next_item(bl_disk *d, fat_walk *w, fat_item *item)
{
    long_name n;
    bl_status status;
    n.parts = n.expected = 0, n.sum = 0;
    item->orphans = item->long_parts = 0, item->end = false;
    while ((status = bl_fat_walk(d, w, item->raw, &item->place)) == BL_OK) {
        uint8_t *raw = item->raw;
        bool deleted = raw[0] == FAT_DELETED;
        if (raw[0] == 0) {
            status = BL_E_NOT_FOUND;
            break;
        }
        if (deleted) drop_parts(item, &n);
        if (deleted) continue;
        if ((raw[11] & 0x3F) == FAT_LONG) {
            take_name_part(item, &n, raw, item->place);
            continue;
        }
        finish_name(item, &n);
        return BL_OK;
    }
    if (status != BL_E_NOT_FOUND) return status;
    drop_parts(item, &n);
    item->end = true;
    return BL_OK;
}

bool bl_fat_is_dots(const uint8_t raw[FAT_ENTRY])
{
    return memcmp(raw, ".          ", 11) == 0 || memcmp(raw, "..         ", 11) == 0;
}

bool bl_fat_is_listed(const uint8_t raw[FAT_ENTRY])
{
    return (raw[11] & FAT_LABEL) == 0 && !bl_fat_is_dots(raw);
}

void bl_fat_item_name(const fat_item *item, char name[BL_DISK_NAME])
{
    if (item->long_name[0] != '\0')
        memcpy(name, item->long_name, bl_length(item->long_name) + 1);
    else
        bl_fat_name_text(item->raw, name);
}

/* ---- paths ---- */

size_t bl_fat_enter(fat_path *p, const char *name)
{
    size_t before = p->length, room = sizeof p->text - before;
    size_t count = bl_format(p->text + before, room, "%s%s", before > 0 ? "/" : "", name);
    p->length += count < room ? count : room - 1;
    return before;
}

void bl_fat_leave(fat_path *p, size_t before)
{
    p->length = before;
    p->text[before] = '\0';
}

/* ---- finding ---- */

bl_status bl_fat_find_in(bl_disk *d, uint32_t folder, const char *name, size_t count,
                         fat_item *item)
{
    fat_walk w;
    char text[BL_DISK_NAME], stored[13];
    bl_status status;
    /* A name that does not fit is looked for as it would be stored, too. */
    bool fits = bl_disk_short_name((bl_text){name, count}, stored, NULL, &status);
    if (status != BL_OK) fits = true;
    bl_fat_walk_begin(&w, folder);
    for (;;) {
        status = bl_fat_next_item(d, &w, item);
        if (status != BL_OK) return status;
        if (item->end) return BL_E_NOT_FOUND;
        if (!bl_fat_is_listed(item->raw)) continue;
        bl_fat_name_text(item->raw, text);
        if (bl_fat_same_name(text, name, count) || bl_fat_same_name(item->long_name, name, count))
            return BL_OK;
        if (!fits && bl_fat_same_name(text, stored, bl_length(stored))) return BL_OK;
    }
}

/* Tells of a folder that cannot be read; what a sector gives was told already. */
static bl_status folder_fault(bl_disk *d, bl_status status, const char *path)
{
    if (status != BL_E_DAMAGED) return status;
    return bl_disk_fail(d, status, "disk check says more", "%s: a folder on the way is damaged",
                        path);
}

bl_status bl_fat_lookup(bl_disk *d, const char *path, fat_item *item, uint32_t *folder,
                        const char **name)
{
    const fat *f = fat_of(d);
    const char *at = path;
    *item = (fat_item){0};
    *folder = 0, *name = NULL;
    item->raw[11] = FAT_FOLDER;
    for (unsigned depth = 0;; depth++) {
        while (*at == '/')
            at++;
        if (*at == '\0') return BL_OK;
        size_t count = 0;
        while (at[count] != '/' && at[count] != '\0')
            count++;
        uint32_t inside = depth == 0 ? 0 : fat_first_cluster(item->raw);
        bool follow = depth == 0 || ((item->raw[11] & FAT_FOLDER) != 0 && depth < BL_DISK_DEEPEST);
        *name = NULL;
        if (!follow) return BL_E_NOT_FOUND;
        if (depth > 0 && !fat_is_cluster(f, inside)) return folder_fault(d, BL_E_DAMAGED, path);
        *folder = inside;
        bl_status status = bl_fat_find_in(d, inside, at, count, item);
        bool last = at[count] == '\0';
        if (last) *name = at;
        if (status == BL_E_NOT_FOUND) return status;
        if (status != BL_OK) return folder_fault(d, status, path);
        at += count;
    }
}

/* ---- changing ---- */

bl_status bl_fat_write_entry(bl_disk *d, fat_place place, const uint8_t raw[FAT_ENTRY])
{
    uint8_t *bytes;
    bl_status status = bl_fat_sector(d, place.sector, &bytes);
    if (status != BL_OK) return status;
    memcpy(bytes + place.offset, raw, FAT_ENTRY);
    return bl_fat_write(d, place.sector, bytes);
}

/* Marks entries of one sector as deleted: all of these places that are in it. */
static bl_status erase_in_sector(bl_disk *d, uint32_t sector, const fat_place *places, size_t count)
{
    uint8_t *bytes;
    bool any = false;
    bl_status status = bl_fat_sector(d, sector, &bytes);
    for (size_t i = 0; i < count && status == BL_OK; i++)
        if (places[i].sector == sector && bytes[places[i].offset] != FAT_DELETED)
            bytes[places[i].offset] = FAT_DELETED, any = true;
    return status == BL_OK && any ? bl_fat_write(d, sector, bytes) : status;
}

bl_status bl_fat_erase_places(bl_disk *d, const fat_place *places, size_t count)
{
    bl_status status = BL_OK;
    for (size_t i = count; i > 0 && status == BL_OK; i--)
        status = erase_in_sector(d, places[i - 1].sector, places, count);
    return status;
}

bl_status bl_fat_erase_item(bl_disk *d, const fat_item *item)
{
    fat_place places[FAT_LONG_PARTS + 1];
    memcpy(places, item->parts, (size_t)(item->long_parts * sizeof places[0]));
    places[item->long_parts] = item->place;
    return bl_fat_erase_places(d, places, (size_t)(item->long_parts + 1));
}

bl_status bl_fat_erase_long(bl_disk *d, const fat_item *item)
{
    return bl_fat_erase_places(d, item->parts, (size_t)item->long_parts);
}

/* The folder gets one cluster more: it is filled with zeros and ended before anything leads to it.
 */
static bl_status grow_folder(bl_disk *d, uint32_t last, fat_place *place)
{
    fat *f = fat_of(d);
    uint32_t cluster = bl_fat_take(f, 1);
    bl_status status = BL_OK;
    if (cluster == 0)
        return bl_disk_fail(d, BL_E_FULL, NULL, "the disk is full: a folder cannot grow");
    memset(f->scratch, 0, (size_t)f->sector);
    for (uint32_t i = 0; i < f->cluster_sectors && status == BL_OK; i++)
        status = bl_fat_write(d, fat_cluster_sector(f, cluster) + i, f->scratch);
    if (status == BL_OK) status = bl_fat_table_flush(d);
    bl_fat_set(f, last, cluster);
    if (status == BL_OK) status = bl_fat_table_flush(d);
    *place = (fat_place){fat_cluster_sector(f, cluster), 0};
    return status;
}

/* An entry whose first byte is 0 ends a folder, and what is behind it may be anything. Before it is
 * used the one behind it must be made the end. */
static bl_status move_end(bl_disk *d, fat_walk *w)
{
    uint8_t raw[FAT_ENTRY], *bytes;
    fat_place next;
    bl_status status = bl_fat_walk(d, w, raw, &next);
    if (status == BL_E_NOT_FOUND) return BL_OK;
    if (status != BL_OK || raw[0] == 0) return status;
    status = bl_fat_sector(d, next.sector, &bytes);
    if (status != BL_OK) return status;
    bytes[next.offset] = 0;
    return bl_fat_write(d, next.sector, bytes);
}

bl_status bl_fat_free_slot(bl_disk *d, uint32_t folder, fat_place *place)
{
    const fat *f = fat_of(d);
    fat_walk w;
    uint8_t raw[FAT_ENTRY];
    bl_status status;
    bl_fat_walk_begin(&w, folder);
    while ((status = bl_fat_walk(d, &w, raw, place)) == BL_OK) {
        if (raw[0] == FAT_DELETED) return BL_OK;
        if (raw[0] == 0) return move_end(d, &w);
    }
    if (status != BL_E_NOT_FOUND) return status;
    if (folder == 0)
        return bl_disk_fail(d, BL_E_FULL, "put it into a folder, which grows",
                            "the main folder is full: it has room for %lu entries",
                            (unsigned long)f->root_entries);
    if (w.seen + f->cluster_bytes / FAT_ENTRY > FAT_FOLDER_MOST)
        return bl_disk_fail(d, BL_E_FULL, NULL, "the folder has as many entries as one can have");
    return grow_folder(d, w.last, place);
}

/* ---- times ---- */

bl_disk_time bl_fat_time_of(const uint8_t *raw)
{
    uint32_t time = bl_little16(raw + 22), date = bl_little16(raw + 24);
    bl_disk_time t = {0};
    if (date == 0 || (date & 31) == 0 || (date >> 5 & 15) == 0 || (date >> 5 & 15) > 12) return t;
    t.year = (uint16_t)(1980 + (date >> 9));
    t.month = (uint8_t)(date >> 5 & 15), t.day = (uint8_t)(date & 31);
    t.hour = (uint8_t)(time >> 11), t.minute = (uint8_t)(time >> 5 & 63);
    t.second = (uint8_t)((time & 31) * 2);
    return t;
}

void bl_fat_stamp(uint8_t *raw, bl_disk_time t)
{
    if (t.year < 1980 || t.year > 2107) t = (bl_disk_time){.year = 1980, .month = 1, .day = 1};
    uint32_t date = (uint32_t)(t.year - 1980) << 9 | (uint32_t)t.month << 5 | t.day;
    bl_put_little16(raw + 22, (uint32_t)t.hour << 11 | (uint32_t)t.minute << 5 | t.second / 2u);
    bl_put_little16(raw + 24, date);
}
