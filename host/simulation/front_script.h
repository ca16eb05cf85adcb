/* front_script.h - what somebody does at the front of the board, and when: a line each.
 *
 *   0.5 s  press go          # holds a button, closes a switch
 *   0.8 s  release go
 *   1 s    tap keys 5        # for 100 ms
 *   1.5 s  picture front.png
 *
 * Times count from the begin of the run. Empty lines and what follows # are nothing.
 */
#ifndef BOOTLACE_FRONT_SCRIPT_H
#define BOOTLACE_FRONT_SCRIPT_H

#include "front.h"

typedef enum front_action { FRONT_PRESS, FRONT_RELEASE, FRONT_PICTURE } front_action;

typedef struct front_step {
    uint64_t at; /* nanoseconds of the bench */
    front_action action;
    bool of_tap; /* it ends a tap */
    char *what;
} front_step;

/* In the order in which they are due; elements are front_step. */
typedef struct front_script {
    uint64_t began; /* nanoseconds of the bench */
    GArray *steps;
    guint next;
} front_script;

/* Times count from a moment of the bench on. */
void front_script_begin(front_script *f, uint64_t began);
/* Reads a file. BL_E_IO and others, BL_E_SYNTAX; reported. */
bl_status front_script_read(front_script *f, const char *path, const bl_sink *sink);
/* One line, "TIME press NAME [KEY]". name: of where it stands, for messages. */
bl_status front_script_add(front_script *f, const char *line, const char *name, unsigned number,
                           const bl_sink *sink);
/* The run is over: taps that are under way are let go; a warning for each step that was not done.
 */
void front_script_let_go(front_script *f, simulation *s, const bl_sink *sink);
void front_script_end(front_script *f);
/* Does the board have all that is to be touched? BL_E_NOT_FOUND, reported. */
bl_status front_script_check(const front_script *f, const simulation *s, const bl_sink *sink);
/* When the next step is due, nanoseconds of the bench; UINT64_MAX: there is none. */
uint64_t front_script_due(const front_script *f);
/* Does what is due by now. Reported; goes on behind what fails. */
bl_status front_script_do(front_script *f, simulation *s, const bl_sink *sink);

#endif
