/* image_files.c - bootlace image join | cut | compare. */
#include "image_commands.h"
#include "json_answer.h"

#include <jansson.h>
#include <string.h>

#include "where.h"

static struct {
    char *at, *range, *fill;
} options;

static const GOptionEntry range_entries[] = {
    {"range", 'r', 0, G_OPTION_ARG_STRING, &options.range, "what is kept", "RANGE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry fill_entries[] = {
    {"fill", 0, 0, G_OPTION_ARG_STRING, &options.fill,
     "what gaps of a raw binary hold (default 0xFF)", "BYTE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry at_entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at,
     "where raw binaries belong that do not say it themselves", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* "rom.bin@0xC000": a name with its address. */
static int read_input(const char *name, bl_image **image)
{
    const char *sign = strrchr(name, '@');
    bool exists = g_file_test(name, G_FILE_TEST_EXISTS) || strcmp(name, "-") == 0;
    if (sign == NULL || sign == name || exists)
        return cli_read_image(NULL, name, options.at, image);
    char *path = g_strndup(name, (gsize)(sign - name));
    int code = cli_read_image(NULL, path, sign + 1, image);
    g_free(path);
    return code;
}

static int fill_byte(uint8_t *fill)
{
    uint32_t value = 0xFF;
    int code = options.fill == NULL ? EXIT_GOOD : where_number("--fill", options.fill, 255, &value);
    *fill = (uint8_t)value;
    return code;
}

/* The files that were read are known by now. */
static int check_output(void)
{
    const char *const none[] = {NULL};
    return cli_check_outputs(&(cli_output){"-o", given.out}, 1, none);
}

/* ---- join ---- */

static int join_file(bl_image *all, const char *name)
{
    bl_image *one = NULL;
    uint32_t conflict = 0, here, there;
    int code = read_input(name, &one);
    if (code != EXIT_GOOD) return code;
    if (bl_image_entry(all, &there) && bl_image_entry(one, &here) && here != there)
        say("%s: its entry point is %s; that of a file before it is kept, %s", name,
            cli_address(NULL, here), cli_address(NULL, there));
    if (bl_image_merge(all, one, &conflict) != BL_OK)
        code = fail("%s: the byte at %s is in a file before it already; cut one of them first",
                    name, cli_address(NULL, conflict));
    bl_image_close(one);
    return code;
}

/* The output is checked against all inputs before any of them is read. */
static int join(int argc, char **argv)
{
    bl_image *all = NULL;
    bl_filetype type;
    uint8_t fill = 0xFF;
    if (argc < 3) return cli_usage("no files given: bootlace image join FILE FILE... -o OUT");
    int code = image_output_type(&type);
    if (code == EXIT_GOOD)
        code =
            cli_check_outputs(&(cli_output){"-o", given.out}, 1, (const char *const *)(argv + 1));
    if (code == EXIT_GOOD) code = fill_byte(&fill);
    if (code == EXIT_GOOD && bl_image_open(&host_memory, &all) != BL_OK)
        return fail("out of memory");
    for (int i = 1; i < argc && code == EXIT_GOOD; i++)
        code = join_file(all, argv[i]);
    if (code == EXIT_GOOD) code = check_output();
    if (code == EXIT_GOOD) code = image_write(all, type, fill, options.fill != NULL);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes of %d files as %s", given.out, (unsigned long)bl_image_size(all),
            argc - 1, bl_filetype_text(type));
    bl_image_close(all);
    return code;
}

/* ---- cut ---- */

/* Addresses stay what they were: what is cut out says where it belongs. */
static int cut_image(int argc, char **argv)
{
    bl_image *image = NULL;
    bench *b = NULL;
    bl_filetype type;
    bl_range range;
    uint8_t fill = 0xFF;
    if (argc != 2) return cli_usage("one file: bootlace image cut IN -r RANGE -o OUT");
    if (options.range == NULL) return cli_usage("no range given: -r RANGE says what is kept");
    int code = image_output_type(&type);
    if (code == EXIT_GOOD) code = fill_byte(&fill);
    if (code == EXIT_GOOD) code = cli_bench(false, &b);
    if (code == EXIT_GOOD)
        code = where_range(&(places){.b = b, .count = PLACES_FILE}, "-r", options.range, &range);
    if (code == EXIT_GOOD) code = read_input(argv[1], &image);
    if (code == EXIT_GOOD) code = image_keep(&image, range, options.range);
    if (code == EXIT_GOOD) code = check_output();
    if (code == EXIT_GOOD) code = image_write(image, type, fill, options.fill != NULL);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes as %s", given.out, (unsigned long)bl_image_size(image),
            bl_filetype_text(type));
    bl_image_close(image);
    bench_close(b);
    return code;
}

/* ---- compare ---- */

typedef struct comparison {
    const bl_image *images[2];
    const char *names[2];
    const bench *b;
    whereis names_known;
    uint64_t counts[3]; /* bytes, by kind */
    json_t *list;       /* of --json; or NULL */
} comparison;

static void show_bytes(const bl_image *image, bl_range range)
{
    enum { LIMIT = 8 };
    for (uint32_t i = 0; i < range.count && i < LIMIT; i++) {
        uint8_t byte = 0;
        bl_image_get(image, range.first + i, &byte);
        printf(" %02X", byte);
    }
    if (range.count > LIMIT) printf(" ...");
}

/* A range that differs, with the name of the place; the bytes follow when there are few. */
static void visit(void *context, bl_image_difference kind, bl_range range)
{
    static const char *const words[] = {
        [BL_IMAGE_DIFFERS] = "differs",
        [BL_IMAGE_ONLY_FIRST] = "only in the first",
        [BL_IMAGE_ONLY_SECOND] = "only in the second",
    };
    _Static_assert(G_N_ELEMENTS(words) == BL_IMAGE_ONLY_SECOND + 1, "one for each");
    static const char *const keys[] = {
        [BL_IMAGE_DIFFERS] = "differs",
        [BL_IMAGE_ONLY_FIRST] = "only first",
        [BL_IMAGE_ONLY_SECOND] = "only second",
    };
    _Static_assert(G_N_ELEMENTS(keys) == BL_IMAGE_ONLY_SECOND + 1, "one for each");
    comparison *c = context;
    char name[300] = "";
    c->counts[kind] += range.count;
    whereis_describe(&c->names_known, range.first, name, sizeof name);
    if (c->list != NULL) {
        json_array_append_new(c->list, json_pack("{s:s,s:I,s:I,s:s}", "kind", keys[kind], "first",
                                                 (json_int_t)range.first, "count",
                                                 (json_int_t)range.count, "place", name));
        return;
    }
    char *text = range.count == 1 ? g_strdup(cli_address(c->b, range.first))
                                  : g_strdup_printf("%s..%s", cli_address(c->b, range.first),
                                                    cli_address(c->b, bl_range_last(range)));
    printf("  %-16s %s", text, words[kind]);
    g_free(text);
    if (kind != BL_IMAGE_ONLY_SECOND) show_bytes(c->images[0], range);
    if (kind == BL_IMAGE_DIFFERS) printf(" |");
    if (kind != BL_IMAGE_ONLY_FIRST) show_bytes(c->images[1], range);
    printf("%s%s\n", *name != '\0' ? "  " : "", name);
}

static int compare_files(comparison *c)
{
    bool same = bl_image_compare(c->images[0], c->images[1], c, visit);
    if (c->list != NULL) {
        json_t *all = json_pack("{s:b,s:I,s:I,s:I,s:o}", "same", same, "different",
                                (json_int_t)c->counts[0], "only_first", (json_int_t)c->counts[1],
                                "only_second", (json_int_t)c->counts[2], "ranges", c->list);
        answer(all);
    } else if (same) {
        printf("same: all %lu bytes, at the same addresses\n",
               (unsigned long)bl_image_size(c->images[0]));
    } else {
        printf("%lu bytes differ, %lu are only in %s, %lu only in %s\n",
               (unsigned long)c->counts[0], (unsigned long)c->counts[1], c->names[0],
               (unsigned long)c->counts[2], c->names[1]);
    }
    return same ? EXIT_GOOD : EXIT_FAILED;
}

/* Exit 1 when they differ, as check and verify have it. */
static int run_compare(int argc, char **argv)
{
    bl_image *first = NULL, *second = NULL;
    bench *b = NULL;
    project *p = NULL;
    if (argc != 3) return cli_usage("two files: bootlace image compare FIRST SECOND");
    int code = cli_bench(false, &b);
    if (code == EXIT_GOOD) code = read_input(argv[1], &first);
    if (code == EXIT_GOOD) code = read_input(argv[2], &second);
    if (code == EXIT_GOOD) {
        comparison c = {.images = {first, second}, .names = {argv[1], argv[2]}, .b = b};
        if (given.json) c.list = json_array();
        /* Names help; without a build that works there are none. */
        if (b != NULL && project_build(b, PROJECT_ALL, NULL, NULL, &p) == BL_OK)
            whereis_add_project(&c.names_known, p);
        code = compare_files(&c);
    }
    project_close(p);
    bl_image_close(first);
    bl_image_close(second);
    bench_close(b);
    return code;
}

const subcommand image_join = {
    .name = "join",
    .words = {"image join FILE[@ADDRESS]... -o OUT",
              "Puts images together into one. Two values for one byte are an error; the entry "
              "point is that "
              "of the first file that has one. A raw binary needs its address behind @.",
              "  bootlace image join out/chips.hex lamp.hex -o all.hex\n"
              "  bootlace image join rom.bin@0xC000 lamp.hex -o all.srec"},
    .tables = (const GOptionEntry *const[]){output_options, fill_entries, at_entries, quiet_options,
                                            NULL},
    .run = join,
    .brief = "several into one",
};

const subcommand image_cut = {
    .name = "cut",
    .words = {"image cut IN -r RANGE -o OUT", "Keeps a range of an image and leaves the rest out.",
              "  bootlace image cut out/chips.hex -r 0xC000+256 -o page.hex\n"
              "  bootlace image cut out/chips.hex -r eyelet -o eyelet.bin"},
    .tables = (const GOptionEntry *const[]){output_options, range_entries, fill_entries, at_entries,
                                            bench_options, NULL},
    .run = cut_image,
    .brief = "a range of one",
};

const subcommand image_compare = {
    .name = "compare",
    .words = {"image compare FIRST SECOND",
              "Compares two images byte for byte: the ranges that differ, or that only one has, "
              "with symbols "
              "where a bench file builds them. Exit status 1 when they differ.",
              "  bootlace image compare lamp.hex back.hex\n"
              "  bootlace image compare out/U5.bin U5.bin --at 0x8000"},
    .tables = (const GOptionEntry *const[]){at_entries, bench_options, json_options, NULL},
    .run = run_compare,
    .brief = "two, byte for byte",
};
