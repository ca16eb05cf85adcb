/* dialogue.c - transfers with devices that speak text: nothing they say is believed. */
#include <string.h>

#include "pump.h"

bl_status bl_pump_talk(const bl_serial *port, bl_talk *t)
{
    uint8_t out[64], in[128];
    while (bl_talk_status(t) == BL_E_BUSY) {
        uint64_t now = port->now(port->context);
        size_t n = bl_talk_output(t, out, sizeof out, now), got = 0;
        bl_status status = bl_pump_send(port, out, n);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        uint64_t deadline = bl_talk_deadline(t), left = deadline > now ? deadline - now : 0;
        status = port->wait(port->context, left > 20000 ? 20000u : (uint32_t)left + 1);
        if (status == BL_OK) status = port->receive(port->context, in, sizeof in, &got);
        if (status != BL_OK) return status;
        bl_talk_input(t, in, got, port->now(port->context));
    }
    return bl_talk_status(t);
}

typedef struct worker {
    const bl_serial *port;
    const bl_dialogue *d;
    bl_transfer *job;
    const bl_pump_watch *watch;
    bl_talk talk;
    unsigned retries;
} worker;

/* Hears the device out, so that what it says next is about what is asked next. */
static bl_status hear_out(const bl_serial *port)
{
    enum { SILENCE_US = 50000, LONGEST_US = 3000000 };
    uint8_t dropped[128];
    uint64_t now = port->now(port->context), quiet_since = now, end = now + LONGEST_US;
    while (now < end && now < quiet_since + SILENCE_US) {
        size_t got = 0;
        bl_status status = port->wait(port->context, SILENCE_US);
        if (status == BL_OK) status = port->receive(port->context, dropped, sizeof dropped, &got);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        if (got > 0) quiet_since = now;
    }
    return BL_OK;
}

/* After an exchange that failed: both begin anew. */
static bl_status wake_again(worker *w)
{
    bl_talk wake;
    bl_status status = hear_out(w->port);
    if (status != BL_OK) return status;
    bl_talk_begin(&wake, w->d, BL_TALK_WAKE, 0, NULL, 0, w->port->now(w->port->context));
    status = bl_pump_talk(w->port, &wake);
    return status == BL_E_IO ? status : hear_out(w->port);
}

/* Text has no checksum: what makes no sense, is refused, or never comes, is asked for some times
 * more. */
static bl_status exchange(worker *w, bl_talk_kind kind, uint32_t address, const uint8_t *bytes,
                          size_t count)
{
    enum { TRIES = 8 };
    bl_status status = BL_OK;
    w->job->where = address;
    for (unsigned i = 0; i < TRIES; i++) {
        bl_talk_begin(&w->talk, w->d, kind, address, bytes, count, w->port->now(w->port->context));
        status = bl_pump_talk(w->port, &w->talk);
        if (status != BL_E_TIMEOUT && status != BL_E_SYNTAX && status != BL_E_REFUSED)
            return status;
        w->retries++;
        bl_status awake = kind == BL_TALK_WAKE ? hear_out(w->port) : wake_again(w);
        if (awake != BL_OK) return awake;
    }
    return status;
}

static bool tell(worker *w, bl_stage stage, size_t block)
{
    static const bl_exchange none = {.resends = 0};
    w->job->stage = stage;
    w->job->block = block;
    return w->watch == NULL || w->watch->progress(w->watch->context, w->job, &none);
}

/* Reads all blocks. proof: every difference is noted; otherwise blocks that differ are marked. */
static bl_status compare(worker *w, const bl_piece *p, bool proof)
{
    bl_transfer *job = w->job;
    size_t size = w->d->block;
    for (size_t i = 0, at = 0; at < p->count; i++, at += size) {
        size_t n = p->count - at < size ? p->count - at : size;
        uint32_t first = p->first + (uint32_t)at;
        if (!tell(w, proof ? BL_STAGE_PROVE : BL_STAGE_LOOK, i)) return BL_E_BUSY;
        bl_status status = exchange(w, BL_TALK_READ, first, NULL, n);
        if (status != BL_OK) return status;
        bool same = memcmp(w->talk.bytes, p->bytes + at, n) == 0;
        if (!proof) job->marks[i] = !same;
        if (proof && same) job->bytes_proved += n;
        if (!proof || same) continue;
        job->blocks_wrong++;
        for (size_t k = 0; k < n; k++)
            if (w->talk.bytes[k] != p->bytes[at + k])
                bl_transfer_note(job, first + (uint32_t)k, p->bytes[at + k], w->talk.bytes[k]);
    }
    return proof && job->blocks_wrong > 0 ? BL_E_DIFFERS : BL_OK;
}

static bl_status write_marked(worker *w, const bl_piece *p, bool all)
{
    bl_transfer *job = w->job;
    size_t size = w->d->block;
    for (size_t i = 0, at = 0; at < p->count; i++, at += size) {
        size_t n = p->count - at < size ? p->count - at : size;
        if (!job->marks[i] && !all) continue;
        if (!tell(w, BL_STAGE_WRITE, i)) return BL_E_BUSY;
        bl_status status = exchange(w, BL_TALK_WRITE, p->first + (uint32_t)at, p->bytes + at, n);
        if (status != BL_OK) return status;
        job->blocks_written++;
        job->bytes_written += n;
    }
    return BL_OK;
}

static bl_status read_range(worker *w)
{
    const bl_transfer_options *o = &w->job->options;
    for (uint64_t at = 0; at < o->range.count; at += w->d->block) {
        uint64_t left = o->range.count - at;
        size_t n = left < w->d->block ? (size_t)left : w->d->block;
        if (!tell(w, BL_STAGE_READ, (size_t)at)) return BL_E_BUSY;
        bl_status status = exchange(w, BL_TALK_READ, o->range.first + (uint32_t)at, NULL, n);
        if (status != BL_OK) return status;
        memcpy(o->buffer + at, w->talk.bytes, n);
    }
    return BL_OK;
}

static bl_status prove(worker *w, const bl_piece *p)
{
    bl_transfer *job = w->job;
    job->bytes_proved = job->differences = 0;
    job->blocks_wrong = 0;
    return compare(w, p, true);
}

/* A line that has lost characters may have lost some of an address, too: then it is done again. */
static bl_status write_and_prove(worker *w, const bl_piece *p)
{
    enum { ROUNDS = 3 };
    bl_status status = BL_OK;
    for (unsigned round = 0; round < ROUNDS; round++) {
        bool look = round > 0 || !w->job->options.every_block;
        if (look) status = compare(w, p, false);
        if (status == BL_OK) status = write_marked(w, p, !look);
        if (status == BL_OK) status = prove(w, p);
        if (status != BL_E_DIFFERS || w->retries == 0) break;
    }
    return status;
}

static bl_status work(worker *w)
{
    const bl_transfer_options *o = &w->job->options;
    tell(w, BL_STAGE_HELLO, 0);
    bl_status status = exchange(w, BL_TALK_WAKE, 0, NULL, 0);
    if (status != BL_OK || o->goal == BL_GOAL_READ) return status != BL_OK ? status : read_range(w);
    const bl_piece *p = &o->pieces[0];
    status = o->goal == BL_GOAL_WRITE ? write_and_prove(w, p) : prove(w, p);
    if (status == BL_OK && o->twice) status = prove(w, p);
    return status;
}

bl_status bl_pump_dialogue(const bl_serial *port, const bl_dialogue *d, bl_transfer *job,
                           const bl_pump_watch *watch, char *said, size_t room)
{
    worker w = {port, d, job, watch, {.status = BL_OK}, 0};
    const bl_memory *m = &job->memory;
    size_t blocks =
        job->options.piece_count > 0 ? (job->options.pieces[0].count + d->block - 1) / d->block : 0;
    if (job->options.piece_count > 1) return BL_E_UNSUPPORTED;
    uint8_t *marks = m->resize(m->context, job->marks, blocks + 1);
    if (marks == NULL) return BL_E_MEMORY;
    memset(marks, 0, blocks + 1);
    job->marks = marks;
    job->block_count = blocks;
    memcpy(job->name, d->name, sizeof d->name);
    job->no_corners = job->options.corners;
    job->options.corners = false;
    bl_status status = work(&w);
    size_t n = strlen(w.talk.said);
    if (n >= room) n = room - 1;
    memcpy(said, w.talk.said, n);
    said[n] = '\0';
    return status;
}
