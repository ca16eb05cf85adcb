/* disk_check.c - bootlace disk check: is it whole, and does it hold what was built? */
#include <string.h>

#include "disk_commands.h"
#include "simulation/simulation.h"

static struct {
    char *against;
    gboolean repair, drop;
} options;

static const GOptionEntry entries[] = {
    {"repair", 0, 0, G_OPTION_ARG_NONE, &options.repair, "repair what is safe", NULL},
    {"drop", 0, 0, G_OPTION_ARG_NONE, &options.drop,
     "with --repair: also what throws bytes away, each said as a loss", NULL},
    {"against", 0, 0, G_OPTION_ARG_FILENAME, &options.against,
     "do its files equal what this bench file builds?", "BENCH"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

typedef struct checking {
    disk_job j;
    bl_disk_report report;
    json_t *findings, *files;
    uint32_t same, different;
} checking;

static void show_finding(void *context, const bl_disk_finding *f)
{
    checking *c = context;
    json_array_append_new(c->findings, json_pack("{ss sb sb sb sb ss*}", "what", f->what, "broken",
                                                 f->broken, "safe", f->safe, "mended", f->mended,
                                                 "loss", f->loss, "hint", f->hint));
    if (given.json) return;
    cli_print("%s: %s",
              f->loss && f->mended ? "loss"
              : f->mended          ? "mended"
              : f->broken          ? "broken"
                                   : "remark",
              f->what);
    if (f->mended || !f->broken) return;
    if (f->safe)
        cli_print("  -> --repair mends it");
    else if (f->hint != NULL)
        cli_print("  -> %s", f->hint);
}

/* ---- what was built ---- */

static const char *const same_words[] = {"same", "differs", "missing"};

static void compare_with_built(checking *c, const disk_contents *contents)
{
    for (guint i = 0; i < contents->files->len; i++) {
        const disk_content *f = g_ptr_array_index(contents->files, i);
        uint32_t where;
        disk_sameness same = disk_compare(&c->j.v.disk, f, &where);
        *(same == DISK_SAME ? &c->same : &c->different) += 1;
        json_array_append_new(c->files,
                              json_pack("{ss ss}", "path", f->path, "state", same_words[same]));
        if (given.json || same == DISK_SAME) continue;
        if (same == DISK_MISSING)
            cli_print("missing: %s was built, and is not on the disk", f->path);
        else
            cli_print("differs: %s is not what was built, from byte %u on", f->path, where);
    }
}

static int check_against(checking *c)
{
    bench *b = NULL;
    project *p = NULL;
    disk_contents contents = {.files = NULL};
    int code = EXIT_FAILED;
    if (bench_open(options.against, &simulation_hardware, &cli_sink, &b) != BL_OK) return code;
    if (b->disk.image == NULL)
        fail("%s: it builds no disk (disk: {kind: ..., files: ...})", options.against);
    else if (project_build(b, PROJECT_FIRMWARE, NULL, &cli_sink, &p) == BL_OK &&
             disk_contents_make(p, NULL, &cli_sink, &contents) == BL_OK)
        code = EXIT_GOOD;
    if (code == EXIT_GOOD) compare_with_built(c, &contents);
    if (code == EXIT_GOOD && b->disk.has_rule &&
        bl_disk_boot_check(&c->j.v.disk, &b->disk.rule) != BL_OK)
        code = EXIT_FAILED;
    if (code == EXIT_GOOD && contents.boot != NULL) {
        uint32_t where = disk_compare_boot(&c->j.v.disk, bl_program_image(contents.boot),
                                           b->disk.has_rule ? &b->disk.rule : NULL);
        if (where != UINT32_MAX) {
            c->different++;
            if (!given.json)
                cli_print("differs: the boot program is not what was built, from byte %u on",
                          where);
        } else
            c->same++;
    }
    if (code == EXIT_GOOD && c->different > 0) code = EXIT_FAILED;
    disk_contents_end(&contents);
    project_close(p);
    bench_close(b);
    return code;
}

/* ---- all of it ---- */

static void tell_result(const checking *c, const char *disk, bl_status status)
{
    const bl_disk_report *r = &c->report;
    const char *files = disk_count(r->files, "file", "files");
    if (status == BL_OK && r->mended > 0)
        disk_result("%s %s: %s, %s mended%s%s; the file system is whole now", cli_verified(), disk,
                    files, disk_count(r->mended, "fault", "faults"), r->losses > 0 ? ", with " : "",
                    r->losses > 0 ? disk_count(r->losses, "loss", "losses") : "");
    else if (status == BL_OK)
        disk_result("%s %s is whole: %s%s%s", cli_verified(), disk, files,
                    r->folders > 0 ? ", " : "",
                    r->folders > 0 ? disk_count(r->folders, "folder", "folders") : "");
    else if (status == BL_E_DAMAGED)
        disk_result("%s %s is not whole: %s", cli_not_verified(), disk,
                    disk_count(r->left, "fault", "faults"));
    if (options.against == NULL || c->same + c->different == 0) return;
    if (c->different == 0)
        disk_result("%s %s as built", cli_verified(), disk_count(c->same, "part is", "parts are"));
    else
        disk_result("%s %s not what %s builds", cli_not_verified(),
                    disk_count(c->different, "part is", "parts are"), options.against);
}

static int run_check(int argc, char **argv)
{
    if (options.drop && !options.repair)
        return cli_usage("--drop says what --repair may do; give both");
    if (argc != 2) return cli_usage("one disk: bootlace disk check DISK");
    checking c = {.findings = json_array(), .files = json_array()};
    c.report.context = &c, c.report.find = show_finding;
    c.report.drop = options.drop;
    c.j.changes = options.repair;
    int code = disk_job_begin(argv[1], &c.j);
    bl_status status = BL_E_IO;
    if (code == EXIT_GOOD) status = bl_disk_check(&c.j.v.disk, options.repair, &c.report);
    if (code == EXIT_GOOD && status != BL_OK) code = EXIT_FAILED;
    /* What could be mended is kept, whatever is left. */
    if (c.report.mended > 0 && (status == BL_OK || status == BL_E_DAMAGED) &&
        disk_job_commit(&c.j, "%s", "") != EXIT_GOOD)
        code = EXIT_FAILED;
    if (c.j.open && options.against != NULL && status != BL_E_IO) {
        int compared = check_against(&c);
        if (code == EXIT_GOOD) code = compared;
    }
    if (c.j.open && given.json)
        answer(json_pack("{ss sb sb si si si si si sO sO}", "disk", argv[1], "whole",
                         status == BL_OK, "repaired", c.report.mended > 0, "losses",
                         (int)c.report.losses, "files", (int)c.report.files, "folders",
                         (int)c.report.folders, "broken", (int)c.report.broken, "left",
                         (int)c.report.left, "findings", c.findings, "built", c.files));
    if (c.j.open) tell_result(&c, argv[1], status);
    json_decref(c.findings);
    json_decref(c.files);
    disk_job_end(&c.j);
    return code;
}

const subcommand disk_check = {
    .name = "check",
    .words = {"disk check DISK",
              "Looks whether the file system is whole, and repairs what is safe if asked to. With "
              "--against it proves that the files are those which a bench file builds.",
              "  bootlace disk check skerry.img\n  bootlace disk check skerry.img --repair\n"
              "  bootlace disk check skerry.img --repair --drop\n"
              "  bootlace disk check skerry.img --against bench.yaml"},
    .tables =
        (const GOptionEntry *const[]){entries, disk_options, bench_options, json_options, NULL},
    .run = run_check,
    .brief = "is it whole, and does it hold what was built?",
};
