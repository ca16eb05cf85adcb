/* connect.c - opening ports and running jobs on them. */
#include "connect.h"

#include <errno.h>
#include <string.h>

#include "ports.h"

static int open_device(connection *c)
{
    bl_status status = posix_serial_open(&c->device, given.port, c->baud);
    switch (status) {
    case BL_OK: break;
    case BL_E_NOT_FOUND: return fail("%s: there is no such device", given.port);
    case BL_E_BUSY:
        return fail("%s: another program is using it\n  close that terminal program; it holds the "
                    "port's lock (flock, TIOCEXCL, or a file in /run/lock)",
                    given.port);
    case BL_E_UNSUPPORTED:
        return fail("%s: not a serial device, or it cannot run at %u baud", given.port, c->baud);
    default: return fail("%s: cannot be opened: %s", given.port, g_strerror(errno));
    }
    c->port = posix_serial_port(&c->device);
    return EXIT_GOOD;
}

/* programmer: who is to be at the other end; otherwise the board. */
static int begin(const bench *b, connection *c, uint32_t baud, bool programmer)
{
    memset(c, 0, sizeof *c);
    c->b = b;
    c->baud = baud;
    c->device.file = -1;
    c->words = g_byte_array_new();
    if (given.port == NULL) given.port = ports_only(b, programmer);
    if (given.port == NULL) return EXIT_USAGE;
    int code = EXIT_GOOD;
    if (strcmp(given.port, "sim") != 0)
        code = open_device(c);
    else if (simulation_open(b, given.state, (uint64_t)given.seed, given.faults, &cli_sink,
                             &c->sim) != BL_OK)
        code = EXIT_FAILED;
    if (code == EXIT_GOOD && c->sim == NULL && given.faults != NULL) {
        connect_end(c);
        return cli_usage("--fault is for the simulated bench (-p sim)");
    }
    bl_exchange_begin(&c->exchange, baud);
    return code;
}

static void trace_passed(void *context, bool sent, const uint8_t *bytes, size_t count, uint64_t now)
{
    line_trace_passed(context, sent, bytes, count, now);
}

/* From now on the line is listened to, and time counts. */
static int settle(connection *c, trace_protocol protocol)
{
    bl_serial port = c->port;
    c->port = bl_tap_begin(&c->tap, &port);
    c->began = c->port.now(c->port.context);
    if (given.trace == NULL) return EXIT_GOOD;
    const cli_output outputs[] = {{"-o", given.out}, {"--trace", given.trace}};
    const char *const none[] = {NULL};
    if (cli_check_outputs(outputs, G_N_ELEMENTS(outputs), none) != EXIT_GOOD) return EXIT_USAGE;
    if (line_trace_open(given.trace, given.port, c->baud, protocol, &cli_sink, &c->trace) != BL_OK)
        return EXIT_FAILED;
    c->tap.watch = (bl_tap_watch){c->trace, trace_passed};
    return EXIT_GOOD;
}

static trace_protocol protocol_of(const bench *b)
{
    return b->method == BL_LOADER_EYELET                                       ? TRACE_FRAMES
           : b->method == BL_LOADER_XMODEM || b->method == BL_LOADER_XMODEM_1K ? TRACE_XMODEM
                                                                               : TRACE_RAW;
}

int connect_board(const bench *b, connection *c)
{
    bool sim = given.port != NULL && strcmp(given.port, "sim") == 0;
    bool parallel = b->method == BL_LOADER_PARALLEL;
    if (parallel && given.port != NULL && !sim)
        return cli_usage(
            "a PC has no parallel port of this kind: --method parallel is for -p sim, and "
            "for programs that use port.h");
    if (!b->has_link || (sim && b->neighbour == NULL && !parallel && b->link_device == NULL))
        return fail("%s: no 'link:' says which device the serial line is on", b->path);
    if (sim && simulation_check_cpu(b, &cli_sink) != BL_OK) return EXIT_FAILED;
    int code = begin(b, c, b->link_baud, false);
    if (code != EXIT_GOOD) return code;
    if (c->sim != NULL) {
        simulation_come_up(c->sim);
        c->port = sim_line_port(&c->sim->sim.board_line);
    }
    if (given.trace != NULL && parallel)
        code = cli_usage("--trace is of serial lines; --method parallel uses none");
    if (code == EXIT_GOOD) code = settle(c, protocol_of(b));
    if (code != EXIT_GOOD) connect_end(c);
    return code;
}

char *connect_line(const connection *c)
{
    char *folder = c->sim != NULL ? g_canonicalize_filename(c->sim->folder, NULL) : NULL;
    char *line = g_strconcat(given.port, folder != NULL ? " " : NULL, folder, NULL);
    g_free(folder);
    return line;
}

bool connect_is_eyelet(const bench *b)
{
    return b->method == BL_LOADER_EYELET;
}

int connect_programmer(const bench *b, size_t chip, unsigned copy, connection *c)
{
    int code = begin(b, c, b->programmer_baud, true);
    if (code != EXIT_GOOD) return code;
    if (c->sim != NULL) {
        if (simulation_insert(c->sim, chip, copy, &cli_sink) != BL_OK) {
            simulation_close(c->sim);
            c->sim = NULL;
            return EXIT_FAILED;
        }
        c->port = sim_line_port(&c->sim->sim.socket_line);
    }
    code = settle(c, b->dialogue == NULL ? TRACE_FRAMES : TRACE_RAW);
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
    int code = EXIT_GOOD;
    if (c->sim != NULL && simulation_save(c->sim, &cli_sink) != BL_OK) code = EXIT_FAILED;
    simulation_close(c->sim);
    c->sim = NULL;
    posix_serial_close(&c->device);
    if (line_trace_close(c->trace, &cli_sink) != BL_OK) code = EXIT_FAILED;
    c->trace = NULL;
    if (c->words != NULL) g_byte_array_free(c->words, TRUE);
    c->words = NULL;
    return code;
}

double connect_seconds(const connection *c)
{
    return (double)(c->port.now(c->port.context) - c->began) / 1e6;
}

const char *connect_unit(const bl_transfer *job)
{
    const bl_part *part = job->options.part;
    bool whole = part != NULL && job->block_count == part->size / part->page;
    return whole && part->method == BL_METHOD_PAGE ? "pages" : "blocks";
}

static bool show_progress(void *context, const bl_transfer *job, const bl_exchange *x)
{
    static const char *const names[BL_STAGES] = {"greeting",  "selecting", "unlocking", "looking",
                                                 "comparing", "erasing",   "writing",   "supplying",
                                                 "proving",   "reading",   "supplying", "locking",
                                                 "starting",  "resuming",  "fetching",  "done"};
    size_t done, total;
    (void)context;
    bl_transfer_progress(job, &done, &total);
    progress(names[job->stage], done, total,
             job->stage == BL_STAGE_READ ? "bytes" : connect_unit(job), x->resends);
    return !cli_stopped();
}

static void keep_words(void *context, const uint8_t *bytes, size_t count)
{
    connection *c = context;
    g_byte_array_append(c->words, bytes, (guint)count);
}

/* Control characters are shown as what they are, not obeyed; lines stay lines. */
static char *words_as_text(const GByteArray *words)
{
    GString *text = g_string_new(NULL);
    for (guint i = 0; i < words->len; i++) {
        uint8_t c = words->data[i];
        if (c == '\n' || g_ascii_isprint(c))
            g_string_append_c(text, (char)c);
        else if (c != '\r')
            g_string_append_printf(text, "<%02X>", c);
    }
    return g_strstrip(g_string_free(text, FALSE));
}

char *connect_hear(connection *c)
{
    enum { PAUSE_US = 150000, LONGEST_US = 2000000 };
    uint8_t bytes[256];
    uint64_t now = c->port.now(c->port.context), end = now + LONGEST_US, quiet = now + PAUSE_US;
    while (now < end && now < quiet && !cli_stopped()) {
        size_t got = 0;
        bl_status status = c->port.wait(c->port.context, (uint32_t)(quiet - now));
        if (status == BL_OK) status = c->port.receive(c->port.context, bytes, sizeof bytes, &got);
        if (status != BL_OK) break;
        now = c->port.now(c->port.context);
        if (got > 0) quiet = now + PAUSE_US;
        g_byte_array_append(c->words, bytes, (guint)got);
    }
    char *text = words_as_text(c->words);
    g_byte_array_set_size(c->words, 0);
    if (*text != '\0') return text;
    g_free(text);
    return NULL;
}

/* By whatever is at the other end. */
static bl_status run(connection *c, bl_transfer *job)
{
    const bl_pump_watch watch = {c, show_progress, keep_words};
    bool programmer = job->options.who == BL_WHO_PROGRAMMER;
    const bl_dialogue *d = programmer ? c->b->dialogue : c->b->link_dialogue;
    if (programmer ? d == NULL : connect_is_eyelet(c->b))
        return bl_pump_transfer(&c->port, &c->exchange, job, &watch);
    if (!programmer && c->b->method == BL_LOADER_PARALLEL) {
        bl_parallel lines = sim_parallel_port(&c->sim->sim);
        return bl_pump_parallel(&lines, job);
    }
    bl_far_side far = {d, programmer ? BL_LOADER_TYPING : c->b->method, c->baud, c->b->packet,
                       c->b->rounds};
    return bl_pump_far(&c->port, &far, job, &watch, &c->far);
}

bl_status connect_run(connection *c, bl_transfer *job)
{
    cli_take_interrupts();
    bl_status status = run(c, job);
    progress_end();
    detail("%s: %lu bytes out, %lu in, %u sent again, %u damaged", given.port,
           (unsigned long)c->tap.sent_count, (unsigned long)c->tap.came_count,
           c->exchange.resends + job->resends, c->exchange.damaged);
    return status;
}
