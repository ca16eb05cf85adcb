/* digit.c - one 7-segment digit. */
#include "digit.h"

#include <stdio.h>

#include "glow.h"

static const char *const pins[] = {"a", "b", "c", "d", "e", "f", "g", "dp", "common", NULL};
enum { SEGMENTS = 8, COMMON = 8 };
enum { ANODE = 1 }; /* by variant */

static uint16_t lit(const sim_device *d)
{
    bool anode = d->kind->variant == ANODE;
    unsigned segments = 0;
    /* A wire that nobody drives carries no current. */
    if (sim_device_sees(d, COMMON, d->nets[COMMON] == 0 ? anode : !anode) != anode) return 0;
    for (unsigned i = 0; i < SEGMENTS; i++)
        if (sim_device_sees(d, i, anode) != anode) segments |= 1u << i;
    return (uint16_t)segments;
}

static void begin_digit(sim_device *d, bool power)
{
    if (power) *sim_glow_of(d) = (sim_glow){0};
}

static void edge_digit(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    (void)pin, (void)high;
    sim_glow_change(sim_glow_of(d), now, lit(d));
}

/* What does not change is told by no edge. */
static void update_digit(sim_device *d, uint64_t now)
{
    sim_glow_change(sim_glow_of(d), now, lit(d));
}

/* As a character, if it is one: hexadecimal digits and some letters; else its segments' names. */
static size_t digit_shows(const sim_device *d, char *text, size_t capacity)
{
    static const uint8_t shapes[] = {0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F,
                                     0x77, 0x7C, 0x39, 0x5E, 0x79, 0x71, 0x00, 0x40, 0x76, 0x38,
                                     0x73, 0x3E, 0x5C, 0x50, 0x78, 0x54, 0x67, 0x27};
    static const char names[] = "0123456789AbCdEF -HLPUortn97";
    static const char *const segments = "abcdefg";
    uint16_t seen = sim_glow_seen(d);
    const char *point = (seen & 0x80) != 0 ? "." : "";
    for (unsigned i = 0; i < sizeof shapes; i++)
        if (shapes[i] == (seen & 0x7F))
            return (size_t)snprintf(text, capacity, "%c%s", names[i], point);
    char lit_ones[SEGMENTS + 1];
    unsigned n = 0;
    for (unsigned i = 0; i < SEGMENTS - 1; i++)
        if ((seen >> i & 1) != 0) lit_ones[n++] = segments[i];
    lit_ones[n] = '\0';
    return (size_t)snprintf(text, capacity, "<%s>%s", lit_ones, point);
}

#define KIND(kind_name, kind_group, which)                                                         \
    {                                                                                              \
        .about = {.name = kind_name, .what = "7-segment digit with a point", .pins = pins},        \
        .group = kind_group, .variant = which, .size = sizeof(sim_glow), .begin = begin_digit,     \
        .edge = edge_digit, .update = update_digit, .next_event = sim_glow_next,                   \
        .shows = digit_shows, .fields = sim_glow_fields,                                           \
    }
const sim_device_kind sim_cathode_digit_kind = KIND("digit-cathode", "digit_cathode", 0);
const sim_device_kind sim_anode_digit_kind = KIND("digit-anode", "digit_anode", ANODE);
