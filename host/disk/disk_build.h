/* disk_build.h - the disk that a bench file asks for: its files, made from sources; the image; and
 * whether another disk holds the same. */
#ifndef BOOTLACE_DISK_BUILD_H
#define BOOTLACE_DISK_BUILD_H

#include "disk_volume.h"
#include "project/project.h"

/* One of its files. */
typedef struct disk_content {
    char *path;
    GByteArray *bytes;
    bl_disk_file file; /* its bytes are those */
} disk_content;

typedef struct disk_contents {
    GPtrArray *files; /* disk_content * */
    bl_program *boot; /* or NULL */
} disk_contents;

/* Assembles and wraps everything. The same sources give the same bytes: files have no time but that
 * of SOURCE_DATE_EPOCH, or else the first of January 1980. Reported. disk_contents_end follows in
 * any case. */
bl_status disk_contents_make(project *p, const project_extras *extras, const bl_sink *sink,
                             disk_contents *c);
void disk_contents_end(disk_contents *c);

/* Makes the image of the disk; reported. disk_image_close follows only after BL_OK. */
bl_status disk_build(project *p, const disk_contents *c, const bl_sink *sink, disk_image *image);

/* Makes the disk and adds it to the project's results; *files: how many are on it. BL_OK without
 * doing anything when the bench file asks for none. Reported. */
bl_status disk_add_to_project(project *p, const project_extras *extras, const bl_sink *sink,
                              guint *files);

/* Writes one file to a disk that is open, and the folders that it needs. *stored may be NULL. */
bl_status disk_put_content(bl_disk *d, const disk_content *c, bl_disk_entry *stored);
/* The boot program of an image with addresses: what lies from its first byte on. Reported by d. */
bl_status disk_put_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule,
                        const bl_sink *sink, uint32_t *sectors);

/* The first byte of the boot area that is not as disk_put_boot would have it; UINT32_MAX: it is. */
uint32_t disk_compare_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule);

/* How a file of a disk compares with one that was built. */
typedef enum disk_sameness { DISK_SAME, DISK_DIFFERS, DISK_MISSING } disk_sameness;
/* classic disks count records: what fills the last one does not count. *where: the first byte that
 * differs. */
disk_sameness disk_compare(bl_disk *d, const disk_content *c, uint32_t *where);

#endif
