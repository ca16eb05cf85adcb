/* load.c - bytes carried by a loader of the far side, and back. */
#include <string.h>

#include "bootlace/acked.h"
#include "bootlace/bare.h"
#include "bootlace/imagefile.h"
#include "bootlace/lines.h"
#include "bootlace/packets.h"
#include "bootlace/xmodem.h"
#include "far.h"

/* ---- progress ---- */

typedef struct follower {
    bl_far_work *w;
    size_t before; /* blocks of the runs before this one */
} follower;

static bool follow(void *context, const bl_way *way)
{
    follower *f = context;
    bl_transfer *job = f->w->job;
    size_t block = job->options.block, part = way->total > 0 ? way->done : 0;
    bl_exchange look = {.resends = job->resends + way->resends};
    if (job->stage == BL_STAGE_WRITE) job->block = f->before + part / block;
    return f->w->watch == NULL || f->w->watch->progress(f->w->watch->context, job, &look);
}

static bl_status carry(bl_far_work *w, bl_way *way)
{
    follower f = {w, w->job->blocks_written};
    bl_way_watch watch = {&f, follow};
    bl_status status = bl_pump_way(w->port, way, &watch);
    w->job->resends += way->resends;
    return status;
}

static uint64_t now_of(const bl_far_work *w)
{
    return w->port->now(w->port->context);
}

/* When it was stopped, or went wrong, the far side is told, so that it is usable again. */
static bl_status carry_xmodem(bl_far_work *w, bl_xmodem *x)
{
    bl_status status = carry(w, &x->way);
    if (status == BL_OK || status == BL_E_IO) return status;
    bl_xmodem_cancel(x, now_of(w));
    bl_pump_way(w->port, &x->way, NULL);
    return status;
}

/* ---- records ---- */

typedef struct text {
    const bl_memory *memory;
    char *at;
    size_t count, room;
} text;

static bl_status add_text(void *context, const void *bytes, size_t count)
{
    text *t = context;
    if (t->count + count > t->room) {
        size_t room = (t->count + count) * 2;
        char *more = t->memory->resize(t->memory->context, t->at, room);
        if (more == NULL) return BL_E_MEMORY;
        t->at = more;
        t->room = room;
    }
    memcpy(t->at + t->count, bytes, count);
    t->count += count;
    return BL_OK;
}

static bl_status make_records(const bl_far_work *w, const bl_piece *runs, size_t count, text *t)
{
    bl_writer writer = {t, add_text};
    bl_filetype type = w->far->loader == BL_LOADER_HEX ? BL_FILE_HEX : BL_FILE_SREC;
    bl_image *image;
    bl_status status = bl_image_open(t->memory, &image);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < count && status == BL_OK; i++)
        status = bl_image_put(image, runs[i].first, runs[i].bytes, runs[i].count,
                              (bl_origin){.line = 0});
    if (status == BL_OK) status = bl_imagefile_write(type, image, 0xFF, NULL, &writer);
    bl_image_close(image);
    return status;
}

static bl_status send_records(bl_far_work *w, const bl_piece *runs, size_t count)
{
    static const bl_dialogue none = {.ending = "\r"};
    const bl_dialogue *d = w->d != NULL ? w->d : &none;
    text t = {.memory = &w->job->memory};
    bl_lines_manner manner = {d->ending, d->accept,  d->reject,  d->cancel,
                              d->echo,   d->pace_us, d->rest_us, d->patience_us};
    bl_status status = make_records(w, runs, count, &t);
    if (status == BL_OK) {
        bl_lines way;
        bl_lines_send(&way, w->far->baud, (bl_text){t.at, t.count}, &manner, now_of(w));
        status = carry(w, &way.way);
        w->job->line = way.line;
    }
    t.memory->resize(t.memory->context, t.at, 0);
    return status;
}

/* ---- the others ---- */

/* XMODEM fills its last block up. What is behind the run is kept, where it can be read. */
static bl_status send_xmodem(bl_far_work *w, const bl_piece *run)
{
    bl_transfer *job = w->job;
    size_t pad = (BL_XMODEM_SMALL - run->count % BL_XMODEM_SMALL) % BL_XMODEM_SMALL;
    const bl_memory *m = &job->memory;
    uint8_t *bytes = m->resize(m->context, NULL, run->count + pad);
    bl_status status = BL_OK;
    if (bytes == NULL) return BL_E_MEMORY;
    memcpy(bytes, run->bytes, run->count);
    memset(bytes + run->count, 0x1A, pad);
    job->padding_kept = false;
    uint32_t behind = run->first + (uint32_t)run->count;
    if (pad > 0 && w->d != NULL && w->d->read[0] != '\0') {
        size_t most = w->d->read_block;
        job->padding_kept = true;
        for (size_t at = 0; at < pad && status == BL_OK; at += most) {
            size_t n = pad - at < most ? pad - at : most;
            status = bl_far_exchange(w, BL_TALK_READ, behind + (uint32_t)at, NULL, n);
            memcpy(bytes + run->count + at, w->talk.bytes, n);
        }
    }
    if (status == BL_OK && w->d != NULL && w->d->load[0] != '\0')
        status = bl_far_exchange(w, BL_TALK_LOAD, run->first, NULL, run->count + pad);
    if (status == BL_OK) {
        bl_xmodem way;
        bl_xmodem_send(&way, w->far->baud, bytes, run->count + pad,
                       w->far->loader == BL_LOADER_XMODEM_1K, 0x1A, now_of(w));
        status = carry_xmodem(w, &way);
    }
    if (pad > 0) job->padded_at = behind;
    job->padding += (uint32_t)pad;
    m->resize(m->context, bytes, 0);
    return status;
}

static bl_status send_acked(bl_far_work *w, const bl_piece *runs, size_t count, bool run)
{
    bl_acked way;
    bl_acked_send(&way, w->far->baud, runs, count, run, w->job->options.entry, now_of(w));
    bl_status status = carry(w, &way.way);
    w->job->where = bl_acked_where(&way);
    w->job->run_asked = run && status == BL_OK;
    w->job->run_doubted = way.run_doubted;
    return status;
}

static bl_status send_packets(bl_far_work *w, const bl_piece *run)
{
    bl_packets way;
    const bl_far_side *f = w->far;
    uint8_t rounds = f->loader == BL_LOADER_BLIND ? f->rounds > 0 ? f->rounds : 3 : 0;
    bl_packets_send(&way, f->baud, run->first, run->bytes, run->count,
                    f->packet > 0 ? f->packet : BL_PACKET_USUAL, rounds, now_of(w));
    return carry(w, &way.way);
}

static bl_status send_bare(bl_far_work *w, const bl_piece *run)
{
    bl_bare way;
    bl_bare_send(&way, w->far->baud, run->bytes, run->count, w->d != NULL ? w->d->pace_us : 0,
                 now_of(w));
    return carry(w, &way.way);
}

/* ---- the whole ---- */

bool bl_far_takes_all(bl_loader loader)
{
    return loader == BL_LOADER_HEX || loader == BL_LOADER_SREC || loader == BL_LOADER_ACKED;
}

static bl_status enter(bl_far_work *w, const bl_piece *run)
{
    bool speaks = w->d != NULL && w->d->load[0] != '\0';
    return speaks ? bl_far_exchange(w, BL_TALK_LOAD, run->first, NULL, run->count) : BL_OK;
}

/* Back to the prompt, if there is one to come back to. After something went wrong it is seen that
 * he is there: what is typed next would be taken for bytes. */
static bl_status leave(bl_far_work *w, bl_status status)
{
    if (w->d == NULL || status == BL_E_IO) return status;
    bl_talk last = w->talk; /* what went wrong, for messages */
    uint32_t where = w->job->where;
    bl_status end = bl_far_hear_out(w->port);
    if (end == BL_OK && w->d->leave[0] != '\0') end = bl_far_exchange(w, BL_TALK_LEAVE, 0, NULL, 0);
    if (status == BL_OK) return end;
    if (end == BL_OK) end = bl_far_exchange(w, BL_TALK_WAKE, 0, NULL, 0);
    if (end == BL_OK) end = bl_far_hear_out(w->port);
    w->job->in_loader = end != BL_OK;
    w->job->where = where;
    w->talk = last;
    return status;
}

bl_status bl_far_load(bl_far_work *w, const bl_piece *run)
{
    bl_status status = BL_OK;
    w->job->stage = BL_STAGE_WRITE;
    w->job->where = run->first;
    if (w->far->loader == BL_LOADER_XMODEM || w->far->loader == BL_LOADER_XMODEM_1K)
        return leave(w, send_xmodem(w, run));
    status = enter(w, run);
    if (status != BL_OK) return leave(w, status);
    return leave(w, w->far->loader == BL_LOADER_BARE ? send_bare(w, run) : send_packets(w, run));
}

bl_status bl_far_load_all(bl_far_work *w, const bl_piece *runs, size_t count)
{
    if (count == 0) return BL_OK;
    w->job->stage = BL_STAGE_WRITE;
    w->job->where = runs[0].first;
    bl_status status = enter(w, &runs[0]);
    if (status != BL_OK) return leave(w, status);
    bool run = w->job->options.run && w->d == NULL;
    return leave(w, w->far->loader == BL_LOADER_ACKED ? send_acked(w, runs, count, run)
                                                      : send_records(w, runs, count));
}

static bl_status receive(bl_far_work *w, uint8_t *bytes, size_t count)
{
    bl_loader dumper = w->d != NULL ? w->d->dumper : w->far->loader;
    if (dumper == BL_LOADER_BARE) {
        bl_bare way;
        bl_bare_receive(&way, w->far->baud, bytes, count, 3000000, now_of(w));
        return carry(w, &way.way);
    }
    bl_xmodem way;
    bl_xmodem_receive(&way, w->far->baud, bytes, count, count, true, now_of(w));
    return carry_xmodem(w, &way);
}

bl_status bl_far_dump(bl_far_work *w, uint32_t first, uint8_t *bytes, size_t count)
{
    enum { TRIES = 4 };
    bl_status status = BL_OK;
    for (unsigned i = 0; i < TRIES; i++) {
        if (w->d != NULL) {
            status = bl_far_exchange(w, BL_TALK_DUMP, first, NULL, count);
            if (status != BL_OK) return leave(w, status);
        }
        status = leave(w, receive(w, bytes, count));
        if (status != BL_E_LINE && status != BL_E_TIMEOUT) break;
        w->retries++;
    }
    return status;
}
