/* classic.h - the classic layout of 8-bit machines: files in records of 128 bytes, whose blocks are
 * listed in entries of one directory.
 *
 * Nothing on such a disk says how it is laid out: its parameters do, and must be known. An entry
 * has 32 bytes: user area; name (8) and type (3), whose top bits are attributes; extent, exact
 * count, upper part of the extent, records; and 16 bytes with the numbers of blocks: of 8 bits
 * where the disk has at most 256 blocks, else of 16, the lowest byte first. docs/disk.md.
 */
#ifndef BOOTLACE_CLASSIC_H
#define BOOTLACE_CLASSIC_H

#include "disk.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_CLASSIC_NAME = 24, BL_CLASSIC_TRACK = 255 };

/* How the sectors of a track follow each other is the same on all but the system tracks. */
typedef struct bl_classic {
    char name[BL_CLASSIC_NAME];
    uint16_t sector;  /* bytes: 128, 256, 512 or 1024 */
    uint16_t track;   /* sectors a track, at most BL_CLASSIC_TRACK */
    uint16_t tracks;  /* in all; those of two sides count twice, in the order of the image */
    uint16_t system;  /* of them for the system, from the first */
    uint16_t block;   /* bytes: 1024, 2048 ... 16384 */
    uint16_t entries; /* of the directory, which begins in the first block */
    uint8_t skew;     /* physical sectors from one logical sector to the next; 0, 1: none */
    uint8_t order[BL_CLASSIC_TRACK]; /* instead: the physical sectors, from 1; order[0] 0: none */
    uint8_t extents; /* of 16 KiB that an entry describes at most; 0: as many as it has room for */
} bl_classic;

/* Those that are shipped, by index; NULL: there are no more. */
const bl_classic *bl_classic_shipped(size_t index);
/* Can there be such a disk? BL_E_RANGE: no; *why says why, with static text. */
bl_status bl_classic_check_layout(const bl_classic *layout, const char **why);
/* Bytes of a whole disk. */
uint32_t bl_classic_bytes(const bl_classic *layout);
/* The physical sector, from 0, of a logical one of a track. */
uint16_t bl_classic_physical(const bl_classic *layout, uint16_t logical);
/* Fills all of it with $E5: an empty directory. sectors may be of another size. */
bl_status bl_classic_format(const bl_sectors *sectors, const bl_classic *layout);
/* The layout that an open disk has; NULL: it is none of this kind. */
const bl_classic *bl_classic_of(const bl_disk *d);

#ifdef __cplusplus
}
#endif
#endif
