/* pia6821.c - ports and control lines of a 6821. */
#include "pia6821.h"

#include <string.h>

#include "lines.h"

static const char *const pins[] = {"pa0", "pa1", "pa2", "pa3", "pa4", "pa5", "pa6",
                                   "pa7", "pb0", "pb1", "pb2", "pb3", "pb4", "pb5",
                                   "pb6", "pb7", "ca1", "ca2", "cb1", "cb2", NULL};
static const bl_device_port ports[] = {
    {0, 8, SIM_PIA_PORT_A, 0, false}, {8, 8, SIM_PIA_PORT_B, 0, false}, {0}};

/* Bits of a control register. */
enum {
    ON_1 = 0x01,
    RISES_1 = 0x02,
    DATA = 0x04,
    ON_2 = 0x08,
    RISES_2 = 0x10,
    OUT_2 = 0x20,
    FLAG_2 = 0x40,
    FLAG_1 = 0x80
};

typedef struct side {
    uint8_t output, direction, control; /* with its flags */
    bool ready;     /* the second line, as an output of a handshake: true is high */
    uint64_t pulse; /* cycles: when its pulse ends; 0: there is none */
} side;

typedef struct pia {
    side sides[2];
} pia;

static pia *pia_of(sim_device *d)
{
    return (pia *)(void *)d->state.bytes;
}

static const pia *pia_seen(const sim_device *d)
{
    return (const pia *)(const void *)d->state.bytes;
}

static void begin_pia(sim_device *d, bool power)
{
    pia *p = pia_of(d);
    (void)power;
    memset(p, 0, sizeof *p);
    p->sides[0].ready = p->sides[1].ready = true;
}

static void update_pia(sim_device *d, uint64_t now)
{
    for (unsigned i = 0; i < 2; i++) {
        side *s = &pia_of(d)->sides[i];
        if (s->pulse != 0 && sim_device_cycles(d, now) >= s->pulse) {
            s->pulse = 0;
            s->ready = true;
        }
    }
}

/* As an output of a handshake the second line falls at the access; with bit 3 it rises a cycle
 * later, without at the active edge of the first. */
static void answer(sim_device *d, side *s, uint64_t now)
{
    if ((s->control & (OUT_2 | RISES_2)) != OUT_2) return;
    s->ready = false;
    if ((s->control & ON_2) != 0) s->pulse = sim_device_cycles(d, now) + 1;
}

static uint8_t read_port(const sim_device *d, unsigned which)
{
    const side *s = &pia_seen(d)->sides[which];
    uint8_t seen = sim_lines_read(d, which * 8);
    if (which == 1) return (uint8_t)((seen & ~s->direction) | (s->output & s->direction));
    for (unsigned i = 0; i < 8; i++) /* a pin without a wire is what the output does */
        if ((s->direction >> i & 1) != 0 && d->nets[i] == 0)
            seen = (uint8_t)((seen & ~(1u << i)) | (s->output & 1u << i));
    return seen;
}

static uint8_t read_pia(sim_device *d, uint64_t now, unsigned reg)
{
    side *s = &pia_of(d)->sides[reg >> 1];
    update_pia(d, now);
    if ((reg & 1) != 0) return s->control;
    if ((s->control & DATA) == 0) return s->direction;
    s->control &= (uint8_t) ~(FLAG_1 | FLAG_2);
    if (reg == SIM_PIA_PORT_A) answer(d, s, now);
    return read_port(d, reg >> 1);
}

static void write_pia(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    side *s = &pia_of(d)->sides[reg >> 1];
    update_pia(d, now);
    if ((reg & 1) != 0) {
        s->control = (uint8_t)((s->control & 0xC0) | (value & 0x3F));
        if ((value & OUT_2) != 0) {
            s->control &= (uint8_t)~FLAG_2;
            s->ready = (value & RISES_2) == 0 || (value & ON_2) != 0;
        }
    } else if ((s->control & DATA) == 0) {
        s->direction = value;
    } else {
        s->output = value;
        if (reg == SIM_PIA_PORT_B) answer(d, s, now);
    }
}

static uint64_t next_pia(const sim_device *d)
{
    uint64_t a = pia_seen(d)->sides[0].pulse, b = pia_seen(d)->sides[1].pulse;
    uint64_t first = a == 0 ? b : b == 0 || a < b ? a : b;
    return first == 0 ? UINT64_MAX : sim_device_moment(d, first);
}

static bool pulls(const side *s)
{
    bool second = (s->control & (FLAG_2 | ON_2 | OUT_2)) == (FLAG_2 | ON_2);
    return second || (s->control & (FLAG_1 | ON_1)) == (FLAG_1 | ON_1);
}

static bool interrupt_pia(const sim_device *d)
{
    return pulls(&pia_seen(d)->sides[0]) || pulls(&pia_seen(d)->sides[1]);
}

static sim_level drives_pia(const sim_device *d, unsigned pin)
{
    const side *s = &pia_seen(d)->sides[pin < 16 ? pin / 8 : (pin - 16) / 2];
    if (pin < 16) return sim_lines_drive(s->output, s->direction, pin % 8);
    if (pin % 2 == 0 || (s->control & OUT_2) == 0) return SIM_FLOATS;
    return s->ready ? SIM_HIGH : SIM_LOW;
}

static void edge_pia(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)now;
    if (pin < SIM_PIA_PIN_CA1) return;
    side *s = &pia_of(d)->sides[(pin - 16) / 2];
    bool first = pin % 2 == 0;
    if (!first && (s->control & OUT_2) != 0) return;
    if (high != ((s->control & (first ? RISES_1 : RISES_2)) != 0)) return;
    s->control |= first ? FLAG_1 : FLAG_2;
    if (first && (s->control & (OUT_2 | RISES_2 | ON_2)) == OUT_2) s->ready = true;
}

#define SIDE(number, letter)                                                                       \
    {"output_" letter, offsetof(pia, sides[number].output), 1, SIM_FIELD_NUMBER},                  \
        {"direction_" letter, offsetof(pia, sides[number].direction), 1, SIM_FIELD_NUMBER},        \
        {"control_" letter, offsetof(pia, sides[number].control), 1, SIM_FIELD_NUMBER},            \
        {"ready_" letter, offsetof(pia, sides[number].ready), 1, SIM_FIELD_FLAG},                  \
    {                                                                                              \
        "pulse_" letter, offsetof(pia, sides[number].pulse), 8, SIM_FIELD_CYCLE                    \
    }
static const sim_device_field fields[] = {SIDE(0, "a"), SIDE(1, "b"), {0}};

_Static_assert(sizeof(pia) <= SIM_DEVICE_STATE, "a device has room for it");

#define KIND(kind_name, kind_group)                                                                \
    {                                                                                              \
        .about = {.name = kind_name,                                                               \
                  .what = "two ports, two control lines each",                                     \
                  .registers = {"port_a/direction_a", "control_a", "port_b/direction_b",           \
                                "control_b"},                                                      \
                  .pins = pins,                                                                    \
                  .ports = ports},                                                                 \
        .group = kind_group, .size = sizeof(pia), .begin = begin_pia, .read = read_pia,            \
        .write = write_pia, .next_event = next_pia, .update = update_pia,                          \
        .interrupt = interrupt_pia, .drives = drives_pia, .edge = edge_pia, .fields = fields,      \
    }
const sim_device_kind sim_pia_kind = KIND("pia-6821", "pia6821");
const sim_device_kind sim_6520_kind = KIND("pia-6520", "pia6520");
