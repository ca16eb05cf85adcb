/* disk_list.c - bootlace disk list: what is on a disk. */
#include <string.h>

#include "disk_commands.h"

static struct {
    gboolean all;
} options;

static const GOptionEntry entries[] = {
    {"all", 0, 0, G_OPTION_ARG_NONE, &options.all, "what is in folders, too", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

typedef struct listing {
    disk_job *j;
    json_t *entries;
    uint32_t files, folders;
    uint64_t bytes;
    GPtrArray *rows;  /* bl_disk_entry *, names with their paths */
    GHashTable *seen; /* first clusters of folders: one that is in itself is not gone into again */
} listing;

static int list_folder(listing *l, const char *path, const char *prefix, unsigned depth)
{
    GPtrArray *all;
    int code = disk_job_entries(l->j, path, &all);
    for (guint i = 0; i < all->len; i++) {
        bl_disk_entry *e = g_ptr_array_index(all, i), *row = g_memdup2(e, sizeof *e);
        char *whole = g_strconcat(prefix, e->name, NULL);
        json_t *one = disk_entry_json(e);
        json_object_set_new(one, "path", json_string(whole));
        json_array_append_new(l->entries, one);
        if (e->user > 0)
            g_snprintf(row->name, sizeof row->name, "%u:%s", e->user, whole);
        else
            g_snprintf(row->name, sizeof row->name, "%s%s", whole, e->folder ? "/" : "");
        g_ptr_array_add(l->rows, row);
        l->files += e->folder ? 0 : 1, l->folders += e->folder ? 1 : 0;
        if (!e->damaged) l->bytes += e->size;
        if (e->damaged)
            code = fail("%s: its entries cannot be right: bootlace disk check says more", whole);
        bool again =
            e->folder && options.all && !g_hash_table_add(l->seen, GUINT_TO_POINTER(e->first));
        if (again) code = fail("%s was listed already: the disk is damaged", whole);
        if (e->folder && options.all && !again && depth < BL_DISK_DEEPEST) {
            char *inside = g_strconcat(path, path[0] != '\0' ? "/" : "", e->name, NULL);
            char *deeper = g_strconcat(whole, "/", NULL);
            int inner = list_folder(l, inside, deeper, depth + 1);
            if (code == EXIT_GOOD) code = inner;
            g_free(inside);
            g_free(deeper);
        }
        g_free(whole);
    }
    g_ptr_array_unref(all);
    return code;
}

static void print_rows(const listing *l)
{
    glong width = 12;
    bool dated = false;
    for (guint i = 0; i < l->rows->len; i++) {
        const bl_disk_entry *e = g_ptr_array_index(l->rows, i);
        width = MAX(width, MIN(g_utf8_strlen(e->name, -1), 48));
        dated = dated || e->changed.year != 0;
    }
    cli_print("  %-*s %9s  %s%s", (int)width, "name", "bytes", dated ? "changed           " : "",
              "notes");
    for (guint i = 0; i < l->rows->len; i++) {
        const bl_disk_entry *e = g_ptr_array_index(l->rows, i);
        char bytes[16] = "folder";
        int pad = (int)MAX(width - g_utf8_strlen(e->name, -1), 0);
        if (!e->folder) g_snprintf(bytes, sizeof bytes, "%u", e->size);
        bool renamed = g_ascii_strncasecmp(e->name, e->short_name, strlen(e->short_name)) != 0 &&
                       bl_disk_kind_is_fat(bl_disk_kind_of(&l->j->v.disk)) &&
                       strrchr(e->name, '/') == NULL;
        const char *notes = disk_notes(l->j->b, e);
        char *line =
            g_strdup_printf("  %s%*s %9s  %*s%s%s%s%s", e->name, pad, "", bytes, dated ? -16 : 0,
                            disk_time_text(e->changed), dated ? "  " : "", notes,
                            renamed && notes[0] != '\0' ? ", " : "", renamed ? e->short_name : "");
        cli_print("%s", g_strchomp(line));
        g_free(line);
    }
}

static void print_end(const listing *l, const bl_disk_space *s)
{
    char entries_left[60] = "";
    if (s->entries != 0)
        g_snprintf(entries_left, sizeof entries_left, ", room for %s",
                   disk_count(s->entries_free, "entry more", "entries more"));
    cli_print("%s%s%s, %llu bytes; %llu free%s%s", disk_count(l->files, "file", "files"),
              l->folders > 0 ? ", " : "",
              l->folders > 0 ? disk_count(l->folders, "folder", "folders") : "",
              (unsigned long long)l->bytes, (unsigned long long)s->free * s->unit,
              s->free > 0 && s->largest == s->free ? " in one piece" : "", entries_left);
}

static int run_list(int argc, char **argv)
{
    disk_job j = {.b = NULL};
    bl_disk_space space;
    char label[BL_DISK_NAME];
    if (argc < 2 || argc > 3) return cli_usage("one disk: bootlace disk list DISK [PATH]");
    int code = disk_job_begin(argv[1], &j);
    if (code != EXIT_GOOD) {
        disk_job_end(&j);
        return code;
    }
    listing l = {.j = &j,
                 .entries = json_array(),
                 .rows = g_ptr_array_new_with_free_func(g_free),
                 .seen = g_hash_table_new(NULL, NULL)};
    char *path = disk_path(argc > 2 ? argv[2] : "");
    while (strlen(path) > 0 && path[strlen(path) - 1] == '/')
        path[strlen(path) - 1] = '\0';
    code = list_folder(&l, path, "", 0);
    if (bl_disk_space_of(&j.v.disk, &space) != BL_OK) code = EXIT_FAILED;
    bl_disk_label(&j.v.disk, label);
    const char *kind = bl_disk_kind_name(bl_disk_kind_of(&j.v.disk));
    if (given.json) {
        answer(json_pack("{ss ss ss sI sI sI si sO}", "disk", argv[1], "kind", kind, "label", label,
                         "bytes_free", (json_int_t)((uint64_t)space.free * space.unit),
                         "largest_free", (json_int_t)((uint64_t)space.largest * space.unit), "unit",
                         (json_int_t)space.unit, "entries_free", (int)space.entries_free, "entries",
                         l.entries));
    } else {
        char part[40] = "";
        if (j.v.partition_count > 0)
            g_snprintf(part, sizeof part, ", partition %zu of %zu", j.v.partition + 1,
                       j.v.partition_count);
        cli_print("%s%s%s%s: %s%s", argv[1], label[0] != '\0' ? " \"" : "", label,
                  label[0] != '\0' ? "\"" : "", disk_kind_text(&j), part);
        if (l.rows->len > 0) print_rows(&l);
        print_end(&l, &space);
    }
    json_decref(l.entries);
    g_ptr_array_unref(l.rows);
    g_hash_table_unref(l.seen);
    g_free(path);
    disk_job_end(&j);
    return code;
}

const subcommand disk_list = {
    .name = "list",
    .words = {"disk list DISK [PATH]", "Lists what is on a disk, or in a folder of it.",
              "  bootlace disk list skerry.img\n  bootlace disk list skerry.img LOG --json"},
    .tables = (const GOptionEntry *const[]){entries, user_options, disk_options, bench_options,
                                            json_options, NULL},
    .run = run_list,
    .brief = "what is on a disk",
};
