/* bare_volume.h - a bare disk, between the files that serve it. Its directory is in memory. */
#ifndef BOOTLACE_SRC_BARE_VOLUME_H
#define BOOTLACE_SRC_BARE_VOLUME_H

#include "bootlace/baredisk.h"
#include "disk_kind.h"

enum {
    BARE_ENTRY = 32,
    BARE_VERSION = 1,
    BARE_START = 9,
    BARE_TOTAL = 10,
    BARE_DATA = 12,
    BARE_CHECK = 14,
    BARE_LABEL = 16,
    /* in an entry */
    BARE_FIRST = 16,
    BARE_LENGTH = 18,
    BARE_FLAGS = 21,
    BARE_LOAD = 22,
    BARE_RUN = 25,
    BARE_SUM = 28,
    BARE_HAS_LOAD = 1,
    BARE_HAS_ENTRY = 2,
};

typedef struct bare {
    uint32_t total, data; /* sectors; the first for files */
    bool sound;           /* the directory's check was right */
    uint8_t directory[BL_BARE_SECTOR];
    uint8_t stored[BL_BARE_SECTOR]; /* as the disk has it: what a change that fails goes back to */
    uint8_t sector[BL_BARE_SECTOR];
} bare;

static inline bare *bare_of(const bl_disk *d)
{
    return d->state;
}

/* Entry 1 to 15. */
static inline uint8_t *bare_entry(bare *b, unsigned index)
{
    return b->directory + (size_t)index * BARE_ENTRY;
}

static inline uint32_t bare_triple(const uint8_t *p)
{
    return bl_little16(p) | (uint32_t)p[2] << 16;
}

static inline void bare_put_triple(uint8_t *p, uint32_t value)
{
    bl_put_little16(p, value), p[2] = (uint8_t)(value >> 16);
}

static inline uint32_t bare_first(const uint8_t *e)
{
    return bl_little16(e + BARE_FIRST);
}

static inline uint32_t bare_length(const uint8_t *e)
{
    return bare_triple(e + BARE_LENGTH);
}

static inline uint32_t bare_sectors(const uint8_t *e)
{
    return (bare_length(e) + BL_BARE_SECTOR - 1) / BL_BARE_SECTOR;
}

/* Does it lie in the room for files? */
static inline bool bare_is_inside(const bare *b, const uint8_t *e)
{
    return bare_length(e) == 0 ||
           (bare_first(e) >= b->data && bare_first(e) + bare_sectors(e) <= b->total);
}

/* Have two files, not empty, a sector in common? */
static inline bool bare_overlap(const uint8_t *a, const uint8_t *b)
{
    return a[0] != 0 && b[0] != 0 && bare_first(a) < bare_first(b) + bare_sectors(b) &&
           bare_first(b) < bare_first(a) + bare_sectors(a);
}

void bl_bare_name_of(const uint8_t *e, char name[BL_BARE_NAME + 1]);
/* Writes the directory, with its check, in one sector. After a failure it is again as it was. */
bl_status bl_bare_save(bl_disk *d);
bl_status bl_bare_check(bl_disk *d, bool repair, bl_disk_report *report);
bl_status bl_bare_map(bl_disk *d, bl_disk_run *run, void *context);
/* The sums of what an entry's sectors hold. */
bl_status bl_bare_sum_file(bl_disk *d, const uint8_t *e, uint8_t check[2]);

/* ---- bare_file.c, bare_put.c ---- */

const char *bl_bare_plain_name(const char *path);
/* The entry of a file; 0: there is none. */
unsigned bl_bare_index(bare *b, const char *path);
void bl_bare_fill_entry(bare *b, unsigned index, bl_disk_entry *e);
/* What is to be written to must be right before. Told. */
bl_status bl_bare_must_be_sound(bl_disk *d);
bl_status bl_bare_check_name(bl_disk *d, const char *path);
bl_status bl_bare_space(bl_disk *d, bl_disk_space *s);
bl_status bl_bare_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context);
bl_status bl_bare_find(bl_disk *d, const char *path, bl_disk_entry *entry);
bl_status bl_bare_get(bl_disk *d, const char *path, const bl_writer *writer);
bl_status bl_bare_put(bl_disk *d, const char *path, const bl_disk_file *file,
                      bl_disk_entry *stored);
bl_status bl_bare_remove(bl_disk *d, const char *path, bool force);
bl_status bl_bare_rename(bl_disk *d, const char *old_path, const char *new_path);

#endif
