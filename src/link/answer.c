/* answer.c - what a job learns from each answer. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "job.h"

static bl_status take_hello(bl_transfer *t, const bl_frame *f)
{
    bl_hello hello;
    if (!bl_hello_read(f, &hello) || hello.who != t->options.who) return BL_E_UNSUPPORTED;
    uint8_t max = hello.payload_max;
    size_t n = hello.name.length;
    if (n >= sizeof t->result.name) n = sizeof t->result.name - 1;
    for (size_t i = 0; i < n; i++) {
        char c = hello.name.at[i];
        t->result.name[i] = c >= ' ' && c <= '~' ? c : '?';
    }
    t->result.name[n] = '\0';
    if (max < EASIEST + ADDRESS + 1 || max > BL_FRAME_PAYLOAD) return BL_E_UNSUPPORTED;
    t->state.max_data = max - ADDRESS - 1u;
    t->state.answered = true;
    return BL_OK;
}

/* ---- sums ---- */

static uint32_t blank_sum(size_t count)
{
    static const uint8_t blank[16] = {0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF,
                                      0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF};
    uint32_t crc = 0;
    for (; count >= sizeof blank; count -= sizeof blank)
        crc = bl_crc32(crc, blank, sizeof blank);
    return bl_crc32(crc, blank, count);
}

/* The sum of one unit, a block or a region. */
static uint32_t sum_of(const bl_transfer *t, const uint8_t *bytes, size_t count)
{
    return bl_job_doubles(t) ? bl_double_sum(bytes, count) : bl_crc32(0, bytes, count);
}

/* The second proof of a block takes back what the first one said, or adds to it. */
static void count_proof(bl_transfer *t, bool right, size_t count)
{
    if (!right && !t->state.by_region) t->result.blocks_wrong++;
    if (!t->state.again && right) t->result.bytes_proved += count;
    if (t->state.again && right) t->result.bytes_twice += count;
    if (t->state.again && !right && !t->state.by_region) t->result.bytes_proved -= count;
}

/* A sum over a region marks all of its blocks at once; blank memory is known by its own sum and
 * needs no erasing. */
static void take_sum(bl_transfer *t, uint32_t found)
{
    size_t unit = bl_job_unit(t, t->state.block);
    BL_ASSERT(t->state.block + unit <= t->result.blocks);
    bl_piece b = bl_transfer_block(t, t->state.block);
    size_t count = t->state.by_region ? (size_t)t->options.region : b.count;
    bool right = found == sum_of(t, b.bytes, count);
    bool blank = !right && t->result.stage == BL_STAGE_LOOK &&
                 t->options.who == BL_WHO_PROGRAMMER && found == blank_sum(count);
    for (size_t i = 0; i < unit; i++, t->state.block++) {
        uint8_t mark = t->state.by_region ? MARK_UNKNOWN : MARK_WRONG;
        if (right)
            mark = 0;
        else if (blank) /* what should be blank there is */
            mark = bl_job_blank(b.bytes + i * t->options.block,
                                unit > 1 ? (size_t)t->options.block : count)
                       ? 0
                       : MARK_WRONG | MARK_BLANK;
        bl_job_mark(t, t->state.block, 1, mark);
    }
    if (t->result.stage == BL_STAGE_PROVE) count_proof(t, right, count);
}

/* When nothing of the sample is as it should be, nothing else will be: it is not looked at. */
static void end_sample(bl_transfer *t, size_t count)
{
    size_t wrong = 0;
    for (size_t i = 0; i < count; i++)
        wrong += (t->state.marks[i] & MARK_WRONG) != 0;
    t->state.sampling = false;
    t->state.block = 0;
    t->state.by_region = wrong < count && t->options.region > 0;
    bl_job_mark(t, 0, t->result.blocks, wrong < count ? MARK_UNKNOWN : MARK_WRONG);
}

static bl_status take_sums(bl_transfer *t, const bl_frame *f)
{
    if (bl_job_doubles(t) && f->length == t->state.asked_sums * SHORT_SUM + 1) {
        t->state.doubles = false; /* FCS-16 is what guards the line: no proof */
        t->result.proved_by = BL_PROOF_SUMS;
        return BL_OK;
    }
    if (f->length != t->state.asked_sums * SUM + 1) return BL_E_SYNTAX;
    size_t first = t->state.block, n = bl_job_region(t), wrong = 0;
    bool sample = bl_job_sample(t, first);
    for (size_t i = 0; i < t->state.asked_sums; i++)
        take_sum(t, bl_frame_number(f->payload + 1 + i * SUM, SUM));
    if (t->state.sampling) end_sample(t, t->state.asked_sums);
    for (size_t i = 0; sample && i < t->state.asked_sums; i++)
        wrong += (t->state.marks[first + i] & ~MARK_WRITTEN) == MARK_WRONG;
    if (sample && wrong == SAMPLE) bl_job_mark(t, first + SAMPLE, n - SAMPLE, MARK_WRONG);
    return BL_OK;
}

/* ---- bytes ---- */

/* Part of a block is done. True: that was all of it. */
static bool finish_part(bl_transfer *t, size_t count)
{
    BL_ASSERT(t->state.offset + t->state.asked_bytes <= count);
    t->state.offset += t->state.asked_bytes;
    if (t->state.offset < count) return false;
    t->state.offset = 0;
    t->state.block++;
    return true;
}

void bl_transfer_note(bl_transfer *t, uint32_t address, uint8_t expected, uint8_t found)
{
    if (t->result.differences < BL_DIFFERENCES)
        t->result.difference[t->result.differences] = (bl_difference){address, expected, found};
    t->result.differences++;
}

/* The sector of this block is erased, and all of it written that should not be blank. */
static void mark_sector(bl_transfer *t, size_t block)
{
    BL_ASSERT(t->options.part->sector > 0);
    BL_ASSERT(block < t->result.blocks);
    uint32_t size = t->options.part->sector, sector = bl_transfer_block(t, block).first / size;
    while (block > 0 && bl_transfer_block(t, block - 1).first / size == sector)
        block--;
    for (size_t i = block; i < t->result.blocks; i++) {
        bl_piece b = bl_transfer_block(t, i);
        if (b.first / size != sector) break;
        bl_job_mark(t, i, 1, bl_job_blank(b.bytes, b.count) ? MARK_BLANK : MARK_WRONG | MARK_BLANK);
    }
    t->state.marks[block] |= MARK_ERASE;
}

/* Can the block be written over what is there? */
static bl_status take_fit(bl_transfer *t, const bl_frame *f)
{
    size_t block = t->state.block;
    bl_piece b = bl_transfer_block(t, block);
    bool fits = !t->options.every_block;
    for (size_t i = 0; i < t->state.asked_bytes; i++) {
        uint8_t wanted = b.bytes[t->state.offset + i], found = f->payload[1 + i];
        if ((wanted & found) == wanted) continue;
        fits = false;
        if (t->options.part->sector == 0)
            bl_transfer_note(t, b.first + (uint32_t)(t->state.offset + i), wanted, found);
    }
    bool whole = finish_part(t, b.count);
    if (t->options.part->sector == 0)
        return t->result.differences > 0 && whole ? BL_E_NOT_BLANK : BL_OK;
    if (!fits) mark_sector(t, block);
    return BL_OK;
}

static bl_status take_read(bl_transfer *t, const bl_frame *f)
{
    if (f->length != t->state.asked_bytes + 1) return BL_E_SYNTAX;
    if (t->result.stage == BL_STAGE_FIT) return take_fit(t, f);
    if (t->result.stage == BL_STAGE_READ) {
        memcpy(t->options.buffer + t->state.position, f->payload + 1, t->state.asked_bytes);
        t->state.position += t->state.asked_bytes;
        t->result.bytes_fetched = t->state.position;
        return BL_OK;
    }
    bl_piece b = bl_transfer_block(t, t->state.block);
    for (size_t i = 0; i < t->state.asked_bytes; i++)
        if (f->payload[1 + i] != b.bytes[t->state.offset + i])
            bl_transfer_note(t, b.first + (uint32_t)(t->state.offset + i),
                             b.bytes[t->state.offset + i], f->payload[1 + i]);
    finish_part(t, b.count);
    return BL_OK;
}

/* A programmer adds whether there was anything to write. */
static bl_status take_written(bl_transfer *t, const bl_frame *f)
{
    bl_piece b = bl_transfer_block(t, t->state.block);
    bool written = f->length < 2 || f->payload[1] != 0;
    if (t->state.offset == 0) t->state.touched = false;
    t->state.touched |= written;
    if (written) t->result.bytes_written += t->state.asked_bytes;
    t->state.marks[t->state.block] |= MARK_WRITTEN;
    if (finish_part(t, b.count)) t->result.blocks_written += t->state.touched;
    return BL_OK;
}

/* ---- pours ---- */

bl_status bl_transfer_poured(bl_transfer *t, bl_status status, const bl_frame *f)
{
    size_t count = t->state.pouring;
    t->state.pouring = 0;
    if (status == BL_OK && f->payload[0] == BL_ANSWER_DIFFERS) return bl_transfer_answer(t, f);
    bool good = status == BL_OK && f->payload[0] == BL_ANSWER_GOOD;
    if (status != BL_OK && status != BL_E_LINE) return status;
    /* What a damaged pour has left is found by the proof. */
    if (!good) {
        t->state.pour_max = t->state.pour_max / 4;
        t->state.trouble = true;
    }
    for (t->result.bytes_written += count; count > 0; t->result.blocks_written++) {
        count -= bl_transfer_block(t, t->state.block).count;
        t->state.marks[t->state.block++] |= MARK_WRITTEN;
    }
    return BL_OK;
}

/* ---- the whole ---- */

/* An Eyelet that does not know quick sums and pours: as before, then. */
static bl_status do_without(bl_transfer *t)
{
    t->state.swift = t->state.doubles = t->state.sampling = false;
    t->state.pour_max = t->state.pouring = 0;
    t->result.proved_by = BL_PROOF_SUMS;
    t->state.by_region = t->options.region > 0;
    if (t->result.stage == BL_STAGE_LOOK) bl_job_mark(t, 0, t->result.blocks, MARK_UNKNOWN);
    return BL_OK;
}

static bl_status take_refusal(bl_transfer *t, const bl_frame *f)
{
    const uint8_t *p = f->payload;
    if (t->state.swift && p[0] == BL_ANSWER_UNKNOWN) return do_without(t);
    if (t->result.stage == BL_STAGE_SUPPLY && p[0] == BL_ANSWER_NO_SUPPLY) {
        t->state.corners = false; /* proved at 5 volts, then */
        t->result.no_corners = true;
        t->result.supply = 50;
        t->state.answered = true;
        return BL_OK;
    }
    t->result.refusal = p[0];
    if (f->length >= 4) t->result.where = bl_frame_number(p + 1, ADDRESS);
    bool differs = p[0] == BL_ANSWER_DIFFERS || p[0] == BL_ANSWER_UNCHANGED;
    if ((!differs && p[0] != BL_ANSWER_NOT_BLANK) || f->length < 6) return BL_E_REFUSED;
    bl_transfer_note(t, t->result.where, p[4], p[5]);
    return differs ? BL_E_DIFFERS : BL_E_NOT_BLANK;
}

/* By stage; a refusal has its own place, since some of them are answers, too. */
bl_status bl_transfer_answer(bl_transfer *t, const bl_frame *f)
{
    if (f->length == 0) return BL_E_SYNTAX;
    if (t->result.stage == BL_STAGE_RESUME) {
        t->result.resumed = f->payload[0] == BL_ANSWER_GOOD; /* otherwise no program was waiting */
        t->state.answered = true;
        return BL_OK;
    }
    if (f->payload[0] != BL_ANSWER_GOOD) return take_refusal(t, f);
    switch (t->result.stage) {
    case BL_STAGE_HELLO: return take_hello(t, f);
    case BL_STAGE_LOOK:
    case BL_STAGE_PROVE: return take_sums(t, f);
    case BL_STAGE_WRITE: return t->state.pouring > 0 ? BL_OK : take_written(t, f);
    case BL_STAGE_ERASE:
        t->state.marks[t->state.block++] &= (uint8_t)~MARK_ERASE;
        t->result.sectors_erased++;
        return BL_OK;
    case BL_STAGE_FIT:
    case BL_STAGE_INSPECT:
    case BL_STAGE_READ: return take_read(t, f);
    default: t->state.answered = true; return BL_OK;
    }
}
