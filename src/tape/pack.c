/* pack.c - the shortest row of bits for some bytes, and back. */
#include "bootlace/pack.h"

#include "base/core.h"

/* ---- unpacking ---- */

typedef struct bit_reader {
    const uint8_t *at;
    size_t count, used;
    uint8_t bits;
    unsigned left;
    bool ended;   /* a byte was asked for, and there was none */
    bool invalid; /* a number was none */
} bit_reader;

static unsigned next_byte(bit_reader *r)
{
    if (r->used == r->count) {
        r->ended = true;
        return 0;
    }
    return r->at[r->used++];
}

static unsigned next_bit(bit_reader *r)
{
    if (r->left == 0) r->bits = (uint8_t)next_byte(r), r->left = 8;
    return r->bits >> --r->left & 1;
}

enum { MOST = 255 /* that a number can be */ };

static uint32_t next_number(bit_reader *r)
{
    uint32_t value = 1;
    while (!r->ended && value <= MOST && next_bit(r) == 0)
        value = value << 1 | next_bit(r);
    if (value > MOST) r->invalid = true;
    return value;
}

bl_status bl_unpack(const uint8_t *packed, size_t count, uint8_t *bytes, size_t before,
                    size_t capacity, size_t *made)
{
    bit_reader r = {.at = packed, .count = count};
    uint32_t distance = 0, length;
    *made = 0;
    for (;;) {
        unsigned plain = next_bit(&r);
        if (r.ended) return BL_OK;
        if (plain != 0) {
            uint8_t byte = (uint8_t)next_byte(&r);
            if (r.ended) return BL_OK;
            if (*made == capacity) return BL_E_RANGE;
            bytes[(*made)++] = byte;
            continue;
        }
        if (next_bit(&r) != 0) {
            uint32_t high = next_number(&r);
            distance = (high - 1) * 256 + next_byte(&r) + 1;
            length = next_number(&r) + 1;
        } else {
            length = next_number(&r);
        }
        if (r.ended || r.invalid || distance == 0 || distance > before + *made) return BL_E_SYNTAX;
        if (length > capacity - *made) return BL_E_RANGE;
        for (; length > 0; length--, (*made)++)
            bytes[*made] =
                *made >= distance ? bytes[*made - distance] : *(bytes - (distance - *made));
    }
}

/* ---- packing ---- */

enum {
    AHEAD = 4096,  /* bytes that one block may become */
    LONGEST = 255, /* bytes of one copy */
    TRIES = 2000,  /* places that are looked at for a copy */
};

/* The cheapest way to have packed so many bytes: its last step. */
typedef struct pack_step {
    uint32_t bits;
    uint32_t distance; /* of the copy; 0: a byte as it is */
    uint32_t last;     /* the distance that a later copy may repeat */
    uint16_t length;
    bool repeats;
} pack_step;

static uint32_t number_bits(uint32_t value)
{
    uint32_t bits = 1;
    for (; value > 1; value >>= 1)
        bits += 2;
    return bits;
}

static void offer_step(pack_step *to, const pack_step *from, uint32_t bits, uint32_t distance,
                       size_t length, bool repeats)
{
    if (from->bits + bits >= to->bits) return;
    *to = (pack_step){from->bits + bits, distance, distance != 0 ? distance : from->last,
                      (uint16_t)length, repeats};
}

static size_t alike(const uint8_t *a, const uint8_t *b, size_t most)
{
    size_t length = 0;
    while (length < most && a[length] == b[length])
        length++;
    return length;
}

/* All steps that can follow position i: a byte, and copies from every nearest place that makes them
 * longer. */
static void offer_every(pack_step *steps, const uint8_t *bytes, size_t before, size_t i,
                        size_t count)
{
    const uint8_t *here = bytes + i;
    const pack_step *from = &steps[i];
    size_t most = count - i < LONGEST ? count - i : LONGEST, longest = 1;
    offer_step(&steps[i + 1], from, 9, 0, 1, false);
    if (from->last != 0 && from->last <= before + i) {
        size_t length = alike(here, here - from->last, most);
        for (size_t n = 1; n <= length; n++)
            offer_step(&steps[i + n], from, 2 + number_bits((uint32_t)n), from->last, n, true);
    }
    size_t reach = before + i < TRIES * 8 ? before + i : TRIES * 8;
    for (size_t distance = 1; distance <= reach && longest < most; distance++) {
        if (here[0] != *(here - distance) || here[longest] != *(here - distance + longest))
            continue;
        size_t length = alike(here, here - distance, most);
        uint32_t bits = 2 + number_bits((uint32_t)((distance - 1) >> 8) + 1) + 8;
        for (size_t n = longest + 1; n <= length; n++)
            offer_step(&steps[i + n], from, bits + number_bits((uint32_t)n - 1), (uint32_t)distance,
                       n, false);
        if (length > longest) longest = length;
    }
}

typedef struct bit_writer {
    uint8_t *at;
    size_t used;
    size_t bits_at; /* the byte that bits go into */
    unsigned left;
} bit_writer;

static void put_bit(bit_writer *w, unsigned bit)
{
    if (w->left == 0) w->bits_at = w->used++, w->at[w->bits_at] = 0xFF, w->left = 8;
    w->left--;
    if (bit == 0) w->at[w->bits_at] = (uint8_t)(w->at[w->bits_at] & ~(1u << w->left));
}

static void put_gamma(bit_writer *w, uint32_t value)
{
    unsigned top = 0;
    while (value >> (top + 1) != 0)
        top++;
    while (top-- > 0)
        put_bit(w, 0), put_bit(w, value >> top & 1);
    put_bit(w, 1);
}

static void put_step(bit_writer *w, const pack_step *s, uint8_t byte)
{
    if (s->distance == 0) {
        put_bit(w, 1);
        w->at[w->used++] = byte;
        return;
    }
    put_bit(w, 0);
    put_bit(w, !s->repeats);
    if (!s->repeats) {
        put_gamma(w, ((s->distance - 1) >> 8) + 1);
        w->at[w->used++] = (uint8_t)(s->distance - 1);
        put_gamma(w, s->length - 1u);
    } else {
        put_gamma(w, s->length);
    }
}

/* Steps are found from their ends; they are written from the begin: turn the way around. */
static void write_steps(pack_step *steps, size_t end, const uint8_t *bytes, uint8_t *packed,
                        size_t *made)
{
    bit_writer w = {.at = packed};
    size_t next = 0;
    for (size_t i = end; i > 0;) { /* each step's length moves to where it begins */
        size_t begin = i - steps[i].length;
        steps[begin].last = (uint32_t)i;
        i = begin;
    }
    for (size_t i = 0; i < end; i = next) {
        next = (size_t)steps[i].last;
        put_step(&w, &steps[next], bytes[i]);
    }
    *made = w.used;
}

bl_status bl_pack(const bl_memory *memory, const uint8_t *bytes, size_t before, size_t count,
                  uint8_t *packed, size_t room, size_t *taken, size_t *made)
{
    size_t ahead = count < AHEAD ? count : AHEAD;
    *taken = *made = 0;
    if (room < 8 || room > 256) return BL_E_RANGE;
    if (ahead + 1 > SIZE_MAX / sizeof(pack_step)) return BL_E_MEMORY;
    pack_step *steps = memory->resize(memory->context, NULL, (ahead + 1) * sizeof *steps);
    if (steps == NULL) return BL_E_MEMORY;
    for (size_t i = 0; i <= ahead; i++)
        steps[i] = (pack_step){.bits = UINT32_MAX / 2};
    steps[0] = (pack_step){0};
    for (size_t i = 0; i < ahead && steps[i].bits <= room * 8; i++)
        offer_every(steps, bytes, before, i, ahead);
    for (size_t i = 1; i <= ahead; i++)
        if (steps[i].bits <= room * 8) *taken = i;
    write_steps(steps, *taken, bytes, packed, made);
    bl_release(memory, steps);
    return BL_OK;
}
