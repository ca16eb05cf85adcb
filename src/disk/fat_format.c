/* fat_format.c - an empty FAT volume. */
#include "fat_floppy.h"
#include "fat_volume.h"

static const fat_floppy floppies[] = {
    {320, 1, 1, 64, 0xFE, 8, 1},    {360, 1, 2, 64, 0xFC, 9, 1},    {640, 2, 1, 112, 0xFF, 8, 2},
    {720, 2, 2, 112, 0xFD, 9, 2},   {1280, 2, 2, 112, 0xFB, 8, 2},  {1440, 2, 3, 112, 0xF9, 9, 2},
    {2400, 1, 7, 224, 0xF9, 15, 2}, {2880, 1, 9, 224, 0xF0, 18, 2}, {5760, 2, 9, 240, 0xF0, 36, 2},
};

const fat_floppy *bl_fat_floppy(uint32_t total)
{
    for (unsigned i = 0; i < sizeof floppies / sizeof floppies[0]; i++)
        if (floppies[i].total == total) return &floppies[i];
    return NULL;
}

enum {
    MOST_NARROW = 4084, /* clusters of FAT12 */
    CLEARANCE = 16, /* that is kept from both limits: not everybody draws them at the same place */
    RESERVED = 1,
    TABLES = 2,
    BOOT_MARK = 510,
};

#define MOST_WIDE 65524u /* clusters of FAT16 */

static uint32_t root_sectors_of(const bl_fat_plan *p)
{
    return p->root_entries * (uint32_t)FAT_ENTRY / BL_FAT_SECTOR;
}

/* Sectors of a table for so many clusters, the two that do not exist included. */
static uint32_t sectors_of_table(const bl_fat_plan *p, uint32_t clusters)
{
    uint32_t bytes = p->wide ? (clusters + 2) * 2 : ((clusters + 2) * 3 + 1) / 2;
    return (bytes + BL_FAT_SECTOR - 1) / BL_FAT_SECTOR;
}

static uint32_t clusters_with(const bl_fat_plan *p, uint32_t cluster, uint32_t table)
{
    uint32_t before = RESERVED + TABLES * table + root_sectors_of(p);
    return p->total > before ? (p->total - before) / cluster : 0;
}

/* The smallest table that has an entry for each cluster that there then is. */
static uint32_t table_for(const bl_fat_plan *p, uint32_t cluster)
{
    uint32_t table = 1;
    while (sectors_of_table(p, clusters_with(p, cluster, table)) > table)
        table++;
    return table;
}

/* Clusters as small as there may be of them; of FAT16 not smaller than is usual for the size, for
 * long tables make slow machines slower. */
static uint8_t cluster_for(const bl_fat_plan *p)
{
    uint32_t most = (p->wide ? MOST_WIDE : MOST_NARROW) - CLEARANCE, cluster = 1;
    if (p->wide && p->total >= 32768) cluster = 4; /* 16 MiB */
    while (cluster < 64 && clusters_with(p, cluster, table_for(p, cluster)) > most)
        cluster *= 2;
    while (p->wide && cluster > 1 &&
           clusters_with(p, cluster, table_for(p, cluster)) <= MOST_NARROW)
        cluster /= 2;
    return (uint8_t)cluster;
}

/* The largest number of sectors a track that divides the whole, so that all tracks are whole. */
static void fill_geometry(bl_fat_plan *p)
{
    uint16_t track = 63;
    while (track > 1 && p->total % track != 0)
        track--;
    p->track = track;
    p->heads = (uint16_t)(p->total / track >= 1024 * 16 ? 255 : 16);
}

static void fill_floppy(bl_fat_plan *p)
{
    const fat_floppy *f = p->hidden == 0 && !p->wide ? bl_fat_floppy(p->total) : NULL;
    if (f != NULL && p->cluster == 0 && p->root_entries == 0) {
        p->cluster = f->cluster, p->root_entries = f->root_entries;
        if (p->table_sectors == 0) p->table_sectors = f->table_sectors;
    }
    if (p->media == 0) p->media = f != NULL ? f->media : 0xF8;
    if (f != NULL && p->track == 0) p->track = f->track, p->heads = f->heads;
}

/* A volume whose last clusters would be too many ends before them. */
static void cut_to_most(bl_fat_plan *p, uint32_t most)
{
    p->table_sectors = (uint16_t)sectors_of_table(p, most);
    uint32_t before = RESERVED + TABLES * (uint32_t)p->table_sectors + root_sectors_of(p);
    p->total = before + most * p->cluster;
    if (p->track != 0) p->total -= p->total % p->track;
}

bl_status bl_fat_plan_complete(bl_fat_plan *p, const char **why)
{
    *why = NULL;
    fill_floppy(p);
    if (p->root_entries == 0) p->root_entries = p->total < 8192 ? 224 : 512;
    if (p->track == 0) fill_geometry(p);
    if (p->cluster == 0) p->cluster = cluster_for(p);
    if (!bl_disk_is_power_of_two(p->cluster) || p->cluster > 64)
        *why = "clusters have 1, 2, 4, 8, 16, 32 or 64 sectors";
    else if (p->root_entries % 16 != 0)
        *why = "the main folder has a multiple of 16 entries";
    if (*why != NULL) return BL_E_RANGE;
    uint32_t most = p->wide ? MOST_WIDE : MOST_NARROW, table = table_for(p, p->cluster);
    if (p->table_sectors == 0) p->table_sectors = (uint16_t)(table > 65535 ? 65535 : table);
    uint32_t clusters = clusters_with(p, p->cluster, p->table_sectors);
    if (p->wide && clusters > most && p->cluster == 64 && clusters - most < 16) {
        cut_to_most(p, most - CLEARANCE);
        clusters = clusters_with(p, p->cluster, p->table_sectors);
    }
    if (clusters == 0) *why = "it is too small for any file";
    if (p->table_sectors < sectors_of_table(p, clusters) && clusters <= most)
        *why = "its table is too short";
    if (clusters > most)
        *why = p->wide ? "it is too large for FAT16, which ends at 2 GiB"
                       : "it is too large for FAT12 with clusters of that size: use fat16";
    if (p->wide && clusters <= MOST_NARROW)
        *why = "it is too small for FAT16, which needs 4,085 clusters: use fat12";
    return *why == NULL ? BL_OK : BL_E_RANGE;
}

/* A boot sector that says that it does not boot is code of some CPU; this one has none. */
static void make_boot_sector(const bl_fat_plan *p, uint8_t *b)
{
    memset(b, 0, BL_FAT_SECTOR);
    b[0] = 0xEB, b[1] = 0x3C, b[2] = 0x90; /* what others look for: a jump of an 8086 */
    memcpy(b + 3, "BOOTLACE", 8);
    bl_put_little16(b + 11, BL_FAT_SECTOR);
    b[13] = p->cluster;
    bl_put_little16(b + 14, RESERVED);
    b[16] = TABLES;
    bl_put_little16(b + 17, p->root_entries);
    bl_put_little16(b + 19, p->total < 65536 ? p->total : 0);
    b[21] = p->media;
    bl_put_little16(b + 22, p->table_sectors);
    bl_put_little16(b + 24, p->track);
    bl_put_little16(b + 26, p->heads);
    bl_put_little32(b + 28, p->hidden);
    bl_put_little32(b + 32, p->total < 65536 ? 0 : p->total);
    b[36] = p->media == 0xF8 ? 0x80 : 0;
    b[38] = 0x29; /* serial number, label and kind follow */
    bl_put_little32(b + 39, p->serial);
    memcpy(b + 43, "NO NAME    ", 11);
    if (p->label[0] != '\0') {
        memset(b + 43, ' ', 11);
        memcpy(b + 43, p->label, bl_length(p->label));
    }
    memcpy(b + 54, p->wide ? "FAT16   " : "FAT12   ", 8);
    b[BOOT_MARK] = 0x55, b[BOOT_MARK + 1] = 0xAA;
}

/* The label as the first entry of the main folder. */
static void make_label(const bl_fat_plan *p, uint8_t *entry)
{
    memset(entry, ' ', 11);
    memcpy(entry, p->label, bl_length(p->label));
    entry[11] = FAT_LABEL;
    bl_fat_stamp(entry, p->now);
}

bl_status bl_fat_format(const bl_sectors *s, const bl_fat_plan *plan)
{
    uint8_t sector[BL_FAT_SECTOR];
    uint32_t root = RESERVED + TABLES * (uint32_t)plan->table_sectors;
    bl_status status = BL_OK;
    if (s->size != BL_FAT_SECTOR || s->count < plan->total) return BL_E_ARGUMENT;
    for (uint32_t i = RESERVED; i < root + root_sectors_of(plan) && status == BL_OK; i++) {
        bool begins = i < root && (i - RESERVED) % plan->table_sectors == 0;
        memset(sector, 0, sizeof sector);
        if (begins) sector[0] = plan->media, sector[1] = sector[2] = 0xFF;
        if (begins && plan->wide) sector[3] = 0xFF;
        if (i == root && plan->label[0] != '\0') make_label(plan, sector);
        status = s->write(s->context, i, sector);
    }
    make_boot_sector(plan, sector);
    return status == BL_OK ? s->write(s->context, 0, sector) : status;
}
