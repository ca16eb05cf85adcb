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

static sim_part *chip_of(const sim_socket *s)
{
    return s->wiring.empty ? NULL : s->chip;
}

/* ---- pins ---- */

/* Every call at the pins is a step. When the current fails, the chip keeps what it was doing half
 * done, and the microcontroller is gone until it is begun again. */
static bool powered(sim_socket *s)
{
    if (s->dead) return false;
    s->steps++;
    if (s->cut_after == 0 || s->steps <= s->cut_after) return true;
    s->dead = true;
    if (chip_of(s) != NULL) sim_part_power_cut(s->chip, s->now, &s->chance);
    return false;
}

static void set_socket_address(void *context, uint32_t address)
{
    sim_socket *s = context;
    const sim_wiring *w = &s->wiring;
    if (!powered(s)) return;
    s->address = address;
    if (chip_of(s) != NULL)
        s->chip->address =
            (swapped(address, w->address_swap) & ~w->address_stuck) | w->address_levels;
}

static void drive_data(void *context, uint8_t data)
{
    sim_socket *s = context;
    if (!powered(s)) return;
    s->data = data;
    s->driven = true;
    if (chip_of(s) == NULL) return;
    s->chip->data = data_through(&s->wiring, data);
    s->chip->driven = true;
}

static void release(void *context)
{
    sim_socket *s = context;
    if (!powered(s)) return;
    s->driven = false;
    if (chip_of(s) != NULL) s->chip->driven = false;
}

static uint8_t sense(void *context)
{
    sim_socket *s = context;
    if (!powered(s)) return 0xFF;
    if (s->driven) return s->data;
    uint8_t there = chip_of(s) != NULL ? sim_part_sense(s->chip, s->now) : 0xFF;
    return data_through(&s->wiring, there);
}

static void enables(void *context, bool chip, bool output, bool write)
{
    sim_socket *s = context;
    s->strobes += write;
    if (powered(s) && chip_of(s) != NULL) sim_part_pins(s->chip, s->now, chip, output, write);
}

static void pause(void *context, uint32_t nanoseconds)
{
    sim_socket *s = context;
    if (powered(s)) s->now += nanoseconds;
}

/* 4.5 to 6.5 V, and a programming voltage up to what its supply was built for. */
static bool supply(void *context, uint8_t vcc, uint8_t vpp)
{
    sim_socket *s = context;
    if (!powered(s) || vcc < 45 || vcc > 65 || vpp > s->vpp_max) return false;
    if (s->fixed_supply && (vcc != 50 || vpp != 0)) return false;
    if (chip_of(s) != NULL) sim_part_supply(s->chip, s->now, vcc, vpp);
    return true;
}

void sim_socket_begin(sim_socket *s, sim_part *chip, sim_wire *in, sim_wire *out)
{
    memset(s, 0, sizeof *s);
    s->chip = chip;
    s->in = in;
    s->out = out;
    s->vpp_max = SIM_USUAL_VPP;
    s->bus =
        (bl_chip_bus){s, set_socket_address, drive_data, release, sense, enables, pause, supply};
    bl_programmer_begin(&s->programmer, &s->bus, "the Skerry programmer");
    sim_pip_begin(&s->pip, &s->bus);
}

static void flush(sim_socket *s)
{
    uint8_t bytes[64];
    size_t n;
    uint8_t byte;
    while (s->text && sim_pip_output(&s->pip, &byte))
        sim_wire_put(s->out, s->now, byte);
    while (!s->text && !s->dead &&
           (n = bl_programmer_output(&s->programmer, bytes, sizeof bytes)) > 0)
        for (size_t i = 0; i < n; i++)
            sim_wire_put(s->out, s->now, bytes[i]);
}

/* Events in the order of time: a byte whose stop bit has come, or the moment at which the
 * microcontroller looks again. */
void sim_socket_run(sim_socket *s, uint64_t until)
{
    for (;;) {
        uint64_t byte_at = sim_wire_next(s->in);
        uint64_t look_at = s->dead ? UINT64_MAX : bl_programmer_deadline(&s->programmer);
        if (look_at != UINT64_MAX) look_at = look_at * 1000;
        uint64_t next = byte_at < look_at ? byte_at : look_at;
        if (next > until || s->now > until) return;
        if (s->now < next) s->now = next;
        uint8_t byte;
        if (s->dead) {
            if (!sim_wire_take(s->in, s->now, &byte)) return;
            continue;
        }
        bool heard = byte_at <= look_at && sim_wire_take(s->in, s->now, &byte);
        if (heard && s->text)
            sim_pip_input(&s->pip, byte, byte_at, s->now);
        else if (heard)
            bl_programmer_input(&s->programmer, &byte, 1, s->now / 1000);
        else
            bl_programmer_tick(&s->programmer, s->now / 1000);
        flush(s);
    }
}
