/* disk_plan.c - bootlace disk plan: which sectors belong to what, as a picture or in the terminal.
 */
#include <stdio.h>
#include <string.h>

#include "disk_commands.h"
#include "figure/figure_disk.h"

static const GOptionEntry entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "the picture: PNG, SVG or PDF by the ending (default: in the terminal)", "FILE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const char signs[] = {'!', '#', '/', 'a', '.', 'x', '?', '*', ' '};

/* Files are letters, in turn. */
static char sign_of(bl_disk_use use, const disk_owner *o)
{
    static const char letters[] = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ";
    if (use != BL_DISK_USE_FILE || o == NULL) return signs[use];
    return letters[o->ordinal % (sizeof letters - 1)];
}

static void print_map(const disk_map *m, unsigned columns)
{
    const char *good = cli_green(), *bad = cli_yellow(), *plain = cli_plain();
    for (guint i = 0; i < m->cells->len; i++) {
        const disk_cell *c = &g_array_index(m->cells, disk_cell, i);
        if (i % columns == 0) printf("%s%9u  ", i > 0 ? "\n" : "", i * m->each);
        const disk_owner *owner =
            c->owner != DISK_NOBODY ? g_ptr_array_index(m->owners, c->owner) : NULL;
        bool broken = c->use >= BL_DISK_USE_BAD && c->use <= BL_DISK_USE_CROSS;
        bool file = c->use == BL_DISK_USE_FILE;
        printf("%s%c%s",
               broken ? bad
               : file ? good
                      : "",
               sign_of(c->use, owner), broken || file ? plain : "");
    }
    printf("\n");
}

static void print_legend(const disk_map *m)
{
    for (unsigned use = 0; use <= BL_DISK_USE_SPARE; use++)
        if (m->sectors[use] != 0 && use != BL_DISK_USE_FILE && use != BL_DISK_USE_SPARE)
            cli_print("  %c  %-28s %14s", signs[use], disk_use_word((bl_disk_use)use),
                      disk_count(m->sectors[use], "sector", "sectors"));
    for (guint i = 0; i < m->owners->len; i++) {
        const disk_owner *o = g_ptr_array_index(m->owners, i);
        char pieces[32] = "";
        if (o->pieces > 1) g_snprintf(pieces, sizeof pieces, " in %u pieces", o->pieces);
        cli_print("  %c  %-28s %14s, %u..%u%s",
                  sign_of(o->folder ? BL_DISK_USE_FOLDER : BL_DISK_USE_FILE, o), o->path,
                  disk_count(o->sectors, "sector", "sectors"), o->first, o->last, pieces);
    }
}

static json_t *disk_plan_json(const disk_map *m)
{
    json_t *owners = json_array(), *uses = json_object();
    for (unsigned use = 0; use <= BL_DISK_USE_SPARE; use++)
        json_object_set_new(uses, disk_use_word((bl_disk_use)use), json_integer(m->sectors[use]));
    for (guint i = 0; i < m->owners->len; i++) {
        const disk_owner *o = g_ptr_array_index(m->owners, i);
        json_array_append_new(
            owners, json_pack("{ss sb sI sI sI sI}", "path", o->path, "folder", o->folder, "first",
                              (json_int_t)o->first, "last", (json_int_t)o->last, "sectors",
                              (json_int_t)o->sectors, "pieces", (json_int_t)o->pieces));
    }
    return json_pack("{sI so so}", "sectors", (json_int_t)m->total, "uses", uses, "owners", owners);
}

static int run_plan(int argc, char **argv)
{
    disk_job j = {.b = NULL};
    disk_map m = {.total = 0};
    bl_disk_report r = {.find = NULL};
    if (argc != 2) return cli_usage("one disk: bootlace disk plan DISK -o FILE.png");
    if (given.out != NULL && figure_type_of(given.out) == FIGURE_NONE)
        return cli_usage("-o %s: a picture ends in .png, .svg or .pdf", given.out);
    unsigned columns = (unsigned)CLAMP(cli_width() - 12, 16, 64);
    uint32_t cells = given.out != NULL ? FIGURE_DISK_COLUMNS * FIGURE_DISK_ROWS : columns * 20;
    int code = disk_job_begin(argv[1], &j);
    if (code == EXIT_GOOD && disk_map_make(&j.v.disk, cells, &m) != BL_OK) code = EXIT_FAILED;
    bl_status whole = code == EXIT_GOOD ? bl_disk_check(&j.v.disk, false, &r) : BL_E_IO;
    char *base = g_path_get_basename(argv[1]);
    figure_disk_words words = {.title = base, .whole = whole == BL_OK};
    char state[60];
    g_snprintf(state, sizeof state, whole == BL_OK ? "whole" : "not whole: %s",
               disk_count(r.left, "fault", "faults"));
    words.state = state;
    if (code == EXIT_GOOD) words.shape = disk_kind_text(&j);
    if (code == EXIT_GOOD && given.out != NULL &&
        figure_disk(&m, &words, given.out, &cli_sink) != BL_OK)
        code = EXIT_FAILED;
    if (code == EXIT_GOOD && given.json) {
        answer(disk_plan_json(&m));
    } else if (code == EXIT_GOOD && given.out == NULL) {
        unsigned full = disk_map_fullness(&m);
        cli_print("%s: %s; %s", base, words.shape, state);
        cli_print("%u.%u %% full; a sign is %s", full / 10, full % 10,
                  disk_count(m.each, "sector", "sectors"));
        print_map(&m, columns);
        print_legend(&m);
    }
    g_free(base);
    disk_map_end(&m);
    disk_job_end(&j);
    return code;
}

const subcommand disk_plan = {
    .name = "plan",
    .words = {"disk plan DISK",
              "Shows which sectors belong to what, how full the disk is, and what is broken.",
              "  bootlace disk plan skerry.img\n  bootlace disk plan skerry.img -o skerry.png"},
    .tables =
        (const GOptionEntry *const[]){entries, disk_options, bench_options, json_options, NULL},
    .run = run_plan,
    .brief = "which sectors belong to what, as a picture",
};
