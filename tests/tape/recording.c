/* recording.c - a recording computed from the times of its bits, then made worse. */
#include "recording.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

static const double turn = 6.283185307179586;

static uint32_t state = 1;

void chance_from(unsigned seed)
{
    state = seed * 2654435761u + 1;
}

unsigned chance(void)
{
    state ^= state << 13, state ^= state >> 17, state ^= state << 5;
    return state >> 8;
}

static double normal(void)
{
    double u = (chance() + 1.0) / 16777217.0, v = chance() / 16777216.0;
    return sqrt(-2 * log(u)) * cos(turn * v);
}

/* ---- bits ---- */

typedef struct bit_row {
    uint8_t *bits;
    size_t count;
    double length; /* of one, seconds */
} bit_row;

static void put_bits(bit_row *b, unsigned value, size_t count)
{
    while (count-- > 0)
        b->bits[b->count++] = (uint8_t)value;
}

static bit_row bits_of(unsigned baud, double leader, const uint8_t *bytes, size_t count)
{
    size_t lead = (size_t)(leader * baud);
    bit_row b = {.length = 1.0 / baud};
    b.bits = malloc(lead + count * 11 + baud);
    put_bits(&b, 1, lead);
    for (size_t i = 0; i < count; i++) {
        put_bits(&b, 0, 1);
        for (unsigned j = 0; j < 8; j++)
            put_bits(&b, bytes[i] >> j & 1, 1);
        put_bits(&b, 1, 2);
    }
    put_bits(&b, 1, baud);
    return b;
}

/* ---- the signal ---- */

/* The wave at a time of the tape; at 2400 baud a 0 is half a cycle, and turns what follows. */
static double wave_at(const bit_row *b, double time, size_t *bit, double *sign)
{
    size_t now = (size_t)(time / b->length);
    for (; *bit < now; (*bit)++)
        if (b->length < 1 / 2000.0 && b->bits[*bit] == 0) *sign = -*sign;
    double within = time - (double)now * b->length;
    return *sign * sin(turn * (b->bits[now] ? 2400 : 1200) * within);
}

static double *play(const bit_row *b, const impairment *i, double rate, size_t *count)
{
    double speed = i->speed != 0 ? i->speed : 1, time = 0, sign = 1;
    double end = (double)b->count * b->length, hz = i->flutter_hz != 0 ? i->flutter_hz : 9;
    double *x = malloc((size_t)(end / speed * rate * 1.1 + 100) * sizeof *x);
    size_t n = 0, bit = 0;
    for (; time < end - 1e-9; n++) {
        double t = (double)n / rate;
        x[n] = wave_at(b, time, &bit, &sign);
        if (t > i->drop_at && t < i->drop_at + i->drop_for) x[n] = 0;
        time += speed * (1 + i->wow * sin(turn * 0.7 * t)) * (1 + i->flutter * sin(turn * hz * t)) /
                rate;
    }
    *count = n;
    return x;
}

/* One of the pairs of poles of a Butterworth low-pass filter. */
static void filter_pair(double *x, size_t count, double hz, double rate, unsigned pair,
                        unsigned order)
{
    double w = turn * hz / rate, c = cos(w), a = sin(w) * cos(turn / 4 * (2 * pair + 1) / order);
    double b0 = (1 - c) / 2 / (1 + a), a1 = -2 * c / (1 + a), a2 = (1 - a) / (1 + a);
    double x1 = 0, x2 = 0, y1 = 0, y2 = 0;
    for (size_t n = 0; n < count; n++) {
        double y = b0 * (x[n] + 2 * x1 + x2) - a1 * y1 - a2 * y2;
        x2 = x1, x1 = x[n], y2 = y1, y1 = y;
        x[n] = y;
    }
}

static void distort(double *x, size_t count, const impairment *i, double rate)
{
    double low = 0, share = 1 - exp(-turn * i->low_pass / rate), power = 0;
    for (size_t n = 0; n < count; n++) {
        if (i->square) x[n] = x[n] < 0 ? -1 : 1;
        if (i->clip > 0) x[n] = fmax(-1, fmin(1, x[n] / i->clip));
        if (i->low_pass > 0 && i->order == 0) x[n] = low += share * (x[n] - low);
    }
    for (unsigned pair = 0; pair < i->order / 2; pair++)
        filter_pair(x, count, i->low_pass, rate, pair, i->order);
    for (size_t n = 0; n < count; n++)
        power += x[n] * x[n] / (double)count;
    bool noisy = i->noise != 0 || i->equal_noise;
    double noise = noisy ? sqrt(power * pow(10, -i->noise / 10)) : 0;
    for (size_t n = 0; n < count; n++) {
        if (noisy) x[n] += noise * normal();
        x[n] += i->hum * sin(turn * 50 * (double)n / rate);
        x[n] = (i->inverted ? -x[n] : x[n]) + i->offset;
    }
}

recording record_bytes(unsigned baud, double leader, const uint8_t *bytes, size_t count,
                       const impairment *i)
{
    recording r = {.rate = i->rate != 0 ? i->rate : 44100};
    bit_row b = bits_of(baud, leader, bytes, count);
    double *x = play(&b, i, r.rate, &r.count);
    double level = i->level != 0 ? i->level : 0.5, steps = i->bits == 8 ? 127 : 32767;
    distort(x, r.count, i, r.rate);
    r.samples = malloc(r.count * sizeof *r.samples);
    for (size_t n = 0; n < r.count; n++) {
        double y = floor(fmax(-1, fmin(1, x[n] * level)) * steps + 0.5);
        r.samples[n] = (int16_t)(i->bits == 8 ? y * 256 : y);
    }
    free(x);
    free(b.bits);
    return r;
}

/* ---- what is heard ---- */

static void keep_byte(void *context, const bl_tape_byte *byte)
{
    heard_bytes *h = context;
    h->at = realloc(h->at, (h->count + 1) * sizeof *h->at);
    h->at[h->count++] = *byte;
}

heard_bytes hear(const recording *r, const bl_keying *keying)
{
    heard_bytes h = {0};
    bl_demodulator *d;
    bl_keying all[4];
    for (size_t i = 0; i < 4; i++)
        all[i] = *bl_keying_at(i);
    bl_demodulator_config config = {
        .rate = r->rate, .keyings = keying != NULL ? keying : all, .count = keying != NULL ? 1 : 4};
    CHECK_INT(
        bl_demodulator_open(&test_memory, &config, (bl_tape_listener){&h, keep_byte, NULL}, &d),
        BL_OK);
    for (size_t done = 0, part; done < r->count; done += part) { /* in pieces of any length */
        part = chance() % 5000 + 1;
        if (part > r->count - done) part = r->count - done;
        bl_demodulator_feed(d, r->samples + done, part);
    }
    bl_demodulator_end(d);
    bl_demodulator_close(d);
    return h;
}
