/* disk_build.h - the disk that a bench file asks for, as an image; and what is put on one. */
#ifndef BOOTLACE_DISK_BUILD_H
#define BOOTLACE_DISK_BUILD_H

#include "disk_contents.h"
#include "disk_volume.h"

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

#endif
