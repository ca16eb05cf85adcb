/* command_assemble.c - bootlace assemble. */
#include "cli.h"
#include "define.h"
#include "depend.h"
#include "json_answer.h"
#include "project/sheets.h"

#include <glib/gstdio.h>
#include <string.h>

static struct {
    char *cpu, *listing, *symbols, *map;
    char **folders;
    gboolean strict, watch, expand;
} options;

static const GOptionEntry entries[] = {
    {"cpu", 'c', 0, G_OPTION_ARG_STRING, &options.cpu,
     "CPU, when there is no bench file (see bootlace cpus)", "CPU"},
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "image file: .bin .hex .srec, - for standard output", "FILE"},
    {"format", 'f', 0, G_OPTION_ARG_STRING, &given.format,
     "bin, hex or srec (default: by the ending of -o)", "FORMAT"},
    {"listing", 'l', 0, G_OPTION_ARG_FILENAME, &options.listing, "listing file", "FILE"},
    {"symbols", 'y', 0, G_OPTION_ARG_FILENAME, &options.symbols, "symbol file, for .use", "FILE"},
    {"map", 0, 0, G_OPTION_ARG_FILENAME, &options.map,
     "source map file: which line each byte came from", "FILE"},
    {"watch", 'w', 0, G_OPTION_ARG_NONE, &options.watch,
     "assemble again on each save, and tell only the news", NULL},
    {"expand", 0, 0, G_OPTION_ARG_NONE, &options.expand,
     "show in the listing the lines that macros and repeats made", NULL},
    {"strict", 0, 0, G_OPTION_ARG_NONE, &options.strict, "warnings are errors", NULL},
    {"include", 'I', 0, G_OPTION_ARG_FILENAME_ARRAY, &options.folders,
     "a folder to look for .include and .use in", "FOLDER"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {"assemble SRC",
                            "Assembles one source into an image, a listing and a symbol file.",
                            "  bootlace assemble lamp.asm -b bench.yaml -o lamp.hex -l lamp.lst\n"
                            "  bootlace assemble tide-block.asm -c 65c02 -o - -f srec"};

typedef enum product { LISTING, SYMBOLS, MAP, IMAGE } product;

/* Each output is whole in memory before its file is touched. */
static bl_status write_product(bl_program *program, product what, const char *path,
                               bl_filetype type, const char *source, bl_radix radix)
{
    host_output out;
    bl_writer writer;
    bl_status status;
    if (path == NULL) return BL_OK;
    host_output_begin(&out, &writer);
    if (what == LISTING)
        status = bl_listing_write(program, radix, options.expand, &writer);
    else if (what == SYMBOLS)
        status = bl_symbols_write(program, &writer);
    else if (what == MAP)
        status = bl_map_write(program, &writer);
    else
        status = bl_imagefile_write(type, bl_program_image(program), 0xFF, source, &writer);
    if (status == BL_OK) return host_output_end(&out, path, &cli_sink);
    host_output_drop(&out);
    fail("%s: %s", path, bl_status_text(status));
    return status;
}

/* What a user looks for first: how large it is, where it lies, and where it begins. */
static void summarise(const bench *b, bl_program *program, const char *source)
{
    bl_image *image = bl_program_image(program);
    GString *text = g_string_new(NULL);
    uint32_t entry;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        if (i == 4) {
            g_string_append_printf(text, ", and %zu more", bl_image_pieces(image) - i);
            break;
        }
        g_string_append_printf(text, "%s%s..%s", i == 0 ? " at " : ", ", cli_address(b, p.first),
                               cli_address(b, p.first + (uint32_t)(p.count - 1)));
    }
    bool has_entry = bl_image_entry(image, &entry);
    if (has_entry) g_string_append_printf(text, ", entry %s", cli_address(b, entry));
    if (given.json) {
        json_t *pieces = json_array();
        for (size_t i = 0; i < bl_image_pieces(image); i++) {
            bl_piece p = bl_image_piece(image, i);
            json_array_append_new(pieces, json_pack("{s:I,s:I}", "first", (json_int_t)p.first,
                                                    "count", (json_int_t)p.count));
        }
        answer(json_pack("{s:s,s:I,s:o,s:o}", "source", source, "bytes",
                         (json_int_t)bl_image_size(image), "entry",
                         has_entry ? json_integer(entry) : json_null(), "pieces", pieces));
    }
    unsigned long bytes = (unsigned long)bl_image_size(image);
    say("%s: %lu byte%s%s%s", source, bytes, bytes == 1 ? "" : "s", text->str,
        given.out == NULL ? "; no image written (-o FILE)" : "");
    g_string_free(text, TRUE);
}

/* How full each area is that the program puts something into. */
static void tell_areas(const bench *b, bl_program *program)
{
    for (size_t i = 0; b != NULL && i < b->area_count; i++) {
        const bl_area *area = &b->areas[i];
        bl_range bytes = bench_bytes(b, area->range);
        uint64_t used = bl_image_count(bl_program_image(program), bytes);
        if (used > 0)
            say("  area %-12s %6lu of %lu bytes, %lu free", area->name, (unsigned long)used,
                (unsigned long)bytes.count, (unsigned long)(bytes.count - used));
    }
}

static int run_with_sheet(const bl_sheet *sheet, const char *source, const project_extras *extras,
                          bl_program **program)
{
    host_sources sources = {.folders = extras->folders, .seen = extras->seen};
    bl_source_provider provider = host_source_provider(&sources);
    bl_asm_options o = {.memory = host_memory,
                        .sheet = sheet,
                        .definitions = extras->definitions,
                        .definition_count = extras->definition_count,
                        .provider = &provider,
                        .sink = &cli_sink,
                        .strict = options.strict};
    return bl_assemble(&o, source, program) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

static int check_outputs(const char *source)
{
    const cli_output outputs[] = {{"-o", given.out},
                                  {"-l", options.listing},
                                  {"-y", options.symbols},
                                  {"--map", options.map},
                                  {"--depend", depend_path()}};
    const char *const inputs[] = {source, given.bench_path, NULL};
    return cli_check_outputs(outputs, G_N_ELEMENTS(outputs), inputs);
}

/* The first that fails is told, and ends it. */
static int write_outputs(const bench *b, bl_program *program, const char *source, bl_filetype type)
{
    bl_radix radix = b != NULL ? b->radix : 0;
    int code = check_outputs(source); /* what was included is known now */
    if (code == EXIT_GOOD && given.out != NULL)
        code = cli_check_binary(bl_program_image(program), type, false);
    if (code != EXIT_GOOD) return code;
    char *base = g_path_get_basename(source);
    bl_status status = write_product(program, LISTING, options.listing, type, base, radix);
    if (status == BL_OK)
        status = write_product(program, SYMBOLS, options.symbols, type, base, radix);
    if (status == BL_OK) status = write_product(program, MAP, options.map, type, base, radix);
    if (status == BL_OK) status = write_product(program, IMAGE, given.out, type, base, radix);
    g_free(base);
    if (status == BL_OK) {
        summarise(b, program, source);
        tell_areas(b, program);
    }
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* With a bench file, -c may only say the same CPU: the program would be for another machine. */
static int assemble_source(const char *source, const project_extras *extras, bl_filetype type)
{
    bench *b = NULL;
    project *p = NULL;
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    int code = options.cpu != NULL && given.bench_path == NULL ? EXIT_GOOD : cli_bench(false, &b);
    if (code != EXIT_GOOD) return code;
    if (options.cpu == NULL && b == NULL)
        return cli_usage("no CPU given: use -c CPU, or a bench file with -b");
    if (options.cpu != NULL && host_sheet_open(options.cpu, NULL, &cli_sink, &sheet) != BL_OK)
        code = EXIT_USAGE;
    if (code == EXIT_GOOD && b != NULL) {
        bl_text name = bl_sheet_name(b->sheet);
        bl_text other = sheet != NULL ? bl_sheet_name(sheet) : name;
        if (name.length != other.length || memcmp(name.at, other.at, name.length) != 0)
            code = cli_usage("-c %s, but %s describes a machine with a %.*s", options.cpu, b->path,
                             (int)name.length, name.at);
        else if (project_build(b, PROJECT_FIRMWARE, NULL, &cli_sink, &p) != BL_OK ||
                 project_assemble(p, source, extras, &cli_sink, &program) != BL_OK)
            code = EXIT_FAILED;
    } else if (code == EXIT_GOOD) {
        code = run_with_sheet(sheet, source, extras, &program);
    }
    if (code == EXIT_GOOD) code = write_outputs(b, program, source, type);
    if (code == EXIT_GOOD)
        code = depend_write(given.out != NULL ? given.out : source, b != NULL ? b->path : NULL);
    else if (cli_errors() > 0 && code == EXIT_FAILED)
        say("%u error%s, nothing written", cli_errors(), cli_errors() == 1 ? "" : "s");
    bl_program_close(program);
    project_close(p);
    bl_sheet_close(sheet);
    bench_close(b);
    return code;
}

static int watch(const char *source, project_extras *extras, bl_filetype type)
{
    GPtrArray *seen = g_ptr_array_new_with_free_func(g_free);
    extras->seen = seen;
    for (;;) {
        g_ptr_array_set_size(seen, 0);
        if (given.bench_path != NULL) g_ptr_array_add(seen, g_strdup(given.bench_path));
        cli_watch_turn();
        assemble_source(source, extras, type);
        cli_watch_tell();
        g_ptr_array_add(seen, g_strdup(source));
        cli_watch_wait(seen);
    }
    return EXIT_GOOD;
}

/* Usage is checked before anything is read: a wrong option has no side effects. */
int command_assemble(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries,       define_options, depend_options,
                                    bench_options, json_options,   NULL};
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 2)
        return cli_usage(argc < 2 ? "no source given: bootlace assemble SRC"
                                  : "one source at a time");
    bl_filetype type = cli_output_type();
    if (type == BL_FILE_UNKNOWN)
        return cli_usage(given.format != NULL
                             ? "-f %s: the formats are bin, hex and srec"
                             : "%s: its ending names no format; give -f bin, hex or srec",
                         given.format != NULL ? given.format : given.out);
    project_extras extras = {.folders = options.folders, .strict = options.strict};
    if (options.watch && given.json) return cli_usage("--watch and --json do not go together");
    if (given.json && given.out != NULL && strcmp(given.out, "-") == 0)
        return cli_usage("-o - and --json would both write to standard output");
    int code = check_outputs(argv[1]);
    if (code != EXIT_GOOD) return code;
    if (!options.watch) extras.seen = depend_begin();
    code = define_take(&extras);
    if (code != EXIT_GOOD) return code;
    return options.watch ? watch(argv[1], &extras, type) : assemble_source(argv[1], &extras, type);
}
