/* eeprom.c - start, bytes with acknowledges, stop. */
#include "eeprom.h"

#include <string.h>

enum { SCL, SDA, WP };
static const char *const pins[] = {"scl", "sda", "wp", NULL};

enum { CELLS = 256, PAGE = 8, ADDRESS = 0xA0, WRITE_NS = 5000000 };
enum { CONTROL, PLACE, DATA }; /* what the next byte of the master is */

typedef struct eeprom {
    uint8_t gone[CELLS]; /* the bits that are not 1: a fresh one is all 0 here */
    bool active;         /* it is spoken to */
    bool sends, turns;   /* it sends; it will, when this byte is acknowledged */
    bool acknowledged;   /* by the master */
    bool low;            /* it pulls sda */
    uint8_t phase, count, byte, place;
    uint8_t page[PAGE], filled; /* to be written; which of them, a bit each */
    uint8_t scl, sda;           /* as they were last */
    uint64_t busy_until;
} eeprom;

static eeprom *chip_of(sim_device *d)
{
    return (eeprom *)(void *)d->state.bytes;
}

static const eeprom *chip_seen(const sim_device *d)
{
    return (const eeprom *)(const void *)d->state.bytes;
}

/* What it holds stays without power. */
static void begin_eeprom(sim_device *d, bool power)
{
    eeprom *e = chip_of(d);
    uint8_t gone[CELLS];
    if (!power) return;
    memcpy(gone, e->gone, sizeof gone);
    memset(e, 0, sizeof *e);
    memcpy(e->gone, gone, sizeof gone);
    e->scl = e->sda = 1;
}

/* A whole byte has come. True: it is acknowledged. */
static bool take_byte(eeprom *e, uint64_t now)
{
    switch (e->phase) {
    case CONTROL:
        if ((e->byte & 0xFE) != ADDRESS || now < e->busy_until) return e->active = false;
        e->turns = (e->byte & 1) != 0;
        e->phase = PLACE;
        return true;
    case PLACE:
        e->place = e->byte;
        e->phase = DATA;
        e->filled = 0;
        return true;
    default:
        e->page[e->place % PAGE] = e->byte;
        e->filled = (uint8_t)(e->filled | 1u << e->place % PAGE);
        e->place = (uint8_t)((e->place & ~(PAGE - 1)) | ((e->place + 1) % PAGE)); /* in the page */
        return true;
    }
}

static void next_to_send(eeprom *e)
{
    e->byte = (uint8_t)~e->gone[e->place];
    e->place++;
}

/* The clock falls: what is on sda may change. */
static void clock_falls(eeprom *e, uint64_t now)
{
    if (e->count == 8) {
        e->low = !e->sends && take_byte(e, now);
    } else if (e->count == 9) {
        e->count = 0;
        e->low = false;
        if (e->sends && !e->acknowledged) e->active = false;
        e->sends |= e->turns;
        e->turns = false;
        if (e->active && e->sends) next_to_send(e);
    }
    if (e->active && e->sends && e->count < 8) e->low = (e->byte >> (7 - e->count) & 1) == 0;
}

static void clock_rises(eeprom *e, bool sda)
{
    if (e->sends && e->count == 8) e->acknowledged = !sda;
    if (!e->sends && e->count < 8) e->byte = (uint8_t)(e->byte << 1 | sda);
    e->count++;
}

static void start(eeprom *e)
{
    e->active = true;
    e->sends = e->turns = e->low = false;
    e->phase = CONTROL;
    e->count = 0;
}

/* What was sent is written now, unless it is protected. */
static void stop(sim_device *d, uint64_t now)
{
    eeprom *e = chip_of(d);
    bool writes = e->active && e->phase == DATA && e->filled != 0 && !e->sends;
    e->active = e->low = false;
    if (!writes || sim_device_sees(d, WP, false)) return;
    for (unsigned i = 0; i < PAGE; i++)
        if ((e->filled >> i & 1) != 0)
            e->gone[(e->place & ~(PAGE - 1u)) | i] = (uint8_t)~e->page[i];
    e->busy_until = now + WRITE_NS;
}

static void edge_eeprom(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    eeprom *e = chip_of(d);
    if (pin == SDA && high != (e->sda != 0)) {
        e->sda = high;
        if (e->scl != 0 && !high) start(e);
        if (e->scl != 0 && high) stop(d, now);
    } else if (pin == SCL && high != (e->scl != 0)) {
        e->scl = high;
        if (e->active && high) clock_rises(e, e->sda != 0);
        if (e->active && !high) clock_falls(e, now);
    }
}

static sim_level drives_eeprom(const sim_device *d, unsigned pin)
{
    return pin == SDA && chip_seen(d)->low ? SIM_LOW : SIM_FLOATS;
}

static bool loaded_eeprom(sim_device *d)
{
    return chip_seen(d)->count <= 9 && chip_seen(d)->phase <= DATA;
}

#define F(member, form) SIM_FIELD(eeprom, member, form)
static const sim_device_field fields[] = {
    F(gone, SIM_FIELD_ROW),          F(active, SIM_FIELD_FLAG),
    F(sends, SIM_FIELD_FLAG),        F(turns, SIM_FIELD_FLAG),
    F(acknowledged, SIM_FIELD_FLAG), F(low, SIM_FIELD_FLAG),
    F(phase, SIM_FIELD_NUMBER),      F(count, SIM_FIELD_NUMBER),
    F(byte, SIM_FIELD_NUMBER),       F(place, SIM_FIELD_NUMBER),
    F(page, SIM_FIELD_ROW),          F(filled, SIM_FIELD_NUMBER),
    F(scl, SIM_FIELD_NUMBER),        F(sda, SIM_FIELD_NUMBER),
    F(busy_until, SIM_FIELD_TIME),   {0},
};

_Static_assert(sizeof(eeprom) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_eeprom_kind = {
    .about = {.name = "eeprom-24c02",
              .what = "serial EEPROM of 256 bytes on two wires; keeps what it has without power",
              .pins = pins,
              .needs = "scl sda"},
    .group = "eeprom",
    .size = sizeof(eeprom),
    .kept = sizeof(((eeprom *)0)->gone),
    .begin = begin_eeprom,
    .drives = drives_eeprom,
    .edge = edge_eeprom,
    .loaded = loaded_eeprom,
    .fields = fields,
};
