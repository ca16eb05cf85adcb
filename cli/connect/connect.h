/* connect.h - a port, opened: the simulated bench in this process, or a serial device. */
#ifndef BOOTLACE_CLI_CONNECT_H
#define BOOTLACE_CLI_CONNECT_H

#include "bootlace/drive_remote.h"
#include "bootlace/tap.h"
#include "cli.h"
#include "line_trace.h"
#include "posix/serial.h"
#include "project/whereis.h"
#include "simulation/simulation.h"

typedef struct connection {
    const bench *b;
    char *name;     /* of the port: -p, or the only one that fits */
    bl_serial port; /* through the tap */
    bl_tap tap;
    line_trace *trace; /* --trace; or NULL */
    bl_exchange exchange;
    uint32_t baud;
    simulation *sim; /* NULL for a serial device */
    posix_serial device;
    uint64_t began;
    bl_remote_words last_words; /* of a device that speaks text, when it failed */
    GByteArray *words;          /* of a program that was started, not shown yet */
} connection;

/* To the board's monitor; to the programmer with a chip in its socket, of chips that are alike this
 * copy (1, 2, ...). Return exit codes, faults told. */
int connect_board(const bench *b, connection *c);
int connect_programmer(const bench *b, size_t chip, unsigned copy, connection *c);
/* Puts what the simulated bench holds now into its state folder: what is told afterwards is so also
 * when the command is killed. Returns an exit code. */
int connect_keep(connection *c);
/* Closes; the simulated bench keeps its state. Returns an exit code. */
int connect_end(connection *c);

/* Runs a job with a progress line. */
bl_status connect_run(connection *c, bl_transfer *job);
/* What a program that was started says: what came already, and what comes until it pauses. Takes at
 * most two seconds. NULL: nothing. Free with g_free. */
char *connect_hear(connection *c);
/* What a job counts: "pages" or "blocks". */
const char *connect_unit(const bl_transfer *job);
/* Which line this is, for the logbook. Free with g_free. */
char *connect_line(const connection *c);
/* Is it Eyelet that RAM is reached through? */
bool connect_is_eyelet(const bench *b);
/* Seconds on the port's clock since connecting. */
double connect_seconds(const connection *c);

/* Tells why a job failed. chip is NULL for RAM. */
void explain(connection *c, const bl_transfer *job, bl_status status, const bl_chip *chip,
             const whereis *w);

#endif
