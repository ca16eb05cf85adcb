/* disk_image.h - an image of a disk in a file, or a device: its sectors.
 *
 * What is written to an image is kept in memory, beside the file, until disk_image_commit puts old
 * and new together into a file that takes the place of the old one in one step: an image of 2 GiB
 * is neither read whole nor changed in part. On a device, and on an image that is opened in place,
 * each sector is written at once.
 */
#ifndef BOOTLACE_DISK_IMAGE_H
#define BOOTLACE_DISK_IMAGE_H

#include <glib.h>

#include "bootlace/port.h"
#include "files/files.h"

typedef struct disk_image {
    char *path;
    int fd;         /* -1: it is new, and reads as 0 where nothing was written */
    uint64_t bytes; /* of the whole */
    bool in_place;  /* each sector is written at once */
    bool device;
    uint64_t stored;     /* bytes of it that the file has */
    uint64_t stamp[4];   /* of the file, when it was opened */
    GHashTable *changed; /* sector -> bytes */
    bl_sectors sectors;
} disk_image;

/* What an image is opened for. Whoever changes it has it alone from here to disk_image_close;
 * whoever reads it waits a second for that, and then reads it as it is, told. */
typedef enum disk_access { DISK_READS, DISK_CHANGES } disk_access;

/* Opens an image or a device. BL_E_BUSY: another process changes it, told which. sector: bytes of
 * one; 0: 512, or 128 where the file is no multiple of that. BL_E_NOT_FOUND, BL_E_IO, BL_E_SYNTAX
 * (the file is no whole sectors); reported. */
bl_status disk_image_open(const char *path, uint16_t sector, bool in_place, disk_access access,
                          const bl_sink *sink, disk_image *image);
/* A new one of so many bytes, whole sectors. */
void disk_image_new(uint64_t bytes, uint16_t sector, disk_image *image);
/* An image that is shorter than its disk, because nobody has written to the end of it: from now on
 * it has so many bytes, the new ones $E5. */
void disk_image_extend(disk_image *image, uint64_t bytes);
/* Puts what was written into the file, or another one, and reads it back. Does nothing to what was
 * written in place. BL_E_BUSY: somebody else changed the file meanwhile; BL_E_DIFFERS; BL_E_IO;
 * reported. */
bl_status disk_image_commit(disk_image *image, const char *path, const bl_sink *sink);
/* Copies all sectors of one to another that is open in place, and reads them back. BL_E_FULL: it is
 * smaller; BL_E_DIFFERS; what reading and writing return; reported. */
bl_status disk_image_copy(const disk_image *from, disk_image *to, const bl_sink *sink);
void disk_image_close(disk_image *image);

#endif
