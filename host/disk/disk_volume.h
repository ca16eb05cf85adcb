/* disk_volume.h - a disk image opened with its partition and its file system. */
#ifndef BOOTLACE_DISK_VOLUME_H
#define BOOTLACE_DISK_VOLUME_H

#include "bench/bench.h"
#include "disk_image.h"

typedef struct disk_volume {
    disk_image image;
    bl_partition partitions[BL_PARTITIONS];
    size_t partition_count; /* 0: the whole is one volume */
    size_t partition;       /* which of them is open */
    bl_sectors_part part;
    bl_disk disk;
} disk_volume;

/* How one is opened. */
typedef struct disk_opening {
    const bench *b;     /* its layouts; may be NULL */
    const char *layout; /* a classic disk of this layout; or NULL */
    bool in_place;
    bool changes;     /* the image is locked: nobody else changes it meanwhile */
    bl_disk_time now; /* year 0: what the clock shows */
    /* Puts something between the image and the file system: a simulated drive. NULL: nothing. */
    const bl_sectors *(*between)(void *context, const bl_sectors *sectors);
    void *context;
} disk_opening;

/* Opens an image: of a partitioned one the first partition that can be opened, those whose kind is
 * FAT before others. Reported. disk_volume_close follows only after BL_OK. v must stay where it is.
 */
bl_status disk_volume_open(const char *path, const disk_opening *how, const bl_sink *sink,
                           disk_volume *v);
/* The same of an image that is open already, and belongs to the volume from now on, whatever
 * happens. */
bl_status disk_volume_of(disk_volume *v, const char *title, const disk_opening *how,
                         const bl_sink *sink);
void disk_volume_close(disk_volume *v);

/* What a clock on the wall shows now, or at a time; of SOURCE_DATE_EPOCH where that is set. */
bl_disk_time disk_time_now(void);
bl_disk_time disk_time_of(gint64 unix_time);

/* A layout by its name: the bench file's, then those that are shipped. NULL: there is none. */
const bl_classic *disk_layout_named(const bench *b, const char *name);
/* The same of one that must be there: told, of the file that names it (or NULL). */
const bl_classic *disk_layout_needed(const bench *b, const char *name, const char *file,
                                     const bl_sink *sink);

#endif
