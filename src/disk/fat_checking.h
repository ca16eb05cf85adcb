/* fat_checking.h - a check of a FAT volume, between the files that do it. */
#ifndef BOOTLACE_SRC_FAT_CHECKING_H
#define BOOTLACE_SRC_FAT_CHECKING_H

#include "fat_volume.h"

typedef struct fat_mix fat_mix;

#define FAT_SHARED 0x80000000u

/* A check under way. Each chain has a number, from 1. */
typedef struct fat_checking {
    bl_disk *d;
    bl_disk_report *r;
    bool repair, changed; /* the table was */
    uint32_t crossed;     /* so many chains lead into one of another file */
    bool entangled;       /* the same, known before anything is mended: then no chain is cut, for
                             what is behind the end of one file may be another's */
    bool cut;             /* some folder is not whole: what was in it seems lost */
    uint32_t lost;        /* clusters of no file */
    fat_mix *mix;         /* the copies of the table, to look for whole chains in; or NULL */
    uint32_t *owner;      /* of each cluster: the number of the chain; FAT_SHARED if more have it */
    uint32_t chains;
    uint32_t above[BL_DISK_DEEPEST + 1]; /* first clusters of the folders on the way */
    fat_path path;
    fat_item item; /* being looked at */
} fat_checking;

/* ---- fat_check.c ---- */
/* How much is wrong with files and folders by the table that is in memory: the less the better.
 * mix: chains that are not whole are looked for in all copies, and set if they are found. */
bl_status bl_fat_count_faults(bl_disk *d, fat_mix *mix, uint64_t *faults);

/* ---- fat_copies.c ---- */
/* A chain of exactly need clusters from first on, whose links are each in one of the copies. True:
 * there is one, and the table in memory has it. */
bool bl_fat_mix_chain(bl_disk *d, fat_mix *mix, uint32_t first, uint32_t need);

/* ---- fat_rescue.c ---- */
/* Clusters of no file: kept as files of their own in the main folder, or given back when that was
 * asked for. */
bl_status bl_fat_rescue(fat_checking *c);

#endif
