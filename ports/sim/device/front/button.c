/* button.c - buttons and switches. */
#include "button.h"

#include <stdio.h>

#include "contact.h"

enum { OUT, TO };
static const char *const pins[] = {"out", "to", NULL};
enum { BOUNCES = 1, STAYS = 2 }; /* by variant; a switch stays where it is put */

static sim_contact *contact_of(sim_device *d)
{
    return (sim_contact *)(void *)d->state.bytes;
}

static const sim_contact *contact_seen(const sim_device *d)
{
    return (const sim_contact *)(const void *)d->state.bytes;
}

/* A finger is not lifted by a reset; and a switch stays where it was put without power. */
static void begin_button(sim_device *d, bool power)
{
    sim_contact *c = contact_of(d);
    if (power && (d->kind->variant & STAYS) == 0) *c = (sim_contact){0};
}

static void update_button(sim_device *d, uint64_t now)
{
    sim_contact_update(contact_of(d), now);
}

static uint64_t next_button(const sim_device *d)
{
    return sim_contact_next(contact_seen(d));
}

static sim_level drives_button(const sim_device *d, unsigned pin)
{
    if (pin != OUT) return SIM_FLOATS;
    bool high = sim_device_sees(d, TO, false);
    if (contact_seen(d)->closed) return high ? SIM_HIGH : SIM_LOW;
    return high ? SIM_PULLED_DOWN : SIM_PULLED_UP;
}

static bool operate_button(sim_device *d, uint64_t now, const char *key, bool down)
{
    if (*key != '\0') return false;
    sim_contact_set(contact_of(d), now, down, (d->kind->variant & BOUNCES) != 0);
    return true;
}

static size_t button_shows(const sim_device *d, char *text, size_t capacity)
{
    bool stays = (d->kind->variant & STAYS) != 0, closed = contact_seen(d)->wanted;
    return (size_t)snprintf(text, capacity, "%s",
                            stays ? (closed ? "on" : "off") : (closed ? "pressed" : "released"));
}

static const sim_device_field fields[] = {
    {"wanted", offsetof(sim_contact, wanted), 1, SIM_FIELD_FLAG},
    {"closed", offsetof(sim_contact, closed), 1, SIM_FIELD_FLAG},
    {"bounces", offsetof(sim_contact, bounces), 1, SIM_FIELD_NUMBER},
    {"next", offsetof(sim_contact, next), 8, SIM_FIELD_TIME},
    {0},
};

#define KIND(kind_name, kind_what, kind_group, does)                                               \
    {                                                                                              \
        .about = {.name = kind_name, .what = kind_what, .pins = pins, .needs = "out"},             \
        .group = kind_group, .variant = does, .size = sizeof(sim_contact), .begin = begin_button,  \
        .update = update_button, .next_event = next_button, .drives = drives_button,               \
        .operate = operate_button, .shows = button_shows, .fields = fields,                        \
    }
const sim_device_kind sim_button_kind =
    KIND("button", "push button; it bounces", "button", BOUNCES);
const sim_device_kind sim_clean_button_kind =
    KIND("button-clean", "push button that does not bounce", "button_clean", 0);
const sim_device_kind sim_switch_kind =
    KIND("switch", "switch; it bounces, and stays where it is put", "switch", BOUNCES | STAYS);
