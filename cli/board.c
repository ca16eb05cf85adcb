/* board.c - bootlace board run | serve. */
#include "cli.h"

#include <errno.h>
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "posix/pty.h"
#include "posix/serial.h"
#include "sim_faults.h"
#include "simulation.h"

static struct {
    char *how_long, *typed;
    gboolean power_cycle;
} options;

static const GOptionEntry run_entries[] = {
    {"for", 0, 0, G_OPTION_ARG_STRING, &options.how_long,
     "how long, in the board's own time: 7s, 250ms (default 5s)", "TIME"},
    {"type", 0, 0, G_OPTION_ARG_STRING, &options.typed,
     "type this at its terminal; \\r is the Enter key", "TEXT"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry board_entries[] = {
    {"power-cycle", 0, 0, G_OPTION_ARG_NONE, &options.power_cycle, "switch it off and on first",
     NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage run_words = {
    "board run", "Lets the simulated board run for a while and shows its lamps and what it says.",
    "  bootlace board run --for 7s\n  bootlace board run --for 1s --type '?'"};
static const usage serve_words = {
    "board serve",
    "Puts the board's serial line and the programmer on pseudo-terminals, in real time, until "
    "Control-C.",
    "  bootlace board serve &\n  bootlace send lamp.asm -p state/serial"};

/* "7s", "250ms", "1.5 s" in nanoseconds. */
static bool parse_time(const char *text, uint64_t *ns)
{
    char *end;
    double value = g_ascii_strtod(text, &end);
    while (*end == ' ')
        end++;
    double unit = strcmp(end, "ms") == 0                  ? 1e6
                  : strcmp(end, "us") == 0                ? 1e3
                  : strcmp(end, "s") == 0 || *end == '\0' ? 1e9
                                                          : 0;
    if (end == text || unit == 0 || !(value > 0) || value * unit > 3.6e12) return false;
    *ns = (uint64_t)(value * unit);
    return true;
}

/* ---- what there is to see ---- */

typedef struct watcher {
    const bench *b;
    uint64_t began;
    GString *line; /* of serial output, unfinished */
    uint64_t line_at;
    size_t changes, said;
} watcher;

static void show_latch(void *context, unsigned device, uint64_t now, uint8_t value)
{
    watcher *w = context;
    const char *name = "?";
    unsigned latches = 0;
    /* The board's devices are the bench file's that are simulated, in order. */
    for (size_t i = 0; i < w->b->device_count; i++) {
        const bench_device *d = &w->b->devices[i];
        if (d->kind != BENCH_LATCH && d != w->b->link_device) continue;
        if (latches++ == device) name = d->name;
    }
    char lamps[9];
    for (unsigned i = 0; i < 8; i++)
        lamps[i] = (value >> (7 - i) & 1) != 0 ? '*' : '.';
    lamps[8] = '\0';
    const char *on = cli_colour(stdout) && value != 0 ? "\x1b[33;1m" : "",
               *off = *on != '\0' ? "\x1b[0m" : "";
    printf("  %8.3f s  %-8s %s%s%s  $%02X\n", (double)(now - w->began) / 1e9, name, on, lamps, off,
           value);
    w->changes++;
}

static void end_line(watcher *w)
{
    if (w->line->len == 0) return;
    printf("  %8.3f s  %-8s %s\n", (double)(w->line_at - w->began) / 1e9, "says", w->line->str);
    g_string_truncate(w->line, 0);
    w->said++;
}

static void show_serial(watcher *w, uint64_t now, uint8_t byte)
{
    if (byte == '\r' || byte == '\n') {
        end_line(w);
        return;
    }
    if (w->line->len == 0) w->line_at = now;
    if (g_ascii_isprint(byte))
        g_string_append_c(w->line, (char)byte);
    else
        g_string_append_printf(w->line, "<%02X>", byte);
}

static void run_until(simulation *s, watcher *w, uint64_t end)
{
    bl_serial port = sim_line_port(&s->sim.board_line);
    while (s->sim.now < end) {
        uint8_t bytes[64];
        size_t n;
        uint64_t left = (end - s->sim.now + 999) / 1000;
        port.wait(port.context, left > 1000000 ? 1000000u : (uint32_t)left);
        port.receive(port.context, bytes, sizeof bytes, &n);
        for (size_t i = 0; i < n; i++)
            show_serial(w, s->sim.now, bytes[i]);
    }
    end_line(w);
}

/* The user's "\r" becomes a carriage return. */
static void type(simulation *s, const char *text)
{
    bl_text rest = {text, strlen(text)};
    bl_serial port = sim_line_port(&s->sim.board_line);
    while (rest.length > 0) {
        size_t used, taken;
        uint8_t code;
        if (bl_character_scan(rest, &used, &code) != BL_OK) code = (uint8_t)*rest.at, used = 1;
        port.send(port.context, &code, 1, &taken);
        rest.at += used;
        rest.length -= used;
    }
}

static int open_board(bench **b, simulation **s)
{
    int code = cli_bench(true, b);
    if (code != EXIT_GOOD) return code;
    if (given.port != NULL && strcmp(given.port, "sim") != 0) {
        bench_close(*b);
        return cli_usage("board is the simulated bench; -p can only be sim here");
    }
    if (simulation_open(*b, given.state, (uint64_t)given.seed, given.faults, &cli_sink, s) !=
        BL_OK) {
        bench_close(*b);
        return EXIT_FAILED;
    }
    if (options.power_cycle) simulation_power_off(*s);
    return EXIT_GOOD;
}

/* Where the CPU is, and what its registers hold. */
static void show_registers(const bench *b, const simulation *s, double seconds)
{
    const sim_cpu *c = &s->sim.board.cpu;
    const sim_cpu_kind *kind = s->sim.board.kind;
    printf("  %8.3f s  %s at %s ", seconds, c->rest ? "waiting" : "running", cli_address(b, c->pc));
    for (size_t i = 0; i < kind->register_count; i++) {
        const sim_register *r = &kind->registers[i];
        if (r->offset == offsetof(sim_cpu, pc)) continue;
        uint64_t value = sim_register_get(c, r);
        char *name = g_ascii_strup(r->name, -1);
        if (r->shown)
            printf(" %s %0*" G_GINT64_MODIFIER "X", name, r->bytes * 2, value);
        else if (value != 0 && strcmp(r->name, "stopped") == 0)
            printf("  %s", r->name);
        g_free(name);
    }
    printf("\n");
}

static int run(void)
{
    bench *b;
    simulation *s;
    uint64_t ns = 0;
    if (!parse_time(options.how_long != NULL ? options.how_long : "5s", &ns))
        return cli_usage("--for %s is not a time; like 7s or 250ms, at most an hour",
                         options.how_long);
    int code = open_board(&b, &s);
    if (code != EXIT_GOOD) return code;
    bool was_on = s->sim.powered;
    watcher w = {.b = b, .began = s->sim.now, .line = g_string_new(NULL)};
    s->sim.board.watch = (sim_watch){&w, show_latch};
    bl_text cpu = bl_sheet_name(b->sheet);
    char *name = g_ascii_strup(cpu.at, (gssize)cpu.length);
    printf("%s, %s at %g MHz, %s\n", b->name, name, b->clock / 1e6,
           was_on ? "still on" : "power on");
    g_free(name);
    simulation_power_on(s);
    if (options.typed != NULL) {
        run_until(s, &w, s->sim.now + (was_on ? 0 : 100u * 1000 * 1000)); /* let it come up first */
        type(s, options.typed);
    }
    run_until(s, &w, w.began + ns);
    if (w.changes + w.said == 0)
        printf("  nothing changed and nothing was said in %g s\n", (double)ns / 1e9);
    show_registers(b, s, (double)ns / 1e9);
    code = simulation_save(s, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    g_string_free(w.line, TRUE);
    simulation_close(s);
    bench_close(b);
    return code;
}

/* ---- serve ---- */

static volatile sig_atomic_t stop;

static void on_signal(int number)
{
    (void)number;
    stop = 1;
}

static void carry(posix_pty *pty, sim_line *line)
{
    bl_serial port = sim_line_port(line);
    uint8_t bytes[256];
    size_t n = posix_pty_read(pty, bytes, sizeof bytes), taken;
    if (n > 0) port.send(port.context, bytes, n, &taken);
    port.receive(port.context, bytes, sizeof bytes, &n);
    if (n > 0) posix_pty_write(pty, bytes, n);
}

/* The programmer has been at the chip; once it rests, the chip goes back and the board is switched
 * on. */
static void mind_power(simulation *s, uint32_t *strobes, uint64_t *quiet_since)
{
    uint32_t now_strobes = s->sim.socket.strobes;
    if (now_strobes != *strobes) {
        if (s->sim.powered) say("the chip is in the programmer; board off");
        simulation_power_off(s);
        *strobes = now_strobes;
        *quiet_since = s->sim.now;
    } else if (!s->sim.powered && s->sim.now - *quiet_since > 500u * 1000 * 1000 &&
               !s->sim.socket.programmer.work.busy) {
        say("the chip is back in the board; power on");
        simulation_power_on(s);
    }
}

static void serve_loop(simulation *s, posix_pty *serial, posix_pty *programmer)
{
    posix_serial clock_only = {-1};
    bl_serial clock = posix_serial_port(&clock_only);
    uint64_t wall = clock.now(clock.context), began = s->sim.now;
    uint32_t strobes = 0;
    uint64_t quiet_since = s->sim.now;
    while (!stop) {
        posix_pty_wait(serial, programmer, 2);
        carry(serial, &s->sim.board_line);
        carry(programmer, &s->sim.socket_line);
        sim_bench_run(&s->sim, began + (clock.now(clock.context) - wall) * 1000);
        carry(serial, &s->sim.board_line);
        carry(programmer, &s->sim.socket_line);
        mind_power(s, &strobes, &quiet_since);
    }
}

static char *link_to(const simulation *s, const char *name, const posix_pty *pty)
{
    char *path = g_build_filename(s->folder, name, NULL);
    unlink(path);
    if (symlink(pty->name, path) != 0) say("cannot make %s: %s", path, g_strerror(errno));
    return path;
}

static int serve(void)
{
    bench *b;
    simulation *s;
    posix_pty serial, programmer;
    int code = open_board(&b, &s);
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
        printf("serial     %s  (%s, %u baud)\nprogrammer %s  (%s, %u baud%s%s)\n", first,
               serial.name, b->link_baud, second, programmer.name, b->programmer_baud,
               b->chip_count > 0 ? ", chip " : "", b->chip_count > 0 ? b->chips[0].name : "");
        printf("serving %s; Control-C ends it\n", b->name);
        fflush(stdout);
        serve_loop(s, &serial, &programmer);
        unlink(first);
        unlink(second);
        g_free(first);
        g_free(second);
        posix_pty_close(&serial);
        posix_pty_close(&programmer);
        code = simulation_save(s, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
        say("the bench is kept in %s", s->folder);
    }
    simulation_close(s);
    bench_close(b);
    return code;
}

int command_board(int argc, char **argv)
{
    const GOptionEntry *run_tables[] = {run_entries, board_entries, bench_options, port_options,
                                        NULL};
    const GOptionEntry *serve_tables[] = {board_entries, bench_options, port_options, NULL};
    bool is_run = argc >= 2 && strcmp(argv[1], "run") == 0,
         is_serve = argc >= 2 && strcmp(argv[1], "serve") == 0;
    if (argc >= 2 && strcmp(argv[1], "--help") == 0) {
        printf("Usage: bootlace board run | serve\n\n  run    %s\n  serve  %s\n\n%s\nEach has "
               "--help. Example:\n"
               "  bootlace board run --for 7s\n",
               run_words.summary, serve_words.summary, simulation_fault_help);
        return EXIT_GOOD;
    }
    if (!is_run && !is_serve)
        return cli_usage("bootlace board run | serve; see bootlace board --help");
    argc--, argv++;
    if (!cli_parse(&argc, &argv, is_run ? &run_words : &serve_words,
                   is_run ? run_tables : serve_tables))
        return EXIT_USAGE;
    if (argc != 1) return cli_usage("board %s takes no operand", is_run ? "run" : "serve");
    return is_run ? run() : serve();
}
