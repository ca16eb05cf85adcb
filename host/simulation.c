/* simulation.c - building the simulated bench, and keeping it between runs. */
#include "simulation.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "replace.h"
#include "sim/state.h"
#include "sim_faults.h"

static char *path_of(const simulation *s, const char *name, const char *ending)
{
    char *file = g_strconcat(name, ending, NULL);
    char *path = g_build_filename(s->folder, file, NULL);
    g_free(file);
    return path;
}

/* ---- one user at a time ---- */

/* Links that a served bench has left which did not end as it should: what they lead to may be
 * somebody else's terminal by now. Whoever has the lock knows that nobody serves it. */
static void remove_links(const simulation *s)
{
    static const char *const names[] = {"serial", "programmer"};
    for (size_t i = 0; i < G_N_ELEMENTS(names); i++) {
        char *path = path_of(s, names[i], "");
        if (g_file_test(path, G_FILE_TEST_IS_SYMLINK)) g_unlink(path);
        g_free(path);
    }
}

static bl_status take_lock(simulation *s, const bl_sink *sink)
{
    char *path = path_of(s, "lock", "");
    struct stat info;
    if (g_mkdir_with_parents(s->folder, 0777) == 0)
        s->lock = open(path, O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0600);
    g_free(path);
    /* Whoever else could open it could hold it. */
    if (s->lock >= 0 && fstat(s->lock, &info) == 0 && info.st_uid == geteuid() &&
        (info.st_mode & 077) != 0 && fchmod(s->lock, 0600) != 0) {
        close(s->lock);
        s->lock = -1;
    }
    if (s->lock < 0) {
        bl_report(sink, BL_ERROR, s->folder, 0, NULL, "cannot use this state folder: %s",
                  g_strerror(errno));
        return BL_E_IO;
    }
    if (flock(s->lock, LOCK_EX | LOCK_NB) == 0) {
        remove_links(s);
        return BL_OK;
    }
    bl_report(
        sink, BL_ERROR, s->folder, 0,
        "if 'bootlace board serve' is running: -p takes its pseudo-terminals, and reset, off, on "
        "and quit are typed into it",
        "another process is using this simulated bench");
    return BL_E_BUSY;
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

static bl_status load_chip(simulation *s, const bl_chip *chip, const char *name, uint8_t **cells,
                           const bl_sink *sink)
{
    char *path = path_of(s, name, ".bin"), *text = NULL;
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

static uint64_t get(loader *l, const char *group, const char *key, uint64_t most)
{
    GError *error = NULL;
    uint64_t value = g_key_file_get_uint64(l->f, group, key, &error);
    if (error == NULL && value <= most) return value;
    if (l->wrong[0] == '\0') g_snprintf(l->wrong, sizeof l->wrong, "'%s' of [%s]", key, group);
    g_clear_error(&error);
    return 0;
}

static void put(GKeyFile *f, const char *group, const char *key, uint64_t value)
{
    g_key_file_set_uint64(f, group, key, value);
}

static void load_number(void *context, const char *group, const char *name, void *field,
                        size_t bytes)
{
    uint64_t most = bytes == 8 ? UINT64_MAX : ((uint64_t)1 << 8 * bytes) - 1;
    uint64_t value = get(context, group, name, most);
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
    put(context, group, name,
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
    if (s->sim.neighbour != NULL && get(l, "bench", "started", 1) == 0)
        sim_bench_neighbour(&s->sim);
    sim_state_board(&s->sim, &visit);
    s->sim.powered = true;
    return l->wrong[0] == '\0' && sim_state_loaded(&s->sim);
}

/* The memory of a board that was left on. */
static bool load_ram(simulation *s, const bl_sink *sink)
{
    char *path = path_of(s, "ram", ".bin"), *ram;
    gsize length;
    bool read = load_file(path, &ram, &length, sink) == BL_OK;
    bool good = read && ram != NULL && length == sizeof s->sim.board.ram;
    if (good)
        memcpy(s->sim.board.ram, ram, length);
    else if (read)
        bl_report(sink, BL_ERROR, path, 0, "remove board.ini beside it: the board is then off",
                  "the board was left on, and this is not its memory: %lu bytes, not %lu",
                  (unsigned long)length, (unsigned long)sizeof s->sim.board.ram);
    g_free(ram);
    g_free(path);
    return good;
}

static bl_status load_registers(simulation *s, loader *l, const bl_sink *sink)
{
    uint64_t latest = (uint64_t)INT64_MAX / 8; /* nanoseconds; sums of times must not wrap */
    s->sim.now = get(l, "bench", "now", latest);
    s->sim.chance.state ^= s->sim.now;
    for (size_t i = 0; i < s->b->chip_count; i++) {
        const char *name = s->b->chips[i].name; /* one that is new to the bench is not in there */
        if (g_key_file_has_key(l->f, "protect", name, NULL))
            s->sim.parts[i].protect = get(l, "protect", name, 1) != 0;
    }
    bool on = get(l, "bench", "powered", 1) != 0;
    if (l->wrong[0] != '\0') return BL_E_SYNTAX;
    if (on && !load_ram(s, sink)) return BL_E_IO; /* told */
    return !on || load_powered(s, l) ? BL_OK : BL_E_SYNTAX;
}

/* A board that was left switched on goes on where it was. */
static bl_status load_board(simulation *s, const bl_sink *sink)
{
    char *path = path_of(s, "board", ".ini"), *text;
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

static char *copy_name(const simulation *s)
{
    return g_strdup_printf("%s-%u", s->b->chips[s->socket].name, s->copy);
}

bl_status simulation_insert(simulation *s, size_t chip, unsigned copy, const bl_sink *sink)
{
    simulation_power_off(s);
    sim_bench_insert(&s->sim, chip);
    s->socket = chip;
    s->copy = copy;
    if (copy < 2) return BL_OK;
    char *name = copy_name(s);
    bl_status status = load_chip(s, &s->b->chips[chip], name, &s->copied, sink);
    if (status == BL_OK) s->sim.parts[chip].cells = s->copied;
    g_free(name);
    return status;
}

/* ---- saving: all files at once ---- */

enum { MOST_FILES = SIM_CHIPS + 3 };

typedef struct saved {
    replace_file files[MOST_FILES];
    char *names[MOST_FILES];
    size_t count;
} saved;

static void add_file(saved *v, const char *name, const char *ending, const void *bytes,
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

bl_status simulation_save(simulation *s, const bl_sink *sink)
{
    saved v = {0};
    GKeyFile *f = g_key_file_new();
    if (s->copied != NULL) { /* is put away, and the board's own chip is there again */
        char *name = copy_name(s);
        let_end(s, s->socket);
        add_file(&v, name, ".bin", s->copied, s->b->chips[s->socket].part->size);
        s->sim.parts[s->socket].cells = s->cells[s->socket];
        g_free(name);
    }
    put(f, "bench", "now", s->sim.now);
    put(f, "bench", "powered", s->sim.powered);
    put(f, "bench", "started", s->sim.neighbour != NULL && s->sim.monitor.kind == NULL);
    for (size_t i = 0; i < s->b->chip_count; i++) {
        let_end(s, i);
        add_file(&v, s->b->chips[i].name, ".bin", s->cells[i], s->b->chips[i].part->size);
        put(f, "protect", s->b->chips[i].name, s->sim.parts[i].protect);
    }
    if (s->sim.powered) {
        sim_state_visit visit = {f, save_number, save_row};
        sim_state_board(&s->sim, &visit);
        add_file(&v, "ram", ".bin", s->sim.board.ram, sizeof s->sim.board.ram);
    }
    gsize length;
    char *text = g_key_file_to_data(f, &length, NULL);
    add_file(&v, "board", ".ini", text, length);
    bl_status status = replace_set(s->folder, v.files, v.count, sink);
    for (size_t i = 0; i < v.count; i++)
        g_free(v.names[i]);
    g_free(text);
    g_key_file_free(f);
    return status;
}

/* ---- building ---- */

static const sim_cpu_kind *own_kind(const bench *b)
{
    bl_text cpu = bl_sheet_name(b->sheet);
    return sim_cpu_kind_for(cpu.at, cpu.length);
}

/* A neighbour's monitor is simulated whatever its CPU is; only its programs do not run then. */
static const sim_cpu_kind *kind_of(const bench *b)
{
    const sim_cpu_kind *kind = own_kind(b);
    return kind == NULL ? sim_cpu_kind_for("65c02", 5) : kind;
}

bl_status simulation_check_cpu(const bench *b, const bl_sink *sink)
{
    bl_text cpu = bl_sheet_name(b->sheet);
    if (own_kind(b) != NULL || b->neighbour != NULL) return BL_OK;
    char known[260] = "its chips can be planned, written and verified on the simulated programmer; "
                      "simulated CPUs:";
    for (size_t i = 0; sim_cpu_name(i) != NULL; i++) {
        g_strlcat(known, " ", sizeof known);
        g_strlcat(known, sim_cpu_name(i), sizeof known);
    }
    if (cpu.length == 4 && memcmp(cpu.at, "none", 4) == 0)
        bl_report(sink, BL_ERROR, b->path, 0, "'cpu: none' is a ROM that holds data alone",
                  "nothing runs here: there is no CPU");
    else
        bl_report(sink, BL_ERROR, b->path, 0, known, "there is no simulator for the %.*s",
                  (int)cpu.length, cpu.at);
    return BL_E_UNSUPPORTED;
}

static bl_status check_bench(const bench *b, const bl_sink *sink)
{
    if (b->chip_count > SIM_CHIPS || b->device_count > SIM_DEVICES) {
        bl_report(sink, BL_ERROR, b->path, 0, NULL,
                  "the simulated bench has room for %d chips and %d devices", SIM_CHIPS,
                  SIM_DEVICES);
        return BL_E_UNSUPPORTED;
    }
    for (size_t i = 0; i < b->chip_count; i++) {
        if (g_ascii_strcasecmp(b->chips[i].name, "ram") != 0) continue;
        bl_report(sink, BL_ERROR, b->path, 0, "give the chip another name",
                  "the simulated bench keeps the board's memory in ram.bin; chip '%s' would be "
                  "the same file",
                  b->chips[i].name);
        return BL_E_UNSUPPORTED;
    }
    return BL_OK;
}

static void add_devices(simulation *s)
{
    sim_line *line = &s->sim.board_line;
    for (size_t i = 0; i < s->b->device_count; i++) {
        const bench_device *d = &s->b->devices[i];
        if (d->kind == BENCH_ACIA_6551 && d == s->b->link_device)
            sim_board_add(&s->sim.board, SIM_DEVICE_ACIA, (uint16_t)d->at, d->in_ports,
                          &line->from_pc, &line->to_pc);
        else if (d->kind == BENCH_LATCH || d->kind == BENCH_PORT8)
            sim_board_add(&s->sim.board,
                          d->kind == BENCH_LATCH ? SIM_DEVICE_LATCH : SIM_DEVICE_PORT8,
                          (uint16_t)d->at, d->in_ports, NULL, NULL);
    }
}

bl_status simulation_open(const bench *b, const char *folder, uint64_t seed, char **faults,
                          const bl_sink *sink, simulation **out)
{
    bl_status status = check_bench(b, sink);
    if (status != BL_OK) return status;
    if (folder == NULL) folder = b->state;
    simulation *s = g_new0(simulation, 1);
    s->b = b;
    s->lock = -1;
    s->folder = g_strdup(folder);
    status = take_lock(s, sink);
    for (size_t i = 0; i < b->chip_count && status == BL_OK; i++)
        status = load_chip(s, &b->chips[i], b->chips[i].name, &s->cells[i], sink);
    if (status == BL_OK) {
        sim_bench_begin(&s->sim, kind_of(b), b->clock, b->areas, b->area_count, b->chips, s->cells,
                        b->chip_count, b->link_baud, b->programmer_baud, seed);
        s->sim.socket.text = b->dialogue != NULL; /* Pip is the one that speaks text here */
        s->sim.socket.vpp_most = b->programmer_vpp;
        if (b->neighbour != NULL) s->sim.neighbour = sim_monitor_named(b->neighbour);
        s->sim.stands = own_kind(b) == NULL;
        add_devices(s);
        status = load_board(s, sink);
        if (status == BL_OK) status = simulation_apply_faults(s, faults, sink);
    }
    if (status != BL_OK) {
        simulation_close(s);
        return status;
    }
    *out = s;
    return BL_OK;
}

void simulation_power_on(simulation *s)
{
    if (!s->sim.powered) sim_bench_power_on(&s->sim);
}

void simulation_come_up(simulation *s)
{
    enum { MOST = 100, QUIET = 2 };
    const sim_wire *out = &s->sim.board_line.to_pc;
    uint64_t step = 3 * sim_wire_byte_time(out->baud);
    if (step < 20u * 1000 * 1000) step = 20u * 1000 * 1000;
    /* It may have been left in the middle of its greeting. */
    if (s->sim.powered && out->free_at + step < s->sim.now) return;
    if (!s->sim.powered) sim_bench_power_on(&s->sim);
    uint64_t said = out->free_at;
    for (unsigned i = 0, quiet = 0; i < MOST && quiet < QUIET; i++) {
        sim_bench_run(&s->sim, s->sim.now + step);
        quiet = out->free_at == said ? quiet + 1 : 0;
        said = out->free_at;
    }
}

bool simulation_reset(simulation *s)
{
    if (!s->sim.powered) return false;
    sim_bench_reset(&s->sim);
    return true;
}

void simulation_power_off(simulation *s)
{
    s->sim.powered = false;
}

void simulation_close(simulation *s)
{
    if (s == NULL) return;
    if (s->lock >= 0) close(s->lock);
    for (size_t i = 0; i < SIM_CHIPS; i++)
        g_free(s->cells[i]);
    g_free(s->copied);
    g_free(s->folder);
    g_free(s);
}
