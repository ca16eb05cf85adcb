/* The front of the simulated board through the command: what is shown, touched, drawn. */
#include <stdio.h>
#include <string.h>

#include "cli_support.h"

static void burned(void)
{
    copy_example_named("skerry-gauge");
    expect_code(0, "bootlace build");
    expect_code(0, "bootlace chip write U3 -p sim");
}

TEST(a_display_and_buttons)
{
    burned();
    test_run r = expect_code(0, "bootlace board run --for 2s --tap '1s up' --tap '1.5 s up'");
    CHECK_CONTAINS(r.out,
                   " glass    |Tide 0.0m       |\n                       |                |\n");
    CHECK_CONTAINS(r.out, "  up       pressed\n");
    CHECK_CONTAINS(r.out, " glass    |Tide 0.2m       |\n");
    CHECK_CONTAINS(expect_code(0, "bootlace board front").out,
                   "  glass      |Tide 0.2m       |\n             |                |\n");
    r = expect_code(0, "bootlace board run --for 0.5s --tap '0.1s down'");
    CHECK_CONTAINS(r.out, "|Tide 0.1m       |");
    CHECK(strstr(r.out, "Eyelet") == NULL); /* the reset button was not touched */
    r = expect_code(0, "bootlace board run --for 1s --tap '0.1s reset'");
    CHECK_CONTAINS(r.out, "says     Eyelet 1 for the 65C02");
    CHECK_CONTAINS(r.out, "|Tide 0.0m       |");
}

TEST(a_script_at_the_front)
{
    burned();
    test_write_file("steps.txt", "# up to the warning\n0.5s press up\n0.7s release up\n"
                                 "\t0.9 s\ttap up # once more\n1.2s picture quay.png\n");
    test_run r = expect_code(0, "bootlace board run --for 1.5s --script steps.txt");
    CHECK_CONTAINS(r.out, "|Tide 0.2m       |");
    size_t n;
    const char *picture = test_read_file("quay.png", &n);
    CHECK(n > 1000 && memcmp(picture, "\x89PNG", 4) == 0);
    expect_code(0, "bootlace board front -o front.svg");
    CHECK_CONTAINS(test_read_file("front.svg", &n), "<svg");
    test_write_file("steps.txt", "0.5s press up\nsoon press up\n0.7s lift up\n");
    r = expect_code(1, "bootlace board run --for 1s --script steps.txt");
    CHECK_CONTAINS(r.err, "steps.txt:2: error: 'soon press up' is no step");
    CHECK_CONTAINS(r.err, "steps.txt:3: error: '0.7s lift up' is no step");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --tap '1s bell'").err,
                   "nothing can be pressed that is called 'bell'");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --tap '1s up 5'").err,
                   "parts that can be pressed: up down reset");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --tap up").err, "'up' is no step");
    CHECK_CONTAINS(expect_code(1, "bootlace board run --script none.txt").err, "no such file");
    r = expect_code(0, "bootlace board run --for 0.2s --tap '5s up' --tap '0.15s down'");
    CHECK_CONTAINS(r.err, "'press up' was due at 5000 ms, when the run was over: it was not done");
    CHECK(strstr(r.err, "down") == NULL);
    CHECK_CONTAINS(expect_code(1, "bootlace board front -o front.txt").err,
                   "a picture ends in .png, .svg or .pdf");
}

TEST(the_front_in_the_console)
{
    burned();
    expect_code(0, "bootlace board run --for 0.5s");
    test_write_file("words.txt", "tap up\npress up\nfront\nrelease up\nfront f.png\n");
    test_run r = expect_code(0, "bootlace console -p sim --commands words.txt");
    CHECK_CONTAINS(r.out, "  glass      |Tide 0.1m       |\n");
    CHECK_CONTAINS(r.out, "  up         pressed\n");
    CHECK_CONTAINS(expect_code(0, "bootlace board front").out, "|Tide 0.2m       |");
    size_t n;
    test_read_file("f.png", &n);
    CHECK(n > 1000);
    test_write_file("words.txt", "tap bell\n");
    CHECK_CONTAINS(expect_code(1, "bootlace console -p sim --commands words.txt").err,
                   "nothing can be pressed that is called 'bell'");
}

/* What stands at the front is kept from command to command; a tap is let go when the run ends. */
TEST(a_tap_when_the_run_ends)
{
    burned();
    expect_code(0, "bootlace board run --for 0.5s");
    expect_code(0, "bootlace board run --for 0.15s --tap '0.1s up'");
    CHECK_CONTAINS(expect_code(0, "bootlace board front").out, "  up         released\n");
    test_run r = expect_code(0, "bootlace board run --for 0.5s");
    CHECK_CONTAINS(r.out, "|Tide 0.1m       |");
    test_write_file("steps.txt", "0.1s press up\n");
    expect_code(0, "bootlace board run --for 0.15s --script steps.txt");
    CHECK_CONTAINS(expect_code(0, "bootlace board front").out, "  up         pressed\n");
}
