/* disk_map.h - which sectors of a disk belong to what, as cells of a picture. */
#ifndef BOOTLACE_DISK_MAP_H
#define BOOTLACE_DISK_MAP_H

#include "disk_volume.h"

enum { DISK_NOBODY = 0xFFFF };

typedef struct disk_cell {
    bl_disk_use use; /* of several the one that says most: what is broken, then files */
    uint16_t owner;  /* index of a file or folder; DISK_NOBODY */
} disk_cell;

/* A file or folder, with where it lies. */
typedef struct disk_owner {
    char *path;
    bool folder;
    uint16_t ordinal;                      /* of files alone, from 0 */
    uint32_t first, last, sectors, pieces; /* first and last sector */
} disk_owner;

typedef struct disk_map {
    uint32_t total, each; /* sectors; sectors of a cell */
    GArray *cells;        /* disk_cell */
    GPtrArray *owners;    /* disk_owner * */
    uint16_t files;
    uint32_t sectors[BL_DISK_USE_SPARE + 1]; /* of each use */
} disk_map;

/* At most so many cells. What reading returns; reported. disk_map_end follows in any case. */
bl_status disk_map_make(bl_disk *d, uint32_t most_cells, disk_map *map);
void disk_map_end(disk_map *map);
/* "boot", "table", ... Static. */
const char *disk_use_word(bl_disk_use use);
/* How full the room for files is, thousandths. */
unsigned disk_map_fullness(const disk_map *map);

#endif
