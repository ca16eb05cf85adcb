/* fat_disk.c - FAT volumes for the tests. */
#include "fat_disk.h"
#undef fat_disk_good

void fat_disk_begin(medium *m, uint32_t total, bool wide)
{
    bl_fat_plan plan = {.wide = wide, .total = total, .serial = 0x20261129};
    const char *why;
    medium_begin(m, total, BL_FAT_SECTOR);
    CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_OK);
    CHECK_INT(bl_fat_format(&m->sectors, &plan), BL_OK);
}

void fat_disk_good(const medium *m)
{
    const char *remarks = fat_peer_check(m->bytes, (size_t)m->sectors.count * m->sectors.size);
    if (remarks[0] != '\0') test_fail(__FILE__, __LINE__, "the peer remarks: %s", remarks);
}
