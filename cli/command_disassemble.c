/* command_disassemble.c - bootlace disassemble. */
#include <string.h>

#include "cli.h"
#include "project/sheets.h"
#include "where.h"

static struct {
    char *cpu, *at, *range, *symbols, *direct;
    char **code;
    gboolean all;
} options;

static const GOptionEntry entries[] = {
    {"cpu", 'c', 0, G_OPTION_ARG_STRING, &options.cpu,
     "the CPU, or a .sheet file of your own (bootlace cpus lists them)", "CPU"},
    {"range", 'r', 0, G_OPTION_ARG_STRING, &options.range,
     "only this part: FIRST..LAST or FIRST+COUNT", "RANGE"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary begins", "ADDRESS"},
    {"symbols", 'y', 0, G_OPTION_ARG_FILENAME, &options.symbols, "symbol file with names for it",
     "FILE"},
    {"code", 0, 0, G_OPTION_ARG_STRING_ARRAY, &options.code,
     "code begins here too, beside the entry point and the vectors (may be given again)",
     "ADDRESS"},
    {"all", 0, 0, G_OPTION_ARG_NONE, &options.all,
     "take everything as code, one instruction after the other", NULL},
    {"direct", 0, 0, G_OPTION_ARG_STRING, &options.direct,
     "what the direct page register holds (6809)", "PAGE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry output_entry[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "file to write (default: standard output)", "FILE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {
    "disassemble FILE",
    "Turns bytes back into source that assembles to the very same bytes. Code is followed from "
    "the\n"
    "entry point and the vectors; what nobody reaches is data.",
    "  bootlace disassemble out/chips.hex -c 65c02 -r 0xE000..0xFFFF\n"
    "  bootlace disassemble rom.bin --at 0 -c z80 --code 0x100 -y rom.sym -o rom.asm"};

/* Everything that is gathered for one call, to be freed at its end. */
typedef struct work {
    bl_sheet *sheet;
    bl_image *image;
    GArray *names, *entries;
    host_output out;
    char *symbols;
    bl_disasm_options o;
} work;

static int take_symbols(work *w)
{
    size_t length = 0;
    bl_symbol_line s;
    bl_status status = BL_OK;
    if (options.symbols == NULL) return EXIT_GOOD;
    if (host_read_file(options.symbols, &w->symbols, &length, &cli_sink) != BL_OK)
        return EXIT_FAILED;
    bl_text rest = {w->symbols, length};
    uint32_t number = 0;
    while (bl_symbols_read(options.symbols, &rest, &number, &s, &cli_sink, &status)) {
        bl_disasm_name name = {s.name, (uint32_t)s.value};
        if (s.kind == BL_SYMBOL_LABEL && s.value >= 0 && s.value <= UINT32_MAX)
            g_array_append_val(w->names, name);
    }
    w->o.names = (const bl_disasm_name *)(void *)w->names->data;
    w->o.name_count = w->names->len;
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* Addresses may be symbols of -y. */
static places symbols_of(const work *w)
{
    return (places){.names = (const bl_disasm_name *)(void *)w->names->data,
                    .name_count = w->names->len};
}

static int take_address(const work *w, const char *option, const char *text, uint32_t *value)
{
    places p = symbols_of(w);
    return where_address(&p, option, text, value);
}

static int take_options(work *w)
{
    int code = EXIT_GOOD;
    places p = symbols_of(w);
    if (options.range != NULL && where_range(&p, "-r", options.range, &w->o.range) != EXIT_GOOD)
        return EXIT_USAGE;
    if (options.direct != NULL) code = take_address(w, "--direct", options.direct, &w->o.direct);
    for (char **c = options.code; c != NULL && *c != NULL && code == EXIT_GOOD; c++) {
        uint32_t entry = 0;
        code = take_address(w, "--code", *c, &entry);
        g_array_append_val(w->entries, entry);
    }
    w->o.entries = (const uint32_t *)(void *)w->entries->data;
    w->o.entry_count = w->entries->len;
    w->o.all_code = options.all;
    return code;
}

/* Code is followed from entries, symbols and vectors; what nothing leads to is data. */
static int write_disassembly(work *w)
{
    bl_disasm_counts counts;
    bl_writer all;
    host_output_begin(&w->out, &all);
    bl_status status = bl_disassemble(&w->o, &counts, &all);
    if (status == BL_E_RANGE)
        return fail("nothing of the image lies in %s",
                    options.range != NULL ? options.range : "any range");
    if (status != BL_OK) return fail("%s", bl_status_text(status));
    if (counts.code == 0)
        say("no code was found: the image has no entry point, and no vector points into it; give "
            "--code ADDRESS, or --all");
    bool console = given.out == NULL || strcmp(given.out, "-") == 0;
    status = host_output_end(&w->out, console ? "-" : given.out, &cli_sink);
    if (status != BL_OK) return EXIT_FAILED;
    if (console) return EXIT_GOOD;
    say("%s: %lu instructions, %lu labels, %lu of data", given.out,
        (unsigned long)counts.instructions, (unsigned long)counts.labels,
        (unsigned long)counts.data);
    return EXIT_GOOD;
}

static int disassemble(const char *path, const bench *b, work *w)
{
    char *title = g_path_get_basename(path);
    if (options.cpu != NULL && host_sheet_open(options.cpu, NULL, &cli_sink, &w->sheet) != BL_OK) {
        g_free(title);
        return EXIT_USAGE;
    }
    int code = cli_read_image(NULL, path, options.at, &w->image);
    w->o.memory = host_memory;
    w->o.sheet = options.cpu != NULL ? w->sheet : b->sheet;
    w->o.image = w->image;
    w->o.title = title;
    if (code == EXIT_GOOD) code = take_symbols(w); /* options name them */
    if (code == EXIT_GOOD) code = take_options(w);
    if (code == EXIT_GOOD) code = write_disassembly(w);
    g_free(title);
    return code;
}

/* CPU and symbols may come from the bench file. */
int command_disassemble(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries, output_entry, bench_options, NULL};
    bench *b = NULL;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 2) return cli_usage("no file given: bootlace disassemble FILE -c CPU");
    const cli_output out = {"-o", given.out};
    const char *const inputs[] = {argv[1], options.symbols, NULL};
    int code = cli_check_outputs(&out, 1, inputs);
    if (code == EXIT_GOOD && options.cpu == NULL) code = cli_bench(false, &b);
    if (code != EXIT_GOOD) return code;
    if (options.cpu == NULL && b == NULL)
        return cli_usage("no CPU given: use -c CPU, or a bench file; bootlace cpus lists CPUs");
    work w = {.names = g_array_new(FALSE, FALSE, sizeof(bl_disasm_name)),
              .entries = g_array_new(FALSE, FALSE, sizeof(uint32_t))};
    code = disassemble(argv[1], b, &w);
    g_array_free(w.names, TRUE);
    g_array_free(w.entries, TRUE);
    host_output_drop(&w.out);
    g_free(w.symbols);
    bl_image_close(w.image);
    bl_sheet_close(w.sheet);
    bench_close(b);
    return code;
}
