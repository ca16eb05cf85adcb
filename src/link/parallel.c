/* parallel.c - rows of bytes, each with a header and a sum, one byte at a strobe.
 *
 * A row: address high and low, count, so many bytes, and a byte that makes the sum of all 0. Count
 * 0 starts what is at the address; at address 0 it only ends the transfer.
 */
#include "bootlace/parallel.h"

#include "base/core.h"

enum { ROW_MAX = 255, HEADER = 3 };
_Static_assert(ROW_MAX <= UINT8_MAX, "the count of a row is one byte");
#define FIRST_TIMEOUT_US 3000000u
#define NEXT_TIMEOUT_US  500000u

static bool is_last(const bl_rows *r)
{
    return r->piece == r->piece_count;
}

static void begin_parallel_row(bl_rows *r)
{
    while (!is_last(r) && r->at == r->pieces[r->piece].count) {
        r->piece++;
        r->at = 0;
    }
    uint32_t address = r->run ? r->entry : 0;
    r->size = 0;
    if (!is_last(r)) {
        const bl_piece *p = &r->pieces[r->piece];
        address = p->first + (uint32_t)r->at;
        r->size = p->count - r->at < ROW_MAX ? p->count - r->at : (size_t)ROW_MAX;
    }
    r->row[0] = (uint8_t)(address >> 8);
    r->row[1] = (uint8_t)address;
    r->row[2] = (uint8_t)r->size;
    r->position = 0;
    r->sum = 0;
}

static uint8_t byte_due(const bl_rows *r)
{
    if (r->position < HEADER) return r->row[r->position];
    if (r->position < HEADER + r->size)
        return r->pieces[r->piece].bytes[r->at + r->position - HEADER];
    return (uint8_t)(0u - r->sum);
}

/* The byte was taken. */
static void advance_row(bl_rows *r)
{
    BL_ASSERT(r->position <= HEADER + r->size);
    r->sum = (uint8_t)(r->sum + byte_due(r));
    if (++r->position < HEADER + r->size + 1) return;
    if (r->size == 0) {
        r->status = BL_OK;
        return;
    }
    r->at += r->size;
    begin_parallel_row(r);
}

/* A byte of the next row was fetched: the row before was good. */
static void note_good(bl_rows *r)
{
    size_t done = r->at;
    for (size_t i = 0; i < r->piece && i < r->piece_count; i++)
        done += r->pieces[i].count;
    r->done = done;
}

static void end_rows(bl_rows *r)
{
    bool first = r->piece == 0 && r->at == 0 && r->position <= 1; /* nobody fetches anything */
    r->status = first              ? BL_E_TIMEOUT
                : r->position <= 1 ? BL_E_REFUSED /* it looked at the sum, and halted */
                                   : BL_E_LINE;
}

bl_lines_do bl_rows_next(bl_rows *r, bool ready, uint64_t now, uint8_t *byte)
{
    if (r->status != BL_E_BUSY) return BL_LINES_HOLD;
    if (r->step == BL_ROWS_WAIT_READY && ready) {
        if (r->position == 2) note_good(r);
        *byte = byte_due(r);
        r->step = BL_ROWS_WAIT_TAKEN;
        r->deadline = now + NEXT_TIMEOUT_US;
        return BL_LINES_PUT;
    }
    if (r->step == BL_ROWS_WAIT_TAKEN && !ready) {
        advance_row(r);
        r->step = BL_ROWS_WAIT_READY;
        r->deadline = now + NEXT_TIMEOUT_US;
        return BL_LINES_RELEASE;
    }
    if (now >= r->deadline) end_rows(r);
    return BL_LINES_HOLD;
}

/* Nothing is sent of what the protocol cannot address. */
void bl_rows_begin(bl_rows *r, const bl_piece *pieces, size_t piece_count, bool run, uint32_t entry,
                   uint64_t now)
{
    memset(r, 0, sizeof *r);
    r->pieces = pieces;
    r->piece_count = piece_count;
    r->run = run;
    r->entry = entry;
    r->status = BL_E_BUSY;
    r->deadline = now + FIRST_TIMEOUT_US;
    for (size_t i = 0; i < piece_count; i++)
        r->total += pieces[i].count;
    uint32_t beyond;
    /* A row has 16 bits of address, and count 0 at address 0 starts nothing. */
    if (bl_pieces_reach(pieces, piece_count, 0x10000, &beyond) ||
        (run && (entry == 0 || entry > 0xFFFF)))
        r->status = BL_E_RANGE;
    else
        begin_parallel_row(r);
}
