/* classic_volume.h - a disk of the classic layout, between the files that serve it. All of its
 * directory is in memory. */
#ifndef BOOTLACE_SRC_CLASSIC_VOLUME_H
#define BOOTLACE_SRC_CLASSIC_VOLUME_H

#include "bootlace/classic.h"
#include "disk_kind.h"

enum {
    CLASSIC_ENTRY = 32,
    CLASSIC_EMPTY = 0xE5,
    CLASSIC_USERS = 16, /* areas; entries of more are of no file */
    CLASSIC_PAD = 0x1A,
    CLASSIC_EXTENT = 128, /* records: 16 KiB */
    CLASSIC_NAMES = 11,
};

typedef struct classic {
    bl_classic layout;
    uint32_t data;          /* first sector of the first block */
    uint32_t block_sectors; /* of the layout's */
    uint32_t blocks, directory_blocks;
    uint32_t per_entry;                    /* blocks in an entry: 16 or 8 */
    uint32_t extents;                      /* an entry describes */
    uint32_t per_sector;                   /* entries */
    uint8_t physical_of[BL_CLASSIC_TRACK]; /* from 0, of each logical sector */
    uint8_t *entries;                      /* the directory */
    uint8_t *used;                         /* for each block: how many have it */
    uint8_t *buffer;                       /* a sector of the layout */
    uint8_t *physical;                     /* a sector of the drive, if that is larger */
} classic;

static inline classic *classic_of(const bl_disk *d)
{
    return d->state;
}

static inline uint8_t *classic_entry(const classic *c, uint32_t index)
{
    return c->entries + (size_t)index * CLASSIC_ENTRY;
}

/* An entry of a file; others may be labels and the like, and are left alone. */
static inline bool classic_is_file(const uint8_t *e)
{
    return e[0] < CLASSIC_USERS;
}

/* The number of an entry among those of its file, and the records that it has. */
static inline uint32_t classic_number(const classic *c, const uint8_t *e)
{
    return ((e[14] & 0x3Fu) * 32 + (e[12] & 0x1Fu)) / c->extents;
}
static inline uint32_t classic_records(const classic *c, const uint8_t *e)
{
    return ((e[12] & 0x1Fu) % c->extents) * CLASSIC_EXTENT + e[15];
}
uint32_t bl_classic_block(const classic *c, const uint8_t *e, uint32_t index);
void bl_classic_set_block(const classic *c, uint8_t *e, uint32_t index, uint32_t block);
/* Blocks that an entry's records need. */
static inline uint32_t classic_needs(const classic *c, uint32_t records)
{
    uint32_t each = c->layout.block / BL_DISK_RECORD;
    return (records + each - 1) / each;
}
/* classic_detect.c: finds the layout, and opens the disk with it, as bl_classic_try does.
 * BL_E_NOT_FOUND: none has its size; BL_E_UNSUPPORTED, told: several fit, or none. */
bl_status bl_classic_detect(bl_disk *d);
/* Opens it with one layout, whatever its directory says; longer: there may be something behind its
 * end. BL_E_NOT_FOUND: the disk has another size. */
bl_status bl_classic_try(bl_disk *d, const bl_classic *l, bool longer);
void bl_classic_close(bl_disk *d);
/* Same user, name and type? Attributes do not count. */
bool bl_classic_same(const uint8_t *a, const uint8_t *b);
void bl_classic_name_text(const uint8_t *e, char text[16]);

/* ---- sectors of the layout ---- */
bl_status bl_classic_read(bl_disk *d, uint32_t sector, uint8_t *bytes);
bl_status bl_classic_write(bl_disk *d, uint32_t sector, const uint8_t *bytes);
/* The sector of a block, as the skew has it. */
uint32_t bl_classic_sector(const classic *c, uint32_t block, uint32_t index);
/* The same of the directory, whose sectors are counted from 0. */
static inline uint32_t classic_directory_sector(const classic *c, uint32_t index)
{
    return bl_classic_sector(c, index / c->block_sectors, index % c->block_sectors);
}
/* Writes the sector of the directory that an entry is in. */
bl_status bl_classic_save(bl_disk *d, uint32_t entry);
/* A copy of the directory before it is changed; NULL: no memory, told. */
uint8_t *bl_classic_keep(bl_disk *d);
/* The change is done, and ended so: after a failure the directory in memory is again what the disk
 * has, as far as that can be read, else what it was before. Frees the copy; returns status. */
bl_status bl_classic_settle(bl_disk *d, uint8_t *before, bl_status status);
/* Counts again who has which block. */
void bl_classic_count(classic *c);

/* ---- classic_file.c, classic_check.c ---- */
bl_status bl_classic_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context);
bl_status bl_classic_find(bl_disk *d, const char *path, bl_disk_entry *entry);
bl_status bl_classic_get(bl_disk *d, const char *path, const bl_writer *writer);
bl_status bl_classic_put(bl_disk *d, const char *path, const bl_disk_file *file,
                         bl_disk_entry *stored);
bl_status bl_classic_remove(bl_disk *d, const char *path, bool force);
bl_status bl_classic_rename(bl_disk *d, const char *old_path, const char *new_path);
bl_status bl_classic_check(bl_disk *d, bool repair, bl_disk_report *report);
bl_status bl_classic_map(bl_disk *d, bl_disk_run *run, void *context);

#endif
