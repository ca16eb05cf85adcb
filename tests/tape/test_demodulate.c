/* Bytes come back from bad recordings. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "recording.h"

enum { BYTES = 130 };

static void random_bytes(uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        bytes[i] = (uint8_t)chance();
}

/* All bytes are heard, no other is, and those that are certain are right. */
static void expect_heard(unsigned baud, const impairment *i, const bl_keying *keying)
{
    uint8_t bytes[BYTES], found[BYTES + 50];
    random_bytes(bytes, sizeof bytes);
    recording r = record_bytes(baud, 1.5, bytes, sizeof bytes, i);
    heard_bytes h = hear(&r, keying);
    size_t count = h.count < sizeof found ? h.count : sizeof found;
    for (size_t n = 0; n < count; n++)
        found[n] = h.at[n].value;
    CHECK_BYTES(found, count, bytes, sizeof bytes);
    for (size_t n = 1; n < h.count; n++)
        CHECK(h.at[n].at > h.at[n - 1].at && h.at[n].framed);
    free(r.samples);
    free(h.at);
}
#define expect_heard(...) TEST_CALL(expect_heard(__VA_ARGS__))

static void expect_both(impairment i)
{
    expect_heard(300, &i, NULL);
    if (i.noise != 0) i.noise += 6;
    expect_heard(1200, &i, NULL);
}
#define expect_both(...) TEST_CALL(expect_both((impairment){__VA_ARGS__}))

TEST(every_standard_is_found_out)
{
    for (size_t i = 0; bl_keying_at(i) != NULL; i++)
        expect_heard(bl_keying_baud(bl_keying_at(i)), &(impairment){0}, NULL);
    for (size_t i = 0; bl_keying_at(i) != NULL; i++)
        expect_heard(bl_keying_baud(bl_keying_at(i)), &(impairment){0}, bl_keying_at(i));
}

TEST(noise_as_loud_as_twice_the_signal)
{
    chance_from(7);
    expect_both(.noise = -3, .level = 0.1);
    expect_heard(600, &(impairment){.equal_noise = true, .level = 0.1}, NULL);
}

TEST(speeds_that_are_off_and_waver)
{
    expect_both(.speed = 1.15);
    expect_both(.speed = 0.85);
    expect_both(.wow = 0.03);
    expect_both(.flutter = 0.02);
    expect_both(.flutter = 0.02, .flutter_hz = 24);
}

TEST(levels_offsets_and_polarity)
{
    expect_both(.level = 0.05);
    expect_both(.level = 0.05, .bits = 8);
    expect_both(.offset = 0.8, .level = 0.4);
    expect_both(.inverted = true);
    expect_both(.clip = 0.1);
    expect_both(.square = true);
    expect_both(.hum = 1, .level = 0.4);
    expect_both(.low_pass = 1500);
}

/* The higher tone is all but gone. */
TEST(steep_low_passes)
{
    for (unsigned order = 2; order <= 8; order += 2) {
        expect_heard(300, &(impairment){.low_pass = 1500, .order = order}, NULL);
        expect_heard(300, &(impairment){.low_pass = 1500, .order = order, .speed = 0.9}, NULL);
    }
    expect_heard(600, &(impairment){.low_pass = 1500, .order = 4}, NULL);
    expect_heard(1200, &(impairment){.low_pass = 1500, .order = 4}, NULL);
}

TEST(sample_rates)
{
    static const uint32_t rates[] = {8000, 11025, 16000, 22050, 48000, 96000};
    for (size_t i = 0; i < BL_COUNT(rates); i++)
        expect_both(.rate = rates[i]);
}

TEST(two_faults_at_once)
{
    expect_both(.noise = 0.01, .speed = 1.07, .level = 0.1);
    expect_both(.wow = 0.015, .low_pass = 3000);
    expect_both(.hum = 0.5, .flutter = 0.01, .level = 0.3);
    expect_both(.rate = 8000, .speed = 0.93);
    expect_both(.clip = 0.2, .noise = 3, .level = 0.1);
}

/* Half cycles have no steady tone in them: without a leader near the speed is what it was. */
TEST(a_long_recording_of_half_cycles)
{
    enum { MANY = 6000 };
    static uint8_t bytes[MANY];
    random_bytes(bytes, sizeof bytes);
    recording r =
        record_bytes(2400, 2, bytes, sizeof bytes, &(impairment){.speed = 1.06, .noise = 25});
    heard_bytes h = hear(&r, NULL);
    CHECK_INT(h.count, sizeof bytes);
    for (size_t i = 0; i < h.count; i++)
        CHECK_INT(h.at[i].value, bytes[i]);
    free(r.samples);
    free(h.at);
}

/* Bytes of one kind only say little about which standard it is. */
TEST(rows_of_one_byte)
{
    static const uint8_t kinds[] = {0x00, 0x55, 0xAA, 0x0F};
    for (size_t k = 0; k < BL_COUNT(kinds); k++)
        for (unsigned baud = 300; baud <= 1200; baud *= 2) {
            uint8_t bytes[100];
            memset(bytes, kinds[k], sizeof bytes);
            recording r = record_bytes(baud, 1, bytes, sizeof bytes, &(impairment){0});
            heard_bytes h = hear(&r, NULL);
            CHECK_INT(h.count, sizeof bytes);
            for (size_t i = 0; i < h.count; i++)
                CHECK_INT(h.at[i].value, kinds[k]);
            free(r.samples);
            free(h.at);
        }
}

/* After a dropout it goes on; what was lost is doubtful or not there, and nothing certain is wrong.
 */
TEST(a_dropout_costs_no_more_than_itself)
{
    uint8_t bytes[200];
    random_bytes(bytes, sizeof bytes);
    for (unsigned turn = 0; turn < 6; turn++) {
        impairment i = {.drop_at = 3.0 + 0.4 * turn, .drop_for = 0.01 * (1u << turn), .wow = 0.01};
        recording r = record_bytes(300, 1.5, bytes, sizeof bytes, &i);
        heard_bytes h = hear(&r, bl_keying_standard(300));
        size_t right = 0;
        for (size_t n = 0; n < h.count; n++) {
            size_t place = (size_t)(((double)h.at[n].at / 1e6 - 1.5) * 300 / 11 + 0.5);
            if (place < sizeof bytes && h.at[n].value == bytes[place]) right++;
            if (h.at[n].certainty >= BL_CERTAIN && h.at[n].framed)
                CHECK(place < sizeof bytes && h.at[n].value == bytes[place]);
        }
        size_t lost = (size_t)(i.drop_for * 300 / 11) + 3;
        CHECK(right + lost >= sizeof bytes);
        free(r.samples);
        free(h.at);
    }
}

TEST(silence_hiss_and_a_lone_tone_are_no_bytes)
{
    recording r = {.rate = 44100, .count = 44100 * 12};
    r.samples = calloc(r.count, sizeof *r.samples);
    CHECK_INT(hear(&r, NULL).count, 0);
    for (size_t i = 0; i < r.count; i++)
        r.samples[i] = (int16_t)(chance() % 4001 - 2000);
    heard_bytes h = hear(&r, NULL);
    for (size_t i = 0; i < h.count; i++)
        CHECK(h.at[i].certainty < BL_CERTAIN); /* at most doubtful ones */
    free(h.at);
    free(r.samples);
    r = record_bytes(300, 12, NULL, 0, &(impairment){.noise = -3, .level = 0.1});
    CHECK_INT(hear(&r, NULL).count, 0);
    free(r.samples);
}

TEST(memory_that_runs_out_is_an_error)
{
    bl_demodulator_config config = {.rate = 44100, .keyings = bl_keying_at(0), .count = 1};
    bl_demodulator *d = NULL;
    long nth = 1;
    for (;; nth++) {
        test_memory_fail_at(nth);
        bl_status status = bl_demodulator_open(&test_memory, &config, (bl_tape_listener){0}, &d);
        if (!test_memory_failed()) break;
        CHECK_INT(status, BL_E_MEMORY);
        CHECK(d == NULL);
    }
    CHECK(nth > 8 && d != NULL);
    bl_demodulator_close(d);
}

TEST(configs_that_cannot_be)
{
    bl_keying odd = *bl_keying_at(0);
    bl_demodulator *d;
    odd.hz[0] = odd.hz[1];
    bl_demodulator_config config = {.rate = 44100, .keyings = &odd, .count = 1};
    CHECK_INT(bl_demodulator_open(&test_memory, &config, (bl_tape_listener){0}, &d), BL_E_RANGE);
    config = (bl_demodulator_config){.rate = 4000, .keyings = bl_keying_at(0), .count = 1};
    CHECK_INT(bl_demodulator_open(&test_memory, &config, (bl_tape_listener){0}, &d), BL_E_RANGE);
    config = (bl_demodulator_config){.rate = 44100, .keyings = bl_keying_at(0), .count = 0};
    CHECK_INT(bl_demodulator_open(&test_memory, &config, (bl_tape_listener){0}, &d), BL_E_RANGE);
}

/* Runs of one value, longer than a piece of sound: 168 of 256 values fit a second framing, and only
 * what was before tells which. */
TEST(runs_longer_than_a_piece_keep_their_framing)
{
    static const uint8_t values[] = {0x60, 0x76, 0x3E, 0x33, 0x66, 0x78,
                                     0xFB, 0x1B, 0x6D, 0xFF, 0x00};
    for (size_t k = 0; k < BL_COUNT(values); k++) {
        uint8_t bytes[420];
        random_bytes(bytes, sizeof bytes);
        memset(bytes + 60, values[k], 300);
        recording r = record_bytes(300, 2, bytes, sizeof bytes, &(impairment){0});
        heard_bytes h = hear(&r, NULL);
        CHECK_INT(h.count, sizeof bytes);
        for (size_t i = 0; i < h.count; i++)
            if (h.at[i].value != bytes[i])
                test_fail(__FILE__, __LINE__, "run of %02X: byte %zu", values[k], i);
        free(r.samples);
        free(h.at);
    }
}

/* The level falls to 0.4 for some tenths of a second, or wavers: what is certain is right, and
 * nearly all is. */
TEST(a_dip_in_level_loses_nothing)
{
    uint8_t bytes[300];
    for (unsigned turn = 0; turn < 24; turn++) {
        unsigned baud = turn % 2 ? 300 : 1200;
        random_bytes(bytes, sizeof bytes);
        recording r = record_bytes(baud, 2, bytes, sizeof bytes, &(impairment){0});
        size_t from = (size_t)(r.rate * (2.2 + 0.05 * turn)), length = r.rate * (2 + turn % 7) / 10;
        for (size_t i = from; i < from + length && i < r.count; i++)
            r.samples[i] = (int16_t)(r.samples[i] * 2 / 5);
        heard_bytes h = hear(&r, bl_keying_standard(baud));
        size_t right = 0;
        for (size_t n = 0; n < h.count; n++) {
            size_t place = (size_t)(((double)h.at[n].at / 1e6 - 2) * baud / 11 + 0.5);
            bool same = place < sizeof bytes && h.at[n].value == bytes[place];
            right += same;
            if (h.at[n].certainty >= BL_CERTAIN && h.at[n].framed && !same)
                test_fail(__FILE__, __LINE__, "turn %u: byte %zu is certain, and wrong", turn, n);
        }
        if (right + 4 < sizeof bytes)
            test_fail(__FILE__, __LINE__, "turn %u: %zu of %zu are right", turn, right,
                      sizeof bytes);
        free(r.samples);
        free(h.at);
    }
}
