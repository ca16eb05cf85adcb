/* command_image.c - bootlace image show | convert; the others are in image_files.c. */
#include "image_commands.h"
#include "json_answer.h"
#include "where.h"

#include <jansson.h>
#include <string.h>

static struct {
    char *at, *range, *fill;
} options;

static const GOptionEntry entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary begins", "ADDRESS"},
    {"range", 'r', 0, G_OPTION_ARG_STRING, &options.range,
     "only this part: FIRST..LAST or FIRST+COUNT", "RANGE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry convert_entries[] = {
    {"fill", 0, 0, G_OPTION_ARG_STRING, &options.fill,
     "what gaps of a raw binary hold (default 0xFF)", "BYTE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* The entry point goes along only when it lies in what is kept. */
int image_keep(bl_image **image, bl_range range, const char *shown)
{
    uint32_t entry;
    bl_image *part = NULL;
    if (bl_image_open(&host_memory, &part) != BL_OK) return fail("out of memory");
    bl_status status = BL_OK;
    for (size_t i = 0; i < bl_image_pieces(*image) && status == BL_OK; i++) {
        bl_piece p = bl_image_piece(*image, i);
        uint64_t first = MAX(p.first, range.first),
                 end = MIN((uint64_t)p.first + p.count, range.first + range.count);
        if (first < end)
            status = bl_image_put(part, (uint32_t)first, p.bytes + (first - p.first),
                                  (size_t)(end - first), (bl_origin){0, 0});
    }
    if (bl_image_entry(*image, &entry) && bl_range_meet(range, (bl_range){entry, 1}))
        bl_image_set_entry(part, entry);
    bl_image_close(*image);
    *image = part;
    if (status != BL_OK) return fail("%s", bl_status_text(status));
    return bl_image_size(part) > 0 ? EXIT_GOOD : fail("nothing of the image lies in %s", shown);
}

/* What of the image lies in the range asked for, which may name areas and symbols of a bench. */
static int cut_range(bl_image **image)
{
    bl_range range;
    bench *b = NULL;
    if (options.range == NULL) return EXIT_GOOD;
    int code = cli_bench(false, &b);
    if (code == EXIT_GOOD)
        code = where_range(&(places){.b = b, .count = PLACES_FILE}, "-r", options.range, &range);
    bench_close(b);
    return code == EXIT_GOOD ? image_keep(image, range, options.range) : code;
}

/* Rows begin at multiples of 16, so that a column is the low digit of the address. */
static void dump(bl_piece p)
{
    for (size_t at = 0; at < p.count;) {
        uint32_t address = p.first + (uint32_t)at;
        size_t n = MIN(16 - address % 16, p.count - at);
        printf("%s ", cli_address(NULL, address));
        for (size_t i = 0; i < address % 16; i++)
            printf("   ");
        for (size_t i = 0; i < n; i++)
            printf(" %02X", p.bytes[at + i]);
        for (size_t i = address % 16 + n; i < 16; i++)
            printf("   ");
        printf("  ");
        for (size_t i = 0; i < address % 16; i++)
            putchar(' ');
        for (size_t i = 0; i < n; i++)
            putchar(g_ascii_isprint(p.bytes[at + i]) ? p.bytes[at + i] : '.');
        putchar('\n');
        at += n;
    }
}

/* Pieces, entry and checksums: what tells two builds apart. */
static void show_text(const char *path, const bl_image *image)
{
    uint32_t entry;
    size_t pieces = bl_image_pieces(image);
    printf("%s: %lu bytes in %zu piece%s", path, (unsigned long)bl_image_size(image), pieces,
           pieces == 1 ? "" : "s");
    if (bl_image_entry(image, &entry)) printf(", entry %s", cli_address(NULL, entry));
    printf("\n");
    if (pieces > 0)
        printf("  %-20s %8s  %-9s %-7s %s\n", "addresses", "bytes", "CRC-32", "CRC-16", "sum-16");
    for (size_t i = 0; i < pieces; i++) {
        bl_piece p = bl_image_piece(image, i);
        char *range = g_strdup_printf("%s..%s", cli_address(NULL, p.first),
                                      cli_address(NULL, p.first + (uint32_t)(p.count - 1)));
        printf("  %-20s %8zu  %08X  %04X    %04X\n", range, p.count, bl_crc32(0, p.bytes, p.count),
               bl_crc16(0, p.bytes, p.count), bl_sum16(0, p.bytes, p.count));
        g_free(range);
    }
    for (size_t i = 0; i < pieces && options.range != NULL; i++)
        dump(bl_image_piece(image, i));
}

static void answer_image(const bl_image *image)
{
    uint32_t entry;
    json_t *pieces = json_array(), *all = json_object();
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        json_array_append_new(pieces,
                              json_pack("{s:I,s:I,s:I,s:I,s:I}", "first", (json_int_t)p.first,
                                        "count", (json_int_t)p.count, "crc32",
                                        (json_int_t)bl_crc32(0, p.bytes, p.count), "crc16",
                                        (json_int_t)bl_crc16(0, p.bytes, p.count), "sum16",
                                        (json_int_t)bl_sum16(0, p.bytes, p.count)));
    }
    json_object_set_new(all, "bytes", json_integer((json_int_t)bl_image_size(image)));
    json_object_set_new(all, "entry",
                        bl_image_entry(image, &entry) ? json_integer(entry) : json_null());
    json_object_set_new(all, "pieces", pieces);
    answer(all);
}

static int show_image(int argc, char **argv)
{
    bl_image *image;
    if (argc != 2)
        return cli_usage(argc < 2 ? "no file given: bootlace image show FILE"
                                  : "one file at a time");
    int code = cli_read_image(NULL, argv[1], options.at, &image);
    if (code == EXIT_GOOD) code = cut_range(&image);
    if (code == EXIT_GOOD && given.json)
        answer_image(image);
    else if (code == EXIT_GOOD)
        show_text(argv[1], image);
    bl_image_close(image);
    return code;
}

int image_write(const bl_image *image, bl_filetype type, uint8_t fill, bool asked)
{
    host_output out;
    bl_writer writer;
    if (cli_check_binary(image, type, asked) != EXIT_GOOD) return EXIT_USAGE;
    host_output_begin(&out, &writer);
    char *title = g_path_get_basename(given.out);
    bl_status status = bl_imagefile_write(type, image, fill, title, &writer);
    g_free(title);
    if (status == BL_OK)
        return host_output_end(&out, given.out, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    host_output_drop(&out);
    return fail("%s: %s; cut a part out with -r", given.out, bl_status_text(status));
}

int image_output_type(bl_filetype *type)
{
    if (given.out == NULL) return cli_usage("no output file: give -o FILE");
    *type = cli_output_type();
    if (*type == BL_FILE_UNKNOWN && given.format != NULL)
        return cli_usage("-f %s: the formats are bin, hex and srec", given.format);
    if (*type == BL_FILE_UNKNOWN)
        return cli_usage("%s: its ending names no format; give -f bin, hex or srec", given.out);
    return EXIT_GOOD;
}

/* The format of the output follows from its ending, or from -f; a format that cannot hold the
 * addresses is an error. */
static int convert(int argc, char **argv)
{
    bl_image *image;
    uint32_t fill = 0xFF;
    if (argc != 2)
        return cli_usage(argc < 2 ? "no file given: bootlace image convert IN -o OUT"
                                  : "one file at a time");
    bl_filetype type;
    if (image_output_type(&type) != EXIT_GOOD) return EXIT_USAGE;
    if (cli_check_outputs(&(cli_output){"-o", given.out}, 1,
                          (const char *const[]){argv[1], NULL}) != EXIT_GOOD)
        return EXIT_USAGE;
    if (options.fill != NULL && where_number("--fill", options.fill, 255, &fill) != EXIT_GOOD)
        return EXIT_USAGE;
    int code = cli_read_image(NULL, argv[1], options.at, &image);
    if (code == EXIT_GOOD) code = cut_range(&image);
    if (code == EXIT_GOOD) code = image_write(image, type, (uint8_t)fill, options.fill != NULL);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes as %s%s", given.out, (unsigned long)bl_image_size(image),
            bl_filetype_text(type),
            type == BL_FILE_BIN && bl_image_pieces(image) > 1 ? ", gaps filled" : "");
    bl_image_close(image);
    return code;
}

static const subcommand image_show = {
    .name = "show",
    .words = {"image show FILE",
              "Shows what an image file holds: pieces, checksums, entry point; with -r its bytes.",
              "  bootlace image show out/chips.hex\n  bootlace image show rom.bin --at 0xC000 -r "
              "0xFFFA..0xFFFF"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = show_image,
    .brief = "pieces, checksums, entry point, bytes",
};

static const subcommand image_convert = {
    .name = "convert",
    .words = {"image convert IN -o OUT", "Converts between raw binary, Intel HEX and S-record.",
              "  bootlace image convert rom.bin --at 0xC000 -o rom.hex\n"
              "  bootlace image convert rom.hex -r 0xC000..0xFFFF --fill 0xFF -o rom.bin"},
    .tables = (const GOptionEntry *const[]){output_options, convert_entries, entries, bench_options,
                                            NULL},
    .run = convert,
    .brief = "between bin, hex and srec",
};

int command_image(int argc, char **argv)
{
    static const subcommand *const all[] = {&image_show, &image_convert, &image_join,
                                            &image_cut,  &image_compare, NULL};
    static const subcommands s = {"image", all, NULL, "bootlace image show out/chips.hex"};
    return cli_run_subcommand(&s, argc, argv);
}
