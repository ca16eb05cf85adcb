/* define.h - -D NAME=VALUE, on every command that assembles. */
#ifndef BOOTLACE_CLI_DEFINE_H
#define BOOTLACE_CLI_DEFINE_H

#include "cli.h"

extern const GOptionEntry define_options[];

/* Adds what -D gave to extras; it lives as long as the command. Returns an exit code, after
 * telling.
 */
int define_take(project_extras *extras);

#endif
