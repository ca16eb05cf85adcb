/* transfer.c - look, write what differs, prove, and name what is wrong: what is asked next.
 *
 *   HELLO --Eyelet------------------+
 *     |                             |
 *   SELECT --> UNPROTECT ----------->+--goal READ--------> READ ----------------------+
 *   (the programmer)                |--goal COMPARE---> (SUPPLY) -> PROVE             |
 *                                   |                                                 |
 *          what memory holds is believed, or every block is written                   |
 *                                   |                                                 |
 *                          LOOK -> FIT -> ERASE -> WRITE -> (SUPPLY) -> PROVE         |
 *                                                   ^        ^            |           |
 *                         not written, lost: MARKED |        | twice,     |           |
 *                                                   +--------+ corners ---+           |
 *                                                                         |           |
 *                          RESTORE <- INSPECT <--------- still wrong -----+           |
 *                             |                                           |           |
 *                             +--> DONE, BL_E_DIFFERS        (RESTORE) <--+ right     |
 *                                                                |                    |
 *                                             PROTECT -> RUN, or RESUME <-------------+
 *                                                                |
 *                                                              DONE, BL_OK
 *
 * A stage that needs nothing of any block is passed over (settle_stage); (SUPPLY) and (RESTORE) are
 * there when the proof is made at two voltages. LOOK and PROVE go over regions first, then over the
 * blocks of those that differ. After any trouble on the line PROVE is done again by another sum,
 * over what was written.
 */
#include "bootlace/transfer.h"

#include "base/core.h"
#include "job.h"

enum { POUR_MAX = 8192, POUR_MIN = 512, ROUNDS = 4 };
enum { RUN_TIMEOUT_US = 20000, HELLO_TIMEOUT_US = 20000 };
#define PROTECT_TIMEOUT_US 100000u

_Static_assert(POUR_MIN < POUR_MAX && EASIEST + ADDRESS < BL_FRAME_PAYLOAD,
               "the shortest frame holds an address and data");

/* How many sums from index on can be asked for by one request: all of the same size and in a row,
 * and they must fit into an answer. */
static size_t row_of(const bl_transfer *t, size_t index)
{
    size_t unit = bl_job_unit(t, index), n = 1, max = t->state.max_data / SUM;
    if (bl_job_sample(t, index) && max > SAMPLE) max = SAMPLE;
    if (t->state.sampling) max = FEW;
    while (n < max && bl_job_is_row(t, index, (n + 1) * unit) &&
           t->state.marks[index + n * unit] & MARK_UNKNOWN)
        n++;
    return n;
}

bool bl_job_doubles(const bl_transfer *t)
{
    return t->state.doubles && !t->state.again;
}

/* Blocks are counted once; their marks are all that is allocated. */
bl_status bl_transfer_begin(bl_transfer *t, const bl_memory *memory,
                            const bl_transfer_options *options)
{
    memset(t, 0, sizeof *t);
    t->options = *options;
    t->state.memory = *memory;
    t->state.corners = options->corners;
    t->state.max_data = EASIEST;
    t->state.swift = options->who == BL_WHO_EYELET && options->goal != BL_GOAL_READ;
    t->state.pour_max = t->state.swift ? POUR_MAX : 0;
    t->state.doubles = t->state.swift;
    t->result.proved_by = t->state.swift ? BL_PROOF_DOUBLE : BL_PROOF_SUMS;
    if (options->block == 0 || options->block > BL_FRAME_PAYLOAD - ADDRESS ||
        options->region % options->block != 0 || options->region > 0xFFFF)
        return BL_E_ARGUMENT;
    for (size_t i = 0; i < options->piece_count; i++) {
        t->result.blocks += bl_job_blocks_of(&options->pieces[i], options->block);
        t->result.bytes_total += options->pieces[i].count;
    }
    t->state.marks = memory->resize(memory->context, NULL, t->result.blocks + 1);
    if (t->state.marks == NULL) return BL_E_MEMORY;
    memset(t->state.marks, 0, t->result.blocks + 1);
    return BL_OK;
}

void bl_transfer_end(bl_transfer *t)
{
    bl_release(&t->state.memory, t->state.marks);
    t->state.marks = NULL;
}

/* ---- stages ---- */

static void enter_stage(bl_transfer *t, bl_stage stage)
{
    BL_ASSERT((unsigned)stage < BL_STAGES);
    t->result.stage = stage;
    t->state.block = t->state.offset = t->state.position = 0;
    t->state.answered = false;
    if (stage != BL_STAGE_LOOK && stage != BL_STAGE_PROVE) return;
    t->state.sampling = stage == BL_STAGE_LOOK && t->state.swift && t->result.blocks > 2 * FEW;
    t->state.by_region = t->options.region > 0 && !t->state.sampling;
    t->state.again = false;
    t->result.bytes_proved = t->result.bytes_twice = 0;
    t->result.blocks_wrong = 0;
    bl_job_mark(t, 0, t->result.blocks, MARK_UNKNOWN);
}

static bool only_falls(const bl_transfer *t)
{
    return t->options.part != NULL && bl_part_only_falls(t->options.part);
}

/* The supply of the proof that is next: low, high, low, high, or always 5 V. */
static uint8_t supply_of(const bl_transfer *t)
{
    if (!t->state.corners) return 50;
    return t->state.proofs % 2 == 0 ? 45 : 55;
}

static void enter_proof(bl_transfer *t)
{
    enter_stage(t, t->state.corners ? BL_STAGE_SUPPLY : BL_STAGE_PROVE);
    t->result.supply = supply_of(t);
}

/* Is all of the block believed to be there already? */
static bool is_known(const bl_transfer *t, const bl_piece *b)
{
    for (size_t i = 0; i < t->options.known_count; i++) {
        const bl_piece *k = &t->options.known[i];
        if (b->first < k->first || b->first - k->first > k->count ||
            b->count > k->count - (b->first - k->first))
            continue;
        return b->count == 0 || memcmp(k->bytes + (b->first - k->first), b->bytes, b->count) == 0;
    }
    return false;
}

static void believe(bl_transfer *t)
{
    enter_stage(t, BL_STAGE_WRITE);
    t->state.believed = true;
    for (size_t i = 0; i < t->result.blocks; i++) {
        bl_piece b = bl_transfer_block(t, i);
        bl_job_mark(t, i, 1, is_known(t, &b) ? 0 : MARK_WRONG);
    }
}

static void begin_work(bl_transfer *t)
{
    const bl_transfer_options *o = &t->options;
    if (o->goal == BL_GOAL_READ)
        enter_stage(t, BL_STAGE_READ);
    else if (o->goal == BL_GOAL_COMPARE)
        enter_proof(t);
    else if (t->state.swift && o->known_count > 0 && !o->every_block)
        believe(t);
    else if (!o->every_block)
        enter_stage(t, BL_STAGE_LOOK);
    else {
        enter_stage(t, BL_STAGE_FIT);
        bl_job_mark(t, 0, t->result.blocks, MARK_WRONG);
    }
}

/* A proof found something wrong: is writing it the cure? It was never written when it was believed
 * to be there, or it was lost in a pour. Whatever else is wrong after writing is an error. */
static bool mends(bl_transfer *t)
{
    bool believed = t->state.believed;
    t->state.believed = false;
    if (t->options.goal != BL_GOAL_WRITE) return false;
    return t->state.swift ? ++t->state.rounds < ROUNDS : believed;
}

/* After trouble on the line what was written is proved by CRC-32, too: the regions that hold any of
 * it, and single blocks. False: there is nothing to prove again. */
static bool prove_again(bl_transfer *t)
{
    if (!t->state.doubles || !t->state.trouble || t->state.again) return false;
    uint64_t proved = t->result.bytes_proved;
    bool any = false;
    enter_stage(t, BL_STAGE_PROVE);
    t->state.again = true;
    t->result.bytes_proved = proved;
    for (size_t i = 0, unit; i < t->result.blocks; i += unit) {
        unit = t->state.by_region ? bl_job_unit(t, i) : 1;
        if (unit == 0) unit = 1;
        bool written = false;
        for (size_t k = 0; k < unit; k++)
            written |= (t->state.marks[i + k] & MARK_WRITTEN) != 0;
        bl_job_mark(t, i, unit, written ? MARK_UNKNOWN : 0);
        any |= written;
    }
    return any;
}

static void after_proof(bl_transfer *t)
{
    unsigned proofs = (t->state.corners ? 2u : 1u) * (t->options.twice ? 2u : 1u);
    bool wrong = t->result.blocks_wrong > 0;
    if (!wrong && prove_again(t)) return;
    t->state.again = false;
    t->state.proofs++;
    if (wrong && mends(t)) { /* the marks are right now */
        t->state.trouble = true;
        enter_stage(t, BL_STAGE_WRITE);
        t->state.proofs = 0;
        if (t->state.rounds > 1) t->state.pour_max = 0;
    } else if (wrong)
        enter_stage(t, BL_STAGE_INSPECT);
    else if (t->state.proofs < proofs)
        enter_proof(t);
    else
        enter_stage(t, t->state.corners ? BL_STAGE_RESTORE : BL_STAGE_PROTECT);
}

/* What follows the stage that is complete. */
static void advance_stage(bl_transfer *t)
{
    const bl_transfer_options *o = &t->options;
    switch (t->result.stage) {
    case BL_STAGE_HELLO:
        if (o->who == BL_WHO_PROGRAMMER)
            enter_stage(t, BL_STAGE_SELECT);
        else
            begin_work(t);
        break;
    case BL_STAGE_SELECT:
        if (o->goal == BL_GOAL_WRITE && o->protect != BL_PROTECT_LEAVE)
            enter_stage(t, BL_STAGE_UNPROTECT);
        else
            begin_work(t);
        break;
    case BL_STAGE_UNPROTECT: begin_work(t); break;
    case BL_STAGE_LOOK:
    case BL_STAGE_FIT:
    case BL_STAGE_ERASE: enter_stage(t, (bl_stage)(t->result.stage + 1)); break;
    case BL_STAGE_WRITE: enter_proof(t); break;
    case BL_STAGE_SUPPLY: enter_stage(t, BL_STAGE_PROVE); break;
    case BL_STAGE_PROVE: after_proof(t); break;
    case BL_STAGE_RESTORE:
        enter_stage(t, t->result.blocks_wrong > 0 ? BL_STAGE_DONE : BL_STAGE_PROTECT);
        break;
    case BL_STAGE_PROTECT:
        if (o->run) {
            enter_stage(t, BL_STAGE_RUN);
            break;
        }
        /* fall through */
    case BL_STAGE_READ: enter_stage(t, o->resume ? BL_STAGE_RESUME : BL_STAGE_DONE); break;
    case BL_STAGE_INSPECT:
        enter_stage(t, t->state.corners ? BL_STAGE_RESTORE
                       : o->resume      ? BL_STAGE_RESUME
                                        : BL_STAGE_DONE);
        break;
    default: enter_stage(t, BL_STAGE_DONE); break;
    }
}

/* Does this block need something in this stage? */
static bool needs(const bl_transfer *t, size_t block)
{
    uint8_t mark = t->state.marks[block];
    switch (t->result.stage) {
    case BL_STAGE_FIT: return only_falls(t) && (mark & MARK_WRONG) && !(mark & MARK_BLANK);
    case BL_STAGE_ERASE: return (mark & MARK_ERASE) != 0;
    case BL_STAGE_WRITE:
    case BL_STAGE_INSPECT: return (mark & MARK_WRONG) != 0;
    default:
        return (mark & MARK_UNKNOWN) != 0 && (!t->state.by_region || bl_job_unit(t, block) > 0);
    }
}

/* Moves on to the next block that needs something; regions first, then what they left open. */
static bool find_block(bl_transfer *t)
{
    for (;;) {
        while (t->state.block < t->result.blocks && !needs(t, t->state.block))
            t->state.block++;
        if (t->state.block < t->result.blocks) return true;
        bool sums = t->result.stage == BL_STAGE_LOOK || t->result.stage == BL_STAGE_PROVE;
        if (!sums || !t->state.by_region) return false;
        t->state.by_region = false;
        t->state.block = 0;
    }
}

/* Moves on over stages and blocks that need nothing. False: the job is over. */
static bool settle_stage(bl_transfer *t)
{
    for (;;) {
        switch (t->result.stage) {
        case BL_STAGE_DONE: return false;
        case BL_STAGE_LOOK:
        case BL_STAGE_FIT:
        case BL_STAGE_ERASE:
        case BL_STAGE_WRITE:
        case BL_STAGE_PROVE:
        case BL_STAGE_INSPECT:
            if (find_block(t)) return true;
            break;
        case BL_STAGE_READ:
            if (t->state.position < t->options.range.count) return true;
            break;
        case BL_STAGE_PROTECT:
            if (t->options.protect == BL_PROTECT_ON && !t->state.answered) return true;
            break;
        default:
            if (!t->state.answered) return true;
            break;
        }
        advance_stage(t);
    }
}

/* ---- requests ---- */

static void ask_select(const bl_transfer *t, bl_frame *f)
{
    const bl_part *p = t->options.part;
    bl_frame_put(f, p->size, 4);
    bl_frame_put(f, p->algorithm, 1);
    bl_frame_put(f, p->page, 2);
    bl_frame_put(f, p->cycle_us, 4);
    bl_frame_put(f, p->window_us, 2);
    bl_frame_put(f, p->pulses, 1);
    bl_frame_put(f, p->over, 1);
    bl_frame_put(f, p->vpp, 1);
    bl_frame_put(f, p->vcc, 1);
    bl_frame_put(f, p->sector, 4);
    bl_frame_put(f, p->erase_us, 4);
    bl_frame_put(f, bl_part_slowest(p), 2);
}

/* How long a programmer may hold a request: until the page or sector before it is done. */
static uint32_t hold_us(const bl_part *p)
{
    enum { SLACK = 10000 };
    if (p == NULL) return 0;
    switch (p->algorithm) {
    case BL_ALGORITHM_PAGE: return p->cycle_us * 2 + SLACK;
    case BL_ALGORITHM_PULSE:
        return (uint32_t)p->page * p->pulses * p->cycle_us * (1u + p->over) + SLACK;
    default: return p->page * p->cycle_us * 2 + p->erase_us * 2 + SLACK;
    }
}

/* Double sums are made several times as fast as CRC-32. */
enum { QUICKER = 4 };
_Static_assert(QUICKER > 1, "quick sums are quicker");

static void ask_sums(bl_transfer *t, bl_frame *f, uint32_t *timeout, uint32_t *max)
{
    bl_piece b = bl_transfer_block(t, t->state.block);
    uint32_t size = t->state.by_region ? t->options.region : (uint32_t)b.count;
    t->state.asked_sums = row_of(t, t->state.block);
    t->result.where = b.first;
    bl_frame_put(f, b.first, ADDRESS);
    bl_frame_put(f, size, 2);
    bl_frame_put(f, (uint32_t)t->state.asked_sums, 1);
    *timeout += (uint32_t)((uint64_t)size * t->state.asked_sums * t->options.sum_ns /
                           (bl_job_doubles(t) ? 1000u * QUICKER : 1000u));
    *max = (uint32_t)(t->state.asked_sums * SUM) + 1;
    if (bl_job_doubles(t)) f->kind = BL_ASK_QUICK;
}

/* How many bytes from here on are all to be written, and lie in a row. */
static size_t pour_size(const bl_transfer *t)
{
    bl_piece first = bl_transfer_block(t, t->state.block);
    size_t count = first.count;
    if (t->state.offset > 0 || t->state.pour_max == 0) return 0;
    for (size_t i = t->state.block + 1; i < t->result.blocks && t->state.marks[i] & MARK_WRONG;
         i++) {
        bl_piece b = bl_transfer_block(t, i);
        if (b.first != first.first + count || b.bytes != first.bytes + count ||
            count + b.count > t->state.pour_max)
            break;
        count += b.count;
    }
    return count;
}

static void ask_pour(bl_transfer *t, bl_frame *f)
{
    t->result.where = bl_transfer_block(t, t->state.block).first;
    f->kind = BL_ASK_POUR;
    bl_frame_put(f, t->result.where, ADDRESS);
    bl_frame_put(f, (uint32_t)t->state.pouring, 2);
}

bool bl_transfer_pours(const bl_transfer *t, const uint8_t **bytes, size_t *count)
{
    if (t->result.stage != BL_STAGE_WRITE || t->state.pouring == 0) return false;
    *bytes = bl_transfer_block(t, t->state.block).bytes;
    *count = t->state.pouring;
    return true;
}

/* A block goes in one frame, or on a bad line in several. */
static void ask_write(bl_transfer *t, bl_frame *f, uint32_t *timeout)
{
    bl_piece b = bl_transfer_block(t, t->state.block);
    BL_ASSERT(t->state.offset < b.count);
    size_t left = b.count - t->state.offset;
    t->state.asked_bytes = left < t->state.max_data ? left : t->state.max_data;
    t->result.where = b.first + (uint32_t)t->state.offset;
    bl_frame_put(f, t->result.where, ADDRESS);
    memcpy(f->payload + ADDRESS, b.bytes + t->state.offset, t->state.asked_bytes);
    f->length = (uint8_t)(ADDRESS + t->state.asked_bytes);
    *timeout += 10000u + (uint32_t)(t->state.asked_bytes * (t->options.sum_ns / 1000u + 1));
}

static void ask_read(bl_transfer *t, bl_frame *f, uint32_t first, size_t count, uint32_t *max)
{
    t->result.where = first;
    t->state.asked_bytes = count;
    bl_frame_put(f, first, ADDRESS);
    bl_frame_put(f, (uint32_t)count, 1);
    *max = (uint32_t)count + 1;
}

static const uint8_t kinds[BL_STAGES] = {
    [BL_STAGE_HELLO] = BL_ASK_HELLO,       [BL_STAGE_SELECT] = BL_ASK_SELECT,
    [BL_STAGE_UNPROTECT] = BL_ASK_PROTECT, [BL_STAGE_LOOK] = BL_ASK_SUMS,
    [BL_STAGE_FIT] = BL_ASK_READ,          [BL_STAGE_ERASE] = BL_ASK_ERASE,
    [BL_STAGE_WRITE] = BL_ASK_WRITE,       [BL_STAGE_SUPPLY] = BL_ASK_SUPPLY,
    [BL_STAGE_PROVE] = BL_ASK_SUMS,        [BL_STAGE_INSPECT] = BL_ASK_READ,
    [BL_STAGE_RESTORE] = BL_ASK_SUPPLY,    [BL_STAGE_PROTECT] = BL_ASK_PROTECT,
    [BL_STAGE_RUN] = BL_ASK_RUN,           [BL_STAGE_RESUME] = BL_ASK_RESUME,
    [BL_STAGE_READ] = BL_ASK_READ,
};

/* The payload of the request, and how long the remote may work on it, by stage. */
static void fill_request(bl_transfer *t, bl_frame *f, uint32_t *timeout, uint32_t *max)
{
    bl_piece b = bl_transfer_block(t, t->state.block);
    size_t left = b.count - t->state.offset;
    switch (t->result.stage) {
    case BL_STAGE_SELECT: ask_select(t, f); break;
    case BL_STAGE_UNPROTECT:
    case BL_STAGE_PROTECT:
        bl_frame_put(f, t->result.stage == BL_STAGE_PROTECT, 1);
        *timeout += PROTECT_TIMEOUT_US;
        break;
    case BL_STAGE_SUPPLY: bl_frame_put(f, supply_of(t), 1); break;
    case BL_STAGE_RESTORE: bl_frame_put(f, 50, 1); break;
    case BL_STAGE_LOOK:
    case BL_STAGE_PROVE: ask_sums(t, f, timeout, max); break;
    case BL_STAGE_ERASE:
        t->result.touched = true;
        t->result.where = b.first;
        bl_frame_put(f, b.first, ADDRESS);
        break;
    case BL_STAGE_WRITE:
        t->result.touched = true;
        t->state.pouring = pour_size(t);
        if (t->state.pouring < POUR_MIN) t->state.pouring = 0;
        if (t->state.pouring > 0)
            ask_pour(t, f);
        else
            ask_write(t, f, timeout);
        break;
    case BL_STAGE_FIT:
    case BL_STAGE_INSPECT:
        ask_read(t, f, b.first + (uint32_t)t->state.offset,
                 left < t->state.max_data ? left : t->state.max_data, max);
        break;
    case BL_STAGE_READ: {
        uint64_t rest = t->options.range.count - t->state.position;
        size_t n = rest < t->state.max_data ? (size_t)rest : t->state.max_data;
        ask_read(t, f, t->options.range.first + (uint32_t)t->state.position, n, max);
        break;
    }
    case BL_STAGE_RUN:
        bl_frame_put(f, t->options.entry, ADDRESS);
        t->result.run_asked = true;
        *timeout = RUN_TIMEOUT_US;
        break;
    default: break;
    }
}

/* Frames carry addresses of 24 bits: whatever lies beyond is told before anything is done. */
static bl_status check_addresses(bl_transfer *t)
{
    const uint32_t limit = (uint32_t)1 << 24;
    const bl_transfer_options *o = &t->options;
    bl_piece range = {o->range.first, (size_t)o->range.count, NULL};
    bool reads = o->goal == BL_GOAL_READ;
    if (reads ? bl_pieces_reach(&range, 1, limit, &t->result.where)
              : bl_pieces_reach(o->pieces, o->piece_count, limit, &t->result.where))
        return BL_E_RANGE;
    if (!o->run || o->entry < limit) return BL_OK;
    t->result.where = o->entry;
    return BL_E_RANGE;
}

bl_status bl_transfer_next(bl_transfer *t, bl_frame *f, uint32_t *timeout, uint32_t *max,
                           bool *done)
{
    BL_ASSERT(t->state.marks != NULL);
    *done = false;
    *max = BL_NAME_MAX;
    if (t->result.stage == BL_STAGE_HELLO && check_addresses(t) != BL_OK) return BL_E_RANGE;
    if (!settle_stage(t)) {
        *done = true;
        return t->result.blocks_wrong > 0 ? BL_E_DIFFERS : BL_OK;
    }
    *timeout = HELLO_TIMEOUT_US + hold_us(t->options.part);
    f->kind = kinds[t->result.stage];
    f->length = 0;
    fill_request(t, f, timeout, max);
    return BL_OK;
}

/* What was believed has not been asked for; what is being written is not known yet. */
void bl_transfer_count_sure(bl_transfer *t)
{
    bl_stage stage = t->result.stage;
    if (stage >= BL_STAGE_PROVE) {
        t->result.bytes_sure = t->result.bytes_proved;
        return;
    }
    t->result.bytes_sure = 0;
    if (stage < BL_STAGE_LOOK || t->state.believed || t->options.goal == BL_GOAL_READ) return;
    for (size_t i = 0; i < t->result.blocks; i++)
        if ((t->state.marks[i] & ~MARK_WRITTEN) == 0)
            t->result.bytes_sure += bl_transfer_block(t, i).count;
}

/* A greeting that must be repeated wakes a program that polls now and then: nothing of memory has
 * passed the line yet. */
void bl_transfer_trouble(bl_transfer *t)
{
    if (t->result.stage != BL_STAGE_HELLO) t->state.trouble = true;
}

uint32_t bl_transfer_silence(const bl_transfer *t)
{
    return t->result.run_asked || t->result.resumed ? BL_LINK_SILENCE_US : 0;
}

bool bl_transfer_ease(bl_transfer *t)
{
    if (t->result.stage == BL_STAGE_HELLO || t->state.max_data <= EASIEST) return false;
    t->state.max_data = t->state.max_data / 2 < EASIEST ? EASIEST : t->state.max_data / 2;
    return true;
}

bl_progress bl_transfer_progress(const bl_transfer *t, uint32_t resends)
{
    bool reads = t->result.stage == BL_STAGE_READ;
    return (bl_progress){.stage = t->result.stage,
                         .done = reads ? t->state.position : t->state.block,
                         .total = reads ? (size_t)t->options.range.count : t->result.blocks,
                         .resends = resends + t->result.resends,
                         .options = &t->options};
}
