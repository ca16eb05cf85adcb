/* disk_compare.h - whether a disk holds what was built. */
#ifndef BOOTLACE_DISK_COMPARE_H
#define BOOTLACE_DISK_COMPARE_H

#include "disk_contents.h"

/* The first byte of the boot area that is not as disk_put_boot would have it; UINT32_MAX: it is. */
uint32_t disk_compare_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule);

/* How a file of a disk compares with one that was built. */
typedef enum disk_sameness { DISK_SAME, DISK_DIFFERS, DISK_MISSING } disk_sameness;
/* classic disks count records: what fills the last one does not count. *where: the first byte that
 * differs. */
disk_sameness disk_compare(bl_disk *d, const disk_content *c, uint32_t *where);

#endif
