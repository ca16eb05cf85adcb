/* fat_table.c - the allocation table: chains of clusters. */
#include "fat_volume.h"

/* ---- the table in memory ---- */

/* A sector of the first table, or of a copy where that cannot be read. */
static bl_status load_table_sector(bl_disk *d, uint32_t index, uint8_t *bytes)
{
    fat *f = fat_of(d);
    bl_status status = BL_E_IO;
    bl_sink told = bl_disk_hush(d);
    uint32_t copies = 0;
    for (uint32_t copy = 0; copy < f->tables && status != BL_OK; copy++, copies++) {
        if (copy + 1 == f->tables) d->setup.sink = told;
        status = bl_fat_read(d, f->reserved + copy * f->table_sectors + index, bytes);
    }
    d->setup.sink = told;
    if (status == BL_OK && copies > 1)
        bl_report(&d->setup.sink, BL_WARNING, d->setup.title, 0, "copy its files to another disk",
                  "sector %lu of the first allocation table cannot be read; its copy was taken",
                  (unsigned long)index);
    return status;
}

bl_status bl_fat_table_load(bl_disk *d)
{
    fat *f = fat_of(d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < f->used_sectors && status == BL_OK; i++) {
        status = load_table_sector(d, i, f->table + (size_t)i * f->sector);
        f->dirty[i] = 0;
    }
    return status;
}

uint32_t bl_fat_next(const fat *f, uint32_t cluster)
{
    uint32_t value;
    BL_ASSERT(cluster < f->clusters + FAT_FIRST);
    if (f->wide) {
        value = bl_little16(f->table + cluster * 2);
        return value >= 0xFFF8 ? FAT_END : value;
    }
    value = bl_little16(f->table + cluster + cluster / 2);
    value = (cluster & 1) != 0 ? value >> 4 : value & 0xFFF;
    return value >= 0xFF8 ? FAT_END : value == 0xFF7 ? FAT_BAD : value;
}

static void touch(fat *f, uint32_t at)
{
    f->dirty[at / f->sector] = 1;
}

void bl_fat_set(fat *f, uint32_t cluster, uint32_t next)
{
    BL_ASSERT(fat_is_cluster(f, cluster));
    uint32_t at = f->wide ? cluster * 2 : cluster + cluster / 2;
    uint8_t *p = f->table + at;
    uint32_t value = next;
    if (!f->wide) {
        value &= 0xFFF;
        value = (cluster & 1) != 0 ? value << 4 | (p[0] & 0x0F) : value | (p[1] & 0xF0u) << 8;
    }
    bl_put_little16(p, value);
    touch(f, at), touch(f, at + 1);
}

/* One copy after the other, so that at any moment one of them is whole. */
bl_status bl_fat_table_flush(bl_disk *d)
{
    fat *f = fat_of(d);
    bl_status status = BL_OK;
    for (uint32_t copy = 0; copy < f->tables; copy++)
        for (uint32_t i = 0; i < f->used_sectors && status == BL_OK; i++)
            if (f->dirty[i] != 0)
                status = bl_fat_write(d, f->reserved + copy * f->table_sectors + i,
                                      f->table + (size_t)i * f->sector);
    if (status == BL_OK) memset(f->dirty, 0, (size_t)f->used_sectors);
    return status;
}

/* FAT16 has two bits in the entry of cluster 1: put away in order, and no errors met. */
bool bl_fat_table_clean(const fat *f)
{
    return !f->wide || (f->table[3] & 0xC0) == 0xC0;
}

void bl_fat_table_clear_marks(fat *f)
{
    f->table[3] = (uint8_t)(f->table[3] | 0xC0);
    touch(f, 3);
}

void bl_fat_set_media(fat *f)
{
    f->table[0] = f->media, f->table[1] = f->table[2] = 0xFF;
    touch(f, 0);
}

/* ---- chains ---- */

const char bl_fat_loop[] = "it is a loop";

const char *bl_fat_chain_fault(const fat *f, uint32_t cluster)
{
    if (cluster == FAT_BAD) return "it leads to a cluster that is marked as bad";
    if (cluster == FAT_FREE) return "it leads to a cluster that is free";
    if (cluster != FAT_END && !fat_is_cluster(f, cluster))
        return "it leads to a cluster that does not exist";
    return NULL;
}

uint32_t bl_fat_chain_length(const fat *f, uint32_t first, const char **why)
{
    uint32_t count = 0, cluster = first;
    *why = NULL;
    while (cluster != FAT_END) {
        *why = bl_fat_chain_fault(f, cluster);
        if (*why == NULL && count == f->clusters) *why = bl_fat_loop;
        if (*why != NULL) return count;
        count++;
        cluster = bl_fat_next(f, cluster);
    }
    return count;
}

bool bl_fat_chain_covers(const fat *f, uint32_t first, uint32_t need, const char **why)
{
    if (need == 0) return true;
    uint32_t length = bl_fat_chain_length(f, first, why);
    if (*why == bl_fat_loop) return false;
    if (length >= need) return true;
    if (*why == NULL) *why = "it ends too early";
    return false;
}

uint32_t bl_fat_chain_pieces(const fat *f, uint32_t first, uint32_t count)
{
    uint32_t pieces = count > 0 ? 1 : 0;
    for (; count > 1; count--) {
        uint32_t next = bl_fat_next(f, first);
        if (next != first + 1) pieces++;
        first = next;
    }
    return pieces;
}

void bl_fat_chain_release(fat *f, uint32_t first)
{
    while (fat_is_cluster(f, first)) {
        uint32_t next = bl_fat_next(f, first);
        bl_fat_set(f, first, FAT_FREE);
        first = next;
    }
}

uint32_t bl_fat_count_free(const fat *f, uint32_t *largest, uint32_t *bad)
{
    uint32_t count = 0, run = 0;
    *largest = *bad = 0;
    for (uint32_t c = FAT_FIRST; fat_is_cluster(f, c); c++) {
        uint32_t next = bl_fat_next(f, c);
        if (next == FAT_BAD) ++*bad;
        run = next == FAT_FREE ? run + 1 : 0;
        if (next == FAT_FREE) count++;
        if (run > *largest) *largest = run;
    }
    return count;
}

/* The first run of so many free clusters; 0: there is none. */
static uint32_t find_run(const fat *f, uint32_t count)
{
    uint32_t run = 0;
    for (uint32_t c = FAT_FIRST; fat_is_cluster(f, c); c++) {
        run = bl_fat_next(f, c) == FAT_FREE ? run + 1 : 0;
        if (run == count) return c + 1 - count;
    }
    return 0;
}

uint32_t bl_fat_take(fat *f, uint32_t count)
{
    uint32_t largest, bad, first = 0, last = 0;
    BL_ASSERT(count > 0);
    if (bl_fat_count_free(f, &largest, &bad) < count) return 0;
    uint32_t c = largest >= count ? find_run(f, count) : FAT_FIRST;
    for (; count > 0; c++) {
        BL_ASSERT(fat_is_cluster(f, c));
        if (bl_fat_next(f, c) != FAT_FREE) continue;
        if (first == 0) first = c;
        if (last != 0) bl_fat_set(f, last, c);
        bl_fat_set(f, c, FAT_END);
        last = c, count--;
    }
    return first;
}
