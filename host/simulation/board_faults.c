/* board_faults.c - chips that are missing, wires that are wrong. */
#include "board_faults.h"

#include <string.h>

/* The device of a name of so many characters on the board; NULL. */
static sim_device *device_named(simulation *s, const char *name, size_t length)
{
    for (size_t i = 0; i < s->b->device_count; i++) {
        const char *its = s->b->devices[i].name;
        uint8_t place = simulation_place(s->b, i);
        if (place != SIMULATION_NO_PLACE && strlen(its) == length && memcmp(its, name, length) == 0)
            return &s->sim.board.devices[place];
    }
    return NULL;
}

bool board_fault_missing(simulation *s, const char *device)
{
    sim_device *d = device_named(s, device, strlen(device));
    if (d != NULL) d->missing = true;
    return d != NULL;
}

/* The wrong way round it is a short circuit between supply and ground: nothing runs. */
bool board_fault_backwards(simulation *s, const char *device)
{
    s->sim.stands = board_fault_missing(s, device);
    return s->sim.stands;
}

/* "glass.e": the device, and behind the dot the rest. */
static sim_device *device_before_dot(simulation *s, const char *text, const char **rest)
{
    const char *dot = strchr(text, '.');
    *rest = dot != NULL ? dot + 1 : "";
    return dot != NULL ? device_named(s, text, (size_t)(dot - text)) : NULL;
}

static int wired_pin(const sim_device *d, const char *name, size_t length)
{
    int pin = bl_device_pin(&d->kind->about, (bl_text){name, length});
    return pin >= 0 && d->nets[pin] != 0 ? pin : -1;
}

bool board_fault_open(simulation *s, const char *text)
{
    const char *name;
    sim_device *d = device_before_dot(s, text, &name);
    int pin = d != NULL ? wired_pin(d, name, strlen(name)) : -1;
    if (pin < 0) return false;
    sim_nets_open(&s->sim.board, (size_t)(d - s->sim.board.devices), (unsigned)pin);
    return true;
}

bool board_fault_swapped(simulation *s, const char *text)
{
    const char *first;
    sim_device *d = device_before_dot(s, text, &first);
    const char *colon = strchr(first, ':');
    if (d == NULL || colon == NULL) return false;
    int one = wired_pin(d, first, (size_t)(colon - first)),
        other = wired_pin(d, colon + 1, strlen(colon + 1));
    if (one < 0 || other < 0 || one == other) return false;
    sim_nets_swap(&s->sim.board, (size_t)(d - s->sim.board.devices), (unsigned)one,
                  (unsigned)other);
    return true;
}

/* Of a device only a clock of its own can be dead; without the CPU's nothing runs. */
bool board_fault_dead_clock(simulation *s, const char *device)
{
    if (strcmp(device, "cpu") == 0) {
        s->sim.stands = true;
        return true;
    }
    sim_device *d = device_named(s, device, strlen(device));
    if (d == NULL || !d->kind->about.clocked) return false;
    d->clock = 0;
    d->timed = false; /* whatever comes by a wire */
    return true;
}

bool board_fault_shadow(simulation *s, const char *text)
{
    const char *colon = strchr(text, ':');
    uint32_t address;
    sim_device *d = colon != NULL ? device_named(s, text, (size_t)(colon - text)) : NULL;
    if (d == NULL || d->size == 0 || d->in_ports) return false;
    bl_text number = {colon + 1, strlen(colon + 1)};
    if (bl_number_parse(number, 0xFFFFu - d->size, &address) != BL_OK || address == 0) return false;
    d->shadow = address;
    s->sim.board.shadowed = true;
    sim_board_map(&s->sim.board);
    return true;
}
