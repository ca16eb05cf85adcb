/* disk_contents.h - the files of the disk that a bench file asks for. */
#ifndef BOOTLACE_DISK_CONTENTS_H
#define BOOTLACE_DISK_CONTENTS_H

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
/* The time that built files have. */
bl_disk_time disk_built_time(void);

#endif
