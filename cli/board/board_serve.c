/* board_serve.c - bootlace board serve: the simulated bench on pseudo-terminals, in real time. */
#include "board_commands.h"

#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "posix/pty.h"
#include "posix/serial.h"
#include "simulation/front_script.h"

static volatile sig_atomic_t stop;

static void on_signal(int number)
{
    (void)number;
    stop = 1;
}

static void carry_serial(posix_pty *pty, sim_line *line)
{
    bl_serial port = sim_line_port(line);
    uint8_t bytes[256];
    size_t n = posix_pty_read(pty, bytes, sizeof bytes), taken;
    if (n > 0) port.send(port.context, bytes, n, &taken);
    port.receive(port.context, bytes, sizeof bytes, &n);
    if (n > 0) posix_pty_write(pty, bytes, n);
}

static void mind_socket(simulation *s, simulation_rest *rest, bool off)
{
    switch (simulation_mind_socket(s, rest, off)) {
    case SIMULATION_CHIP_OUT: say("the chip is in the programmer; board off"); break;
    case SIMULATION_CHIP_BACK: say("the chip is back in the board; power on"); break;
    case SIMULATION_NO_CHANGE: break;
    }
}

/* press, release, tap and front, as in the console. False: it is another word. */
static bool obey_front(simulation *s, front_script *script, const char *line)
{
    if (strcmp(line, "front") == 0) {
        char *text = front_text(s);
        fputs(text, stdout);
        fflush(stdout);
        g_free(text);
        return true;
    }
    if (!g_str_has_prefix(line, "press ") && !g_str_has_prefix(line, "release ") &&
        !g_str_has_prefix(line, "tap "))
        return false;
    char *step = g_strdup_printf("%.3fs %s", (double)(s->sim.now - script->began) / 1e9, line);
    if (front_check(s, strchr(line, ' ') + 1, &cli_sink) == BL_OK)
        front_script_add(script, step, "typed", 0, &cli_sink);
    g_free(step);
    return true;
}

/* What is typed while serving. Somebody in the background is not asked: reading would stop him. */
static void obey_keys(simulation *s, front_script *script, bool *off)
{
    struct pollfd p = {.fd = STDIN_FILENO, .events = POLLIN};
    static bool ended;
    static char line[40];
    static size_t count;
    char c;
    bool foreground = !isatty(STDIN_FILENO) || tcgetpgrp(STDIN_FILENO) == getpgrp();
    while (!ended && foreground && poll(&p, 1, 0) > 0) {
        if (read(STDIN_FILENO, &c, 1) != 1) {
            ended = true;
        } else if (c != '\n') {
            if (count + 1 < sizeof line) line[count++] = c;
        } else {
            line[count] = '\0';
            count = 0;
            if (strcmp(line, "reset") == 0)
                say(simulation_reset(s) ? "reset; RAM is as it was" : "it is off");
            else if (strcmp(line, "off") == 0)
                simulation_power_off(s), *off = true, say("off; RAM is forgotten");
            else if (strcmp(line, "on") == 0)
                simulation_power_on(s), *off = false, say("on");
            else if (strcmp(line, "nmi") == 0)
                s->sim.board.cpu.nmi = true, say("the NMI line was pulled");
            else if (strcmp(line, "break") == 0)
                say(sim_line_break(&s->sim.board_line, SIMULATION_BREAK_NS) == BL_OK
                        ? "a break: the line is held low for 250 ms"
                        : "no break: too much is under way");
            else if (strcmp(line, "quit") == 0)
                stop = 1;
            else if (line[0] != '\0' && !obey_front(s, script, line))
                say("reset, nmi, break, off, on, quit; press, release or tap NAME; front");
        }
    }
}

/* Virtual time follows the wall clock: each turn runs the bench up to now, and no further than it
 * slept, so that a stopped process does not make the board rush. */
static void serve_loop(simulation *s, board_events *e, posix_pty *serial, posix_pty *programmer)
{
    posix_serial clock_only = {.file = -1};
    bl_serial clock = posix_serial_port(&clock_only);
    uint64_t wall = clock.now(clock.context), began = s->sim.now;
    simulation_rest rest = {s->sim.socket.steps, s->sim.now};
    bool off = false;
    front_script script;
    front_script_begin(&script, s->sim.now);
    while (!stop) {
        posix_pty_free(serial);
        posix_pty_free(programmer);
        posix_pty_wait(serial, programmer, 2);
        carry_serial(serial, &s->sim.board_line);
        carry_serial(programmer, &s->sim.socket_line);
        sim_bench_run(&s->sim, began + (clock.now(clock.context) - wall) * 1000);
        carry_serial(serial, &s->sim.board_line);
        carry_serial(programmer, &s->sim.socket_line);
        mind_socket(s, &rest, off);
        obey_keys(s, &script, &off);
        front_script_do(&script, s, &cli_sink);
        board_events_look(e);
    }
    front_script_end(&script);
}

/* A link to the terminal by way of this process: should it crash, the link leads nowhere, and not
 * to whoever gets a terminal of that number next. NULL, told: it cannot be made. */
static char *link_to(const simulation *s, const char *name, const posix_pty *pty)
{
    char *path = g_build_filename(s->folder, name, NULL);
    char *own = g_strdup_printf("/proc/%ld/fd/%d", (long)getpid(), pty->slave);
    unlink(path);
    if (symlink(access(own, F_OK) == 0 ? own : pty->name, path) != 0) {
        fail("cannot make %s: %s", path, g_strerror(errno));
        g_free(path);
        path = NULL;
    }
    g_free(own);
    return path;
}

/* The terminal is taken over only when everything else is open, and given back whatever ends the
 * loop. */
int board_serve(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b;
    simulation *s;
    board_events e;
    posix_pty serial, programmer;
    int code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    if (posix_pty_open(&serial) != BL_OK || posix_pty_open(&programmer) != BL_OK) {
        code = fail("no pseudo-terminal: %s", g_strerror(errno));
    } else {
        struct sigaction action = {.sa_handler = on_signal};
        sigaction(SIGINT, &action, NULL);
        sigaction(SIGTERM, &action, NULL);
        sigaction(SIGHUP, &action, NULL);
        char *first = link_to(s, "serial", &serial),
             *second = link_to(s, "programmer", &programmer);
        if (b->chip_count > 0) sim_bench_insert(&s->sim, 0);
        simulation_power_on(s);
        stop = first == NULL || second == NULL;
        if (stop) code = EXIT_FAILED;
        if (!stop)
            printf("serial     %s  (%s, %u baud)\nprogrammer %s  (%s, %u baud%s%s)\n", first,
                   serial.name, b->link_baud, second, programmer.name, b->programmer_baud,
                   b->chip_count > 0 ? ", chip " : "", b->chip_count > 0 ? b->chips[0].name : "");
        if (!stop) printf("serving %s; Control-C ends it\n", b->name);
        fflush(stdout);
        board_events_begin(&e, b, s, &board_show);
        serve_loop(s, &e, &serial, &programmer);
        board_events_end(&e, s);
        if (first != NULL) unlink(first);
        if (second != NULL) unlink(second);
        g_free(first);
        g_free(second);
        posix_pty_close(&serial);
        posix_pty_close(&programmer);
        say("the bench is kept in %s", s->folder);
    }
    int end = board_close(b, s);
    return code != EXIT_GOOD ? code : end;
}
