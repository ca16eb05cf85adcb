/* connect_explain.c - why a job failed, in words. */

#include "connect.h"

/* When it was, in words that go behind "refused" and "stopped". */
static const char *stage_text(bl_stage stage)
{
    static const char *const texts[] = {
        [BL_STAGE_HELLO] = "at the first greeting",
        [BL_STAGE_SELECT] = "when the part was selected",
        [BL_STAGE_UNPROTECT] = "when protection was switched off",
        [BL_STAGE_LOOK] = "while looking what is there",
        [BL_STAGE_FIT] = "while looking what can be written over",
        [BL_STAGE_ERASE] = "while erasing",
        [BL_STAGE_WRITE] = "while writing",
        [BL_STAGE_SUPPLY] = "when the supply was changed",
        [BL_STAGE_PROVE] = "while proving what was written",
        [BL_STAGE_INSPECT] = "while reading back",
        [BL_STAGE_RESTORE] = "when the supply was changed back",
        [BL_STAGE_PROTECT] = "when protection was switched on",
        [BL_STAGE_RUN] = "when the program was to start",
        [BL_STAGE_RESUME] = "when the program was to go on",
        [BL_STAGE_READ] = "while fetching",
        [BL_STAGE_DONE] = "at the end",
    };
    _Static_assert(G_N_ELEMENTS(texts) == BL_STAGES, "one for each");
    return texts[stage];
}

static const char *where_text(const connection *c, const bl_transfer *job)
{
    bool placed = job->result.stage >= BL_STAGE_LOOK && job->result.stage <= BL_STAGE_INSPECT;
    if (!placed && job->result.stage != BL_STAGE_READ) return "the beginning";
    return job->options.part != NULL ? cli_offset(c->b, job->result.where)
                                     : cli_address(c->b, job->result.where);
}

/* When most bytes differ the first few say it all: then it is another program, or nothing. */
static void list_differences(const connection *c, const bl_transfer *job, const bl_chip *chip,
                             const whereis *w)
{
    bool hopeless =
        job->result.differences > 8 && job->result.differences * 2 > job->result.bytes_total;
    size_t max = hopeless ? 4 : BL_DIFFERENCES;
    size_t shown = job->result.differences < max ? (size_t)job->result.differences : max;
    for (size_t i = 0; i < shown; i++) {
        const bl_difference *d = &job->result.difference[i];
        char name[300] = "", seen[40] = "";
        uint32_t address = d->address;
        bool decoded = chip == NULL || bl_chip_address(chip, d->address, 0, &address);
        if (decoded) whereis_describe(w, address, name, sizeof name);
        if (chip != NULL && decoded)
            g_snprintf(seen, sizeof seen, " (CPU %s)", cli_address(c->b, address));
        say("  %s%s  expected %02X  found %02X  %s",
            chip != NULL ? cli_offset(c->b, d->address) : cli_address(c->b, d->address), seen,
            d->expected, d->found, name);
    }
    if (job->result.differences > shown)
        say("  ... %lu more", (unsigned long)(job->result.differences - shown));
    if (hopeless && chip == NULL)
        say("  almost none of it is there: has it been sent since power-on?");
}

/* Somebody is there, but not whom we know, or not as he was described. */
static void explain_text(const connection *c, bool programmer)
{
    const bl_dialogue *d = programmer ? c->b->dialogue : c->b->link_dialogue;
    char text[BL_TAP_ROOM + 1];
    bl_tap_text(&c->tap, text, sizeof text);
    fail("unexpected text on %s: \"%s\"", c->name, text);
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
    char name[BL_NAME_MAX];
    uint32_t found = 0;
    bool frames = programmer ? c->b->dialogue == NULL : connect_is_eyelet(c->b);
    for (size_t i = 0; frames && found == 0 && i < G_N_ELEMENTS(rates) && !cli_stopped(); i++) {
        if (rates[i] == c->baud) continue;
        set_rate(c, programmer, rates[i]);
        for (unsigned k = 0; k < 2 && found == 0; k++)
            if (bl_drive_greet(&c->port, rates[i], &who, name, sizeof name) == BL_OK &&
                who == expected)
                found = rates[i];
    }
    set_rate(c, programmer, c->baud);
    if (found == 0) return false;
    fail("wrong rate: %s answers on %s at %u baud, and %s says %u\n  change 'baud' of '%s' there",
         name, c->name, found, c->b->path, c->baud, programmer ? "programmer" : "link");
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
        fail("nothing answers on %s at %u baud\n  %s", c->name, c->baud,
             programmer ? "is the programmer switched on, the cable in place, the rate right?"
             : sim && connect_is_eyelet(c->b)
                 ? "has Eyelet been burned into its chip? bootlace chip write -p sim"
                 : "is the board switched on, the cable in place, the rate right?");
        break;
    case BL_HEARD_ECHO:
        fail("our own bytes come back from %s, and nothing else\n  receive and transmit are "
             "connected with each other, or the remote only echoes",
             c->name);
        break;
    case BL_HEARD_TEXT: explain_text(c, programmer); break;
    case BL_HEARD_ANSWERS:
        fail("each byte is answered by one from %s: that is how Aglet does it\n  --method acked "
             "talks with Aglet; Eyelet must be sent to it first",
             c->name);
        break;
    case BL_HEARD_OTHER:
        fail("bytes come from %s that make no sense at %u baud\n  most likely the rate is wrong; "
             "or another program is on the line, or the cable is very bad",
             c->name, c->baud);
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
    char *expected = quoted(c->last_words.expected), *said = quoted(c->last_words.said);
    if (c->last_words.expected[0] != '\0') say("  expected: %s", expected);
    if (c->last_words.expected[0] != '\0' || c->last_words.said[0] != '\0')
        say("  it said:  %s", c->last_words.said[0] != '\0' ? said : "nothing more");
    g_free(expected);
    g_free(said);
}

static const char *talking_to(const connection *c, const bl_transfer *job)
{
    return job->result.name[0] != '\0' ? job->result.name : c->name;
}

/* Of a job that did not end: only what was proved counts as done, and what the next one can see. */
static void tell_kept(const connection *c, const bl_transfer *job, bool programmer)
{
    const bl_dialogue *d = c->b->link_dialogue;
    const bl_transfer_result *r = &job->result;
    bool sees = programmer || connect_is_eyelet(c->b) ||
                (d != NULL && (d->read[0] != '\0' || d->dump[0] != '\0'));
    if (r->stage == BL_STAGE_HELLO) return; /* nothing was done */
    if (job->options.goal == BL_GOAL_READ)
        say("  %lu of %lu bytes were fetched; no file was written", (unsigned long)r->bytes_fetched,
            (unsigned long)job->options.range.count);
    else if (job->options.goal == BL_GOAL_COMPARE)
        say("  %lu of %lu bytes are the same so far; the others were not compared",
            (unsigned long)r->bytes_sure, (unsigned long)r->bytes_total);
    else if (!sees)
        say("  nothing is verified; run the command again");
    else if (r->bytes_sure == 0)
        say("  nothing is verified; run the command again: blocks that are already correct will be "
            "kept");
    else
        say("  %lu of %lu bytes are verified so far; run the command again: it keeps what is "
            "correct",
            (unsigned long)r->bytes_sure, (unsigned long)r->bytes_total);
}

/* Silence has many causes: what was heard on the way (tap.h) tells them apart, and only what is
 * left is guessed at. */
static void explain_silence(connection *c, const bl_transfer *job, bool programmer)
{
    if (job->result.stage == BL_STAGE_HELLO) {
        bool nothing = bl_tap_heard(&c->tap) == BL_HEARD_NOTHING;
        explain_line(c, programmer);
        if (!programmer && connect_is_eyelet(c->b) && nothing &&
            bl_tap_heard(&c->tap) == BL_HEARD_NOTHING)
            say("  a running program must call Eyelet's poll now and then; %s if it does not",
                c->sim != NULL ? "'bootlace board reset' resets the board" : "reset the board");
    } else if (job->result.run_asked) {
        fail("no answer to the start request; memory was verified before\n  the program "
             "may or may not be running");
    } else if (job->result.stage == BL_STAGE_RESUME) {
        fail("no answer to the resume request; the program may have stopped\n  memory was compared "
             "before: %s",
             job->result.blocks_wrong > 0 ? "it differs" : "it is the same");
    } else {
        fail("%s stopped answering %s, at %s", c->name, stage_text(job->result.stage),
             where_text(c, job));
        tell_kept(c, job, programmer);
        show_words(c);
    }
}

/* What a machine that is not Eyelet cannot do. */
static void explain_unable(const connection *c, const bl_transfer *job)
{
    const char *method = bl_method_name(c->b->method);
    bool talks = c->b->link_dialogue != NULL;
    if (job->result.stage == BL_STAGE_RUN)
        fail("--run: nothing was sent, because %s cannot be told to start a program\n  %s",
             talks ? job->result.name : method,
             talks ? "its dialogue has no 'start'" : "send it without --run, and start it there");
    else if (job->result.stage == BL_STAGE_WRITE)
        fail("%s has no command to set memory (its dialogue has no 'write'); choose a --method",
             job->result.name);
    else
        fail("memory cannot be read back by %s%s\n  %s", talks ? job->result.name : method,
             talks ? "" : " alone",
             talks ? "its dialogue has neither 'read' nor 'dump'"
                   : "describe the monitor that is there by a dialogue: in the bench file");
}

/* The remote's code in words, with the place; what can be done about it behind it. */
static void explain_refusal(const connection *c, const bl_transfer *job)
{
    static const char *const texts[] = {
        [BL_ANSWER_GOOD] = "",
        [BL_ANSWER_UNKNOWN] = "it does not know this request",
        [BL_ANSWER_MALFORMED] = "it found the request malformed",
        [BL_ANSWER_RANGE] = "it will not touch this address",
        [BL_ANSWER_DIFFERS] = "it read back something else",
        [BL_ANSWER_NOT_READY] = "the chip's write cycle does not end",
        [BL_ANSWER_NO_PART] = "no part was selected",
        [BL_ANSWER_UNCHANGED] = "",
        [BL_ANSWER_NOT_BLANK] = "it must be erased first",
        [BL_ANSWER_NO_SUPPLY] = "the programmer cannot make this voltage",
    };
    _Static_assert(G_N_ELEMENTS(texts) == BL_ANSWER_CODES, "one for each");
    if (job->result.refusal == BL_ANSWER_GOOD) { /* by what gives no reason */
        fail("%s refused what was sent %s, at %s", talking_to(c, job),
             stage_text(job->result.stage), where_text(c, job));
        if (job->result.line > 0) say("  record %u of those that were sent", job->result.line);
        tell_kept(c, job, job->options.part != NULL);
        return;
    }
    fail("refused %s, at %s: %s", stage_text(job->result.stage), where_text(c, job),
         job->result.refusal < G_N_ELEMENTS(texts) ? texts[job->result.refusal]
                                                   : "for a reason it only gives a number for");
    const bl_part *part = job->options.part;
    if (job->result.refusal == BL_ANSWER_NO_SUPPLY && part != NULL && part->vpp > 0)
        say("  a %s is written with %u.%u V; is that supply connected to the programmer?",
            part->name, part->vpp / 10u, part->vpp % 10u);
}

/* One place for every way a job can end badly, so that each is told with what, where and what to
 * do. */
static void explain_status(connection *c, const bl_transfer *job, bl_status status,
                           const bl_chip *chip, const whereis *w)
{
    bool programmer = chip != NULL;
    switch (status) {
    case BL_E_TIMEOUT: explain_silence(c, job, programmer); break;
    case BL_E_LINE:
        if (job->result.stage == BL_STAGE_HELLO) {
            explain_line(c, programmer);
            break;
        }
        fail(
            "bytes come from %s, but no complete answer %s\n  a wrong baud rate (%u here), another "
            "program on the line, or a very bad cable",
            c->name, stage_text(job->result.stage), c->baud);
        break;
    case BL_E_DIFFERS:
        fail("%s: %lu byte%s wrong%s",
             job->result.stage == BL_STAGE_WRITE ? "writing failed" : "contents differ",
             (unsigned long)job->result.differences, job->result.differences == 1 ? " is" : "s are",
             job->result.stage == BL_STAGE_WRITE ? " (stopped at the first)" : "");
        list_differences(c, job, chip, w);
        if (job->result.refusal == BL_ANSWER_UNCHANGED)
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
        if (!programmer && c->b->method == BL_METHOD_PARALLEL) {
            fail("a row's sum was wrong before %s: %s has stopped\n  a data line, or what is there "
                 "is no RAM? Start it again",
                 where_text(c, job), job->result.name);
            break;
        }
        if (c->last_words.said[0] != '\0')
            fail("%s refused %s, at %s, saying: %s", job->result.name,
                 stage_text(job->result.stage), where_text(c, job), c->last_words.said);
        else
            explain_refusal(c, job);
        break;
    case BL_E_SYNTAX:
        fail("unexpected reply %s, at %s; does the dialogue fit the device?",
             stage_text(job->result.stage), where_text(c, job));
        show_words(c);
        break;
    case BL_E_UNSUPPORTED:
        if (!programmer && !connect_is_eyelet(c->b)) {
            explain_unable(c, job);
            break;
        }
        fail("something answers on %s, but it is not %s of this version", c->name,
             programmer ? "a programmer" : "Eyelet");
        break;
    case BL_E_RANGE:
        fail("nothing was done: %s cannot be addressed by method %s%s\n  choose another --method, "
             "or another place",
             cli_address(c->b, job->result.where), bl_method_name(c->b->method),
             job->result.where == 0 ? " as where to start" : "");
        break;
    case BL_E_IO:
        fail("%s failed or was unplugged %s", c->name, stage_text(job->result.stage));
        tell_kept(c, job, programmer);
        break;
    case BL_E_BUSY:
        fail("stopped %s, at %s", stage_text(job->result.stage), where_text(c, job));
        tell_kept(c, job, programmer);
        break;
    case BL_E_CANCELLED:
        fail("%s cancelled the transfer %s, at %s", talking_to(c, job),
             stage_text(job->result.stage), where_text(c, job));
        tell_kept(c, job, programmer);
        break;
    case BL_E_SHORT:
        fail("%s sent %lu of the %lu bytes that were asked for; no file was written\n  ask for "
             "fewer "
             "bytes, or have it send more",
             talking_to(c, job), (unsigned long)job->result.bytes_fetched,
             (unsigned long)job->options.range.count);
        break;
    case BL_E_LONG:
        fail("%s sent more than the %lu bytes that were asked for; no file was written\n  ask for "
             "all that it sends, or have it send less",
             talking_to(c, job), (unsigned long)job->options.range.count);
        break;
    default: fail("%s %s", bl_status_text(status), stage_text(job->result.stage)); break;
    }
}

void explain(connection *c, const bl_transfer *job, bl_status status, const bl_chip *chip,
             const whereis *w)
{
    explain_status(c, job, status, chip, w);
    if (job->result.in_loader)
        say("  %s did not come back to its prompt: it may still be in its loader; reset it before "
            "anything else is typed",
            job->result.name);
}
