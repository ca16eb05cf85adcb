/* bootlace console --screen on a terminal of our own: keys in, what is drawn out. */
#include <fcntl.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "cli_support.h"

static int terminal;
static pid_t child;
static char drawn[1 << 16]; /* since the last look */
static size_t drawn_count;

static void begin_screen(unsigned short rows, unsigned short columns)
{
    struct winsize size = {.ws_row = rows, .ws_col = columns};
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write -q -p sim");
    terminal = posix_openpt(O_RDWR | O_NOCTTY);
    CHECK(terminal >= 0 && grantpt(terminal) == 0 && unlockpt(terminal) == 0);
    CHECK(ioctl(terminal, TIOCSWINSZ, &size) == 0);
    const char *name = ptsname(terminal);
    char command[512];
    snprintf(command, sizeof command, "%s/bootlace", test_build_folder());
    child = fork();
    if (child == 0) {
        setsid();
        int own = open(name, O_RDWR);
        ioctl(own, TIOCSCTTY, 0);
        for (int i = 0; i < 3; i++)
            dup2(own, i);
        setenv("TERM", "vt100", 1);
        if (chdir(test_path(".")) != 0) _exit(1);
        execl(command, "bootlace", "console", "-p", "sim", "--screen", (char *)NULL);
        _exit(1);
    }
    CHECK(child > 0);
}
#define begin_screen(...) TEST_CALL(begin_screen(__VA_ARGS__))

/* Reads until a text has been drawn; it must lie in one piece. */
static void see(const char *text)
{
    struct pollfd p = {.fd = terminal, .events = POLLIN};
    drawn[drawn_count] = '\0';
    while (strstr(drawn, text) == NULL) {
        ssize_t n = 0;
        if (drawn_count < sizeof drawn - 1 && poll(&p, 1, 10000) > 0)
            n = read(terminal, drawn + drawn_count, sizeof drawn - 1 - drawn_count);
        if (n <= 0) test_fail(__FILE__, __LINE__, "'%s' was not drawn, but: %s", text, drawn);
        for (ssize_t i = 0; i < n; i++)
            if (drawn[drawn_count + (size_t)i] == '\0') drawn[drawn_count + (size_t)i] = ' ';
        drawn_count += (size_t)n;
        drawn[drawn_count] = '\0';
    }
}
#define see(...) TEST_CALL(see(__VA_ARGS__))

static void type(const char *keys)
{
    drawn_count = 0;
    CHECK_INT(write(terminal, keys, strlen(keys)), (long)strlen(keys));
}
#define type(...) TEST_CALL(type(__VA_ARGS__))

static int end_screen(void)
{
    int status;
    char rest[256];
    while (read(terminal, rest, sizeof rest) > 0) /* until nobody has it open */
        ;
    close(terminal);
    CHECK_INT(waitpid(child, &status, 0), child);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

TEST(an_evening_on_the_full_screen)
{
    begin_screen(24, 80);
    see("q quit"); /* each key is there */
    type("h");
    see("the CPU stands at $");
    see("PC ");
    type(":load lamp.asm\n");
    see("Enter goes back");
    type("\n");
    see("q quit");
    type(":breakpoint light._hold\n");
    see("light._hold, light.asm:15");
    type(":run light\n");
    see("breakpoint 1");
    see("030B");
    type("w");
    see("watch:");
    type("X+1\n");
    see("1: X+1 = $01");
    type("s");
    see("030C");
    type("v");
    see("phy");
    type("\t");
    type("gcharacter\n");
    see("$0320");
    type(":put character+1 9\n");
    see("1 byte, read back");
    type(":dance\n");
    see("no word");
    type(":breakpoint drop 1\n");
    see("no breakpoints");
    type("r");
    see("runs");
    type("\x0F");
    see("stands");
    type("t");
    see("keys go to it");
    type("\x0F");
    type("?");
    see("leaves; the machine goes on");
    type(" ");
    type("q");
    CHECK_INT(end_screen(), 0);
}

TEST(a_screen_that_is_too_small_says_so_and_grows)
{
    begin_screen(10, 40);
    see("too small");
    struct winsize size = {.ws_row = 40, .ws_col = 140};
    drawn_count = 0;
    CHECK(ioctl(terminal, TIOCSWINSZ, &size) == 0);
    see("q quit");
    see("  source");
    type("h");
    see("stands at");
    see("->"); /* in both */
    type("q");
    CHECK_INT(end_screen(), 0);
    CHECK_CONTAINS(expect_code(2, "bootlace console -p sim --screen < /dev/null").err,
                   "--screen needs a terminal");
    expect_code(2, "bootlace console -p sim --screen --commands x < /dev/null");
}
