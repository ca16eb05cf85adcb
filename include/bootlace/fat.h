/* fat.h - FAT12 and FAT16: making one.
 *
 * Source: ECMA-107, and "FAT: General Overview of On-Disk Format" 1.03 of the maker.
 */
#ifndef BOOTLACE_FAT_H
#define BOOTLACE_FAT_H

#include "disk.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What a FAT volume is to be like. Numbers that are 0: as is usual for its size. */
typedef struct bl_fat_plan {
    bool wide;              /* FAT16, else FAT12 */
    uint32_t total;         /* sectors of 512 bytes */
    uint8_t cluster;        /* sectors of one: 1, 2, 4 ... 64 */
    uint16_t root_entries;  /* a multiple of 16 */
    uint16_t table_sectors; /* of each of two tables */
    uint8_t media;          /* $F0, $F8 ... $FF */
    uint16_t track, heads;  /* sectors a track, sides */
    uint32_t hidden;        /* sectors before it on the whole disk */
    uint32_t serial;        /* its number */
    char label[12];         /* 8-bit characters, in upper case; "": none */
    bl_disk_time now;       /* of the label */
} bl_fat_plan;

enum { BL_FAT_SECTOR = 512 };

/* Do the first 36 bytes of a disk describe a FAT volume? */
bool bl_fat_is_boot_sector(const uint8_t *bytes);
/* Fills in what is 0 or unset: floppies as is usual for their size (160K to 2.88M), else clusters
 * as small as fit. BL_E_RANGE: no such volume can be; *why says why, with static text. */
bl_status bl_fat_plan_complete(bl_fat_plan *plan, const char **why);
/* Writes an empty volume over what is there: every sector of its tables and its main folder, and
 * its boot sector last. sectors->size is 512 bytes, sectors->count at least plan->total. */
bl_status bl_fat_format(const bl_sectors *sectors, const bl_fat_plan *plan);

/* A label of up to 11 characters, from text. False: it has more, or one that a label can't have. */
bool bl_fat_label_make(bl_text text, char label[12]);

#ifdef __cplusplus
}
#endif
#endif
