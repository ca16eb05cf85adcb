/* Frames and exchanges: what the line does to them, and what comes out. */
#include "harness.h"

#include <string.h>

static bl_frame random_frame(void)
{
    bl_frame f = {.kind = (uint8_t)test_random(),
                  .sequence = (uint8_t)test_random(),
                  .length = (uint8_t)test_below(BL_FRAME_PAYLOAD + 1)};
    /* flags and escapes more often than chance would */
    for (unsigned i = 0; i < f.length; i++)
        f.payload[i] = (uint8_t)(test_below(4) == 0 ? 0x7D + test_below(2) : test_random());
    return f;
}

static bool same(const bl_frame *a, const bl_frame *b)
{
    return a->kind == b->kind && a->sequence == b->sequence && a->length == b->length &&
           memcmp(a->payload, b->payload, a->length) == 0;
}

TEST(a_frame_is_what_the_page_says)
{
    bl_frame f = {.kind = BL_ASK_HELLO, .sequence = 0x7E, .length = 0};
    uint8_t wire[BL_FRAME_WIRE];
    size_t n = bl_frame_encode(&f, wire);
    CHECK_BYTES(wire, 5, "\x7E\x01\x7D\x5E\x00", 5);
    CHECK_INT(wire[n - 1], 0x7E);
}

TEST(frames_round_trip)
{
    bl_frame_reader reader = {.count = 0};
    for (unsigned i = 0; i < 3000; i++) {
        bl_frame sent = random_frame(), got;
        uint8_t wire[BL_FRAME_WIRE];
        size_t n = bl_frame_encode(&sent, wire), good = 0;
        for (size_t k = 1; k + 1 < n; k++)
            CHECK(wire[k] != BL_FRAME_FLAG);
        for (size_t k = 0; k < n; k++) {
            bl_frame_event e = bl_frame_take(&reader, wire[k], &got);
            CHECK(e != BL_FRAME_DAMAGED);
            good += e == BL_FRAME_GOOD;
        }
        CHECK_INT(good, 1);
        CHECK(same(&sent, &got));
    }
}

TEST(damage_is_noticed_and_the_next_frame_gets_through)
{
    unsigned slipped = 0;
    for (unsigned i = 0; i < 20000; i++) {
        bl_frame_reader reader = {.count = 0};
        bl_frame sent = random_frame(), next = random_frame(), got;
        uint8_t wire[BL_FRAME_WIRE];
        size_t n = bl_frame_encode(&sent, wire);
        size_t at = test_below((uint32_t)n);
        if (test_below(3) == 0)
            memmove(wire + at, wire + at + 1, --n - at);
        else
            wire[at] ^= (uint8_t)(1u << test_below(8));
        for (size_t k = 0; k < n; k++)
            if (bl_frame_take(&reader, wire[k], &got) == BL_FRAME_GOOD && !same(&sent, &got))
                slipped++;
        n = bl_frame_encode(&next, wire);
        bool arrived = false;
        for (size_t k = 0; k < n; k++)
            arrived |= bl_frame_take(&reader, wire[k], &got) == BL_FRAME_GOOD && same(&next, &got);
        CHECK(arrived);
    }
    CHECK_INT(slipped,
              0); /* one wrong bit or one lost byte never passes a 16-bit check with a length */
}

/* ---- exchanges with a remote in a few lines ---- */

typedef struct remote_side {
    bl_frame_reader reader;
    unsigned asked;
    unsigned ignore; /* so many requests */
    bool garbage;
} remote_side;

/* Plays time forward until the exchange ends; the remote echoes the payload after a good code. */
static void play(bl_exchange *x, remote_side *remote)
{
    uint64_t now = 0;
    while (bl_exchange_status(x) == BL_E_BUSY) {
        uint8_t bytes[BL_FRAME_WIRE], back[BL_FRAME_WIRE];
        size_t n = bl_exchange_output(x, bytes, sizeof bytes), m = 0;
        for (size_t i = 0; i < n; i++) {
            bl_frame f;
            if (bl_frame_take(&remote->reader, bytes[i], &f) != BL_FRAME_GOOD ||
                remote->asked++ < remote->ignore)
                continue;
            f.kind |= BL_ANSWER;
            memmove(f.payload + 1, f.payload, f.length);
            f.payload[0] = BL_ANSWER_GOOD;
            f.length++;
            m = bl_frame_encode(&f, back);
            if (remote->garbage) m = 3, memset(back, 'x', 3);
        }
        bl_exchange_input(x, back, m, now);
        if (bl_exchange_status(x) != BL_E_BUSY) break;
        now = bl_exchange_deadline(x);
        bl_exchange_tick(x, now);
    }
}

TEST(an_exchange_resends_until_answered)
{
    bl_exchange x;
    bl_frame f = {.kind = BL_ASK_READ, .length = 3, .payload = {1, 2, 3}};
    bl_exchange_begin(&x, 9600);
    for (unsigned ignore = 0; ignore < 16; ignore++) {
        remote_side remote = {.ignore = ignore};
        uint32_t before = x.resends;
        bl_exchange_ask(&x, &f, 1000, 4, 0);
        play(&x, &remote);
        CHECK_INT(bl_exchange_status(&x), BL_OK);
        CHECK_INT(x.resends - before, ignore);
        CHECK_BYTES(x.answer.payload, x.answer.length, "\x00\x01\x02\x03", 4);
    }
}

TEST(silence_and_garbage_are_told_apart)
{
    bl_exchange x;
    bl_frame f = {.kind = BL_ASK_HELLO};
    remote_side silent = {.ignore = 1000}, noisy = {.garbage = true};
    bl_exchange_begin(&x, 9600);
    bl_exchange_ask(&x, &f, 1000, 4, 0);
    play(&x, &silent);
    CHECK_INT(bl_exchange_status(&x), BL_E_TIMEOUT);
    CHECK_INT(silent.asked, x.max_tries);
    bl_exchange_ask(&x, &f, 1000, 4, 0);
    play(&x, &noisy);
    CHECK_INT(bl_exchange_status(&x), BL_E_LINE);
}

TEST(an_echo_or_an_old_answer_is_not_an_answer)
{
    bl_exchange x;
    uint8_t wire[BL_FRAME_WIRE];
    bl_frame f = {.kind = BL_ASK_HELLO};
    bl_exchange_begin(&x, 9600);
    bl_exchange_ask(&x, &f, 1000, 4, 0);
    size_t n = bl_exchange_output(&x, wire, sizeof wire);
    bl_exchange_input(&x, wire, n, 0); /* a loop-back plug */
    CHECK_INT(bl_exchange_status(&x), BL_E_BUSY);
    bl_frame old = {.kind = BL_ASK_HELLO | BL_ANSWER,
                    .sequence = (uint8_t)(x.request.sequence - 1),
                    .length = 1};
    n = bl_frame_encode(&old, wire);
    bl_exchange_input(&x, wire, n, 0);
    CHECK_INT(bl_exchange_status(&x), BL_E_BUSY);
}
