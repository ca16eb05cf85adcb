/* job_blocks.c - the blocks and regions that a job works in, and what is known of each. */
#include "base/core.h"
#include "job.h"

size_t bl_job_blocks_of(const bl_piece *p, uint32_t block)
{
    uint64_t last = (uint64_t)p->first + (p->count - 1);
    return p->count == 0 ? 0 : (size_t)(last / block - p->first / block) + 1;
}

bl_piece bl_transfer_block(const bl_transfer *t, size_t index)
{
    uint32_t size = t->options.block;
    for (size_t i = 0; i < t->options.piece_count; i++) {
        const bl_piece *p = &t->options.pieces[i];
        size_t n = bl_job_blocks_of(p, size);
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

bool bl_job_blank(const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (bytes[i] != 0xFF) return false;
    return true;
}

/* Do count blocks from index on lie in a row, all of full size? */
bool bl_job_is_row(const bl_transfer *t, size_t index, size_t count)
{
    if (count > t->result.blocks - index) return false;
    bl_piece first = bl_transfer_block(t, index), last = bl_transfer_block(t, index + count - 1);
    return first.count == t->options.block && last.count == first.count &&
           last.first - first.first == (uint32_t)(count - 1) * t->options.block;
}

size_t bl_job_region(const bl_transfer *t)
{
    return (size_t)(t->options.region / t->options.block);
}

size_t bl_job_unit(const bl_transfer *t, size_t index)
{
    size_t n = bl_job_region(t);
    if (!t->state.by_region) return 1;
    return bl_job_is_row(t, index, n) ? n : 0;
}

/* A programmer itself skips pages that are right already. So when the first pages of a region all
 * differ, the rest need not be asked for one by one. */
bool bl_job_sample(const bl_transfer *t, size_t index)
{
    size_t n = bl_job_region(t);
    return t->result.stage == BL_STAGE_LOOK && !t->state.by_region && n > SAMPLE &&
           index % n == 0 && bl_job_is_row(t, index, n);
}

void bl_job_mark(bl_transfer *t, size_t index, size_t count, uint8_t mark)
{
    BL_ASSERT(index <= t->result.blocks && count <= t->result.blocks - index);
    for (uint8_t *m = t->state.marks + index; count > 0; m++, count--)
        *m = (uint8_t)(mark | (*m & MARK_WRITTEN));
}
