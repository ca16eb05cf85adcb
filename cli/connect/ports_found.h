/* ports_found.h - the serial devices there are, and who answers on each. */
#ifndef BOOTLACE_CLI_PORTS_H
#define BOOTLACE_CLI_PORTS_H

#include "cli.h"

typedef enum port_answer {
    PORT_NOTHING, /* nobody speaks */
    PORT_EYELET,
    PORT_PROGRAMMER,
    PORT_DIALOGUE,  /* the monitor, or the programmer, that the bench file describes */
    PORT_SOMETHING, /* somebody speaks, but none of these */
    PORT_BUSY,      /* another program has it */
    PORT_UNUSABLE,  /* it cannot be opened, or not at this rate */
} port_answer;

typedef struct port_found {
    char *path, *what; /* what the system knows of it; may be empty */
    port_answer answer;
    bool programmer;        /* DIALOGUE: it is the programmer's */
    uint32_t baud;          /* at which it answered */
    char name[BL_NAME_MAX]; /* of who answers; may be empty */
} port_found;

/* Asks on each serial device of the system, and on those of a served bench (bench may be NULL), or
 * only on those named. Returns an array of port_found; free with ports_free. What is said is as
 * little as can be: one greeting of ours, or what the bench file's dialogue wakes with. */
GPtrArray *ports_look(const bench *b, char **named);
void ports_free(GPtrArray *found);
/* A word and a name: "Eyelet: Eyelet 65C02", "nobody answers". Free with g_free. */
char *ports_text(const port_found *f);

/* The only one on which the board's monitor, or the programmer, answers as the bench file expects.
 * NULL, told: there is none, or there are several. Free with g_free. */
char *ports_only(const bench *b, bool programmer);

#endif
