/* deck.c - a cassette recorder in virtual time. */
#include "deck.h"

enum {
    HYSTERESIS = 655, /* of 32,768: a fiftieth of full scale */
    RECORDED = 12000, /* what an output bit is on the tape */
    WINDING = 30,     /* times as fast as playing */
    BOTH_CORDS = 15,  /* what is left of the level */
};

void sim_deck_begin(sim_deck *d, uint64_t seed)
{
    *d = (sim_deck){.ear = true, .speed = 1000, .level = 1000};
    d->chance.state = d->seed = seed;
}

void sim_deck_spoil(sim_deck *d, const sim_deck_faults *f)
{
    if (f->speed != 0) d->speed = f->speed;
    if (f->level != 0) d->level = f->level;
    d->wow = f->wow, d->hiss = f->hiss, d->dropouts = f->dropouts;
    if (f->both_cords) d->ear = d->microphone = true;
}

void sim_deck_insert(sim_deck *d, sim_tape *tape)
{
    d->tape = tape;
    d->mode = SIM_DECK_STOPPED;
    d->begin = d->done = 0;
}

/* How far the tape is ahead by its wow, microseconds: the speed rises and falls evenly, 0.7 times a
 * second. */
static int64_t ahead(const sim_deck *d, uint64_t micros)
{
    const int64_t half = 714286;
    int64_t x = (int64_t)(micros % (uint64_t)half);
    int64_t bow = x * (half - x) / half * d->wow / 1000;
    return micros / (uint64_t)half % 2 == 0 ? bow : -bow;
}

/* The sample that passes the head at a moment. */
static uint64_t passing(const sim_deck *d, uint64_t now)
{
    if (d->mode == SIM_DECK_STOPPED) return d->begin;
    uint64_t micros = (now - d->since) / 1000;
    micros += (uint64_t)ahead(d, micros);
    return d->begin + micros * d->tape->rate / 1000 * d->speed / 1000000;
}

/* Is this sample in a dropout? One lies in each stretch of so many seconds. */
static bool dropped(const sim_deck *d, uint64_t sample)
{
    if (d->dropouts == 0) return false;
    uint64_t stretch = (uint64_t)d->dropouts * d->tape->rate, length = d->tape->rate / 25;
    uint64_t which = sample / stretch, within = sample % stretch;
    uint64_t at = (which * 2654435761u + d->seed) % (stretch - length);
    return within >= at && within < at + length;
}

static int32_t played(sim_deck *d, uint64_t sample)
{
    int32_t value = sample < d->tape->count ? d->tape->samples[sample] : 0;
    value = value * d->level / 1000;
    if (dropped(d, sample)) value /= 50;
    if (d->hiss != 0)
        value += (int32_t)(sim_chance_next(&d->chance) % (2u * d->hiss + 1)) - d->hiss;
    return d->microphone ? value * BOTH_CORDS / 1000 : value;
}

/* Plays or records up to a moment. The tape's end stops the deck. */
static void run(sim_deck *d, uint64_t now)
{
    if (d->mode == SIM_DECK_STOPPED) return;
    uint64_t to = passing(d, now);
    bool ended = to >= d->tape->room;
    if (ended) to = d->tape->room;
    for (; d->done < to; d->done++) {
        if (d->mode == SIM_DECK_RECORDING) {
            int16_t value = d->microphone ? (d->output ? RECORDED : -RECORDED) : 0;
            d->tape->samples[d->done] = value; /* without a cord what was there is gone, too */
            if (d->done >= d->tape->count) d->tape->count = d->done + 1;
            continue;
        }
        int32_t value = played(d, d->done);
        if (value > HYSTERESIS) d->high = true;
        if (value < -HYSTERESIS) d->high = false;
    }
    if (!ended) return;
    d->begin = to;
    d->mode = SIM_DECK_STOPPED;
}

bool sim_deck_press(sim_deck *d, sim_deck_mode mode, uint64_t now)
{
    run(d, now);
    if (d->mode != SIM_DECK_STOPPED) d->begin = d->done;
    d->mode = SIM_DECK_STOPPED;
    if (mode == SIM_DECK_STOPPED) return true;
    if (d->tape == NULL) return false;
    /* Samples between what was recorded and a place further on are silence. */
    for (; mode == SIM_DECK_RECORDING && d->tape->count < d->begin; d->tape->count++)
        d->tape->samples[d->tape->count] = 0;
    d->mode = mode, d->since = now, d->done = d->begin;
    return true;
}

uint64_t sim_deck_wind(sim_deck *d, uint32_t seconds, uint64_t now)
{
    sim_deck_press(d, SIM_DECK_STOPPED, now);
    if (d->tape == NULL) return 0;
    uint64_t to = (uint64_t)seconds * d->tape->rate, from = d->begin;
    if (to > d->tape->room) to = d->tape->room;
    d->begin = d->done = to;
    return (to > from ? to - from : from - to) * 1000 / d->tape->rate * 1000000 / WINDING;
}

uint32_t sim_deck_place(sim_deck *d, uint64_t now)
{
    run(d, now);
    if (d->tape == NULL) return 0;
    return (uint32_t)((d->mode == SIM_DECK_STOPPED ? d->begin : d->done) / d->tape->rate);
}

bool sim_deck_hear(sim_deck *d, uint64_t now)
{
    run(d, now);
    return d->ear && d->mode == SIM_DECK_PLAYING ? d->high : d->microphone && d->ear && d->output;
}

void sim_deck_say(sim_deck *d, uint64_t now, bool high)
{
    run(d, now);
    d->output = high;
}

/* ---- as a port ---- */

static bool press_deck(void *context, bl_deck_key key)
{
    sim_deck *d = context;
    sim_deck_mode mode = key == BL_DECK_PLAY     ? SIM_DECK_PLAYING
                         : key == BL_DECK_RECORD ? SIM_DECK_RECORDING
                                                 : SIM_DECK_STOPPED;
    return sim_deck_press(d, mode, *d->clock);
}

static void wind_to(void *context, uint32_t place)
{
    sim_deck *d = context;
    sim_deck_wind(d, place, *d->clock);
}

static uint32_t place_now(void *context)
{
    sim_deck *d = context;
    return sim_deck_place(d, *d->clock);
}

bl_deck sim_deck_port(sim_deck *d, const uint64_t *clock)
{
    d->clock = clock;
    return (bl_deck){d, press_deck, wind_to, place_now};
}
