/* The ways of carrying bytes, against their remotes, on good lines and bad ones. */
#include <string.h>

#include "pair.h"

enum { BAUD = 19200, LIMIT = 5000, NOISE = 1000 };

static uint8_t wanted[LIMIT], got[LIMIT + 1024], memory[0x2000], seen[64];

static void make(size_t count)
{
    for (size_t i = 0; i < count; i++)
        wanted[i] = (uint8_t)test_random();
    memset(got, 0x55, sizeof got);
    memset(memory, 0x55, sizeof memory);
}

/* ---- XMODEM ---- */

static bl_xmodem sender, receiver;

static bl_status xmodem(pair *p, size_t count, bool large, bool crc, bool known)
{
    bl_xmodem_send(&sender, BAUD, wanted, count, large, 0x1A, p->now);
    bl_xmodem_receive(&receiver, BAUD, got, sizeof got, known ? count : 0, crc, p->now);
    p->end[0] = &sender.transport;
    p->end[1] = &receiver.transport;
    return pair_run(p);
}

TEST(xmodem_carries_every_length)
{
    static const size_t counts[] = {1, 127, 128, 129, 1023, 1024, 1025, 1152, 4999};
    for (size_t i = 0; i < 9 * 8; i++) {
        size_t count = counts[i / 8], padding = (128 - count % 128) % 128;
        bool large = i & 1, crc = i & 2, known = i & 4;
        pair p;
        make(count);
        pair_begin(&p, BAUD, i, 0, 0);
        CHECK_INT(xmodem(&p, count, large, crc, known), BL_OK);
        CHECK_INT(sender.padding, padding);
        CHECK_INT(sender.transport.done, count);
        CHECK_INT(receiver.transport.done, known ? count : count + padding);
        CHECK_INT(receiver.padding, known ? padding : 0);
        CHECK_BYTES(got, count, wanted, count);
        CHECK_INT(got[count], known || padding == 0 ? 0x55 : 0x1A);
        CHECK_INT(sender.crc, crc);
        CHECK_INT(receiver.large, large && count >= 1024);
        CHECK_INT(sender.transport.resends, 0);
    }
}

TEST(xmodem_is_as_fast_as_the_line)
{
    pair p;
    make(4096);
    pair_begin(&p, BAUD, 1, 0, 0);
    uint64_t began = p.now;
    CHECK_INT(xmodem(&p, 4096, true, true, true), BL_OK);
    double bare = 4096 * 10.0 / BAUD, took = (double)(p.now - began) / 1e6;
    CHECK(bare / took > 0.98);
}

/* Bad lines: an error may be the end of it, wrong bytes must not. */
TEST(xmodem_on_a_bad_line)
{
    unsigned whole = 0;
    for (unsigned turn = 0; turn < NOISE; turn++) {
        pair p;
        size_t count = 1 + test_below(900);
        make(count);
        pair_begin(&p, BAUD, turn, 1000, 1000);
        bl_status status = xmodem(&p, count, turn & 1, true, true);
        if (status == BL_OK) {
            CHECK_BYTES(got, count, wanted, count);
            whole++;
        } else {
            CHECK(status == BL_E_LINE || status == BL_E_CANCELLED || status == BL_E_TIMEOUT);
        }
    }
    CHECK(whole > NOISE * 9 / 10);
}

TEST(xmodem_ends_in_words)
{
    pair p;
    make(1000);
    pair_begin(&p, BAUD, 1, 0, 0);
    p.faults.vanish_after = 300; /* the cable is pulled */
    CHECK_INT(xmodem(&p, 1000, false, true, true), BL_E_LINE);
    pair_begin(&p, BAUD, 1, 0, 1); /* nothing passes at all */
    CHECK_INT(xmodem(&p, 1000, false, true, true), BL_E_TIMEOUT);

    pair_begin(&p, BAUD, 1, 0, 0); /* more comes than there is room for */
    bl_xmodem_send(&sender, BAUD, wanted, 1000, false, 0x1A, p.now);
    bl_xmodem_receive(&receiver, BAUD, got, 500, 0, true, p.now);
    p.end[0] = &sender.transport, p.end[1] = &receiver.transport;
    CHECK_INT(pair_run(&p), BL_E_CANCELLED);
    CHECK_INT(bl_transport_status(&receiver.transport), BL_E_LONG);
    CHECK_INT(receiver.transport.done, 384);
    CHECK_INT(got[384], 0x55);

    pair_begin(&p, BAUD, 1, 0, 0); /* less than was said */
    bl_xmodem_send(&sender, BAUD, wanted, 500, false, 0x1A, p.now);
    bl_xmodem_receive(&receiver, BAUD, got, sizeof got, 1000, true, p.now);
    p.end[0] = &receiver.transport, p.end[1] = &sender.transport;
    CHECK_INT(pair_run(&p), BL_E_SHORT);
}

/* ---- packets ---- */

static bl_packets packets;
static bl_packets_listener far;

static bl_status send_packets(pair *p, uint32_t address, size_t count, uint8_t payload,
                              uint8_t rounds)
{
    bl_packets_listen(&far, BAUD, 0x1000, memory, sizeof memory, seen, sizeof seen, payload);
    bl_packets_send(&packets, BAUD, address, wanted, count, payload, rounds, p->now);
    p->end[0] = &packets.transport;
    p->end[1] = &far.transport;
    return pair_run(p);
}

TEST(packets_bring_exactly_what_was_announced)
{
    static const size_t counts[] = {1, 31, 32, 33, 1000, 4096};
    for (size_t i = 0; i < 6 * 2; i++) {
        pair p;
        size_t count = counts[i / 2];
        make(count);
        pair_begin(&p, BAUD, i, 0, 0);
        CHECK_INT(send_packets(&p, 0x1100, count, BL_PACKET_USUAL, i & 1 ? 2 : 0), BL_OK);
        CHECK_INT(packets.transport.done, count);
        CHECK_BYTES(memory + 0x100, count, wanted, count);
        CHECK_INT(memory[0xFF], 0x55);
        CHECK_INT(memory[0x100 + count], 0x55);
        CHECK(far.whole);
    }
}

TEST(packets_on_a_bad_line)
{
    unsigned whole = 0;
    for (unsigned turn = 0; turn < NOISE; turn++) {
        pair p;
        size_t count = 1 + test_below(900);
        make(count);
        pair_begin(&p, BAUD, turn, 1000, 1000);
        bl_status status = send_packets(&p, 0x1100, count, BL_PACKET_USUAL, 0);
        if (status == BL_OK) {
            CHECK_BYTES(memory + 0x100, count, wanted, count);
            whole++;
        }
    }
    CHECK_INT(whole, NOISE);
}

/* Blindly the remote alone knows whether all of it came; what it holds as whole is right. */
TEST(blind_packets_on_a_bad_line)
{
    unsigned whole = 0;
    for (unsigned turn = 0; turn < 300; turn++) {
        pair p;
        size_t count = 1 + test_below(900);
        make(count);
        pair_begin(&p, BAUD, turn, 1000, 1000);
        CHECK_INT(send_packets(&p, 0x1100, count, BL_PACKET_USUAL, 5), BL_OK);
        if (!far.whole) continue;
        CHECK_BYTES(memory + 0x100, count, wanted, count);
        whole++;
    }
    CHECK(whole > 200 && whole < 300);
}

TEST(packets_that_have_no_place)
{
    pair p;
    make(1000);
    pair_begin(&p, BAUD, 1, 0, 0);
    CHECK_INT(send_packets(&p, 0x0FFF, 1000, BL_PACKET_USUAL, 0), BL_E_REFUSED);
    pair_begin(&p, BAUD, 1, 0, 0);
    CHECK_INT(send_packets(&p, 0x2C19, 1000, BL_PACKET_USUAL, 0), BL_E_REFUSED);
    pair_begin(&p, BAUD, 1, 0, 0);
    CHECK_INT(send_packets(&p, 0x2C18, 1000, BL_PACKET_USUAL, 0), BL_OK);
    pair_begin(&p, BAUD, 1, 0, 1);
    CHECK_INT(send_packets(&p, 0x1000, 1000, BL_PACKET_USUAL, 0), BL_E_TIMEOUT);
}

/* ---- bare bytes ---- */

TEST(bare_bytes_are_counted)
{
    static bl_bare from, to;
    pair p;
    make(3000);
    pair_begin(&p, BAUD, 1, 0, 0);
    bl_bare_send(&from, BAUD, wanted, 3000, 0, p.now);
    bl_bare_receive(&to, BAUD, got, 3000, 1000000, p.now);
    p.end[0] = &to.transport, p.end[1] = &from.transport;
    CHECK_INT(pair_run(&p), BL_OK);
    CHECK_BYTES(got, 3000, wanted, 3000);
    CHECK_INT(got[3000], 0x55);

    bl_bare_send(&from, BAUD, wanted, 2999, 0, p.now); /* one byte too few */
    bl_bare_receive(&to, BAUD, got, 3000, 1000000, p.now);
    CHECK_INT(pair_run(&p), BL_E_LINE);
    CHECK_INT(to.transport.done, 2999);

    uint64_t began = p.now; /* with a pause after each */
    bl_bare_send(&from, BAUD, wanted, 100, 2000, p.now);
    bl_bare_receive(&to, BAUD, got, 100, 1000000, p.now);
    CHECK_INT(pair_run(&p), BL_OK);
    CHECK(p.now - began > 100 * (2000 + 500));
}

/* ---- addresses that a way does not have ---- */

TEST(addresses_beyond_a_protocol_are_refused)
{
    static const struct {
        uint32_t first;
        size_t count;
        bool acked, packets;
    } all[] = {{0xFFF0, 16, true, true},      {0xFFF0, 17, false, true},
               {0x10000, 1, false, true},     {0xFFFFF0, 16, false, true},
               {0xFFFFF0, 17, false, false},  {0x1000000, 1, false, false},
               {0xFFFFFFF0, 16, false, false}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_piece piece = {all[i].first, all[i].count, wanted};
        bl_acked a;
        bl_packets p;
        bl_rows r;
        bl_transfer t;
        bl_frame request;
        uint32_t timeout, max;
        bool done;
        bl_acked_send(&a, BAUD, &piece, 1, false, 0, 0);
        CHECK_INT(a.transport.status, all[i].acked ? BL_E_BUSY : BL_E_RANGE);
        bl_packets_send(&p, BAUD, piece.first, wanted, piece.count, 32, 0, 0);
        CHECK_INT(p.transport.status, all[i].packets ? BL_E_BUSY : BL_E_RANGE);
        bl_rows_begin(&r, &piece, 1, false, 0, 0);
        CHECK_INT(bl_rows_status(&r), all[i].acked ? BL_E_BUSY : BL_E_RANGE);
        bl_transfer_options o = {
            .pieces = &piece, .piece_count = 1, .block = 64, .who = BL_WHO_EYELET};
        CHECK_INT(bl_transfer_begin(&t, &test_memory, &o), BL_OK);
        CHECK_INT(bl_transfer_next(&t, &request, &timeout, &max, &done),
                  all[i].packets ? BL_OK : BL_E_RANGE);
        if (!all[i].packets) CHECK(t.result.where >= 0x1000000);
        bl_transfer_end(&t);
    }
    bl_rows r;
    bl_piece piece = {0x300, 1, wanted};
    bl_rows_begin(&r, &piece, 1, true, 0, 0); /* a row for address 0 starts nothing */
    CHECK_INT(bl_rows_status(&r), BL_E_RANGE);
}
