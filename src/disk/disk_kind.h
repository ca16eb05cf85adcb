/* disk_kind.h - what each kind of file system supplies, and what they share. */
#ifndef BOOTLACE_SRC_DISK_KIND_H
#define BOOTLACE_SRC_DISK_KIND_H

#include "base/core.h"
#include "bootlace/disk.h"

typedef bl_status bl_disk_visit(void *context, const bl_disk_entry *entry);
typedef bl_status bl_disk_run(void *context, uint32_t first, uint32_t count, bl_disk_use use,
                              const char *path);

/* Calls as in disk.h; NULL: this kind has nothing of the kind. close frees the state. */
typedef struct bl_disk_calls {
    void (*close)(bl_disk *d);
    void (*label)(bl_disk *d, char label[BL_DISK_NAME]);
    void (*describe)(bl_disk *d, char *text, size_t capacity);
    bl_status (*space)(bl_disk *d, bl_disk_space *space);
    bl_status (*list)(bl_disk *d, const char *path, bl_disk_visit *visit, void *context);
    bl_status (*find)(bl_disk *d, const char *path, bl_disk_entry *entry);
    bl_status (*get)(bl_disk *d, const char *path, const bl_writer *writer);
    bl_status (*put)(bl_disk *d, const char *path, const bl_disk_file *file, bl_disk_entry *stored);
    bl_status (*remove)(bl_disk *d, const char *path, bool force);
    bl_status (*rename)(bl_disk *d, const char *old_path, const char *new_path);
    bl_status (*folder)(bl_disk *d, const char *path);
    bl_status (*check)(bl_disk *d, bool repair, bl_disk_report *report);
    bl_status (*map)(bl_disk *d, bl_disk_run *run, void *context);
    bl_status (*boot_area)(bl_disk *d, uint32_t *sectors, uint32_t *from, uint32_t *count);
} bl_disk_calls;

/* Each opens a disk whose sectors, memory and setup are set. BL_E_NOT_FOUND, not told: it is none
 * of this kind; other failures are told. */
bl_status bl_fat_begin(bl_disk *d);
bl_status bl_classic_begin(bl_disk *d);
bl_status bl_bare_begin(bl_disk *d);

/* Tells an error, "TITLE: MESSAGE"; returns status. */
bl_status bl_disk_fail(bl_disk *d, bl_status status, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
/* One sector; a failure is told. */
bl_status bl_disk_read_sector(bl_disk *d, uint32_t sector, uint8_t *bytes);
bl_status bl_disk_write_sector(bl_disk *d, uint32_t sector, const uint8_t *bytes);
/* So many that follow each other; the first failure ends it. */
bl_status bl_disk_read_sectors(bl_disk *d, uint32_t first, uint32_t count, uint8_t *bytes);
bl_status bl_disk_write_sectors(bl_disk *d, uint32_t first, uint32_t count, const uint8_t *bytes);
/* From now on nothing is told; returns what is to be put back: d->setup.sink. */
bl_sink bl_disk_hush(bl_disk *d);

/* Something that a check found. */
void bl_disk_find_broken(bl_disk_report *r, bool mended, bool safe, const char *hint,
                         const char *message, ...) BL_PRINTF(5, 6);
/* Of a repair that throws bytes away: done only when that is asked for. hint NULL: --drop does it.
 */
void bl_disk_find_loss(bl_disk_report *r, bool done, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
void bl_disk_find_remark(bl_disk_report *r, bool mended, const char *message, ...) BL_PRINTF(3, 4);

/* Zeroed room for so many of a size; NULL: there is none, told. */
void *bl_disk_room(bl_disk *d, uint32_t count, size_t size);
/* "s" where it is not one. */
static inline const char *bl_plural(uint32_t count)
{
    return count == 1 ? "" : "s";
}

void bl_disk_free(const bl_disk *d, void *block); /* NULL is good */

/* Can this character be in a name of 8.3? */
bool bl_short_name_has(uint8_t c);

/* Unsigned numbers of 16 and 32 bits, the lowest byte first. */
static inline uint16_t bl_little16(const uint8_t *p)
{
    return (uint16_t)(p[0] | (unsigned)p[1] << 8);
}

static inline uint32_t bl_little32(const uint8_t *p)
{
    return bl_little16(p) | (uint32_t)bl_little16(p + 2) << 16;
}

static inline void bl_put_little16(uint8_t *p, uint32_t value)
{
    p[0] = (uint8_t)value, p[1] = (uint8_t)(value >> 8);
}

static inline void bl_put_little32(uint8_t *p, uint32_t value)
{
    bl_put_little16(p, value), bl_put_little16(p + 2, value >> 16);
}

static inline bool bl_disk_is_power_of_two(uint32_t value)
{
    return value != 0 && (value & (value - 1)) == 0;
}

#endif
