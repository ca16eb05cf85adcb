/* Burning a simulated chip over a simulated line, with everything that can go wrong. */
#include "chip_support.h"

#include <string.h>

enum { SIZE = 32768 };

static const bl_part *part(void)
{
    return bl_part_named((bl_text){"28C256", 6});
}

static void set_up(uint64_t seed)
{
    bed_power_on(part(), seed);
}

static void fresh_chip(void)
{
    bed_blank(part());
    for (unsigned i = 0; i < 400; i++)
        wanted[0x4000 + i] = (uint8_t)test_random();
}

TEST(a_burn_writes_verifies_and_then_has_nothing_to_do)
{
    fresh_chip();
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_BYTES(cells, SIZE, wanted, SIZE);
    CHECK_INT(job.result.blocks_written, 7);
    CHECK_INT(job.result.bytes_proved, SIZE);
    CHECK_INT(bench.parts[0].cycles, 7);
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_INT(job.result.blocks_written, 0);
    CHECK_INT(job.result.bytes_proved, SIZE);
    CHECK_INT(bench.parts[0].cycles, 7); /* not a cycle more */
    CHECK_INT(bed_burn(BL_GOAL_COMPARE, BL_PROTECT_LEAVE), BL_OK);
}

TEST(a_changed_byte_rewrites_one_page)
{
    fresh_chip();
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    wanted[0x4100] ^= 0x10;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_INT(job.result.blocks_written, 1);
    CHECK_BYTES(cells, SIZE, wanted, SIZE);
}

TEST(a_comparison_finds_every_difference)
{
    fresh_chip();
    memcpy(cells, wanted, SIZE);
    cells[5] = 1, cells[0x4003] ^= 0xFF, cells[0x7FFF] = 0;
    CHECK_INT(bed_burn(BL_GOAL_COMPARE, BL_PROTECT_LEAVE), BL_E_DIFFERS);
    CHECK_INT(job.result.differences, 3);
    CHECK_INT(job.result.blocks_wrong, 3);
    CHECK_INT(job.result.difference[0].address, 5);
    CHECK_INT(job.result.difference[1].address, 0x4003);
    CHECK_INT(job.result.difference[1].expected, wanted[0x4003]);
    CHECK_INT(job.result.difference[1].found, cells[0x4003]);
    CHECK_INT(job.result.difference[2].found, 0);
}

TEST(a_stuck_bit_is_named)
{
    for (uint8_t bit = 0; bit < 8; bit++) {
        fresh_chip();
        bench.parts[0].faults.stuck[0] = (sim_stuck){0x4042, bit, (wanted[0x4042] >> bit & 1) == 0};
        bench.parts[0].faults.stuck_count = 1;
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_DIFFERS);
        CHECK_INT(job.result.difference[0].address, 0x4042);
        CHECK_INT(job.result.difference[0].expected, wanted[0x4042]);
        CHECK_INT(job.result.difference[0].found, wanted[0x4042] ^ 1u << bit);
    }
}

TEST(protection_blocks_and_is_lifted_on_request)
{
    fresh_chip();
    bench.parts[0].protect = true;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_DIFFERS);
    CHECK_INT(job.result.refusal, BL_ANSWER_UNCHANGED);
    CHECK_INT(cells[0x4000], 0xFF);
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_OFF), BL_OK);
    CHECK_BYTES(cells, SIZE, wanted, SIZE);
    CHECK(!bench.parts[0].protect);
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_ON), BL_OK);
    CHECK(bench.parts[0].protect);
    CHECK_BYTES(cells, SIZE, wanted, SIZE);
}

TEST(a_blocked_write_enable_and_a_slow_chip)
{
    fresh_chip();
    bench.parts[0].faults.write_blocked = true;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_DIFFERS);
    CHECK_INT(job.result.refusal, BL_ANSWER_UNCHANGED);
    fresh_chip();
    bench.parts[0].faults.cycle_us = 60000;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_REFUSED);
    CHECK_INT(job.result.refusal, BL_ANSWER_NOT_READY);
}

TEST(an_empty_socket_is_not_a_success)
{
    fresh_chip();
    bench.socket.chip = NULL;
    CHECK(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE) != BL_OK);
}

TEST(a_programmer_that_vanishes)
{
    fresh_chip();
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    uint64_t whole = bench.socket_line.faults.passed;
    for (uint64_t after = 1; after < whole; after += 13) {
        fresh_chip();
        bench.socket_line.faults.vanish_after = after;
        bl_status status = bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE);
        CHECK(status == BL_E_TIMEOUT || status == BL_E_LINE);
    }
    fresh_chip();
    bench.socket_line.faults.vanish_after = whole;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
}

TEST(a_line_with_one_wrong_bit_in_two_thousand)
{
    unsigned good = 0;
    for (uint64_t seed = 0; seed < 60; seed++) {
        fresh_chip();
        set_up(seed);
        bench.socket_line.faults.flip_one_in = 2000;
        bl_status status = bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE);
        good += status == BL_OK;
        if (status == BL_OK) CHECK_BYTES(cells, SIZE, wanted, SIZE);
    }
    CHECK_INT(good, 60);
}

/* Whatever chance mixes: what is reported as good is good. */
TEST(mixed_faults_never_end_in_a_false_success)
{
    unsigned good = 0, bad = 0;
    for (uint64_t seed = 1; seed < 300; seed++) {
        test_seed(seed);
        fresh_chip();
        set_up(seed);
        sim_line_faults *line = &bench.socket_line.faults;
        sim_part_faults *part = &bench.parts[0].faults;
        if (test_below(2) == 0) line->flip_one_in = 300 + test_below(4000);
        if (test_below(2) == 0) line->lose_one_in = 100 + test_below(1000);
        if (test_below(5) == 0) line->vanish_after = test_below(6000) + 1;
        if (test_below(4) == 0)
            part->stuck[part->stuck_count++] =
                (sim_stuck){0x4000 + test_below(400), (uint8_t)test_below(8), test_below(2) != 0};
        if (test_below(6) == 0) part->cycle_us = 1000 + test_below(20000);
        if (test_below(8) == 0) bench.parts[0].protect = true;
        bl_status status = bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE);
        if (status != BL_OK) {
            bad++;
            continue;
        }
        good++;
        sim_part_update(&bench.parts[0], bench.now + 100000000);
        for (size_t i = 0; i < part->stuck_count; i++) {
            uint32_t at = part->stuck[i].address;
            CHECK_INT((wanted[at] >> part->stuck[i].bit & 1) != 0, part->stuck[i].high);
        }
        CHECK_BYTES(cells, SIZE, wanted, SIZE);
    }
    CHECK(good > 50 && bad > 50); /* both kinds were there */
}

TEST(the_programmer_refuses_nonsense)
{
    static const struct {
        uint8_t kind, length, payload[27], code;
    } all[] = {
        {0x55, 0, {0}, BL_ANSWER_UNKNOWN},
        {BL_ASK_READ, 3, {0}, BL_ANSWER_MALFORMED},
        {BL_ASK_READ, 4, {0, 0, 0, 1}, BL_ANSWER_NO_PART},
        {BL_ASK_SELECT, 27, {0, 0x80, 0, 0, 0, 63, 0, 0x10, 0x27, 0, 0, 150}, BL_ANSWER_RANGE},
        {BL_ASK_SELECT, 10, {0, 0x80, 0, 0, 0, 64, 0, 0x10, 0x27}, BL_ANSWER_MALFORMED},
        {BL_ASK_SELECT, 27, {0, 0x80, 0, 0, 0, 64, 0, 0x10, 0x27, 0, 0, 150}, BL_ANSWER_GOOD},
        {BL_ASK_READ, 4, {0xFF, 0x7F, 0, 1}, BL_ANSWER_GOOD},
        {BL_ASK_READ, 4, {0xFF, 0x7F, 0, 2}, BL_ANSWER_RANGE},
        {BL_ASK_READ, 4, {0, 0, 0, 240}, BL_ANSWER_RANGE},
        {BL_ASK_WRITE, 5, {0x3F, 0, 0, 1, 2}, BL_ANSWER_RANGE}, /* over the end of a page */
        {BL_ASK_SUMS, 6, {0, 0, 0, 64, 0, 60}, BL_ANSWER_RANGE},
        {BL_ASK_SUMS, 6, {0, 0, 0, 0, 0, 1}, BL_ANSWER_RANGE},
    };
    fresh_chip();
    bl_serial port = sim_line_port(&bench.socket_line);
    bl_exchange_begin(&exchange, 115200);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_frame f = {.kind = all[i].kind, .length = all[i].length};
        memcpy(f.payload, all[i].payload, sizeof all[i].payload);
        CHECK_INT(bl_drive_ask(&port, &exchange, &f, 100000, 240), BL_OK);
        CHECK_INT(exchange.answer.payload[0], all[i].code);
    }
}
