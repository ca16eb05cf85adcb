/* modulate.c - bits become samples, with the wave's phase carried on from bit to bit. */
#include "bootlace/modulate.h"

#include "base/core.h"
#include "tape/sine.h"

#define HALF ((uint64_t)1 << 31) /* half a cycle */

bl_status bl_modulator_begin(bl_modulator *m, const bl_keying *keying, uint32_t rate, bl_wave wave,
                             int level, bl_sample_sink sink)
{
    bl_status status = bl_keying_check(keying);
    uint32_t higher = keying->hz[0] > keying->hz[1] ? keying->hz[0] : keying->hz[1];
    if (status != BL_OK) return status;
    if (rate < 4000 || rate > 384000 || rate <= 2 * higher) return BL_E_RANGE;
    if (level == 0 || level > 1000 || level < -1000) return BL_E_RANGE;
    *m = (bl_modulator){
        .keying = *keying, .sink = sink, .wave = wave, .rate = rate, .negative = level < 0};
    m->peak = (int32_t)((int64_t)INT32_MAX * (level < 0 ? -level : level) / 1000);
    for (unsigned v = 0; v < 2; v++)
        m->step[v] = (uint32_t)((((uint64_t)keying->hz[v] << 32) + rate / 2) / rate);
    return BL_OK;
}

void bl_modulator_stop_bits(bl_modulator *m, uint8_t stop_bits)
{
    BL_ASSERT(stop_bits >= 1 && stop_bits <= 3);
    m->keying.stop_bits = stop_bits;
}

static void give_samples(bl_modulator *m)
{
    if (m->status == BL_OK && m->waiting != 0)
        m->status = m->sink.samples(m->sink.context, m->samples, m->waiting);
    m->waiting = 0;
}

static void put(bl_modulator *m, int32_t sample)
{
    m->samples[m->waiting++] = sample;
    m->written++;
    if (m->waiting == BL_MODULATOR_ROOM) give_samples(m);
}

/* A square wave whose edges lie between samples: near an edge the sample is the mean over its time,
 * or else edges would jitter by a whole sample. */
static int32_t square(uint32_t phase, uint32_t step)
{
    uint32_t into = phase & 0x7FFFFFFFu, half = step / 2;
    uint32_t left = 0x80000000u - into, near = into < left ? into : left;
    int64_t value = near >= half ? BL_SINE_ONE : (int64_t)near * BL_SINE_ONE / half;
    return (int32_t)(phase & 0x80000000u ? -value : value);
}

bl_status bl_modulator_bit(bl_modulator *m, unsigned value)
{
    uint32_t step = m->step[value != 0], before = m->step[m->last];
    uint64_t end = m->keying.half_cycles[value != 0] * HALF;
    uint64_t position = m->position * step / before;
    for (; position < end; position += step) {
        uint32_t phase = (uint32_t)position + (m->negative ? 0x80000000u : 0);
        int32_t wave = m->wave == BL_WAVE_SINE ? bl_sine(phase) : square(phase, step);
        put(m, (int32_t)((int64_t)wave * m->peak / BL_SINE_ONE));
    }
    m->position = position - end;
    m->last = value != 0;
    if (m->keying.half_cycles[value != 0] & 1) m->negative = !m->negative;
    return m->status;
}

bl_status bl_modulator_byte(bl_modulator *m, uint8_t byte)
{
    uint8_t bits[BL_KEYING_MAX_BITS];
    unsigned count = bl_keying_bits(&m->keying, byte, bits);
    for (unsigned i = 0; i < count; i++)
        bl_modulator_bit(m, bits[i]);
    return m->status;
}

bl_status bl_modulator_idle(bl_modulator *m, uint32_t milliseconds)
{
    uint64_t end = m->written + (uint64_t)m->rate * milliseconds / 1000;
    while (m->written < end && m->status == BL_OK)
        bl_modulator_bit(m, !m->keying.idle_low);
    return m->status;
}

bl_status bl_modulator_end(bl_modulator *m)
{
    give_samples(m);
    return m->status;
}
