/* peer_cases.c - cases that go wrong, for the test of the harness. */
#include <stdlib.h>

#include "harness.h"

static void look(int number)
{
    CHECK_INT(number, 1);
}
#define look(...) TEST_CALL(look(__VA_ARGS__))

static int twice(int number)
{
    look(number);
    return 2 * number;
}
#define twice(...) TEST_VALUE(twice(__VA_ARGS__))

TEST(good_case)
{
    CHECK_INT(twice(1), 2);
}

TEST(helper_fails)
{
    look(1);
    CHECK_INT(twice(5), 10);
}

TEST(case_crashes)
{
    abort();
}

TEST(case_after_the_crash)
{
    look(1);
}
