/* fat_volume.c - a volume is opened: its boot sector is read, and nothing of it believed. */
#include "fat_volume.h"

#include "fat_floppy.h"

/* ---- sectors ---- */

bl_status bl_fat_read(bl_disk *d, uint32_t sector, uint8_t *bytes)
{
    const fat *f = fat_of(d);
    return bl_disk_read_sectors(d, sector * f->ratio, f->ratio, bytes);
}

bl_status bl_fat_write(bl_disk *d, uint32_t sector, const uint8_t *bytes)
{
    fat *f = fat_of(d);
    bl_status status = bl_disk_write_sectors(d, sector * f->ratio, f->ratio, bytes);
    /* The buffer holds what the disk has, or nothing. */
    if (sector == f->buffered && (bytes != f->buffer || status != BL_OK)) f->buffered = UINT32_MAX;
    return status;
}

bl_status bl_fat_sector(bl_disk *d, uint32_t sector, uint8_t **bytes)
{
    fat *f = fat_of(d);
    *bytes = f->buffer;
    if (f->buffered == sector) return BL_OK;
    f->buffered = UINT32_MAX;
    bl_status status = bl_fat_read(d, sector, f->buffer);
    if (status == BL_OK) f->buffered = sector;
    return status;
}

/* ---- the boot sector ---- */

#define ANY_FAT_SECTOR_MOST 32768u

static bool is_media(uint8_t media)
{
    return media == 0xF0 || media >= 0xF8;
}

bool bl_fat_is_boot_sector(const uint8_t *b)
{
    uint32_t sector = bl_little16(b + 11);
    return bl_disk_is_power_of_two(sector) && sector >= 128 && sector <= ANY_FAT_SECTOR_MOST &&
           bl_disk_is_power_of_two(b[13]) && bl_little16(b + 14) > 0 && b[16] >= 1 && b[16] <= 4 &&
           is_media(b[21]) && (bl_little16(b + 19) != 0 || bl_little32(b + 32) != 0);
}

static void take_description(fat *f, const uint8_t *b)
{
    f->sector = bl_little16(b + 11);
    f->cluster_sectors = b[13];
    f->reserved = bl_little16(b + 14);
    f->tables = b[16];
    f->root_entries = bl_little16(b + 17);
    f->total = bl_little16(b + 19) != 0 ? bl_little16(b + 19) : bl_little32(b + 32);
    f->media = b[21];
    f->table_sectors = bl_little16(b + 22);
}

/* Floppies of before there were such descriptions: known by their size and the first byte of their
 * table. */
static bl_status take_floppy(bl_disk *d, fat *f, uint8_t *sector)
{
    if (d->sectors.size != BL_FAT_SECTOR) return BL_E_NOT_FOUND;
    bl_status status = bl_disk_read_sector(d, 1, sector);
    if (status != BL_OK) return status;
    const fat_floppy *p = bl_fat_floppy(d->sectors.count);
    if (p == NULL || p->total > 720 || sector[0] != p->media || sector[1] != 0xFF ||
        sector[2] != 0xFF)
        return BL_E_NOT_FOUND;
    f->sector = BL_FAT_SECTOR, f->cluster_sectors = p->cluster, f->reserved = 1, f->tables = 2;
    f->root_entries = p->root_entries, f->total = p->total, f->media = p->media;
    f->table_sectors = p->table_sectors, f->bare = true;
    return BL_OK;
}

/* Where everything is, and whether it can be there. All products fit 32 bits: a sector count is at
 * most 65,535 of at most 4 tables. */
static bl_status lay_out(bl_disk *d, fat *f)
{
    if (f->sector % d->sectors.size != 0)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, NULL,
                            "its sectors have %lu bytes, and those of the drive %u",
                            (unsigned long)f->sector, d->sectors.size);
    f->ratio = f->sector / d->sectors.size;
    if (f->table_sectors == 0 && f->root_entries == 0)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, "FAT12 and FAT16 are known", "it is FAT32");
    f->root = f->reserved + f->tables * f->table_sectors;
    f->root_sectors = (f->root_entries * FAT_ENTRY + f->sector - 1) / f->sector;
    f->data = f->root + f->root_sectors;
    f->cluster_bytes = f->cluster_sectors * f->sector;
    if (f->total > d->sectors.count / f->ratio)
        return bl_disk_fail(d, BL_E_DAMAGED, "the image was cut off, or is of another disk",
                            "it says that it has %lu sectors of %lu bytes; there are %lu",
                            (unsigned long)f->total, (unsigned long)f->sector,
                            (unsigned long)(d->sectors.count / f->ratio));
    if (f->table_sectors == 0 || f->root_entries == 0 || f->data >= f->total)
        return bl_disk_fail(d, BL_E_DAMAGED, "its boot sector was overwritten",
                            "there is no room for files between its table and its end");
    f->clusters = (f->total - f->data) / f->cluster_sectors;
    f->wide = f->clusters >= 4085;
    if (f->clusters == 0)
        return bl_disk_fail(d, BL_E_DAMAGED, NULL, "there is not even one cluster on it");
    if (f->clusters > 65524)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, "FAT12 and FAT16 are known",
                            "it has %lu clusters: that is FAT32", (unsigned long)f->clusters);
    f->table_bytes = f->wide ? (f->clusters + 2u) * 2 : ((f->clusters + 2u) * 3 + 1) / 2;
    f->used_sectors = (uint32_t)((f->table_bytes + f->sector - 1) / f->sector);
    if (f->used_sectors > f->table_sectors)
        return bl_disk_fail(d, BL_E_DAMAGED, "its boot sector was overwritten",
                            "its table has %lu sectors, and %lu clusters need %lu",
                            (unsigned long)f->table_sectors, (unsigned long)f->clusters,
                            (unsigned long)f->used_sectors);
    return BL_OK;
}

static void close_fat(bl_disk *d)
{
    fat *f = fat_of(d);
    bl_disk_free(d, f->table);
    bl_disk_free(d, f->dirty);
    bl_disk_free(d, f->buffer);
    bl_disk_free(d, f->scratch);
    bl_disk_free(d, f);
    d->state = NULL;
}

/* ---- what it says of itself ---- */

/* The label is an entry of the main folder; the boot sector only repeats it. */
static void label_of_fat(bl_disk *d, char label[BL_DISK_NAME])
{
    fat_walk w;
    fat_item item;
    bl_fat_walk_begin(&w, 0);
    while (bl_fat_next_item(d, &w, &item) == BL_OK && !item.end) {
        if ((item.raw[11] & (FAT_LABEL | FAT_FOLDER)) != FAT_LABEL) continue;
        bl_fat_label_text(item.raw, label);
        return;
    }
}

static void describe_fat(bl_disk *d, char *text, size_t capacity)
{
    const fat *f = fat_of(d);
    bl_format(text, capacity, "%lu KiB, %lu clusters of %lu bytes",
              (unsigned long)(f->total / 2 * (f->sector / 256) / 2), (unsigned long)f->clusters,
              (unsigned long)f->cluster_bytes);
}

static bl_status space_of_fat(bl_disk *d, bl_disk_space *space)
{
    const fat *f = fat_of(d);
    fat_walk w;
    uint8_t raw[FAT_ENTRY];
    fat_place place;
    space->unit = f->cluster_bytes, space->units = f->clusters;
    space->free = bl_fat_count_free(f, &space->largest, &space->broken);
    space->entries = space->entries_free = f->root_entries;
    bl_fat_walk_begin(&w, 0);
    bl_status status;
    bool ended = false;
    while ((status = bl_fat_walk(d, &w, raw, &place)) == BL_OK) {
        ended = ended || raw[0] == 0;
        if (!ended && raw[0] != FAT_DELETED) space->entries_free--;
    }
    return status == BL_E_NOT_FOUND ? BL_OK : status;
}

static bl_status boot_area_of_fat(bl_disk *d, uint32_t *sectors, uint32_t *from, uint32_t *count)
{
    const fat *f = fat_of(d);
    *sectors = f->reserved * f->ratio;
    *from = f->bare ? 0 : 11;
    *count = f->bare ? 0 : 62 - 11; /* up to the end of "FAT12   " */
    return BL_OK;
}

static const bl_disk_calls fat_calls = {
    .close = close_fat,
    .label = label_of_fat,
    .describe = describe_fat,
    .space = space_of_fat,
    .list = bl_fat_list,
    .find = bl_fat_find,
    .get = bl_fat_get,
    .put = bl_fat_put,
    .remove = bl_fat_remove,
    .rename = bl_fat_rename,
    .folder = bl_fat_folder,
    .check = bl_fat_check,
    .map = bl_fat_map,
    .boot_area = boot_area_of_fat,
};

static bl_status read_description(bl_disk *d, fat *f, uint8_t *sector)
{
    bl_status status = bl_disk_read_sector(d, 0, sector);
    if (status != BL_OK) return status;
    if (bl_fat_is_boot_sector(sector))
        take_description(f, sector);
    else
        status = take_floppy(d, f, sector);
    return status == BL_OK ? lay_out(d, f) : status;
}

static bl_status make_fat_room(bl_disk *d, fat *f)
{
    f->table = bl_disk_room(d, f->used_sectors, (size_t)f->sector);
    f->dirty = bl_disk_room(d, f->used_sectors, 1);
    f->buffer = bl_disk_room(d, f->sector, 1);
    f->scratch = bl_disk_room(d, f->sector, 1);
    f->buffered = UINT32_MAX;
    bool all = f->table != NULL && f->dirty != NULL && f->buffer != NULL && f->scratch != NULL;
    return all ? BL_OK : BL_E_MEMORY;
}

bl_status bl_fat_begin(bl_disk *d)
{
    uint8_t *sector = bl_disk_room(d, d->sectors.size, 1);
    fat *f = bl_disk_room(d, 1, sizeof *f);
    bl_status status = sector != NULL && f != NULL ? BL_OK : BL_E_MEMORY;
    if (status == BL_OK) status = read_description(d, f, sector);
    bl_disk_free(d, sector);
    if (status != BL_OK) {
        bl_disk_free(d, f);
        return status;
    }
    d->state = f;
    status = make_fat_room(d, f);
    if (status == BL_OK) status = bl_fat_table_load(d);
    if (status == BL_OK) status = bl_fat_judge_copies(d);
    if (status != BL_OK) {
        close_fat(d);
        return status;
    }
    d->calls = &fat_calls;
    d->kind = f->wide ? BL_DISK_FAT16 : BL_DISK_FAT12;
    return BL_OK;
}
