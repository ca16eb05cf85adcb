/* quantity.c - a decimal number and a unit. */
#include "bootlace/quantity.h"

#include "core.h"

typedef struct unit {
    const char *name;
    uint64_t worth; /* of the measure's own unit */
} unit;

enum { UNITS = 4 };
static const struct {
    const char *list;
    unit units[UNITS];
} measures[] = {
    [BL_NANOSECONDS] = {"ns, us, ms or s",
                        {{"ns", 1}, {"us", 1000}, {"ms", 1000000}, {"s", 1000000000}}},
    [BL_HERTZ] = {"Hz, kHz or MHz", {{"Hz", 1}, {"kHz", 1000}, {"MHz", 1000000}, {NULL, 0}}},
    [BL_MILLIVOLTS] = {"mV or V", {{"mV", 1}, {"V", 1000}, {NULL, 0}, {NULL, 0}}},
};

const char *bl_measure_units(bl_measure measure)
{
    BL_ASSERT((unsigned)measure < BL_COUNT(measures));
    return measures[measure].list;
}

static uint64_t worth_of(bl_measure measure, bl_text name)
{
    BL_ASSERT((unsigned)measure < BL_COUNT(measures));
    for (size_t i = 0; i < UNITS; i++) {
        const unit *u = &measures[measure].units[i];
        if (u->name != NULL && bl_text_same_nocase(bl_text_of(u->name), name)) return u->worth;
    }
    return 0;
}

/* The digits of a number without their point, and how many of them stand behind it. What no unit
 * here could tell, behind the twelfth digit, only counts as a digit. */
typedef struct decimal {
    uint64_t digits;
    unsigned behind, count;
    bool large; /* more than 64 bits */
} decimal;

/* Returns how long it is; 0: no number. */
static size_t scan_decimal(bl_text text, decimal *d)
{
    enum { FINEST = 12 };
    bool point = false;
    size_t n = 0;
    *d = (decimal){0};
    for (; n < text.length; n++) {
        char c = text.at[n];
        if (c == '.' && !point) {
            point = true;
            continue;
        }
        if (!bl_is_digit(c)) break;
        d->count++;
        if (point && d->behind == FINEST) continue;
        d->large |= d->digits > UINT64_MAX / 10 - 1;
        d->digits = d->digits * 10 + (unsigned)(c - '0');
        d->behind += point;
    }
    return d->count == 0 ? 0 : n;
}

/* In integers throughout: 1.8432 MHz is exact, and no floating point is needed on a small machine.
 */
bl_status bl_quantity_parse(bl_text text, bl_measure measure, const char *usual, uint64_t *value)
{
    const uint64_t max = (uint64_t)1 << 53;
    decimal d;
    text = bl_text_trim(text);
    size_t n = scan_decimal(text, &d);
    bl_text name = bl_text_trim((bl_text){text.at + n, text.length - n});
    if (n == 0) return BL_E_SYNTAX;
    if (name.length == 0 && usual != NULL) name = bl_text_of(usual);
    uint64_t worth = worth_of(measure, name), divisor = 1;
    if (worth == 0) return BL_E_NOT_FOUND;
    for (unsigned i = 0; i < d.behind; i++)
        divisor *= 10;
    /* Whole units, and then what is behind the point, so that nothing gets too large. */
    uint64_t whole = d.digits / divisor, part = d.digits % divisor;
    if (d.large || whole > max / worth) return BL_E_RANGE;
    /* part < 10^12 and worth <= 10^9: in two halves. */
    uint64_t high = part / 1000000 * worth, low = part % 1000000 * worth;
    uint64_t rest = divisor <= 1000000
                        ? (part * worth + divisor / 2) / divisor
                        : (high + low / 1000000 + divisor / 2000000) / (divisor / 1000000);
    if (whole * worth + rest > max) return BL_E_RANGE;
    *value = whole * worth + rest;
    return BL_OK;
}
