/* The sound of bytes: read back by counting zero crossings, as simple hardware does. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "recording.h"

typedef struct sound {
    int32_t *at;
    size_t count, capacity;
} sound;

static bl_status keep(void *context, const int32_t *samples, size_t count)
{
    sound *s = context;
    if (s->count + count > s->capacity) {
        s->capacity = (s->count + count) * 2;
        s->at = realloc(s->at, s->capacity * sizeof *s->at);
    }
    memcpy(s->at + s->count, samples, count * sizeof *samples);
    s->count += count;
    return BL_OK;
}

static void play(sound *s, const bl_keying *k, uint32_t rate, bl_wave wave, int level,
                 const uint8_t *bytes, size_t count)
{
    bl_modulator m;
    s->count = 0;
    CHECK_INT(bl_modulator_begin(&m, k, rate, wave, level, (bl_sample_sink){s, keep}), BL_OK);
    CHECK_INT(bl_modulator_idle(&m, 100), BL_OK);
    for (size_t i = 0; i < count; i++)
        CHECK_INT(bl_modulator_byte(&m, bytes[i]), BL_OK);
    CHECK_INT(bl_modulator_idle(&m, 50), BL_OK);
    CHECK_INT(bl_modulator_end(&m), BL_OK);
}

/* Where a wave goes through zero, in samples. */
static size_t crossings(const sound *s, double *at, size_t capacity)
{
    size_t count = 0;
    int last = 0;
    double from = 0;
    for (size_t i = 0; i < s->count && count < capacity; i++) {
        int now = s->at[i] > 0 ? 1 : s->at[i] < 0 ? -1 : 0;
        if (now == 0) continue;
        if (last != 0 && now != last) {
            double a = s->at[(size_t)from], b = s->at[i];
            at[count++] = from + (double)(i - (size_t)from) * a / (a - b);
        }
        last = now, from = (double)i;
    }
    return count;
}

/* Half cycles as bits: a start bit is so many long ones, and then each bit is so many of one kind.
 */
static size_t count_halves(const sound *s, const bl_keying *k, uint32_t rate, uint8_t *bytes,
                           size_t capacity)
{
    static double at[400000];
    size_t all = crossings(s, at, BL_COUNT(at)), found = 0, i = 0;
    double border = rate * (1.0 / k->hz[0] + 1.0 / k->hz[1]) / 4;
#define IS_LOW(n) (at[(n) + 1] - at[n] > border)
    while (i + 2 < all && found < capacity) {
        if (!IS_LOW(i)) {
            i++;
            continue;
        }
        unsigned byte = 0;
        i += k->half_cycles[0];
        for (unsigned bit = 0; bit < 8 && i + 1 < all; bit++) {
            bool low = IS_LOW(i);
            byte |= (unsigned)!low << bit;
            for (unsigned n = 0; n < k->half_cycles[low ? 0 : 1] && i + 1 < all; n++, i++)
                CHECK(IS_LOW(i) == low);
        }
        bytes[found++] = (uint8_t)byte;
    }
    return found;
}

TEST(zero_crossings_tell_every_byte)
{
    static const uint32_t rates[] = {8000, 22050, 44100, 48000, 96000};
    uint8_t bytes[256], found[300];
    sound s = {0};
    for (unsigned i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)i;
    for (size_t standard = 0; bl_keying_at(standard) != NULL; standard++)
        for (size_t r = 0; r < BL_COUNT(rates); r++)
            for (int wave = BL_WAVE_SINE; wave <= BL_WAVE_SQUARE; wave++) {
                const bl_keying *k = bl_keying_at(standard);
                if (rates[r] < 20000 && standard > 0) continue; /* three samples a half cycle */
                play(&s, k, rates[r], (bl_wave)wave, wave ? -700 : 900, bytes, sizeof bytes);
                size_t count = count_halves(&s, k, rates[r], found, sizeof found);
                CHECK_BYTES(found, count, bytes, sizeof bytes);
            }
    free(s.at);
}

/* No sample jumps further than a sine of the higher tone does; the whole lasts as long as planned.
 */
TEST(bits_join_without_a_click_and_without_drift)
{
    uint8_t bytes[300];
    sound s = {0};
    for (unsigned i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)(i * 73);
    for (size_t standard = 0; bl_keying_at(standard) != NULL; standard++) {
        const bl_keying *k = bl_keying_at(standard);
        uint64_t ns = 0;
        play(&s, k, 44100, BL_WAVE_SINE, 1000, bytes, sizeof bytes);
        double most = 2147483647.0 * 6.2832 * 2400 / 44100;
        for (size_t i = 1; i < s.count; i++)
            CHECK(s.at[i] - (double)s.at[i - 1] < most && s.at[i - 1] - (double)s.at[i] < most);
        for (size_t i = 0; i < sizeof bytes; i++)
            ns += bl_keying_byte_ns(k, bytes[i]);
        double expected = 44100 * ((double)ns / 1e9 + 0.15), bit = 44100.0 / bl_keying_baud(k);
        CHECK((double)s.count > expected - 3 && (double)s.count < expected + 2 * bit + 3);
    }
    free(s.at);
}

TEST(what_is_modulated_is_demodulated)
{
    bl_keying own = {.hz = {1070, 1270}, .half_cycles = {7, 8}, .data_bits = 7, .stop_bits = 1};
    static const uint8_t bytes[] = "Skerry: 12 lamps";
    sound s = {0};
    own.parity = BL_PARITY_ODD, own.high_first = true, own.hz[1] = 2140;
    CHECK_INT(bl_keying_check(&own), BL_OK);
    play(&s, &own, 44100, BL_WAVE_SINE, 500, bytes, sizeof bytes - 1);
    recording r = {malloc(s.count * 2), s.count, 44100};
    for (size_t i = 0; i < s.count; i++)
        r.samples[i] = (int16_t)(s.at[i] / 65536);
    heard_bytes h = hear(&r, &own);
    CHECK_INT(h.count, sizeof bytes - 1);
    for (size_t i = 0; i < h.count; i++)
        CHECK(h.at[i].value == bytes[i] && h.at[i].framed);
    free(s.at), free(r.samples), free(h.at);
}

/* What a keying makes of bytes of chance comes back. */
static void expect_back(const bl_keying *k, uint32_t rate)
{
    uint8_t bytes[200];
    sound s = {0};
    for (unsigned i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)chance();
    play(&s, k, rate, BL_WAVE_SINE, 500, bytes, sizeof bytes);
    recording r = {malloc(s.count * 2), s.count, rate};
    for (size_t i = 0; i < s.count; i++)
        r.samples[i] = (int16_t)(s.at[i] / 65536);
    heard_bytes h = hear(&r, k);
    CHECK_INT(h.count, sizeof bytes);
    for (size_t i = 0; i < h.count; i++)
        CHECK_INT(h.at[i].value, bytes[i]);
    free(r.samples), free(h.at), free(s.at);
}
#define expect_back(...) TEST_CALL(expect_back(__VA_ARGS__))

/* Bits of different length; a line that rests low; a single stop bit. */
TEST(keyings_of_other_kinds)
{
    bl_keying k = {.hz = {1500, 3000}, .half_cycles = {2, 2}, .data_bits = 8, .stop_bits = 2};
    chance_from(3);
    expect_back(&k, 48000);
    k = *bl_keying_standard(600);
    k.idle_low = true, k.stop_bits = 1;
    expect_back(&k, 44100);
    k = (bl_keying){.hz = {3675, 2205}, .half_cycles = {12, 8}, .data_bits = 8, .stop_bits = 3};
    expect_back(&k, 22050);
}

TEST(bits_of_a_byte)
{
    uint8_t bits[BL_KEYING_MAX_BITS];
    bl_keying k = *bl_keying_standard(300);
    static const uint8_t plain[] = {0, 1, 0, 0, 0, 0, 0, 1, 1, 1, 1};
    CHECK_INT(bl_keying_bits(&k, 0xC1, bits), 11);
    CHECK(memcmp(bits, plain, 11) == 0);
    CHECK_INT(bl_keying_byte_ns(&k, 0xC1), 11 * 3333333u);
    k.data_bits = 7, k.parity = BL_PARITY_EVEN, k.high_first = true, k.stop_bits = 1;
    static const uint8_t even[] = {0, 1, 0, 0, 0, 0, 0, 1, 0, 1};
    CHECK_INT(bl_keying_bits(&k, 0x41, bits), 10);
    CHECK(memcmp(bits, even, 10) == 0);
    CHECK(bl_keying_standard(110) == NULL);
    k.hz[1] = 100;
    CHECK_INT(bl_keying_check(&k), BL_E_RANGE);
}

TEST(modulators_that_cannot_be)
{
    bl_modulator m;
    const bl_keying *k = bl_keying_at(0);
    sound s = {0};
    bl_sample_sink sink = {&s, keep};
    CHECK_INT(bl_modulator_begin(&m, k, 4500, BL_WAVE_SINE, 500, sink), BL_E_RANGE);
    CHECK_INT(bl_modulator_begin(&m, k, 44100, BL_WAVE_SINE, 0, sink), BL_E_RANGE);
    CHECK_INT(bl_modulator_begin(&m, k, 44100, BL_WAVE_SINE, 1001, sink), BL_E_RANGE);
}
