/* path.c - dynamic programming over steps and the bits of a byte (the algorithm of Viterbi).
 *
 * At each step the line is silent, at rest, or behind the first i bits of a byte. Each bit may be a
 * step shorter or longer than it should be, so the way keeps in time by itself.
 */
#include "tape/path.h"

#include "base/core.h"

enum {
    SILENT,
    REST,      /* between bytes */
    AFTER_BIT, /* + i - 1: behind i bits */
    /* how REST was reached */
    FROM_REST = 0,
    FROM_SILENCE,
    FROM_STOP,           /* + 0, 1, 2: the last stop bit, short, right, long */
    FROM_EARLY_STOP = 5, /* one stop bit less than there should be */
    FROM_REST_BIT,       /* + 0, 1, 2: a whole bit of rest, short, right, long */
    /* how a bit was reached: 0, 1, 2 short, right, long; + 4 when it is a 1 */
    IS_ONE = 4,
};
/* Ways are scored in sixteenths, so that one step of rest counts too. */
enum {
    BIT = BL_BIT_FULL * BL_BIT_STEPS,
    OUT_OF_TIME = BIT / 10,
    APPEAR = BIT * 3, /* silence ends, or begins */
    START = BIT / 2,  /* so that noise at rest is no start bit */
    EARLY = BIT / 16, /* there are recordings with a stop bit less than their standard has */
    /* Where bits are half a cycle every edge between two looks like the middle of a 1: what is
     * heard half a bit off is all rest, as likely as the bytes that are there. */
    BYTES_FIRST = BIT * 3 / 4,
    WINDOW = 256, /* steps whose scores are kept */
};
#define IMPOSSIBLE (-((int32_t)1 << 29))
#define HIGH       ((int32_t)1 << 20) /* all scores are lowered then */

uint32_t bl_path_room(const bl_keying *keying, uint32_t steps)
{
    uint8_t bits[BL_KEYING_MAX_BITS];
    unsigned least = bl_keying_bits(keying, 0, bits) - 1;
    return steps / (least * (BL_BIT_STEPS - 1)) + 2;
}

/* Which values a bit of a byte can have. */
typedef struct byte_form {
    unsigned bits;
    uint8_t first[BL_KEYING_MAX_BITS], last[BL_KEYING_MAX_BITS];
    int32_t steps[2];
    bool may_stop_early;
} byte_form;

static byte_form form_of(const bl_pace *pace)
{
    const bl_keying *k = pace->keying;
    uint8_t idle = k->idle_low ? 0 : 1;
    byte_form f = {.steps = {(int32_t)pace->steps[0], (int32_t)pace->steps[1]}};
    f.first[f.bits] = f.last[f.bits] = idle ^ 1, f.bits++;
    unsigned free = k->data_bits + (k->parity != BL_PARITY_NONE ? 1u : 0u);
    for (unsigned i = 0; i < free; i++)
        f.first[f.bits] = 0, f.last[f.bits] = 1, f.bits++;
    for (unsigned i = 0; i < k->stop_bits; i++)
        f.first[f.bits] = f.last[f.bits] = idle, f.bits++;
    f.may_stop_early = k->stop_bits > 1;
    return f;
}

enum {
    DATA = 12, /* states behind a bit: they are worked on together */
};

_Static_assert(AFTER_BIT + DATA == BL_PATH_STATES, "a row ends with the last of them");

typedef struct search {
    const bl_tones *tones;
    byte_form form;
    unsigned idle;
    int32_t best[WINDOW][BL_PATH_STATES]; /* the score of the best way to each state */
} search;

/* What a bit that ends at step t is worth, d steps longer than it should be. Where the phase counts
 * nothing else tells the speed, and bits out of time are nothing special. */
static int32_t worth(const search *s, unsigned v, uint32_t begin, int32_t d)
{
    int32_t cost = s->tones->pace.phased ? OUT_OF_TIME / 3 : OUT_OF_TIME;
    return s->tones->score[v][begin] * (BL_BIT_STEPS + d) - (d != 0 ? cost : 0);
}

/* The best way to be behind a bit of a value, which ends at step t. */
static int32_t best_bit(const search *s, unsigned v, unsigned state_before, uint32_t t,
                        uint8_t *way)
{
    int32_t most = IMPOSSIBLE;
    *way = 1;
    for (int32_t d = -1; d <= 1; d++) {
        int32_t begin = (int32_t)t - s->form.steps[v] - d;
        if (begin < 0) continue;
        int32_t score = s->best[begin % WINDOW][state_before] + worth(s, v, (uint32_t)begin, d);
        if (score > most) most = score, *way = (uint8_t)(d + 1);
    }
    return most;
}

/* Ways that come together behind a data bit, for each state they come from. */
typedef struct arrival {
    int32_t score[DATA], way[DATA];
} arrival;

static void arrive(arrival *a, const int32_t *from, int32_t bit, int32_t way)
{
    for (unsigned i = 0; i < DATA; i++) {
        int32_t score = from[i] + bit;
        a->way[i] = score > a->score[i] ? way : a->way[i];
        a->score[i] = score > a->score[i] ? score : a->score[i];
    }
}

/* The best ways to be behind a data bit, which ends at step t. Where a 0 is as long as a 1 only the
 * better of them need be looked at. */
static void arrive_data(const search *s, uint32_t t, arrival *a)
{
    bool alike = s->form.steps[0] == s->form.steps[1];
    for (unsigned i = 0; i < DATA; i++)
        a->score[i] = IMPOSSIBLE, a->way[i] = 1;
    for (unsigned v = 0; v < (alike ? 1u : 2u); v++)
        for (int32_t d = -1; d <= 1; d++) {
            int32_t begin = (int32_t)t - s->form.steps[v] - d;
            if (begin < 0) continue;
            unsigned value = v;
            if (alike) value = s->tones->score[1][begin] > s->tones->score[0][begin];
            arrive(a, s->best[begin % WINDOW] + AFTER_BIT, worth(s, value, (uint32_t)begin, d),
                   d + 1 + (value != 0 ? IS_ONE : 0));
        }
}

/* The best ways to be behind each bit of a byte at a step. Returns that of being behind the last.
 */
static int32_t best_bits(search *s, uint32_t t, uint8_t *from, uint8_t *way)
{
    arrival data;
    int32_t *now = s->best[t % WINDOW];
    unsigned last = s->form.bits - 1;
    arrive_data(s, t, &data);
    now[AFTER_BIT] = best_bit(s, s->form.first[0], REST, t, &from[AFTER_BIT]);
    now[AFTER_BIT] += s->tones->pace.phased ? BYTES_FIRST : -START;
    for (unsigned bit = 1; bit < last; bit++) {
        unsigned state = AFTER_BIT + bit;
        if (s->form.first[bit] == s->form.last[bit])
            now[state] = best_bit(s, s->form.first[bit], state - 1, t, &from[state]);
        else
            now[state] = data.score[bit - 1], from[state] = (uint8_t)data.way[bit - 1];
    }
    return best_bit(s, s->form.first[last], AFTER_BIT + last - 1, t, way);
}

/* The best ways to be silent and at rest at a step, when a last stop bit could end there. */
static void best_between(search *s, uint32_t t, uint8_t *from, int32_t stop, uint8_t way)
{
    int32_t *now = s->best[t % WINDOW];
    if (t == 0) {
        now[SILENT] = now[REST] = 0;
        from[SILENT] = from[REST] = FROM_REST;
        return;
    }
    const int32_t *before = s->best[(t - 1) % WINDOW];
    uint32_t half = s->tones->pace.steps[s->idle] / 2;
    int32_t tone = t > half ? s->tones->score[s->idle][t - 1 - half] : 0;
    int32_t rest = before[REST] + tone * BL_BIT_STEPS / (int32_t)s->tones->pace.steps[s->idle];
    unsigned last = s->form.bits - 1;
    from[REST] = FROM_REST;
    if (s->tones->pace.phased) { /* rest comes in bits; what is between them is out of time */
        uint8_t bit_way;
        int32_t bit = best_bit(s, s->idle, REST, t, &bit_way);
        rest = before[REST] - OUT_OF_TIME / 3;
        if (bit > rest) rest = bit, from[REST] = (uint8_t)(FROM_REST_BIT + bit_way);
    }
    if (stop >= rest) rest = stop, from[REST] = (uint8_t)(FROM_STOP + (way & 3));
    int32_t early = now[AFTER_BIT + last - 1] - (s->tones->pace.phased ? EARLY * 8 : EARLY);
    if (s->form.may_stop_early && early > rest) rest = early, from[REST] = FROM_EARLY_STOP;
    if (before[SILENT] - APPEAR > rest) rest = before[SILENT] - APPEAR, from[REST] = FROM_SILENCE;
    now[REST] = rest;
    now[SILENT] = before[SILENT], from[SILENT] = SILENT;
    if (before[REST] - APPEAR > now[SILENT])
        now[SILENT] = before[REST] - APPEAR, from[SILENT] = REST;
}

/* Scores stay small: all of the window is lowered together. Returns by how much. */
static int32_t lower_all(search *s, int32_t by)
{
    for (unsigned i = 0; i < WINDOW; i++)
        for (unsigned j = 0; j < BL_PATH_STATES; j++)
            if (s->best[i][j] > IMPOSSIBLE / 2) s->best[i][j] -= by;
    return by;
}

/* How sure a bit is: what its tone is ahead of the other, of what it should be ahead. */
static int certainty_of(const bl_tones *tones, uint32_t begin, unsigned value)
{
    const bl_level *l = &tones->level[begin / BL_LEVEL_STEPS];
    int32_t a = l->tone[0], b = l->tone[1], louder = a > b ? a : b;
    int32_t full =
        (a * a / louder + b * b / louder) * 128 / louder; /* of both tones, 256 at most */
    int32_t ahead =
        tones->score[value][begin] * BL_BIT_STEPS / (int32_t)tones->pace.steps[value] -
        tones->score[1 - value][begin] * BL_BIT_STEPS / (int32_t)tones->pace.steps[1 - value];
    int32_t percent = full <= 0 ? 0 : ahead * 100 / (2 * full);
    return percent < 0 ? 0 : percent > 100 ? 100 : (int)percent;
}

/* What a bit would score if it were as it should be. */
static int32_t expected_of(const bl_tones *tones, uint32_t begin, unsigned value)
{
    const bl_level *l = &tones->level[begin / BL_LEVEL_STEPS];
    uint32_t louder = l->tone[0] > l->tone[1] ? l->tone[0] : l->tone[1];
    uint32_t level = l->tone[value] * 256u / louder;
    return (int32_t)((level * level) >> 8) * (int32_t)tones->pace.steps[value] / BL_BIT_STEPS;
}

/* Goes back over the bits of a byte, the last of which was reached in a way. Returns where it
 * begins. */
static uint32_t trace_byte(const search *s, const bl_path *path, uint32_t t, unsigned last,
                           uint8_t way, bl_path_byte *byte)
{
    const bl_keying *k = s->tones->pace.keying;
    unsigned ones = 0, parity = 0;
    int weakest = 100;
    *byte = (bl_path_byte){.framed = true};
    for (unsigned bit = last;; bit--) {
        unsigned v = s->form.first[bit] == s->form.last[bit] ? s->form.first[bit]
                     : way & IS_ONE                          ? 1
                                                             : 0;
        t -= (uint32_t)(s->form.steps[v] + (way & 3) - 1);
        int sure = certainty_of(s->tones, t, v);
        byte->score = (int16_t)(byte->score + s->tones->score[v][t]);
        if ((way & 3) != 1) byte->score = (int16_t)(byte->score - OUT_OF_TIME / BL_BIT_STEPS);
        byte->expected = (int16_t)(byte->expected + expected_of(s->tones, t, v));
        if (bit == 0 || bit > (unsigned)k->data_bits + (k->parity != BL_PARITY_NONE)) {
            if (s->tones->score[1 - v][t] > s->tones->score[v][t]) byte->framed = false;
        } else if (bit > k->data_bits) {
            parity = v;
        } else {
            unsigned place = k->high_first ? k->data_bits - bit : bit - 1;
            byte->value = (uint8_t)(byte->value | v << place);
            byte->bit[place] = (int8_t)(v ? sure : -sure);
            ones += v;
            if (sure < weakest) weakest = sure;
        }
        if (s->form.first[bit] != s->form.last[bit] && byte->stop == 0)
            byte->stop = t + (uint32_t)s->form.steps[v];
        if (bit == 0) break;
        way = path->from[(size_t)t * BL_PATH_STATES + AFTER_BIT + bit - 1];
    }
    if (k->parity != BL_PARITY_NONE && ((ones + parity) & 1) != (k->parity == BL_PARITY_ODD))
        byte->framed = false;
    byte->begin = t;
    byte->certainty = (uint8_t)weakest;
    return t;
}

/* The sound may end within a byte. Were that worth less than an end between two, a run of one value
 * would be framed so that it ends well. Returns where that byte begins; the state there is rest. */
static uint32_t leave_begun(const search *s, const bl_path *path, uint32_t t, unsigned state)
{
    for (unsigned bit = state - AFTER_BIT + 1; bit > 0; bit--) {
        unsigned at = bit - 1;
        uint8_t way = path->from[(size_t)t * BL_PATH_STATES + AFTER_BIT + at];
        unsigned v =
            s->form.first[at] == s->form.last[at] ? s->form.first[at] : (way & IS_ONE) != 0;
        t -= (uint32_t)(s->form.steps[v] + (way & 3) - 1);
    }
    return t;
}

static unsigned best_state(const search *s, uint32_t t)
{
    const int32_t *end = s->best[t % WINDOW];
    unsigned best = end[REST] > end[SILENT] ? REST : SILENT;
    for (unsigned bit = 0; bit + 1 < s->form.bits; bit++)
        if (end[AFTER_BIT + bit] > end[best]) best = AFTER_BIT + bit;
    return best;
}

static void trace_back(const search *s, bl_path *path)
{
    uint32_t t = s->tones->count - 1;
    unsigned state = best_state(s, t);
    if (state >= AFTER_BIT) t = leave_begun(s, path, t, state), state = REST;
    path->first = path->room;
    while (t > 0) {
        uint8_t way = path->from[(size_t)t * BL_PATH_STATES + state];
        if (state == SILENT) {
            state = way == REST ? REST : SILENT, t--;
        } else if (way == FROM_REST) {
            t--;
        } else if (way >= FROM_REST_BIT) {
            t -= s->tones->pace.steps[s->idle] + (uint32_t)(way - FROM_REST_BIT) - 1;
        } else if (way == FROM_SILENCE) {
            if (path->first < path->room) path->bytes[path->first].joined = false;
            state = SILENT, t--;
        } else {
            unsigned last = s->form.bits - (way == FROM_EARLY_STOP ? 2u : 1u);
            if (way == FROM_EARLY_STOP)
                way = path->from[(size_t)t * BL_PATH_STATES + AFTER_BIT + last];
            else
                way = (uint8_t)(way - FROM_STOP);
            if (path->first == 0) return;
            t = trace_byte(s, path, t, last, way, &path->bytes[--path->first]);
            path->bytes[path->first].joined = true;
        }
    }
    if (path->first < path->room) path->bytes[path->first].joined = false;
}

/* Before the step at which a byte is known to begin: nothing else can be. */
static void wait_for_byte(search *s, uint32_t t, uint8_t *from, bool last)
{
    int32_t *now = s->best[t % WINDOW];
    for (unsigned i = 0; i < BL_PATH_STATES; i++)
        now[i] = IMPOSSIBLE, from[i] = SILENT;
    now[SILENT] = 0;
    if (last) now[REST] = 0, from[REST] = t == 0 ? FROM_REST : FROM_SILENCE;
}

void bl_path_find(bl_path *path, const bl_tones *tones)
{
    search s;
    s.tones = tones, s.form = form_of(&tones->pace), s.idle = tones->pace.keying->idle_low ? 0 : 1;
    path->first = path->room, path->score = 0;
    if (tones->count == 0) return;
    for (unsigned i = 0; i < WINDOW; i++)
        for (unsigned j = 0; j < BL_PATH_STATES; j++)
            s.best[i][j] = IMPOSSIBLE;
    for (uint32_t t = 0; t < tones->count; t++) {
        uint8_t *from = path->from + (size_t)t * BL_PATH_STATES;
        uint8_t way;
        if (t < path->begins) { /* a byte of before, whose framing goes on */
            wait_for_byte(&s, t, from, t + 1 == path->begins);
            continue;
        }
        int32_t stop = best_bits(&s, t, from, &way);
        best_between(&s, t, from, stop, way);
        if (s.best[t % WINDOW][REST] > HIGH) path->score += lower_all(&s, HIGH);
    }
    path->score += s.best[(tones->count - 1) % WINDOW][best_state(&s, tones->count - 1)];
    trace_back(&s, path);
}
