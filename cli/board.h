/* board.h - what the commands of the simulated board share: what there is to see of it. */
#ifndef BOOTLACE_CLI_BOARD_H
#define BOOTLACE_CLI_BOARD_H

#include "cli.h"
#include "simulation.h"

/* Shows the lamps when they change and what the board says, in the order in which it happened. A
 * line is shown when it ends; what happens meanwhile waits for it. */
typedef struct board_events {
    const bench *b;
    uint64_t began;
    GString *line; /* of serial output, unfinished */
    uint64_t line_at;
    GPtrArray *waiting; /* texts */
    size_t count;       /* shown so far */
} board_events;

/* From now on, of this bench; it must outlive the events. Begins with what the lamps show now. */
void board_events_begin(board_events *e, const bench *b, simulation *s);
void board_events_end(board_events *e, simulation *s);
/* A byte that the board said. */
void board_event_byte(board_events *e, uint64_t now, uint8_t byte);
/* An unfinished line is shown as it is. */
void board_event_line_end(board_events *e);

/* Opens the bench file and the simulation. Returns an exit code, faults told. */
int board_open(bench **b, simulation **s);
/* Puts the state away and closes both. */
int board_close(bench *b, simulation *s);

/* bootlace board serve */
int board_serve(void);

#endif
