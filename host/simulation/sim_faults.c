/* sim_faults.c - "flip=1/500", "stuck=$4000:3:0" and the like: one table of what there is. */
#include "sim_faults.h"

#include <glib.h>
#include <string.h>

#include "board_faults.h"

/* The numbers of a fault's value, in order. */
enum { VALUES = 3 };

/* One fault: how it is written, and what it does. */
typedef struct fault {
    const char *name;
    const char *form; /* of its value; NULL: it has none */
    const char *help;
    uint32_t max[VALUES]; /* the largest that each number may be; the rest is 0 */
    uint32_t min[VALUES];
    char separator; /* of the numbers */
    bool (*apply)(simulation *s, const uint32_t *n);
} fault;

/* ---- the lines ---- */

static sim_line_faults *faults_of_line(simulation *s, size_t index)
{
    return index == 0 ? &s->sim.board_line.faults : &s->sim.socket_line.faults;
}

static bool flip_bits(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < 2; i++)
        faults_of_line(s, i)->flip_one_in = n[1];
    return true;
}

static bool lose_bytes(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < 2; i++)
        faults_of_line(s, i)->lose_one_in = n[1];
    return true;
}

static bool fall_silent(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < 2; i++)
        faults_of_line(s, i)->vanish_after = n[0];
    return true;
}

/* ---- the chips ---- */

static bool stick_cell(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < s->b->chip_count; i++) {
        sim_part_faults *f = &s->sim.parts[i].faults;
        if (f->stuck_count == SIM_STUCK_MAX) return false;
        f->stuck[f->stuck_count++] = (sim_stuck){n[0], (uint8_t)n[1], n[2] != 0};
    }
    return true;
}

static bool block_writes(simulation *s, const uint32_t *n)
{
    (void)n;
    for (size_t i = 0; i < s->b->chip_count; i++)
        s->sim.parts[i].faults.write_blocked = true;
    return true;
}

static bool lock_chips(simulation *s, const uint32_t *n)
{
    (void)n;
    for (size_t i = 0; i < s->b->chip_count; i++)
        s->sim.parts[i].protect = true;
    return true;
}

static bool slow_cycles(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < s->b->chip_count; i++)
        s->sim.parts[i].faults.cycle_us = n[0] * 1000;
    return true;
}

static bool tire_chips(simulation *s, const uint32_t *n)
{
    for (size_t i = 0; i < s->b->chip_count; i++)
        s->sim.parts[i].faults.tired = n[0];
    return true;
}

static bool shine_on_chips(simulation *s, const uint32_t *n)
{
    (void)n;
    for (size_t i = 0; i < s->b->chip_count; i++)
        sim_part_ultraviolet(&s->sim.parts[i]);
    return true;
}

/* ---- the socket ---- */

static bool cut_current(simulation *s, const uint32_t *n)
{
    s->sim.socket.cut_after = n[0];
    return true;
}

static bool fix_supply(simulation *s, const uint32_t *n)
{
    (void)n;
    s->sim.socket.fixed_supply = true;
    return true;
}

static bool empty_socket(simulation *s, const uint32_t *n)
{
    (void)n;
    s->sim.socket.wiring.empty = true;
    return true;
}

static bool stick_data(simulation *s, const uint32_t *n)
{
    sim_wiring *w = &s->sim.socket.wiring;
    w->data_stuck = (uint8_t)(w->data_stuck | 1u << n[0]);
    w->data_levels = (uint8_t)(w->data_levels | n[1] << n[0]);
    return true;
}

static bool pair_lines(uint8_t *pair, const uint32_t *n)
{
    pair[0] = (uint8_t)n[0], pair[1] = (uint8_t)n[1];
    return true;
}

static bool swap_data(simulation *s, const uint32_t *n)
{
    return pair_lines(s->sim.socket.wiring.data_swap, n);
}

static bool bridge_data(simulation *s, const uint32_t *n)
{
    return pair_lines(s->sim.socket.wiring.data_bridge, n);
}

static bool stick_address(simulation *s, const uint32_t *n)
{
    sim_wiring *w = &s->sim.socket.wiring;
    w->address_stuck |= 1u << n[0];
    w->address_levels |= n[1] << n[0];
    return true;
}

static bool swap_address(simulation *s, const uint32_t *n)
{
    return pair_lines(s->sim.socket.wiring.address_swap, n);
}

/* ---- the board ---- */

static bool poke_memory(simulation *s, const uint32_t *n)
{
    s->sim.board.ram[n[0]] = (uint8_t)n[1];
    return true;
}

/* ---- the recorder ---- */

static bool change_speed(simulation *s, const uint32_t *n)
{
    s->recorder.speed = (uint16_t)n[0];
    return true;
}

static bool waver(simulation *s, const uint32_t *n)
{
    s->recorder.wow = (uint16_t)n[0];
    return true;
}

static bool turn_down(simulation *s, const uint32_t *n)
{
    s->recorder.level = (uint16_t)n[0];
    return true;
}

static bool hiss(simulation *s, const uint32_t *n)
{
    s->recorder.hiss = (uint16_t)n[0];
    return true;
}

static bool drop_out(simulation *s, const uint32_t *n)
{
    s->recorder.dropouts = (uint16_t)n[0];
    return true;
}

static bool plug_both(simulation *s, const uint32_t *n)
{
    (void)n;
    s->recorder.both_cords = true;
    return true;
}

/* ---- the disk drive ---- */

static bool take_disk_out(simulation *s, const uint32_t *n)
{
    (void)n;
    s->disk.not_ready = true;
    return true;
}

static bool protect_disk(simulation *s, const uint32_t *n)
{
    (void)n;
    s->disk.write_protect = true;
    return true;
}

static bool spoil_sector(simulation *s, const uint32_t *n)
{
    if (s->disk.bad_count == SIM_DRIVE_BAD) return false;
    s->disk.bad[s->disk.bad_count++] = n[0];
    return true;
}

static bool cut_behind_sector(simulation *s, const uint32_t *n)
{
    s->disk.cut_after = n[0], s->disk.within = false;
    return true;
}

static bool cut_within_sector(simulation *s, const uint32_t *n)
{
    s->disk.cut_after = n[0], s->disk.within = true;
    return true;
}

/* ---- all of them ---- */

#define ANY UINT32_MAX

static const fault faults[] = {
    {"flip",
     "1/N",
     "one bit in N arrives wrong, both lines, both ways",
     {1, ANY},
     {1, 1},
     '/',
     flip_bits},
    {"lose", "1/N", "one byte in N is lost", {1, ANY}, {1, 1}, '/', lose_bytes},
    {"vanish", "N", "after N bytes the lines fall silent", {ANY}, {1}, ':', fall_silent},
    {"stuck",
     "AT:BIT:V",
     "a cell of every chip: bit BIT at offset AT always reads V",
     {ANY, 7, 1},
     {0},
     ':',
     stick_cell},
    {"blocked", NULL, "the chip's write enable never reaches it", {0}, {0}, ':', block_writes},
    {"locked",
     NULL,
     "the chip's software data protection is on (it stays on: it is the chip's)",
     {0},
     {0},
     ':',
     lock_chips},
    {"cycle", "N", "a write cycle takes N milliseconds", {1000}, {1}, ':', slow_cycles},
    {"tired", "N", "a byte of an EPROM needs N pulses more", {1000}, {1}, ':', tire_chips},
    {"ultraviolet",
     NULL,
     "the EPROMs have been under the lamp: all FF (no fault, but what one does)",
     {0},
     {0},
     ':',
     shine_on_chips},
    {"cut",
     "N",
     "the current fails after N steps at the socket's pins: what the chip was doing stays half "
     "done",
     {ANY},
     {1},
     ':',
     cut_current},
    {"fixed-supply",
     NULL,
     "the programmer has 5 volts and nothing else",
     {0},
     {0},
     ':',
     fix_supply},
    {"empty", NULL, "no chip is in the programmer's socket", {0}, {0}, ':', empty_socket},
    {"data", "LINE:V", "a data line of the socket is stuck at V", {7, 1}, {0}, ':', stick_data},
    {"data-swap", "A:B", "two data lines of the socket are swapped", {7, 7}, {0}, ':', swap_data},
    {"data-bridge", "A:B", "two data lines of the socket touch", {7, 7}, {0}, ':', bridge_data},
    {"address",
     "LINE:V",
     "an address line of the socket is stuck at V",
     {23, 1},
     {0},
     ':',
     stick_address},
    {"address-swap",
     "A:B",
     "two address lines of the socket are swapped",
     {23, 23},
     {0},
     ':',
     swap_address},
    {"tape-speed",
     "N",
     "the recorder plays at N thousandths of its speed",
     {2000},
     {500},
     ':',
     change_speed},
    {"tape-wow", "N", "the recorder's speed wavers by N thousandths", {100}, {1}, ':', waver},
    {"tape-level", "N", "the recorder's volume is at N thousandths", {1000}, {1}, ':', turn_down},
    {"tape-hiss", "N", "noise up to N of 32,768 comes along", {32767}, {1}, ':', hiss},
    {"tape-dropouts", "N", "every N seconds 40 ms of the tape are worn", {600}, {1}, ':', drop_out},
    {"tape-cords", NULL, "both of the recorder's cords are plugged in", {0}, {0}, ':', plug_both},
    {"disk-out", NULL, "there is no disk in the drive", {0}, {0}, ':', take_disk_out},
    {"disk-protected", NULL, "the disk is write protected", {0}, {0}, ':', protect_disk},
    {"disk-bad", "N", "sector N of the disk is bad", {ANY}, {0}, ':', spoil_sector},
    {"disk-cut",
     "N",
     "the power fails behind N sectors that are written, until the board is switched on again",
     {ANY},
     {1},
     ':',
     cut_behind_sector},
    {"disk-cut-within",
     "N",
     "the power fails in the middle of the sector behind those",
     {ANY},
     {1},
     ':',
     cut_within_sector},
    {"poke",
     "ADDRESS:BYTE",
     "a byte of the board's RAM has changed",
     {0xFFFF, 0xFF},
     {0},
     ':',
     poke_memory},
};
enum { FAULTS = sizeof faults / sizeof faults[0] };

/* Those whose value is no numbers, but the name of something on the board. */
static const struct {
    const char *name, *form, *help;
    bool (*apply)(simulation *s, const char *value);
} board_faults[] = {
    {"missing", "DEVICE", "a device of the board is not in its socket", board_fault_missing},
    {"backwards", "DEVICE", "a device is in its socket the wrong way round: nothing runs",
     board_fault_backwards},
    {"open", "DEVICE.PIN", "a pin of a device is not connected", board_fault_open},
    {"swapped", "DEVICE.PIN:PIN", "two pins of a device are swapped", board_fault_swapped},
    {"dead-clock", "DEVICE", "a device's own clock stands still; cpu: the CPU's, and nothing runs",
     board_fault_dead_clock},
    {"shadow", "DEVICE:ADDRESS", "a device answers at this address, too: two drive the bus",
     board_fault_shadow},
};
enum { BOARD_FAULTS = sizeof board_faults / sizeof board_faults[0] };

const char *simulation_fault(size_t index, const char **form, const char **help)
{
    if (index < FAULTS) {
        *form = faults[index].form;
        *help = faults[index].help;
        return faults[index].name;
    }
    index -= FAULTS;
    if (index >= BOARD_FAULTS) return NULL;
    *form = board_faults[index].form;
    *help = board_faults[index].help;
    return board_faults[index].name;
}

char *simulation_fault_help(void)
{
    GString *text = g_string_new("Faults of the simulated bench (--fault, may be repeated):\n");
    const char *name, *form, *about;
    for (size_t i = 0; (name = simulation_fault(i, &form, &about)) != NULL; i++) {
        char *written = g_strconcat(name, form != NULL ? "=" : NULL, form, NULL);
        g_string_append_printf(text, "  %-22s %s\n", written, about);
        g_free(written);
    }
    return g_string_free(text, FALSE);
}

/* As many numbers as the form has, each within its limits. */
static bool take_values(const fault *f, const char *text, uint32_t *n)
{
    char separator[2] = {f->separator, '\0'};
    char **parts = g_strsplit(text, separator, 0), **forms = g_strsplit(f->form, separator, 0);
    guint count = g_strv_length(forms);
    bool good = g_strv_length(parts) == count && count <= VALUES;
    for (guint i = 0; good && i < count; i++)
        good = bl_number_parse((bl_text){parts[i], strlen(parts[i])}, f->max[i], &n[i]) == BL_OK &&
               n[i] >= f->min[i];
    g_strfreev(parts);
    g_strfreev(forms);
    return good;
}

static bool apply_fault(simulation *s, const char *name, const char *value)
{
    uint32_t n[VALUES] = {0};
    for (size_t i = 0; i < FAULTS; i++) {
        const fault *f = &faults[i];
        if (strcmp(f->name, name) != 0) continue;
        bool good = f->form == NULL ? value == NULL : value != NULL && take_values(f, value, n);
        return good && f->apply(s, n);
    }
    for (size_t i = 0; i < BOARD_FAULTS; i++)
        if (strcmp(board_faults[i].name, name) == 0)
            return value != NULL && board_faults[i].apply(s, value);
    return false;
}

bl_status simulation_apply_faults(simulation *s, char **list, const bl_sink *sink)
{
    for (char **f = list; f != NULL && *f != NULL; f++) {
        char **parts = g_strsplit(*f, "=", 2);
        bool good = parts[0] != NULL && apply_fault(s, parts[0], parts[1]);
        g_strfreev(parts);
        if (good) continue;
        char *help = simulation_fault_help();
        bl_report(sink, BL_ERROR, NULL, 0, help, "'%s' is not a fault of the simulated bench", *f);
        g_free(help);
        return BL_E_SYNTAX;
    }
    return BL_OK;
}

bl_status simulation_disk_faults(char **list, sim_drive_faults *chosen, const bl_sink *sink)
{
    simulation *s = g_new0(simulation, 1);
    bl_status status = BL_OK;
    for (char **f = list; f != NULL && *f != NULL && status == BL_OK; f++)
        if (!g_str_has_prefix(*f, "disk-")) {
            bl_report(sink, BL_ERROR, NULL, 0,
                      "disk-out, disk-protected, disk-bad=N, disk-cut=N, "
                      "disk-cut-within=N",
                      "'%s' is no fault of a disk drive", *f);
            status = BL_E_SYNTAX;
        }
    if (status == BL_OK) status = simulation_apply_faults(s, list, sink);
    *chosen = s->disk;
    g_free(s);
    return status;
}
