/* simulation_files.c - the state folder of a simulated bench: its chips, its memory, its registers.
 */
#include "simulation_files.h"

#include <glib.h>
#include <string.h>

#include "files/replace.h"
#include "sim/state.h"

char *simulation_path(const simulation *s, const char *name, const char *ending)
{
    char *file = g_strconcat(name, ending, NULL);
    char *path = g_build_filename(s->folder, file, NULL);
    g_free(file);
    return path;
}

char *simulation_copy_name(const simulation *s)
{
    return g_strdup_printf("%s-%u", s->b->chips[s->socket].name, s->copy);
}

/* ---- chips ---- */

/* Reads a file of the state folder. *text is NULL when there is none; one that is there and cannot
 * be read is an error: it would count as new, and be replaced. */
static bl_status load_file(const char *path, char **text, gsize *length, const bl_sink *sink)
{
    GError *error = NULL;
    *text = NULL;
    *length = 0;
    if (g_file_get_contents(path, text, length, &error)) return BL_OK;
    bool missing = error->code == G_FILE_ERROR_NOENT;
    if (!missing)
        bl_report(sink, BL_ERROR, path, 0, "nothing was changed", "cannot be read: %s",
                  error->message);
    g_error_free(error);
    return missing ? BL_OK : BL_E_IO;
}

/* A file of another size than the part is somebody's file, not a chip: it is not cut or filled. */
bl_status simulation_load_chip(simulation *s, const bl_chip *chip, const char *name,
                               uint8_t **cells, const bl_sink *sink)
{
    char *path = simulation_path(s, name, ".bin"), *text = NULL;
    gsize length = 0;
    *cells = g_try_malloc(chip->part->size);
    bl_status status = *cells == NULL ? BL_E_MEMORY : load_file(path, &text, &length, sink);
    if (status == BL_E_MEMORY)
        bl_report(sink, BL_ERROR, path, 0, NULL, "out of memory");
    else if (status == BL_OK && text == NULL)
        memset(*cells, 0xFF, chip->part->size); /* a new part is blank */
    else if (status == BL_OK && length == chip->part->size)
        memcpy(*cells, text, length);
    else if (status == BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, "remove the file for a blank chip",
                  "a %s holds %lu bytes, this file %lu", chip->part->name,
                  (unsigned long)chip->part->size, (unsigned long)length);
        status = BL_E_SYNTAX;
    }
    g_free(text);
    g_free(path);
    return status;
}

/* ---- the board's registers, as a key file ---- */

/* A state file is read as what it is, somebody's file: each number must be there, be one, and fit.
 */
typedef struct loader {
    GKeyFile *f;
    char wrong[80]; /* the first that is not; empty: all are */
} loader;

static uint64_t get_number(loader *l, const char *group, const char *key, uint64_t max)
{
    GError *error = NULL;
    uint64_t value = g_key_file_get_uint64(l->f, group, key, &error);
    if (error == NULL && value <= max) return value;
    if (l->wrong[0] == '\0') g_snprintf(l->wrong, sizeof l->wrong, "'%s' of [%s]", key, group);
    g_clear_error(&error);
    return 0;
}

static void put_state_number(GKeyFile *f, const char *group, const char *key, uint64_t value)
{
    g_key_file_set_uint64(f, group, key, value);
}

static void load_number(void *context, const char *group, const char *name, void *field,
                        size_t bytes)
{
    uint64_t max = bytes == 8 ? UINT64_MAX : ((uint64_t)1 << 8 * bytes) - 1;
    uint64_t value = get_number(context, group, name, max);
    if (bytes == 1)
        *(uint8_t *)field = (uint8_t)value;
    else if (bytes == 2)
        *(uint16_t *)field = (uint16_t)value;
    else if (bytes == 4)
        *(uint32_t *)field = (uint32_t)value;
    else
        *(uint64_t *)field = value;
}

static void save_number(void *context, const char *group, const char *name, void *field,
                        size_t bytes)
{
    put_state_number(context, group, name,
                     bytes == 1   ? *(uint8_t *)field
                     : bytes == 2 ? *(uint16_t *)field
                     : bytes == 4 ? *(uint32_t *)field
                                  : *(uint64_t *)field);
}

static void load_row(void *context, const char *group, const char *name, uint8_t *bytes,
                     size_t count)
{
    loader *l = context;
    gsize length = 0;
    char *text = g_key_file_get_string(l->f, group, name, NULL);
    guchar *row = text != NULL ? g_base64_decode(text, &length) : NULL;
    if (row != NULL && length == count)
        memcpy(bytes, row, count);
    else if (l->wrong[0] == '\0')
        g_snprintf(l->wrong, sizeof l->wrong, "'%s' of [%s]", name, group);
    g_free(row);
    g_free(text);
}

static void save_row(void *context, const char *group, const char *name, uint8_t *bytes,
                     size_t count)
{
    char *text = g_base64_encode(bytes, count);
    g_key_file_set_string(context, group, name, text);
    g_free(text);
}

/* The board as it was left: false when the file says what cannot be. */
static bool load_powered(simulation *s, loader *l)
{
    sim_state_visit visit = {l, load_number, load_row};
    if (s->sim.neighbour != NULL && get_number(l, "bench", "started", 1) == 0)
        sim_bench_neighbour(&s->sim);
    sim_state_board(&s->sim, &visit);
    s->sim.powered = true;
    return l->wrong[0] == '\0' && sim_state_loaded(&s->sim);
}

/* The memory of a board that was left on. */
static bool load_ram(simulation *s, const bl_sink *sink)
{
    char *path = simulation_path(s, "ram", ".bin"), *ram;
    gsize length;
    bool read = load_file(path, &ram, &length, sink) == BL_OK;
    bool good = read && ram != NULL && length == sim_board_ram(&s->sim.board);
    if (good)
        memcpy(s->sim.board.ram, ram, length), s->sim.board.ram_kept = true;
    else if (read)
        bl_report(sink, BL_ERROR, path, 0, "remove board.ini beside it: the board is then off",
                  "the board was left on, and this is not its memory: %lu bytes, not %lu",
                  (unsigned long)length, (unsigned long)sim_board_ram(&s->sim.board));
    g_free(ram);
    g_free(path);
    return good;
}

/* Does some of its memory outlive the power? */
static bool has_battery(const simulation *s)
{
    for (size_t i = 0; i < s->b->area_count; i++)
        if (s->b->areas[i].keeps) return true;
    return false;
}

static bool has_ram_file(const simulation *s)
{
    char *path = simulation_path(s, "ram", ".bin");
    bool there = g_file_test(path, G_FILE_TEST_EXISTS);
    g_free(path);
    return there;
}

/* The CPU and the devices, by name, kind and place: another row is another board, on which what was
 * saved means nothing. Free with g_free. */
static char *board_parts(const bench *b)
{
    bl_text cpu = bl_sheet_name(b->sheet);
    GString *row = g_string_new_len(cpu.at, (gssize)cpu.length);
    for (size_t i = 0; i < b->device_count; i++) {
        const bench_device *d = &b->devices[i];
        if (d->kind != NULL)
            g_string_append_printf(row, ", %s %s %lX", d->name, d->kind->name,
                                   (unsigned long)d->at);
    }
    return g_string_free(row, FALSE);
}

/* A state from before there was such a row is taken as it is. */
static bool is_this_board(const simulation *s, const loader *l)
{
    char *was = g_key_file_get_string(l->f, "bench", "parts", NULL), *is = board_parts(s->b);
    bool same = was == NULL || strcmp(was, is) == 0;
    g_free(was);
    g_free(is);
    return same;
}

/* What devices keep without power, by their names, whether or not the board was on. */
static void visit_kept(simulation *s, void *context,
                       void (*row)(void *context, const char *group, const char *name,
                                   uint8_t *bytes, size_t count))
{
    for (size_t i = 0; i < s->sim.board.device_count; i++) {
        sim_device *d = &s->sim.board.devices[i];
        if (d->kind->kept > 0)
            row(context, "kept", simulation_described(s->b, i)->name, d->state.bytes,
                d->kind->kept);
    }
}

/* One that is new to the bench is not in there. */
static void load_kept(void *context, const char *group, const char *name, uint8_t *bytes,
                      size_t count)
{
    loader *l = context;
    if (g_key_file_has_key(l->f, group, name, NULL)) load_row(l, group, name, bytes, count);
}

static bl_status load_registers(simulation *s, loader *l, const bl_sink *sink)
{
    uint64_t latest = (uint64_t)INT64_MAX / 8; /* nanoseconds; sums of times must not wrap */
    s->sim.now = get_number(l, "bench", "now", latest);
    s->sim.chance.state ^= s->sim.now;
    for (size_t i = 0; i < s->b->chip_count; i++) {
        const char *name = s->b->chips[i].name; /* one that is new to the bench is not in there */
        if (g_key_file_has_key(l->f, "protect", name, NULL))
            s->sim.parts[i].protect = get_number(l, "protect", name, 1) != 0;
    }
    visit_kept(s, l, load_kept);
    bool on = get_number(l, "bench", "powered", 1) != 0;
    if (l->wrong[0] != '\0') return BL_E_SYNTAX;
    if (on && !is_this_board(s, l)) {
        bl_report(sink, BL_NOTE, s->b->path, 0, NULL,
                  "the board has other parts now than when it was left: it is off");
        on = false;
    }
    if (on && !load_ram(s, sink)) return BL_E_IO; /* told */
    if (!on && has_battery(s) && has_ram_file(s) && !load_ram(s, sink)) return BL_E_IO;
    return !on || load_powered(s, l) ? BL_OK : BL_E_SYNTAX;
}

/* A board that was left switched on goes on where it was. */
bl_status simulation_load_board(simulation *s, const bl_sink *sink)
{
    char *path = simulation_path(s, "board", ".ini"), *text;
    gsize length;
    GError *error = NULL;
    loader l = {.f = g_key_file_new()};
    bl_status status = load_file(path, &text, &length, sink);
    if (status == BL_OK && text != NULL)
        status = g_key_file_load_from_data(l.f, text, length, G_KEY_FILE_NONE, &error)
                     ? load_registers(s, &l, sink)
                     : BL_E_SYNTAX;
    if (status == BL_E_SYNTAX)
        bl_report(sink, BL_ERROR, path, 0, "remove this file: the board is then switched off",
                  "the state that was saved makes no sense%s%s",
                  error != NULL || l.wrong[0] != '\0' ? ": " : "",
                  error != NULL ? error->message : l.wrong);
    g_clear_error(&error);
    g_key_file_free(l.f);
    g_free(text);
    g_free(path);
    return status;
}

/* ---- saving: all files at once ---- */

enum { MAX_FILES = SIM_CHIPS + 3 };

typedef struct saved {
    replace_file files[MAX_FILES];
    char *names[MAX_FILES];
    size_t count;
} saved;

static void add_state_file(saved *v, const char *name, const char *ending, const void *bytes,
                           size_t count)
{
    v->names[v->count] = g_strconcat(name, ending, NULL);
    v->files[v->count] = (replace_file){v->names[v->count], bytes, count};
    v->count++;
}

/* A write cycle that is under way ends by itself, when all is quiet. */
static void let_end(simulation *s, size_t chip)
{
    sim_part_update(&s->sim.parts[chip], s->sim.now + 100u * 1000 * 1000);
}

/* Chips, memory and registers are one set: none is newer than the others. */
bl_status simulation_save(simulation *s, const bl_sink *sink)
{
    saved v = {0};
    GKeyFile *f = g_key_file_new();
    if (s->copied != NULL) { /* is put away, and the board's own chip is there again */
        char *name = simulation_copy_name(s);
        let_end(s, s->socket);
        add_state_file(&v, name, ".bin", s->copied, s->b->chips[s->socket].part->size);
        s->sim.parts[s->socket].cells = s->cells[s->socket];
        g_free(name);
    }
    put_state_number(f, "bench", "now", s->sim.now);
    put_state_number(f, "bench", "powered", s->sim.powered);
    char *parts = board_parts(s->b);
    g_key_file_set_string(f, "bench", "parts", parts);
    g_free(parts);
    put_state_number(f, "bench", "started",
                     s->sim.neighbour != NULL && s->sim.monitor.kind == NULL);
    for (size_t i = 0; i < s->b->chip_count; i++) {
        let_end(s, i);
        add_state_file(&v, s->b->chips[i].name, ".bin", s->cells[i], s->b->chips[i].part->size);
        put_state_number(f, "protect", s->b->chips[i].name, s->sim.parts[i].protect);
    }
    visit_kept(s, f, save_row);
    if (s->sim.powered) {
        sim_state_visit visit = {f, save_number, save_row};
        sim_state_board(&s->sim, &visit);
    }
    if (s->sim.powered || (has_battery(s) && s->sim.board.ram_kept))
        add_state_file(&v, "ram", ".bin", s->sim.board.ram, sim_board_ram(&s->sim.board));
    gsize length;
    char *text = g_key_file_to_data(f, &length, NULL);
    add_state_file(&v, "board", ".ini", text, length);
    bl_status status = replace_set(s->folder, v.files, v.count, sink);
    for (size_t i = 0; i < v.count; i++)
        g_free(v.names[i]);
    g_free(text);
    g_key_file_free(f);
    return status;
}
