/* fuzz_answers.c - a remote that answers our frames with anything: whole frames with any
 * contents, and bytes of no frame. Nothing may be proved that did not come. */
#include "fuzz_memory.h"

enum { ROOM = 3000 };

static uint8_t memory[ROOM];

/* One answer: a frame of the input's making, or bytes as they are. */
static void answer(bl_exchange *x, fuzz_input *in, uint64_t now)
{
    uint8_t wire[BL_FRAME_WIRE], how = fuzz_byte(in);
    size_t n = 0;
    if (how < 16) {
        for (n = 0; n < how; n++)
            wire[n] = fuzz_byte(in);
    } else {
        bl_frame f = {.kind = (uint8_t)(x->request.kind | BL_ANSWER),
                      .sequence = x->request.sequence,
                      .length = (uint8_t)(how % (BL_FRAME_PAYLOAD + 1))};
        if (how == 17) f.kind = fuzz_byte(in);
        if (how == 18) f.kind = BL_ASK_POURED | BL_ANSWER;
        for (uint8_t i = 0; i < f.length; i++)
            f.payload[i] = i == 0 && how < 200 ? (uint8_t)(fuzz_byte(in) & 15) : fuzz_byte(in);
        n = bl_frame_encode(&f, wire);
    }
    bl_exchange_input(x, wire, n, now);
}

static bl_status settle(bl_exchange *x, fuzz_input *in, uint64_t *now)
{
    uint8_t out[128];
    while (bl_exchange_status(x) == BL_E_BUSY) {
        while (bl_exchange_output(x, out, sizeof out) > 0)
            continue;
        if (in->left > 0) answer(x, in, *now);
        uint64_t next = bl_exchange_deadline(x);
        *now = next > *now ? next : *now + 1;
        bl_exchange_tick(x, *now);
    }
    return bl_exchange_status(x);
}

static void transfer(bl_transfer *t, fuzz_input *in)
{
    bl_exchange x;
    uint64_t now = 0;
    bl_exchange_begin(&x, 19200);
    for (unsigned turn = 0; turn < 2000; turn++) {
        bl_frame request;
        uint32_t timeout, max;
        bool done;
        bl_status status = bl_transfer_next(t, &request, &timeout, &max, &done);
        if (status != BL_OK || done) return;
        bl_exchange_ask(&x, &request, timeout, max, now);
        status = settle(&x, in, &now);
        if (status == BL_E_LINE && bl_transfer_ease(t)) continue;
        if (status == BL_OK) status = bl_transfer_answer(t, &x.answer);
        const uint8_t *bytes;
        size_t count;
        if (status == BL_OK && bl_transfer_pours(t, &bytes, &count)) {
            bl_exchange_pour(&x, bytes, count, now);
            status = settle(&x, in, &now);
            status = bl_transfer_poured(t, status, &x.answer);
        }
        if (status != BL_OK) return;
    }
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    fuzz_input in = {data, size};
    uint8_t how = fuzz_byte(&in), more = fuzz_byte(&in);
    const bl_part *part = bl_part_at(more % bl_parts());
    bool chip = (how & 1) != 0;
    bl_piece pieces[] = {{fuzz_number(&in) & 0xFFFF, 1u + fuzz_byte(&in), memory},
                         {0x20000, 1u + fuzz_number(&in) % 1500, memory + 256}};
    if (chip) pieces[0].first &= 0xFF, pieces[1].first = 0x400, pieces[1].count %= 500;
    if (pieces[1].count == 0) pieces[1].count = 1;
    uint8_t buffer[600];
    bl_transfer_options o = {.goal = (bl_goal)((how >> 1) % 3),
                             .pieces = pieces,
                             .piece_count = 2,
                             .buffer = buffer,
                             .range = {pieces[0].first, 1 + fuzz_number(&in) % sizeof buffer},
                             .block = chip ? part->page : 64,
                             .region = (how & 8) != 0 ? (chip ? part->page * 8u : 512) : 0,
                             .who = chip ? BL_WHO_PROGRAMMER : BL_WHO_EYELET,
                             .part = chip ? part : NULL,
                             .corners = chip && (how & 16) != 0,
                             .twice = (how & 32) != 0,
                             .every_block = (how & 64) != 0,
                             .run = !chip && (how & 128) != 0,
                             .resume = !chip && (more & 128) != 0,
                             .entry = 0x300};
    bl_transfer t;
    if (bl_transfer_begin(&t, &fuzz_memory, &o) != BL_OK) return 0;
    transfer(&t, &in);
    bl_transfer_end(&t);
    return 0;
}
