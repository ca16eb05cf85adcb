/* sectors.h - sectors of a disk, counted in other ways: a part of them, tracks and sides, and the
 * partition table of cards.
 *
 * Source of the table: the description of a master boot record that all PC systems share; its
 * numbers have the lowest byte first.
 */
#ifndef BOOTLACE_SECTORS_H
#define BOOTLACE_SECTORS_H

#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A run of the sectors of a disk as a disk of its own. */
typedef struct bl_sectors_part {
    bl_sectors whole;
    uint32_t first;
} bl_sectors_part;

/* part must stay where it is while its sectors are used. BL_E_RANGE: it does not lie within. */
bl_status bl_sectors_cut(bl_sectors_part *part, const bl_sectors *whole, uint32_t first,
                         uint32_t count, bl_sectors *sectors);

/* How the sectors of a disk with tracks lie in an image of it: track by track, the sides of each
 * one after the other. */
typedef struct bl_geometry {
    uint16_t tracks;  /* of one side */
    uint8_t sides;    /* 1 or 2 */
    uint16_t sectors; /* of a track of one side; they count from 1 */
    uint8_t skew;     /* physical sectors from one logical one to the next; 0, 1: none */
} bl_geometry;

/* The number of a sector; physical as the image has it, or as it is counted with the skew. False:
 * there is none. */
bool bl_geometry_sector(const bl_geometry *g, uint32_t track, uint32_t side, uint32_t sector,
                        uint32_t *number);
/* The physical sector of a track, from 0, for a logical one, with a skew: one that is taken already
 * gives way to the next. */
uint16_t bl_skewed(uint16_t sectors, uint8_t skew, uint16_t logical);

/* ---- partitions ---- */

enum { BL_PARTITIONS = 16 };

typedef struct bl_partition {
    uint8_t kind; /* $01, $04, $06, $0E: FAT12 and FAT16 */
    bool active, logical;
    uint32_t first, count; /* sectors of 512 bytes */
} bl_partition;

bool bl_partition_is_fat(const bl_partition *p);
/* Reads the table, and those that extended partitions lead to. BL_E_NOT_FOUND: there is none; the
 * disk is one volume. BL_E_DAMAGED: a partition lies beyond the disk's end, or over another, or the
 * tables lead in circles: *count were good until there. */
bl_status bl_partitions_read(const bl_sectors *sectors, bl_partition list[BL_PARTITIONS],
                             size_t *count);
/* Writes a table with one partition into sector 0, whose code stays 0. track and heads: as the
 * volume says. */
bl_status bl_partition_make(const bl_sectors *sectors, const bl_partition *p, uint16_t track,
                            uint16_t heads);

#ifdef __cplusplus
}
#endif
#endif
