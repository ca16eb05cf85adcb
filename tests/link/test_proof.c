/* What "verified" rests on: sums that do not share the line's weakness, and sends to a model
 * machine over lines of several kinds. perf/perf_sends.c does a million of them. */
#include <string.h>

#include "bootlace/crc.h"
#include "harness.h"
#include "model/model_send.h"

static uint16_t fcs_of(const uint8_t *bytes, size_t count)
{
    return bl_fcs16_row(BL_FCS16_START, bytes, count);
}

TEST(a_double_sum_is_defined_by_words)
{
    CHECK_INT(bl_double_sum((const uint8_t *)"", 0), 0);
    /* the high byte of a word: $00FF and a carry, so $010E */
    CHECK_INT(bl_double_sum((const uint8_t *)"\x01", 1), 0xFEF2FEF1);
    CHECK_INT(bl_double_sum((const uint8_t *)"\x00\x00", 2), 0x00010000);
    CHECK_INT(bl_double_sum((const uint8_t *)"\x01\x00", 2), 0xFFF1FFF0);
}

/* Every damage that the FCS-16 cannot see is a multiple of its generator; the double sum must. */
TEST(what_the_fcs_does_not_see_the_double_sum_does)
{
    uint8_t bytes[2048], damaged[2048];
    for (unsigned turn = 0; turn < 20000; turn++) {
        size_t count = 3 + test_below(sizeof bytes - 3), places = 1 + test_below(3);
        for (size_t i = 0; i < count; i++)
            bytes[i] = turn % 3 == 0 ? (uint8_t)turn : (uint8_t)test_random();
        memcpy(damaged, bytes, count);
        for (size_t k = 0; k < places; k++) {
            size_t at = test_below((uint32_t)(count - 2));
            uint32_t pattern = (uint32_t)0x10811 << test_below(8);
            for (int i = 0; i < 3; i++)
                damaged[at + (size_t)i] ^= (uint8_t)(pattern >> 8 * i);
        }
        if (memcmp(bytes, damaged, count) == 0) continue;
        CHECK_INT(fcs_of(damaged, count), fcs_of(bytes, count));
        if (bl_double_sum(damaged, count) == bl_double_sum(bytes, count))
            test_fail(__FILE__, __LINE__, "turn %u: %zu places in %zu bytes", turn, places, count);
    }
}

/* Two flips, wherever they are: also of highest bits at distances that are powers of two. */
TEST(two_flips_are_never_missed)
{
    uint8_t bytes[2048];
    for (unsigned kind = 0; kind < 3; kind++) {
        for (size_t i = 0; i < sizeof bytes; i++)
            bytes[i] = kind == 0 ? 0 : kind == 1 ? 0xFF : (uint8_t)test_random();
        uint32_t right = bl_double_sum(bytes, sizeof bytes);
        for (unsigned turn = 0; turn < 20000; turn++) {
            size_t a = test_below(sizeof bytes), b = a ^ (size_t)1 << test_below(11);
            uint8_t first = (uint8_t)(0x80 >> test_below(8)), second = turn % 4 ? first : 0x80;
            bytes[a] ^= first;
            bytes[b] ^= second;
            if (bl_double_sum(bytes, sizeof bytes) == right)
                test_fail(__FILE__, __LINE__, "bytes %zu and %zu, %02X and %02X", a, b, first,
                          second);
            bytes[a] ^= first;
            bytes[b] ^= second;
        }
    }
}

static void sends(model_quick quick, unsigned count)
{
    unsigned ends[3] = {0};
    for (unsigned i = 0; i < count; i++) {
        size_t wrong;
        uint64_t seed = 1 + i;
        model_end end = model_send(&test_memory, i % MODEL_LINES, quick, seed, &wrong);
        ends[end]++;
        if (end == MODEL_FALSE)
            test_fail(__FILE__, __LINE__, "%s, seed %lu: verified, and %zu bytes are wrong",
                      model_line(i % MODEL_LINES), (unsigned long)seed, wrong);
    }
    if (ends[MODEL_VERIFIED] < count * 9 / 10)
        test_fail(__FILE__, __LINE__, "%u of %u sends failed", ends[MODEL_FAILED], count);
}

TEST(sends_over_bad_lines_are_verified_or_fail)
{
    sends(MODEL_DOUBLE, 1000);
}

TEST(so_are_sends_to_older_eyelets)
{
    sends(MODEL_SHORT, 1000);
    sends(MODEL_UNKNOWN, 1000);
}
