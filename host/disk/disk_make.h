/* disk_make.h - an empty disk of any kind, as a new image. */
#ifndef BOOTLACE_DISK_MAKE_H
#define BOOTLACE_DISK_MAKE_H

#include "bootlace/bootlace.h"
#include "disk_image.h"

/* What it is to be like. */
typedef struct disk_wish {
    bl_disk_kind kind;
    uint64_t bytes;           /* of the whole image; 0: as is usual for the kind */
    bool partition;           /* with a partition table (FAT) */
    const char *label;        /* or NULL */
    const bl_classic *layout; /* of a classic disk; NULL: the first that is shipped, or has bytes */
    bl_disk_time now;
    uint32_t serial; /* of a FAT volume */
} disk_wish;

/* Makes it. BL_E_RANGE, BL_E_SYNTAX: there can be no such disk; reported. After BL_OK
 * disk_image_close follows. */
bl_status disk_make(const disk_wish *wish, const bl_sink *sink, disk_image *image);
/* The same on an image or a device that is open: all of it, whatever wish->bytes says. */
bl_status disk_make_on(const disk_wish *wish, const bl_sink *sink, disk_image *image);

#endif
