/* command_panel.c - bootlace panel. */
#include <string.h>

#include "figure/figure_lines.h"
#include "project/sheets.h"
#include "sim/sim_panel.h"
#include "simulation/simulation.h"
#include "upload/payload.h"
#include "where.h"

static struct {
    char *at, *cpu, *range, *have, *have_at;
    int group;
    gboolean enter, examine, run, typed;
    int steps;
} options;

static const GOptionEntry entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {"cpu", 'c', 0, G_OPTION_ARG_STRING, &options.cpu,
     "whose addresses and words (default the bench file's)", "CPU"},
    {"range", 'r', 0, G_OPTION_ARG_STRING, &options.range,
     "only this part: FIRST..LAST or FIRST+COUNT", "RANGE"},
    {"have", 0, 0, G_OPTION_ARG_FILENAME, &options.have,
     "an image of what is there already: list only what differs", "FILE"},
    {"have-at", 0, 0, G_OPTION_ARG_STRING, &options.have_at,
     "where that begins, when it is a raw binary", "ADDRESS"},
    {"group", 0, 0, G_OPTION_ARG_INT, &options.group,
     "switches in a group: 3 or 4 (default by the radix)", "N"},
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "a file instead of the terminal: PDF, PNG or SVG by the ending, else text", "FILE"},
    {"enter", 0, 0, G_OPTION_ARG_NONE, &options.enter,
     "toggle it in at the simulated board's panel, and read it back from the lamps", NULL},
    {"examine", 0, 0, G_OPTION_ARG_NONE, &options.examine,
     "toggle nothing in: examine what is there, and compare the lamps", NULL},
    {"steps", 0, 0, G_OPTION_ARG_INT, &options.steps,
     "after --enter or --examine: so many single steps from its entry, as the lamps show them",
     "N"},
    {"run", 0, 0, G_OPTION_ARG_NONE, &options.run, "after --enter or --typed: start it", NULL},
    {"typed", 0, 0, G_OPTION_ARG_NONE, &options.typed,
     "instead: the commands to type into the monitor that the bench file's dialogue describes",
     NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {
    "panel [SOURCE-or-IMAGE]",
    "Prints a switch sheet: an image for hand entry at a front panel or a keypad, with a sum after "
    "every 16.",
    "  bootlace panel lamp.asm\n  bootlace panel boot.hex -c gannet\n"
    "  bootlace panel lamp.asm --have back.hex -o sheet.pdf\n"
    "  bootlace panel lamp.asm --enter --run\n"
    "  bootlace panel lamp.asm --enter --steps 4"};

typedef struct work {
    bench *b;
    bl_sheet *own; /* of -c */
    payload load;
    bl_image *have;
    bl_panel panel;
    char *name;
} work;

static void work_end(work *k)
{
    bl_image_close(k->have);
    payload_end(&k->load);
    bl_sheet_close(k->own);
    bench_close(k->b);
    g_free(k->name);
}

/* What is to be entered, and whose addresses those are. */
static int load_payload(work *k, const char *operand)
{
    bool image = operand != NULL && payload_is_image(operand, options.at);
    int code = cli_bench(!image, &k->b);
    if (code != EXIT_GOOD) return code;
    k->name = operand != NULL ? g_strdup(operand) : only_ram_piece(k->b);
    if (k->name == NULL)
        return cli_usage("no source or image given, and the bench file does not build exactly one "
                         "piece for RAM");
    if (options.cpu != NULL && host_sheet_open(options.cpu, NULL, &cli_sink, &k->own) != BL_OK)
        return EXIT_FAILED;
    k->panel.sheet = k->own != NULL ? k->own : k->b != NULL ? k->b->sheet : NULL;
    k->panel.radix = k->b != NULL             ? k->b->radix
                     : k->panel.sheet != NULL ? bl_sheet_radix(k->panel.sheet)
                                              : BL_HEX;
    code = payload_begin(k->b, k->name, options.at, NULL, &k->load);
    if (code == EXIT_GOOD && options.have != NULL)
        code = cli_read_image(k->b, options.have, options.have_at, &k->have);
    k->panel.image = k->load.image;
    k->panel.have = k->have;
    return code;
}

/* Options that would be passed over silently are refused instead. */
static int check_options(work *k)
{
    const bl_dialogue *d = k->b != NULL ? k->b->link_dialogue : NULL;
    const char *const none[] = {NULL}; /* what was read is known */
    if (cli_check_outputs(&(cli_output){"-o", given.out}, 1, none) != EXIT_GOOD) return EXIT_USAGE;
    if (options.typed &&
        (options.enter || options.examine || options.have != NULL || options.range != NULL))
        return cli_usage("--typed goes with none of --enter, --examine, --have and -r");
    if (options.typed && (d == NULL || d->write[0] == '\0'))
        return cli_usage("--typed needs a dialogue with 'write' in the bench file's link: what is "
                         "typed there?");
    if (options.typed && options.run && d->start[0] == '\0')
        return cli_usage("--run: the dialogue has no 'start'");
    if (options.range != NULL && where_range(&(places){.b = k->b, .count = PLACES_UNITS}, "-r",
                                             options.range, &k->panel.range) != EXIT_GOOD)
        return EXIT_USAGE;
    if (options.group != 0 && options.group != 3 && options.group != 4)
        return cli_usage("--group %d: switches stand in groups of 3 or 4", options.group);
    k->panel.group = options.group != 0           ? (unsigned)options.group
                     : k->panel.radix == BL_OCTAL ? 3
                                                  : 4;
    return EXIT_GOOD;
}

static bl_status write_sheet(const work *k, const bl_writer *writer, const bl_panel_count *look)
{
    bl_panel_count count;
    char *base = g_path_get_basename(k->name);
    bl_status status = bl_print(writer,
                                "Switch sheet: %s%s%s, %lu to enter\n* up, . down; groups of %u "
                                "from the right\n\n",
                                base, k->b != NULL ? " for " : "", k->b != NULL ? k->b->name : "",
                                (unsigned long)look->listed, k->panel.group);
    g_free(base);
    return status == BL_OK ? bl_panel_write(&k->panel, writer, &count) : status;
}

/* The same as deposit commands, a line each. */
static bl_status write_script(const work *k, const bl_writer *writer, const bl_panel_count *look)
{
    uint32_t entry = 0;
    size_t count = bl_image_pieces(k->panel.image);
    bl_status status = BL_OK;
    (void)look;
    bl_image_entry(k->panel.image, &entry);
    for (size_t i = 0; i < count && status == BL_OK; i++) {
        bl_piece p = bl_image_piece(k->panel.image, i);
        bool start = options.run && i + 1 == count;
        status = bl_dialogue_script(k->b->link_dialogue, &p, start, entry, writer);
    }
    return status;
}

static int cannot_write_sheet(bl_status status)
{
    if (status == BL_E_RANGE)
        return fail("a command gets longer than %d characters, or a piece ends within a word; make "
                    "the dialogue's 'write-block' smaller",
                    BL_DIALOGUE_LINE);
    return fail("cannot write the sheet: %s", bl_status_text(status));
}

/* The sheet is whole before the file is touched; a picture's type follows from its ending. */
static int put_sheet(const work *k, const bl_panel_count *look)
{
    host_output out;
    bl_writer writer;
    bl_status (*write)(const work *, const bl_writer *, const bl_panel_count *) =
        options.typed ? write_script : write_sheet;
    if (given.out == NULL || strcmp(given.out, "-") == 0) {
        bl_status status = write(k, &cli_out, look);
        return status == BL_OK ? EXIT_GOOD : cannot_write_sheet(status);
    }
    host_output_begin(&out, &writer);
    bl_status status = write(k, &writer, look);
    if (status != BL_OK) {
        host_output_drop(&out);
        return cannot_write_sheet(status);
    }
    if (figure_type_of(given.out) != FIGURE_NONE) {
        status = figure_lines(host_output_text(&out), given.out, &cli_sink);
        host_output_drop(&out);
    } else {
        status = host_output_end(&out, given.out, &cli_sink);
    }
    if (status != BL_OK) return EXIT_FAILED;
    say("%s: %lu to enter", given.out, (unsigned long)look->listed);
    return EXIT_GOOD;
}

/* ---- toggled in ---- */

static int tell_entry(const work *k, bl_status status, const bl_panel_entry *e)
{
    char name[300];
    if (status == BL_OK) {
        if (options.enter)
            printf("%lu toggled in with %lu key presses\n", (unsigned long)e->deposited,
                   (unsigned long)e->presses);
        printf("%s the lamps show all %lu as they should be\n", cli_verified(),
               (unsigned long)e->read_back);
        return EXIT_GOOD;
    }
    if (status != BL_E_DIFFERS) return fail("the machine does not stop");
    whereis_describe(&k->load.names, e->where, name, sizeof name);
    return fail(
        "the lamps differ at %lu of %lu addresses; first at %s: expected %02lX, found %02lX  "
        "%s\n  is that address RAM?",
        (unsigned long)e->wrong, (unsigned long)e->read_back,
        cli_offset(k->b, e->where), /* in units, as the lamps */
        (unsigned long)e->expected, (unsigned long)e->found, name);
}

/* What the lamps show after each of some single steps. */
static void tell_steps(const work *k, const bl_front_panel *port, uint32_t start)
{
    char name[300];
    uint32_t at = start;
    for (int i = 0; i < options.steps; i++) {
        bl_panel_lamps lamps = bl_panel_step(port, at);
        at = lamps.address;
        whereis_describe(&k->load.names, at, name, sizeof name);
        printf("step %d: the lamps show %s  %02lX  %s\n", i + 1, cli_offset(k->b, at),
               (unsigned long)lamps.data, name);
    }
}

/* Toggled in through the same port.h functions that a real panel would have, and read back by its
 * lamps. */
static int enter_at_panel(const work *k)
{
    simulation *s;
    sim_panel at;
    bl_panel_entry entry;
    uint32_t start = 0;
    const char *what = options.enter ? "--enter" : "--examine";
    if (k->b == NULL) return cli_usage("%s needs a bench file (-b)", what);
    if (given.port != NULL && strcmp(given.port, "sim") != 0)
        return cli_usage("%s is for the simulated board (-p sim)", what);
    if (given.port == NULL) say("at the simulated front panel (-p sim)");
    bool starts = options.run || options.steps > 0;
    if (starts && !bl_image_entry(k->panel.image, &start))
        return fail("%s: %s needs an entry point; use .entry in the source", k->name,
                    options.run ? "--run" : "--steps");
    if (simulation_open(k->b, given.state, (uint64_t)given.seed, given.faults, &cli_sink, &s) !=
        BL_OK)
        return EXIT_FAILED;
    simulation_power_on(s);
    sim_panel_begin(&at, &s->sim.board);
    bl_front_panel port = sim_panel_port(&at);
    bl_status status = options.enter ? bl_panel_enter(&k->panel, &port, &entry)
                                     : bl_panel_examine(&k->panel, &port, &entry);
    int code = tell_entry(k, status, &entry);
    if (code == EXIT_GOOD) tell_steps(k, &port, start);
    if (code == EXIT_GOOD && options.run) {
        bl_panel_run(&port, start);
        printf("running from %s\n", cli_address(k->b, start));
    }
    if (simulation_save(s, &cli_sink) != BL_OK) code = EXIT_FAILED;
    simulation_close(s);
    return code;
}

/* What --have says to be there already is left out, so an empty sheet is a good answer and no
 * error. */
int command_panel(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries, bench_options, port_options, NULL};
    work k;
    bl_panel_count look;
    memset(&k, 0, sizeof k);
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc > 2) return cli_usage("one source or image at a time");
    if (options.run && !options.enter && !options.typed)
        return cli_usage("--run goes with --enter or --typed");
    if (options.steps < 0 || options.steps > 1000000) return cli_usage("--steps N: 0 to 1000000");
    if (options.steps > 0 && ((!options.enter && !options.examine) || options.run))
        return cli_usage("--steps goes with --enter or --examine, and not with --run");
    if (options.enter && options.examine)
        return cli_usage("--enter examines by itself; --examine is for what is there already");
    int code = load_payload(&k, argc == 2 ? argv[1] : NULL);
    if (code == EXIT_GOOD) code = check_options(&k);
    if (code == EXIT_GOOD) {
        bl_panel_look(&k.panel, &look);
        if (look.units == 0)
            code = fail("%s: nothing of it lies in %s", k.name,
                        options.range != NULL ? options.range : "memory");
        else if (options.enter || options.examine)
            code = enter_at_panel(&k);
        else if (look.listed == 0)
            say("%s: all of it is there already; nothing to enter", k.name);
        else
            code = put_sheet(&k, &look);
    }
    work_end(&k);
    return code;
}
