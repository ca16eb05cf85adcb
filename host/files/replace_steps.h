/* replace_steps.h - between the files that replace others: replace.c one file, replace_folder.c all
 * of a folder. */
#ifndef BOOTLACE_HOST_REPLACE_STEPS_H
#define BOOTLACE_HOST_REPLACE_STEPS_H

#include <signal.h>
#include <sys/stat.h>

#include "bootlace/diag.h"

/* How temporary names begin; the number of the process is behind. */
extern const char replace_prefix[];
/* A temporary name in a folder; free with g_free. */
char *replace_temporary(const char *folder);
/* Removes what has one: a file, or a folder of files. */
void replace_remove(const char *path);

/* Reports an error number; returns BL_E_IO. */
bl_status replace_tell(const char *path, const char *what, int error, const bl_sink *sink);

/* Whoever ends us politely waits between these two. */
void replace_hold_signals(sigset_t *before);
void replace_let_signals(const sigset_t *before);
/* Does work in a process of its own, which is not killed with this one. work returns 0, or an error
 * number; so does this. */
int replace_apart(int (*work)(void *context), void *context);

/* These set errno when they fail. */
bool replace_write(int fd, const void *bytes, size_t count);
/* Gives the file a name: name is the one that it has, or NULL. */
bool replace_link(int fd, char *name, const char *to);
/* Writes all of a new file, which gets the permissions of the one it replaces; old NULL: none. */
bool replace_fill(int fd, const struct stat *old, const void *bytes, size_t count);
/* Gives it those permissions, and has it on the disk. */
bool replace_keep(int fd, const struct stat *old);
/* May it be replaced? BL_E_IO, reported. */
bl_status replace_check(const char *path, const struct stat *old, const bl_sink *sink);

#endif
