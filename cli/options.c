/* options.c - option tables and what they name: bench files, images. */
#include "cli.h"
#include "files/replace.h"
#include "simulation/simulation.h"
#include "where.h"

#include <stdlib.h>
#include <string.h>

const GOptionEntry bench_options[] = {
    {"bench", 'b', 0, G_OPTION_ARG_FILENAME, &given.bench_path,
     "bench file (default: bench.yaml when it is there)", "FILE"},
    {"quiet", 'q', 0, G_OPTION_ARG_NONE, &given.quiet, "only results and errors", NULL},
    {"verbose", 'v', 0, G_OPTION_ARG_NONE, &given.verbose, "say more", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry quiet_options[] = {
    {"quiet", 'q', 0, G_OPTION_ARG_NONE, &given.quiet, "only results and errors", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry port_options[] = {
    {"port", 'p', 0, G_OPTION_ARG_STRING, &given.port,
     "sim for the simulated bench, or a serial device", "PORT"},
    {"state", 0, 0, G_OPTION_ARG_FILENAME, &given.state,
     "where the simulated bench keeps its parts (default: state beside the bench file)", "FOLDER"},
    {"fault", 0, 0, G_OPTION_ARG_STRING_ARRAY, &given.faults,
     "switch a fault of the simulated bench on (docs/board.md)", "NAME=VALUE"},
    {"seed", 0, 0, G_OPTION_ARG_INT64, &given.seed, "for the chances of the simulated bench",
     "NUMBER"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry state_options[] = {
    {"state", 0, 0, G_OPTION_ARG_FILENAME, &given.state,
     "where the simulated bench keeps its parts (default: state beside the bench file)", "FOLDER"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry trace_options[] = {
    {"trace", 0, 0, G_OPTION_ARG_FILENAME, &given.trace,
     "write every byte of the line, with times, to a file (docs/trace.md)", "FILE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry output_options[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out, "file to write, - for standard output",
     "FILE"},
    {"format", 'f', 0, G_OPTION_ARG_STRING, &given.format,
     "bin, hex or srec (default: by the ending of -o)", "FORMAT"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry json_options[] = {
    {"json", 0, 0, G_OPTION_ARG_NONE, &given.json, "the result as JSON", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static bool wants_help(int argc, char **argv)
{
    for (int i = 1; i < argc && strcmp(argv[i], "--") != 0; i++)
        if (strcmp(argv[i], "--help") == 0 || strcmp(argv[i], "-h") == 0) return true;
    return false;
}

/* A line of help at the terminal's width: what goes on stands under the description of an option,
 * or under the beginning. Examples are never broken. */
static void print_wrapped(const char *help, int width)
{
    char **rows = g_strsplit(help, "\n", 0);
    bool example = false;
    for (char **r = rows; *r != NULL; r++) {
        const char *at = *r, *gap = NULL;
        size_t lead = strspn(at, " ");
        example |= strcmp(at, "Example:") == 0;
        /* "  -o, --output=FILE    file to write": two blanks behind the option. */
        if (lead > 0 && at[lead] == '-') gap = strstr(at + lead, "  ");
        size_t indent = gap != NULL ? (size_t)(gap - at) + strspn(gap, " ") : lead;
        if (indent > (size_t)width / 2) indent = 8;
        size_t capacity = (size_t)width;
        while (!example && (size_t)g_utf8_strlen(at, -1) > capacity) {
            size_t cut = capacity;
            while (cut > indent + 1 && at[cut] != ' ')
                cut--;
            if (at[cut] != ' ' || cut <= indent + 1) break;
            printf("%.*s\n%*s", (int)cut, at, (int)indent, "");
            at += cut + strspn(at + cut, " ");
            capacity = (size_t)width - indent;
        }
        printf("%s%s", at, r[1] != NULL ? "\n" : "");
    }
    g_strfreev(rows);
}

/* Help is printed by us, so that it is as wide as the terminal; it ends the program with 0. */
bool cli_parse(int *argc, char ***argv, const usage *u, const GOptionEntry *const *tables)
{
    GError *error = NULL;
    /* "chip write [CHIP]" is a command and its operands. */
    size_t split = strcspn(u->words, "[ABCDEFGHIJKLMNOPQRSTUVWXYZ");
    GOptionContext *c = g_option_context_new(u->words + split);
    char *example = g_strdup_printf("Example:\n%s", u->example);
    char *program = g_strdup_printf("bootlace %.*s", (int)split, u->words);
    g_set_prgname(g_strchomp(program));
    g_option_context_set_summary(c, u->summary);
    g_option_context_set_description(c, example);
    for (; *tables != NULL; tables++)
        g_option_context_add_main_entries(c, *tables, NULL);
    g_option_context_set_help_enabled(c, FALSE);
    if (wants_help(*argc, *argv)) {
        char *help = g_option_context_get_help(c, FALSE, NULL);
        print_wrapped(help, cli_width());
        g_free(help);
        g_option_context_free(c);
        g_free(example);
        g_free(program);
        exit(cli_end(EXIT_GOOD));
    }
    bool good = g_option_context_parse(c, argc, argv, &error);
    if (!good) {
        cli_usage("%s; see --help", error->message);
        g_error_free(error);
    }
    g_option_context_free(c);
    g_free(example);
    g_free(program);
    /* "--" has done its work. */
    if (good && *argc > 1 && strcmp((*argv)[1], "--") == 0) {
        memmove(*argv + 1, *argv + 2, (size_t)(*argc - 1) * sizeof **argv);
        --*argc;
    }
    return good;
}

int cli_bench(bool needed, bench **b)
{
    const char *path = given.bench_path;
    *b = NULL;
    if (path == NULL && g_file_test("bench.yaml", G_FILE_TEST_EXISTS)) path = "bench.yaml";
    if (path == NULL && !needed) return EXIT_GOOD;
    if (path == NULL) {
        cli_usage("no bench file: there is no bench.yaml here; name one with -b FILE");
        return EXIT_USAGE;
    }
    return bench_open(path, &simulation_hardware, &cli_sink, b) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* By its ending; failing that, by its first character. */
static bl_filetype type_of(const char *path, const char *text, size_t length)
{
    bl_filetype type = bl_filetype_of((bl_text){path, strlen(path)});
    if (type != BL_FILE_UNKNOWN || length < 2) return type;
    if (text[0] == ':') return BL_FILE_HEX;
    return text[0] == 'S' && g_ascii_isdigit(text[1]) ? BL_FILE_SREC : BL_FILE_UNKNOWN;
}

/* Raw binary has no addresses: without --at it is refused rather than put at 0. */
int cli_read_image(const bench *b, const char *path, const char *at, bl_image **image)
{
    char *text = NULL;
    size_t length = 0;
    uint32_t address = 0;
    *image = NULL;
    places p = {.b = b};
    if (at != NULL && where_address(&p, "--at", at, &address) != EXIT_GOOD) return EXIT_USAGE;
    if (host_read_file(path, &text, &length, &cli_sink) != BL_OK) return EXIT_FAILED;
    bl_filetype type = type_of(path, text, length);
    int code = EXIT_FAILED;
    if (type == BL_FILE_UNKNOWN && at != NULL) type = BL_FILE_BIN;
    if (type == BL_FILE_UNKNOWN)
        code = cli_usage(
            "%s: unknown format: its name ends in none of .bin .hex .srec; for a raw binary give "
            "--at ADDRESS",
            path);
    else if (type == BL_FILE_BIN && at == NULL)
        code = cli_usage("%s: a raw binary carries no address; give --at ADDRESS", path);
    else if (bl_image_open(&host_memory, image) == BL_OK &&
             bl_imagefile_read(type, path, text, length, address, *image, &cli_sink) == BL_OK)
        code = EXIT_GOOD;
    if (code != EXIT_GOOD) {
        bl_image_close(*image);
        *image = NULL;
    }
    g_free(text);
    return code;
}

bl_filetype cli_type_of_output(const char *path)
{
    if (given.format != NULL)
        return bl_filetype_named((bl_text){given.format, strlen(given.format)});
    return path == NULL ? BL_FILE_BIN : bl_filetype_of((bl_text){path, strlen(path)});
}

bl_filetype cli_output_type(void)
{
    return cli_type_of_output(given.out);
}

/* An output that is an input by any name is refused before anything is read. */
int cli_check_outputs(const cli_output *outputs, size_t count, const char *const *inputs)
{
    for (size_t i = 0; i < count; i++) {
        const char *path = outputs[i].path;
        if (path == NULL) continue;
        bool console = strcmp(path, "-") == 0;
        for (size_t k = 0; k < i; k++)
            if (outputs[k].path != NULL && (strcmp(path, outputs[k].path) == 0 ||
                                            (!console && replace_same(path, outputs[k].path))))
                return cli_usage("%s %s: that is also the file of %s", outputs[i].option, path,
                                 outputs[k].option);
        if (console) continue;
        for (const char *const *in = inputs; *in != NULL; in++)
            if (strcmp(path, *in) == 0 || replace_same(path, *in))
                return cli_usage("%s %s: that is the file that is read", outputs[i].option, path);
        if (host_was_read(path))
            return cli_usage(
                "%s %s: that file was read; it would be replaced by what was made of it",
                outputs[i].option, path);
    }
    return EXIT_GOOD;
}

int cli_check_binary(const bl_image *image, bl_filetype type, bool asked)
{
    enum { LIMIT = 16 << 20 };
    size_t pieces = bl_image_pieces(image);
    if (type != BL_FILE_BIN || pieces < 2 || asked) return EXIT_GOOD;
    bl_piece first = bl_image_piece(image, 0), last = bl_image_piece(image, pieces - 1);
    uint64_t size = (uint64_t)last.first + last.count - first.first;
    if (size <= LIMIT) return EXIT_GOOD;
    return cli_usage(
        "a raw binary of this would have %llu bytes, of which %llu are in the image\n"
        "  write hex or srec; or cut a part out with image cut; or have it filled, with "
        "image convert --fill",
        (unsigned long long)size, (unsigned long long)bl_image_size(image));
}

int cli_save_image(const char *path, bl_filetype type, const bl_image *image, const char *title)
{
    host_output out;
    bl_writer writer;
    host_output_begin(&out, &writer);
    bl_status status = bl_imagefile_write(type, image, 0xFF, title, &writer);
    if (status == BL_OK)
        return host_output_end(&out, path, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    host_output_drop(&out);
    return fail("%s", bl_status_text(status));
}

int cli_save_bytes(const char *path, bl_filetype type, uint32_t first, const uint8_t *bytes,
                   size_t count, const char *title)
{
    bl_image *image = NULL;
    bl_status status = bl_image_open(&host_memory, &image);
    if (status == BL_OK) status = bl_image_put(image, first, bytes, count, (bl_origin){0, 0});
    int code = status == BL_OK ? cli_save_image(path, type, image, title)
                               : fail("%s", bl_status_text(status));
    bl_image_close(image);
    return code;
}

const char *cli_address(const bench *b, uint32_t address)
{
    return cli_offset(b, b != NULL ? address / bl_sheet_unit_bytes(b->sheet) : address);
}

const char *cli_offset(const bench *b, uint32_t address)
{
    static char ring[4][16];
    static unsigned turn;
    unsigned bits = address > 0xFFFFFFu ? 32 : address > 0xFFFFu ? 24 : 16;
    return bl_address_text(ring[turn++ % 4], address, bits, b != NULL ? b->radix : BL_HEX);
}
