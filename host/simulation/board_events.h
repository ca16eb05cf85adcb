/* board_events.h - what there is to see of the simulated board, in the order in which it happened.
 *
 * Lamps are told when they change; a display, digits and other parts when they have shown the same
 * for 20 ms; what the board says, when a line of it ends. What happens while a line is unfinished
 * waits for its end.
 */
#ifndef BOOTLACE_BOARD_EVENTS_H
#define BOOTLACE_BOARD_EVENTS_H

#include <glib.h>

#include "simulation.h"

typedef struct board_event {
    uint64_t at;      /* nanoseconds since the beginning */
    const char *name; /* of the device whose lamps changed; NULL: the board said something */
    uint8_t lamps;
    const char *shows; /* what it shows, if that is no row of lamps; or NULL. Lines end with \n. Of
                          the name "contention": two pins that drive a wire against each other */
    const char *text;  /* what it said: a line without its end, control characters as <0D> */
} board_event;

/* Told of each event; it is valid during the call. */
typedef struct board_watcher {
    void *context;
    void (*tell)(void *context, const board_event *e);
    void (*told)(void *context); /* all that has happened has been told; may be NULL */
} board_watcher;

typedef struct board_events {
    const bench *b;
    board_watcher watcher;
    uint64_t began;
    GString *line; /* of serial output, unfinished */
    uint64_t line_at;
    GArray *waiting;           /* events of lamps and parts; they own what is shown */
    GArray *parts;             /* that show something */
    bool contention[SIM_NETS]; /* told: of each net once */
    simulation *s;
    size_t count; /* changes of lamps and lines, so far */
} board_events;

/* From now on, of this bench; it must outlive the events. Begins with what the lamps show now. */
void board_events_begin(board_events *e, const bench *b, simulation *s,
                        const board_watcher *watcher);
/* Also tells an unfinished line. */
void board_events_end(board_events *e, simulation *s);
/* A byte that the board said. */
void board_events_byte(board_events *e, uint64_t now, uint8_t byte);
/* Looks at what the parts show. To be called every BOARD_LOOK_NS of the board's time, or not at all
 * when board_events_looks says so. */
void board_events_look(board_events *e);
bool board_events_looks(const board_events *e);
enum { BOARD_LOOK_NS = 5000000 };
/* What waits is told, and what the parts show now. */
void board_events_flush(board_events *e);
/* An unfinished line is told as it is. */
void board_events_line_end(board_events *e);

#endif
