/* Times, frequencies, voltages; and lines of keywords. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

#include "bootlace/quantity.h"

static bl_status parse(const char *text, bl_measure measure, const char *usual, uint64_t *value)
{
    return bl_quantity_parse((bl_text){text, strlen(text)}, measure, usual, value);
}

TEST(quantities_as_people_write_them)
{
    static const struct {
        const char *text;
        bl_measure measure;
        const char *usual;
        uint64_t value;
    } good[] = {
        {"2 MHz", BL_HERTZ, "Hz", 2000000},
        {"1.8432 MHz", BL_HERTZ, "Hz", 1843200},
        {"0.1 MHz", BL_HERTZ, "Hz", 100000},
        {"500kHz", BL_HERTZ, "Hz", 500000},
        {"  4 mhz ", BL_HERTZ, "Hz", 4000000},
        {"2000000", BL_HERTZ, "Hz", 2000000},
        {"3 s", BL_NANOSECONDS, NULL, 3000000000u},
        {"1.5 s", BL_NANOSECONDS, NULL, 1500000000u},
        {".25ms", BL_NANOSECONDS, NULL, 250000},
        {"7", BL_NANOSECONDS, "s", 7000000000u},
        {"0.0000000004 s", BL_NANOSECONDS, NULL, 0},
        {"0.0000000005 s", BL_NANOSECONDS, NULL, 1},
        {"0.123456789123456789 s", BL_NANOSECONDS, NULL, 123456789},
        {"12.5 V", BL_MILLIVOLTS, "V", 12500},
        {"300 mV", BL_MILLIVOLTS, "V", 300},
        {"9007199254740992", BL_NANOSECONDS, "ns", (uint64_t)1 << 53},
    };
    for (size_t i = 0; i < sizeof good / sizeof good[0]; i++) {
        uint64_t value = 99;
        CHECK_INT(parse(good[i].text, good[i].measure, good[i].usual, &value), BL_OK);
        CHECK_INT(value, good[i].value);
    }
}

TEST(what_is_no_quantity)
{
    uint64_t value = 99;
    CHECK_INT(parse("", BL_HERTZ, "Hz", &value), BL_E_SYNTAX);
    CHECK_INT(parse("fast", BL_HERTZ, "Hz", &value), BL_E_SYNTAX);
    CHECK_INT(parse("-1 s", BL_NANOSECONDS, "s", &value), BL_E_SYNTAX);
    CHECK_INT(parse(".", BL_NANOSECONDS, "s", &value), BL_E_SYNTAX);
    CHECK_INT(parse("nan MHz", BL_HERTZ, "Hz", &value), BL_E_SYNTAX);
    CHECK_INT(parse("1e3 Hz", BL_HERTZ, "Hz", &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("1.2.3 V", BL_MILLIVOLTS, "V", &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("0x10 ns", BL_NANOSECONDS, "ns", &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("5 GHz", BL_HERTZ, "Hz", &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("5 MHz", BL_NANOSECONDS, "ns", &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("5", BL_NANOSECONDS, NULL, &value), BL_E_NOT_FOUND);
    CHECK_INT(parse("9007199254740993", BL_NANOSECONDS, "ns", &value), BL_E_RANGE);
    CHECK_INT(parse("18446744073709551616", BL_NANOSECONDS, "ns", &value), BL_E_RANGE);
    CHECK_INT(parse("99999999999999999999.123456789012 ns", BL_NANOSECONDS, "ns", &value),
              BL_E_RANGE);
    CHECK_INT(parse("20000000 s", BL_NANOSECONDS, "ns", &value), BL_E_RANGE);
    CHECK_INT(value, 99);
}

/* Whatever is written with a point is what it is without. */
TEST(a_point_may_stand_anywhere)
{
    for (unsigned i = 0; i < 2000; i++) {
        uint64_t ns = test_random() % 1000000000, value = 0;
        char text[40];
        snprintf(text, sizeof text, "%u.%09u s", i, (unsigned)ns);
        CHECK_INT(parse(text, BL_NANOSECONDS, NULL, &value), BL_OK);
        CHECK_INT(value, i * 1000000000ull + ns);
        snprintf(text, sizeof text, "%llu.%03llu us", (unsigned long long)(ns / 1000),
                 (unsigned long long)(ns % 1000));
        CHECK_INT(parse(text, BL_NANOSECONDS, NULL, &value), BL_OK);
        CHECK_INT(value, ns);
    }
}
