/* disk_change.c - bootlace disk folder, delete and rename. */
#include "disk_commands.h"

static gboolean force;

static const GOptionEntry delete_entries[] = {
    {"force", 0, 0, G_OPTION_ARG_NONE, &force, "though it is read-only", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static bool is_on_disk(bl_disk *d, const char *path)
{
    bl_disk_entry e;
    return bl_disk_has(d, path, &e);
}

static bl_status make_folder(bl_disk *d, char **paths)
{
    bl_status status = bl_disk_folder(d, paths[0]);
    return status == BL_OK && !is_on_disk(d, paths[0]) ? BL_E_DIFFERS : status;
}

static bl_status take_away(bl_disk *d, char **paths)
{
    bl_status status = bl_disk_delete(d, paths[0], force);
    return status == BL_OK && is_on_disk(d, paths[0]) ? BL_E_DIFFERS : status;
}

static bl_status give_other_name(bl_disk *d, char **paths)
{
    return bl_disk_rename(d, paths[0], paths[1]);
}

/* Opens, lets somebody change, puts in place. */
static int change_disk(const char *disk, char **paths, int count,
                       bl_status (*change)(bl_disk *d, char **paths), int at_once, const char *done)
{
    disk_job j = {.changes = true};
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    int code = disk_job_begin(disk, &j);
    /* What is broken may be deleted: that is how some of it is mended. */
    if (code == EXIT_GOOD && change != take_away) code = disk_job_sound(&j, disk);
    for (int i = 0; i < count; i++)
        g_ptr_array_add(all, disk_path(paths[i]));
    for (int i = 0; i < count && code == EXIT_GOOD; i += at_once)
        if (change(&j.v.disk, (char **)all->pdata + i) != BL_OK) code = EXIT_FAILED;
    const char *last = paths[count - 1];
    if (code == EXIT_GOOD && change != take_away) last = disk_stored_name(&j, last);
    if (code == EXIT_GOOD) code = disk_job_commit(&j, "%s %s", last, done);
    if (code == EXIT_GOOD && given.json)
        answer(json_pack("{ss ss ss}", "disk", disk, "path", last, "done", done));
    g_ptr_array_unref(all);
    disk_job_end(&j);
    return code;
}

static int run_folder(int argc, char **argv)
{
    if (argc < 3) return cli_usage("a disk, and a path on it: bootlace disk folder DISK PATH");
    return change_disk(argv[1], argv + 2, argc - 2, make_folder, 1, "is there");
}

static int run_delete(int argc, char **argv)
{
    if (argc < 3) return cli_usage("a disk, and a path on it: bootlace disk delete DISK PATH");
    return change_disk(argv[1], argv + 2, argc - 2, take_away, 1, "is gone");
}

static int run_rename(int argc, char **argv)
{
    if (argc != 4)
        return cli_usage("a disk, an old and a new name: bootlace disk rename DISK OLD NEW");
    return change_disk(argv[1], argv + 2, 2, give_other_name, 2, "is its name now");
}

const subcommand disk_folder = {
    .name = "folder",
    .words = {"disk folder DISK PATH...", "Makes a folder on a FAT disk.",
              "  bootlace disk folder skerry.img LOG"},
    .tables = (const GOptionEntry *const[]){disk_options, bench_options, json_options, NULL},
    .run = run_folder,
    .brief = "a folder on a FAT disk",
};

const subcommand disk_delete = {
    .name = "delete",
    .words = {"disk delete DISK PATH...", "Deletes files, or empty folders.",
              "  bootlace disk delete skerry.img OLD.TXT"},
    .tables = (const GOptionEntry *const[]){delete_entries, user_options, disk_options,
                                            bench_options, json_options, NULL},
    .run = run_delete,
    .brief = "files, or empty folders, away",
};

const subcommand disk_rename = {
    .name = "rename",
    .words = {"disk rename DISK OLD NEW", "Gives a file or a folder another name.",
              "  bootlace disk rename skerry.img LAMP.BIN LIGHT.BIN"},
    .tables = (const GOptionEntry *const[]){user_options, disk_options, bench_options, json_options,
                                            NULL},
    .run = run_rename,
    .brief = "another name for a file or a folder",
};
