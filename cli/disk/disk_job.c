/* disk_job.c - a disk is opened, and put in place again; what is said of files. */
#include <string.h>

#include "disk/disk_program.h"
#include "disk_commands.h"
#include "simulation/sim_faults.h"

static struct {
    char *layout;
    int user;
    gboolean in_place;
} options = {.user = -1};

const GOptionEntry disk_options[] = {
    {"layout", 0, 0, G_OPTION_ARG_STRING, &options.layout,
     "the disk is a classic one with this layout (default: found out)", "NAME"},
    {"in-place", 0, 0, G_OPTION_ARG_NONE, &options.in_place,
     "write each sector at once, as on a device, instead of into a copy that takes the image's "
     "place",
     NULL},
    {"fault", 0, 0, G_OPTION_ARG_STRING_ARRAY, &given.faults,
     "work through a simulated drive with this fault: disk-cut=N and others (docs/board.md)",
     "NAME=VALUE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

const GOptionEntry user_options[] = {
    {"user", 0, 0, G_OPTION_ARG_INT, &options.user, "user area of a classic disk, 0 to 15", "N"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

int disk_job_bench(bool needed, disk_job *j)
{
    if (options.user < -1 || options.user > 15)
        return cli_usage("--user %d: user areas are 0 to 15", options.user);
    return j->b != NULL ? EXIT_GOOD : cli_bench(needed, &j->b);
}

static const bl_sectors *through_drive(void *context, const bl_sectors *sectors)
{
    disk_job *j = context;
    sim_drive_faults faults = j->drive.faults;
    sim_drive_begin(&j->drive, sectors);
    j->drive.faults = faults;
    j->port = sim_drive_port(&j->drive);
    return &j->port;
}

static int open_disk(const char *path, disk_job *j)
{
    disk_opening how = {
        .b = j->b, .layout = options.layout, .in_place = options.in_place, .changes = j->changes};
    if (given.faults != NULL) {
        if (simulation_disk_faults(given.faults, &j->drive.faults, &cli_sink) != BL_OK)
            return EXIT_USAGE;
        how.between = through_drive, how.context = j;
    }
    if (disk_volume_open(path, &how, &cli_sink, &j->v) != BL_OK) return EXIT_FAILED;
    j->open = true;
    bl_disk_kind kind = bl_disk_kind_of(&j->v.disk);
    if (options.user >= 0 && kind != BL_DISK_CLASSIC)
        return cli_usage("--user is for classic disks; %s is a %s disk", path,
                         bl_disk_kind_name(kind));
    return EXIT_GOOD;
}

int disk_job_begin(const char *path, disk_job *j)
{
    int code = disk_job_bench(false, j);
    return code == EXIT_GOOD ? open_disk(path, j) : code;
}

static void count_harmful(void *context, const bl_disk_finding *f)
{
    if (f->broken && !f->safe) ++*(unsigned *)context;
}

int disk_job_sound(disk_job *j, const char *path)
{
    unsigned harmful = 0;
    bl_disk_report r = {.context = &harmful, .find = count_harmful};
    bl_status status = bl_disk_check(&j->v.disk, false, &r);
    if (status == BL_OK) return EXIT_GOOD;
    if (status != BL_E_DAMAGED) return EXIT_FAILED;
    if (harmful > 0)
        return fail("%s is damaged so that a change could harm other files; nothing was changed: "
                    "bootlace disk check %s says more",
                    path, path);
    say("%s: %s: bootlace disk check %s --repair mends them", path,
        disk_count(r.broken, "fault", "faults"), path);
    return EXIT_GOOD;
}

int disk_job_wrap(disk_job *j, const char *name, const bl_wrap **wrap)
{
    int code = disk_job_bench(true, j);
    if (code != EXIT_GOOD) return code;
    *wrap = disk_wrap_named(j->b, name);
    if (*wrap != NULL) return EXIT_GOOD;
    return cli_usage("--wrap %s: %s describes no such wrapper (disk: wraps)", name, j->b->path);
}

static bl_status note_entry(void *context, const bl_disk_entry *e)
{
    g_ptr_array_add(context, g_memdup2(e, sizeof *e));
    return BL_OK;
}

int disk_job_entries(disk_job *j, const char *path, GPtrArray **all)
{
    *all = g_ptr_array_new_with_free_func(g_free);
    return bl_disk_list(&j->v.disk, path, note_entry, *all) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

int disk_job_commit(disk_job *j, const char *what, ...)
{
    va_list list;
    if (disk_image_commit(&j->v.image, j->v.image.path, &cli_sink) != BL_OK) return EXIT_FAILED;
    va_start(list, what);
    char *text = g_strdup_vprintf(what, list);
    va_end(list);
    if (text[0] != '\0') disk_result("%s %s", cli_verified(), text);
    g_free(text);
    return EXIT_GOOD;
}

void disk_job_end(disk_job *j)
{
    if (j->open) disk_volume_close(&j->v);
    bench_close(j->b);
    *j = (disk_job){.b = NULL};
}

void disk_start_at_begin(const bench *b, const char *name, bl_disk_file *file)
{
    if (file->has_entry || !file->has_load) return;
    file->has_entry = true, file->entry = file->load;
    say("%s: it has no entry point, and starts at its first byte, %s", name,
        cli_address(b, file->load));
}

void disk_result(const char *message, ...)
{
    va_list list;
    va_start(list, message);
    char *text = g_strdup_vprintf(message, list);
    va_end(list);
    if (given.json)
        say("%s", text);
    else
        cli_print("%s", text);
    g_free(text);
}

char *disk_path(const char *path)
{
    return options.user < 0 ? g_strdup(path) : g_strdup_printf("%d:%s", options.user, path);
}

/* ---- what is said ---- */

const char *disk_stored_name(disk_job *j, const char *path)
{
    static char text[BL_DISK_NAME];
    char short_name[13];
    bl_status status;
    char *base = g_path_get_basename(path);
    const char *name = strchr(base, ':') != NULL ? strchr(base, ':') + 1 : base;
    bool bare = bl_disk_kind_of(&j->v.disk) == BL_DISK_BARE;
    bool fits =
        bare || bl_disk_short_name((bl_text){name, strlen(name)}, short_name, NULL, &status);
    g_strlcpy(text, bare ? name : short_name, sizeof text);
    if (!fits) say("%s is stored as %s: its name does not fit 8.3 (docs/disk.md)", name, text);
    g_free(base);
    return text;
}

const char *disk_time_text(bl_disk_time t)
{
    static char texts[4][24];
    static unsigned next;
    char *text = texts[next++ % 4];
    text[0] = '\0';
    if (t.year != 0)
        g_snprintf(text, sizeof texts[0], "%04u-%02u-%02u %02u:%02u", t.year, t.month, t.day,
                   t.hour, t.minute);
    return text;
}

const char *disk_notes(const bench *b, const bl_disk_entry *e)
{
    static char text[200];
    static const struct {
        uint8_t bit;
        const char *word;
    } words[] = {
        {BL_DISK_READ_ONLY, "read-only"}, {BL_DISK_HIDDEN, "hidden"}, {BL_DISK_SYSTEM, "system"}};
    GString *s = g_string_new(NULL);
    if (e->has_load) g_string_append_printf(s, ", at %s", cli_address(b, e->load));
    if (e->has_entry) g_string_append_printf(s, ", entry %s", cli_address(b, e->entry));
    if (e->starts) g_string_append(s, ", starts at power-up");
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++)
        if ((e->attributes & words[i].bit) != 0) g_string_append_printf(s, ", %s", words[i].word);
    if (e->damaged) g_string_append(s, ", damaged: disk check says more");
    if (e->pieces > 1) g_string_append_printf(s, ", in %u pieces", e->pieces);
    if (e->rounded && e->size > 0) g_string_append(s, ", whole records");
    g_strlcpy(text, s->len > 2 ? s->str + 2 : "", sizeof text);
    g_string_free(s, TRUE);
    return text;
}

json_t *disk_entry_json(const bl_disk_entry *e)
{
    json_t *j = json_pack("{ss ss sb sI sb si si}", "name", e->name, "short_name", e->short_name,
                          "folder", e->folder, "size", (json_int_t)e->size, "exact", !e->rounded,
                          "attributes", e->attributes, "pieces", (int)e->pieces);
    json_object_set_new(j, "damaged", json_boolean(e->damaged));
    if (e->changed.year != 0)
        json_object_set_new(j, "changed", json_string(disk_time_text(e->changed)));
    json_object_set_new(j, "read_only", json_boolean((e->attributes & BL_DISK_READ_ONLY) != 0));
    json_object_set_new(j, "user", json_integer(e->user));
    if (e->has_load) json_object_set_new(j, "load", json_integer((json_int_t)e->load));
    if (e->has_entry) json_object_set_new(j, "entry", json_integer((json_int_t)e->entry));
    json_object_set_new(j, "starts", json_boolean(e->starts));
    return j;
}

const char *disk_kind_text(disk_job *j)
{
    static char text[200];
    char shape[120];
    bl_disk_describe(&j->v.disk, shape, sizeof shape);
    g_snprintf(text, sizeof text, "%s, %s", bl_disk_kind_name(bl_disk_kind_of(&j->v.disk)), shape);
    return text;
}

const char *disk_count(uint32_t count, const char *one, const char *many)
{
    static char texts[8][48];
    static unsigned next;
    char *text = texts[next++ % 8];
    g_snprintf(text, sizeof texts[0], "%u %s", count, count == 1 ? one : many);
    return text;
}
