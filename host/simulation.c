/* simulation.c - building the simulated bench, and keeping it between runs. */
#include "simulation.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>
#include <sys/file.h>
#include <unistd.h>

#include "files.h"
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

static bl_status take_lock(simulation *s, const bl_sink *sink)
{
    char *path = path_of(s, "lock", "");
    if (g_mkdir_with_parents(s->folder, 0777) == 0)
        s->lock = g_open(path, O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    g_free(path);
    if (s->lock < 0) {
        bl_report(sink, BL_ERROR, s->folder, 0, NULL, "cannot use this state folder: %s",
                  g_strerror(errno));
        return BL_E_IO;
    }
    if (flock(s->lock, LOCK_EX | LOCK_NB) == 0) return BL_OK;
    bl_report(
        sink, BL_ERROR, s->folder, 0,
        "if 'bootlace board serve' is running: -p takes its pseudo-terminals, and reset, off, on "
        "and quit are typed into it",
        "another process is using this simulated bench");
    return BL_E_BUSY;
}

/* ---- chips ---- */

static bl_status load_chip(simulation *s, const bl_chip *chip, const char *name, uint8_t **cells,
                           const bl_sink *sink)
{
    char *path = path_of(s, name, ".bin"), *text = NULL;
    gsize length = 0;
    bl_status status = BL_OK;
    *cells = g_malloc(chip->part->size);
    memset(*cells, 0xFF, chip->part->size); /* a new part is blank */
    if (g_file_get_contents(path, &text, &length, NULL)) {
        if (length == chip->part->size) {
            memcpy(*cells, text, length);
        } else {
            bl_report(sink, BL_ERROR, path, 0, "remove the file for a blank chip",
                      "a %s holds %lu bytes, this file %lu", chip->part->name,
                      (unsigned long)chip->part->size, (unsigned long)length);
            status = BL_E_SYNTAX;
        }
        g_free(text);
    }
    g_free(path);
    return status;
}

static bl_status save_bytes(const simulation *s, const char *name, const void *bytes, size_t count,
                            const bl_sink *sink)
{
    host_output out;
    bl_writer writer;
    host_output_begin(&out, &writer);
    writer.write(writer.context, bytes, count);
    char *path = path_of(s, name, ".bin");
    bl_status status = host_output_end(&out, path, sink);
    g_free(path);
    return status;
}

/* ---- the board's registers, as a key file ---- */

static uint64_t get(GKeyFile *f, const char *group, const char *key)
{
    return g_key_file_get_uint64(f, group, key, NULL);
}

static void put(GKeyFile *f, const char *group, const char *key, uint64_t value)
{
    g_key_file_set_uint64(f, group, key, value);
}

static void load_number(void *context, const char *group, const char *name, void *field,
                        size_t bytes)
{
    uint64_t value = get(context, group, name);
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
    gsize length = 0;
    char *text = g_key_file_get_string(context, group, name, NULL);
    guchar *row = text != NULL ? g_base64_decode(text, &length) : NULL;
    if (length == count) memcpy(bytes, row, count);
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
static bool load_powered(simulation *s, GKeyFile *f)
{
    sim_state_visit visit = {f, load_number, load_row};
    if (s->sim.neighbour != NULL && get(f, "bench", "started") == 0) sim_bench_neighbour(&s->sim);
    sim_state_board(&s->sim, &visit);
    s->sim.powered = true;
    return sim_state_loaded(&s->sim);
}

/* A board that was left switched on goes on where it was. */
static bl_status load_board(simulation *s, const bl_sink *sink)
{
    char *path = path_of(s, "board", ".ini"), *ram_path = path_of(s, "ram", ".bin"), *ram = NULL;
    GKeyFile *f = g_key_file_new();
    gsize length = 0;
    bool good = true;
    if (g_key_file_load_from_file(f, path, G_KEY_FILE_NONE, NULL)) {
        s->sim.now = get(f, "bench", "now");
        s->sim.chance.state ^= s->sim.now;
        for (size_t i = 0; i < s->b->chip_count; i++)
            s->sim.parts[i].protect = get(f, "protect", s->b->chips[i].name) != 0;
        bool on = get(f, "bench", "powered") != 0 &&
                  g_file_get_contents(ram_path, &ram, &length, NULL) &&
                  length == sizeof s->sim.board.ram;
        if (on) {
            memcpy(s->sim.board.ram, ram, length);
            good = load_powered(s, f);
        }
    }
    if (!good)
        bl_report(sink, BL_ERROR, path, 0, "remove this file: the board is then switched off",
                  "the state that was saved makes no sense");
    g_free(ram);
    g_key_file_free(f);
    g_free(path);
    g_free(ram_path);
    return good ? BL_OK : BL_E_SYNTAX;
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

/* The copy is put away, and the board's own chip is there again. */
static bl_status save_copy(simulation *s, const bl_sink *sink)
{
    char *name = copy_name(s);
    sim_part_update(&s->sim.parts[s->socket], s->sim.now + 100u * 1000 * 1000);
    bl_status status = save_bytes(s, name, s->copied, s->b->chips[s->socket].part->size, sink);
    s->sim.parts[s->socket].cells = s->cells[s->socket];
    g_free(name);
    return status;
}

bl_status simulation_save(simulation *s, const bl_sink *sink)
{
    bl_status status = s->copied != NULL ? save_copy(s, sink) : BL_OK;
    GKeyFile *f = g_key_file_new();
    put(f, "bench", "now", s->sim.now);
    put(f, "bench", "powered", s->sim.powered);
    put(f, "bench", "started", s->sim.neighbour != NULL && s->sim.monitor.kind == NULL);
    for (size_t i = 0; i < s->b->chip_count && status == BL_OK; i++) {
        sim_part_update(&s->sim.parts[i],
                        s->sim.now + 100u * 1000 * 1000); /* a write cycle ends by itself */
        status = save_bytes(s, s->b->chips[i].name, s->cells[i], s->b->chips[i].part->size, sink);
        put(f, "protect", s->b->chips[i].name, s->sim.parts[i].protect);
    }
    if (s->sim.powered) {
        sim_state_visit visit = {f, save_number, save_row};
        sim_state_board(&s->sim, &visit);
        if (status == BL_OK)
            status = save_bytes(s, "ram", s->sim.board.ram, sizeof s->sim.board.ram, sink);
    }
    char *path = path_of(s, "board", ".ini");
    GError *error = NULL;
    if (status == BL_OK && !g_key_file_save_to_file(f, path, &error)) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "cannot write: %s", error->message);
        g_error_free(error);
        status = BL_E_IO;
    }
    g_free(path);
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
    simulation *s = g_new0(simulation, 1);
    s->b = b;
    s->lock = -1;
    s->folder = folder != NULL ? g_strdup(folder) : g_strdup(b->state);
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
