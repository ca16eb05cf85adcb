/* Chips that are not what they should be: is the cause named, and none that is not? */
#include "bootlace/cause.h"

#include <string.h>

#include "harness.h"

enum { SIZE = 4096, LINES = 12 };

static uint8_t expected[SIZE], found[SIZE];
static bl_causes causes;

/* An image like most: runs of code, the rest empty. */
static void make_image(void)
{
    memset(expected, 0xFF, SIZE);
    for (unsigned run = 0; run < 5; run++) {
        unsigned at = test_below(SIZE - 400), count = 100 + test_below(300);
        for (unsigned i = 0; i < count; i++)
            expected[at + i] = (uint8_t)test_random();
    }
    memcpy(found, expected, SIZE);
}

static unsigned bit(unsigned v, unsigned n)
{
    return v >> n & 1;
}

/* Exchanges two binary digits by writing them anew. */
static unsigned exchange(unsigned v, unsigned a, unsigned b)
{
    unsigned r = 0;
    for (unsigned n = 0; n < 16; n++)
        r |= bit(v, n == a ? b : n == b ? a : n) << n;
    return r;
}

static const bl_cause *first_cause(bl_cause_kind kind)
{
    bl_causes_find(expected, found, SIZE, &causes);
    unsigned differences = 0;
    for (unsigned i = 0; i < SIZE; i++)
        differences += expected[i] != found[i];
    CHECK_INT(causes.differences, differences);
    for (size_t i = 0; i < causes.count; i++)
        if (causes.cause[i].kind == kind) return &causes.cause[i];
    test_fail(__FILE__, __LINE__, "cause %d is not among %u", (int)kind, (unsigned)causes.count);
    return NULL;
}

TEST(data_lines_that_are_stuck_swapped_or_touch)
{
    for (unsigned turn = 0; turn < 60; turn++) {
        unsigned a = turn % 8, b = (a + 1 + test_below(7)) % 8, level = test_below(2);
        make_image();
        for (unsigned i = 0; i < SIZE; i++)
            found[i] = (uint8_t)(level != 0 ? expected[i] | 1u << a : expected[i] & ~(1u << a));
        const bl_cause *k = first_cause(BL_CAUSE_DATA_STUCK);
        CHECK_INT(k->lines, 1u << a);
        CHECK_INT(k->levels, level << a);
        CHECK_INT(k->explained, causes.differences);

        for (unsigned i = 0; i < SIZE; i++)
            found[i] = (uint8_t)exchange(expected[i], a, b);
        k = first_cause(BL_CAUSE_DATA_SWAPPED);
        CHECK_INT(1u << k->line | 1u << k->other, 1u << a | 1u << b);

        for (unsigned i = 0; i < SIZE; i++) {
            unsigned both = level != 0 ? bit(expected[i], a) | bit(expected[i], b)
                                       : bit(expected[i], a) & bit(expected[i], b);
            found[i] = (uint8_t)((expected[i] & ~(1u << a | 1u << b)) | both << a | both << b);
        }
        k = first_cause(BL_CAUSE_DATA_BRIDGED);
        CHECK_INT(1u << k->line | 1u << k->other, 1u << a | 1u << b);
        CHECK_INT(k->levels, level);
    }
}

TEST(address_lines_that_are_stuck_swapped_or_turned)
{
    for (unsigned turn = 0; turn < 60; turn++) {
        unsigned a = turn % LINES, b = (a + 1 + test_below(LINES - 1)) % LINES;
        unsigned level = test_below(2);
        make_image();
        for (unsigned i = 0; i < SIZE; i++)
            expected[i] ^= (uint8_t)(i * 7 + (i >> 5)); /* no empty halves */
        for (unsigned i = 0; i < SIZE; i++)
            found[i] = expected[level != 0 ? i | 1u << a : i & ~(1u << a)];
        const bl_cause *k = first_cause(BL_CAUSE_ADDRESS_STUCK);
        CHECK_INT(k->lines, 1u << a);
        CHECK_INT(k->levels, level << a);

        for (unsigned i = 0; i < SIZE; i++)
            found[i] = expected[exchange(i, a, b)];
        k = first_cause(BL_CAUSE_ADDRESS_SWAPPED);
        CHECK_INT(1u << k->line | 1u << k->other, 1u << a | 1u << b);

        for (unsigned i = 0; i < SIZE; i++)
            found[i] = expected[i ^ 1u << a];
        CHECK_INT(first_cause(BL_CAUSE_ADDRESS_TURNED)->line, a);
    }
    /* Two of them at once. */
    for (unsigned i = 0; i < SIZE; i++)
        found[i] = expected[(i & ~0x0808u) | 0x0008];
    CHECK_INT(first_cause(BL_CAUSE_ADDRESS_STUCK)->lines, 0x0808);
}

TEST(images_at_the_wrong_offset)
{
    for (unsigned turn = 0; turn < 60; turn++) {
        int shift = turn % 4 == 0 ? SIZE / 2 : (int)test_below(SIZE - 600) + 1;
        if (turn % 2 == 1) shift = -shift;
        make_image();
        memset(found, 0xFF, SIZE);
        unsigned left = 0;
        for (int i = 0; i < SIZE; i++)
            if (i + shift >= 0 && i + shift < SIZE) {
                found[i + shift] = expected[i];
                left += expected[i] != 0xFF;
            }
        if (left < 100) continue; /* hardly anything is to be seen of it */
        CHECK_INT(first_cause(BL_CAUSE_SHIFTED)->shift, shift);
    }
}

TEST(nothing_and_everything)
{
    static const uint8_t values[] = {0xFF, 0x00, 0x5A};
    for (unsigned i = 0; i < 3; i++) {
        make_image();
        memset(found, values[i], SIZE);
        CHECK_INT(first_cause(BL_CAUSE_CONSTANT)->value, values[i]);
    }
    /* Only the empty half is seen: a line may be to blame as well. */
    memset(expected, 0xFF, SIZE);
    memcpy(expected + SIZE / 2, "half", 4), memcpy(expected + SIZE - 4, "full", 4);
    for (unsigned n = 0; n < LINES - 1; n++)
        expected[SIZE / 2 + (1u << n)] = 0, expected[SIZE - 1 - (1u << n)] = 0;
    memset(found, 0xFF, SIZE);
    CHECK_INT(first_cause(BL_CAUSE_ADDRESS_STUCK)->lines, SIZE / 2);
}

TEST(no_cause_is_made_up)
{
    for (unsigned turn = 0; turn < 300; turn++) {
        make_image();
        unsigned wrong = 1 + test_below(turn % 2 == 0 ? 6 : 400);
        for (unsigned i = 0; i < wrong; i++) {
            unsigned at = test_below(SIZE);
            found[at] = (uint8_t)(expected[at] ^ (1 + test_below(255)));
        }
        bl_causes_find(expected, found, SIZE, &causes);
        for (size_t i = 0; i < causes.count; i++)
            test_fail(__FILE__, __LINE__, "%u random bytes wrong, and cause %d", wrong,
                      (int)causes.cause[i].kind);
    }
    bl_causes_find(expected, expected, SIZE, &causes);
    CHECK_INT(causes.count, 0);
    CHECK_INT(causes.differences, 0);
    bl_causes_find(expected, found, 0, &causes);
    CHECK_INT(causes.count, 0);
    /* A size that is no power of two: data lines still, no address lines. */
    for (unsigned i = 0; i < SIZE; i++)
        found[i] = expected[i] & 0xFE;
    bl_causes_find(expected, found, 3000, &causes);
    CHECK_INT(causes.cause[0].kind, BL_CAUSE_DATA_STUCK);
}

TEST(causes_in_words)
{
    char text[200];
    make_image();
    for (unsigned i = 0; i < SIZE; i++)
        found[i] = expected[i] & (uint8_t)~0x24;
    bl_causes_find(expected, found, SIZE, &causes);
    size_t length = bl_cause_text(&causes, 0, text, sizeof text);
    CHECK_INT(length, strlen(text));
    CHECK_CONTAINS(text, "D2, D5 always read 0: stuck, or not connected (explains ");
    for (size_t capacity = 1; capacity < 60; capacity++) { /* cut, never beyond */
        memset(text, '#', sizeof text);
        bl_cause_text(&causes, 0, text, capacity);
        CHECK(strlen(text) < capacity && text[capacity] == '#');
    }
    for (unsigned i = 0; i < SIZE; i++)
        expected[i] = (uint8_t)test_random();
    for (unsigned i = 0; i < SIZE; i++)
        found[i] = expected[i & (SIZE / 2 - 1)];
    bl_causes_find(expected, found, SIZE, &causes);
    bl_cause_text(&causes, 0, text, sizeof text);
    CHECK_CONTAINS(text, "both halves read alike: A11 is stuck or not connected, or the chip has");
}
