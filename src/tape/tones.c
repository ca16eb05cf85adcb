/* tones.c - correlates a piece of sound with the two tones. */
#include "tape/tones.h"

#include "base/core.h"

enum { RING = 256, /* steps whose sums are kept: the longest bit has 128 */ };

void bl_pace_begin(bl_pace *pace, const bl_keying *k)
{
    uint64_t ns[2];
    uint32_t higher = k->hz[0] > k->hz[1] ? k->hz[0] : k->hz[1];
    for (unsigned v = 0; v < 2; v++)
        ns[v] = bl_keying_bit_ns(k, v);
    uint64_t shorter = ns[0] < ns[1] ? ns[0] : ns[1];
    uint64_t steps_a_second = (BL_BIT_STEPS * (uint64_t)1000000000 + shorter / 2) / shorter;
    *pace = (bl_pace){.keying = k, .per_step = 1};
    while (steps_a_second * pace->per_step < 8 * (uint64_t)higher)
        pace->per_step++;
    pace->rate = (uint32_t)steps_a_second * pace->per_step;
    for (unsigned v = 0; v < 2; v++) /* less than a cycle of the other tone fits in */
        if (k->half_cycles[v] * k->hz[1 - v] < 2 * k->hz[v]) pace->phased = true;
    for (unsigned v = 0; v < 2; v++)
        pace->steps[v] = (uint32_t)((ns[v] * BL_BIT_STEPS + shorter / 2) / shorter);
}

/* Speeds reach down to 0.79: the sound is longer than at its nominal speed, by that. */
uint32_t bl_tones_room(const bl_keying *keying, uint32_t samples, uint32_t rate)
{
    bl_pace pace;
    bl_pace_begin(&pace, keying);
    uint64_t nominal = (uint64_t)samples * pace.rate / rate / pace.per_step;
    return (uint32_t)(nominal + nominal / 3) + 2 * BL_LEVEL_STEPS;
}

/* Near enough to the root of the sum of two squares: within 3 percent. */
static uint32_t magnitude(int32_t a, int32_t b)
{
    uint32_t x = (uint32_t)(a < 0 ? -a : a), y = (uint32_t)(b < 0 ? -b : b);
    uint32_t most = x > y ? x : y, least = x > y ? y : x;
    uint32_t slanted = most - (most >> 3) + (least >> 1);
    return slanted > most ? slanted : most;
}

/* The sums of the sound times each tone up to a step, and the phases there. */
typedef struct correlator {
    uint32_t sum[2][2][RING]; /* tone; cosine and sine; they wrap around */
    uint16_t phase[2][RING];  /* upper 10 bits */
    uint32_t now[2][2], at[2], turn[2];
} correlator;

static void correlator_begin(correlator *c, const bl_pace *pace)
{
    memset(c, 0, sizeof *c);
    for (unsigned tone = 0; tone < 2; tone++)
        c->turn[tone] = (uint32_t)(((uint64_t)pace->keying->hz[tone] << 32) / pace->rate);
}

static void correlator_mark(correlator *c, uint32_t step)
{
    for (unsigned tone = 0; tone < 2; tone++) {
        c->sum[tone][0][step % RING] = c->now[tone][0];
        c->sum[tone][1][step % RING] = c->now[tone][1];
        c->phase[tone][step % RING] = (uint16_t)(c->at[tone] >> 22);
    }
}

static void correlator_next(correlator *c, int32_t sample, const int16_t nco[1024])
{
    for (unsigned tone = 0; tone < 2; tone++) {
        uint32_t middle = (c->at[tone] + c->turn[tone] / 2) >> 22;
        c->now[tone][0] += (uint32_t)(sample * nco[middle]);
        c->now[tone][1] += (uint32_t)(sample * nco[(middle - 256) & 1023]);
        c->at[tone] += c->turn[tone];
    }
}

/* The amplitude of a tone over a bit that ends at a step. Where bits are so short that one is like
 * a piece of the other, only waves count that cross zero where the bit begins. */
static uint32_t correlator_amplitude(const correlator *c, const bl_pace *pace, unsigned tone,
                                     uint32_t end, const int16_t nco[1024])
{
    uint32_t begin = end - pace->steps[tone], samples = pace->steps[tone] * pace->per_step;
    int32_t part[2];
    for (unsigned i = 0; i < 2; i++)
        part[i] = (int32_t)(c->sum[tone][i][end % RING] - c->sum[tone][i][begin % RING]) /
                  (int32_t)samples;
    if (!pace->phased) return magnitude(part[0], part[1]) >> 9;
    unsigned phase = c->phase[tone][begin % RING];
    int32_t cosine = nco[phase], sine = nco[(phase - 256) & 1023];
    int32_t turned = ((part[1] / 32) * cosine - (part[0] / 32) * sine) / 32;
    return (uint32_t)(turned < 0 ? -turned : turned) >> 9;
}

static uint32_t root(uint32_t square)
{
    uint32_t r = 0;
    for (uint32_t bit = (uint32_t)1 << 15; bit != 0; bit >>= 1)
        if ((r | bit) * (r | bit) <= square) r |= bit;
    return r;
}

/* Keeps the amplitudes for now where the scores will stand. */
static void note_amplitudes(bl_tones *tones, const correlator *c, uint32_t end,
                            const int16_t nco[1024])
{
    for (unsigned tone = 0; tone < 2; tone++) {
        uint32_t steps = tones->pace.steps[tone];
        if (end < steps) continue;
        uint32_t amplitude = correlator_amplitude(c, &tones->pace, tone, end, nco);
        uint32_t begin = end - steps;
        tones->score[tone][begin] = (int16_t)(amplitude > INT16_MAX ? INT16_MAX : amplitude);
        bl_level *level = &tones->level[begin / BL_LEVEL_STEPS];
        if (amplitude > level->peak[tone]) level->peak[tone] = (uint16_t)amplitude;
    }
}

void bl_tones_hear(bl_tones *tones, const bl_sound *sound, const bl_speed_track *track,
                   const int16_t nco[1024])
{
    const bl_pace *pace = &tones->pace;
    uint32_t room = bl_tones_room(pace->keying, sound->count, sound->rate) - 1, step = 0;
    uint64_t nominal = ((uint64_t)sound->rate << 32) / pace->rate;
    uint64_t width = nominal, end = (uint64_t)sound->count << 32;
    uint32_t energy = 0;
    correlator c;
    bl_sound_reader reader;
    correlator_begin(&c, pace);
    bl_sound_read_from(&reader, sound, 0, nominal);
    memset(tones->level, 0, (size_t)(room / BL_LEVEL_STEPS + 1) * sizeof *tones->level);
    for (; reader.place < end && step < room; step++) {
        if (step % 8 == 0) width = (nominal << 16) / bl_speed_at(track, reader.place);
        correlator_mark(&c, step);
        tones->place[step] = (uint32_t)(reader.place >> 20);
        tones->score[0][step] = tones->score[1][step] = 0;
        note_amplitudes(tones, &c, step, nco);
        for (uint32_t i = 0; i < pace->per_step; i++) {
            int32_t sample = bl_sound_read(&reader, width);
            energy += (uint32_t)(sample * sample) / 16;
            correlator_next(&c, sample, nco);
        }
        if ((step + 1) % BL_LEVEL_STEPS == 0) {
            tones->level[step / BL_LEVEL_STEPS].energy =
                (uint16_t)root(energy / (BL_LEVEL_STEPS * pace->per_step / 16));
            energy = 0;
        }
    }
    tones->count = step;
    tones->to_level = bl_sound_level(&reader, nominal, 1000);
}

/* ---- levels ---- */

enum {
    AROUND = 24,    /* levels to each side that one is chosen from: 3072 steps, 192 bits */
    EVERY = 6,      /* levels for which one choice is good enough */
    NEAR = 4,       /* levels to each side whose energy counts */
    CLOSE = 1,      /* the same where the level is followed: 24 bits in all */
    FOLLOWED = 224, /* of 256: a tone that reaches so much of its level needs no other */
    DROPPED = 76,   /* less is a dropout */
    QUIETEST = 12,  /* an amplitude below this is none */
};

/* The value that three quarters of them do not reach over. */
static uint16_t upper_quarter(const bl_level *level, uint32_t first, uint32_t last, unsigned tone)
{
    uint16_t sorted[2 * AROUND + EVERY + 1];
    unsigned count = 0;
    for (uint32_t i = first; i <= last; i++) {
        unsigned j = count++;
        uint16_t value = level[i].peak[tone];
        for (; j > 0 && sorted[j - 1] > value; j--)
            sorted[j] = sorted[j - 1];
        sorted[j] = value;
    }
    return sorted[(count - 1) * 3 / 4];
}

/* A level is what its surroundings reach now and then, and not less than noise would. A tone that
 * does not occur here is taken to be somewhat weaker than the other. */
static void choose_levels(bl_tones *tones)
{
    uint32_t count = (tones->count + BL_LEVEL_STEPS - 1) / BL_LEVEL_STEPS;
    for (uint32_t i = 0; i < count; i += EVERY) {
        uint32_t first = i < AROUND ? 0 : i - AROUND;
        uint32_t last = i + AROUND + EVERY - 1 < count ? i + AROUND + EVERY - 1 : count - 1;
        uint16_t a[2];
        for (unsigned tone = 0; tone < 2; tone++)
            a[tone] = upper_quarter(tones->level, first, last, tone);
        for (unsigned tone = 0; tone < 2; tone++)
            if (a[tone] < a[1 - tone] / 4) a[tone] = (uint16_t)(a[1 - tone] / 4);
        for (uint32_t j = i; j < i + EVERY && j < count; j++)
            for (unsigned tone = 0; tone < 2; tone++)
                tones->level[j].tone[tone] = a[tone];
    }
}

static uint32_t energy_around(const bl_tones *tones, uint32_t i, uint32_t near)
{
    uint32_t count = (tones->count + BL_LEVEL_STEPS - 1) / BL_LEVEL_STEPS, energy = 0;
    uint32_t first = i < near ? 0 : i - near, last = i + near < count ? i + near : count - 1;
    for (uint32_t j = first; j <= last; j++)
        energy += tones->level[j].energy;
    return energy / (last - first + 1) * 15 / 16;
}

/* Where the tape is quieter for a while, or its level wavers, and what is there is the tones and
 * nothing else, the level is what they reach there: a dip is no silence. */
static void follow_level(bl_tones *tones)
{
    uint32_t count = (tones->count + BL_LEVEL_STEPS - 1) / BL_LEVEL_STEPS;
    for (uint32_t i = 0; i < count; i++) {
        uint32_t first = i < CLOSE ? 0 : i - CLOSE,
                 last = i + CLOSE < count ? i + CLOSE : count - 1;
        bl_level *l = &tones->level[i];
        uint32_t share = 0, most = 0, here = 0; /* of 256: what a tone reaches of its level */
        for (unsigned tone = 0; tone < 2; tone++) {
            uint32_t reached = upper_quarter(tones->level, first, last, tone);
            uint32_t part = l->tone[tone] > 0 ? reached * 256 / l->tone[tone] : 256;
            if (part > most) most = part;
            if (reached > here) here = reached, share = part; /* the louder one counts */
        }
        bool tonal = here >= QUIETEST * 2 && here >= energy_around(tones, i, CLOSE);
        if (most >= FOLLOWED || share < DROPPED || !tonal) continue;
        for (unsigned tone = 0; tone < 2; tone++)
            l->tone[tone] = (uint16_t)(l->tone[tone] * share / 256);
    }
}

static void raise_over_noise(bl_tones *tones)
{
    uint32_t count = (tones->count + BL_LEVEL_STEPS - 1) / BL_LEVEL_STEPS;
    for (uint32_t i = 0; i < count; i++) {
        uint32_t energy = energy_around(tones, i, NEAR);
        for (unsigned tone = 0; tone < 2; tone++) {
            uint16_t *a = &tones->level[i].tone[tone];
            if (*a < energy) *a = (uint16_t)energy;
            if (*a < QUIETEST) *a = QUIETEST;
        }
    }
}

/* ---- scores ---- */

enum { LEAST = -BL_BIT_FULL * 3 / 8 /* of a bit where nothing at all is heard */ };

/* How much likelier a tone of this level is than none, when so much of it is heard. */
static int32_t likelihood(uint32_t heard, uint32_t level)
{
    return (int32_t)((level * heard) >> 7) - (int32_t)((level * level) >> 8);
}

void bl_tones_judge(bl_tones *tones)
{
    uint32_t louder = 1, scale[2] = {0, 0}, level[2] = {0, 0};
    choose_levels(tones);
    if (tones->follows) follow_level(tones);
    raise_over_noise(tones);
    for (uint32_t t = 0; t < tones->count; t++) {
        if (t % BL_LEVEL_STEPS == 0) {
            const bl_level *l = &tones->level[t / BL_LEVEL_STEPS];
            louder = l->tone[0] > l->tone[1] ? l->tone[0] : l->tone[1];
            scale[0] = (256u << 12) / louder;
            for (unsigned v = 0; v < 2; v++)
                level[v] = l->tone[v] * 256u / louder;
        }
        int32_t score[2];
        for (unsigned v = 0; v < 2; v++) {
            uint32_t heard = ((uint32_t)tones->score[v][t] * scale[0]) >> 12;
            score[v] = likelihood(heard > 512 ? 512 : heard, level[v]);
        }
        int32_t better = score[0] > score[1] ? score[0] : score[1];
        int32_t lift = better < LEAST ? LEAST - better : 0;
        for (unsigned v = 0; v < 2; v++)
            tones->score[v][t] =
                (int16_t)((score[v] + lift) * (int32_t)tones->pace.steps[v] / BL_BIT_STEPS);
    }
}
