/* What there is to see of a board, in order; and its chip that somebody takes out while it is
 * served. */
#include <string.h>

#include "host_support.h"
#include "simulation/board_events.h"

static bench *b;
static simulation *s;
static GString *seen;

static void tell(void *context, const board_event *e)
{
    (void)context;
    if (e->name != NULL)
        g_string_append_printf(seen, "%s=%02X\n", e->name, e->lamps);
    else
        g_string_append_printf(seen, "\"%s\"\n", e->text);
}

static void set_up(void)
{
    b = example_bench();
    seen = g_string_new(NULL);
    CHECK_INT(simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s), BL_OK);
}

static void tear_down(void)
{
    simulation_close(s);
    bench_close(b);
    g_string_free(seen, TRUE);
}

static void lamps(uint8_t value)
{
    const sim_watch *w = &s->sim.board.watch;
    for (unsigned i = 0; i < s->sim.board.device_count; i++)
        if (s->sim.board.devices[i].kind->lamps != NULL) w->lamps(w->context, i, s->sim.now, value);
}

static void say(board_events *e, const char *text)
{
    for (; *text != '\0'; text++)
        board_events_byte(e, s->sim.now, (uint8_t)*text);
}

TEST(lamps_wait_until_a_line_is_complete)
{
    board_events e;
    const board_watcher watcher = {NULL, tell, NULL};
    set_up();
    board_events_begin(&e, b, s, &watcher);
    CHECK_TEXT(seen->str, "lamps=00\n");
    g_string_truncate(seen, 0);
    lamps(0x81);
    CHECK_TEXT(seen->str, "lamps=81\n");
    say(&e, "tide\a");
    lamps(0x42);
    CHECK_TEXT(seen->str, "lamps=81\n");
    say(&e, "\r\nfog");
    CHECK_TEXT(seen->str, "lamps=81\n\"tide<07>\"\nlamps=42\n");
    board_events_end(&e, s);
    CHECK_TEXT(seen->str, "lamps=81\n\"tide<07>\"\nlamps=42\n\"fog\"\n");
    tear_down();
}

TEST(a_served_board_is_off_while_its_chip_is_in_the_programmer)
{
    set_up();
    simulation_power_on(s);
    simulation_rest rest = {s->sim.socket.steps, s->sim.now};
    CHECK_INT(simulation_mind_socket(s, &rest, false), SIMULATION_NO_CHANGE);
    s->sim.socket.steps++;
    CHECK_INT(simulation_mind_socket(s, &rest, false), SIMULATION_CHIP_OUT);
    CHECK(!s->sim.powered);
    sim_bench_run(&s->sim, s->sim.now + 400u * 1000 * 1000);
    CHECK_INT(simulation_mind_socket(s, &rest, false), SIMULATION_NO_CHANGE);
    sim_bench_run(&s->sim, s->sim.now + 200u * 1000 * 1000);
    CHECK_INT(simulation_mind_socket(s, &rest, true), SIMULATION_NO_CHANGE); /* off by hand */
    CHECK_INT(simulation_mind_socket(s, &rest, false), SIMULATION_CHIP_BACK);
    CHECK(s->sim.powered);
    tear_down();
}
