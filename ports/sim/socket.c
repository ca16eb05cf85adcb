/* socket.c - pins, and the programmer's microcontroller in virtual time. */
#include "socket.h"

#include <string.h>

/* ---- the wires between ---- */

static uint32_t swapped(uint32_t v, const uint8_t *lines)
{
    uint32_t differ = (v >> lines[0] ^ v >> lines[1]) & 1;
    return v ^ (differ << lines[0] | differ << lines[1]);
}

/* From the programmer's side to the chip's, and back: it is the same way. */
static uint8_t data_through(const sim_wiring *w, uint8_t data)
{
    uint32_t v = swapped(data, w->data_swap), touching = 0;
    for (unsigned i = 0; i < 2; i++)
        touching |= 1u << w->data_bridge[i];
    if (w->data_bridge[0] != w->data_bridge[1] && (v & touching) != touching) v &= ~touching;
    return (uint8_t)((v & ~(uint32_t)w->data_stuck) | w->data_levels);
}

static sim_eeprom *chip_of(const sim_socket *s)
{
    return s->wiring.empty ? NULL : s->chip;
}

/* ---- pins ---- */

static void set_address(void *context, uint32_t address)
{
    sim_socket *s = context;
    const sim_wiring *w = &s->wiring;
    s->address = address;
    if (chip_of(s) != NULL)
        s->chip->address =
            (swapped(address, w->address_swap) & ~w->address_stuck) | w->address_levels;
}

static void drive(void *context, uint8_t data)
{
    sim_socket *s = context;
    s->data = data;
    s->driven = true;
    if (chip_of(s) == NULL) return;
    s->chip->data = data_through(&s->wiring, data);
    s->chip->driven = true;
}

static void release(void *context)
{
    sim_socket *s = context;
    s->driven = false;
    if (chip_of(s) != NULL) s->chip->driven = false;
}

static uint8_t sense(void *context)
{
    sim_socket *s = context;
    if (s->driven) return s->data;
    uint8_t there = chip_of(s) != NULL ? sim_eeprom_sense(s->chip, s->now) : 0xFF;
    return data_through(&s->wiring, there);
}

static void enables(void *context, bool chip, bool output, bool write)
{
    sim_socket *s = context;
    if (chip_of(s) != NULL) sim_eeprom_pins(s->chip, s->now, chip, output, write);
}

static void pause(void *context, uint32_t nanoseconds)
{
    sim_socket *s = context;
    s->now += nanoseconds;
}

void sim_socket_begin(sim_socket *s, sim_eeprom *chip, sim_wire *in, sim_wire *out)
{
    memset(s, 0, sizeof *s);
    s->chip = chip;
    s->in = in;
    s->out = out;
    s->bus = (bl_chip_bus){s, set_address, drive, release, sense, enables, pause};
    bl_programmer_begin(&s->programmer, &s->bus, "the Skerry programmer");
}

static void flush(sim_socket *s)
{
    uint8_t bytes[64];
    size_t n;
    while ((n = bl_programmer_output(&s->programmer, bytes, sizeof bytes)) > 0)
        for (size_t i = 0; i < n; i++)
            sim_wire_put(s->out, s->now, bytes[i]);
}

void sim_socket_run(sim_socket *s, uint64_t until)
{
    for (;;) {
        uint64_t byte_at = sim_wire_next(s->in), look_at = bl_programmer_deadline(&s->programmer);
        if (look_at != UINT64_MAX) look_at = look_at * 1000;
        uint64_t next = byte_at < look_at ? byte_at : look_at;
        if (next > until || s->now > until) return;
        if (s->now < next) s->now = next;
        uint8_t byte;
        if (byte_at <= look_at && sim_wire_take(s->in, s->now, &byte))
            bl_programmer_input(&s->programmer, &byte, 1, s->now / 1000);
        else
            bl_programmer_tick(&s->programmer, s->now / 1000);
        flush(s);
    }
}
