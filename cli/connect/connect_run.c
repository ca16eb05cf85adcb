/* connect_run.c - a job over an open connection, with its progress; what a program says. */
#include "bootlace/drive_parallel.h"
#include "connect.h"

static const char *unit_of(const bl_transfer_options *o, size_t blocks)
{
    bool whole = o->part != NULL && blocks == o->part->size / o->part->page;
    return whole && o->part->algorithm == BL_ALGORITHM_PAGE ? "pages" : "blocks";
}

const char *connect_unit(const bl_transfer *job)
{
    return unit_of(&job->options, job->result.blocks);
}

static bool show_progress(void *context, const bl_progress *p)
{
    static const char *const names[] = {
        [BL_STAGE_HELLO] = "greeting",      [BL_STAGE_SELECT] = "selecting",
        [BL_STAGE_UNPROTECT] = "unlocking", [BL_STAGE_LOOK] = "looking",
        [BL_STAGE_FIT] = "comparing",       [BL_STAGE_ERASE] = "erasing",
        [BL_STAGE_WRITE] = "writing",       [BL_STAGE_SUPPLY] = "supplying",
        [BL_STAGE_PROVE] = "proving",       [BL_STAGE_INSPECT] = "reading",
        [BL_STAGE_RESTORE] = "supplying",   [BL_STAGE_PROTECT] = "locking",
        [BL_STAGE_RUN] = "starting",        [BL_STAGE_RESUME] = "resuming",
        [BL_STAGE_READ] = "fetching",       [BL_STAGE_DONE] = "done",
    };
    _Static_assert(G_N_ELEMENTS(names) == BL_STAGES, "one for each");
    (void)context;
    progress(names[p->stage], p->done, p->total,
             p->stage == BL_STAGE_READ ? "bytes" : unit_of(p->options, p->total), p->resends);
    return !cli_stopped();
}

static void keep_program_words(void *context, const uint8_t *bytes, size_t count)
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

/* What the machine says by itself, until it pauses: of a program that was just started it is the
 * first sign. */
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
static bl_status run_transfer(connection *c, bl_transfer *job)
{
    const bl_drive_watch watch = {c, show_progress, keep_program_words};
    bool programmer = job->options.who == BL_WHO_PROGRAMMER;
    const bl_dialogue *d = programmer ? c->b->dialogue : c->b->link_dialogue;
    if (programmer ? d == NULL : connect_is_eyelet(c->b))
        return bl_drive_transfer(&c->port, &c->exchange, job, &watch);
    if (!programmer && c->b->method == BL_METHOD_PARALLEL) {
        bl_parallel lines = sim_parallel_port(&c->sim->sim);
        return bl_drive_parallel(&lines, job);
    }
    bl_remote remote = {d, programmer ? BL_METHOD_TYPING : c->b->method, c->baud, c->b->packet,
                        c->b->rounds};
    return bl_drive_remote(&c->port, &remote, job, &watch, &c->last_words);
}

bl_status connect_run(connection *c, bl_transfer *job)
{
    cli_take_interrupts();
    bl_status status = run_transfer(c, job);
    progress_end();
    detail("%s: %lu bytes out, %lu in, %u sent again, %u damaged", c->name,
           (unsigned long)c->tap.sent_count, (unsigned long)c->tap.came_count,
           c->exchange.resends + job->result.resends, c->exchange.damaged);
    return status;
}
