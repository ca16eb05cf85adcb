/* display.c - a character display. */
#include "display.h"

#include <stdio.h>
#include <string.h>

#include "sim/board.h"

static const char *const pins[] = {"rs", "rw", "e",  "d0", "d1", "d2",
                                   "d3", "d4", "d5", "d6", "d7", NULL};
enum { RS, RW, E, D0 };

enum { LINE = 40, CELLS = 2 * LINE, BUSY = 0x80 };
enum { SHORT_NS = 37000, LONG_NS = 1520000, POWER_NS = 10000000 };

typedef struct display {
    uint8_t cells[CELLS]; /* two lines of 40; with one line, one of 80 */
    uint8_t own[64];
    uint8_t address; /* of a cell, as the controller numbers them; or in own */
    bool in_own;
    bool right, follows; /* entry: the address rises; the picture moves along */
    bool on, cursor, blinks;
    bool wide, two_lines; /* 8 bits at a time; two lines */
    uint8_t shift;        /* of the picture, 0 to 39 */
    bool has_half;        /* half a byte has come, or gone */
    uint8_t half;
    uint8_t written; /* the last that e has brought */
    bool e;
    uint64_t busy_until;
} display;

static display *display_of(sim_device *d)
{
    return (display *)(void *)d->state.bytes;
}

static const display *display_seen(const sim_device *d)
{
    return (const display *)(const void *)d->state.bytes;
}

/* It has no reset pin. */
static void begin_display(sim_device *d, bool power)
{
    display *s = display_of(d);
    if (!power) return;
    memset(s, 0, sizeof *s);
    memset(s->cells, ' ', sizeof s->cells);
    s->wide = s->right = true;
    s->busy_until = d->board != NULL ? sim_board_now(d->board) + POWER_NS : POWER_NS;
}

/* ---- the controller ---- */

/* Which cell an address means. */
static unsigned cell_of(const display *s, uint8_t address)
{
    if (!s->two_lines) return address % CELLS;
    return (address & 0x40) != 0 ? LINE + (address & 0x3Fu) % LINE : address % LINE;
}

/* The address before or behind, which runs from the end of a line to the other. */
static uint8_t next_address(const display *s, bool up)
{
    unsigned cell = (cell_of(s, s->address) + (up ? 1 : CELLS - 1)) % CELLS;
    if (!s->two_lines) return (uint8_t)cell;
    return (uint8_t)(cell < LINE ? cell : 0x40 + cell - LINE);
}

static void move_picture(display *s, bool right)
{
    s->shift = (uint8_t)((s->shift + (right ? LINE - 1 : 1)) % LINE);
}

static void step(display *s)
{
    if (s->in_own)
        s->address = (uint8_t)((s->address + (s->right ? 1 : 63)) & 0x3F);
    else
        s->address = next_address(s, s->right);
}

static void home(display *s)
{
    s->address = s->shift = 0;
    s->in_own = false;
}

/* By the highest bit that is set. Returns how long it takes. */
static uint64_t obey(display *s, uint8_t command)
{
    if ((command & 0x80) != 0) {
        s->in_own = false;
        s->address = command & 0x7F;
    } else if ((command & 0x40) != 0) {
        s->in_own = true;
        s->address = command & 0x3F;
    } else if ((command & 0x20) != 0) {
        s->wide = (command & 0x10) != 0;
        s->two_lines = (command & 0x08) != 0;
    } else if ((command & 0x10) != 0) {
        bool right = (command & 0x04) != 0;
        if ((command & 0x08) != 0)
            move_picture(s, right);
        else
            s->address = next_address(s, right);
    } else if ((command & 0x08) != 0) {
        s->on = (command & 0x04) != 0;
        s->cursor = (command & 0x02) != 0;
        s->blinks = (command & 0x01) != 0;
    } else if ((command & 0x04) != 0) {
        s->right = (command & 0x02) != 0;
        s->follows = (command & 0x01) != 0;
    } else if ((command & 0x02) != 0) {
        home(s);
        return LONG_NS;
    } else if (command == 0x01) {
        memset(s->cells, ' ', sizeof s->cells);
        home(s);
        s->right = true;
        return LONG_NS;
    }
    return SHORT_NS;
}

static void take_data(display *s, uint8_t value)
{
    if (s->in_own)
        s->own[s->address & 0x3F] = value & 0x1F;
    else
        s->cells[cell_of(s, s->address)] = value;
    if (s->follows && !s->in_own) move_picture(s, !s->right);
    step(s);
}

/* While it is busy nothing is taken: the commonest mistake there is. */
static void take_byte(display *s, uint64_t now, bool data, uint8_t value)
{
    if (now < s->busy_until) return;
    uint64_t time = SHORT_NS;
    if (data)
        take_data(s, value);
    else
        time = obey(s, value);
    s->busy_until = now + time;
}

static uint8_t give_byte(display *s, uint64_t now, bool data)
{
    if (!data) return (uint8_t)(s->address | (now < s->busy_until ? BUSY : 0));
    uint8_t value = s->in_own ? s->own[s->address & 0x3F] : s->cells[cell_of(s, s->address)];
    step(s);
    return value;
}

/* ---- at an address ---- */

static uint8_t read_display(sim_device *d, uint64_t now, unsigned reg)
{
    return give_byte(display_of(d), now, reg == SIM_DISPLAY_DATA);
}

static void write_display(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    take_byte(display_of(d), now, reg == SIM_DISPLAY_DATA, value);
}

/* ---- at pins ---- */

/* Pins that are not wired are pulled up inside. */
static uint8_t pins_read(const sim_device *d)
{
    unsigned value = 0;
    for (unsigned i = 0; i < 8; i++)
        if (sim_device_sees(d, D0 + i, true)) value |= 1u << i;
    return (uint8_t)value;
}

static void latch_pins(sim_device *d, uint64_t now)
{
    display *s = display_of(d);
    bool data = sim_device_sees(d, RS, true);
    uint8_t value = pins_read(d);
    if (s->wide) {
        take_byte(s, now, data, value);
        s->has_half = false;
    } else if (!s->has_half) {
        s->half = value & 0xF0;
        s->has_half = true;
    } else {
        s->has_half = false;
        take_byte(s, now, data, (uint8_t)(s->half | value >> 4));
    }
}

/* What it gives when e rises; in 4 bits the upper half first, then the lower of the same byte. */
static void prepare(sim_device *d, uint64_t now)
{
    display *s = display_of(d);
    if (!s->wide && s->has_half) {
        s->written = (uint8_t)(s->half << 4);
        s->has_half = false;
        return;
    }
    s->written = give_byte(s, now, sim_device_sees(d, RS, true));
    s->half = s->written;
    s->has_half = !s->wide;
}

static void edge_display(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    display *s = display_of(d);
    if (pin != E || high == s->e) return;
    s->e = high;
    bool reads = sim_device_sees(d, RW, false);
    if (high && reads) prepare(d, now);
    if (!high && !reads) latch_pins(d, now);
}

static sim_level drives_display(const sim_device *d, unsigned pin)
{
    const display *s = display_seen(d);
    if (pin < D0 || !s->e || !sim_device_sees(d, RW, false)) return SIM_FLOATS;
    return (s->written >> (pin - D0) & 1) != 0 ? SIM_HIGH : SIM_LOW;
}

/* ---- what is seen ---- */

static bool is_tall(const sim_device *d)
{
    return d->kind == &sim_display_20x4_kind;
}

bool sim_display_is(const sim_device *d)
{
    return d->kind == &sim_display_16x2_kind || is_tall(d);
}

/* The glass's lines 3 and 4 are the rest of the controller's lines 1 and 2. */
void sim_display_see(const sim_device *d, sim_display_look *look)
{
    const display *s = display_seen(d);
    bool tall = is_tall(d);
    *look = (sim_display_look){.rows = tall ? 4 : 2,
                               .columns = tall ? 20 : 16,
                               .on = s->on,
                               .cursor = s->cursor,
                               .blinks = s->blinks,
                               .own = s->own};
    look->cursor_row = look->rows;
    unsigned at = cell_of(s, s->address);
    for (unsigned row = 0; row < look->rows; row++)
        for (unsigned column = 0; column < look->columns; column++) {
            unsigned place = (row / 2 * look->columns + column + s->shift) % LINE;
            unsigned cell = (row % 2) * LINE + place;
            bool shown = s->on && (s->two_lines || row % 2 == 0);
            look->codes[row][column] = shown ? s->cells[cell] : ' ';
            if (shown && !s->in_own && cell == at) {
                look->cursor_row = row;
                look->cursor_column = column;
            }
        }
}

/* A character of its set as text; one of the user's own as a light shade. */
static const char *character(uint8_t code, char *plain)
{
    plain[0] = (char)code, plain[1] = '\0';
    if (code < 16) return "\u2591";
    if (code == 0x5C) return "\u00A5";
    if (code == 0x7E) return "\u2192";
    if (code == 0x7F) return "\u2190";
    if (code == 0xDF) return "\u00B0";
    if (code == 0xFF) return "\u2588";
    return code >= 0x20 && code < 0x7E ? plain : "?";
}

static size_t display_shows(const sim_device *d, char *text, size_t capacity)
{
    sim_display_look look;
    char plain[2];
    size_t n = 0;
    sim_display_see(d, &look);
    for (unsigned row = 0; row < look.rows; row++) {
        for (unsigned column = 0; column < look.columns; column++)
            n += (size_t)snprintf(n < capacity ? text + n : NULL, n < capacity ? capacity - n : 0,
                                  "%s", character(look.codes[row][column], plain));
        if (row + 1 < look.rows)
            n += (size_t)snprintf(n < capacity ? text + n : NULL, n < capacity ? capacity - n : 0,
                                  "\n");
    }
    return n;
}

static bool loaded_display(sim_device *d)
{
    return display_seen(d)->shift < LINE;
}

#define F(member, form) SIM_FIELD(display, member, form)
static const sim_device_field fields[] = {
    F(cells, SIM_FIELD_ROW),     F(own, SIM_FIELD_ROW),         F(address, SIM_FIELD_NUMBER),
    F(in_own, SIM_FIELD_FLAG),   F(right, SIM_FIELD_FLAG),      F(follows, SIM_FIELD_FLAG),
    F(on, SIM_FIELD_FLAG),       F(cursor, SIM_FIELD_FLAG),     F(blinks, SIM_FIELD_FLAG),
    F(wide, SIM_FIELD_FLAG),     F(two_lines, SIM_FIELD_FLAG),  F(shift, SIM_FIELD_NUMBER),
    F(has_half, SIM_FIELD_FLAG), F(half, SIM_FIELD_NUMBER),     F(written, SIM_FIELD_NUMBER),
    F(e, SIM_FIELD_FLAG),        F(busy_until, SIM_FIELD_TIME), {0},
};

_Static_assert(sizeof(display) <= SIM_DEVICE_STATE, "a device has room for it");

#define KIND(kind_name, kind_what, kind_group)                                                     \
    {                                                                                              \
        .about = {.name = kind_name,                                                               \
                  .what = kind_what,                                                               \
                  .registers = {"command", "data"},                                                \
                  .pins = pins,                                                                    \
                  .needs = "rs e d4 d5 d6 d7",                                                     \
                  .at_pins = true},                                                                \
        .group = kind_group, .size = sizeof(display), .begin = begin_display,                      \
        .read = read_display, .write = write_display, .drives = drives_display,                    \
        .edge = edge_display, .shows = display_shows, .loaded = loaded_display, .fields = fields,  \
    }
const sim_device_kind sim_display_16x2_kind =
    KIND("display-16x2", "character display, 2 lines of 16", "display16");
const sim_device_kind sim_display_20x4_kind =
    KIND("display-20x4", "character display, 4 lines of 20", "display20");
