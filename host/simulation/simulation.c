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

#include "sim_faults.h"
#include "simulation_files.h"

/* ---- one user at a time ---- */

/* Links that a served bench has left which did not end as it should: what they lead to may be
 * somebody else's terminal by now. Whoever has the lock knows that nobody serves it. */
static void remove_links(const simulation *s)
{
    static const char *const names[] = {"serial", "programmer"};
    for (size_t i = 0; i < G_N_ELEMENTS(names); i++) {
        char *path = simulation_path(s, names[i], "");
        if (g_file_test(path, G_FILE_TEST_IS_SYMLINK)) g_unlink(path);
        g_free(path);
    }
}

/* Who has the bench is asked before its files are read: two commands would each save what the
 * other has not seen. */
static bl_status take_lock(simulation *s, const bl_sink *sink)
{
    char *path = simulation_path(s, "lock", "");
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

bl_status simulation_insert(simulation *s, size_t chip, unsigned copy, const bl_sink *sink)
{
    simulation_power_off(s);
    sim_bench_insert(&s->sim, chip);
    s->socket = chip;
    s->copy = copy;
    if (copy < 2) return BL_OK;
    char *name = simulation_copy_name(s);
    bl_status status = simulation_load_chip(s, &s->b->chips[chip], name, &s->copied, sink);
    if (status == BL_OK) s->sim.parts[chip].cells = s->copied;
    g_free(name);
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
    if (!simulation_has_room(b)) {
        bl_report(sink, BL_ERROR, b->path, 0, NULL,
                  "the simulated bench has room for %d chips, %d devices, %d wires with %d ends, "
                  "and %d KiB of RAM",
                  SIM_CHIPS, SIM_DEVICES, SIM_NETS, SIM_NET_PINS, SIM_RAM / 1024);
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

static const bl_device_kind *device_about(size_t index)
{
    const sim_device_kind *kind = sim_device_kind_at(index);
    return kind != NULL ? &kind->about : NULL;
}

static const char *request_name(const bl_sheet *sheet, size_t index)
{
    bl_text cpu = bl_sheet_name(sheet);
    const sim_cpu_kind *kind = sim_cpu_kind_for(cpu.at, cpu.length);
    return kind != NULL && index < kind->request_count ? kind->requests[index].name : NULL;
}

const bench_hardware simulation_hardware = {device_about, request_name, sim_monitor_name};

/* In this order: lock, chips, bench, board, faults; whatever fails, what was opened is closed. */
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
        status = simulation_load_chip(s, &b->chips[i], b->chips[i].name, &s->cells[i], sink);
    if (status == BL_OK) {
        sim_bench_begin(&s->sim, kind_of(b), b->clock, b->areas, b->area_count, b->chips, s->cells,
                        b->chip_count, b->link_baud, b->programmer_baud, seed);
        s->sim.socket.text = b->dialogue != NULL; /* Pip is the one that speaks text here */
        s->sim.socket.vpp_max = b->programmer_vpp;
        if (b->neighbour != NULL) {
            s->sim.neighbour = sim_monitor_named(b->neighbour);
            g_assert(s->sim.neighbour != NULL); /* the bench file was checked by the same list */
        }
        s->sim.stands = own_kind(b) == NULL;
        simulation_add_devices(&s->sim, b);
        status = simulation_load_board(s, sink);
        if (status == BL_OK) status = simulation_apply_faults(s, faults, sink);
        if (status == BL_OK && s->sim.powered)
            sim_board_loaded(&s->sim.board); /* with its faults */
        if (status == BL_OK) status = simulation_load_disk(s, sink);
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
    enum { LIMIT = 100, QUIET = 2 };
    const sim_wire *out = &s->sim.board_line.to_pc;
    uint64_t step = 3 * sim_wire_byte_time(out->baud);
    if (step < 20u * 1000 * 1000) step = 20u * 1000 * 1000;
    /* It may have been left in the middle of its greeting. */
    if (s->sim.powered && out->free_at + step < s->sim.now) return;
    if (!s->sim.powered) sim_bench_power_on(&s->sim);
    uint64_t said = out->free_at;
    for (unsigned i = 0, quiet = 0; i < LIMIT && quiet < QUIET; i++) {
        sim_bench_run(&s->sim, s->sim.now + step);
        quiet = out->free_at == said ? quiet + 1 : 0;
        said = out->free_at;
    }
}

simulation_change simulation_mind_socket(simulation *s, simulation_rest *rest, bool off)
{
    const uint64_t rest_ns = 500u * 1000 * 1000;
    bool was_on = s->sim.powered;
    if (s->sim.socket.steps != rest->steps) {
        simulation_power_off(s);
        *rest = (simulation_rest){s->sim.socket.steps, s->sim.now};
        return was_on ? SIMULATION_CHIP_OUT : SIMULATION_NO_CHANGE;
    }
    if (was_on || off || s->sim.now - rest->since <= rest_ns || s->sim.socket.programmer.work.busy)
        return SIMULATION_NO_CHANGE;
    simulation_power_on(s);
    return SIMULATION_CHIP_BACK;
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
    if (s->medium.changed != NULL) disk_image_close(&s->medium);
    g_free(s->folder);
    g_free(s);
}
