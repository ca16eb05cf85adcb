/* disk_get.c - bootlace disk get: files from a disk. */
#include <errno.h>
#include <glib/gstdio.h>
#include <string.h>

#include "disk/disk_program.h"
#include "disk_commands.h"
#include "files/replace.h"

static struct {
    char *wrap;
} options;

static const GOptionEntry entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "file to write, - for standard output; a folder for several files, or a folder of the disk",
     "FILE"},
    {"format", 'f', 0, G_OPTION_ARG_STRING, &given.format,
     "of a program: bin, hex or srec (default: its bytes as they are; of a program by the ending "
     "of -o)",
     "FORMAT"},
    {"wrap", 0, 0, G_OPTION_ARG_STRING, &options.wrap,
     "check this wrapper of the bench file, and take it off", "NAME"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static bl_status gather(void *context, const void *bytes, size_t count)
{
    g_byte_array_append(context, bytes, (guint)count);
    return BL_OK;
}

/* What was found: where its bytes belong, if that is known. */
typedef struct found {
    GByteArray *bytes;
    bool has_load, has_entry;
    uint32_t load, entry;
} found;

static int unwrap(disk_job *j, const char *path, const bl_disk_entry *e, found *f)
{
    bl_wrapped w;
    const bl_wrap *wrap;
    int code = disk_job_wrap(j, options.wrap, &wrap);
    if (code != EXIT_GOOD) return code;
    uint32_t rest = e->rounded ? BL_DISK_RECORD - 1 : 0;
    if (bl_wrap_take(wrap, f->bytes->data, f->bytes->len, rest, &cli_sink, &w) != BL_OK)
        return fail("%s is not wrapped as '%s' says; nothing was written", path, options.wrap);
    GByteArray *plain = g_byte_array_append(g_byte_array_new(), w.bytes, w.size);
    g_byte_array_unref(f->bytes);
    f->bytes = plain;
    f->has_load = w.has_load, f->load = w.load, f->has_entry = w.has_entry, f->entry = w.entry;
    return EXIT_GOOD;
}

/* A program that knows its addresses becomes an image where the ending asks for one. */
static int save_found(disk_job *j, const found *f, const char *path, const char *out)
{
    bl_filetype type = cli_type_of_output(out);
    bl_image *image = NULL;
    bool records = bl_filetype_is_records(type);
    if (given.format != NULL && type == BL_FILE_UNKNOWN)
        return cli_usage("-f %s: bin, hex or srec", given.format);
    if (!records || (!f->has_load && given.format == NULL)) {
        host_output o;
        bl_writer writer;
        host_output_begin(&o, &writer);
        writer.write(writer.context, f->bytes->data, f->bytes->len);
        return host_output_end(&o, out, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    }
    if (!f->has_load)
        return fail("%s: nothing says where its bytes belong, so it cannot be written as records",
                    path);
    unsigned wide = j->b != NULL ? bl_sheet_unit_bytes(j->b->sheet) : 1;
    int code = EXIT_FAILED;
    if (bl_image_open(&host_memory, &image) == BL_OK &&
        bl_image_put(image, f->load * wide, f->bytes->data, f->bytes->len, (bl_origin){0, 0}) ==
            BL_OK) {
        if (f->has_entry) bl_image_set_entry(image, f->entry);
        code = cli_save_image(out, type, image, path);
    }
    bl_image_close(image);
    return code;
}

static int get_one(disk_job *j, const char *path, const char *out, json_t *list)
{
    bl_disk_entry e;
    found f = {.bytes = g_byte_array_new()};
    bl_writer writer = {f.bytes, gather};
    int code = bl_disk_find(&j->v.disk, path, &e) == BL_OK &&
                       bl_disk_get(&j->v.disk, path, &writer) == BL_OK
                   ? EXIT_GOOD
                   : EXIT_FAILED;
    f.has_load = e.has_load, f.load = e.load, f.has_entry = e.has_entry, f.entry = e.entry;
    if (code == EXIT_GOOD && options.wrap != NULL) code = unwrap(j, path, &e, &f);
    if (code == EXIT_GOOD) code = save_found(j, &f, path, out);
    if (code == EXIT_GOOD) {
        json_array_append_new(list, json_pack("{ss ss sI}", "path", path, "file", out, "bytes",
                                              (json_int_t)f.bytes->len));
        detail("%s -> %s, %u bytes", path, out, f.bytes->len);
    }
    g_byte_array_unref(f.bytes);
    return code;
}

/* ---- folders ---- */

/* A name from a disk must not lead out of the folder. */
static bool is_safe_name(const char *name)
{
    return name[0] != '\0' && strcmp(name, ".") != 0 && strcmp(name, "..") != 0 &&
           strpbrk(name, "/\\") == NULL;
}

static int get_folder(disk_job *j, const char *path, const char *out, GHashTable *seen,
                      json_t *list)
{
    GPtrArray *all;
    int code = disk_job_entries(j, path, &all);
    if (code == EXIT_GOOD && g_mkdir_with_parents(out, 0777) != 0)
        code = fail("%s: cannot make this folder: %s", out, g_strerror(errno));
    for (guint i = 0; i < all->len && code == EXIT_GOOD; i++) {
        const bl_disk_entry *e = g_ptr_array_index(all, i);
        if (!is_safe_name(e->name)) {
            code =
                fail("'%s' cannot be the name of a file here; get it alone, with -o FILE", e->name);
            break;
        }
        char *inside = e->user > 0 ? g_strdup_printf("%u:%s", e->user, e->name)
                       : path[0] == '\0' || strcmp(path, "/") == 0
                           ? g_strdup(e->name)
                           : g_strconcat(path, "/", e->name, NULL);
        char *to = g_build_filename(out, e->name, NULL);
        if (e->folder && !g_hash_table_add(seen, GUINT_TO_POINTER(e->first)))
            code = fail("%s is a folder that was copied already: the disk is damaged", inside);
        else if (e->folder)
            code = get_folder(j, inside, to, seen, list);
        else
            code = get_one(j, inside, to, list);
        g_free(inside);
        g_free(to);
    }
    g_ptr_array_unref(all);
    return code;
}

/* A folder of the disk, or the whole of it. */
static bool is_whole_folder(disk_job *j, const char *path)
{
    bl_disk_entry e;
    const char *at = path + strspn(path, "/");
    if (*at == '\0' || g_str_has_suffix(path, ":")) return true;
    return bl_disk_has(&j->v.disk, path, &e) && e.folder;
}

static int get_path(disk_job *j, const char *operand, bool several, json_t *list)
{
    char *path = disk_path(operand);
    /* First clusters of folders: one that is in itself would never end. */
    GHashTable *seen = g_hash_table_new(NULL, NULL);
    int code;
    if (is_whole_folder(j, path)) {
        code = strcmp(given.out, "-") == 0
                   ? cli_usage("%s is a folder of the disk: -o names a folder for it", operand)
                   : get_folder(j, path, given.out, seen, list);
    } else if (several || g_str_has_suffix(given.out, "/") ||
               g_file_test(given.out, G_FILE_TEST_IS_DIR)) {
        char *base = g_path_get_basename(operand);
        char *to = g_build_filename(given.out, base, NULL);
        code = g_mkdir_with_parents(given.out, 0777) == 0
                   ? get_one(j, path, to, list)
                   : fail("%s: cannot make this folder: %s", given.out, g_strerror(errno));
        g_free(base);
        g_free(to);
    } else {
        code = get_one(j, path, given.out, list);
    }
    g_hash_table_unref(seen);
    g_free(path);
    return code;
}

static int run_get(int argc, char **argv)
{
    disk_job j = {.b = NULL};
    if (argc < 3) return cli_usage("a disk, and a file on it: bootlace disk get DISK PATH -o FILE");
    if (given.out == NULL) return cli_usage("nowhere to write to: -o FILE");
    const char *const inputs[] = {argv[1], NULL};
    json_t *list = json_array();
    int code = strcmp(given.out, "-") != 0
                   ? cli_check_outputs(&(cli_output){"-o", given.out}, 1, inputs)
                   : EXIT_GOOD;
    if (code == EXIT_GOOD) code = disk_job_begin(argv[1], &j);
    for (int i = 2; i < argc && code == EXIT_GOOD; i++)
        code = get_path(&j, argv[i], argc > 3, list);
    if (code == EXIT_GOOD && given.json && strcmp(given.out, "-") != 0)
        answer(json_pack("{ss sO}", "disk", argv[1], "files", list));
    else if (code == EXIT_GOOD && strcmp(given.out, "-") != 0)
        disk_result("%s in %s", disk_count((uint32_t)json_array_size(list), "file", "files"),
                    given.out);
    json_decref(list);
    disk_job_end(&j);
    return code;
}

const subcommand disk_get = {
    .name = "get",
    .words = {"disk get DISK PATH... -o FILE",
              "Copies files from a disk. / is everything on it, into a folder.",
              "  bootlace disk get skerry.img NOTES.TXT -o notes.txt\n"
              "  bootlace disk get skerry.img LAMP.RUN --wrap loader -o lamp.hex\n"
              "  bootlace disk get skerry.img / -o everything/"},
    .tables = (const GOptionEntry *const[]){entries, user_options, disk_options, bench_options,
                                            json_options, NULL},
    .run = run_get,
    .brief = "files from a disk",
};
