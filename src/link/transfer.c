/* transfer.c - look, write what differs, prove, and name what is wrong. */
#include "bootlace/transfer.h"

#include "base/core.h"
#include "bootlace/crc.h"

enum {
    SUM = 4,
    ADDRESS = 3,
    EASIEST = 16, /* data bytes in a frame on the worst of lines */
    RUN_PATIENCE_US = 20000,
    HELLO_PATIENCE_US = 20000
};
/* Longer than Eyelet waits for a question to come again. */
#define SILENCE_US 300000u

/* ---- blocks: every piece cut at multiples of the block size ---- */

static size_t blocks_of(const bl_piece *p, uint32_t block)
{
    uint64_t last = (uint64_t)p->first + (p->count - 1);
    return p->count == 0 ? 0 : (size_t)(last / block - p->first / block) + 1;
}

/* The index-th block, as the piece of memory it covers. */
static bl_piece block_at(const bl_transfer *t, size_t index)
{
    uint32_t size = t->options.block;
    for (size_t i = 0; i < t->options.piece_count; i++) {
        const bl_piece *p = &t->options.pieces[i];
        size_t n = blocks_of(p, size);
        if (index >= n) {
            index -= n;
            continue;
        }
        uint64_t first = ((uint64_t)p->first / size + index) * size, end = first + size;
        uint64_t piece_end = (uint64_t)p->first + p->count;
        if (first < p->first) first = p->first;
        if (end > piece_end) end = piece_end;
        return (bl_piece){(uint32_t)first, (size_t)(end - first), p->bytes + (first - p->first)};
    }
    return (bl_piece){0, 0, NULL};
}

/* How many blocks from index on can be summed by one request: all of full size and in a row, and
 * the sums must fit into an answer. */
static size_t row_of(const bl_transfer *t, size_t index)
{
    bl_piece first = block_at(t, index);
    size_t n = 1, most = t->most_data / SUM;
    while (n < most && index + n < t->block_count && first.count == t->options.block) {
        bl_piece next = block_at(t, index + n);
        if (next.count != first.count || next.first != first.first + n * first.count) break;
        n++;
    }
    return n;
}

bl_status bl_transfer_begin(bl_transfer *t, const bl_memory *memory,
                            const bl_transfer_options *options)
{
    memset(t, 0, sizeof *t);
    t->options = *options;
    t->memory = *memory;
    t->most_data = EASIEST;
    if (options->block == 0 || options->block > BL_FRAME_PAYLOAD - ADDRESS) return BL_E_ARGUMENT;
    for (size_t i = 0; i < options->piece_count; i++) {
        t->block_count += blocks_of(&options->pieces[i], options->block);
        t->bytes_total += options->pieces[i].count;
    }
    t->wrong = memory->resize(memory->context, NULL, t->block_count + 1);
    if (t->wrong == NULL) return BL_E_MEMORY;
    memset(t->wrong, 0, t->block_count + 1);
    return BL_OK;
}

void bl_transfer_end(bl_transfer *t)
{
    bl_release(&t->memory, t->wrong);
    t->wrong = NULL;
}

/* ---- stages ---- */

static void enter(bl_transfer *t, bl_stage stage)
{
    t->stage = stage;
    t->block = 0;
    t->part = 0;
}

static void mark_all(bl_transfer *t, uint8_t wrong)
{
    memset(t->wrong, wrong, t->block_count);
}

/* What follows the stage that is complete. */
static void advance(bl_transfer *t)
{
    const bl_transfer_options *o = &t->options;
    switch (t->stage) {
    case BL_STAGE_HELLO:
        if (o->who == BL_WHO_PROGRAMMER) {
            enter(t, BL_STAGE_SELECT);
            break;
        }
        /* fall through */
    case BL_STAGE_SELECT:
        if (o->goal == BL_GOAL_WRITE && o->protect != BL_PROTECT_LEAVE &&
            t->stage == BL_STAGE_SELECT) {
            enter(t, BL_STAGE_UNPROTECT);
            break;
        }
        /* fall through */
    case BL_STAGE_UNPROTECT:
        enter(t, o->goal == BL_GOAL_READ      ? BL_STAGE_READ
                 : o->goal == BL_GOAL_COMPARE ? BL_STAGE_PROVE
                 : o->every_block             ? BL_STAGE_WRITE
                                              : BL_STAGE_LOOK);
        if (t->stage == BL_STAGE_WRITE) mark_all(t, 1);
        break;
    case BL_STAGE_LOOK: enter(t, BL_STAGE_WRITE); break;
    case BL_STAGE_WRITE: enter(t, BL_STAGE_PROVE); break;
    case BL_STAGE_PROVE: enter(t, t->blocks_wrong > 0 ? BL_STAGE_INSPECT : BL_STAGE_PROTECT); break;
    case BL_STAGE_PROTECT:
        if (o->run) {
            enter(t, BL_STAGE_RUN);
            break;
        }
        /* fall through */
    case BL_STAGE_INSPECT:
    case BL_STAGE_READ: enter(t, o->resume ? BL_STAGE_RESUME : BL_STAGE_DONE); break;
    default: enter(t, BL_STAGE_DONE); break;
    }
}

/* Moves on over stages and blocks that need nothing. False: the job is over. */
static bool settle(bl_transfer *t)
{
    for (;;) {
        switch (t->stage) {
        case BL_STAGE_DONE: return false;
        case BL_STAGE_WRITE:
        case BL_STAGE_INSPECT:
            while (t->block < t->block_count && !t->wrong[t->block])
                t->block++;
            if (t->block < t->block_count) return true;
            break;
        case BL_STAGE_LOOK:
        case BL_STAGE_PROVE:
            if (t->block < t->block_count) return true;
            break;
        case BL_STAGE_READ:
            if (t->block < t->options.range.count) return true;
            break;
        case BL_STAGE_PROTECT:
            if (t->options.protect == BL_PROTECT_ON && t->block == 0) return true;
            break;
        default:
            if (t->block == 0) return true;
            break;
        }
        advance(t);
    }
}

/* ---- requests ---- */

static void put_number(bl_frame *f, uint32_t value, unsigned width)
{
    for (unsigned i = 0; i < width; i++)
        f->payload[f->length++] = (uint8_t)(value >> (8 * i));
}

static void ask_select(const bl_transfer *t, bl_frame *f)
{
    const bl_part *p = t->options.part;
    put_number(f, p->size, 4);
    put_number(f, p->page, 2);
    put_number(f, p->cycle_ms, 2);
    put_number(f, p->window_us, 2);
}

static void ask_sums(bl_transfer *t, bl_frame *f, uint32_t *patience, uint32_t *most)
{
    bl_piece b = block_at(t, t->block);
    t->asked = row_of(t, t->block);
    t->where = b.first;
    put_number(f, b.first, ADDRESS);
    put_number(f, (uint32_t)b.count, 2);
    put_number(f, (uint32_t)t->asked, 1);
    *patience = (uint32_t)((uint64_t)b.count * t->asked * t->options.sum_ns / 1000u);
    *most = (uint32_t)t->asked * SUM + 1;
}

/* A block goes in one frame, or on a bad line in several. */
static void ask_write(bl_transfer *t, bl_frame *f, uint32_t *patience)
{
    bl_piece b = block_at(t, t->block);
    size_t left = b.count - t->part;
    t->asked = left < t->most_data ? left : t->most_data;
    t->where = b.first + (uint32_t)t->part;
    put_number(f, t->where, ADDRESS);
    memcpy(f->payload + ADDRESS, b.bytes + t->part, t->asked);
    f->length = (uint8_t)(ADDRESS + t->asked);
    uint32_t cycle = t->options.part != NULL ? t->options.part->cycle_ms * 3000u : 10000u;
    *patience = cycle + (uint32_t)(t->asked * (t->options.sum_ns / 1000u + 1));
}

static void ask_read(bl_transfer *t, bl_frame *f, uint32_t first, size_t count, uint32_t *most)
{
    t->where = first;
    t->asked = count;
    put_number(f, first, ADDRESS);
    put_number(f, (uint32_t)count, 1);
    *most = (uint32_t)count + 1;
}

bl_status bl_transfer_next(bl_transfer *t, bl_frame *f, uint32_t *patience, uint32_t *most,
                           bool *done)
{
    static const uint8_t kinds[] = {BL_ASK_HELLO, BL_ASK_SELECT, BL_ASK_PROTECT, BL_ASK_SUMS,
                                    BL_ASK_WRITE, BL_ASK_SUMS,   BL_ASK_READ,    BL_ASK_PROTECT,
                                    BL_ASK_RUN,   BL_ASK_RESUME, BL_ASK_READ};
    *done = false;
    *patience = HELLO_PATIENCE_US;
    *most = BL_NAME_MOST;
    if (!settle(t)) {
        *done = true;
        return t->blocks_wrong > 0 ? BL_E_DIFFERS : BL_OK;
    }
    f->kind = kinds[t->stage];
    f->length = 0;
    switch (t->stage) {
    case BL_STAGE_SELECT: ask_select(t, f); break;
    case BL_STAGE_UNPROTECT:
        put_number(f, 0, 1);
        *patience = 100000;
        break;
    case BL_STAGE_PROTECT:
        put_number(f, 1, 1);
        *patience = 100000;
        break;
    case BL_STAGE_LOOK:
    case BL_STAGE_PROVE: ask_sums(t, f, patience, most); break;
    case BL_STAGE_WRITE: ask_write(t, f, patience); break;
    case BL_STAGE_INSPECT: {
        bl_piece b = block_at(t, t->block);
        size_t left = b.count - t->part;
        ask_read(t, f, b.first + (uint32_t)t->part, left < t->most_data ? left : t->most_data,
                 most);
        break;
    }
    case BL_STAGE_READ: {
        uint64_t left = t->options.range.count - t->block;
        size_t n = t->most_data;
        ask_read(t, f, t->options.range.first + (uint32_t)t->block, left < n ? (size_t)left : n,
                 most);
        break;
    }
    case BL_STAGE_RUN:
        put_number(f, t->options.entry, ADDRESS);
        t->run_asked = true;
        *patience = RUN_PATIENCE_US;
        break;
    default: break;
    }
    return BL_OK;
}

/* ---- answers ---- */

static bl_status take_hello(bl_transfer *t, const bl_frame *f)
{
    if (f->length < 4 || f->payload[1] != BL_LINK_VERSION || f->payload[2] != t->options.who)
        return BL_E_UNSUPPORTED;
    uint8_t most = f->payload[3];
    size_t n = f->length - 4u;
    if (n >= sizeof t->name) n = sizeof t->name - 1;
    for (size_t i = 0; i < n; i++) {
        char c = (char)f->payload[4 + i];
        t->name[i] = c >= ' ' && c <= '~' ? c : '?';
    }
    t->name[n] = '\0';
    if (most < EASIEST + ADDRESS + 1 || most > BL_FRAME_PAYLOAD) return BL_E_UNSUPPORTED;
    t->most_data = most - ADDRESS - 1u;
    t->block = 1;
    return BL_OK;
}

static bl_status take_sums(bl_transfer *t, const bl_frame *f)
{
    if (f->length != t->asked * SUM + 1) return BL_E_SYNTAX;
    for (size_t i = 0; i < t->asked; i++) {
        const uint8_t *s = f->payload + 1 + i * SUM;
        uint32_t found =
            (uint32_t)s[0] | (uint32_t)s[1] << 8 | (uint32_t)s[2] << 16 | (uint32_t)s[3] << 24;
        bl_piece b = block_at(t, t->block);
        bool wrong = found != bl_crc32(0, b.bytes, b.count);
        t->wrong[t->block++] = wrong;
        if (t->stage != BL_STAGE_PROVE) continue;
        if (wrong)
            t->blocks_wrong++;
        else
            t->bytes_proved += b.count;
    }
    return BL_OK;
}

/* Part of a block is done. True: that was all of it. */
static bool finish_part(bl_transfer *t, size_t count)
{
    t->part += t->asked;
    if (t->part < count) return false;
    t->part = 0;
    t->block++;
    return true;
}

static void note_difference(bl_transfer *t, uint32_t address, uint8_t expected, uint8_t found)
{
    if (t->differences < BL_DIFFERENCES)
        t->difference[t->differences] = (bl_difference){address, expected, found};
    t->differences++;
}

static bl_status take_read(bl_transfer *t, const bl_frame *f)
{
    if (f->length != t->asked + 1) return BL_E_SYNTAX;
    if (t->stage == BL_STAGE_READ) {
        memcpy(t->options.buffer + t->block, f->payload + 1, t->asked);
        t->block += t->asked;
        return BL_OK;
    }
    bl_piece b = block_at(t, t->block);
    for (size_t i = 0; i < t->asked; i++)
        if (f->payload[1 + i] != b.bytes[t->part + i])
            note_difference(t, b.first + (uint32_t)(t->part + i), b.bytes[t->part + i],
                            f->payload[1 + i]);
    finish_part(t, b.count);
    return BL_OK;
}

static bl_status take_written(bl_transfer *t)
{
    bl_piece b = block_at(t, t->block);
    t->bytes_written += t->asked;
    if (finish_part(t, b.count)) t->blocks_written++;
    return BL_OK;
}

static bl_status take_refusal(bl_transfer *t, const bl_frame *f)
{
    const uint8_t *p = f->payload;
    t->refusal = p[0];
    if (f->length >= 4) t->where = (uint32_t)p[1] | (uint32_t)p[2] << 8 | (uint32_t)p[3] << 16;
    bool differs = p[0] == BL_ANSWER_DIFFERS || p[0] == BL_ANSWER_UNCHANGED;
    if (!differs || f->length < 6) return BL_E_REFUSED;
    note_difference(t, t->where, p[4], p[5]);
    return BL_E_DIFFERS;
}

bl_status bl_transfer_answer(bl_transfer *t, const bl_frame *f)
{
    if (f->length == 0) return BL_E_SYNTAX;
    if (t->stage == BL_STAGE_RESUME) {
        t->resumed = f->payload[0] == BL_ANSWER_GOOD; /* otherwise no program was waiting */
        t->block = 1;
        return BL_OK;
    }
    if (f->payload[0] != BL_ANSWER_GOOD) return take_refusal(t, f);
    switch (t->stage) {
    case BL_STAGE_HELLO: return take_hello(t, f);
    case BL_STAGE_LOOK:
    case BL_STAGE_PROVE: return take_sums(t, f);
    case BL_STAGE_WRITE: return take_written(t);
    case BL_STAGE_INSPECT:
    case BL_STAGE_READ: return take_read(t, f);
    default: t->block = 1; return BL_OK;
    }
}

uint32_t bl_transfer_silence(const bl_transfer *t)
{
    return t->run_asked || t->resumed ? SILENCE_US : 0;
}

bool bl_transfer_ease(bl_transfer *t)
{
    if (t->stage == BL_STAGE_HELLO || t->most_data <= EASIEST) return false;
    t->most_data = t->most_data / 2 < EASIEST ? EASIEST : t->most_data / 2;
    return true;
}

void bl_transfer_progress(const bl_transfer *t, size_t *done, size_t *total)
{
    *done = t->block;
    *total = t->stage == BL_STAGE_READ ? (size_t)t->options.range.count : t->block_count;
}
