/* console.h - a terminal over an open connection, which can also send and fetch. */
#ifndef BOOTLACE_CLI_CONSOLE_H
#define BOOTLACE_CLI_CONSOLE_H

#include "upload/upload.h"

typedef struct console {
    connection *c;
    bool hex, echo;
    unsigned column; /* of bytes shown as hex */
    bool mid_line;   /* what was shown last did not end its line */
    FILE *keep;      /* what comes is written there too */
    char keep_path[200];
    uint32_t pace_us, rest_us;
    bool over;
    bool lost;   /* what was to be kept in a file is not there */
    bool failed; /* a command of its command line did not do its work */
} console;

typedef struct console_wish {
    bool hex, echo;
    const char *keep;          /* a file, or NULL */
    uint32_t pace_us, rest_us; /* pause after each byte, and after each line */
} console_wish;

/* Until its user leaves; until standard input ends and the line is quiet, when that is no terminal.
 * wish may be NULL. Returns an exit code. */
int console_run(connection *c, const console_wish *wish);

/* One line of its command line: sends, fetches, pastes, ... Faults are told. */
void console_obey(console *k, const char *line);
/* Lets so much time pass, showing what comes. False: the device is gone. */
bool console_listen(console *k, uint32_t microseconds);
/* Shows what a program said while it was being started. */
void console_show_words(console *k);
/* Sends a byte at the pace that is set. */
bool console_type(console *k, uint8_t byte);
bool console_keep(console *k, const char *path);

#endif
