/* pins.c - which socket pin is which, for each package; and the bus over them.
 *
 * Source: the JEDEC pinouts of byte-wide memories (24, 28 and 32 pins) in the parts' data sheets.
 */
#include "pins.h"

#include <string.h>

/* Where address lines go; they are the same for all packages as far as these have them, but for the
 * ones on pins that the package is too small for. */
static const uint8_t address_32[] = {12, 11, 10, 9,  8,  7, 6, 5,  27, 26,
                                     23, 25, 4,  28, 29, 3, 2, 30, 1};
static const uint8_t data_pins[] = {13, 14, 15, 17, 18, 19, 20, 21};
enum { GROUND = 16, CHIP = 22, OUTPUT = 24, LAST = 32 };

/* How the pulse of an EPROM is given, which differs from part to part. */
typedef enum strobe_kind {
    STROBE_WRITE,    /* a write enable pin, low */
    STROBE_PROGRAM,  /* a program pin, low, while chip enable is low */
    STROBE_CHIP,     /* chip enable, low, while output enable is high */
    STROBE_CHIP_VPP, /* the same, and the programming voltage is on output enable */
    STROBE_HIGH,     /* chip enable goes high for the pulse */
} strobe_kind;

typedef struct wiring {
    strobe_kind strobe;
    uint8_t write;  /* pin of STROBE_WRITE, STROBE_PROGRAM; 0: none */
    uint8_t vpp;    /* pin of the programming voltage, at 5 V while reading; 0: none */
    uint8_t supply; /* pin of Vcc */
} wiring;

static wiring wiring_of(uint32_t size, uint8_t method)
{
    wiring w = {STROBE_WRITE, 31, 0, size <= 4096 ? 28 : size <= 65536 ? 30 : 32};
    if (method != BL_ALGORITHM_PULSE) {
        w.write = size <= 4096 ? 25 : size <= 65536 ? 29 : 31;
        return w;
    }
    w.write = 0;
    if (size == 2048) return (wiring){STROBE_HIGH, 0, 25, w.supply};
    if (size == 4096) return (wiring){STROBE_CHIP_VPP, 0, OUTPUT, w.supply};
    if (size <= 16384) return (wiring){STROBE_PROGRAM, 29, 3, w.supply};
    if (size <= 32768) return (wiring){STROBE_CHIP, 0, 3, w.supply};
    return (wiring){STROBE_CHIP_VPP, 0, OUTPUT, w.supply};
}

/* The pin of an address line; 0 when the part has no such line. */
static unsigned address_pin(uint32_t size, uint8_t method, unsigned line)
{
    if (size >> line <= 1) return 0;
    if (size > 65536) return address_32[line];
    if (line == 11 && size == 4096) return 25; /* 2732: where 2 KiB parts have Vpp or write */
    if (line == 14 && method != BL_ALGORITHM_PULSE) return 3; /* 28C256 */
    if (line == 14) return 29;                                /* 27256, 27512 */
    if (line == 15) return 3;                                 /* 27512 */
    return address_32[line];
}

/* Only what changes is switched. */
static void set_pin(bl_pin_bus *b, unsigned pin, bl_pin_state state)
{
    if (pin == 0 || b->state[pin] == state) return;
    b->state[pin] = (uint8_t)state;
    b->pins->set(b->pins->context, pin, state);
}

static void set_level(bl_pin_bus *b, unsigned pin, bool high)
{
    set_pin(b, pin, high ? BL_PIN_HIGH : BL_PIN_LOW);
}

/* ---- the enables, in each part's own way ---- */

static void apply_pins(bl_pin_bus *b)
{
    wiring w = wiring_of(b->wired_size, b->wired_method);
    bool programming = b->vpp > 0;
    bool chip_low = b->chip, vpp_on_output = w.strobe == STROBE_CHIP_VPP && programming;
    if (programming && (w.strobe == STROBE_CHIP || w.strobe == STROBE_CHIP_VPP))
        chip_low = b->write || (b->chip && b->output);
    if (programming && w.strobe == STROBE_HIGH) chip_low = !b->write;
    if (vpp_on_output && !b->output)
        set_pin(b, OUTPUT, BL_PIN_VPP);
    else
        set_level(b, OUTPUT, !b->output);
    set_level(b, CHIP, !chip_low);
    if (w.write != 0) set_level(b, w.write, !b->write);
}

/* A part was selected: its supplies and its idle levels. */
static void wire_part(bl_pin_bus *b)
{
    if (b->wired_size == b->part->size && b->wired_method == b->part->algorithm) return;
    b->wired_size = b->part->size;
    b->wired_method = b->part->algorithm;
    wiring w = wiring_of(b->wired_size, b->wired_method);
    for (unsigned pin = 1; pin <= BL_SOCKET_PINS; pin++)
        set_pin(b, pin, BL_PIN_FREE);
    set_pin(b, GROUND, BL_PIN_GROUND);
    set_pin(b, w.supply, BL_PIN_SUPPLY);
    if (w.vpp != 0 && w.vpp != OUTPUT) set_level(b, w.vpp, true);
    apply_pins(b);
}

/* ---- the bus ---- */

static void bus_address(void *context, uint32_t address)
{
    bl_pin_bus *b = context;
    wire_part(b);
    for (unsigned line = 0; line < sizeof address_32; line++)
        if (address_pin(b->wired_size, b->wired_method, line) != 0)
            set_level(b, address_pin(b->wired_size, b->wired_method, line), address >> line & 1);
}

static void bus_drive(void *context, uint8_t data)
{
    bl_pin_bus *b = context;
    for (unsigned i = 0; i < 8; i++)
        set_level(b, data_pins[i], data >> i & 1);
}

static void bus_release(void *context)
{
    bl_pin_bus *b = context;
    for (unsigned i = 0; i < 8; i++)
        set_pin(b, data_pins[i], BL_PIN_FREE);
}

static uint8_t bus_sense(void *context)
{
    const bl_pin_bus *b = context;
    unsigned data = 0;
    for (unsigned i = 0; i < 8; i++)
        data |= (unsigned)b->pins->get(b->pins->context, data_pins[i]) << i;
    return (uint8_t)data;
}

static void bus_enables(void *context, bool chip, bool output, bool write)
{
    bl_pin_bus *b = context;
    b->chip = chip, b->output = output, b->write = write;
    if (b->wired_size != 0) apply_pins(b);
}

static void bus_pause(void *context, uint32_t nanoseconds)
{
    const bl_pin_bus *b = context;
    b->pins->delay(b->pins->context, nanoseconds);
}

static bool bus_supply(void *context, uint8_t vcc, uint8_t vpp)
{
    bl_pin_bus *b = context;
    if (!b->pins->volts(b->pins->context, vcc, vpp)) return false;
    if (b->part->size == 0) return true;
    wire_part(b);
    wiring w = wiring_of(b->wired_size, b->wired_method);
    b->vpp = vpp;
    if (w.vpp != 0 && w.vpp != OUTPUT) set_pin(b, w.vpp, vpp > 0 ? BL_PIN_VPP : BL_PIN_HIGH);
    apply_pins(b);
    return true;
}

bl_chip_bus bl_pin_bus_begin(bl_pin_bus *b, const bl_pins *pins, const bl_part *part)
{
    memset(b, 0, sizeof *b);
    b->pins = pins;
    b->part = part;
    for (unsigned pin = 1; pin <= BL_SOCKET_PINS; pin++)
        pins->set(pins->context, pin, BL_PIN_FREE);
    return (bl_chip_bus){.context = b,
                         .address = bus_address,
                         .drive = bus_drive,
                         .release = bus_release,
                         .sense = bus_sense,
                         .enables = bus_enables,
                         .pause = bus_pause,
                         .supply = bus_supply};
}
