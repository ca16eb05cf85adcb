/* replace.h - files put in place: whole or not at all, one or a set of them. docs/files.md.
 *
 * What is written has no name until it is whole, where the file system can do that; so a command
 * that is killed leaves the old file and nothing else. A file keeps its permissions; a symbolic
 * link stays one, and what it leads to is replaced; a file that nobody may write to is refused.
 */
#ifndef BOOTLACE_HOST_REPLACE_H
#define BOOTLACE_HOST_REPLACE_H

#include "bootlace/diag.h"

typedef struct replace_file {
    const char *name; /* in the folder */
    const void *bytes;
    size_t count;
} replace_file;

/* Writes one file. What is no plain file (a device, a pipe) is written to. BL_E_IO, reported. */
bl_status replace_one(const char *path, const void *bytes, size_t count, const bl_sink *sink);

/* The same for a file that is not in memory: fill writes it, from its begin, into a file that is
 * empty, and returns 0 or an error number. Only for plain files, new or old. */
bl_status replace_by(const char *path, int (*fill)(int fd, void *context), void *context,
                     const bl_sink *sink);

/* Writes files of one folder, which is made if need be. Where the folder holds no other folders and
 * is not the current one (nor above it), all are old or all new at any moment, and all old after
 * BL_E_IO; elsewhere they are replaced one after the other. Faults are reported. */
bl_status replace_set(const char *folder, const replace_file *files, size_t count,
                      const bl_sink *sink);

/* A folder that is not there yet, with all these files in it: whole or not at all. BL_E_BUSY: there
 * is something of this name; BL_E_IO. Reported. */
bl_status replace_fresh(const char *folder, const replace_file *files, size_t count,
                        const bl_sink *sink);

/* Are these two the same file, whatever they are called? One that does not exist yet is the same as
 * another of its name in the same folder. */
bool replace_same(const char *a, const char *b);

/* Removes what a command that was killed in the middle of this has left in a folder. */
void replace_clean(const char *folder);

#endif
