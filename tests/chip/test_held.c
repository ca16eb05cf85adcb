/* The line works while the chip does: requests that are held, repeated, and told what went wrong.
 */
#include "chip_support.h"

#include <string.h>

static bl_frame frame(uint8_t kind, const void *payload, uint8_t length)
{
    bl_frame f = {.kind = kind, .length = length};
    memcpy(f.payload, payload, length);
    return f;
}

static uint8_t ask(bl_frame f)
{
    bl_serial port = sim_line_port(&bench.socket_line);
    CHECK_INT(bl_drive_ask(&port, &exchange, &f, 200000, 240), BL_OK);
    return exchange.answer.payload[0];
}

static void select_part(void)
{
    static const uint8_t part[27] = {0,    0x20, 0, 0,  BL_ALGORITHM_PAGE, 64, 0, 0x10,
                                     0x27, 0,    0, 150};
    bed_blank(bl_part_named((bl_text){"28C64", 5}));
    bl_exchange_begin(&exchange, 115200);
    CHECK_INT(ask(frame(BL_ASK_SELECT, part, sizeof part)), BL_ANSWER_GOOD);
}

static bl_frame write_page(uint8_t page, uint8_t byte)
{
    uint8_t payload[3 + 64];
    payload[0] = (uint8_t)(page * 64), payload[1] = (uint8_t)(page / 4), payload[2] = 0;
    memset(payload + 3, byte, 64);
    return frame(BL_ASK_WRITE, payload, sizeof payload);
}

static bl_frame read_byte(uint16_t at)
{
    const uint8_t payload[] = {(uint8_t)at, (uint8_t)(at >> 8), 0, 1};
    return frame(BL_ASK_READ, payload, sizeof payload);
}

TEST(a_write_is_answered_before_it_is_over)
{
    select_part();
    uint64_t before = bench.now;
    CHECK_INT(ask(write_page(0, 0x11)), BL_ANSWER_GOOD);
    CHECK_INT(exchange.answer.payload[1], 1);
    CHECK(bench.now - before < 8000000); /* the line alone takes 6.5 ms, the cycle 6 more */
    CHECK_INT(cells[0], 0xFF);
    CHECK_INT(ask(read_byte(5)), BL_ANSWER_GOOD); /* held until the cycle is over */
    CHECK_INT(exchange.answer.payload[1], 0x11);
    CHECK_INT(ask(write_page(0, 0x11)), BL_ANSWER_GOOD);
    CHECK_INT(exchange.answer.payload[1], 0); /* there already: no cycle */
    CHECK_INT(bench.parts[0].cycles, 1);
}

TEST(what_went_wrong_is_told_with_the_next_answer_and_once)
{
    select_part();
    bench.parts[0].faults.stuck[0] = (sim_stuck){3, 0, false};
    bench.parts[0].faults.stuck_count = 1;
    CHECK_INT(ask(write_page(0, 0x11)), BL_ANSWER_GOOD);
    CHECK_INT(ask(write_page(1, 0x22)), BL_ANSWER_DIFFERS);
    CHECK_BYTES(exchange.answer.payload + 1, 5, "\x03\x00\x00\x11\x10", 5);
    CHECK_INT(cells[64], 0xFF); /* the second page was not begun */
    CHECK_INT(ask(write_page(1, 0x22)), BL_ANSWER_GOOD);
    CHECK_INT(ask(read_byte(64)), BL_ANSWER_GOOD);
    CHECK_INT(exchange.answer.payload[1], 0x22);
    /* Somebody who begins anew is not told of what was before. */
    CHECK_INT(ask(write_page(0, 0x33)), BL_ANSWER_GOOD);
    CHECK_INT(ask(frame(BL_ASK_HELLO, "", 0)), BL_ANSWER_GOOD);
    CHECK_INT(ask(read_byte(0)), BL_ANSWER_GOOD);
}

/* The same request again and again, as when answers are lost: done once. */
TEST(repeats_while_the_chip_is_busy)
{
    select_part();
    uint8_t wire[BL_FRAME_WIRE];
    bl_frame f = write_page(2, 0x44);
    f.sequence = 99;
    size_t n = bl_frame_encode(&f, wire);
    for (unsigned i = 0; i < 4; i++)
        bl_programmer_input(&bench.socket.programmer, wire, n, bench.now / 1000);
    CHECK(bench.socket.programmer.work.busy);
    CHECK_INT(bench.socket.programmer.pages_written, 1);
    CHECK(!bench.socket.programmer.is_held);
    sim_bench_run(&bench, bench.now + 20000000);
    bl_programmer_input(&bench.socket.programmer, wire, n, bench.now / 1000);
    CHECK_INT(bench.socket.programmer.pages_written, 1);
    CHECK_INT(cells[128], 0x44);
}

TEST(supplies_and_sectors_that_are_not_for_this_part)
{
    static const uint8_t sector[] = {0, 0, 0}, low[] = {44}, corner[] = {45}, far[] = {0, 0x20, 0};
    select_part();
    CHECK_INT(ask(frame(BL_ASK_ERASE, sector, 3)), BL_ANSWER_UNKNOWN);
    CHECK_INT(ask(frame(BL_ASK_ERASE, far, 3)), BL_ANSWER_RANGE);
    CHECK_INT(ask(frame(BL_ASK_SUPPLY, low, 1)), BL_ANSWER_RANGE);
    CHECK_INT(ask(frame(BL_ASK_SUPPLY, corner, 1)), BL_ANSWER_GOOD);
    CHECK_INT(bench.parts[0].vcc, 45);
    bench.socket.fixed_supply = true;
    CHECK_INT(ask(frame(BL_ASK_SUPPLY, corner, 1)), BL_ANSWER_NO_SUPPLY);
    CHECK_INT(bench.parts[0].cycles, 0);
}
