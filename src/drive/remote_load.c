/* remote_load.c - bytes carried by a loader of the remote, and back. */
#include "base/core.h"
#include "bootlace/drive_transport.h"
#include "remote.h"
#include "silence.h"

/* ---- progress ---- */

typedef struct follower {
    bl_remote_work *w;
    size_t before; /* blocks of the pieces before this one */
} follower;

static bool follow_transport(void *context, const bl_transport *t)
{
    follower *f = context;
    size_t blocks = t->total > 0 ? t->done / f->w->job->options.block : 0;
    return bl_remote_tell_retries(f->w, f->before + blocks, t->resends);
}

/* Whatever went wrong, the remote is told where that is possible, so that it is usable again. */
static bl_status drive_cargo(bl_remote_work *w, bl_transport *t)
{
    follower f = {w, w->job->result.blocks_written};
    bl_transport_watch watch = {&f, follow_transport};
    bl_status status = bl_drive_transport(w->port, t, &watch);
    w->job->result.resends += t->resends;
    if (status == BL_OK || status == BL_E_IO || t->kind->cancel == NULL) return status;
    t->kind->cancel(t, w->port->now(w->port->context));
    bl_drive_transport(w->port, t, NULL);
    return status;
}

/* ---- what is carried ---- */

typedef struct growing {
    const bl_memory *memory;
    char *at;
    size_t count, capacity;
} growing;

static bl_status append_record(void *context, const void *bytes, size_t count)
{
    growing *g = context;
    char *more = bl_grown(g->memory, g->at, &g->capacity, g->count + count, 1);
    if (more == NULL) return BL_E_MEMORY;
    g->at = more;
    memcpy(g->at + g->count, bytes, count);
    g->count += count;
    return BL_OK;
}

static bl_status make_records(const bl_remote_work *w, const bl_piece *pieces, size_t count,
                              growing *g)
{
    bl_writer writer = {g, append_record};
    bl_image *image;
    bl_status status = bl_image_open(g->memory, &image);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < count && status == BL_OK; i++)
        status = bl_image_put(image, pieces[i].first, pieces[i].bytes, pieces[i].count,
                              (bl_origin){.line = 0});
    if (status == BL_OK)
        status = bl_imagefile_write(w->method->records, image, 0xFF, NULL, &writer);
    bl_image_close(image);
    return status;
}

/* A copy of the piece that is a multiple of what the method fills up to. What lies behind it is
 * read, so that filling up changes nothing there, where it can be read. Release *bytes. */
static bl_status fill_up(bl_remote_work *w, const bl_piece *p, size_t pad, uint8_t **bytes)
{
    const bl_memory *m = &w->job->state.memory;
    bl_transfer_result *r = &w->job->result;
    bl_status status = BL_OK;
    uint32_t behind = p->first + (uint32_t)p->count;
    *bytes = m->resize(m->context, NULL, p->count + pad);
    if (*bytes == NULL) return BL_E_MEMORY;
    memcpy(*bytes, p->bytes, p->count);
    memset(*bytes + p->count, 0x1A, pad);
    r->padding_kept = w->target.read != NULL;
    r->padding += (uint32_t)pad;
    r->padded_at = behind;
    if (r->padding_kept) status = bl_remote_read(w, behind, *bytes + p->count, pad);
    return status;
}

/* ---- into the loader, and out of it ---- */

static bl_status enter_loader(bl_remote_work *w, const bl_piece *piece)
{
    bool speaks = w->d != NULL && w->d->load[0] != '\0';
    return speaks ? bl_remote_exchange(w, BL_TALK_LOAD, piece->first, NULL, piece->count) : BL_OK;
}

/* Back to the prompt, if there is one to come back to. After something went wrong it is seen that
 * the remote is there: what is typed next would be taken for bytes. */
static bl_status leave_loader(bl_remote_work *w, bl_status status)
{
    if (w->d == NULL || status == BL_E_IO) return status;
    bl_talk last = w->talker.talk; /* what went wrong, for messages */
    uint32_t where = w->job->result.where;
    bl_status end = bl_silence_await(w->port);
    if (end == BL_OK && w->d->leave[0] != '\0')
        end = bl_remote_exchange(w, BL_TALK_LEAVE, 0, NULL, 0);
    if (status == BL_OK) return end;
    if (end == BL_OK) end = bl_remote_exchange(w, BL_TALK_WAKE, 0, NULL, 0);
    if (end == BL_OK) end = bl_silence_await(w->port);
    w->job->result.in_loader = end != BL_OK;
    w->job->result.where = where;
    w->talker.talk = last;
    return status;
}

/* The loader is entered, and the method sends. */
static bl_status carry_cargo(bl_remote_work *w, bl_cargo *cargo)
{
    BL_ASSERT(w->method->send != NULL);
    bl_carrier c;
    bl_status status = enter_loader(w, cargo->pieces);
    if (status != BL_OK) return status;
    w->method->send(&c, cargo, w->port->now(w->port->context));
    status = drive_cargo(w, &c.transport);
    if (w->method->result != NULL) w->method->result(&c, cargo, &w->job->result);
    return status;
}

static bl_status carry_records(bl_remote_work *w, bl_cargo *cargo)
{
    static const bl_dialogue none = {.ending = "\r"};
    const bl_dialogue *d = w->d != NULL ? w->d : &none;
    const bl_lines_manner manner = {d->ending, d->accept,  d->reject,  d->cancel,
                                    d->echo,   d->pace_us, d->rest_us, d->timeout_us};
    growing g = {.memory = &w->job->state.memory};
    bl_status status = make_records(w, cargo->pieces, cargo->piece_count, &g);
    cargo->records = (bl_text){g.at, g.count};
    cargo->manner = &manner;
    if (status == BL_OK) status = carry_cargo(w, cargo);
    bl_release(g.memory, g.at);
    return status;
}

static bl_status carry_filled(bl_remote_work *w, bl_cargo *cargo, size_t pad)
{
    uint8_t *bytes = NULL;
    bl_status status = fill_up(w, cargo->pieces, pad, &bytes);
    bl_piece filled = {cargo->pieces->first, cargo->pieces->count + pad, bytes};
    cargo->pieces = &filled;
    if (status == BL_OK) status = carry_cargo(w, cargo);
    bl_release(&w->job->state.memory, bytes);
    return status;
}

bl_status bl_remote_load(bl_remote_work *w, const bl_piece *pieces, size_t count)
{
    if (count == 0) return BL_OK;
    size_t unit = w->method->fills, pad = (unit - pieces->count % unit) % unit;
    bl_cargo cargo = {.pieces = pieces,
                      .piece_count = count,
                      .baud = w->remote->baud,
                      .pace_us = w->d != NULL ? w->d->pace_us : 0,
                      .packet = w->remote->packet,
                      .rounds = w->remote->rounds,
                      .run = w->method->starts && w->job->options.run && w->d == NULL,
                      .entry = w->job->options.entry};
    w->job->result.stage = BL_STAGE_WRITE;
    w->job->result.where = pieces->first;
    w->job->result.touched = true;
    if (w->method->records != BL_FILE_UNKNOWN) return leave_loader(w, carry_records(w, &cargo));
    if (pad > 0) return leave_loader(w, carry_filled(w, &cargo, pad));
    return leave_loader(w, carry_cargo(w, &cargo));
}

/* ---- back ---- */

static bl_status receive_dump(bl_remote_work *w, uint8_t *bytes, size_t count)
{
    const bl_method_row *dumper = w->d != NULL ? bl_method_of(w->d->dumper) : w->method;
    bl_cargo cargo = {.baud = w->remote->baud, .buffer = bytes, .count = count};
    bl_carrier c;
    dumper->receive(&c, &cargo, w->port->now(w->port->context));
    bl_status status = drive_cargo(w, &c.transport);
    w->dumped = c.transport.done;
    return status;
}

bl_status bl_remote_dump(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count)
{
    enum { TRIES = 4 };
    bl_status status = BL_OK;
    for (unsigned i = 0; i < TRIES; i++) {
        if (w->d != NULL) {
            status = bl_remote_exchange(w, BL_TALK_DUMP, first, NULL, count);
            if (status != BL_OK) return leave_loader(w, status);
        }
        status = leave_loader(w, receive_dump(w, bytes, count));
        if (status != BL_E_LINE && status != BL_E_TIMEOUT) break;
        w->talker.retries++;
    }
    return status;
}
