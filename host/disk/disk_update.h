/* disk_update.h - a disk that is there gets what has changed since it was written: the short way
 * from a source that was edited to a disk that holds it. */
#ifndef BOOTLACE_DISK_UPDATE_H
#define BOOTLACE_DISK_UPDATE_H

#include "disk_build.h"
#include "disk_compare.h"

typedef struct disk_updated {
    guint files, written; /* of the list; that were other than what was built */
    uint32_t bytes;       /* of those */
    bool boot;            /* the boot program was, too */
} disk_updated;

/* Writes those files that differ or are missing, and the boot program if it does, each read back;
 * then looks whether the disk is whole. What fails is reported; what was written stays. */
bl_status disk_update(bl_disk *d, const disk_contents *c, const bl_boot_rule *rule,
                      const bl_sink *sink, disk_updated *done);

#endif
