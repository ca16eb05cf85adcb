/* depend.h - a file for make: which files the result was made of. */
#ifndef BOOTLACE_CLI_DEPEND_H
#define BOOTLACE_CLI_DEPEND_H

#include "cli.h"

extern const GOptionEntry depend_options[]; /* --depend FILE */

/* What project_extras.seen is to be: files that are read are gathered, when --depend was given. */
void *depend_begin(void);
/* The file of --depend; NULL: it is not asked for. */
const char *depend_path(void);
/* "TARGET: FILES", and an empty rule for each file, so that make does not stop when one is gone.
 * bench_file may be NULL. Does nothing without --depend. Returns an exit code, after
 * telling. */
int depend_write(const char *target, const char *bench_file);

#endif
