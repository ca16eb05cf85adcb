/* partition.c - the partition table of cards and hard disks. */
#include "bootlace/fat.h"
#include "bootlace/sectors.h"
#include "disk_kind.h"

enum {
    TABLE = 446,
    ROW = 16,
    ROWS = 4,
    MARK = 510,
    TABLE_SECTOR = 512,
    EXTENDED_CHS = 0x05,
    EXTENDED_LBA = 0x0F,
};

bool bl_partition_is_fat(const bl_partition *p)
{
    return p->kind == 0x01 || p->kind == 0x04 || p->kind == 0x06 || p->kind == 0x0E;
}

static bool is_extended(const bl_partition *p)
{
    return p->kind == EXTENDED_CHS || p->kind == EXTENDED_LBA;
}

static bool has_mark(const uint8_t *b)
{
    return b[MARK] == 0x55 && b[MARK + 1] == 0xAA;
}

static bl_partition partition_row(const uint8_t *b, unsigned index)
{
    const uint8_t *row = b + TABLE + index * ROW;
    return (bl_partition){.kind = row[4],
                          .active = (row[0] & 0x80) != 0,
                          .first = bl_little32(row + 8),
                          .count = bl_little32(row + 12)};
}

/* Each row says that it is active or not, and in nothing else; some row is used. */
static bool is_table(const uint8_t *b)
{
    bool used = false;
    for (unsigned i = 0; i < ROWS; i++) {
        bl_partition p = partition_row(b, i);
        if ((b[TABLE + i * ROW] & 0x7F) != 0) return false;
        if (p.kind != 0 && (p.first == 0 || p.count == 0)) return false;
        used = used || p.kind != 0;
    }
    return has_mark(b) && used;
}

static bool lies_apart(const bl_sectors *s, const bl_partition *list, size_t count,
                       const bl_partition *p)
{
    if (p->first >= s->count || p->count > s->count - p->first) return false;
    for (size_t i = 0; i < count; i++)
        if (p->first < list[i].first + list[i].count && list[i].first < p->first + p->count)
            return false;
    return true;
}

/* An extended partition holds tables of two rows: a partition, counted from the table, and the next
 * table, counted from the first of them. */
static bl_status read_logical(const bl_sectors *s, uint32_t base, uint32_t room, bl_partition *list,
                              size_t *count)
{
    uint8_t b[TABLE_SECTOR];
    uint32_t at = 0;
    for (unsigned steps = 0; steps < BL_PARTITIONS; steps++) {
        bl_status status = s->read(s->context, base + at, b);
        if (status != BL_OK) return status;
        if (!has_mark(b)) return BL_E_DAMAGED;
        bl_partition p = partition_row(b, 0), next = partition_row(b, 1);
        if (p.kind != 0) {
            if (p.first > s->count || p.count > s->count || *count == BL_PARTITIONS)
                return BL_E_DAMAGED;
            p.first += base + at, p.logical = true;
            if (!lies_apart(s, list, *count, &p)) return BL_E_DAMAGED;
            list[(*count)++] = p;
        }
        if (next.kind == 0) return BL_OK;
        if (next.first <= at || next.first >= room) return BL_E_DAMAGED;
        at = next.first;
    }
    return BL_E_DAMAGED;
}

bl_status bl_partitions_read(const bl_sectors *s, bl_partition list[BL_PARTITIONS], size_t *count)
{
    uint8_t b[TABLE_SECTOR];
    *count = 0;
    if (s->size != TABLE_SECTOR || s->count < 2) return BL_E_NOT_FOUND;
    bl_status status = s->read(s->context, 0, b);
    if (status != BL_OK) return status;
    if (bl_fat_is_boot_sector(b) || !is_table(b)) return BL_E_NOT_FOUND;
    for (unsigned i = 0; i < ROWS; i++) {
        bl_partition p = partition_row(b, i);
        if (p.kind == 0 || is_extended(&p)) continue;
        if (!lies_apart(s, list, *count, &p)) return BL_E_DAMAGED;
        list[(*count)++] = p;
    }
    for (unsigned i = 0; i < ROWS; i++) {
        bl_partition p = partition_row(b, i);
        if (!is_extended(&p)) continue;
        if (p.first >= s->count) return BL_E_DAMAGED;
        status = read_logical(s, p.first, p.count, list, count);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

/* Cylinder, head and sector in three bytes; beyond what they can say all of it is at its most. */
static void put_place(uint8_t *to, uint32_t sector, uint16_t track, uint16_t heads)
{
    uint32_t cylinder = sector / track / heads;
    to[0] = 0xFE, to[1] = 0xFF, to[2] = 0xFF;
    if (cylinder > 1023) return;
    to[0] = (uint8_t)(sector / track % heads);
    to[1] = (uint8_t)((sector % track + 1) | (cylinder >> 2 & 0xC0));
    to[2] = (uint8_t)cylinder;
}

bl_status bl_partition_make(const bl_sectors *s, const bl_partition *p, uint16_t track,
                            uint16_t heads)
{
    uint8_t b[TABLE_SECTOR] = {0};
    if (s->size != TABLE_SECTOR || p->first == 0 || !lies_apart(s, NULL, 0, p) || track == 0 ||
        track > 63 || heads == 0)
        return BL_E_ARGUMENT;
    uint8_t *row = b + TABLE;
    row[0] = p->active ? 0x80 : 0;
    put_place(row + 1, p->first, track, heads);
    row[4] = p->kind;
    put_place(row + 5, p->first + p->count - 1, track, heads);
    bl_put_little32(row + 8, p->first);
    bl_put_little32(row + 12, p->count);
    b[MARK] = 0x55, b[MARK + 1] = 0xAA;
    return s->write(s->context, 0, b);
}
