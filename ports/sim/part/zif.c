/* zif.c - the part's side of its pins. */
#include "zif.h"

#include <stdlib.h>
#include <string.h>

/* Names of the pins, 1 to the last: A0 to A18, D0 to D7, C chip enable, O output enable, W write
 * enable, P program, V programming voltage, G ground, S supply, - not connected. */
static const struct {
    const char *part, *pins;
} packages[] = {
    {"2716", "A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 H A10 O V A9 A8 S"},
    {"2732", "A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 Q A11 A9 A8 S"},
    {"28C16", "A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O W A9 A8 S"},
    {"2764", "V A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 - P S"},
    {"27128", "V A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 P S"},
    {"27256",
     "V A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 A14 S"},
    {"27512",
     "A15 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 Q A11 A9 A8 A13 A14 S"},
    {"28C64", "- A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 - W S"},
    {"28C256",
     "A14 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 W S"},
    {"28C010",
     "- A16 A15 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 "
     "A14 - W S"},
    {"39F010",
     "- A16 A15 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 "
     "A14 - W S"},
    {"39F020",
     "- A16 A15 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 A13 "
     "A14 A17 W S"},
    {"39F040",
     "A18 A16 A15 A12 A7 A6 A5 A4 A3 A2 A1 A0 D0 D1 D2 G D3 D4 D5 D6 D7 C A10 O A11 A9 A8 "
     "A13 A14 A17 W S"},
};

/* What the socket's levels mean to the part. */
typedef struct reading {
    uint32_t address;
    unsigned data, driven; /* lines that the programmer drives */
    bool chip, output, write, pulse, supplied, grounded, vpp, has_vpp;
    bool raised; /* chip enable of a 2716: high is its pulse */
} reading;

/* A letter says what the pin is, a number which line; pins_of has them in the order of the
 * package. */
static void take_pin(reading *r, const char *name, bl_pin_state s)
{
    bool high = s == BL_PIN_HIGH || s == BL_PIN_VPP || s == BL_PIN_SUPPLY;
    unsigned line = (unsigned)strtoul(name + 1, NULL, 10);
    switch (*name) {
    case 'A': r->address |= (uint32_t)high << line; break;
    case 'D':
        r->data |= (unsigned)high << line;
        r->driven |= (unsigned)(s != BL_PIN_FREE) << line;
        break;
    case 'C': r->chip = s == BL_PIN_LOW; break;
    case 'H':
        r->chip = s == BL_PIN_LOW;
        r->raised = s == BL_PIN_HIGH;
        break;
    case 'Q': r->vpp = s == BL_PIN_VPP; /* fall through */
    case 'O': r->output = s == BL_PIN_LOW; break;
    case 'W': r->write = s == BL_PIN_LOW; break;
    case 'P': r->pulse = s == BL_PIN_LOW; break;
    case 'V': r->vpp = s == BL_PIN_VPP; break;
    case 'S': r->supplied = s == BL_PIN_SUPPLY; break;
    case 'G': r->grounded = s == BL_PIN_GROUND; break;
    default: break;
    }
}

static const char *pins_of(const sim_part *part)
{
    for (size_t i = 0; i < sizeof packages / sizeof packages[0]; i++)
        if (strcmp(packages[i].part, part->part->name) == 0) return packages[i].pins;
    abort();
}

static bool has_pin(const char *names, char kind)
{
    return strchr(names, kind) != NULL;
}

/* From the part's own list of pins, so that a wrong list in ports/pins is noticed. */
static reading read_pins(sim_zif *z)
{
    const char *names = pins_of(z->part);
    reading r = {.address = 0};
    unsigned pin = (BL_SOCKET_PINS - z->part->part->pins) / 2u;
    for (const char *p = names; p != NULL; p = strchr(p, ' ')) {
        if (*p == ' ') p++;
        take_pin(&r, p, z->state[++pin]);
    }
    if (!has_pin(names, 'V') && !has_pin(names, 'Q')) return r;
    /* Without a write enable, the pulse is on the program pin or on chip enable. */
    if (has_pin(names, 'P'))
        r.write = r.pulse && r.chip;
    else if (has_pin(names, 'H'))
        r.write = r.vpp && r.raised && !r.output;
    else
        r.write = r.vpp && r.chip && !r.output;
    if (r.write) r.chip = true;
    return r;
}

/* Any pin has changed: the part sees the whole. */
static void update(sim_zif *z)
{
    reading r = read_pins(z);
    sim_part *e = z->part;
    if (!r.supplied || !r.grounded) return;
    if (r.driven != 0 && r.chip && r.output && !r.write) z->faults++;
    e->vcc = z->vcc;
    sim_part_supply(e, z->now, z->vcc, r.vpp ? z->vpp : 0);
    /* Address and data as they were while the strobe lasted. */
    bool ending = e->chip && e->write && !(r.chip && r.write);
    if (!ending) {
        e->address = r.address;
        e->data = (uint8_t)r.data;
        e->driven = r.driven == 0xFF;
    }
    sim_part_pins(e, z->now, r.chip, r.output, r.write);
}

static void set_zif_pin(void *context, unsigned pin, bl_pin_state state)
{
    sim_zif *z = context;
    if (pin == 0 || pin > BL_SOCKET_PINS) abort();
    z->state[pin] = state;
    update(z);
}

static bool get_zif_pin(void *context, unsigned pin)
{
    sim_zif *z = context;
    reading r = read_pins(z);
    const char *p = pins_of(z->part);
    unsigned at = (BL_SOCKET_PINS - z->part->part->pins) / 2u + 1;
    for (; at < pin && p != NULL; at++) {
        p = strchr(p, ' ');
        if (p != NULL) p++;
    }
    if (z->state[pin] != BL_PIN_FREE) return z->state[pin] != BL_PIN_LOW;
    if (p == NULL || *p != 'D' || !r.supplied || !r.grounded) return true; /* pulled up */
    return sim_part_sense(z->part, z->now) >> (p[1] - '0') & 1;
}

static void delay(void *context, uint32_t nanoseconds)
{
    sim_zif *z = context;
    z->now += nanoseconds;
    sim_part_update(z->part, z->now);
}

static bool volts(void *context, uint8_t vcc, uint8_t vpp)
{
    sim_zif *z = context;
    if (vcc > 65 || vpp > 250) return false;
    z->vcc = vcc;
    z->vpp = vpp;
    update(z);
    return true;
}

void sim_zif_begin(sim_zif *z, sim_part *part)
{
    memset(z, 0, sizeof *z);
    z->part = part;
    z->vcc = 50;
}

bl_pins sim_zif_pins(sim_zif *z)
{
    return (bl_pins){z, set_zif_pin, get_zif_pin, delay, volts};
}
