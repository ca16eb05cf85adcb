/* speed.c - the speed of a recording, followed through its tones. */
#include "tape/speed.h"

#include "tape/sine.h"

#define FIRST ((uint32_t)51773) /* 0.79 of BL_SPEED_ONE */

enum {
    STEP = 950,  /* 0.0145; there are waves for its halves, too */
    REACH = 3,   /* how many steps a hop may change it */
    CHANGE = 24, /* what a step costs, of 1024 */
};

static size_t wave_of(unsigned speed, unsigned tone)
{
    return (size_t)(speed * 4 + tone * 2) * BL_SPEED_HOP;
}

void bl_speed_bank_fill(bl_speed_bank *bank, const uint32_t hz[2])
{
    uint32_t higher = hz[0] > hz[1] ? hz[0] : hz[1];
    bank->hz[0] = hz[0], bank->hz[1] = hz[1];
    bank->rate = 4 * higher;
    for (unsigned k = 0; k < 2 * BL_SPEEDS - 1; k++)
        for (unsigned tone = 0; tone < 2; tone++) {
            uint64_t cycles =
                (uint64_t)hz[tone] * (FIRST + k * (uint32_t)STEP / 2); /* of 2^16 a second */
            uint32_t step = (uint32_t)((cycles << 16) / bank->rate);
            int16_t *wave = bank->wave + wave_of(k, tone);
            for (unsigned i = 0; i < BL_SPEED_HOP; i++) {
                uint32_t phase = step * i;
                wave[i] = (int16_t)(bl_sine(phase + 0x40000000u) >> 14);
                wave[BL_SPEED_HOP + i] = (int16_t)(bl_sine(phase) >> 14);
            }
        }
}

static uint64_t width_of(const bl_speed_bank *bank, const bl_sound *sound)
{
    return ((uint64_t)sound->rate << 32) / bank->rate;
}

uint32_t bl_speed_hops(const bl_speed_bank *bank, const bl_sound *sound)
{
    return (uint32_t)(((uint64_t)sound->count << 32) / (width_of(bank, sound) * BL_SPEED_HOP)) + 1;
}

static uint32_t power(const int16_t *sound, const int16_t *cosine)
{
    const int16_t *sine = cosine + BL_SPEED_HOP;
    int32_t sum[2] = {0, 0};
    for (unsigned i = 0; i < BL_SPEED_HOP; i++)
        sum[0] += sound[i] * (int32_t)cosine[i];
    for (unsigned i = 0; i < BL_SPEED_HOP; i++)
        sum[1] += sound[i] * (int32_t)sine[i];
    int32_t c = sum[0] >> 15, s = sum[1] >> 15;
    return (uint32_t)(c * c) + (uint32_t)(s * s);
}

/* The samples of a hop; returns its energy. */
static uint32_t read_hop(bl_sound_reader *reader, uint64_t width, int16_t sound[BL_SPEED_HOP])
{
    uint32_t energy = 0;
    for (unsigned i = 0; i < BL_SPEED_HOP; i++) {
        sound[i] = (int16_t)(bl_sound_read(reader, width) / 2);
        energy += (uint32_t)(sound[i] * (int32_t)sound[i]);
    }
    return energy;
}

/* How much of a hop's power the two tones have at a speed, in half steps; of 1024. */
static uint16_t purity_at(const bl_speed_bank *bank, const int16_t *sound, uint32_t energy,
                          unsigned halves)
{
    uint32_t tones = power(sound, bank->wave + wave_of(halves, 0)) +
                     power(sound, bank->wave + wave_of(halves, 1));
    uint32_t of = energy >> 13, q = of == 0 ? 0 : tones / of;
    return (uint16_t)(q > 1024 ? 1024 : q);
}

/* The way through the hops that has most of the power and changes least. */
static void choose_path(bl_speed_track *track)
{
    int32_t best[BL_SPEEDS], next[BL_SPEEDS];
    for (int k = 0; k < BL_SPEEDS; k++) {
        int32_t off = (int32_t)(FIRST + (uint32_t)k * STEP) - (int32_t)track->before;
        best[k] = -(off < 0 ? -off : off) * CHANGE / STEP;
    }
    for (uint32_t h = 0; h < track->hops; h++) {
        for (int k = 0; k < BL_SPEEDS; k++) {
            int from = k;
            int32_t most = best[k];
            for (int j = k - REACH; j <= k + REACH; j++) {
                if (j < 0 || j >= BL_SPEEDS) continue;
                int32_t score = best[j] - (j < k ? k - j : j - k) * CHANGE;
                if (score > most) most = score, from = j;
            }
            int32_t pure = track->purity[h * BL_SPEEDS + (uint32_t)k];
            next[k] = most + (pure > track->faint ? pure : track->faint);
            track->from[h * BL_SPEEDS + (uint32_t)k] = (uint8_t)from;
        }
        int32_t least = next[0];
        for (int k = 0; k < BL_SPEEDS; k++)
            least = next[k] < least ? next[k] : least;
        for (int k = 0; k < BL_SPEEDS; k++)
            best[k] = next[k] - least; /* so it never overflows */
    }
    unsigned at = 0;
    for (unsigned k = 0; k < BL_SPEEDS; k++)
        if (best[k] > best[at]) at = k;
    for (uint32_t h = track->hops; h-- > 0;) {
        track->speed[h] = at;
        at = track->from[h * BL_SPEEDS + at];
    }
}

/* Between the speeds that were tried, the one that was chosen and half a step to each side: where a
 * parabola through the best of them and its neighbours has its top. */
static void refine(const bl_speed_bank *bank, bl_speed_track *track, uint32_t h,
                   const int16_t *sound, uint32_t energy)
{
    unsigned k = (unsigned)track->speed[h];
    const uint16_t *p = track->purity + h * BL_SPEEDS + k;
    int32_t between = 0;
    track->pure[h] = p[0];
    if (k > 0 && k + 1 < BL_SPEEDS && p[0] > track->faint) {
        int32_t five[5] = {p[-1], purity_at(bank, sound, energy, 2 * k - 1), p[0],
                           purity_at(bank, sound, energy, 2 * k + 1), p[1]};
        int top = five[1] > five[2] ? 1 : 2;
        if (five[3] > five[top]) top = 3;
        int32_t bend = 2 * five[top] - five[top - 1] - five[top + 1], half = STEP / 2;
        if (bend > 0) between = (five[top + 1] - five[top - 1]) * half / 2 / bend;
        between = between > half ? half : between < -half ? -half : between;
        between += (top - 2) * half;
        track->pure[h] = (uint16_t)five[top];
    }
    track->speed[h] = (uint32_t)((int32_t)(FIRST + k * (uint32_t)STEP) + between);
}

void bl_speed_follow(const bl_speed_bank *bank, const bl_sound *sound, bl_speed_track *track)
{
    uint64_t width = width_of(bank, sound);
    int16_t hop[BL_SPEED_HOP];
    bl_sound_reader reader;
    track->hop = width * BL_SPEED_HOP;
    bl_sound_read_from(&reader, sound, 0, width);
    for (uint32_t h = 0; h < track->hops; h++) {
        uint32_t energy = read_hop(&reader, width, hop);
        for (unsigned k = 0; k < BL_SPEEDS; k++)
            track->purity[h * BL_SPEEDS + k] = purity_at(bank, hop, energy, 2 * k);
    }
    choose_path(track);
    bl_sound_read_from(&reader, sound, 0, width);
    for (uint32_t h = 0; h < track->hops; h++) {
        uint32_t energy = read_hop(&reader, width, hop);
        refine(bank, track, h, hop, energy);
    }
}

uint32_t bl_speed_at(const bl_speed_track *track, uint64_t place)
{
    uint64_t hops = (place << 8) / track->hop; /* 8 bits of fraction; hops have their middle */
    uint32_t index, part;
    if (hops < 128) return track->speed[0];
    index = (uint32_t)((hops - 128) >> 8), part = (uint32_t)(hops - 128) & 0xFF;
    if (index + 1 >= track->hops) return track->speed[track->hops - 1];
    return (track->speed[index] * (256 - part) + track->speed[index + 1] * part) >> 8;
}
