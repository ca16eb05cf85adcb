/* sim_faults.c - "flip=1/500", "stuck=$4000:3:0" and the like. */
#include "sim_faults.h"

#include <glib.h>
#include <string.h>

const char simulation_fault_help[] =
    "Faults of the simulated bench (--fault, may be repeated):\n"
    "  flip=1/N           one bit in N arrives wrong, both lines, both ways\n"
    "  lose=1/N           one byte in N is lost\n"
    "  vanish=N           after N bytes the lines fall silent\n"
    "  stuck=AT:BIT:V     a cell of every chip: bit BIT at offset AT always reads V\n"
    "  blocked            the chip's write enable never reaches it\n"
    "  locked             the chip's software data protection is on\n"
    "  cycle=N            a write cycle takes N milliseconds\n"
    "  tired=N            a byte of an EPROM needs N pulses more\n"
    "  ultraviolet        the EPROMs have been under the lamp: all FF\n"
    "  cut=N              the current fails after N steps at the socket's pins\n"
    "  fixed-supply       the programmer has 5 volts and nothing else\n"
    "  empty              no chip is in the programmer's socket\n"
    "  data=LINE:V        a data line of the socket is stuck at V\n"
    "  data-swap=A:B      two data lines of the socket are swapped\n"
    "  data-bridge=A:B    two data lines of the socket touch\n"
    "  address=LINE:V     an address line of the socket is stuck at V\n"
    "  address-swap=A:B   two address lines of the socket are swapped\n"
    "  poke=ADDRESS:BYTE  a byte of the board's RAM has changed\n";

static bool numbers(const char *text, const char *separator, uint32_t *out, size_t count)
{
    char **parts = g_strsplit(text, separator, 0);
    bool good = g_strv_length(parts) == count;
    for (size_t i = 0; good && i < count; i++)
        good = bl_number_parse((bl_text){parts[i], strlen(parts[i])}, UINT32_MAX, &out[i]) == BL_OK;
    g_strfreev(parts);
    return good;
}

static bool line_fault(simulation *s, const char *name, const char *value)
{
    sim_line_faults *lines[] = {&s->sim.board_line.faults, &s->sim.socket_line.faults};
    uint32_t n[2] = {0};
    bool vanish = strcmp(name, "vanish") == 0;
    if (vanish ? !numbers(value, "/", n + 1, 1) : !numbers(value, "/", n, 2)) return false;
    if (n[1] == 0 || (!vanish && n[0] != 1)) return false;
    for (size_t i = 0; i < 2; i++) {
        if (vanish)
            lines[i]->vanish_after = n[1];
        else if (strcmp(name, "flip") == 0)
            lines[i]->flip_one_in = n[1];
        else
            lines[i]->lose_one_in = n[1];
    }
    return true;
}

static bool chip_fault(simulation *s, const char *name, const char *value)
{
    uint32_t n[3] = {0};
    bool stuck = strcmp(name, "stuck") == 0, cycle = strcmp(name, "cycle") == 0,
         tired = strcmp(name, "tired") == 0, light = strcmp(name, "ultraviolet") == 0;
    if (stuck && (!numbers(value, ":", n, 3) || n[1] > 7 || n[2] > 1)) return false;
    if ((cycle || tired) && (!numbers(value, ":", n, 1) || n[0] == 0 || n[0] > 1000)) return false;
    if (!stuck && !cycle && !tired && *value != '\0') return false;
    for (size_t i = 0; i < s->b->chip_count; i++) {
        sim_part_faults *f = &s->sim.parts[i].faults;
        if (stuck && f->stuck_count == SIM_STUCK_MOST) return false;
        if (stuck)
            f->stuck[f->stuck_count++] = (sim_stuck){n[0], (uint8_t)n[1], n[2] != 0};
        else if (cycle)
            f->cycle_us = n[0] * 1000;
        else if (tired)
            f->tired = n[0];
        else if (light)
            sim_part_ultraviolet(&s->sim.parts[i]);
        else if (strcmp(name, "blocked") == 0)
            f->write_blocked = true;
        else
            s->sim.parts[i].protect = true;
    }
    return true;
}

static bool socket_fault(simulation *s, const char *name, const char *value)
{
    sim_wiring *w = &s->sim.socket.wiring;
    uint32_t n[2] = {0, 0};
    if (strcmp(name, "empty") == 0 || strcmp(name, "fixed-supply") == 0) {
        w->empty |= *name == 'e';
        s->sim.socket.fixed_supply |= *name == 'f';
        return *value == '\0';
    }
    if (strcmp(name, "cut") == 0) {
        bool good = numbers(value, ":", n, 1) && n[0] > 0;
        s->sim.socket.cut_after = n[0];
        return good;
    }
    bool data = g_str_has_prefix(name, "data"), two = strchr(name, '-') != NULL;
    uint32_t most = data ? 7 : 23;
    if (!numbers(value, ":", n, 2) || n[0] > most || n[1] > (two ? most : 1)) return false;
    uint8_t *pair = strcmp(name, "data-swap") == 0     ? w->data_swap
                    : strcmp(name, "data-bridge") == 0 ? w->data_bridge
                                                       : w->address_swap;
    if (two) {
        pair[0] = (uint8_t)n[0], pair[1] = (uint8_t)n[1];
    } else if (data) {
        w->data_stuck = (uint8_t)(w->data_stuck | 1u << n[0]);
        w->data_levels = (uint8_t)(w->data_levels | n[1] << n[0]);
    } else {
        w->address_stuck |= 1u << n[0];
        w->address_levels |= n[1] << n[0];
    }
    return true;
}

static bool apply(simulation *s, const char *name, const char *value)
{
    static const char *const of_lines[] = {"flip", "lose", "vanish", NULL};
    static const char *const of_chips[] = {"stuck", "blocked",     "locked", "cycle",
                                           "tired", "ultraviolet", NULL};
    if (g_strv_contains(of_lines, name)) return line_fault(s, name, value);
    static const char *const of_socket[] = {"empty",        "data",    "data-swap",
                                            "data-bridge",  "address", "address-swap",
                                            "fixed-supply", "cut",     NULL};
    if (g_strv_contains(of_chips, name)) return chip_fault(s, name, value);
    if (g_strv_contains(of_socket, name)) return socket_fault(s, name, value);
    uint32_t n[2];
    if (strcmp(name, "poke") != 0 || !numbers(value, ":", n, 2) || n[0] > 0xFFFF || n[1] > 0xFF)
        return false;
    s->sim.board.ram[n[0]] = (uint8_t)n[1];
    return true;
}

bl_status simulation_apply_faults(simulation *s, char **faults, const bl_sink *sink)
{
    for (char **f = faults; f != NULL && *f != NULL; f++) {
        char **parts = g_strsplit(*f, "=", 2);
        bool good = parts[0] != NULL && apply(s, parts[0], parts[1] != NULL ? parts[1] : "");
        g_strfreev(parts);
        if (good) continue;
        bl_report(sink, BL_ERROR, NULL, 0, simulation_fault_help,
                  "'%s' is not a fault of the simulated bench", *f);
        return BL_E_SYNTAX;
    }
    return BL_OK;
}
