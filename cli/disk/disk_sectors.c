/* disk_sectors.c - bootlace disk sectors: sectors by number, or by track, side and sector. */
#include <stdio.h>
#include <string.h>

#include "disk_commands.h"

static struct {
    char *geometry, *write;
    int skew, size;
} options;

static const GOptionEntry entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out, "file to write, - for standard output",
     "FILE"},
    {"write", 0, 0, G_OPTION_ARG_FILENAME, &options.write,
     "instead: write these bytes to the sectors, and read them back", "FILE"},
    {"geometry", 0, 0, G_OPTION_ARG_STRING, &options.geometry,
     "tracks, sides and sectors of a track, for TRACK/SIDE/SECTOR", "80x2x18"},
    {"skew", 0, 0, G_OPTION_ARG_INT, &options.skew,
     "physical sectors from one sector of a track to the next", "N"},
    {"size", 0, 0, G_OPTION_ARG_INT, &options.size, "bytes of a sector (default 512, or 128)", "N"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static int take_geometry(bl_geometry *g)
{
    unsigned tracks, sides, sectors;
    char end;
    *g = (bl_geometry){.skew = (uint8_t)options.skew};
    if (options.skew < 0 || options.skew > 255)
        return cli_usage("--skew %d: 0 to 255", options.skew);
    if (options.geometry == NULL) return EXIT_GOOD;
    if (sscanf(options.geometry, "%ux%ux%u%c", &tracks, &sides, &sectors, &end) != 3 ||
        tracks == 0 || tracks > 65535 || sides == 0 || sides > 255 || sectors == 0 || sectors > 255)
        return cli_usage("--geometry %s: TRACKSxSIDESxSECTORS, like 80x2x18", options.geometry);
    g->tracks = (uint16_t)tracks, g->sides = (uint8_t)sides, g->sectors = (uint16_t)sectors;
    return EXIT_GOOD;
}

/* "3/1/9" */
static int take_sector_place(const bl_geometry *g, const char *text, uint32_t *sector)
{
    unsigned track, side, number;
    char end;
    if (g->tracks == 0) return cli_usage("%s: --geometry TRACKSxSIDESxSECTORS is needed", text);
    if (sscanf(text, "%u/%u/%u%c", &track, &side, &number, &end) != 3)
        return cli_usage("%s: TRACK/SIDE/SECTOR, like 0/0/1", text);
    if (!bl_geometry_sector(g, track, side, number, sector))
        return cli_usage("%s: tracks are 0 to %u, sides 0 to %u, sectors 1 to %u", text,
                         g->tracks - 1u, g->sides - 1u, g->sectors);
    return EXIT_GOOD;
}

/* The sectors that are meant, in order. With a skew neighbours by number are none on the disk. */
static int take_sectors(const bl_geometry *g, const char *text, uint32_t limit, GArray *all)
{
    bl_range range;
    uint32_t sector, one;
    const char *dots = strstr(text, "..");
    if (strchr(text, '/') != NULL && dots == NULL) {
        int code = take_sector_place(g, text, &sector);
        if (code == EXIT_GOOD) g_array_append_val(all, sector);
        return code;
    }
    if (strchr(text, '/') != NULL) {
        bl_geometry plain = *g;
        char *first_text = g_strndup(text, (gsize)(dots - text));
        uint32_t first, last;
        plain.skew = 0;
        int code = take_sector_place(&plain, first_text, &first);
        if (code == EXIT_GOOD) code = take_sector_place(&plain, dots + 2, &last);
        g_free(first_text);
        if (code != EXIT_GOOD) return code;
        if (last < first) return cli_usage("%s: it ends before it begins", text);
        for (uint32_t i = first; i <= last; i++) {
            sector =
                i - i % g->sectors + bl_skewed(g->sectors, g->skew, (uint16_t)(i % g->sectors));
            g_array_append_val(all, sector);
        }
        return EXIT_GOOD;
    }
    if (bl_number_parse((bl_text){text, strlen(text)}, limit - 1, &one) == BL_OK)
        range = (bl_range){one, 1};
    else if (bl_range_parse((bl_text){text, strlen(text)}, &range) != BL_OK)
        return cli_usage("%s: sectors are N, FIRST..LAST, FIRST+COUNT or TRACK/SIDE/SECTOR", text);
    if (range.first + range.count > limit)
        return cli_usage("%s: the disk has sectors 0 to %u", text, limit - 1);
    for (uint64_t i = 0; i < range.count; i++) {
        sector = (uint32_t)(range.first + i);
        g_array_append_val(all, sector);
    }
    return EXIT_GOOD;
}

static int read_sectors(disk_image *image, const GArray *all)
{
    host_output out;
    bl_writer writer;
    uint8_t *bytes = g_malloc(image->sectors.size);
    int code = EXIT_GOOD;
    host_output_begin(&out, &writer);
    for (guint i = 0; i < all->len && code == EXIT_GOOD; i++) {
        uint32_t sector = g_array_index(all, uint32_t, i);
        bl_status status = image->sectors.read(image->sectors.context, sector, bytes);
        if (status != BL_OK)
            code = fail("sector %u cannot be read: %s", sector, bl_status_text(status));
        else
            writer.write(writer.context, bytes, image->sectors.size);
    }
    g_free(bytes);
    if (code == EXIT_GOOD)
        return host_output_end(&out, given.out, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    host_output_drop(&out);
    return code;
}

static int write_sectors(disk_image *image, const GArray *all)
{
    char *text = NULL;
    size_t length = 0, size = image->sectors.size;
    int code = EXIT_GOOD;
    if (host_read_file(options.write, &text, &length, &cli_sink) != BL_OK) return EXIT_FAILED;
    if (length != size * all->len)
        code = fail("%s has %zu bytes, and %u sectors have %zu", options.write, length, all->len,
                    size * all->len);
    uint8_t *back = g_malloc(size);
    for (guint i = 0; i < all->len && code == EXIT_GOOD; i++) {
        uint32_t sector = g_array_index(all, uint32_t, i);
        const uint8_t *bytes = (const uint8_t *)text + i * size;
        bl_status status = image->sectors.write(image->sectors.context, sector, bytes);
        if (status == BL_OK) status = image->sectors.read(image->sectors.context, sector, back);
        if (status == BL_OK && memcmp(back, bytes, size) != 0) status = BL_E_DIFFERS;
        if (status != BL_OK)
            code = fail("sector %u cannot be written: %s", sector, bl_status_text(status));
    }
    g_free(back);
    g_free(text);
    if (code == EXIT_GOOD && disk_image_commit(image, image->path, &cli_sink) != BL_OK)
        code = EXIT_FAILED;
    return code;
}

static int run_sectors(int argc, char **argv)
{
    disk_image image = {.fd = -1};
    bl_geometry g;
    if (argc != 3)
        return cli_usage("a disk, and sectors: bootlace disk sectors DISK RANGE -o FILE");
    if ((given.out == NULL) == (options.write == NULL))
        return cli_usage("-o FILE reads sectors, --write FILE writes them: one of them is needed");
    bool power = (options.size & (options.size - 1)) == 0;
    if (options.size != 0 && (options.size < 128 || options.size > 4096 || !power))
        return cli_usage("--size %d: 128, 256, 512, 1024, 2048 or 4096", options.size);
    int code = take_geometry(&g);
    if (code != EXIT_GOOD) return code;
    if (disk_image_open(argv[1], (uint16_t)options.size, false,
                        options.write != NULL ? DISK_CHANGES : DISK_READS, &cli_sink,
                        &image) != BL_OK)
        return EXIT_FAILED;
    GArray *all = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    code = take_sectors(&g, argv[2], image.sectors.count, all);
    for (guint i = 0; i < all->len && code == EXIT_GOOD; i++)
        if (g_array_index(all, uint32_t, i) >= image.sectors.count)
            code = fail("sector %u: the disk has sectors 0 to %u", g_array_index(all, uint32_t, i),
                        image.sectors.count - 1);
    if (code == EXIT_GOOD)
        code = options.write != NULL ? write_sectors(&image, all) : read_sectors(&image, all);
    bool quiet = given.out != NULL && strcmp(given.out, "-") == 0;
    if (code == EXIT_GOOD && given.json && !quiet)
        answer(json_pack("{ss si si sb}", "disk", argv[1], "sectors", (int)all->len, "size",
                         image.sectors.size, "written", options.write != NULL));
    else if (code == EXIT_GOOD && !quiet)
        disk_result("%s%s%s of %u bytes %s", options.write != NULL ? cli_verified() : "",
                    options.write != NULL ? " " : "", disk_count(all->len, "sector", "sectors"),
                    image.sectors.size, options.write != NULL ? "written and read back" : "read");
    g_array_unref(all);
    disk_image_close(&image);
    return code;
}

const subcommand disk_sectors = {
    .name = "sectors",
    .words = {"disk sectors DISK RANGE -o FILE",
              "Reads sectors of an image, by number from 0, or by track, side and sector.",
              "  bootlace disk sectors skerry.img 0 -o boot.bin\n"
              "  bootlace disk sectors skerry.img 2/0/1..2/1/18 --geometry 80x2x18 -o track.bin\n"
              "  bootlace disk sectors skerry.img 0 --write boot.bin"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = run_sectors,
    .brief = "sectors by number, or by track, side and sector",
};
