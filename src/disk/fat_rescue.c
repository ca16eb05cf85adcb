/* fat_rescue.c - clusters that are marked as used and of no file: kept as files of their own, for
 * nobody knows what they are, or given back when that was asked for. */
#include "fat_checking.h"

static bool is_lost(const fat_checking *c, uint32_t at)
{
    const fat *f = fat_of(c->d);
    if (!fat_is_cluster(f, at) || c->owner[at] != 0) return false;
    uint32_t next = bl_fat_next(f, at);
    return next != FAT_FREE && next != FAT_BAD;
}

/* Clusters that no lost one leads to begin a chain; inner gets 1 for those that one leads to. */
static void mark_inner(fat_checking *c, uint8_t *inner)
{
    const fat *f = fat_of(c->d);
    for (uint32_t at = FAT_FIRST; fat_is_cluster(f, at); at++) {
        if (!is_lost(c, at)) continue;
        c->lost++;
        uint32_t next = bl_fat_next(f, at);
        if (next != at && is_lost(c, next)) inner[next] = 1;
    }
}

/* The first free name of LOST0001.BIN to LOST9999.BIN. */
static bl_status free_name(fat_checking *c, char name[13], unsigned *number)
{
    fat_item item;
    bl_status status = BL_OK;
    for (; *number < 9999 && status == BL_OK;) {
        ++*number;
        bl_format(name, 13, "LOST%04u.BIN", *number);
        status = bl_fat_find_in(c->d, 0, name, 12, &item);
    }
    return status == BL_E_NOT_FOUND ? BL_OK : status == BL_OK ? BL_E_FULL : status;
}

/* Makes a chain from first on a file: it ends where it leads to anything that is not lost. */
static bl_status keep_chain(fat_checking *c, uint32_t first, unsigned *number)
{
    fat *f = fat_of(c->d);
    fat_place place;
    uint8_t raw[FAT_ENTRY] = {0};
    char name[13];
    uint32_t count = 0, last = 0;
    bl_sink told = bl_disk_hush(c->d);
    bl_status status = free_name(c, name, number);
    if (status == BL_OK) status = bl_fat_free_slot(c->d, 0, &place);
    c->d->setup.sink = told;
    if (status != BL_OK) return status;
    for (uint32_t at = first; is_lost(c, at); at = bl_fat_next(f, at)) {
        c->owner[at] = ++c->chains;
        count++, last = at;
    }
    if (bl_fat_next(f, last) != FAT_END) bl_fat_set(f, last, FAT_END), c->changed = true;
    memcpy(raw, name, 8);
    memcpy(raw + 8, name + 9, 3);
    raw[11] = BL_DISK_ARCHIVE;
    bl_fat_stamp(raw, c->d->setup.now);
    bl_put_little16(raw + 26, first);
    bl_put_little32(raw + 28, count * f->cluster_bytes);
    status = bl_fat_write_entry(c->d, place, raw);
    if (status == BL_OK)
        bl_disk_find_broken(c->r, true, true, NULL,
                            "%lu cluster%s marked as used, and of no file: kept as %s",
                            (unsigned long)count, bl_plural(count), name);
    return status;
}

/* Heads of chains first; what is left then are loops. The table goes to the disk before entries
 * lead to what it says. */
static bl_status keep_all(fat_checking *c, const uint8_t *inner)
{
    const fat *f = fat_of(c->d);
    unsigned number = 0;
    bl_status status = c->changed ? bl_fat_table_flush(c->d) : BL_OK;
    for (unsigned loops = 0; loops < 2; loops++)
        for (uint32_t at = FAT_FIRST; fat_is_cluster(f, at) && status == BL_OK; at++)
            if (is_lost(c, at) && (loops != 0 || inner[at] == 0))
                status = keep_chain(c, at, &number);
    return status;
}

static void give_back(fat_checking *c)
{
    fat *f = fat_of(c->d);
    for (uint32_t at = FAT_FIRST; fat_is_cluster(f, at); at++)
        if (is_lost(c, at)) bl_fat_set(f, at, FAT_FREE), c->changed = true;
}

bl_status bl_fat_rescue(fat_checking *c)
{
    const fat *f = fat_of(c->d);
    uint8_t *inner = bl_disk_room(c->d, f->clusters + FAT_FIRST, 1);
    bl_status status = BL_OK;
    if (inner == NULL) return BL_E_MEMORY;
    mark_inner(c, inner);
    /* Files of a folder that was not followed are not lost; and what a file has lost may be here.
     */
    bool mends = c->repair && !c->cut, drops = c->r->drop && c->r->losses == 0;
    bool keeps = mends && !drops, gives = mends && drops;
    if (c->lost > 0 && gives) give_back(c);
    if (c->lost > 0 && keeps) status = keep_all(c, inner);
    bl_disk_free(c->d, inner);
    if (c->lost == 0 || (keeps && status == BL_OK)) return status;
    bool full = status == BL_E_FULL;
    bl_disk_find_broken(c->r, gives, !c->cut && !full,
                        full     ? "the main folder is full: delete a file, or --repair --drop "
                                   "gives them back"
                        : c->cut ? "files of the folder that is not whole may be in them: they are "
                                   "left as they are; check again after it was repaired"
                                 : NULL,
                        "%lu cluster%s marked as used, and of no file: what is left of a change "
                        "that was not finished, or of a file that was deleted%s",
                        (unsigned long)c->lost, bl_plural(c->lost), gives ? "; given back" : "");
    return full ? BL_OK : status;
}
