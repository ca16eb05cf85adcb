/* A run of the simulated bench that is cut at any nanosecond and goes on from what was saved is the
 * run that was not cut: every board, every device, in the middle of bytes and of commands. */
#include <glib.h>
#include <string.h>

#include "bootlace/frame.h"
#include "bootlace/imagefile.h"
#include "host_support.h"
#include "sim/state.h"

/* What the PC says, and when; the end of a run, in nanoseconds. */
typedef struct script {
    const char *folder;
    const char *text;
    uint64_t first, step, end;
} script;

#define MS 1000000u
static const script scripts[] = {
    {"skerry-65", NULL, 9 * MS, 601234, 60 * MS},
    {"skerry-80", NULL, 9 * MS, 601234, 60 * MS},
    {"skerry-85", NULL, 9 * MS, 601234, 60 * MS},
    {"skerry-68", NULL, 9 * MS, 601234, 60 * MS},
    {"bollard", "d 0200 0210\rw 0300 01 02\r", 9 * MS, 2500 * 1000, 90 * MS},
    {"thrift", "P0300D41D42P0300EE", 1 * MS, 9 * MS, 140 * MS},
    {"cleat", "0300=17 20\r0300,2\r", 9 * MS, 5 * MS, 140 * MS},
    {"purser", "1\r0300\r0310\r", 9 * MS, 5 * MS, 160 * MS},
    {"petrel", "PPPPPPPPPPPPPPPP", 9 * MS, 2 * MS, 60 * MS},
};

/* Something for Eyelet to answer: a whole greeting, then the beginning of another. */
static size_t words_of(const script *w, uint8_t *bytes, size_t capacity)
{
    if (w->text != NULL) {
        size_t n = strlen(w->text);
        memcpy(bytes, w->text, n);
        return n;
    }
    bl_frame frame = {.kind = 1, .sequence = 3};
    uint8_t wire[BL_FRAME_WIRE];
    size_t n = bl_frame_encode(&frame, wire), half = n / 2;
    CHECK(n + half <= capacity);
    memcpy(bytes, wire, n);
    memcpy(bytes + n, wire, half);
    return n + half;
}

static simulation *open_board(const bench *b, const char *folder)
{
    simulation *s = NULL;
    project *p = NULL;
    uint32_t used;
    if (simulation_open(b, test_path(folder), 1, NULL, &test_sink, &s) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_OK);
    for (size_t i = 0; i < b->chip_count && p->chips != NULL; i++)
        bl_chip_contents(&b->chips[i], p->chips, s->cells[i], &used);
    project_close(p);
    return s;
}

/* Runs from now until a moment, saying what is due and keeping what comes back. */
static void run(simulation *s, const script *w, uint64_t from, uint64_t until, GByteArray *came)
{
    uint8_t words[80], byte;
    size_t count = words_of(w, words, sizeof words);
    for (size_t i = 0; i < count; i++) {
        uint64_t at = w->first + i * w->step;
        if (at < from || at >= until) continue;
        sim_bench_run(&s->sim, at);
        CHECK(sim_wire_put(&s->sim.board_line.from_pc, at, words[i]));
        if (i + 1 == count) CHECK(sim_wire_break(&s->sim.board_line.from_pc, at, 20000000));
    }
    sim_bench_run(&s->sim, until);
    while (sim_wire_take(&s->sim.board_line.to_pc, until, &byte))
        g_byte_array_append(came, &byte, 1);
}

/* ---- the state, out of one bench and into another ---- */

typedef struct copy {
    GByteArray *all;
    size_t at;
} copy;

static void out_number(void *context, const char *group, const char *name, void *field, size_t n)
{
    (void)group, (void)name;
    g_byte_array_append(((copy *)context)->all, field, (guint)n);
}

static void out_row(void *context, const char *group, const char *name, uint8_t *bytes, size_t n)
{
    out_number(context, group, name, bytes, n);
}

static void in_number(void *context, const char *group, const char *name, void *field, size_t n)
{
    copy *c = context;
    (void)group, (void)name;
    CHECK(c->at + n <= c->all->len);
    memcpy(field, c->all->data + c->at, n);
    c->at += n;
}

static void in_row(void *context, const char *group, const char *name, uint8_t *bytes, size_t n)
{
    in_number(context, group, name, bytes, n);
}

/* The name of the number at an offset of a state, for messages. */
typedef struct finder {
    size_t offset, at;
    char name[80];
} finder;

static void find_number(void *context, const char *group, const char *name, void *field, size_t n)
{
    finder *f = context;
    (void)field;
    if (f->offset >= f->at && f->offset < f->at + n)
        g_snprintf(f->name, sizeof f->name, "%s.%s", group, name);
    f->at += n;
}

static void find_row(void *context, const char *group, const char *name, uint8_t *bytes, size_t n)
{
    find_number(context, group, name, bytes, n);
}

/* What the first difference is. */
static const char *difference(simulation *s, const GByteArray *a, const GByteArray *b)
{
    static finder f;
    size_t i = 0;
    while (i < a->len && i < b->len && a->data[i] == b->data[i])
        i++;
    f = (finder){.offset = i, .name = "ram"};
    sim_state_visit visit = {&f, find_number, find_row};
    sim_state_board(&s->sim, &visit);
    return f.name;
}

static GByteArray *state_of(simulation *s)
{
    copy c = {g_byte_array_new(), 0};
    sim_state_visit visit = {&c, out_number, out_row};
    sim_state_board(&s->sim, &visit);
    g_byte_array_append(c.all, s->sim.board.ram, sizeof s->sim.board.ram);
    return c.all;
}

/* Another bench takes over, as a new process does after loading. */
static void take_over(simulation *to, GByteArray *state, uint64_t now, bool started)
{
    copy c = {state, 0};
    sim_state_visit visit = {&c, in_number, in_row};
    sim_bench_power_on(&to->sim); /* whatever was there before */
    to->sim.now = now;
    to->sim.monitor.kind = NULL;
    if (to->sim.neighbour != NULL && !started) sim_bench_neighbour(&to->sim);
    sim_state_board(&to->sim, &visit);
    memcpy(to->sim.board.ram, state->data + c.at, sizeof to->sim.board.ram);
    CHECK(sim_state_loaded(&to->sim));
}

/* ---- the cases ---- */

static bool same(const GByteArray *a, const GByteArray *b)
{
    return a->len == b->len && (a->len == 0 || memcmp(a->data, b->data, a->len) == 0);
}

/* One run with three cuts: the state goes to and fro between two benches. */
static GByteArray *run_in_pieces(simulation *s[2], const script *w, GByteArray *begin,
                                 GByteArray *heard, uint64_t *last)
{
    uint64_t from = 0;
    take_over(s[0], begin, 0, false);
    for (unsigned k = 0; k < 3; k++) {
        simulation *now = s[k % 2];
        uint64_t chance = (uint64_t)test_random() << 16 ^ test_random();
        uint64_t cut = from + 1 + chance % (w->end - from - 3);
        run(now, w, from, cut, heard);
        GByteArray *state = state_of(now);
        take_over(s[(k + 1) % 2], state, cut,
                  now->sim.neighbour != NULL && now->sim.monitor.kind == NULL);
        g_byte_array_free(state, TRUE);
        from = cut;
    }
    run(s[1], w, from, w->end, heard);
    *last = from;
    return state_of(s[1]);
}

static void check_board(const script *w, unsigned turns)
{
    bench *b = example_bench_named(w->folder);
    simulation *s[2] = {open_board(b, "one"), open_board(b, "two")};
    GByteArray *came = g_byte_array_new();
    simulation_power_on(s[0]);
    GByteArray *begin = state_of(s[0]);
    run(s[0], w, 0, w->end, came);
    GByteArray *uncut = state_of(s[0]);
    CHECK(came->len > 10 || strcmp(w->folder, "petrel") == 0); /* something was said */
    for (unsigned i = 0; i < turns; i++) {
        GByteArray *heard = g_byte_array_new();
        uint64_t last;
        GByteArray *found = run_in_pieces(s, w, begin, heard, &last);
        if (!same(found, uncut))
            test_fail(__FILE__, __LINE__, "%s: turn %u, cut at %lu ns, ends with another %s",
                      w->folder, i, (unsigned long)last, difference(s[1], found, uncut));
        if (!same(heard, came))
            test_fail(__FILE__, __LINE__, "%s: turn %u, cut at %lu ns, says something else",
                      w->folder, i, (unsigned long)last);
        g_byte_array_free(found, TRUE);
        g_byte_array_free(heard, TRUE);
    }
    g_byte_array_free(begin, TRUE);
    g_byte_array_free(uncut, TRUE);
    g_byte_array_free(came, TRUE);
    simulation_close(s[0]);
    simulation_close(s[1]);
    bench_close(b);
}

/* 9 boards, 38 turns, 3 cuts each. */
TEST(a_run_that_is_cut_ends_as_one_that_is_not)
{
    for (size_t i = 0; i < sizeof scripts / sizeof scripts[0]; i++)
        check_board(&scripts[i], 38);
}

/* The same through the state folder, where the next command finds it. */
TEST(the_state_folder_keeps_what_is_under_way)
{
    for (size_t i = 0; i < sizeof scripts / sizeof scripts[0]; i++) {
        const script *w = &scripts[i];
        bench *b = example_bench_named(w->folder);
        GByteArray *came = g_byte_array_new(), *heard = g_byte_array_new();
        char *folder = g_strconcat("state-", w->folder, NULL);
        simulation *s = open_board(b, "whole");
        simulation_power_on(s);
        run(s, w, 0, w->end, came);
        GByteArray *uncut = state_of(s);
        simulation_close(s);
        s = open_board(b, folder);
        simulation_power_on(s);
        uint64_t from = 0;
        for (unsigned k = 0; k < 6; k++) {
            uint64_t cut = w->end / 8 * (k + 1) + test_below(1000000);
            run(s, w, from, cut, heard);
            CHECK_INT(simulation_save(s, &test_sink), BL_OK);
            simulation_close(s);
            CHECK_INT(simulation_open(b, test_path(folder), 1, NULL, &test_sink, &s), BL_OK);
            CHECK(s->sim.powered);
            from = cut;
        }
        run(s, w, from, w->end, heard);
        GByteArray *found = state_of(s);
        if (!same(found, uncut))
            test_fail(__FILE__, __LINE__, "%s ends with another %s", w->folder,
                      difference(s, found, uncut));
        CHECK(same(heard, came));
        simulation_close(s);
        g_byte_array_free(uncut, TRUE);
        g_byte_array_free(found, TRUE);
        g_byte_array_free(came, TRUE);
        g_byte_array_free(heard, TRUE);
        g_free(folder);
        bench_close(b);
    }
}
