/* new_project.h - a project to start from: the board of an example, under a name of one's own. */
#ifndef BOOTLACE_HOST_NEW_PROJECT_H
#define BOOTLACE_HOST_NEW_PROJECT_H

#include "bootlace/diag.h"

/* Makes the folder with a bench file, a program and a README. cpu: a sheet that comes with Bootlace
 * and has a board, or "own" for a sheet of ten instructions. The folder must not be there yet: it
 * is made whole or not at all. BL_E_NOT_FOUND: no board for that CPU; BL_E_ARGUMENT: a name that
 * cannot be one; BL_E_BUSY: there is something of that name; BL_E_IO; all reported. */
bl_status new_project_make(const char *folder, const char *cpu, const bl_sink *sink);

/* The CPUs that there is a board for, blanks between. Free with g_free. */
char *new_project_cpus(void);

#endif
