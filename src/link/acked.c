/* acked.c - headers and rows, and finding back to a header when an answer was not the expected one.
 *
 * Aglet adds up all that it gets, and answers each byte with the sum. A row is a header of four
 * bytes (address high and low, count, a byte that makes the sum 0) and count bytes. After a header
 * whose sum is not 0 Aglet sets the sum to 0 and waits for another; that is what shows where it
 * stands.
 *
 *   FIND --the sum was reset--> SETTLE --three fillers--> HEADER <----------------+
 *    ^                                                      | four bytes          |
 *    |                                                     DATA --its last byte---+ another row
 *    |                                                      |
 *    |                                                      | no row is left
 *    |                                            CLOSE or RUN --> BL_OK
 *    |                                                      |
 *    +-- any answer that is not the sum, or none -----------+ (the row before once more)
 *        MAX_ERRORS without a good row --> BL_E_LINE, BL_E_TIMEOUT
 */
#include "bootlace/acked.h"

#include "base/core.h"

enum {
    LOWEST = 8, /* bytes of a row */
    GROW_AFTER = 4,
    MAX_ERRORS = 80,
    MAX_FILLERS = 5000,
    MAX_SILENT = 30,
    STARTED = 5,
};
_Static_assert((int)LOWEST < (int)BL_ACKED_ROW && BL_ACKED_ROW <= UINT8_MAX,
               "the count of a row is one byte");
_Static_assert(STARTED < MAX_SILENT, "a start is believed before the line is given up");
#define ANSWER_TIMEOUT_US 100000u

static uint8_t low(uint32_t value)
{
    return (uint8_t)(value & 0xFF);
}

static void send_byte(bl_acked *a, uint8_t byte, uint64_t now)
{
    a->byte = byte;
    bl_transport_say(&a->transport, &a->byte, 1,
                     ANSWER_TIMEOUT_US + 20u * 1000000u / a->transport.baud, now);
}

/* A byte that does not make the sum 0: a header of such bytes is never taken for one. */
static uint8_t filler(const bl_acked *a)
{
    return a->known && low(a->sum + 0xFFu) == 0 ? 0xFE : 0xFF;
}

/* ---- rows ---- */

static const bl_piece *piece_of(const bl_acked *a)
{
    BL_ASSERT(a->piece < a->piece_count);
    return &a->pieces[a->piece];
}

static void begin_header(bl_acked *a, uint32_t address, size_t count, uint64_t now)
{
    a->row[0] = low(address >> 8);
    a->row[1] = low(address);
    a->row[2] = low((unsigned)count);
    a->row[3] = low(0u - (unsigned)(a->sum + a->row[0] + a->row[1] + a->row[2]));
    a->position = 0;
    send_byte(a, a->row[0], now);
}

/* Pieces without bytes are passed over; behind the last a header that is none, or the start. */
static void begin_acked_row(bl_acked *a, uint64_t now)
{
    while (a->piece < a->piece_count && a->at == piece_of(a)->count) {
        a->piece++;
        a->at = 0;
    }
    if (a->piece == a->piece_count) {
        a->step = a->run ? BL_ACKED_RUN : BL_ACKED_CLOSE;
        a->size = 0;
        if (a->run) {
            begin_header(a, a->entry, 0, now);
            return;
        }
        a->position = 0;
        send_byte(a, filler(a), now);
        return;
    }
    size_t left = piece_of(a)->count - a->at;
    a->size = left < a->max ? left : a->max;
    a->step = BL_ACKED_HEADER;
    begin_header(a, piece_of(a)->first + (uint32_t)a->at, a->size, now);
}

static void row_is_through(bl_acked *a, uint64_t now)
{
    a->at += a->size;
    a->transport.done += a->size;
    a->last_size = a->size;
    if (++a->good >= GROW_AFTER && a->max < BL_ACKED_ROW) {
        a->max = a->max * 2 < BL_ACKED_ROW ? a->max * 2 : BL_ACKED_ROW;
        a->good = 0;
    }
    begin_acked_row(a, now);
}

/* The row before has been confirmed by an answer that went on from its sum. */
static void confirm(bl_acked *a)
{
    if (a->last_size > 0) a->bad = a->fillers = 0;
    a->last_size = 0;
}

/* The sum after the row before was not what it should be: that row again. */
static void go_back(bl_acked *a)
{
    if (a->last_size == 0) return;
    BL_ASSERT(a->last_size > 0);
    if (a->piece == a->piece_count || a->at == 0) {
        do
            a->piece--;
        while (piece_of(a)->count == 0);
        a->at = piece_of(a)->count;
        BL_ASSERT(a->at >= a->last_size);
    }
    a->at -= a->last_size;
    a->transport.done -= a->last_size;
    a->last_size = 0;
}

/* ---- when something is wrong ---- */

static void find_reset(bl_acked *a, bool known, uint64_t now)
{
    a->step = BL_ACKED_FIND;
    a->known = known;
    send_byte(a, filler(a), now);
}

static void lose(bl_acked *a, uint64_t now)
{
    if (a->step != BL_ACKED_FIND) a->transport.resends++;
    if (a->step != BL_ACKED_FIND && a->step != BL_ACKED_SETTLE && a->max > LOWEST) a->max /= 2;
    a->good = 0;
    go_back(a);
    if (++a->bad >= MAX_ERRORS || a->silent == MAX_SILENT)
        bl_transport_give_up(&a->transport);
    else
        find_reset(a, false, now);
}

static void take_found(bl_acked *a, uint8_t answer, uint64_t now)
{
    bool reset = a->known && a->sum != 0 && answer == a->byte;
    a->known = true;
    a->sum = answer;
    a->fillers++;
    if (reset) {
        a->step = BL_ACKED_SETTLE;
        a->position = 1;
    }
    send_byte(a, filler(a), now);
}

/* ---- answers ---- */

static void next_of_header(bl_acked *a, uint64_t now)
{
    if (a->position == 0) confirm(a);
    if (++a->position < 4) {
        send_byte(a, a->row[a->position], now);
    } else if (a->step == BL_ACKED_RUN) {
        a->transport.status = BL_OK;
    } else {
        a->step = BL_ACKED_DATA;
        a->position = 0;
        send_byte(a, piece_of(a)->bytes[a->at], now);
    }
}

/* Fillers in the place of a header; at the fourth the sum begins anew. */
static void next_of_fillers(bl_acked *a, uint64_t now)
{
    bool close = a->step == BL_ACKED_CLOSE;
    if (close && a->position == 0) confirm(a);
    if (++a->position < 4) {
        send_byte(a, filler(a), now);
        return;
    }
    a->sum = 0;
    if (close)
        a->transport.status = BL_OK;
    else
        begin_acked_row(a, now);
}

/* The only good answer is the sum with the byte added; everything else means that both stand in
 * different places. */
static void take_acked_answer(bl_transport *transport, uint8_t answer, uint64_t now)
{
    bl_acked *a = (bl_acked *)transport;
    if (transport->out_sent < transport->out_count) return;
    a->silent = 0;
    a->run_doubted = false; /* if it was: Aglet is still there */
    if (a->fillers >= MAX_FILLERS) {
        transport->status = BL_E_LINE;
        return;
    }
    if (a->step == BL_ACKED_FIND) {
        take_found(a, answer, now);
        return;
    }
    uint8_t expected = low((unsigned)a->sum + a->byte);
    if (answer != expected) {
        lose(a, now);
        return;
    }
    a->sum = expected;
    switch (a->step) {
    case BL_ACKED_HEADER:
    case BL_ACKED_RUN: next_of_header(a, now); break;
    case BL_ACKED_DATA:
        if (++a->position < a->size)
            send_byte(a, piece_of(a)->bytes[a->at + a->position], now);
        else
            row_is_through(a, now);
        break;
    default: next_of_fillers(a, now); break;
    }
}

/* Silence after the start: it was heard if Aglet says nothing more. */
static void miss_acked_answer(bl_transport *transport, uint64_t now)
{
    bl_acked *a = (bl_acked *)transport;
    a->silent++;
    a->run_doubted |= a->step == BL_ACKED_RUN && a->position == 3;
    if (a->run_doubted && a->silent == STARTED)
        transport->status = BL_OK;
    else
        lose(a, now);
}

static const bl_transport_kind kind = {
    .name = "acknowledged bytes", .input = take_acked_answer, .tick = miss_acked_answer};

void bl_acked_send(bl_acked *a, uint32_t baud, const bl_piece *pieces, size_t piece_count, bool run,
                   uint32_t entry, uint64_t now)
{
    size_t total = 0;
    for (size_t i = 0; i < piece_count; i++)
        total += pieces[i].count;
    memset(a, 0, sizeof *a);
    bl_transport_begin(&a->transport, &kind, baud, total);
    a->pieces = pieces;
    a->piece_count = piece_count;
    a->run = run;
    a->entry = entry;
    a->max = BL_ACKED_ROW;
    uint32_t beyond;
    if (bl_pieces_reach(pieces, piece_count, 0x10000, &beyond) || (run && entry > 0xFFFF))
        a->transport.status = BL_E_RANGE;
    else
        find_reset(a, false, now);
}

uint32_t bl_acked_where(const bl_acked *a)
{
    if (a->piece >= a->piece_count) return a->entry;
    return piece_of(a)->first + (uint32_t)(a->at + (a->step == BL_ACKED_DATA ? a->position : 0));
}
