/* bench_tape.c - 'tape': how cassettes are recorded for the machine, and what its ROM can load. */
#include <glib.h>

#include "bench_read.h"

static yaml_node_t *node_of(reader *r, const char *key)
{
    return yaml_key(&r->yaml, yaml_key(&r->yaml, yaml_root(&r->yaml), "tape"), key);
}

/* Exactly two values, of a 0 and of a 1. */
static bool two(reader *r, const char *key, unsigned count)
{
    if (count == 2) return true;
    yaml_fault(&r->yaml, node_of(r, key), "of a 0 first, then of a 1",
               "'%s' has two values, and here are %u", key, count);
    return false;
}

static void take_tones(reader *r, const file_tape *f, bl_keying *k)
{
    if (f->tones_count == 0 || !two(r, "tones", f->tones_count)) return;
    for (unsigned v = 0; v < 2; v++) {
        uint64_t hz = 0;
        static const bench_measure hertz = {BL_HERTZ, "Hz"};
        if (bench_quantity(r, yaml_item(&r->yaml, node_of(r, "tones"), v), f->tones[v], &hertz, 200,
                           20000, &hz))
            k->hz[v] = (uint32_t)hz;
    }
}

/* "4", "0.5": halves of a cycle are what counts. */
static bool half_cycles(const char *text, uint16_t *halves)
{
    char *end;
    double cycles = g_ascii_strtod(text, &end);
    if (end == text || *end != '\0' || !(cycles >= 0.5 && cycles <= 32)) return false;
    *halves = (uint16_t)(cycles * 2);
    return *halves == cycles * 2;
}

static void take_waves(reader *r, const file_tape *f, bl_keying *k)
{
    if (f->cycles_count == 0 || !two(r, "cycles", f->cycles_count)) return;
    for (unsigned v = 0; v < 2; v++)
        if (!half_cycles(f->cycles[v], &k->half_cycles[v]))
            yaml_fault(&r->yaml, yaml_item(&r->yaml, node_of(r, "cycles"), v),
                       "0.5 to 32 cycles, in halves", "'%s' is no number of cycles", f->cycles[v]);
}

/* How long a bit lasts, instead of its cycles: to the nearest half cycle, if that is near. */
static void take_duration(reader *r, const file_tape *f, bl_keying *k)
{
    if (f->duration_count == 0 || !two(r, "duration", f->duration_count)) return;
    for (unsigned v = 0; v < 2; v++) {
        uint64_t ns = 0;
        yaml_node_t *at = yaml_item(&r->yaml, node_of(r, "duration"), v);
        if (!bench_quantity(r, at, f->duration[v], &bench_cycles, 25000, 160000000, &ns)) continue;
        uint64_t half = 500000000u / k->hz[v], halves = (ns + half / 2) / half;
        uint64_t off = ns > halves * half ? ns - halves * half : halves * half - ns;
        if (halves < 1 || halves > 64 || off * 50 > ns)
            yaml_fault(&r->yaml, at, "the tone changes where its wave crosses zero",
                       "%s is no whole number of half cycles of %lu Hz", f->duration[v],
                       (unsigned long)k->hz[v]);
        else
            k->half_cycles[v] = (uint16_t)halves;
    }
}

/* One of some words; the index of it. */
static unsigned word_among(reader *r, const char *key, const char *text, const char *const *words,
                           const char *hint)
{
    for (unsigned i = 0; words[i] != NULL; i++)
        if (strcmp(text, words[i]) == 0) return i;
    yaml_fault(&r->yaml, node_of(r, key), hint, "'%s' is no %s", text, key);
    return 0;
}

static void take_bit_frame(reader *r, const file_tape *f, bl_keying *k)
{
    static const char *const parities[] = {"none", "even", "odd", NULL};
    static const char *const orders[] = {"low-first", "high-first", NULL};
    static const char *const rests[] = {"1", "0", NULL};
    uint32_t bits = k->data_bits, stops = k->stop_bits;
    if (f->data_bits != NULL) bench_number(r, node_of(r, "data_bits"), f->data_bits, 8, &bits);
    if (f->stop_bits != NULL) bench_number(r, node_of(r, "stop_bits"), f->stop_bits, 3, &stops);
    if (bits < 5)
        yaml_fault(&r->yaml, node_of(r, "data_bits"), NULL, "a byte has 5 to 8 data bits");
    if (stops < 1)
        yaml_fault(&r->yaml, node_of(r, "stop_bits"), NULL, "a byte has 1 to 3 stop bits");
    k->data_bits = (uint8_t)bits, k->stop_bits = (uint8_t)stops;
    if (f->parity != NULL)
        k->parity = (bl_parity)word_among(r, "parity", f->parity, parities, "none, even or odd");
    if (f->order != NULL)
        k->high_first = word_among(r, "order", f->order, orders, "low-first or high-first") == 1;
    if (f->rest != NULL)
        k->idle_low = word_among(r, "rest", f->rest, rests,
                                 "the bit whose tone the line rests at: 1 or 0") == 1;
}

static uint32_t milliseconds(reader *r, const char *key, const char *text, uint32_t usual)
{
    uint64_t ns = (uint64_t)usual * 1000000;
    static const bench_measure seconds = {BL_NANOSECONDS, "s"};
    if (text != NULL)
        bench_quantity(r, node_of(r, key), text, &seconds, 0, (uint64_t)600 * 1000000000, &ns);
    return (uint32_t)(ns / 1000000);
}

/* What a loader on the machine must know. */
static void define_keying(reader *r, const bl_keying *k)
{
    bench_define(r, g_strdup("board.tape.low_hz"), k->hz[0]);
    bench_define(r, g_strdup("board.tape.high_hz"), k->hz[1]);
    bench_define(r, g_strdup("board.tape.low_halves"), k->half_cycles[0]);
    bench_define(r, g_strdup("board.tape.high_halves"), k->half_cycles[1]);
}

/* ---- routines of the machine's ROM ---- */

static const char *const set_words[] = {"first-low", "first-high", "last-low", "last-high",
                                        "end-low",   "end-high",   "number"};

static void take_set(reader *r, yaml_node_t *node, const file_set *f, struct bench_set *set)
{
    uint32_t value = 0;
    bench_number(r, yaml_key(&r->yaml, node, "at"), f->at, UINT32_MAX, &set->at);
    for (unsigned i = 0; i < G_N_ELEMENTS(set_words); i++)
        if (strcmp(f->to, set_words[i]) == 0) {
            set->what = (bench_set_what)(BENCH_SET_FIRST_LOW + i);
            return;
        }
    if (bl_number_parse(bench_text(f->to), 255, &value) != BL_OK)
        yaml_fault(
            &r->yaml, yaml_key(&r->yaml, node, "to"),
            "first-low, first-high, last-low, last-high, end-low, end-high, number, or a byte",
            "'%s' is nothing that a place can be set to", f->to);
    set->what = BENCH_SET_NUMBER, set->value = (uint8_t)value;
}

static void take_routine(reader *r, const char *key, const file_routine *f, bench_routine *routine)
{
    yaml_node_t *node = node_of(r, key), *sets = yaml_key(&r->yaml, node, "set");
    yaml_node_t *uses = yaml_key(&r->yaml, node, "uses");
    if (f == NULL) return;
    routine->given = true;
    routine->shows = f->shows;
    bench_number(r, yaml_key(&r->yaml, node, "start"), f->start, UINT32_MAX, &routine->start);
    if (f->set_count > BENCH_SETS || f->uses_count > BENCH_USES) {
        yaml_fault(&r->yaml, node, NULL, "at most %d places are set, and %d ranges used",
                   BENCH_SETS, BENCH_USES);
        return;
    }
    for (unsigned i = 0; i < f->set_count; i++)
        take_set(r, yaml_item(&r->yaml, sets, i), &f->set[i], &routine->set[i]);
    for (unsigned i = 0; i < f->uses_count; i++)
        bench_range(r, yaml_item(&r->yaml, uses, i), f->uses[i], &routine->uses[i]);
    routine->set_count = f->set_count, routine->uses_count = f->uses_count;
}

/* ---- the recorder's counter ---- */

static void take_counter(reader *r, const file_tape *f, bench_tape *t)
{
    yaml_node_t *list = node_of(r, "counter");
    static const bench_measure seconds = {BL_NANOSECONDS, "s"};
    if (f->counter_count == 0) return;
    if (f->counter_count < 2 || f->counter_count > BENCH_MARKS) {
        yaml_fault(&r->yaml, list, "counter: [{at: 0 s, shows: 0}, {at: 600 s, shows: 168}]",
                   "a counter is described by 2 to %d places", BENCH_MARKS);
        return;
    }
    for (unsigned i = 0; i < f->counter_count; i++) {
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        uint64_t ns = 0;
        bench_quantity(r, yaml_key(&r->yaml, node, "at"), f->counter[i].at, &seconds, 0,
                       (uint64_t)36000 * 1000000000, &ns);
        bench_number(r, yaml_key(&r->yaml, node, "shows"), f->counter[i].shows, 99999,
                     &t->counter[i].shows);
        t->counter[i].at = ns / 1000;
        if (i > 0 && (t->counter[i].at <= t->counter[i - 1].at ||
                      t->counter[i].shows < t->counter[i - 1].shows))
            yaml_fault(&r->yaml, node, NULL, "times and counts must rise from place to place");
    }
    t->counter_count = f->counter_count;
}

bool bench_counter(const bench *b, uint64_t at, uint32_t *shows)
{
    const bench_tape *t = b != NULL ? &b->tape : NULL;
    if (t == NULL || t->counter_count < 2) return false;
    size_t i = 1;
    while (i + 1 < t->counter_count && t->counter[i].at < at)
        i++;
    const bench_mark *from = &t->counter[i - 1], *to = &t->counter[i];
    double part = ((double)at - (double)from->at) / (double)(to->at - from->at);
    double value = from->shows + part * ((double)to->shows - from->shows);
    *shows = value < 0 ? 0 : (uint32_t)(value + 0.5);
    return true;
}

/* Without the section: the Kansas City standard. */
void bench_take_tape(reader *r)
{
    const file_tape *f = r->file->tape;
    bench_tape *t = &r->b->tape;
    *t = (bench_tape){.keying = *bl_keying_standard(300),
                      .leader_ms = BENCH_TAPE_LEADER,
                      .gap_ms = BENCH_TAPE_GAP,
                      .start_ms = BENCH_TAPE_START};
    if (f == NULL) {
        define_keying(r, &t->keying);
        return;
    }
    t->given = true;
    if (f->baud != NULL) {
        uint32_t baud = 0;
        bool read = bench_number(r, node_of(r, "baud"), f->baud, 100000, &baud);
        const bl_keying *standard = read ? bl_keying_standard(baud) : NULL;
        if (read && standard == NULL)
            yaml_fault(&r->yaml, node_of(r, "baud"),
                       "another rate is described by 'tones' and 'cycles'",
                       "%lu baud is no standard: 300, 600, 1200, 2400", (unsigned long)baud);
        if (standard != NULL) t->keying = *standard;
    }
    take_tones(r, f, &t->keying);
    take_waves(r, f, &t->keying);
    take_duration(r, f, &t->keying);
    take_bit_frame(r, f, &t->keying);
    if (r->yaml.faults == 0 && bl_keying_check(&t->keying) != BL_OK)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, yaml_root(&r->yaml), "tape"),
                   "two tones that differ, and bits of which one is at most 8 times the other",
                   "this is no keying");
    t->leader_ms = milliseconds(r, "leader", f->leader, t->leader_ms);
    t->gap_ms = milliseconds(r, "gap", f->gap, t->gap_ms);
    t->start_ms = milliseconds(r, "start", f->start, t->start_ms);
    static const char *const firsts[] = {"bare", "records", NULL};
    if (f->first != NULL)
        t->records = word_among(r, "first", f->first, firsts, "bare or records") == 1;
    take_counter(r, f, t);
    take_routine(r, "save", f->save, &t->save);
    take_routine(r, "load", f->load, &t->load);
    define_keying(r, &t->keying);
}
