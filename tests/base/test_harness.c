/* The harness itself: what is run, what is told, and that a crash ends one case alone. */
#include "harness.h"

TEST(a_crash_ends_its_case_and_not_the_suite)
{
    test_run r = test_command("peer-cases 2>&1");
    CHECK_INT(r.code, 1);
    CHECK_CONTAINS(r.out, "2 passed, 2 failed");
    CHECK_CONTAINS(r.out, "crashed: Aborted");
    CHECK_CONTAINS(r.out, "FAILED case_crashes");
    CHECK_NOT_CONTAINS(r.out, "FAILED case_after_the_crash");
}

TEST(a_failing_helper_tells_its_callers)
{
    test_run r = test_command("peer-cases helper_fails 2>&1");
    CHECK_INT(r.code, 1);
    CHECK_CONTAINS(r.out, "peer_cases.c:8: number is 5 ($5), expected 1 ($1)\n  called from ");
    CHECK_CONTAINS(r.out, "peer_cases.c:14\n  called from ");
    CHECK_CONTAINS(r.out, "peer_cases.c:27\nFAILED helper_fails");
}

TEST(cases_are_chosen_by_patterns)
{
    test_run r = test_command("peer-cases 'case_*' 'g*' 2>&1");
    CHECK_CONTAINS(r.out, "2 passed, 1 failed");
    r = test_command("peer-cases 'nothing*'");
    CHECK_INT(r.code, 1); /* a misspelt name is no success */
    CHECK_CONTAINS(r.out, "0 passed, 0 failed");
    r = test_command("peer-cases --here good_case");
    CHECK_INT(r.code, 0);
    r = test_command("peer-cases --part 1/2 2>&1");
    CHECK_CONTAINS(r.out, "1 passed, 1 failed"); /* of 2 and 2 */
    r = test_command("peer-cases --part 2/2 2>&1");
    CHECK_CONTAINS(r.out, "1 passed, 1 failed");
    CHECK_INT(test_command("peer-cases --part 3/2 2>&1").code, 2);
    r = test_command("peer-cases --list");
    CHECK_CONTAINS(r.out, "good_case\nhelper_fails\n");
}
