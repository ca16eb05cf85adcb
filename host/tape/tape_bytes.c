/* tape_bytes.c - lays rows of bytes over one another, although each has lost some and has some that
 * were noise. */
#include "tape_bytes.h"

#include <string.h>

enum {
    GRAM = 4,   /* bytes that must be alike for a hint where rows meet */
    BAND = 128, /* bytes that one may be ahead of the other, from there */
    ALIKE = 2,  /* scores */
    UNLIKE = -1,
    ALONE = -1,
    HINTS = 8, /* at least, or two rows have nothing to do with each other */
};

uint8_t tape_sum_value(const tape_sum *s)
{
    return bl_slot_value(&s->bits);
}

bool tape_sum_doubtful(const tape_sum *s)
{
    return !s->framed || bl_slot_certainty(&s->bits) < BL_CERTAIN;
}

static GArray *row_of(const take *t, guint index)
{
    GArray *row = g_array_new(FALSE, FALSE, sizeof(tape_sum));
    for (guint i = 0; i < t->bytes->len; i++) {
        const bl_tape_byte *b = &g_array_index(t->bytes, bl_tape_byte, i);
        tape_sum s = {.at = b->at, .take = (uint8_t)index, .heard = 1, .framed = b->framed};
        for (unsigned j = 0; j < 8; j++)
            s.bits.bit[j] = b->bit[j];
        g_array_append_val(row, s);
    }
    return row;
}

static const tape_sum *at(const GArray *row, gint64 index)
{
    return &g_array_index(row, tape_sum, index);
}

static guint gram_at(const GArray *row, guint index)
{
    guint gram = 0;
    for (guint i = 0; i < GRAM; i++)
        gram = gram << 8 | tape_sum_value(at(row, index + i));
    return gram;
}

/* By how much the second row must be moved: what most pieces of it that the first has just once
 * say. False: too few say anything. */
static bool find_offset(const GArray *first, const GArray *second, gint64 *offset)
{
    GHashTable *places = g_hash_table_new(NULL, NULL), *votes = g_hash_table_new(NULL, NULL);
    guint most = 0;
    for (guint i = 0; i + GRAM <= first->len; i++) {
        gpointer key = GUINT_TO_POINTER(gram_at(first, i));
        bool again = g_hash_table_contains(places, key);
        g_hash_table_insert(places, key, GUINT_TO_POINTER(again ? 0 : i + 1));
    }
    for (guint i = 0; i + GRAM <= second->len; i++) {
        guint place =
            GPOINTER_TO_UINT(g_hash_table_lookup(places, GUINT_TO_POINTER(gram_at(second, i))));
        if (place == 0) continue;
        gint64 move = (gint64)place - 1 - i;
        gpointer key = GINT_TO_POINTER((gint)move);
        guint count = GPOINTER_TO_UINT(g_hash_table_lookup(votes, key)) + 1;
        g_hash_table_insert(votes, key, GUINT_TO_POINTER(count));
        if (count > most) most = count, *offset = move;
    }
    g_hash_table_destroy(places);
    g_hash_table_destroy(votes);
    return most >= MIN(HINTS, MAX(1, MIN(first->len, second->len) / 2));
}

typedef enum step { BOTH, ONLY_FIRST, ONLY_SECOND } step;

static int likeness(const tape_sum *a, const tape_sum *b)
{
    if (tape_sum_value(a) == tape_sum_value(b)) return ALIKE;
    return tape_sum_doubtful(a) || tape_sum_doubtful(b) ? 0 : UNLIKE;
}

/* The cheapest way from both begins to both ends, in a band around the offset: steps, from the end.
 * Row i of the table is the first's byte i, column the second's place, moved. */
static GByteArray *align(const GArray *first, const GArray *second, gint64 offset)
{
    enum { WIDE = 2 * BAND + 1 };
    gint64 rows = first->len, columns = second->len;
    uint8_t *from = g_malloc0((gsize)(rows + 1) * WIDE);
    int before[WIDE], now[WIDE];
    for (gint64 i = 0; i <= rows; i++) {
        for (int k = 0; k < WIDE; k++) {
            gint64 j = i - offset + k - BAND;
            int best = -1000000000;
            uint8_t way = BOTH;
            if (j >= 0 && j <= columns) {
                /* what lies before the other row's begin costs nothing */
                if (i == 0 || j == 0) best = 0, way = i == 0 ? ONLY_SECOND : ONLY_FIRST;
                if (i > 0 && j > 0 &&
                    before[k] + likeness(at(first, i - 1), at(second, j - 1)) > best)
                    best = before[k] + likeness(at(first, i - 1), at(second, j - 1)), way = BOTH;
                int alone = j == columns ? 0 : ALONE;
                if (i > 0 && k + 1 < WIDE && before[k + 1] + alone > best)
                    best = before[k + 1] + alone, way = ONLY_FIRST;
                alone = i == rows ? 0 : ALONE;
                if (j > 0 && k > 0 && now[k - 1] + alone > best)
                    best = now[k - 1] + alone, way = ONLY_SECOND;
            }
            now[k] = best;
            from[i * WIDE + k] = way;
        }
        memcpy(before, now, sizeof before);
    }
    GByteArray *steps = g_byte_array_new();
    gint64 i = rows, j = columns;
    while (i > 0 || j > 0) {
        gint64 k = j - i + offset + BAND;
        uint8_t way = k < 0 ? ONLY_FIRST : k >= WIDE ? ONLY_SECOND : from[i * WIDE + k];
        if (i == 0) way = ONLY_SECOND;
        if (j == 0) way = ONLY_FIRST;
        g_byte_array_append(steps, &way, 1);
        if (way != ONLY_SECOND) i--;
        if (way != ONLY_FIRST) j--;
    }
    g_free(from);
    return steps;
}

static void add_up(tape_sum *sum, const tape_sum *other)
{
    if (bl_slot_certainty(&other->bits) > bl_slot_certainty(&sum->bits))
        sum->at = other->at, sum->take = other->take;
    bl_slot_add(&sum->bits, &other->bits);
    sum->heard = (uint8_t)(sum->heard + other->heard);
    sum->framed = sum->framed || other->framed;
}

/* Where both rows have something before and behind, a doubtful byte that only one has is noise. */
static GArray *lay_over(const GArray *first, const GArray *second, gint64 offset)
{
    GByteArray *steps = align(first, second, offset);
    GArray *row = g_array_new(FALSE, FALSE, sizeof(tape_sum));
    guint i = 0, j = 0;
    for (guint s = steps->len; s-- > 0;) {
        tape_sum sum;
        bool inside = i > 0 && j > 0 && i < first->len && j < second->len;
        if (steps->data[s] == ONLY_SECOND)
            sum = *at(second, j++);
        else
            sum = *at(first, i++);
        if (steps->data[s] == BOTH) add_up(&sum, at(second, j++));
        if (steps->data[s] != BOTH && inside && tape_sum_doubtful(&sum)) continue;
        g_array_append_val(row, sum);
    }
    g_byte_array_unref(steps);
    return row;
}

GArray *tape_bytes_merge(take *const *takes, guint count, guint *used)
{
    GArray *row = NULL;
    *used = 0;
    for (guint i = 0; i < count; i++) {
        GArray *next = row_of(takes[i], i);
        gint64 offset = 0;
        if (row == NULL) {
            row = g_steal_pointer(&next), *used = 1;
            continue;
        }
        if (find_offset(row, next, &offset)) {
            GArray *both = lay_over(row, next, offset);
            g_array_unref(row);
            row = both, (*used)++;
        }
        g_array_unref(next);
    }
    return row;
}
