/* command_board.c - bootlace board run | serve | front | reset | on | off. */
#include "board_commands.h"

#include <string.h>

#include "figure/figure_front.h"
#include "simulation/cassette_file.h"
#include "simulation/front_script.h"
#include "simulation/sim_faults.h"
#include "subcommands.h"
#include "tape/sound_file.h"

static struct {
    char *how_long, *typed, *play, *record, *disk, *script, *out;
    char **taps;
    int from;
    gboolean power_cycle;
} options;

static const GOptionEntry run_entries[] = {
    {"for", 0, 0, G_OPTION_ARG_STRING, &options.how_long,
     "how long, in the board's own time: 7s, 250ms (default 5s)", "TIME"},
    {"type", 0, 0, G_OPTION_ARG_STRING, &options.typed,
     "type this at its terminal; \\r is the Enter key", "TEXT"},
    {"tap", 0, 0, G_OPTION_ARG_STRING_ARRAY, &options.taps,
     "tap a button or a key at a time: \"0.5s go\", \"1s keys 5\"; as often as needed", "STEP"},
    {"script", 0, 0, G_OPTION_ARG_FILENAME, &options.script,
     "what somebody does at its front, a line each: 0.5s press go (docs/front.md)", "FILE"},
    {"play", 0, 0, G_OPTION_ARG_FILENAME, &options.play,
     "a recording that the recorder at its cassette input plays meanwhile", "TAPE"},
    {"from", 0, 0, G_OPTION_ARG_INT, &options.from, "where that is wound to before (default 0)",
     "SECONDS"},
    {"record", 0, 0, G_OPTION_ARG_FILENAME, &options.record, "record what its cassette output says",
     "TAPE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry board_entries[] = {
    {"disk", 0, 0, G_OPTION_ARG_FILENAME, &options.disk,
     "put a copy of this disk into its drive, and switch it on anew", "DISK"},
    {"power-cycle", 0, 0, G_OPTION_ARG_NONE, &options.power_cycle, "switch it off and on first",
     NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* "7s", "250ms", "1.5 s" in nanoseconds; an hour at most. */
static bool parse_duration(const char *text, uint64_t *ns)
{
    const uint64_t hour = 3600000000000u;
    bl_text written = {text, strlen(text)};
    return bl_quantity_parse(written, BL_NANOSECONDS, "s", ns) == BL_OK && *ns > 0 && *ns <= hour;
}

/* Up to a moment; what shows something is looked at often, what a script says is done when it is
 * due. */
static bl_status run_until(simulation *s, board_events *e, front_script *script, uint64_t end)
{
    bl_serial port = sim_line_port(&s->sim.board_line);
    bl_status status = BL_OK;
    uint64_t most = board_events_looks(e) ? BOARD_LOOK_NS : 1000000000u;
    while (s->sim.now < end) {
        uint8_t bytes[64];
        size_t n;
        bl_status its = front_script_do(script, s, &cli_sink);
        if (status == BL_OK) status = its;
        uint64_t until = front_script_due(script), left = end - s->sim.now;
        if (until - s->sim.now < left) left = until - s->sim.now;
        if (left > most) left = most;
        port.wait(port.context, (uint32_t)((left + 999) / 1000));
        port.receive(port.context, bytes, sizeof bytes, &n);
        for (size_t i = 0; i < n; i++)
            board_events_byte(e, s->sim.now, bytes[i]);
        board_events_look(e);
    }
    return status;
}

/* "0.5s go", "0.5 s keys 5" as a step of a script; free with g_free. */
static char *tap_step(const char *tap)
{
    static const char *const units[] = {"s ", "ms ", "us "};
    size_t n = strspn(tap, "0123456789.");
    size_t at = n + strspn(tap + n, " ");
    for (size_t i = 0; i < G_N_ELEMENTS(units); i++)
        if (g_str_has_prefix(tap + at, units[i])) at += strlen(units[i]);
    return n > 0 ? g_strdup_printf("%.*s tap %s", (int)at, tap, tap + at) : g_strdup(tap);
}

/* Steps of --tap and --script. */
static bl_status read_steps(front_script *f, const simulation *s)
{
    bl_status status = BL_OK;
    front_script_begin(f, s->sim.now);
    if (options.script != NULL) status = front_script_read(f, options.script, &cli_sink);
    for (char **tap = options.taps; tap != NULL && *tap != NULL; tap++) {
        char *line = tap_step(*tap);
        bl_status its = front_script_add(f, line, "--tap", 0, &cli_sink);
        if (status == BL_OK) status = its;
        g_free(line);
    }
    return status == BL_OK ? front_script_check(f, s, &cli_sink) : status;
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

/* All commands of the board begin alike. */
int board_open(bench **b, simulation **s)
{
    int code = cli_bench(true, b);
    if (code != EXIT_GOOD) return code;
    if (given.port != NULL && strcmp(given.port, "sim") != 0) {
        bench_close(*b);
        return cli_usage("board is the simulated bench; -p can only be sim here");
    }
    if (simulation_check_cpu(*b, &cli_sink) != BL_OK) {
        bench_close(*b);
        return EXIT_FAILED;
    }
    if (simulation_open(*b, given.state, (uint64_t)given.seed, given.faults, &cli_sink, s) !=
        BL_OK) {
        bench_close(*b);
        return EXIT_FAILED;
    }
    if (options.power_cycle) simulation_power_off(*s);
    if (options.disk == NULL || simulation_insert_disk(*s, options.disk, &cli_sink) == BL_OK)
        return EXIT_GOOD;
    simulation_close(*s);
    bench_close(*b);
    return EXIT_FAILED;
}

/* Where the CPU is, and what its registers hold. */
static void show_registers(const bench *b, const simulation *s, double seconds)
{
    const sim_cpu *c = &s->sim.board.cpu;
    const sim_cpu_kind *kind = s->sim.board.kind;
    uint64_t pc = c->pc;
    for (size_t i = 0; i < kind->register_count; i++)
        if (strcmp(kind->registers[i].name, "pc") == 0)
            pc = sim_register_get(c, &kind->registers[i]);
    int column = printf("  %8.3f s  %s at %s ", seconds, c->rest ? "waiting" : "running",
                        cli_address(b, (uint32_t)pc));
    for (size_t i = 0; i < kind->register_count; i++) {
        const sim_register *r = &kind->registers[i];
        if (strcmp(r->name, "pc") == 0) continue;
        uint64_t value = sim_register_get(c, r);
        char *name = g_ascii_strup(r->name, -1);
        if (r->shown && column > 100) column = printf("\n%13s", "") - 1;
        if (r->shown)
            column += printf(" %s %0*" G_GINT64_MODIFIER "X", name,
                             r->bytes == 4 ? 6 : r->bytes * 2, value);
        else if (value != 0 && strcmp(r->name, "stopped") == 0)
            printf("  %s", r->name);
        g_free(name);
    }
    printf("\n");
}

int board_close(bench *b, simulation *s)
{
    int code = simulation_save(s, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    simulation_close(s);
    bench_close(b);
    return code;
}

static int check_recorder(void)
{
    if (options.play != NULL && options.record != NULL)
        return cli_usage("--play or --record: there is one recorder, and one of its cords is in");
    if (options.from < 0 || (options.from > 0 && options.play == NULL))
        return cli_usage("--from goes with --play, and is a number of seconds");
    if (options.record != NULL && sound_type_of(options.record) == SOUND_NONE)
        return cli_usage("--record %s: a recording ends in .wav or .flac", options.record);
    return EXIT_GOOD;
}

/* Typed text goes in before time passes; what is saved in the end is the board as it stands then.
 */
static int run_board(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b = NULL;
    simulation *s = NULL;
    board_events e;
    cassette_file recorder;
    uint64_t ns = 0;
    if (!parse_duration(options.how_long != NULL ? options.how_long : "5s", &ns))
        return cli_usage("--for %s is not a time; like 7s or 250ms, at most an hour",
                         options.how_long);
    int code = check_recorder();
    if (code == EXIT_GOOD) code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    front_script script;
    bl_status done = read_steps(&script, s);
    bool recorder_runs = options.play != NULL || options.record != NULL;
    if (done != BL_OK ||
        (recorder_runs &&
         cassette_file_begin(&recorder, s, options.play, (uint32_t)options.from,
                             (uint32_t)(ns / 1000000000) + 2, &cli_sink) != BL_OK)) {
        front_script_end(&script);
        simulation_close(s);
        bench_close(b);
        return EXIT_FAILED;
    }
    bool was_on = s->sim.powered;
    bl_text cpu = bl_sheet_name(b->sheet);
    char *name = g_ascii_strup(cpu.at, (gssize)cpu.length);
    printf("%s, %s at %g MHz, %s\n", b->name, name, b->clock / 1e6,
           was_on ? "still on" : "power on");
    g_free(name);
    simulation_power_on(s);
    board_events_begin(&e, b, s, &board_show);
    if (options.typed != NULL) {
        done = run_until(s, &e, &script,
                         s->sim.now + (was_on ? 0 : 100u * 1000 * 1000)); /* it comes up first */
        type(s, options.typed);
    }
    bl_status later = run_until(s, &e, &script, e.began + ns);
    if (done == BL_OK) done = later;
    front_script_let_go(&script, s, &cli_sink);
    board_events_flush(&e);
    front_script_end(&script);
    if (e.count == 0) printf("  nothing changed and nothing was said in %g s\n", (double)ns / 1e9);
    show_registers(b, s, (double)ns / 1e9);
    board_events_end(&e, s);
    bl_status kept = BL_OK;
    if (recorder_runs) kept = cassette_file_end(&recorder, s, options.record, &cli_sink);
    code = board_close(b, s);
    return kept == BL_OK && done == BL_OK ? code : EXIT_FAILED;
}

/* ---- its front ---- */

/* As it is now: text, or a picture. */
static int front(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b = NULL;
    simulation *s = NULL;
    int code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    if (options.out != NULL) {
        code = figure_front(s, options.out, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
        if (code == EXIT_GOOD) say("%s: the front of %s", options.out, b->name);
    } else {
        char *text = front_text(s);
        printf("%s, %s after %.3f s\n%s", b->name, s->sim.powered ? "on" : "off",
               (double)s->sim.now / 1e9, text);
        if (*text == '\0') printf("  no lamps, displays, buttons or keys\n");
        g_free(text);
    }
    int end = board_close(b, s);
    return code != EXIT_GOOD ? code : end;
}

/* ---- its switches ---- */

static int on(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b = NULL;
    simulation *s = NULL;
    int code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    bool was_on = s->sim.powered;
    if (!was_on) simulation_come_up(s); /* it greets now, not when something is sent to it */
    say("%s %s", b->name, was_on ? "is on already" : "is on");
    return board_close(b, s);
}

static int off(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b = NULL;
    simulation *s = NULL;
    int code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    say("%s %s", b->name, s->sim.powered ? "is off; RAM is forgotten" : "is off already");
    simulation_power_off(s);
    return board_close(b, s);
}

static int reset_board(int argc, char **argv)
{
    (void)argc, (void)argv;
    bench *b = NULL;
    simulation *s = NULL;
    int code = board_open(&b, &s);
    if (code != EXIT_GOOD) return code;
    if (simulation_reset(s))
        say("%s was reset; RAM is as it was", b->name);
    else
        code = fail("%s is off: bootlace board on", b->name);
    int end = board_close(b, s);
    return code != EXIT_GOOD ? code : end;
}

/* ---- the command ---- */

static const GOptionEntry *const run_tables[] = {run_entries, board_entries, bench_options,
                                                 port_options, NULL};
static const GOptionEntry *const serve_tables[] = {board_entries, bench_options, port_options,
                                                   NULL};
static const GOptionEntry front_entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &options.out, "a picture: .png, .svg or .pdf",
     "FILE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry *const front_tables[] = {front_entries, bench_options, port_options,
                                                   NULL};
static const GOptionEntry *const switch_tables[] = {bench_options, port_options, NULL};

static const subcommand run_row = {
    .name = "run",
    .words = {"board run",
              "Lets the simulated board run for a while and shows its lamps and what it says.",
              "  bootlace board run --for 7s\n  bootlace board run --for 1s --type '?'"},
    .tables = run_tables,
    .run = run_board,
    .bare = true,
};
static const subcommand serve_row = {
    .name = "serve",
    .words =
        {"board serve",
         "Puts the board's serial line and the programmer on pseudo-terminals, in real time, until "
         "Control-C. Its lamps are shown. 'reset', 'nmi', 'break', 'off', 'on' and 'quit' can be "
         "typed.",
         "  bootlace board serve &\n  bootlace send lamp.asm -p state/serial"},
    .tables = serve_tables,
    .run = board_serve,
    .bare = true,
};
static const subcommand front_row = {
    .name = "front",
    .words = {"board front",
              "Shows what the simulated board's lamps, displays and keys show now; -o draws it.",
              "  bootlace board front\n  bootlace board front -o front.png"},
    .tables = front_tables,
    .run = front,
    .bare = true,
};
static const subcommand reset_row = {
    .name = "reset",
    .words = {"board reset",
              "Pulls the simulated board's reset line: the CPU begins anew, RAM stays.",
              "  bootlace board reset"},
    .tables = switch_tables,
    .run = reset_board,
    .bare = true,
};
static const subcommand on_row = {
    .name = "on",
    .words = {"board on", "Switches the simulated board on.", "  bootlace board on"},
    .tables = switch_tables,
    .run = on,
    .bare = true,
};
static const subcommand off_row = {
    .name = "off",
    .words = {"board off", "Switches the simulated board off; RAM is forgotten.",
              "  bootlace board off"},
    .tables = switch_tables,
    .run = off,
    .bare = true,
};

int command_board(int argc, char **argv)
{
    static const subcommand *const all[] = {&run_row, &serve_row, &front_row, &reset_row,
                                            &on_row,  &off_row,   NULL};
    char *help = simulation_fault_help();
    const subcommands s = {"board", all, help, "bootlace board run --for 7s"};
    int code = cli_run_subcommand(&s, argc, argv);
    g_free(help);
    return code;
}
