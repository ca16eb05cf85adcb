/* command_chip.c - bootlace chip: its subcommands, and what they have alike. */
#include "chip_work.h"
#include "define.h"
#include "subcommands.h"

#include <string.h>

chip_options chip_given;

static const GOptionEntry image_entries[] = {
    {"image", 0, 0, G_OPTION_ARG_FILENAME, &chip_given.image,
     "take this image file instead of building", "FILE"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &chip_given.at,
     "where a raw binary begins, as the CPU sees it", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry write_entries[] = {
    {"all", 0, 0, G_OPTION_ARG_NONE, &chip_given.all, "write every page, not only what differs",
     NULL},
    {"protect", 0, 0, G_OPTION_ARG_NONE, &chip_given.protect,
     "switch software protection on afterwards", NULL},
    {"set", 0, 0, G_OPTION_ARG_NONE, &chip_given.set,
     "go through all chips of the bench, asking for one after the other", NULL},
    {"unprotect", 0, 0, G_OPTION_ARG_NONE, &chip_given.unprotect,
     "switch software protection off first", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry proof_entries[] = {
    {"twice", 0, 0, G_OPTION_ARG_NONE, &chip_given.twice, "verify a second time", NULL},
    {"corners", 0, 0, G_OPTION_ARG_NONE, &chip_given.corners,
     "verify at 4.5 and at 5.5 V; always done for UV EPROMs", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry read_entries[] = {
    {"identify", 0, 0, G_OPTION_ARG_NONE, &chip_given.identify,
     "tell which build it holds, and how that differs from today's", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry label_entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "the sheet: PDF, SVG or PNG by the ending", "FILE"},
    {"narrow", 0, 0, G_OPTION_ARG_NONE, &chip_given.narrow,
     "for packages with 0.3 inch between the rows of pins", NULL},
    {"date", 0, 0, G_OPTION_ARG_STRING, &chip_given.date, "another date than today's", "TEXT"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry plan_entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out, "draw it: PNG, SVG or PDF by the ending",
     "PICTURE"},
    {"parts", 0, 0, G_OPTION_ARG_NONE, &chip_given.parts, "list the parts that are known", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* ---- one chip ---- */

void work_end(work *k)
{
    g_free(k->bytes);
    logbook_close(k->book);
    bl_image_close(k->file);
    project_close(k->p);
    bench_close(k->b);
}

static int find_chip(work *k, const char *name)
{
    const bench *b = k->b;
    if (b->chip_count == 0) return fail("%s: there are no chips in it", b->path);
    if (name == NULL ? b->chip_count == 1 : bench_find_chip(b, name, &k->index)) {
        k->chip = &b->chips[k->index];
        return EXIT_GOOD;
    }
    GString *known = g_string_new(NULL);
    for (size_t i = 0; i < b->chip_count; i++)
        g_string_append_printf(known, " %s", b->chips[i].name);
    int code = name == NULL
                   ? cli_usage("no chip given; the bench has:%s", known->str)
                   : cli_usage("no chip is called '%s'; the bench has:%s", name, known->str);
    g_string_free(known, TRUE);
    return code;
}

int work_image(work *k)
{
    if (chip_given.image != NULL) {
        int code = cli_read_image(k->b, chip_given.image, chip_given.at, &k->file);
        k->image = k->file;
        if (code != EXIT_GOOD) return code;
        return project_check_chips(k->b, k->image, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    }
    project_extras extras = {.folders = NULL};
    int code = define_take(&extras);
    if (code != EXIT_GOOD) return code;
    if (project_build(k->b, PROJECT_CHIPS, &extras, &cli_sink, &k->p) != BL_OK) return EXIT_FAILED;
    k->image = k->p->chips;
    whereis_add_project(&k->names, k->p);
    return bl_image_size(k->image) > 0 ? EXIT_GOOD
                                       : fail("%s: nothing is built for chips", k->b->path);
}

int work_begin(work *k, int argc, char **argv, bool with_image)
{
    memset(k, 0, sizeof *k);
    if (argc > 2) return cli_usage("one chip at a time");
    int code = cli_bench(true, &k->b);
    if (code == EXIT_GOOD && chip_given.set && argc == 2)
        code = cli_usage("--set goes through all chips; name none");
    if (code == EXIT_GOOD && !(chip_given.set && k->b->chip_count > 0))
        code = find_chip(k, argc == 2 ? argv[1] : NULL);
    if (code != EXIT_GOOD || !with_image) return code;
    code = work_image(k);
    if (code != EXIT_GOOD) return code;
    k->book = logbook_open(k->b, &cli_sink);
    if (k->file == NULL) {
        logbook_together(k->book, true);
        logbook_built(k->book, k->b, k->image);
        logbook_together(k->book, false);
    }
    work_turn(k, k->index, 1);
    return EXIT_GOOD;
}

void work_turn(work *k, size_t chip, unsigned copy)
{
    g_free(k->bytes);
    k->index = chip;
    k->copy = copy;
    k->chip = &k->b->chips[chip];
    k->bytes = g_malloc(k->chip->part->size);
    bl_chip_contents(k->chip, k->image, k->bytes, &k->used);
}

void tell_checksums(const char *before, const uint8_t *bytes, size_t count, const char *after)
{
    printf("%sCRC-32 %08X, CRC-16 %04X, sum-16 %04X%s\n", before, bl_crc32(0, bytes, count),
           bl_crc16(0, bytes, count), bl_sum16(0, bytes, count), after);
}

void put_checksums(json_t *object, const uint8_t *bytes, size_t count)
{
    json_object_set_new(object, "crc32", json_integer((json_int_t)bl_crc32(0, bytes, count)));
    json_object_set_new(object, "crc16", json_integer(bl_crc16(0, bytes, count)));
    json_object_set_new(object, "sum16", json_integer(bl_sum16(0, bytes, count)));
}

/* ---- the command ---- */

static const subcommand plan = {
    .name = "plan",
    .words =
        {"chip plan [-o PICTURE]",
         "Shows how the image is cut onto the chips, what their last bytes hold, and what you must "
         "do.",
         "  bootlace chip plan\n  bootlace chip plan -o plan.png\n  bootlace chip plan --parts"},
    .tables = (const GOptionEntry *const[]){plan_entries, image_entries, define_options,
                                            bench_options, json_options, NULL},
    .run = chip_plan,
};
static const subcommand blank = {
    .name = "blank",
    .words = {"chip blank [CHIP]", "Looks whether a chip is blank: all 0xFF.",
              "  bootlace chip blank U5 -p sim"},
    .tables = (const GOptionEntry *const[]){bench_options, port_options, trace_options,
                                            json_options, NULL},
    .run = chip_blank,
};
static const subcommand write = {
    .name = "write",
    .words = {"chip write [CHIP]",
              "Writes a chip: only what differs, each byte verified afterwards.",
              "  bootlace chip write U5 -p sim\n  bootlace chip write U5 -p /dev/ttyUSB1 --image "
              "out/chips.hex\n  bootlace chip write --set -p sim"},
    .tables = (const GOptionEntry *const[]){write_entries, proof_entries, image_entries,
                                            define_options, bench_options, port_options,
                                            trace_options, json_options, NULL},
    .run = chip_write,
};
static const subcommand verify = {
    .name = "verify",
    .words = {"chip verify [CHIP]", "Compares a chip with what was built.",
              "  bootlace chip verify U5 -p sim"},
    .tables =
        (const GOptionEntry *const[]){proof_entries, image_entries, define_options, bench_options,
                                      port_options, trace_options, json_options, NULL},
    .run = chip_verify,
};
static const subcommand read = {
    .name = "read",
    .words =
        {"chip read [CHIP] -o FILE",
         "Reads a whole chip into a file; addresses are offsets in the chip. Or tells what it "
         "holds.",
         "  bootlace chip read U5 -p sim -o U5.bin\n  bootlace chip read U5 -p sim --identify"},
    .tables = (const GOptionEntry *const[]){read_entries, output_options, image_entries,
                                            bench_options, port_options, trace_options, NULL},
    .run = chip_read,
};
static const subcommand label = {
    .name = "label",
    .words = {"chip label [CHIP]... -o SHEET",
              "Draws labels to size: position, part, address range, version, checksum, date.",
              "  bootlace chip label -o labels.pdf\n  bootlace chip label U5 --narrow -o u5.png"},
    .tables = (const GOptionEntry *const[]){label_entries, image_entries, define_options,
                                            bench_options, NULL},
    .run = chip_label,
};
static const subcommand history = {
    .name = "history",
    .words = {"chip history [CHIP]",
              "Lists from the logbook what was written into the bench's chips.",
              "  bootlace chip history U5"},
    .tables = (const GOptionEntry *const[]){bench_options, NULL},
    .run = chip_history,
};

int command_chip(int argc, char **argv)
{
    static const subcommand *const all[] = {&plan, &blank, &write,   &verify,
                                            &read, &label, &history, NULL};
    static const subcommands s = {"chip", all, NULL, "bootlace chip write U5 -p sim"};
    return cli_run_subcommand(&s, argc, argv);
}
