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

/* ---- explanations ---- */

static const char *stage_text(bl_stage stage)
{
    static const char *const texts[BL_STAGES] = {"at the first greeting",
                                                 "when the part was selected",
                                                 "when protection was switched off",
                                                 "while looking what is there",
                                                 "while looking what can be written over",
                                                 "while erasing",
                                                 "while writing",
                                                 "when the supply was changed",
                                                 "while proving what was written",
                                                 "while reading back",
                                                 "when the supply was changed back",
                                                 "when protection was switched on",
                                                 "when the program was to start",
                                                 "when the program was to go on",
                                                 "while fetching",
                                                 "at the end"};
    return texts[stage];
}

static const char *where_text(const connection *c, const bl_transfer *job)
{
    bool placed = job->stage >= BL_STAGE_LOOK && job->stage <= BL_STAGE_INSPECT;
    return placed || job->stage == BL_STAGE_READ ? cli_address(c->b, job->where) : "the beginning";
}

static void list_differences(const connection *c, const bl_transfer *job, const bl_chip *chip,
                             const whereis *w)
{
    bool hopeless = job->differences > 8 && job->differences * 2 > job->bytes_total;
    size_t most = hopeless ? 4 : BL_DIFFERENCES;
    size_t shown = job->differences < most ? (size_t)job->differences : most;
    for (size_t i = 0; i < shown; i++) {
        const bl_difference *d = &job->difference[i];
        char name[300] = "", seen[40] = "";
        uint32_t address = d->address;
        bool decoded = chip == NULL || bl_chip_address(chip, d->address, 0, &address);
        if (decoded) whereis_describe(w, address, name, sizeof name);
        if (chip != NULL && decoded)
            g_snprintf(seen, sizeof seen, " (CPU %s)", cli_address(c->b, address));
        say("  %s%s  expected %02X  found %02X  %s", cli_address(c->b, d->address), seen,
            d->expected, d->found, name);
    }
    if (job->differences > shown) say("  ... %lu more", (unsigned long)(job->differences - shown));
    if (hopeless && chip == NULL)
        say("  almost none of it is there: has it been sent since power-on?");
}

/* Somebody is there, but not whom we know, or not as he was described. */
static void explain_text(const connection *c, bool programmer)
{
    const bl_dialogue *d = programmer ? c->b->dialogue : c->b->link_dialogue;
    char text[BL_TAP_ROOM + 1];
    bl_tap_text(&c->tap, text, sizeof text);
    fail("unexpected text on %s: \"%s\"", given.port, text);
    if (d != NULL)
        say("  by its dialogue, %s says \"%s\" when it is ready: does the dialogue fit, or is a "
            "program running?",
            d->name, d->prompt);
    else
        say("  is %s? It can be described, docs/dialogue.md",
            programmer ? "it a programmer that speaks text"
                       : "another monitor there, or a program running");
}

static void set_rate(connection *c, bool programmer, uint32_t baud)
{
    if (c->sim != NULL) {
        sim_line *l = programmer ? &c->sim->sim.socket_line : &c->sim->sim.board_line;
        l->to_pc.baud = l->from_pc.baud = baud;
    } else {
        posix_serial_rate(&c->device, baud);
    }
}

/* Is the one who was expected there at another rate? Only asked when he does not answer at the one
 * that is set. */
static bool explain_rate(connection *c, bool programmer)
{
    static const uint32_t rates[] = {9600, 19200, 115200, 57600, 38400, 4800, 2400, 1200, 600, 300};
    uint8_t expected = programmer ? BL_WHO_PROGRAMMER : BL_WHO_EYELET, who = 0;
    char name[BL_NAME_MOST];
    uint32_t found = 0;
    bool frames = programmer ? c->b->dialogue == NULL : connect_is_eyelet(c->b);
    for (size_t i = 0; frames && found == 0 && i < G_N_ELEMENTS(rates) && !cli_stopped(); i++) {
        if (rates[i] == c->baud) continue;
        set_rate(c, programmer, rates[i]);
        for (unsigned k = 0; k < 2 && found == 0; k++)
            if (bl_pump_greet(&c->port, rates[i], &who, name, sizeof name) == BL_OK &&
                who == expected)
                found = rates[i];
    }
    set_rate(c, programmer, c->baud);
    if (found == 0) return false;
    fail("wrong rate: %s answers on %s at %u baud, and %s says %u\n  change 'baud' of '%s' there",
         name, given.port, found, c->b->path, c->baud, programmer ? "programmer" : "link");
    return true;
}

/* At the first greeting: what can be told of a line on which nobody answers as he should. */
static void explain_line(connection *c, bool programmer)
{
    bool sim = c->sim != NULL && !programmer;
    bl_heard heard = bl_tap_heard(&c->tap);
    if ((heard == BL_HEARD_NOTHING || heard == BL_HEARD_OTHER) && explain_rate(c, programmer))
        return;
    switch (heard) {
    case BL_HEARD_NOTHING:
        fail("nothing answers on %s at %u baud\n  %s", given.port, c->baud,
             programmer ? "is the programmer switched on, the cable in place, the rate right?"
             : sim && connect_is_eyelet(c->b)
                 ? "has Eyelet been burned into its chip? bootlace chip write -p sim"
                 : "is the board switched on, the cable in place, the rate right?");
        break;
    case BL_HEARD_ECHO:
        fail("our own bytes come back from %s, and nothing else\n  receive and transmit are "
             "connected with each other, or the far side only echoes",
             given.port);
        break;
    case BL_HEARD_TEXT: explain_text(c, programmer); break;
    case BL_HEARD_ANSWERS:
        fail("each byte is answered by one from %s: that is how Aglet does it\n  --method acked "
             "talks with Aglet; Eyelet must be sent to it first",
             given.port);
        break;
    case BL_HEARD_OTHER:
        fail("bytes come from %s that make no sense at %u baud\n  most likely the rate is wrong; "
             "or another program is on the line, or the cable is very bad",
             given.port, c->baud);
        break;
    }
}

/* A text as it would be written in a dialogue file. Free with g_free. */
static char *quoted(const char *text)
{
    GString *q = g_string_new("\"");
    for (; *text != '\0'; text++) {
        unsigned char byte = (unsigned char)*text;
        if (byte == '\r' || byte == '\n')
            g_string_append(q, byte == '\r' ? "\\r" : "\\n");
        else if (byte >= ' ' && byte <= '~')
            g_string_append_c(q, (char)byte);
        else
            g_string_append_printf(q, "\\x%02X", byte);
    }
    g_string_append_c(q, '"');
    return g_string_free(q, FALSE);
}

/* What a device that speaks text said, and what it should have. */
static void show_words(const connection *c)
{
    char *expected = quoted(c->far.expected), *said = quoted(c->far.said);
    if (c->far.expected[0] != '\0') say("  expected: %s", expected);
    if (c->far.expected[0] != '\0' || c->far.said[0] != '\0')
        say("  it said:  %s", c->far.said[0] != '\0' ? said : "nothing more");
    g_free(expected);
    g_free(said);
}

static void explain_silence(connection *c, const bl_transfer *job, bool programmer)
{
    if (job->stage == BL_STAGE_HELLO) {
        bool nothing = bl_tap_heard(&c->tap) == BL_HEARD_NOTHING;
        explain_line(c, programmer);
        if (!programmer && connect_is_eyelet(c->b) && nothing &&
            bl_tap_heard(&c->tap) == BL_HEARD_NOTHING)
            say("  a running program must call Eyelet's poll now and then; %s if it does not",
                c->sim != NULL ? "'bootlace board reset' resets the board" : "reset the board");
    } else if (job->run_asked) {
        fail("no answer to the start request; memory was verified before\n  the program "
             "may or may not be running");
    } else if (job->stage == BL_STAGE_RESUME) {
        fail("no answer to the resume request; the program may have stopped\n  memory was compared "
             "before: %s",
             job->blocks_wrong > 0 ? "it differs" : "it is the same");
    } else {
        fail("%s stopped answering %s, at %s\n  %zu of %zu %s were written; nothing is verified\n"
             "  do it again: what is right already is kept",
             given.port, stage_text(job->stage), where_text(c, job), job->blocks_written,
             job->block_count, connect_unit(job));
        show_words(c);
    }
}

/* What a machine that is not Eyelet cannot do. */
static void explain_unable(const connection *c, const bl_transfer *job)
{
    const char *method = bl_loader_name(c->b->method);
    bool talks = c->b->link_dialogue != NULL;
    if (job->stage == BL_STAGE_RUN)
        fail("--run: nothing was sent, because %s cannot be told to start a program\n  %s",
             talks ? job->name : method,
             talks ? "its dialogue has no 'start'" : "send it without --run, and start it there");
    else if (job->stage == BL_STAGE_WRITE)
        fail("%s has no command to set memory (its dialogue has no 'write'); choose a --method",
             job->name);
    else
        fail("memory cannot be read back by %s%s\n  %s", talks ? job->name : method,
             talks ? "" : " alone",
             talks ? "its dialogue has neither 'read' nor 'dump'"
                   : "describe the monitor that is there by a dialogue: in the bench file");
}

static void explain_refusal(const connection *c, const bl_transfer *job)
{
    static const char *const texts[] = {"",
                                        "it does not know this request",
                                        "it found the request malformed",
                                        "it will not touch this address",
                                        "it read back something else",
                                        "the chip's write cycle does not end",
                                        "no part was selected",
                                        "",
                                        "it must be erased first",
                                        "the programmer cannot make this voltage"};
    fail("refused %s, at %s: %s", stage_text(job->stage), where_text(c, job),
         job->refusal < G_N_ELEMENTS(texts) ? texts[job->refusal]
                                            : "for a reason it only gives a number for");
    const bl_part *part = job->options.part;
    if (job->refusal == BL_ANSWER_NO_SUPPLY && part != NULL && part->vpp > 0)
        say("  a %s is written with %u.%u V; is that supply connected to the programmer?",
            part->name, part->vpp / 10u, part->vpp % 10u);
}

static void explain_status(connection *c, const bl_transfer *job, bl_status status,
                           const bl_chip *chip, const whereis *w)
{
    bool programmer = chip != NULL;
    switch (status) {
    case BL_E_TIMEOUT: explain_silence(c, job, programmer); break;
    case BL_E_LINE:
        if (job->stage == BL_STAGE_HELLO) {
            explain_line(c, programmer);
            break;
        }
        fail(
            "bytes come from %s, but no complete answer %s\n  a wrong baud rate (%u here), another "
            "program on the line, or a very bad cable",
            given.port, stage_text(job->stage), c->baud);
        break;
    case BL_E_DIFFERS:
        fail("%s: %lu byte%s wrong%s",
             job->stage == BL_STAGE_WRITE ? "writing failed" : "contents differ",
             (unsigned long)job->differences, job->differences == 1 ? " is" : "s are",
             job->stage == BL_STAGE_WRITE ? " (stopped at the first)" : "");
        list_differences(c, job, chip, w);
        if (job->refusal == BL_ANSWER_UNCHANGED)
            say("  not a byte of the page changed: is the chip protected (try --unprotect), or its "
                "write enable not connected?");
        break;
    case BL_E_NOT_BLANK:
        fail("nothing was written: bits that are 0 in the chip would have to become 1 again");
        list_differences(c, job, chip, w);
        say("  a %s must be erased first: about twenty minutes under an ultraviolet lamp",
            chip->part->name);
        break;
    case BL_E_REFUSED:
        if (!programmer && c->b->method == BL_LOADER_PARALLEL) {
            fail("a row's sum was wrong before %s: %s has stopped\n  a data line, or what is there "
                 "is "
                 "no RAM? Start it again",
                 where_text(c, job), job->name);
            break;
        }
        if (c->far.said[0] != '\0')
            fail("%s refused %s, at %s, saying: %s", job->name, stage_text(job->stage),
                 where_text(c, job), c->far.said);
        else
            explain_refusal(c, job);
        break;
    case BL_E_SYNTAX:
        fail("unexpected reply %s, at %s; does the dialogue fit the device?",
             stage_text(job->stage), where_text(c, job));
        show_words(c);
        break;
    case BL_E_UNSUPPORTED:
        if (!programmer && !connect_is_eyelet(c->b)) {
            explain_unable(c, job);
            break;
        }
        fail("something answers on %s, but it is not %s of this version", given.port,
             programmer ? "a programmer" : "Eyelet");
        break;
    case BL_E_IO:
        fail("%s failed or was unplugged %s\n  %zu of %zu %s were written; nothing is verified",
             given.port, stage_text(job->stage), job->blocks_written, job->block_count,
             connect_unit(job));
        break;
    case BL_E_BUSY:
        fail("stopped %s, at %s\n  %zu of %zu %s were written; nothing is verified\n  do it again: "
             "what is right already is kept",
             stage_text(job->stage), where_text(c, job), job->blocks_written, job->block_count,
             connect_unit(job));
        break;
    default: fail("%s %s", bl_status_text(status), stage_text(job->stage)); break;
    }
}

void explain(connection *c, const bl_transfer *job, bl_status status, const bl_chip *chip,
             const whereis *w)
{
    explain_status(c, job, status, chip, w);
    if (job->in_loader)
        say("  %s did not come back to its prompt: it may still be in its loader; reset it before "
            "anything else is typed",
            job->name);
}
