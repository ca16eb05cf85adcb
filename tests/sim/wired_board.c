#include "wired_board.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

sim_board wired;
uint64_t wired_now;

void wired_begin(void)
{
    sim_board_begin(&wired, sim_cpu_kind_for("6809", 4), 1000000, NULL, 0, NULL, NULL, 0);
    wired_now = 0;
}

unsigned wired_add(const char *kind)
{
    sim_place place = {.kind = sim_device_kind_named(kind),
                       .at = (uint16_t)(0x1000 + wired.device_count * 0x100)};
    CHECK(place.kind != NULL);
    place.wired = place.kind->about.registers[0] == NULL || place.kind->about.at_pins;
    CHECK(sim_board_add(&wired, &place));
    return (unsigned)wired.device_count - 1;
}

static sim_pin pin_named(const char *name)
{
    if (strcmp(name, "low") == 0) return (sim_pin){SIM_NET_TIED, SIM_LOW};
    if (strcmp(name, "high") == 0) return (sim_pin){SIM_NET_TIED, SIM_HIGH};
    if (strcmp(name, "cpu.irq") == 0) return (sim_pin){SIM_NET_CPU, 0};
    if (strcmp(name, "cpu.nmi") == 0) return (sim_pin){SIM_NET_CPU, 1};
    if (strcmp(name, "cpu.reset") == 0) return (sim_pin){SIM_NET_CPU, SIM_NET_RESET};
    char *dot;
    unsigned long device = strtoul(name, &dot, 10);
    CHECK(*dot == '.' && device < wired.device_count);
    int pin =
        bl_device_pin(&wired.devices[device].kind->about, (bl_text){dot + 1, strlen(dot + 1)});
    if (pin < 0) test_fail(__FILE__, __LINE__, "no pin %s", name);
    return (sim_pin){(uint8_t)device, (uint8_t)pin};
}

void wired_join(const char *pins)
{
    char text[200], *rest = text;
    sim_pin ends[16];
    size_t n = 0;
    snprintf(text, sizeof text, "%s", pins);
    for (char *name = strtok_r(text, " ", &rest); name != NULL; name = strtok_r(NULL, " ", &rest))
        ends[n++] = pin_named(name);
    CHECK(sim_nets_join(&wired, ends, n));
}

void wired_power(void)
{
    sim_chance chance = {1};
    sim_board_power_on(&wired, &chance, 0);
}

static uint64_t cycles(void)
{
    return wired_now / 1000;
}

/* As the board does around an access. */
static void after(unsigned device)
{
    sim_board_note(&wired, device);
    sim_nets_retime(&wired, wired_now);
    if (wired.devices[device].kind->about.pins != NULL) sim_nets_stir(&wired, wired_now, device);
}

uint8_t wired_read(unsigned device, unsigned reg)
{
    sim_device *d = &wired.devices[device];
    uint8_t value = d->kind->read(d, wired_now, reg);
    after(device);
    return value;
}

void wired_write(unsigned device, unsigned reg, uint8_t value)
{
    sim_device *d = &wired.devices[device];
    d->kind->write(d, wired_now, reg, value);
    after(device);
}

void wired_pass(uint64_t nanoseconds)
{
    uint64_t end = wired_now + nanoseconds;
    while (wired_now < end) {
        uint64_t next = end;
        for (size_t i = 0; i < wired.device_count; i++) {
            const sim_device *d = &wired.devices[i];
            uint64_t at = d->kind->next_event != NULL ? d->kind->next_event(d) : UINT64_MAX;
            if (at < next) next = at;
        }
        wired_now = next > wired_now ? next : wired_now + 1;
        wired.cpu.cycles = cycles();
        for (size_t i = 0; i < wired.device_count; i++)
            if (wired.devices[i].kind->update != NULL)
                wired.devices[i].kind->update(&wired.devices[i], wired_now);
        sim_board_refresh(&wired);
        sim_nets_settle(&wired, wired_now);
    }
}

bool wired_level(unsigned device, const char *pin)
{
    const sim_device *d = &wired.devices[device];
    int index = bl_device_pin(&d->kind->about, (bl_text){pin, strlen(pin)});
    CHECK(index >= 0);
    return sim_device_sees(d, (unsigned)index, true);
}

void wired_touch(unsigned device, const char *key, bool down)
{
    sim_device *d = &wired.devices[device];
    CHECK(d->kind->operate(d, wired_now, key, down));
    after(device);
}

const char *wired_shows(unsigned device)
{
    static char text[200];
    const sim_device *d = &wired.devices[device];
    CHECK(d->kind->shows(d, text, sizeof text) < sizeof text);
    return text;
}
