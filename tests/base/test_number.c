/* Numbers and ranges as people write them. */
#include "harness.h"

#include <string.h>

static bl_text text(const char *s)
{
    return (bl_text){s, strlen(s)};
}

TEST(numbers_in_every_spelling)
{
    static const struct {
        const char *written;
        int64_t value;
    } good[] = {
        {"0", 0},
        {"31", 31},
        {"$1F", 31},
        {"$1f", 31},
        {"0x1F", 31},
        {"0X1f", 31},
        {"1Fh", 31},
        {"1FH", 31},
        {"0FFh", 255},
        {"%11111", 31},
        {"0b11111", 31},
        {"0B11", 3},
        {"0o37", 31},
        {"37q", 31},
        {"37Q", 31},
        {"'A'", 65},
        {"' '", 32},
        {"'''", 39},
        {"'\\n'", 10},
        {"'\\x41'", 65},
        {"'\\\\'", 92},
        {"0b1h", 0xB1},
        {"10h", 16},
        {"99", 99},
        {"4294967295", 4294967295},
        {"$FFFFFFFF", 4294967295},
        {"18446744073709551615", -1},
        {"$FFFFFFFFFFFFFFFF", -1},
    };
    for (size_t i = 0; i < sizeof good / sizeof good[0]; i++) {
        size_t used;
        int64_t value;
        if (bl_number_scan(text(good[i].written), &used, &value) != BL_OK ||
            value != good[i].value || used != strlen(good[i].written))
            test_fail(__FILE__, __LINE__, "%s is read as %lld", good[i].written, (long long)value);
    }
}

TEST(malformed_numbers_are_refused)
{
    static const char *const bad[] = {"",   "$",  "%",   "%12", "0x", "0xG", "0b", "0b2",   "0o8",
                                      "9q", "1G", "12x", "1Fg", "'",  "'A",  "''", "'\\q'", "FFh"};
    for (size_t i = 0; i < sizeof bad / sizeof bad[0]; i++) {
        size_t used;
        int64_t value;
        if (bl_number_scan(text(bad[i]), &used, &value) == BL_OK)
            test_fail(__FILE__, __LINE__, "'%s' was taken for %lld", bad[i], (long long)value);
    }
    size_t used;
    int64_t value;
    CHECK_INT(bl_number_scan(text("18446744073709551616"), &used, &value), BL_E_RANGE);
    CHECK_INT(bl_number_scan(text("$10000000000000000"), &used, &value), BL_E_RANGE);
}

TEST(a_number_stops_where_it_ends)
{
    size_t used;
    int64_t value;
    CHECK_INT(bl_number_scan(text("$C000..$FFFF"), &used, &value), BL_OK);
    CHECK_INT(used, 5);
    CHECK_INT(bl_number_scan(text("12+3"), &used, &value), BL_OK);
    CHECK_INT(used, 2);
}

TEST(limits_of_parsed_numbers)
{
    uint32_t value;
    CHECK_INT(bl_number_parse(text(" 255 "), 255, &value), BL_OK);
    CHECK_INT(value, 255);
    CHECK_INT(bl_number_parse(text("256"), 255, &value), BL_E_RANGE);
    CHECK_INT(bl_number_parse(text("-1"), 255, &value), BL_E_SYNTAX);
    CHECK_INT(bl_number_parse(text("1 2"), 255, &value), BL_E_SYNTAX);
}

TEST(ranges)
{
    bl_range r;
    CHECK_INT(bl_range_parse(text("$C000..$FFFF"), &r), BL_OK);
    CHECK_INT(r.first, 0xC000);
    CHECK_INT(r.count, 0x4000);
    CHECK_INT(bl_range_last(r), 0xFFFF);
    CHECK_INT(bl_range_parse(text("$0300 + 256"), &r), BL_OK);
    CHECK_INT(bl_range_last(r), 0x3FF);
    CHECK_INT(bl_range_parse(text("5"), &r), BL_OK);
    CHECK_INT(r.count, 1);
    CHECK_INT(bl_range_parse(text("0..$FFFFFFFF"), &r), BL_OK);
    CHECK_INT(r.count, 0x100000000);
    CHECK_INT(bl_range_last(r), 0xFFFFFFFF);
    CHECK_INT(bl_range_parse(text("2..1"), &r), BL_E_RANGE);
    CHECK_INT(bl_range_parse(text("2+0"), &r), BL_E_RANGE);
    CHECK_INT(bl_range_parse(text("$FFFFFFFF+2"), &r), BL_E_RANGE);
    CHECK_INT(bl_range_parse(text("1...3"), &r), BL_E_SYNTAX);
    CHECK_INT(bl_range_parse(text("1-3"), &r), BL_E_SYNTAX);
    CHECK_INT(bl_range_parse(text(""), &r), BL_E_SYNTAX);
}

TEST(ranges_meet_and_hold)
{
    for (unsigned i = 0; i < 5000; i++) {
        bl_range a = {test_below(12), test_below(6) + 1}, b = {test_below(12), test_below(6) + 1};
        bool meet = false, hold = true;
        for (uint32_t x = b.first; x < b.first + b.count; x++) {
            bool in = x >= a.first && x < a.first + a.count;
            meet |= in;
            hold &= in;
        }
        CHECK_INT(bl_range_meet(a, b), meet);
        CHECK_INT(bl_range_holds(a, b), hold);
    }
}
