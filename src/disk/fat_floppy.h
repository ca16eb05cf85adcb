/* fat_floppy.h - FAT on floppies, as is usual for their sizes. */
#ifndef BOOTLACE_SRC_FAT_FLOPPY_H
#define BOOTLACE_SRC_FAT_FLOPPY_H

#include "bootlace/base.h"

typedef struct fat_floppy {
    uint16_t total; /* sectors of 512 bytes */
    uint8_t cluster, table_sectors;
    uint16_t root_entries;
    uint8_t media, track, heads;
} fat_floppy;

/* By how many sectors it has; NULL: no floppy has so many. */
const fat_floppy *bl_fat_floppy(uint32_t total);

#endif
