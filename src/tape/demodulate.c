/* demodulate.c - works through a take piece by piece, with each keying that it may be. */
#include "bootlace/demodulate.h"

#include "base/core.h"
#include "tape/path.h"
#include "tape/sine.h"

enum {
    KEYINGS = 8,
    PIECE = 8000,    /* milliseconds, unless the config says */
    OVERLAP = 1000,  /* milliseconds to each side that are heard, and belong to a neighbour */
    PROBE = 1500,    /* milliseconds that decide which keying it is */
    EXPLAINED = 243, /* of 256: so much of the score there could be, and no other keying is tried */
    NEARLY = 95,
    NEARLY_FAINT = 78,  /* percent of the best */
    PERFECT = 250,      /* of 256: no more can be asked for */
    STEADY = 170,       /* of 256: so well is explained what has one level */
    CLEAR = 235,        /* of 256: of bytes where there seemed to be none */
    AUDIBLE = 64,       /* of 256: of a tone that goes on and on */
    FAINT = 112,        /* of 1024: less of the tones tells no speed */
    FAINT_PHASED = 450, /* the same where data have no steady part: a leader has */
    BELIEVED = 90,      /* of 256: less, and what sounds like bytes is noise */
};

struct bl_demodulator {
    bl_memory memory;
    bl_tape_listener listener;
    uint32_t rate;
    uint32_t piece, overlap; /* samples */
    bl_keying keyings[KEYINGS];
    size_t count, current;
    int32_t enough; /* of 256: what the current keying must explain */
    int16_t nco[1024];
    /* the sound: sums of `held` samples, of which the first is sample number `start` of the take */
    bl_high_pass filter;
    uint32_t *sums;
    uint32_t held, room;
    uint64_t start;
    uint64_t border; /* sample of the take up to which all is told */
    uint64_t after;  /* no byte begins before this one, 1/4096 of a sample */
    uint64_t next;   /* where the byte after that begins, which the next piece has; 0: none does */
    /* what one piece needs */
    bl_speed_bank banks[KEYINGS]; /* keyings of the same tones share the waves */
    bl_speed_track track;
    bl_tones tones;
    bl_path path;
};

static void *room_for(const bl_memory *m, uint64_t count, size_t size)
{
    if (count > SIZE_MAX / size) return NULL;
    return m->resize(m->context, NULL, (size_t)count * size);
}

/* The tones of a keying at all speeds, shared with an earlier one if that has the same. */
static bl_status allocate_bank(bl_demodulator *d, size_t index)
{
    for (size_t i = 0; i < index; i++)
        if (memcmp(d->keyings[i].hz, d->keyings[index].hz, sizeof d->keyings[i].hz) == 0) {
            d->banks[index] = d->banks[i];
            return BL_OK;
        }
    bl_speed_bank *bank = &d->banks[index];
    bank->wave = room_for(&d->memory, BL_SPEED_WAVES, BL_SPEED_HOP * sizeof *bank->wave);
    if (bank->wave == NULL) return BL_E_MEMORY;
    bl_speed_bank_fill(bank, d->keyings[index].hz);
    return BL_OK;
}

/* Everything for the largest piece: once, so that feeding never fails. */
static bl_status allocate(bl_demodulator *d)
{
    const bl_memory *m = &d->memory;
    bl_sound all = {.count = d->room, .rate = d->rate};
    uint32_t steps = 0;
    for (size_t i = 0; i < d->count; i++) {
        if (allocate_bank(d, i) != BL_OK) return BL_E_MEMORY;
        uint32_t hops = bl_speed_hops(&d->banks[i], &all);
        uint32_t need = bl_tones_room(&d->keyings[i], d->room, d->rate);
        uint32_t bytes = bl_path_room(&d->keyings[i], need);
        if (hops > d->track.room) d->track.room = hops;
        if (need > steps) steps = need;
        if (bytes > d->path.room) d->path.room = bytes;
    }
    uint64_t speeds = (uint64_t)d->track.room * BL_SPEEDS;
    d->sums = room_for(m, (uint64_t)d->room + 1, sizeof *d->sums);
    d->track.speed = room_for(m, d->track.room, sizeof *d->track.speed);
    d->track.purity = room_for(m, speeds, sizeof *d->track.purity);
    d->track.pure = room_for(m, d->track.room, sizeof *d->track.pure);
    d->track.from = room_for(m, speeds, 1);
    d->tones.place = room_for(m, steps, sizeof *d->tones.place);
    for (unsigned v = 0; v < 2; v++)
        d->tones.score[v] = room_for(m, steps, sizeof *d->tones.score[v]);
    d->tones.level = room_for(m, steps / BL_LEVEL_STEPS + 2, sizeof *d->tones.level);
    d->path.from = room_for(m, steps, BL_PATH_STATES);
    d->path.bytes = room_for(m, d->path.room, sizeof *d->path.bytes);
    return d->sums && d->track.speed && d->track.pure && d->track.purity && d->track.from &&
                   d->tones.place && d->tones.score[0] && d->tones.score[1] && d->tones.level &&
                   d->path.from && d->path.bytes
               ? BL_OK
               : BL_E_MEMORY;
}

bl_status bl_demodulator_open(const bl_memory *memory, const bl_demodulator_config *config,
                              bl_tape_listener listener, bl_demodulator **demodulator)
{
    uint32_t piece = config->piece != 0 ? config->piece : PIECE;
    *demodulator = NULL;
    if (config->count < 1 || config->count > KEYINGS || config->rate < 6000 ||
        config->rate > 384000 || piece < 500 || piece > 60000)
        return BL_E_RANGE;
    for (size_t i = 0; i < config->count; i++)
        if (bl_keying_check(&config->keyings[i]) != BL_OK) return BL_E_RANGE;
    bl_demodulator *d = memory->resize(memory->context, NULL, sizeof *d);
    if (d == NULL) return BL_E_MEMORY;
    *d = (bl_demodulator){.memory = *memory,
                          .listener = listener,
                          .rate = config->rate,
                          .count = config->count,
                          .enough = EXPLAINED};
    memcpy(d->keyings, config->keyings, config->count * sizeof *d->keyings);
    d->track.before = BL_SPEED_ONE;
    d->tones.follows = true;
    d->piece = (uint32_t)((uint64_t)d->rate * piece / 1000);
    d->overlap = (uint32_t)((uint64_t)d->rate * OVERLAP / 1000);
    d->room = d->piece + 2 * d->overlap;
    for (uint32_t i = 0; i < 1024; i++)
        d->nco[i] = (int16_t)(bl_sine((i + 256) << 22) >> 14);
    bl_high_pass_begin(&d->filter, d->rate);
    if (allocate(d) != BL_OK) {
        bl_demodulator_close(d);
        return BL_E_MEMORY;
    }
    d->sums[0] = 0;
    *demodulator = d;
    return BL_OK;
}

void bl_demodulator_close(bl_demodulator *d)
{
    if (d == NULL) return;
    const bl_memory m = d->memory;
    for (size_t i = 0; i < d->count; i++) {
        bool shared = false;
        for (size_t j = 0; j < i; j++)
            shared = shared || d->banks[j].wave == d->banks[i].wave;
        if (!shared) bl_release(&m, d->banks[i].wave);
    }
    void *blocks[] = {d->track.pure,     d->sums,        d->track.speed,    d->track.purity,
                      d->track.from,     d->tones.place, d->tones.score[0], d->tones.level,
                      d->tones.score[1], d->path.from,   d->path.bytes,     d};
    for (size_t i = 0; i < sizeof blocks / sizeof blocks[0]; i++)
        bl_release(&m, blocks[i]);
}

/* ---- a piece ---- */

/* Root mean square of the loudest fortieth of a second, for the gain. */
static uint32_t loudest(const uint32_t *sums, uint32_t count, uint32_t rate)
{
    uint32_t hop = rate / 40;
    uint64_t most = 0, root = 0;
    for (uint32_t i = 0; i < count; i += hop) {
        uint64_t energy = 0;
        for (uint32_t j = i; j < i + hop && j < count; j++) {
            int64_t x = (int32_t)(sums[j + 1] - sums[j]);
            energy += (uint64_t)(x * x);
        }
        if (energy > most) most = energy;
    }
    most /= hop;
    while ((root + 1) * (root + 1) <= most)
        root++;
    return (uint32_t)root;
}

/* The last step that is not after a place of the sound, 1/4096 of a sample. */
static uint32_t step_at(const bl_tones *tones, uint32_t place)
{
    uint32_t low = 0, high = tones->count;
    while (high - low > 1)
        if (tones->place[(low + high) / 2] <= place)
            low = (low + high) / 2;
        else
            high = (low + high) / 2;
    return low;
}

/* The step at which the byte begins that the piece before has announced. 0: none. A run of one
 * value fits more than one framing, and only what was before it tells which. */
static uint32_t step_of_next(const bl_demodulator *d, uint32_t first)
{
    uint64_t start = (d->start + first) << 12;
    if (d->next <= start) return 0;
    uint32_t place = (uint32_t)(d->next - start), low = step_at(&d->tones, place), high = low + 1;
    bool nearer =
        high < d->tones.count && d->tones.place[high] - place < place - d->tones.place[low];
    return high < d->tones.count ? low + nearer : 0;
}

/* Hears samples first to end - 1 of those held with one keying. */
static void hear(bl_demodulator *d, size_t keying, uint32_t first, uint32_t end)
{
    bl_sound sound = {d->sums + first, end - first, d->rate, 0};
    sound.loudest = loudest(sound.sums, sound.count, d->rate);
    d->track.hops = bl_speed_hops(&d->banks[keying], &sound);
    bl_pace_begin(&d->tones.pace, &d->keyings[keying]);
    d->track.faint = d->tones.pace.phased ? FAINT_PHASED : FAINT;
    bl_speed_follow(&d->banks[keying], &sound, &d->track);
    bl_tones_hear(&d->tones, &sound, &d->track, d->nco);
    bl_tones_judge(&d->tones);
    d->path.begins = keying == d->current && end == d->held ? step_of_next(d, first) : 0;
    bl_path_find(&d->path, &d->tones);
}

/* How well bytes first to end - 1 are explained, of 256. */
static int32_t explained(const bl_path *path, uint32_t first, uint32_t end)
{
    int32_t score = 0, expected = 0;
    for (uint32_t i = first; i < end; i++)
        score += path->bytes[i].score / 4, expected += path->bytes[i].expected / 4;
    return expected <= 0 ? 0 : score * 256 / expected;
}

/* Are the tones about as loud as each other where bytes are? */
static bool balanced(const bl_demodulator *d)
{
    if (d->path.first == d->path.room) return true;
    uint32_t middle = d->path.first + (d->path.room - d->path.first) / 2;
    const bl_level *l = &d->tones.level[d->path.bytes[middle].begin / BL_LEVEL_STEPS];
    return l->tone[0] * 9u > l->tone[1] * 5u && l->tone[1] * 9u > l->tone[0] * 5u;
}

/* Which keying it is that sounds from a sample on: the slowest of those that explain it nearly as
 * well as the best. Bits that are too short are four of the same where one should be, and explain
 * what is there not much worse; bits that are too long cannot. Where one tone is faint short bits
 * find it in what leaks over from the other, and explain more than the right ones. */
static size_t probe_as(bl_demodulator *d, uint32_t at, uint32_t end, bool follows, int32_t *most)
{
    int32_t score[KEYINGS], best = 0;
    size_t slowest = 0, found = d->count;
    bool even = true;
    for (size_t i = 1; i < d->count; i++)
        if (bl_keying_baud(&d->keyings[i]) < bl_keying_baud(&d->keyings[slowest])) slowest = i;
    d->tones.follows = follows;
    for (size_t i = 0; i < d->count; i++) {
        hear(d, i, at, end);
        score[i] = explained(&d->path, d->path.first, d->path.room);
        if (score[i] > PERFECT) score[i] = PERFECT;
        if (score[i] > best) best = score[i];
        if (i == slowest) even = balanced(d);
    }
    for (size_t i = 0; i < d->count; i++)
        if (score[i] * 100 > best * (even ? NEARLY : NEARLY_FAINT) &&
            (found == d->count ||
             bl_keying_baud(&d->keyings[i]) < bl_keying_baud(&d->keyings[found])))
            found = i;
    d->tones.follows = true;
    *most = best;
    return best > 0 ? found : d->current;
}

/* A level that is followed makes more of what is faint, also where it is noise or another rate: so
 * first as it is, and followed where that explains little. */
static size_t probe(bl_demodulator *d, uint32_t at, uint32_t end)
{
    int32_t plain, followed;
    size_t found = probe_as(d, at, end, false, &plain);
    if (plain >= STEADY) return found;
    size_t other = probe_as(d, at, end, true, &followed);
    return followed > plain ? other : found;
}

/* A byte that is all rest but for its first bits, with nothing near behind it, where a signal
 * begins: the click with which it does. */
static bool is_click(const bl_path *p, uint32_t i, bool idle_low)
{
    const bl_path_byte *b = &p->bytes[i];
    uint32_t length = b->stop - b->begin;
    unsigned busy = idle_low ? b->value : b->value ^ 0xFFu;
    if (b->joined || (busy & (busy + 1)) != 0 || busy > 7) return false;
    return i + 1 == p->room || p->bytes[i + 1].begin - b->begin > 8 * length;
}

/* Hears all that is held. Where no keying is known to be right, or it explains much less than it
 * did, all are tried where the first bytes are; or everywhere, if there is a tone and no byte. */
static void recognise(bl_demodulator *d)
{
    uint32_t before = d->rate / 4, length = (uint32_t)((uint64_t)d->rate * PROBE / 1000), at = 0;
    hear(d, d->current, 0, d->held);
    bool none = d->path.first == d->path.room;
    int64_t all = (int64_t)d->tones.count * BL_BIT_FULL;
    int32_t now = none ? (int32_t)(d->path.score * 256 / (all + 1))
                       : explained(&d->path, d->path.first, d->path.room);

    if (d->count == 1 || now >= d->enough || (none && now < AUDIBLE)) return;
    if (!none) {
        uint32_t first = d->path.first;
        if (first + 1 < d->path.room && is_click(&d->path, first, d->keyings[d->current].idle_low))
            first++;
        at = d->tones.place[d->path.bytes[first].begin] >> 12;
        at = at > before ? at - before : 0;
    }
    uint32_t end = !none && at + length < d->held ? at + length : d->held;
    size_t was = d->current;
    d->current = probe(d, at, end);
    hear(d, d->current, 0, d->held);
    now = explained(&d->path, d->path.first, d->path.room);
    if (none && now < CLEAR) { /* a leader in noise sounds like bytes now and then */
        d->current = was;
        hear(d, d->current, 0, d->held);
        return;
    }
    d->enough = now * 3 / 4 < EXPLAINED ? now * 3 / 4 : EXPLAINED;
}

static void tell_stretches(bl_demodulator *d, uint64_t from, uint64_t to)
{
    if (d->listener.stretch == NULL) return;
    for (uint32_t h = 0; h < d->track.hops; h++) {
        uint64_t at = d->start + (h * d->track.hop >> 32);
        uint64_t next = d->start + ((h + 1) * d->track.hop >> 32);
        if (at < from || at >= to) continue;
        uint32_t step = step_at(&d->tones, (uint32_t)(at - d->start) << 12);
        const bl_level *l = &d->tones.level[step / BL_LEVEL_STEPS];
        uint32_t peak = l->peak[0] > l->peak[1] ? l->peak[0] : l->peak[1];
        bl_tape_stretch told = {
            .at = at * 1000000 / d->rate,
            .length = (uint32_t)((next - at) * 1000000 / d->rate),
            .level = (uint16_t)((uint64_t)peak * d->tones.to_level / 1000),
            .speed =
                (uint16_t)(((uint64_t)d->track.speed[h] * 1000 + BL_SPEED_ONE / 2) / BL_SPEED_ONE),
            .purity = (uint8_t)(d->track.pure[h] * 100 / 1024),
        };
        d->listener.stretch(d->listener.context, &told);
    }
}

/* Where a step is in the take, 1/4096 of a sample. */
static uint64_t place_of(const bl_demodulator *d, uint32_t step)
{
    return (d->start << 12) + d->tones.place[step];
}

/* Tells the bytes that begin between two samples of the take. Bytes between two silences that are
 * badly explained together are noise. */
static void tell_bytes(bl_demodulator *d, uint64_t from, uint64_t to)
{
    const bl_path *p = &d->path;
    d->next = 0;
    for (uint32_t i = p->first, next; i < p->room; i = next) {
        for (next = i + 1; next < p->room && p->bytes[next].joined;)
            next++;
        if (explained(p, i, next) < BELIEVED) continue;
        for (uint32_t j = i; j < next; j++) {
            const bl_path_byte *b = &p->bytes[j];
            if (j == i && is_click(p, j, d->keyings[d->current].idle_low)) continue;
            uint64_t at = place_of(d, b->begin), stop = place_of(d, b->stop);
            bool follows = j > i && place_of(d, p->bytes[j - 1].begin) < to << 12;
            if (at >= to << 12 && follows) d->next = at;
            if (at < d->after || at + (stop - at) / 2 < from << 12 || at >= to << 12) continue;
            bl_tape_byte told = {.at = (at * 15625 / d->rate) >> 6, .value = b->value};
            told.length = (uint32_t)(((stop - at) * 15625 / d->rate) >> 6);
            told.certainty = b->certainty, told.framed = b->framed;
            told.keying = (uint8_t)d->current;
            memcpy(told.bit, b->bit, sizeof told.bit);
            d->after = at + (stop - at) / 2;
            if (d->listener.byte != NULL) d->listener.byte(d->listener.context, &told);
        }
    }
}

/* Works on what is held; tells what lies before sample `to` of the take. */
static void work_through(bl_demodulator *d, uint64_t to)
{
    if (d->held < d->rate / 100) return;
    recognise(d);
    tell_stretches(d, d->border, to);
    tell_bytes(d, d->border, to);
    if (d->track.hops > 0) /* the next piece begins an overlap before this one's end */
        d->track.before = bl_speed_at(
            &d->track, (to > d->start + d->overlap ? to - d->start - d->overlap : 0) << 32);
    d->border = to;
}

/* Makes room: what lies before the overlap of the next piece goes. */
static void slide(bl_demodulator *d)
{
    uint64_t keep = d->border > d->overlap ? d->border - d->overlap : 0;
    uint32_t gone = (uint32_t)(keep - d->start);
    memmove(d->sums, d->sums + gone, ((size_t)(d->held - gone) + 1) * sizeof *d->sums);
    d->held -= gone;
    d->start = keep;
}

void bl_demodulator_feed(bl_demodulator *d, const int16_t *samples, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        d->sums[d->held + 1] =
            d->sums[d->held] + (uint32_t)bl_high_pass_next(&d->filter, samples[i]);
        if (++d->held == d->room) {
            work_through(d, d->start + d->held - d->overlap);
            slide(d);
        }
    }
}

void bl_demodulator_end(bl_demodulator *d)
{
    work_through(d, d->start + d->held);
    d->start += d->held, d->held = 0;
}
