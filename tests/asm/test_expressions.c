/* Expressions, against C's own arithmetic. */
#include "asm_support.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

/* The value of an expression, through a constant. */
static int64_t value_of(const char *expression)
{
    char source[400];
    int64_t value = 0;
    snprintf(source, sizeof source, "v = %s\n", expression);
    bl_program *p = assemble(source);
    CHECK_INT(bl_program_value(p, (bl_text){"v", 1}, &value), BL_OK);
    bl_program_close(p);
    return value;
}

/* That C wants parentheses here is what is being tested. */
#pragma GCC diagnostic ignored "-Wparentheses"
#define SAME(expression) CHECK_INT(value_of(#expression), (long long)(expression))

TEST(operators_and_precedence_are_those_of_c)
{
    SAME(1 + 2 * 3);
    SAME((1 + 2) * 3);
    SAME(10 - 4 - 3);
    SAME(100 / 7 / 2);
    SAME(1 << 4 + 1);
    SAME(7 & 3 == 3);
    SAME(1 | 2 ^ 3 & 5);
    SAME(-7 / 2);
    SAME(~5 + 1);
    SAME(!0 + !7);
    SAME(1 < 2 == 1);
    SAME(5 > 3 && 2 >= 2 || 0);
    SAME(1 ? 2 : 3);
    SAME(0 ? 1 : 0 ? 2 : 3);
    SAME(- -3);
    SAME(+4 - -4);
    SAME(3 != 4);
    SAME(1 - (2 - (3 - (4 - 5))));
    CHECK_INT(value_of("17 mod 5"), 2);
    CHECK_INT(value_of("-17 mod 5"), -2);
    CHECK_INT(value_of("%101 + $A + 10q + 0x10 + 0b1 + 0o7 + 'A' + 1Fh"),
              5 + 10 + 8 + 16 + 1 + 7 + 65 + 31);
}

TEST(random_expressions_match_c)
{
    for (unsigned i = 0; i < 2000; i++) {
        int32_t a = (int32_t)test_below(2000) - 1000, b = (int32_t)test_below(2000) - 1000,
                c = (int32_t)test_below(50) + 1;
        char text[200];
        long long expected;
        switch (test_below(5)) {
        case 0:
            snprintf(text, sizeof text, "%d*(%d-%d)/%d", a, b, c, c),
                expected = (long long)a * (b - c) / c;
            break;
        case 1:
            snprintf(text, sizeof text, "(%d^%d)&%d|%d", a, b, c, a), expected = ((a ^ b) & c) | a;
            break;
        case 2:
            snprintf(text, sizeof text, "%d<%d?%d:%d+%d", a, b, a, b, c),
                expected = a < b ? a : b + c;
            break;
        case 3: snprintf(text, sizeof text, "%d - %d mod %d", a, b, c), expected = a - b % c; break;
        default:
            snprintf(text, sizeof text, "(%d>=%d)+(%d<=%d)*2", a, b, a, c),
                expected = (a >= b) + (a <= c) * 2;
            break;
        }
        if (value_of(text) != expected)
            test_fail(__FILE__, __LINE__, "%s is %lld, not %lld", text, (long long)value_of(text),
                      expected);
    }
}

TEST(bytes_of_a_value)
{
    CHECK_INT(value_of("lo($123456)"), 0x56);
    CHECK_INT(value_of("hi($123456)"), 0x34);
    CHECK_INT(value_of("bank($123456)"), 0x12);
    CHECK_INT(value_of("<$1234"), 0x34);
    CHECK_INT(value_of(">$1234"), 0x12);
    CHECK_INT(value_of("hi ( $1234 ) + 1"), 0x13);
}

TEST(a_sine_is_a_sine)
{
    for (int steps = 1; steps <= 256; steps += 17) {
        for (int i = -steps; i < 2 * steps; i++) {
            char text[80];
            double exact = 1000 * sin(2 * 3.14159265358979323846 * i / steps);
            snprintf(text, sizeof text, "sine(%d, %d, 1000)", i, steps);
            double off = (double)value_of(text) - exact;
            if (off > 0.51 || off < -0.51)
                test_fail(__FILE__, __LINE__, "%s is off by %f", text, off);
        }
    }
    CHECK_INT(value_of("sine(64, 256, 127)"), 127);
    CHECK_INT(value_of("sine(192, 256, 127)"), -127);
    refuse("v = sine(1, 0, 5)\n .byte v\n", "division by zero", NULL);
    refuse("v = sine(1, 2)\n", "sine takes three values", NULL);
}

TEST(the_cpu_can_be_asked_for)
{
    CHECK_INT(value_of("cpu(\"65C02\") + 2 * cpu(\"6502\")"), 1);
}

TEST(sixty_four_bits_wrap_and_shift_safely)
{
    CHECK_INT(value_of("$7FFFFFFFFFFFFFFF + 1"), INT64_MIN);
    CHECK_INT(value_of("1 << 63"), INT64_MIN);
    CHECK_INT(value_of("1 << 64"), 0);
    CHECK_INT(value_of("-8 >> 1"), -4);
    CHECK_INT(value_of("-1 >> 99"), -1);
    CHECK_INT(value_of("($8000000000000000) / -1"), INT64_MIN);
    CHECK_INT(value_of("($8000000000000000) mod -1"), 0);
}

TEST(here_is_the_address_of_the_statement)
{
    expect(" .org $1000\n .word here, *, $\n .byte lo(here)\nv = here\n .word v\n", 0x1000,
           "\x00\x10\x00\x10\x00\x10\x06\x07\x10", 9);
}

TEST(constants_in_any_order)
{
    expect(" .byte d, b, c\nd = b + 1\nb = c + 1\nc = 5\n", 0, "\x07\x06\x05", 3);
}

TEST(errors_in_expressions_are_marked)
{
    refuse("v = 1 / 0\n", "t.asm:1:5: error: division by zero", NULL);
    refuse(" .byte 1 mod (2-2)\n", "division by zero", NULL);
    refuse("v = v + 1\n", "defined through itself", NULL);
    refuse("d = b\nb = d\n", "defined through itself", NULL);
    refuse("v = (1 + 2\n", "t.asm:1:5: error: this parenthesis is never closed", NULL);
    refuse("v = 1 +\n", "a value is missing here", NULL);
    refuse("v = 12z\n", "t.asm:1:5: error: not a number", NULL);
    refuse("v = $10000000000000000\n", "more than 64 bits", NULL);
    refuse("v = 1 ? 2\n", "'?' without ':'", NULL);
    refuse("v = \"a\"\n", "text is not a number", NULL);
    refuse(" lda #x\n .word y\n", "LDA has no such operand", "is a register, not a value", NULL);
}

TEST(deep_nesting_ends_in_an_error)
{
    static char source[200100];
    memset(source, '(', 200000);
    memcpy(source, "v = ", 4);
    refuse(source, "nested too deeply", NULL);
    memset(source + 4, '-', 199990);
    refuse(source, "error", NULL);
}
