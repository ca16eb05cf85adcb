/* sectors.c - a part of a disk's sectors; tracks, sides and skew. */
#include "bootlace/sectors.h"

#include "base/core.h"

static bl_status read_part(void *context, uint32_t sector, uint8_t *bytes)
{
    const bl_sectors_part *p = context;
    return p->whole.read(p->whole.context, p->first + sector, bytes);
}

static bl_status write_part(void *context, uint32_t sector, const uint8_t *bytes)
{
    const bl_sectors_part *p = context;
    return p->whole.write(p->whole.context, p->first + sector, bytes);
}

bl_status bl_sectors_cut(bl_sectors_part *part, const bl_sectors *whole, uint32_t first,
                         uint32_t count, bl_sectors *sectors)
{
    if (first > whole->count || count > whole->count - first) return BL_E_RANGE;
    *part = (bl_sectors_part){*whole, first};
    *sectors = (bl_sectors){part, read_part, write_part, count, whole->size};
    return BL_OK;
}

uint16_t bl_skewed(uint16_t sectors, uint8_t skew, uint16_t logical)
{
    uint8_t taken[256] = {0};
    uint16_t at = 0;
    BL_ASSERT(sectors <= sizeof taken && logical < sectors);
    if (skew < 2) return logical;
    for (uint16_t i = 0;; i++) {
        while (taken[at] != 0)
            at = (uint16_t)((at + 1) % sectors);
        if (i == logical) return at;
        taken[at] = 1;
        at = (uint16_t)((at + skew) % sectors);
    }
}

bool bl_geometry_sector(const bl_geometry *g, uint32_t track, uint32_t side, uint32_t sector,
                        uint32_t *number)
{
    if (track >= g->tracks || side >= g->sides || sector == 0 || sector > g->sectors) return false;
    *number = (track * g->sides + side) * g->sectors +
              bl_skewed(g->sectors, g->skew, (uint16_t)(sector - 1));
    return true;
}
