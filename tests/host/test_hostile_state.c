/* State files of the simulated bench are read as what they are: somebody's files. */
#include <glib.h>
#include <stdio.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "host_support.h"

static bench *b;

static bl_status open_bench(simulation **s)
{
    test_messages_clear();
    return simulation_open(b, test_path("state"), 1, NULL, &test_sink, s);
}

/* The board as it was left, some moments after it was switched on. */
static char *leave(const char *example)
{
    simulation *s;
    test_command("rm -rf state *");
    b = example_bench_named(example);
    CHECK_INT(open_bench(&s), BL_OK);
    simulation_come_up(s);
    CHECK_INT(simulation_save(s, &test_sink), BL_OK);
    simulation_close(s);
    return g_strdup(test_read_file("state/board.ini", NULL));
}

/* With one line of the file replaced. */
static void with_line(const char *text, const char *key, const char *line)
{
    char *start = g_strdup_printf("\n%s=", key), *at = strstr(text, start);
    CHECK(at != NULL);
    const char *end = strchr(at + 1, '\n');
    char *all = g_strdup_printf("%.*s%s%s", (int)(at + 1 - text), text, line, end);
    test_write_file("state/board.ini", all);
    g_free(all);
    g_free(start);
}

static void is_refused(const char *said)
{
    simulation *s = NULL;
    bl_status status = open_bench(&s);
    if (status == BL_OK) {
        simulation_close(s);
        test_fail(__FILE__, __LINE__, "it was taken: %s", said);
    }
    CHECK_CONTAINS(test_messages(), said);
}

TEST(numbers_that_make_no_sense)
{
    static const char *const lines[][2] = {{"now", "now=9223372036854775807"},
                                           {"now", "now=18446744073709551615"},
                                           {"now", "now=1000000000000000000"},
                                           {"now", "now=soon"},
                                           {"now", "now=-5"},
                                           {"powered", "powered=2"},
                                           {"powered", "# powered"},
                                           {"pc", "pc=65536"},
                                           {"a", "a=256"},
                                           {"irq", "irq=1000"},
                                           {"status", "status="},
                                           {"free_at", "free_at=18446744073709551615"},
                                           {"count", "count=8193"},
                                           {"count", "count=4294967296"},
                                           {"shift_free", "shift_free=18446744073709551615"}};
    char *text = leave("skerry-65");
    for (size_t i = 0; i < G_N_ELEMENTS(lines); i++) {
        with_line(text, lines[i][0], lines[i][1]);
        is_refused("the state that was saved makes no sense");
        CHECK_CONTAINS(test_messages(), "remove this file");
    }
    test_write_file("state/board.ini", "[bench\nnow");
    is_refused("the state that was saved makes no sense");
    test_write_file("state/board.ini", text);
    simulation *s;
    CHECK_INT(open_bench(&s), BL_OK);
    simulation_close(s);
    g_free(text);
    bench_close(b);
}

/* Any bytes of it changed: it is refused, or the board runs. */
TEST(damaged_state_runs_or_is_refused)
{
    static const char *const boards[] = {"skerry-65", "skerry-80", "skerry-68",
                                         "thrift",    "purser",    "petrel"};
    unsigned taken = 0, refused = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        char *text = leave(boards[i]);
        size_t length = strlen(text);
        for (unsigned turn = 0; turn < 60; turn++) {
            char *damaged = g_strdup(text);
            for (unsigned k = 0; k < 4; k++)
                damaged[test_below((uint32_t)length)] = "0123456789=\n[]x"[test_below(15)];
            test_write_file("state/board.ini", damaged);
            g_free(damaged);
            simulation *s;
            if (open_bench(&s) != BL_OK) {
                refused++;
                continue;
            }
            bl_serial port = sim_line_port(&s->sim.board_line);
            size_t n;
            port.send(port.context, (const uint8_t *)"1\r0300\r", 7, &n);
            for (unsigned k = 0; k < 20; k++)
                port.wait(port.context, 1000);
            simulation_close(s);
            taken++;
        }
        g_free(text);
        bench_close(b);
    }
    CHECK(taken > 20 && refused > 20);
}

TEST(what_cannot_be_read_is_not_taken_for_new)
{
    char *text = leave("skerry-65");
    static uint8_t short_ram[100];
    simulation *s;
    CHECK_INT(remove(test_path("state/U5.bin")), 0);
    CHECK_INT(mkdir(test_path("state/U5.bin"), 0755), 0);
    is_refused("U5.bin: error: cannot be read");
    CHECK_INT(remove(test_path("state/U5.bin")), 0);
    test_write_bytes("state/U5.bin", short_ram, sizeof short_ram);
    is_refused("a 28C256 holds 32768 bytes, this file 100");
    CHECK_INT(remove(test_path("state/U5.bin")), 0);
    test_write_bytes("state/ram.bin", short_ram, sizeof short_ram);
    is_refused("this is not its memory: 100 bytes, not 65536");
    CHECK_INT(remove(test_path("state/ram.bin")), 0);
    is_refused("this is not its memory: 0 bytes");
    CHECK_INT(remove(test_path("state/board.ini")), 0);
    CHECK_INT(mkdir(test_path("state/board.ini"), 0755), 0);
    is_refused("board.ini: error: cannot be read");
    CHECK_INT(remove(test_path("state/board.ini")), 0);
    CHECK_INT(open_bench(&s), BL_OK); /* nothing there: a new one */
    simulation_close(s);
    g_free(text);
    bench_close(b);
}

/* Links of a served bench that did not end as it should are removed by whoever uses it next. */
TEST(dead_links_are_removed)
{
    char *text = leave("skerry-65");
    simulation *s, *other;
    CHECK_INT(symlink("/dev/pts/0", test_path("state/serial")), 0);
    CHECK_INT(open_bench(&s), BL_OK);
    struct stat info;
    CHECK(lstat(test_path("state/serial"), &info) != 0);
    CHECK(stat(test_path("state/lock"), &info) == 0 && (info.st_mode & 077) == 0);
    CHECK_INT(symlink("/dev/pts/0", test_path("state/serial")), 0);
    CHECK_INT(open_bench(&other), BL_E_BUSY); /* it is served: its links stay */
    CHECK(lstat(test_path("state/serial"), &info) == 0);
    simulation_close(s);
    g_free(text);
    bench_close(b);
}
