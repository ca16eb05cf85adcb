/* sound.c - offset and hum taken away; the sound at another rate. */
#include "tape/sound.h"

void bl_high_pass_begin(bl_high_pass *f, uint32_t rate)
{
    *f = (bl_high_pass){.shift = 1};
    while ((uint32_t)1 << (f->shift + 1) <= rate / 600)
        f->shift++;
}

int32_t bl_high_pass_next(bl_high_pass *f, int16_t sample)
{
    int32_t x = sample * (int32_t)256;
    for (unsigned i = 0; i < 2; i++) {
        f->low[i] += (x - f->low[i]) >> f->shift;
        x -= f->low[i];
    }
    return x / 256;
}

/* The sum up to a place, with 8 bits of fraction. */
static uint32_t sum_at(const bl_sound *s, uint64_t place)
{
    uint32_t index = (uint32_t)(place >> 32);
    if (index >= s->count) return s->sums[s->count] << 8;
    uint32_t step = s->sums[index + 1] - s->sums[index];
    return (s->sums[index] << 8) + step * (uint32_t)(place >> 24 & 0xFF);
}

/* The gain is a power of two, and such that the loudest stretch comes out at 256 to 512. */
void bl_sound_read_from(bl_sound_reader *r, const bl_sound *sound, uint64_t place, uint64_t width)
{
    uint64_t loud = (uint64_t)sound->loudest * (width >> 24);
    *r = (bl_sound_reader){.sound = sound, .place = place, .sum = sum_at(sound, place)};
    while (loud >> r->gain > 512)
        r->gain++;
}

int32_t bl_sound_read(bl_sound_reader *r, uint64_t width)
{
    uint32_t before = r->sum;
    r->place += width;
    r->sum = sum_at(r->sound, r->place);
    int32_t value = (int32_t)(r->sum - before) >> r->gain;
    return value > BL_SOUND_PEAK ? BL_SOUND_PEAK : value < -BL_SOUND_PEAK ? -BL_SOUND_PEAK : value;
}

uint32_t bl_sound_level(const bl_sound_reader *r, uint64_t width, uint32_t amplitude)
{
    uint64_t parts = width >> 24;
    return parts == 0 ? 0 : (uint32_t)(((uint64_t)amplitude << r->gain) * 1000 / parts / 32768);
}
