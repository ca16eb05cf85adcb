/* cause.c - models of what can be wrong with a chip, and which of them fits. */
#include "bootlace/cause.h"

#include "base/core.h"

enum { DATA_LINES = 8, ADDRESS_LINES = 24, WINDOW = 16, STUCK_TOGETHER = 3, PLACES = 64 };
_Static_assert(DATA_LINES + ADDRESS_LINES <= 32, "a mask of 32 bits holds all lines");
_Static_assert(STUCK_TOGETHER < ADDRESS_LINES, "not every line is stuck");

typedef struct search {
    const uint8_t *expected, *found;
    bl_causes *out;
    unsigned lines; /* of the address; 0: the size is no power of two */
} search;

static uint32_t swap_bits(uint32_t v, unsigned a, unsigned b)
{
    uint32_t differ = (v >> a ^ v >> b) & 1;
    return v ^ (differ << a | differ << b);
}

static unsigned bridge_lines(unsigned v, const bl_cause *k)
{
    unsigned a = v >> k->line & 1, b = v >> k->other & 1, both = k->levels != 0 ? a | b : a & b;
    unsigned mask = 1u << k->line | 1u << k->other;
    return (v & ~mask) | (both != 0 ? mask : 0);
}

/* What would be found at an offset. False: the model does not say. */
static bool predict(const search *s, const bl_cause *k, uint32_t at, unsigned *byte)
{
    uint32_t from = at;
    switch (k->kind) {
    case BL_CAUSE_CONSTANT: *byte = k->value; return true;
    case BL_CAUSE_DATA_STUCK:
        *byte = (unsigned)((s->expected[at] & ~k->lines) | k->levels);
        return true;
    case BL_CAUSE_DATA_SWAPPED:
        *byte = (unsigned)swap_bits(s->expected[at], k->line, k->other);
        return true;
    case BL_CAUSE_DATA_BRIDGED: *byte = bridge_lines(s->expected[at], k); return true;
    case BL_CAUSE_ADDRESS_STUCK: from = (at & ~k->lines) | k->levels; break;
    case BL_CAUSE_ADDRESS_SWAPPED: from = swap_bits(at, k->line, k->other); break;
    case BL_CAUSE_ADDRESS_TURNED: from = at ^ (uint32_t)1 << k->line; break;
    case BL_CAUSE_SHIFTED:
        from = at - (uint32_t)k->shift;
        if (from >= s->out->size) return false;
        break;
    }
    *byte = s->expected[from];
    return true;
}

static void add_cause(search *s, const bl_cause *k)
{
    bl_causes *out = s->out;
    size_t at = out->count < BL_CAUSES ? out->count++ : BL_CAUSES;
    while (at > 0 && out->cause[at - 1].explained < k->explained) {
        if (at < BL_CAUSES) out->cause[at] = out->cause[at - 1];
        at--;
    }
    if (at < BL_CAUSES) out->cause[at] = *k;
}

/* A model is taken when it is wrong for at most one byte where the comparison is wrong for 50. */
static bool consider(search *s, bl_cause *k)
{
    uint32_t wrong = 0, max = s->out->differences / 50, size = s->out->size;
    k->explained = 0;
    for (uint32_t i = 0; i < size; i++) {
        unsigned byte;
        if (!predict(s, k, i, &byte)) continue;
        if (byte != s->found[i]) {
            if (++wrong > max) return false;
        } else if (byte != s->expected[i])
            k->explained++;
    }
    if (k->explained == 0) return false;
    add_cause(s, k);
    return true;
}

/* Bits that are the same in all bytes. */
static unsigned constant_bits(const uint8_t *bytes, uint32_t size)
{
    unsigned any = 0, all = 0xFF;
    for (uint32_t i = 0; i < size; i++)
        any |= bytes[i], all &= bytes[i];
    return ~(any ^ all) & 0xFF;
}

static void data_lines(search *s)
{
    uint32_t size = s->out->size;
    unsigned stuck = constant_bits(s->found, size) & ~constant_bits(s->expected, size) & 0xFF;
    if (stuck != 0) {
        bl_cause k = {.kind = BL_CAUSE_DATA_STUCK, .lines = stuck, .levels = s->found[0] & stuck};
        consider(s, &k);
    }
    for (unsigned a = 0; a < DATA_LINES; a++)
        for (unsigned b = a + 1; b < DATA_LINES; b++) {
            bl_cause k = {.line = (uint8_t)a, .other = (uint8_t)b};
            k.kind = BL_CAUSE_DATA_SWAPPED;
            consider(s, &k);
            k.kind = BL_CAUSE_DATA_BRIDGED;
            consider(s, &k);
            k.levels = 1;
            consider(s, &k);
        }
}

/* Do bytes that differ in this address line alone read alike? */
static bool without_effect(const uint8_t *bytes, uint32_t size, uint32_t bit)
{
    for (uint32_t i = 0; i < size; i++)
        if ((i & bit) == 0 && bytes[i] != bytes[i | bit]) return false;
    return true;
}

/* Lines that change nothing in what was found, but would in what was expected; every combination
 * of their levels is tried. */
static void stuck_addresses(search *s)
{
    uint32_t lines = 0, size = s->out->size;
    unsigned count = 0;
    for (unsigned i = 0; i < s->lines; i++) {
        uint32_t bit = (uint32_t)1 << i;
        if (!without_effect(s->found, size, bit) || without_effect(s->expected, size, bit))
            continue;
        lines |= bit;
        count++;
    }
    if (count == 0 || count > STUCK_TOGETHER) return;
    /* Every combination of their levels: all numbers within the mask. */
    uint32_t levels = 0;
    do {
        bl_cause k = {.kind = BL_CAUSE_ADDRESS_STUCK, .lines = lines, .levels = levels};
        if (consider(s, &k)) return;
        levels = (levels - lines) & lines;
    } while (levels != 0);
}

static void address_lines(search *s)
{
    stuck_addresses(s);
    for (unsigned a = 0; a < s->lines; a++) {
        bl_cause k = {.kind = BL_CAUSE_ADDRESS_TURNED, .line = (uint8_t)a};
        consider(s, &k);
        k.kind = BL_CAUSE_ADDRESS_SWAPPED;
        for (unsigned b = a + 1; b < s->lines; b++) {
            k.other = (uint8_t)b;
            consider(s, &k);
        }
    }
}

/* ---- shifted ---- */

static bool same(const uint8_t *a, const uint8_t *b)
{
    return memcmp(a, b, WINDOW) == 0;
}

/* A piece of the image by which it is known again: no row of one value, and there only once. */
static bool landmark(const search *s, uint32_t from, uint32_t *at)
{
    const uint8_t *e = s->expected;
    for (uint32_t i = from; i + WINDOW <= s->out->size; i++) {
        unsigned changes = 0;
        for (unsigned n = 1; n < WINDOW; n++)
            changes += e[i + n] != e[i + n - 1];
        if (changes < WINDOW / 2) continue;
        bool again = false;
        for (uint32_t k = 0; k + WINDOW <= s->out->size && !again; k++)
            again = k != i && same(e + k, e + i);
        *at = i;
        if (!again) return true;
    }
    return false;
}

static void shifted(search *s)
{
    uint32_t at, size = s->out->size, step = size / PLACES;
    for (uint32_t from = 0; step > 0 && landmark(s, from, &at); from = at + step) {
        for (uint32_t i = 0; i + WINDOW <= size; i++) {
            if (i == at || !same(s->found + i, s->expected + at)) continue;
            bl_cause k = {.kind = BL_CAUSE_SHIFTED, .shift = (int32_t)i - (int32_t)at};
            if (consider(s, &k)) return;
        }
        /* That piece may lie beyond the end of the chip: on to the next. */
    }
}

/* All bytes read alike. That is also so when the bytes should be alike and one data line is stuck,
 * and when one address line shows only a part of the chip where nothing is; named when there is
 * one. */
static void nothing_to_see(search *s)
{
    bl_cause k = {.kind = BL_CAUSE_CONSTANT, .value = s->found[0]}, one = {.explained = 0};
    unsigned count = 0;
    for (unsigned i = 0; i < s->lines * 2; i++) {
        uint32_t bit = (uint32_t)1 << i / 2, level = (i & 1) != 0 ? bit : 0, n = 0;
        while (n < s->out->size && ((n & bit) != level || s->expected[n] == s->found[0]))
            n++;
        if (n < s->out->size) continue;
        one = (bl_cause){.kind = BL_CAUSE_ADDRESS_STUCK, .lines = bit, .levels = level};
        count++;
    }
    uint32_t wrong = 0;
    for (uint32_t i = 0; i < s->out->size; i++)
        wrong |= (uint32_t)(s->expected[i] ^ s->found[i]);
    bl_cause stuck = {.kind = BL_CAUSE_DATA_STUCK, .lines = wrong, .levels = s->found[0] & wrong};
    if ((wrong & (wrong - 1)) == 0) consider(s, &stuck);
    consider(s, &k);
    if (count == 1) consider(s, &one);
}

void bl_causes_find(const uint8_t *expected, const uint8_t *found, uint32_t size, bl_causes *causes)
{
    search s = {expected, found, causes, 0};
    *causes = (bl_causes){.size = size};
    for (uint32_t i = 0; i < size; i++)
        causes->differences += expected[i] != found[i];
    if (causes->differences == 0) return;
    while (s.lines < ADDRESS_LINES && (uint32_t)1 << s.lines < size)
        s.lines++;
    if ((uint32_t)1 << s.lines != size) s.lines = 0;
    if (constant_bits(found, size) == 0xFF) {
        nothing_to_see(&s);
        return;
    }
    data_lines(&s);
    address_lines(&s);
    if (causes->differences >= WINDOW) shifted(&s);
}

/* ---- in words ---- */

/* "A3, A5" */
static void list_lines(uint32_t lines, char letter, char *text, size_t capacity)
{
    size_t used = 0;
    text[0] = '\0';
    for (unsigned i = 0; i < 32; i++)
        if ((lines >> i & 1) != 0 && used < capacity)
            used +=
                bl_format(text + used, capacity - used, "%s%c%u", used > 0 ? ", " : "", letter, i);
}

static size_t constant_text(const bl_cause *k, char *text, size_t capacity)
{
    if (k->value == 0xFF)
        return bl_format(
            text, capacity,
            "every byte reads FF: the chip is blank, has no power, or is not selected");
    return bl_format(text, capacity, "every byte reads %02X: %s", k->value,
                     k->value == 0 ? "the chip has no power, or the data lines are held low"
                                   : "nothing drives the data lines");
}

static size_t stuck_text(const bl_causes *c, const bl_cause *k, char *text, size_t capacity)
{
    char lines[100];
    bool address = k->kind == BL_CAUSE_ADDRESS_STUCK;
    list_lines(k->lines, address ? 'A' : 'D', lines, sizeof lines);
    if (!address)
        return bl_format(text, capacity, "%s always read%s %s: stuck, or not connected", lines,
                         (k->lines & (k->lines - 1)) == 0 ? "s" : "",
                         k->levels == 0          ? "0"
                         : k->levels == k->lines ? "1"
                                                 : "the same");
    if (k->lines == c->size / 2)
        return bl_format(text, capacity,
                         "both halves read alike: %s is stuck or not connected, or the chip has "
                         "half the size",
                         lines);
    return bl_format(text, capacity, "%s ha%s no effect: stuck, or not connected", lines,
                     (k->lines & (k->lines - 1)) == 0 ? "s" : "ve");
}

static size_t turned_text(const bl_causes *c, const bl_cause *k, char *text, size_t capacity)
{
    if ((uint32_t)2 << k->line == c->size)
        return bl_format(text, capacity, "the halves have changed places");
    if (k->line == 0) return bl_format(text, capacity, "even and odd bytes have changed places");
    return bl_format(text, capacity, "blocks of %lu bytes have changed places: A%u is inverted",
                     (unsigned long)1 << k->line, k->line);
}

static size_t kind_text(const bl_causes *c, const bl_cause *k, char *text, size_t capacity)
{
    switch (k->kind) {
    case BL_CAUSE_CONSTANT: return constant_text(k, text, capacity);
    case BL_CAUSE_DATA_SWAPPED:
        return bl_format(text, capacity, "D%u and D%u are swapped", k->line, k->other);
    case BL_CAUSE_DATA_BRIDGED:
        return bl_format(text, capacity, "D%u and D%u read alike, %d when either is: they touch",
                         k->line, k->other, k->levels != 0 ? 1 : 0);
    case BL_CAUSE_ADDRESS_SWAPPED:
        return bl_format(text, capacity, "A%u and A%u are swapped", k->line, k->other);
    case BL_CAUSE_ADDRESS_TURNED: return turned_text(c, k, text, capacity);
    case BL_CAUSE_SHIFTED:
        return bl_format(text, capacity, "the chip holds the image, shifted by $%lX %s",
                         (unsigned long)(k->shift < 0 ? -(int64_t)k->shift : k->shift),
                         k->shift < 0 ? "down" : "up");
    default: return stuck_text(c, k, text, capacity);
    }
}

size_t bl_cause_text(const bl_causes *c, size_t index, char *text, size_t capacity)
{
    const bl_cause *k = &c->cause[index];
    size_t used = kind_text(c, k, text, capacity);
    if (used >= capacity) return used;
    return used + bl_format(text + used, capacity - used, " (explains %lu of %lu wrong bytes)",
                            (unsigned long)k->explained, (unsigned long)c->differences);
}
