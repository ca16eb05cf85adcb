/* board_commands.h - what the commands of the simulated board share: what there is to see of it. */
#ifndef BOOTLACE_CLI_BOARD_H
#define BOOTLACE_CLI_BOARD_H

#include "cli.h"
#include "simulation/board_events.h"

/* Prints each event on standard output. */
extern const board_watcher board_show;

/* Opens the bench file and the simulation. Returns an exit code, faults told. */
int board_open(bench **b, simulation **s);
/* Puts the state away and closes both. */
int board_close(bench *b, simulation *s);

/* bootlace board serve */
int board_serve(int argc, char **argv);

#endif
