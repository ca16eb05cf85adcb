/* disk_put.c - bootlace disk put: files and programs onto a disk. */
#include <string.h>
#include <sys/stat.h>

#include "disk/disk_program.h"
#include "disk_commands.h"
#include "upload/payload.h"

static struct {
    char *to, *wrap, *at, *attributes;
    gboolean starts;
} options;

static const GOptionEntry entries[] = {
    {"to", 0, 0, G_OPTION_ARG_STRING, &options.to,
     "its path on the disk; with several files, or a / at the end, the folder", "PATH"},
    {"wrap", 0, 0, G_OPTION_ARG_STRING, &options.wrap,
     "with this wrapper of the bench file around it", "NAME"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {"attributes", 0, 0, G_OPTION_ARG_STRING, &options.attributes,
     "r read-only, h hidden, s system (default none of them)", "LETTERS"},
    {"starts", 0, 0, G_OPTION_ARG_NONE, &options.starts, "on a bare disk: it starts at power-up",
     NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static int take_attributes(uint8_t *attributes)
{
    *attributes = BL_DISK_ARCHIVE;
    for (const char *c = options.attributes; c != NULL && *c != '\0'; c++) {
        uint8_t bit = *c == 'r'   ? BL_DISK_READ_ONLY
                      : *c == 'h' ? BL_DISK_HIDDEN
                      : *c == 's' ? BL_DISK_SYSTEM
                                  : 0;
        if (bit == 0)
            return cli_usage("--attributes %s: letters of r, h and s", options.attributes);
        *attributes = (uint8_t)(*attributes | bit);
    }
    return EXIT_GOOD;
}

static bool is_folder(disk_job *j, const char *path)
{
    bl_disk_entry e;
    return bl_disk_has(&j->v.disk, path, &e) && e.folder;
}

/* Where a file goes. */
static char *path_for_file(disk_job *j, const char *file, bool program, bool several)
{
    bl_disk_kind kind = bl_disk_kind_of(&j->v.disk);
    bool renamed = program && (kind == BL_DISK_BARE || g_str_has_suffix(file, ".asm"));
    char *name = renamed ? disk_program_name(kind, file) : g_path_get_basename(file);
    bool into = options.to != NULL &&
                (several || g_str_has_suffix(options.to, "/") || is_folder(j, options.to));
    char *path =
        options.to == NULL ? g_strdup(name)
        : into ? g_strconcat(options.to, g_str_has_suffix(options.to, "/") ? "" : "/", name, NULL)
               : g_strdup(options.to);
    char *with_user = disk_path(path);
    g_free(path);
    g_free(name);
    return with_user;
}

/* Sources and images are programs where addresses count: on a bare disk, and with a wrapper. */
static bool is_program_here(disk_job *j, const char *file)
{
    bool counts = bl_disk_kind_of(&j->v.disk) == BL_DISK_BARE || options.wrap != NULL;
    bl_filetype type = bl_filetype_of((bl_text){file, strlen(file)});
    bool records = bl_filetype_is_records(type);
    return options.at != NULL || (counts && (records || g_str_has_suffix(file, ".asm")));
}

static int load_program(disk_job *j, const char *file, const bl_wrap *wrap, disk_content *c)
{
    payload load;
    char *stem = host_stem(file);
    bool source = !payload_is_image(file, options.at);
    int code = disk_job_bench(source, j);
    if (code == EXIT_GOOD) {
        code = payload_begin(j->b, file, options.at, NULL, &load);
        if (code == EXIT_GOOD &&
            disk_program(j->b, load.image, wrap, stem, &cli_sink, &c->bytes, &c->file) != BL_OK)
            code = EXIT_FAILED;
        payload_end(&load);
    }
    g_free(stem);
    return code;
}

/* Bytes as they are, or with a wrapper that needs no addresses. */
static int load_bytes(const char *file, const bl_wrap *wrap, disk_content *c)
{
    char *text = NULL;
    size_t length = 0;
    bl_status status = host_read_file(file, &text, &length, &cli_sink);
    if (status != BL_OK) return EXIT_FAILED;
    if (length > UINT32_MAX) {
        g_free(text);
        return fail("%s: it is too large for any disk here", file);
    }
    char *stem = host_stem(file);
    status = disk_plain(wrap, stem, (bl_text){text, length}, &cli_sink, &c->bytes);
    g_free(stem);
    g_free(text);
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

static int put_one(disk_job *j, const char *file, bool several, uint8_t attributes, json_t *list)
{
    const bl_wrap *wrap = NULL;
    bl_disk_entry stored;
    struct stat info;
    disk_content c = {.path = NULL};
    bool program = is_program_here(j, file);
    int code = options.wrap != NULL ? disk_job_wrap(j, options.wrap, &wrap) : EXIT_GOOD;
    if (code != EXIT_GOOD) return code;
    c.path = path_for_file(j, file, program, several);
    bool known = bl_disk_has(&j->v.disk, c.path, &stored); /* by its long name, perhaps */
    code = program ? load_program(j, file, wrap, &c) : load_bytes(file, wrap, &c);
    if (code == EXIT_GOOD) {
        c.file.bytes = c.bytes->data, c.file.size = c.bytes->len;
        c.file.attributes = attributes, c.file.starts = options.starts;
        if (options.starts) disk_start_at_begin(j->b, file, &c.file);
        bool dated = strcmp(file, "-") != 0 && stat(file, &info) == 0 &&
                     g_getenv("SOURCE_DATE_EPOCH") == NULL;
        if (dated) c.file.changed = disk_time_of(info.st_mtime);
        if (bl_disk_put(&j->v.disk, c.path, &c.file, &stored) != BL_OK) code = EXIT_FAILED;
    }
    if (code == EXIT_GOOD) {
        detail("%s -> %s, %u bytes", file, stored.name, stored.size);
        if (!known) disk_stored_name(j, c.path);
        json_t *one = disk_entry_json(&stored);
        json_object_set_new(one, "file", json_string(file));
        json_object_set_new(one, "path", json_string(c.path));
        json_array_append_new(list, one);
    }
    if (c.bytes != NULL) g_byte_array_unref(c.bytes);
    g_free(c.path);
    return code;
}

/* Two files of one call that would be one on the disk: the second would silently replace the first.
 */
static int check_twice(disk_job *j, char **files, int count)
{
    GHashTable *seen = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    int code = EXIT_GOOD;
    for (int i = 0; i < count && code == EXIT_GOOD; i++) {
        char *path = path_for_file(j, files[i], is_program_here(j, files[i]), count > 1);
        char *base = g_path_get_basename(path), text[13];
        bl_status status;
        bl_disk_short_name((bl_text){base, strlen(base)}, text, NULL, &status);
        bool bare = bl_disk_kind_of(&j->v.disk) == BL_DISK_BARE;
        char *key = bare ? g_ascii_strup(base, -1) : g_strdup(text);
        if (!g_hash_table_add(seen, key))
            code =
                fail("%s: another of these files would have the same name on the disk", files[i]);
        g_free(base);
        g_free(path);
    }
    g_hash_table_unref(seen);
    return code;
}

static int run_put(int argc, char **argv)
{
    disk_job j = {.changes = true};
    json_t *list = json_array();
    uint8_t attributes;
    int count = argc - 2;
    if (count < 1) {
        json_decref(list);
        return cli_usage("a disk, and files for it: bootlace disk put DISK FILE...");
    }
    int code = take_attributes(&attributes);
    for (int i = 0; i < count && code == EXIT_GOOD; i++)
        if (strcmp(argv[i + 2], "-") == 0 && options.to == NULL)
            code = cli_usage("standard input has no name: --to PATH");
    if (code == EXIT_GOOD && options.starts && count > 1)
        code = cli_usage("--starts goes with one file: only one can start at power-up");
    if (code == EXIT_GOOD) code = disk_job_begin(argv[1], &j);
    if (code == EXIT_GOOD && options.starts && bl_disk_kind_of(&j.v.disk) != BL_DISK_BARE)
        code = cli_usage("--starts is for bare disks; others boot with 'disk boot'");
    if (code == EXIT_GOOD) code = disk_job_sound(&j, argv[1]);
    if (code == EXIT_GOOD) code = check_twice(&j, argv + 2, count);
    for (int i = 0; i < count && code == EXIT_GOOD; i++)
        code = put_one(&j, argv[i + 2], count > 1, attributes, list);
    if (code == EXIT_GOOD)
        code = disk_job_commit(&j, "%s written to %s and read back",
                               disk_count((uint32_t)count, "file", "files"), argv[1]);
    if (code == EXIT_GOOD && given.json)
        answer(json_pack("{ss so sb}", "disk", argv[1], "files", list, "verified", true));
    else
        json_decref(list);
    disk_job_end(&j);
    return code;
}

const subcommand disk_put = {
    .name = "put",
    .words = {"disk put DISK FILE...",
              "Writes files to a disk, and reads them back. A file of the same name is replaced. "
              "On a bare disk, and with a wrapper, a source or an image is a program: its bytes go "
              "there in the order of their addresses.",
              "  bootlace disk put skerry.img notes.txt\n"
              "  bootlace disk put skerry.img lamp.asm --wrap loader --to LAMP.RUN\n"
              "  bootlace disk put card.img lamp.hex --starts"},
    .tables = (const GOptionEntry *const[]){entries, user_options, disk_options, bench_options,
                                            json_options, NULL},
    .run = run_put,
    .brief = "files and programs onto a disk",
};
