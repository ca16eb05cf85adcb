/* connect.c - opening ports, and closing them. */
#include "connect.h"

#include <errno.h>
#include <string.h>

#include "ports_found.h"

static int open_device(connection *c)
{
    bl_status status = posix_serial_open(&c->device, c->name, c->baud);
    switch (status) {
    case BL_OK: break;
    case BL_E_NOT_FOUND: return fail("%s: there is no such device", c->name);
    case BL_E_BUSY:
        return fail("%s: another program is using it\n  close that terminal program; it holds the "
                    "port's lock (flock, TIOCEXCL, or a file in /run/lock)",
                    c->name);
    case BL_E_UNSUPPORTED:
        return fail("%s: not a serial device, or it cannot run at %u baud", c->name, c->baud);
    default: return fail("%s: cannot be opened: %s", c->name, g_strerror(errno));
    }
    c->port = posix_serial_port(&c->device);
    return EXIT_GOOD;
}

/* programmer: who is to be at the other end; otherwise the board. */
static int begin_connection(const bench *b, connection *c, uint32_t baud, bool programmer)
{
    memset(c, 0, sizeof *c);
    c->b = b;
    c->baud = baud;
    c->device.file = -1;
    c->words = g_byte_array_new();
    c->name = given.port != NULL ? g_strdup(given.port) : ports_only(b, programmer);
    int code = EXIT_GOOD;
    if (c->name == NULL)
        code = EXIT_USAGE;
    else if (c->name[0] == '\0')
        code = cli_usage("-p is empty: give a device such as /dev/ttyUSB0, or sim");
    else if (strcmp(c->name, "sim") != 0)
        code = open_device(c);
    else if (simulation_open(b, given.state, (uint64_t)given.seed, given.faults, &cli_sink,
                             &c->sim) != BL_OK)
        code = EXIT_FAILED;
    if (code == EXIT_GOOD && c->sim == NULL && given.faults != NULL)
        code = cli_usage("--fault is for the simulated bench (-p sim)");
    bl_exchange_begin(&c->exchange, baud);
    return code;
}

/* Closes without keeping the state of the simulated bench. Returns an exit code. */
static int close_all(connection *c)
{
    simulation_close(c->sim);
    c->sim = NULL;
    posix_serial_close(&c->device);
    int code = line_trace_close(c->trace, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    c->trace = NULL;
    if (c->words != NULL) g_byte_array_free(c->words, TRUE);
    c->words = NULL;
    g_free(c->name);
    c->name = NULL;
    return code;
}

/* Takes back what opening has done so far. Returns code. */
static int abandon_connection(connection *c, int code)
{
    close_all(c);
    return code;
}

static void trace_passed(void *context, bool sent, const uint8_t *bytes, size_t count, uint64_t now)
{
    line_trace_passed(context, sent, bytes, count, now);
}

/* From now on the line is listened to, and time counts. */
static int open_line(connection *c, trace_protocol protocol)
{
    bl_serial port = c->port;
    c->port = bl_tap_begin(&c->tap, &port);
    c->began = c->port.now(c->port.context);
    if (given.trace == NULL) return EXIT_GOOD;
    const cli_output outputs[] = {{"-o", given.out}, {"--trace", given.trace}};
    const char *const none[] = {NULL};
    if (cli_check_outputs(outputs, G_N_ELEMENTS(outputs), none) != EXIT_GOOD) return EXIT_USAGE;
    if (line_trace_open(given.trace, c->name, c->baud, protocol, &cli_sink, &c->trace) != BL_OK)
        return EXIT_FAILED;
    c->tap.watch = (bl_tap_watch){c->trace, trace_passed};
    return EXIT_GOOD;
}

static trace_protocol protocol_of(const bench *b)
{
    return b->method == BL_METHOD_EYELET                                       ? TRACE_FRAMES
           : b->method == BL_METHOD_XMODEM || b->method == BL_METHOD_XMODEM_1K ? TRACE_XMODEM
                                                                               : TRACE_RAW;
}

/* Everything about the line comes from the bench file, the port from the user. */
int connect_board(const bench *b, connection *c)
{
    bool sim = given.port != NULL && strcmp(given.port, "sim") == 0;
    bool parallel = b->method == BL_METHOD_PARALLEL;
    if (parallel && given.port != NULL && !sim)
        return cli_usage(
            "a PC has no parallel port of this kind: --method parallel is for -p sim, and "
            "for programs that use port.h");
    if (!b->has_link || (sim && b->neighbour == NULL && !parallel && b->link_device == NULL))
        return fail("%s: no 'link:' says which device the serial line is on", b->path);
    if (sim && simulation_check_cpu(b, &cli_sink) != BL_OK) return EXIT_FAILED;
    int code = begin_connection(b, c, b->link_baud, false);
    if (code != EXIT_GOOD) return abandon_connection(c, code);
    if (c->sim != NULL) {
        simulation_come_up(c->sim);
        c->port = sim_line_port(&c->sim->sim.board_line);
    }
    if (given.trace != NULL && parallel)
        code = cli_usage("--trace is of serial lines; --method parallel uses none");
    if (code == EXIT_GOOD) code = open_line(c, protocol_of(b));
    if (code != EXIT_GOOD) connect_end(c);
    return code;
}

char *connect_line(const connection *c)
{
    char *folder = c->sim != NULL ? g_canonicalize_filename(c->sim->folder, NULL) : NULL;
    char *line = g_strconcat(c->name, folder != NULL ? " " : NULL, folder, NULL);
    g_free(folder);
    return line;
}

bool connect_is_eyelet(const bench *b)
{
    return b->method == BL_METHOD_EYELET;
}

int connect_programmer(const bench *b, size_t chip, unsigned copy, connection *c)
{
    int code = begin_connection(b, c, b->programmer_baud, true);
    if (code != EXIT_GOOD) return abandon_connection(c, code);
    if (c->sim != NULL) {
        if (simulation_insert(c->sim, chip, copy, &cli_sink) != BL_OK)
            return abandon_connection(c, EXIT_FAILED);
        c->port = sim_line_port(&c->sim->sim.socket_line);
    }
    code = open_line(c, b->dialogue == NULL ? TRACE_FRAMES : TRACE_RAW);
    if (code != EXIT_GOOD) connect_end(c);
    return code;
}

int connect_keep(connection *c)
{
    if (c->sim == NULL || simulation_save(c->sim, &cli_sink) == BL_OK) return EXIT_GOOD;
    return EXIT_FAILED;
}

int connect_end(connection *c)
{
    int kept = connect_keep(c), closed = close_all(c);
    return kept != EXIT_GOOD ? kept : closed;
}

double connect_seconds(const connection *c)
{
    return (double)(c->port.now(c->port.context) - c->began) / 1e6;
}
