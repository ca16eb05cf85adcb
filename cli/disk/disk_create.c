/* disk_create.c - bootlace disk create: an empty disk, or a copy of a template. */
#include <stdio.h>
#include <string.h>
#include <sys/stat.h>

#include "disk/disk_make.h"
#include "disk_commands.h"
#include "files/replace.h"

static struct {
    char *kind, *size, *label, *from, *layout;
    gboolean partition, in_place, force;
} options;

static const GOptionEntry entries[] = {
    {"kind", 0, 0, G_OPTION_ARG_STRING, &options.kind, "fat12, fat16, classic or bare", "KIND"},
    {"size", 0, 0, G_OPTION_ARG_STRING, &options.size,
     "1440K, 1.44M, 32M, 2G (default: as usual for the kind)", "SIZE"},
    {"partition", 0, 0, G_OPTION_ARG_NONE, &options.partition,
     "with a partition table, as cards have it (FAT)", NULL},
    {"label", 0, 0, G_OPTION_ARG_STRING, &options.label, "name of the volume", "LABEL"},
    {"from", 0, 0, G_OPTION_ARG_FILENAME, &options.from,
     "a copy of this template, which is only read", "TEMPLATE"},
    {"layout", 0, 0, G_OPTION_ARG_STRING, &options.layout,
     "of a classic disk: one of the bench file, or 8-inch-250k, 8-inch-500k, 5-inch-200k, "
     "5-inch-400k, 3-inch-720k, 3-inch-1440k, card-8m",
     "NAME"},
    {"in-place", 0, 0, G_OPTION_ARG_NONE, &options.in_place,
     "on an image that is there, of its size, sector by sector, as on a device", NULL},
    {"force", 0, 0, G_OPTION_ARG_NONE, &options.force,
     "replace what is there: all that is on it is lost", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* Is there anything at this name that a new disk would destroy? An image of one byte alone, as it
 * is made to create a disk on it in place, is nothing. */
static bool holds_something(const char *path)
{
    enum { PIECE = 65536 };
    struct stat s;
    if (lstat(path, &s) != 0) return false;
    bool image = options.in_place && stat(path, &s) == 0 && S_ISREG(s.st_mode);
    FILE *f = image ? fopen(path, "rb") : NULL;
    if (f == NULL) return true;
    uint8_t *bytes = g_malloc(PIECE);
    int first = fgetc(f);
    bool same = true;
    for (size_t n; same && (n = fread(bytes, 1, PIECE, f)) > 0;)
        for (size_t i = 0; i < n && same; i++)
            same = bytes[i] == first;
    fclose(f);
    g_free(bytes);
    return !same;
}

static int check_create(int argc, char **argv)
{
    if (argc != 2) return cli_usage("one disk: bootlace disk create DISK --kind fat12");
    if (options.from == NULL && options.kind == NULL)
        return cli_usage("what kind of disk? --kind fat12, fat16, classic or bare; or --from "
                         "TEMPLATE");
    if (options.from != NULL && (options.kind != NULL || options.size != NULL ||
                                 options.label != NULL || options.partition))
        return cli_usage("--from TEMPLATE copies all of it; --kind, --size, --label and "
                         "--partition are for empty disks");
    if (options.from != NULL && replace_same(options.from, argv[1]))
        return cli_usage("%s is the template itself", argv[1]);
    if (!options.force && holds_something(argv[1]))
        return fail(
            "%s is there already; nothing was changed\n  --force replaces it: all that is on "
            "it is lost",
            argv[1]);
    return EXIT_GOOD;
}

/* The numbers of an empty disk. */
static int take_wish(disk_job *j, disk_wish *w)
{
    *w =
        (disk_wish){.partition = options.partition, .label = options.label, .now = disk_time_now()};
    w->kind = bl_disk_kind_named((bl_text){options.kind, strlen(options.kind)});
    if (w->kind == BL_DISK_UNKNOWN)
        return cli_usage("--kind %s: fat12, fat16, classic or bare", options.kind);
    if (options.size != NULL && !bench_disk_size(options.size, &w->bytes))
        return cli_usage("--size %s: like 1440K, 1.44M or 2G", options.size);
    if (options.layout != NULL && w->kind != BL_DISK_CLASSIC)
        return cli_usage("--layout is for classic disks");
    if (options.layout != NULL) {
        w->layout = disk_layout_named(j->b, options.layout);
        if (w->layout == NULL)
            return cli_usage("--layout %s: there is none of this name", options.layout);
    } else if (w->kind == BL_DISK_CLASSIC && j->b != NULL && options.size == NULL &&
               j->b->disk.layout_count > 0) {
        w->layout = &j->b->disk.layouts[0];
    }
    const char *epoch = g_getenv("SOURCE_DATE_EPOCH");
    w->serial = epoch != NULL ? (uint32_t)g_ascii_strtoull(epoch, NULL, 10) : g_random_int();
    return EXIT_GOOD;
}

/* A template must be a disk that is whole: a copy of a broken one would be blamed later. */
static int check_template(disk_job *j)
{
    bl_disk_report r = {.find = NULL};
    bl_status status = bl_disk_check(&j->v.disk, false, &r);
    if (status == BL_OK) return EXIT_GOOD;
    if (status != BL_E_DAMAGED) return EXIT_FAILED;
    return fail("%s: the template is not whole: bootlace disk check %s", options.from,
                options.from);
}

/* The new image, looked at as somebody else would who finds it. */
static int describe_new(disk_job *j, const char *path)
{
    bl_disk_space s;
    char label[BL_DISK_NAME];
    disk_job seen = {.b = NULL};
    disk_opening how = {.b = j->b, .layout = options.layout};
    if (disk_volume_open(path, &how, &cli_sink, &seen.v) != BL_OK) return EXIT_FAILED;
    seen.open = true;
    bl_disk_report r = {.find = NULL};
    bl_status status = bl_disk_space_of(&seen.v.disk, &s);
    if (status == BL_OK) status = bl_disk_check(&seen.v.disk, false, &r);
    bl_disk_label(&seen.v.disk, label);
    if (status == BL_OK && given.json)
        answer(json_pack("{ss ss sI sI ss sb}", "disk", path, "kind",
                         bl_disk_kind_name(bl_disk_kind_of(&seen.v.disk)), "bytes",
                         (json_int_t)seen.v.image.bytes, "bytes_free",
                         (json_int_t)((uint64_t)s.free * s.unit), "label", label, "verified",
                         true));
    if (status == BL_OK) {
        disk_result("%s: %s%s", path, disk_kind_text(&seen),
                    seen.v.partition_count > 0 ? ", in a partition" : "");
        disk_result("%s the new disk was checked: %s, %llu bytes free", cli_verified(),
                    disk_count(r.files, "file", "files"), (unsigned long long)s.free * s.unit);
    }
    disk_job_end(&seen);
    return status == BL_OK ? EXIT_GOOD : fail("%s: %s", path, bl_status_text(status));
}

/* The image in memory, of an empty disk or a template, is put in place; or all of it is done on
 * what is there. */
static int make_image(disk_job *j, const char *path, const disk_wish *w)
{
    if (options.from == NULL && disk_make(w, &cli_sink, &j->v.image) != BL_OK) return EXIT_FAILED;
    int code = disk_image_commit(&j->v.image, path, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    if (options.from == NULL) disk_image_close(&j->v.image);
    return code;
}

static int make_in_place(disk_job *j, const char *path, const disk_wish *w)
{
    disk_image target;
    if (disk_image_open(path, 0, true, DISK_CHANGES, &cli_sink, &target) != BL_OK)
        return EXIT_FAILED;
    bl_status status = BL_OK;
    int code = EXIT_GOOD;
    if (w->bytes != 0 && w->bytes != target.bytes)
        code = cli_usage("%s has %llu bytes: leave --size out", path,
                         (unsigned long long)target.bytes);
    else if (options.from != NULL)
        status = disk_image_copy(&j->v.image, &target, &cli_sink);
    else
        status = disk_make_on(w, &cli_sink, &target);
    if (status == BL_OK && code == EXIT_GOOD) status = disk_image_commit(&target, path, &cli_sink);
    disk_image_close(&target);
    return status == BL_OK ? code : EXIT_FAILED;
}

static int open_template(disk_job *j)
{
    disk_opening how = {.b = j->b, .layout = options.layout};
    if (disk_volume_open(options.from, &how, &cli_sink, &j->v) != BL_OK) return EXIT_FAILED;
    j->open = true;
    return check_template(j);
}

static bool is_device(const char *path)
{
    struct stat s;
    return stat(path, &s) == 0 && S_ISBLK(s.st_mode);
}

static int run_create(int argc, char **argv)
{
    disk_job j = {.v = {.image = {.fd = -1}}};
    disk_wish w = {.bytes = 0};
    int code = check_create(argc, argv);
    if (code == EXIT_GOOD) code = disk_job_bench(false, &j);
    if (code == EXIT_GOOD) code = options.from != NULL ? open_template(&j) : take_wish(&j, &w);
    if (code == EXIT_GOOD)
        code = options.in_place || is_device(argv[1]) ? make_in_place(&j, argv[1], &w)
                                                      : make_image(&j, argv[1], &w);
    if (code == EXIT_GOOD) code = describe_new(&j, argv[1]);
    disk_job_end(&j);
    return code;
}

const subcommand disk_create = {
    .name = "create",
    .words = {"disk create DISK", "Makes an empty disk, or a copy of a template.",
              "  bootlace disk create skerry.img --kind fat12 --size 1440K --label SKERRY\n"
              "  bootlace disk create card.img --kind fat16 --size 64M --partition\n"
              "  bootlace disk create tonight.img --from template.img"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = run_create,
    .brief = "an empty disk, or a copy of a template",
};
