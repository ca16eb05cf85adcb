/* keypad.c - a matrix of keys. */
#include "keypad.h"

#include <stdio.h>

#include "contact.h"

enum { SIDE = 4, KEYS = 16 };
static const char *const pins[] = {"row0",    "row1",    "row2",    "row3", "column0",
                                   "column1", "column2", "column3", NULL};

typedef struct keypad {
    uint16_t down; /* keys that are held, but for the last */
    uint8_t last;  /* the key that was last touched: the one that bounces */
    sim_contact contact;
} keypad;

static keypad *keypad_of(sim_device *d)
{
    return (keypad *)(void *)d->state.bytes;
}

static const keypad *keypad_seen(const sim_device *d)
{
    return (const keypad *)(const void *)d->state.bytes;
}

static void begin_keypad(sim_device *d, bool power)
{
    if (power) *keypad_of(d) = (keypad){0};
}

static void update_keypad(sim_device *d, uint64_t now)
{
    sim_contact_update(&keypad_of(d)->contact, now);
}

static uint64_t next_keypad(const sim_device *d)
{
    return sim_contact_next(&keypad_seen(d)->contact);
}

static uint16_t closed_keys(const keypad *k)
{
    return (uint16_t)(k->down | (unsigned)k->contact.closed << k->last);
}

/* Rows and columns that a pin is connected to through closed keys, a bit each. */
static unsigned connected(const keypad *k, unsigned pin)
{
    unsigned reached = 1u << pin, before = 0;
    uint16_t closed = closed_keys(k);
    while (reached != before) {
        before = reached;
        for (unsigned key = 0; key < KEYS; key++) {
            unsigned both = 1u << key / SIDE | 1u << (SIDE + key % SIDE);
            if ((closed >> key & 1) != 0 && (reached & both) != 0) reached |= both;
        }
    }
    return reached & ~(1u << pin);
}

/* What others do to the pins that this one is connected to. */
static sim_level drives_keypad(const sim_device *d, unsigned pin)
{
    unsigned reached = connected(keypad_seen(d), pin);
    sim_level level = SIM_FLOATS;
    for (unsigned i = 0; i < 2 * SIDE; i++) {
        if ((reached >> i & 1) == 0 || d->nets[i] == 0 || d->board == NULL) continue;
        sim_level its = sim_device_level_without(d, i);
        if (its > level) level = its;
    }
    return level;
}

static bool operate_keypad(sim_device *d, uint64_t now, const char *key, bool down)
{
    keypad *k = keypad_of(d);
    static const char names[] = "0123456789ABCDEF";
    unsigned which = 0;
    char c = key[0] >= 'a' && key[0] <= 'f' ? (char)(key[0] - 'a' + 'A') : key[0];
    while (which < KEYS && names[which] != c)
        which++;
    if (which == KEYS || key[1] != '\0') return false;
    if (which != k->last) { /* the one before does not bounce any more */
        unsigned bit = 1u << k->last, held = k->contact.wanted ? bit : 0;
        k->down = (uint16_t)((k->down & ~bit) | held);
        bool was = (k->down >> which & 1) != 0;
        k->down = (uint16_t)(k->down & ~(1u << which));
        k->last = (uint8_t)which;
        k->contact = (sim_contact){.wanted = was, .closed = was};
    }
    sim_contact_set(&k->contact, now, down, true);
    return true;
}

static size_t keypad_shows(const sim_device *d, char *text, size_t capacity)
{
    const keypad *k = keypad_seen(d);
    unsigned down = k->down | (unsigned)k->contact.wanted << k->last;
    char keys[KEYS + 1];
    size_t n = 0;
    for (unsigned i = 0; i < KEYS; i++)
        if ((down >> i & 1) != 0) keys[n++] = "0123456789ABCDEF"[i];
    keys[n] = '\0';
    return (size_t)snprintf(text, capacity, "%s", n > 0 ? keys : "-");
}

static bool loaded_keypad(sim_device *d)
{
    return keypad_seen(d)->last < KEYS;
}

static const sim_device_field fields[] = {
    SIM_FIELD(keypad, down, SIM_FIELD_NUMBER),
    SIM_FIELD(keypad, last, SIM_FIELD_NUMBER),
    SIM_CONTACT_FIELDS(keypad, contact),
    {0},
};

_Static_assert(sizeof(keypad) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_keypad_kind = {
    .about = {.name = "keypad-16",
              .what = "sixteen keys in rows and columns; they bounce",
              .pins = pins},
    .group = "keypad",
    .size = sizeof(keypad),
    .begin = begin_keypad,
    .update = update_keypad,
    .next_event = next_keypad,
    .drives = drives_keypad,
    .operate = operate_keypad,
    .shows = keypad_shows,
    .loaded = loaded_keypad,
    .fields = fields,
};
