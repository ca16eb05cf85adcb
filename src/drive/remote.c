/* remote.c - transfers with machines that are not ours: nothing they say is believed. */
#include "remote.h"

#include "base/stream.h"
#include "drive_watch.h"
#include "silence.h"

enum { ROW_LIMIT = 1024 }; /* bytes that are read in a row */

bool bl_remote_tell_retries(bl_remote_work *w, size_t done, uint32_t retries)
{
    bl_progress p = bl_transfer_progress(w->job, w->talker.retries + retries);
    p.done = done;
    return bl_watch_progress(w->watch, &p);
}

bool bl_remote_tell(bl_remote_work *w, bl_stage stage, size_t done)
{
    w->job->result.stage = stage;
    return bl_remote_tell_retries(w, done, 0);
}

static bool can_dump(const bl_remote_work *w)
{
    return w->d != NULL && w->d->dump[0] != '\0';
}

static bool can_read(const bl_remote_work *w)
{
    return w->target.read != NULL || can_dump(w);
}

/* ---- one exchange ---- */

bl_status bl_remote_exchange(bl_remote_work *w, bl_talk_kind kind, uint32_t address,
                             const uint8_t *bytes, size_t count)
{
    BL_ASSERT(w->d != NULL);
    bl_status status = bl_talker_exchange(&w->talker, kind, address, bytes, count);
    w->job->result.where = w->talker.where;
    return status;
}

bl_status bl_remote_read(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count)
{
    BL_ASSERT(w->target.read != NULL);
    bl_status status = w->target.read(w->target.context, first, bytes, count);
    w->job->result.where = w->talker.where;
    return status;
}

/* ---- reading ---- */

/* A block, or with a dumper as many in a row as are worth a command. *bytes is where they are. */
static size_t row_at(const bl_remote_work *w, size_t index)
{
    const bl_transfer *job = w->job;
    bl_piece first = bl_transfer_block(job, index);
    size_t n = 1, count = first.count, max = can_dump(w) ? (size_t)ROW_LIMIT : w->d->read_block;
    for (; index + n < job->result.blocks; n++) {
        bl_piece next = bl_transfer_block(job, index + n);
        if (next.first != first.first + count || count + next.count > max) break;
        count += next.count;
    }
    return n;
}

static bl_status read_remote(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count)
{
    return can_dump(w) ? bl_remote_dump(w, first, bytes, count)
                       : bl_remote_read(w, first, bytes, count);
}

/* What was found in a block: marks it, or as proof notes each difference. */
static void compare_remote_block(bl_remote_work *w, size_t index, const uint8_t *found, bool proof)
{
    bl_transfer *job = w->job;
    bl_piece b = bl_transfer_block(job, index);
    bool same = memcmp(found, b.bytes, b.count) == 0;
    w->wrong[index] = !same;
    if (same) job->result.bytes_sure += b.count;
    if (!proof) return;
    if (same) {
        job->result.bytes_proved += b.count;
        return;
    }
    job->result.blocks_wrong++;
    for (size_t k = 0; k < b.count; k++)
        if (found[k] != b.bytes[k])
            bl_transfer_note(job, b.first + (uint32_t)k, b.bytes[k], found[k]);
}

/* Text has no check: what differs is read again, until two readings in a row agree. */
static bl_status read_agreeing(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count)
{
    enum { READINGS = 8 };
    uint8_t again[ROW_LIMIT];
    for (unsigned i = 0; i < READINGS; i++) {
        bl_status status = read_remote(w, first, again, count);
        if (status != BL_OK || memcmp(again, bytes, count) == 0) return status;
        w->misread++;
        memcpy(bytes, again, count);
    }
    return BL_E_LINE;
}

static bool row_differs(const bl_transfer *job, size_t index, size_t blocks, const uint8_t *found)
{
    for (size_t i = 0; i < blocks; i++) {
        bl_piece b = bl_transfer_block(job, index + i);
        if (memcmp(found, b.bytes, b.count) != 0) return true;
        found += b.count;
    }
    return false;
}

/* As many blocks as one command can give are asked for at once; each is compared by itself. */
static bl_status compare_remote(bl_remote_work *w, bool proof)
{
    bl_transfer *job = w->job;
    uint8_t found[ROW_LIMIT];
    job->result.bytes_sure = 0;
    if (proof) job->result.bytes_proved = job->result.differences = job->result.blocks_wrong = 0;
    for (size_t i = 0; i < job->result.blocks;) {
        size_t n = row_at(w, i), count = 0;
        for (size_t k = 0; k < n; k++)
            count += bl_transfer_block(job, i + k).count;
        if (!bl_remote_tell(w, proof ? BL_STAGE_PROVE : BL_STAGE_LOOK, i)) return BL_E_BUSY;
        uint32_t first = bl_transfer_block(job, i).first;
        bl_status status = read_remote(w, first, found, count);
        if (status == BL_OK && proof && row_differs(job, i, n, found))
            status = read_agreeing(w, first, found, count);
        if (status != BL_OK) return status;
        const uint8_t *at = found;
        for (size_t k = 0; k < n; k++, i++) {
            compare_remote_block(w, i, at, proof);
            at += bl_transfer_block(job, i).count;
        }
    }
    return proof && job->result.blocks_wrong > 0 ? BL_E_DIFFERS : BL_OK;
}

static bl_status read_range(bl_remote_work *w)
{
    const bl_transfer_options *o = &w->job->options;
    size_t step = can_dump(w)    ? (size_t)ROW_LIMIT
                  : w->d != NULL ? w->d->read_block
                                 : (size_t)o->range.count;
    for (uint64_t at = 0; at < o->range.count; at += step) {
        uint64_t left = o->range.count - at;
        size_t n = left < step ? (size_t)left : step;
        if (!bl_remote_tell(w, BL_STAGE_READ, (size_t)at)) return BL_E_BUSY;
        bl_status status = w->d == NULL
                               ? bl_remote_dump(w, o->range.first, o->buffer, n)
                               : read_remote(w, o->range.first + (uint32_t)at, o->buffer + at, n);
        w->job->result.bytes_fetched = at + (status == BL_OK ? n : w->dumped);
        if (status != BL_OK) return status;
        w->dumped = 0;
    }
    return BL_OK;
}

/* ---- writing ---- */

static bl_status write_block(bl_remote_work *w, size_t index)
{
    bl_piece b = bl_transfer_block(w->job, index);
    w->job->result.touched = true;
    bl_status status = w->target.write(w->target.context, b.first, b.bytes, b.count);
    w->job->result.where = w->talker.where;
    if (status == BL_OK) w->job->result.bytes_written += b.count;
    return status;
}

/* How many marked blocks from index on hold nothing but one and the same word, and lie in a row. */
static size_t uniform_row(const bl_remote_work *w, size_t index)
{
    const bl_transfer *job = w->job;
    bl_piece first = bl_transfer_block(job, index);
    size_t unit = w->d->word > 8 ? 2 : 1, n = 0, count = 0;
    for (; index + n < job->result.blocks && w->wrong[index + n]; n++) {
        bl_piece b = bl_transfer_block(job, index + n);
        if (b.first != first.first + count) break;
        for (size_t i = 0; i < b.count; i++)
            if (b.bytes[i] != first.bytes[i % unit]) return n;
        count += b.count;
    }
    return n;
}

static bl_status fill_row(bl_remote_work *w, size_t index, size_t blocks)
{
    bl_piece first = bl_transfer_block(w->job, index);
    size_t count = 0;
    for (size_t i = 0; i < blocks; i++)
        count += bl_transfer_block(w->job, index + i).count;
    bl_status status = bl_remote_exchange(w, BL_TALK_FILL, first.first, first.bytes, count);
    if (status == BL_OK) w->job->result.bytes_written += count;
    return status;
}

/* Typed in, block by block; long runs of one byte are filled where the remote can. */
static bl_status type_marked(bl_remote_work *w)
{
    BL_ASSERT(w->target.write != NULL);
    bl_transfer *job = w->job;
    for (size_t i = 0; i < job->result.blocks;) {
        size_t n = 1;
        if (!w->wrong[i]) {
            i++;
            continue;
        }
        if (!bl_remote_tell(w, BL_STAGE_WRITE, i)) return BL_E_BUSY;
        if (w->d->fill[0] != '\0') n = uniform_row(w, i);
        bl_status status = n > 1 ? fill_row(w, i, n) : write_block(w, i);
        if (status != BL_OK) return status;
        n = n > 1 ? n : 1;
        job->result.blocks_written += n;
        i += n;
    }
    return BL_OK;
}

/* The next run of marked blocks in a row, from *index on; short gaps go along. */
static bool next_run(const bl_remote_work *w, size_t *index, bl_piece *run, size_t *blocks)
{
    enum { GAP = 2 };
    const bl_transfer *job = w->job;
    size_t i = *index, last;
    while (i < job->result.blocks && !w->wrong[i])
        i++;
    if (i == job->result.blocks) return false;
    *run = bl_transfer_block(job, i);
    last = i;
    for (size_t k = i + 1; k < job->result.blocks && k <= last + GAP + 1; k++) {
        bl_piece before = bl_transfer_block(job, k - 1), b = bl_transfer_block(job, k);
        if (b.first != before.first + before.count) break;
        if (w->wrong[k]) last = k;
    }
    bl_piece end = bl_transfer_block(job, last);
    run->count = (size_t)(end.first - run->first) + end.count;
    *blocks = last - i + 1;
    *index = last + 1;
    return true;
}

/* Runs of marked blocks, with short gaps taken along: entering a loader costs more than some
 * bytes. */
static bl_status load_marked(bl_remote_work *w)
{
    bl_transfer *job = w->job;
    const bl_memory *m = &job->state.memory;
    bl_piece *runs = m->resize(m->context, NULL, (job->result.blocks + 1) * sizeof *runs);
    bool all = w->method->takes_all;
    size_t count = 0, index = 0, blocks, written = 0;
    bl_status status = BL_OK;
    if (runs == NULL) return BL_E_MEMORY;
    while (status == BL_OK && next_run(w, &index, &runs[count], &blocks)) {
        job->result.bytes_written += runs[count].count;
        written += blocks;
        if (all) {
            count++;
            continue;
        }
        status = bl_remote_load(w, &runs[0], 1);
        if (status == BL_OK) job->result.blocks_written = written;
    }
    if (all) status = bl_remote_load(w, runs, count);
    if (status == BL_OK) job->result.blocks_written = written;
    m->resize(m->context, runs, 0);
    return status;
}

static bl_status write_marked(bl_remote_work *w)
{
    return w->method->send == NULL ? type_marked(w) : load_marked(w);
}

/* ---- the whole ---- */

/* Where the line has shown errors a bit may have been flipped on the way there and back again on
 * the way here: then what is right is read twice. */
static bl_status prove(bl_remote_work *w)
{
    bl_transfer *job = w->job;
    if (can_read(w)) {
        job->result.proved_by = BL_PROOF_READ;
        bl_status status = compare_remote(w, true);
        if (status == BL_OK && (w->misread > 0 || w->talker.retries > 0))
            status = compare_remote(w, true);
        return status;
    }
    job->result.proved_by = w->method->proof;
    job->result.bytes_proved = job->result.proved_by == BL_PROOF_NONE ? 0 : job->result.bytes_total;
    return BL_OK;
}

/* A line that has lost characters may have lost some of an address, too; and bare bytes shift. Then
 * it is done again. */
static bl_status write_and_prove(bl_remote_work *w)
{
    enum { ROUNDS = 4 };
    bl_status status = BL_OK;
    for (unsigned round = 0; round < ROUNDS; round++) {
        bool look = can_read(w) && (round > 0 || !w->job->options.every_block);
        if (look)
            status = compare_remote(w, false);
        else
            memset(w->wrong, 1, w->job->result.blocks);
        if (status == BL_OK) status = write_marked(w);
        if (status == BL_OK) status = prove(w);
        if (status != BL_E_DIFFERS) break;
        if (w->talker.retries == 0 && w->method->send == NULL) break; /* it does not hold */
    }
    return status;
}

static bl_status start_program(bl_remote_work *w)
{
    bl_transfer *job = w->job;
    if (!job->options.run || job->result.run_asked) return BL_OK;
    bl_remote_tell(w, BL_STAGE_RUN, 0);
    job->result.run_asked = true;
    job->result.run_doubted = true;  /* nobody answers to that */
    BL_ASSERT(w->target.go != NULL); /* check_abilities has seen to it */
    return w->target.go(w->target.context, &job->options.entry);
}

/* What it cannot do is told before anything is done. */
static bl_status check_abilities(const bl_remote_work *w)
{
    const bl_transfer_options *o = &w->job->options;
    bl_transfer_result *r = &w->job->result;
    const bl_method_row *m = w->method;
    r->stage = BL_STAGE_READ;
    if (o->goal == BL_GOAL_COMPARE && !can_read(w)) return BL_E_UNSUPPORTED;
    if (o->goal == BL_GOAL_READ && !can_read(w) && (w->d != NULL || m->receive == NULL))
        return BL_E_UNSUPPORTED;
    r->stage = BL_STAGE_WRITE;
    if (o->goal == BL_GOAL_WRITE && m->send == NULL && w->target.write == NULL)
        return BL_E_UNSUPPORTED;
    /* What the method cannot address would go elsewhere. */
    r->stage = BL_STAGE_HELLO;
    uint64_t limit = (uint64_t)1 << m->address_bits;
    if (o->goal == BL_GOAL_WRITE && bl_pieces_reach(o->pieces, o->piece_count, limit, &r->where))
        return BL_E_RANGE;
    r->stage = BL_STAGE_RUN;
    bool starts = w->d != NULL ? w->target.go != NULL : m->starts;
    return o->run && !starts ? BL_E_UNSUPPORTED : BL_OK;
}

static bl_status work(bl_remote_work *w)
{
    const bl_transfer_options *o = &w->job->options;
    bl_status status = check_abilities(w);
    if (status != BL_OK) return status;
    bl_remote_tell(w, BL_STAGE_HELLO, 0);
    if (w->d != NULL) status = bl_remote_exchange(w, BL_TALK_WAKE, 0, NULL, 0);
    if (w->d != NULL && status == BL_OK) status = bl_silence_await(w->port); /* greetings */
    if (status != BL_OK) return status;
    if (o->goal == BL_GOAL_READ) return read_range(w);
    status = o->goal == BL_GOAL_WRITE ? write_and_prove(w) : prove(w);
    if (status == BL_OK && o->twice) status = prove(w);
    return status == BL_OK ? start_program(w) : status;
}

/* Blocks are as large as one command of the dialogue can carry. */
static bl_status cut_anew(bl_remote_work *w)
{
    enum { WITHOUT_DIALOGUE = 64 };
    bl_transfer_options o = w->job->options;
    bl_memory m = w->job->state.memory;
    o.block = w->d != NULL ? w->d->write_block : (uint32_t)WITHOUT_DIALOGUE;
    o.region = 0;
    bl_transfer_end(w->job);
    bl_status status = bl_transfer_begin(w->job, &m, &o);
    if (status != BL_OK) return status;
    w->wrong = m.resize(m.context, NULL, w->job->result.blocks + 1);
    return w->wrong != NULL ? BL_OK : BL_E_MEMORY;
}

static void keep_name(bl_remote_work *w)
{
    const char *name = w->d != NULL && w->d->name[0] != '\0' ? w->d->name
                       : w->method->remote != NULL           ? w->method->remote
                                                             : "the machine";
    bl_room out = {w->job->result.name, sizeof w->job->result.name, 0};
    bl_room_text(&out, bl_text_of(name));
    bl_room_end(&out);
}

static void keep_last_words(const bl_remote_work *w, bl_remote_words *words)
{
    memset(words, 0, sizeof *words);
    if (w->d == NULL || w->talker.talk.d == NULL) return;
    memcpy(words->said, w->talker.talk.said, sizeof words->said);
    bl_room out = {words->expected, sizeof words->expected, 0};
    bl_room_text(&out, bl_text_of(bl_talk_expected(&w->talker.talk)));
    bl_room_end(&out);
}

/* The job's result is filled as Eyelet's would be, so that nobody behind has to know who was
 * there. */
bl_status bl_drive_remote(const bl_serial *port, const bl_remote *remote, bl_transfer *job,
                          const bl_drive_watch *watch, bl_remote_words *words)
{
    bl_remote_work w = {.port = port,
                        .remote = remote,
                        .method = bl_method_of(remote->method),
                        .d = remote->dialogue,
                        .job = job,
                        .watch = watch};
    if (w.method == NULL) return BL_E_ARGUMENT;
    if (w.d != NULL) {
        bl_talk_target_begin(&w.talker, port, w.d, watch);
        w.talker.awake = w.talker.proved_later = true; /* both are seen to here */
        w.target = bl_talk_target_functions(&w.talker);
    }
    bl_status status = cut_anew(&w);
    if (status == BL_OK) {
        keep_name(&w);
        job->result.no_corners = job->options.corners;
        status = work(&w);
        job->result.resends += w.talker.retries;
        job->result.misread = w.misread;
    }
    keep_last_words(&w, words);
    bl_release(&job->state.memory, w.wrong);
    return status;
}
