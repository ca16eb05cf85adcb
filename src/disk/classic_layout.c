/* classic_layout.c - parameters of the classic layout. */
#include "bootlace/classic.h"
#include "bootlace/sectors.h"
#include "classic_volume.h"

/* By their numbers: docs/disk.md has the table. */
static const bl_classic shipped[] = {
    {"8-inch-250k", 128, 26, 77, 2, 1024, 64, 6, {0}, 0},
    {"8-inch-500k", 256, 26, 77, 2, 2048, 128, 0, {0}, 0},
    {"5-inch-200k", 512, 10, 40, 1, 1024, 64, 0, {0}, 0},
    {"5-inch-400k", 512, 10, 80, 2, 2048, 128, 0, {0}, 0},
    {"3-inch-720k", 512, 9, 160, 2, 2048, 128, 0, {0}, 0},
    {"3-inch-1440k", 512, 18, 160, 2, 4096, 256, 0, {0}, 0},
    {"card-8m", 512, 32, 512, 1, 4096, 512, 0, {0}, 0},
};

const bl_classic *bl_classic_shipped(size_t index)
{
    return index < sizeof shipped / sizeof shipped[0] ? &shipped[index] : NULL;
}

uint32_t bl_classic_bytes(const bl_classic *l)
{
    return (uint32_t)l->sector * l->track * l->tracks;
}

static bool order_is_whole(const bl_classic *l)
{
    uint8_t seen[BL_CLASSIC_TRACK + 1] = {0};
    if (l->order[0] == 0) return true;
    for (unsigned i = 0; i < l->track; i++) {
        if (l->order[i] == 0 || l->order[i] > l->track || seen[l->order[i]] != 0) return false;
        seen[l->order[i]] = 1;
    }
    return true;
}

bl_status bl_classic_check_layout(const bl_classic *l, const char **why)
{
    *why = NULL;
    bool sizes = bl_disk_is_power_of_two(l->sector) && l->sector >= 128 && l->sector <= 1024;
    bool block = bl_disk_is_power_of_two(l->block) && l->block >= 1024 && l->block <= 16384;
    if (!sizes) *why = "sectors have 128, 256, 512 or 1024 bytes";
    if (!block) *why = "blocks have 1024, 2048, 4096, 8192 or 16384 bytes";
    if (l->track == 0 || l->track > BL_CLASSIC_TRACK) *why = "a track has 1 to 255 sectors";
    if (l->tracks <= l->system) *why = "there are no tracks besides those of the system";
    if (*why != NULL) return BL_E_RANGE;
    if ((uint64_t)l->sector * l->track * l->tracks > 0x10000000u) *why = "it has more than 256 MiB";
    if (!order_is_whole(l)) *why = "the order of sectors names each sector of a track once";
    if (l->entries == 0 || l->entries * CLASSIC_ENTRY % l->sector != 0)
        *why = "the entries of the directory fill whole sectors";
    if (*why != NULL) return BL_E_RANGE;
    uint32_t blocks = (uint32_t)(l->tracks - l->system) * l->track * l->sector / l->block;
    uint32_t directory = ((uint32_t)l->entries * CLASSIC_ENTRY + l->block - 1) / l->block;
    uint32_t most = (blocks <= 256 ? 16u : 8u) * l->block / 16384;
    if (blocks > 65536) *why = "it has more than 65,536 blocks: use larger ones";
    if (blocks <= directory) *why = "there is no block besides those of the directory";
    if (most == 0) *why = "with so many blocks, one must have 2048 bytes at least";
    if (l->extents > most || (l->extents != 0 && !bl_disk_is_power_of_two(l->extents)))
        *why = "an entry has no room for so many extents";
    return *why == NULL ? BL_OK : BL_E_RANGE;
}

uint16_t bl_classic_physical(const bl_classic *l, uint16_t logical)
{
    if (l->order[0] != 0) return (uint16_t)(l->order[logical] - 1);
    return bl_skewed(l->track, l->skew, logical);
}

bl_status bl_classic_format(const bl_sectors *s, const bl_classic *l)
{
    uint8_t sector[4096];
    const char *why;
    if (s->size > sizeof sector || bl_classic_check_layout(l, &why) != BL_OK ||
        (uint64_t)s->count * s->size < bl_classic_bytes(l))
        return BL_E_ARGUMENT;
    memset(sector, CLASSIC_EMPTY, sizeof sector);
    uint32_t count = (bl_classic_bytes(l) + s->size - 1) / s->size;
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < count && status == BL_OK; i++)
        status = s->write(s->context, i, sector);
    return status;
}
