/* sim_past.c - moments that are remembered, and what was between them. */
#include "sim_past.h"

#include <stddef.h>
#include <string.h>

#include "bootlace/assert.h"
#include "sim_target.h"

enum { MOMENTS = 64, DENSE = 12 /* of the newest none is forgotten */ };
#define EVERY_NS 100000000u
#define CHUNK_NS 5000000u
#define NOWHERE  UINT64_MAX

struct sim_past {
    sim_bench *bench;
    bl_memory memory;
    sim_bench *moments[MOMENTS]; /* by time */
    size_t count;
    bool changed;   /* what follows cannot be worked out from the last of them */
    bool replaying; /* what happens now has happened before */
};

/* ---- remembering ---- */

static void release_moment(sim_past *p, size_t index)
{
    BL_ASSERT(index < p->count);
    p->memory.resize(p->memory.context, p->moments[index], 0);
    p->count--;
    memmove(&p->moments[index], &p->moments[index + 1], (p->count - index) * sizeof p->moments[0]);
}

/* Of those that are not among the newest the one that is missed least: the gap that it leaves is
 * the smallest for its age. The oldest is as far back as one can go, and stays. */
static void thin_out(sim_past *p)
{
    size_t best = 1;
    uint64_t now = p->moments[p->count - 1]->now, least = UINT64_MAX;
    for (size_t i = 1; i + DENSE < p->count; i++) {
        uint64_t gap = p->moments[i + 1]->now - p->moments[i - 1]->now;
        uint64_t age = now - p->moments[i]->now + 1, worth = gap * 1024 / (age / 1024 + 1);
        if (worth >= least) continue;
        least = worth;
        best = i;
    }
    release_moment(p, best);
}

/* As much of a bench as says something: its board is the last of it, and that board's memory. */
static size_t size_of(const sim_bench *b)
{
    return offsetof(sim_bench, board) + offsetof(sim_board, ram) + sim_board_ram(&b->board);
}

/* The bench as it is now; NULL: there is no memory. */
static sim_bench *copy_of(const sim_past *p)
{
    size_t size = size_of(p->bench);
    sim_bench *copy = p->memory.resize(p->memory.context, NULL, size);
    if (copy != NULL) memcpy(copy, p->bench, size);
    return copy;
}

static bl_status remember_now(sim_past *p)
{
    if (p->count == MOMENTS) thin_out(p);
    sim_bench *copy = copy_of(p);
    if (copy == NULL) return BL_E_MEMORY;
    p->moments[p->count++] = copy;
    p->changed = false;
    return BL_OK;
}

bl_status sim_past_open(sim_bench *bench, const bl_memory *memory, sim_past **past)
{
    sim_past *p = memory->resize(memory->context, NULL, sizeof *p);
    if (p == NULL) return BL_E_MEMORY;
    memset(p, 0, sizeof *p);
    p->bench = bench;
    p->memory = *memory;
    bl_status status = remember_now(p);
    if (status != BL_OK) {
        memory->resize(memory->context, p, 0);
        return status;
    }
    bench->past = p;
    *past = p;
    return BL_OK;
}

void sim_past_close(sim_past *p)
{
    if (p == NULL) return;
    p->bench->past = NULL;
    while (p->count > 0)
        release_moment(p, p->count - 1);
    bl_memory memory = p->memory;
    memory.resize(memory.context, p, 0);
}

void sim_past_changed(sim_past *p)
{
    if (!p->replaying) p->changed = true;
}

/* Without memory for another moment the past ends where it was last remembered: a change that is
 * not remembered would be worked out wrongly. */
void sim_past_look(sim_past *p)
{
    const sim_bench *b = p->bench;
    if (p->replaying) return;
    bool due = p->count == 0 || b->now - p->moments[p->count - 1]->now >= EVERY_NS;
    if (!p->changed && !due) return;
    if (remember_now(p) == BL_OK || !p->changed) return;
    while (p->count > 0)
        release_moment(p, p->count - 1);
}

/* ---- working out again ---- */

/* A replay counts the instructions from a moment on, up to a number of cycles, and looks for what
 * it is asked for. */
typedef struct replay {
    sim_past *past;
    uint64_t end;   /* cycles; not reached */
    uint64_t last;  /* stops before the instruction with this index */
    uint64_t index; /* of the instruction that is next */
    bl_back what;   /* VISIT or WRITE: what is looked for, at */
    uint32_t address;
    uint64_t found; /* the index where it was last; NOWHERE */
    bool waited;    /* the CPU did nothing since */
    /* of a history */
    void *visitor;
    void (*visit)(void *visitor, const bl_past_step *step);
    bl_past_step step;
    bl_register before[BL_PAST_REGISTERS * 3];
    size_t register_count;
    bool stepped; /* step is an instruction that was begun */
} replay;

/* What the user has set stays, whatever moment it is. */
typedef struct settings {
    sim_breakpoints breakpoints;
    sim_watchpoint watchpoints[SIM_WATCHPOINTS];
    size_t watchpoint_count;
    sim_watch watch;
} settings;

static void keep_settings(const sim_board *b, settings *s)
{
    s->breakpoints = b->breakpoints;
    memcpy(s->watchpoints, b->watchpoints, sizeof s->watchpoints);
    s->watchpoint_count = b->watchpoint_count;
    s->watch = b->watch;
}

static void put_settings(sim_board *b, const settings *s)
{
    b->breakpoints = s->breakpoints;
    memcpy(b->watchpoints, s->watchpoints, sizeof s->watchpoints);
    b->watchpoint_count = s->watchpoint_count;
    b->watch = s->watch;
    b->tracer = (sim_tracer){NULL, NULL};
    sim_board_map(b);
}

static void emit_step(replay *r);

/* Before each instruction: what has the one before done, and is this the one to stop at? */
static bool look_before(void *context)
{
    replay *r = context;
    const sim_board *b = &r->past->bench->board;
    if (r->what == BL_BACK_WRITE && b->access_count > 0 && r->index > 0) r->found = r->index - 1;
    if (r->visit != NULL) emit_step(r);
    if (b->cpu.cycles >= r->end || r->index == r->last) return false;
    if (sim_cpu_waits(b->kind, &b->cpu)) return true;
    if (r->what == BL_BACK_VISIT && sim_board_pc(b) == r->address) r->found = r->index;
    r->index++;
    return true;
}

static void drain(sim_line *line, uint64_t now)
{
    uint8_t byte;
    while (sim_wire_take(&line->to_pc, now, &byte))
        continue;
}

/* From a moment on, without what the user has set; what the machine says was heard already. */
static void run_again(sim_past *p, size_t moment, replay *r, bool watch_all)
{
    sim_bench *b = p->bench;
    memcpy(b, p->moments[moment], size_of(b));
    b->past = p;
    b->stop = BL_STOP_NOT;
    memset(&b->board.breakpoints, 0, sizeof b->board.breakpoints);
    b->board.watchpoint_count = b->board.access_count = 0;
    b->board.watch = (sim_watch){NULL, NULL};
    if (r->what == BL_BACK_WRITE || watch_all) {
        bl_range range =
            watch_all ? (bl_range){0, sim_board_space(&b->board)} : (bl_range){r->address, 1};
        b->board.watchpoints[0] = (sim_watchpoint){range, false, true};
        b->board.watchpoint_count = 1;
    }
    sim_board_map(&b->board);
    b->board.tracer = (sim_tracer){r, look_before};
    r->past = p;
    r->index = 0;
    r->found = NOWHERE;
    while (b->stop == BL_STOP_NOT) {
        sim_bench_run(b, b->now + CHUNK_NS);
        drain(&b->board_line, b->now);
        drain(&b->socket_line, b->now);
    }
    b->board.tracer = (sim_tracer){NULL, NULL};
}

static uint64_t start_of(const sim_past *p, size_t moment)
{
    return p->moments[moment]->board.cpu.cycles;
}

/* Where in the past something is: which moment it comes after, and how many instructions. */
typedef struct spot {
    size_t moment;
    uint64_t index;
} spot;

/* So many instructions before end, as far as the past goes. False: it does not go so far; *at is
 * then its beginning. */
static bool find_steps(sim_past *p, uint64_t end, uint64_t steps, spot *at)
{
    for (size_t i = p->count; i-- > 0; end = start_of(p, i)) {
        replay r = {.end = end, .last = NOWHERE, .what = BL_BACK_STEPS};
        if (start_of(p, i) >= end) continue;
        run_again(p, i, &r, false);
        *at = (spot){i, r.index >= steps ? r.index - steps : 0};
        if (r.index >= steps) return true;
        steps -= r.index;
    }
    return false;
}

/* The last visit or write before end. */
static bool find_last(sim_past *p, uint64_t end, bl_back what, uint32_t address, spot *at)
{
    for (size_t i = p->count; i-- > 0; end = start_of(p, i)) {
        replay r = {.end = end, .last = NOWHERE, .what = what, .address = address};
        if (start_of(p, i) >= end) continue;
        run_again(p, i, &r, false);
        *at = (spot){i, r.found};
        if (r.found != NOWHERE) return true;
    }
    return false;
}

/* The present, while the past is looked at. */
static bl_status leave_present(sim_past *p, sim_bench **present, settings *s)
{
    sim_past_look(p); /* what was changed last is a moment, too */
    if (p->count == 0) return BL_E_MEMORY;
    *present = copy_of(p);
    if (*present == NULL) return BL_E_MEMORY;
    keep_settings(&p->bench->board, s);
    p->replaying = true;
    return BL_OK;
}

static void return_to_present(sim_past *p, sim_bench *present)
{
    memcpy(p->bench, present, size_of(present));
    p->memory.resize(p->memory.context, present, 0);
    sim_board_map(&p->bench->board);
    p->replaying = false;
}

bl_status sim_past_back(sim_past *p, bl_back what, uint32_t number)
{
    sim_bench *present, *b = p->bench;
    settings s;
    spot at = {0, 0};
    bl_status status = leave_present(p, &present, &s);
    if (status != BL_OK) return status;
    uint64_t end = present->board.cpu.cycles;
    bool found = what == BL_BACK_STEPS ? number > 0 && find_steps(p, end, number, &at)
                                       : find_last(p, end, what, number, &at);
    if (!found) {
        return_to_present(p, present);
        return BL_E_NOT_FOUND;
    }
    replay r = {.end = end, .last = at.index, .what = BL_BACK_STEPS};
    run_again(p, at.moment, &r, false);
    put_settings(&b->board, &s);
    b->stop = BL_STOP_ASKED;
    p->memory.resize(p->memory.context, present, 0);
    /* What comes now comes anew. */
    while (p->count > 0 && start_of(p, p->count - 1) > b->board.cpu.cycles)
        release_moment(p, p->count - 1);
    p->replaying = false;
    return BL_OK;
}

/* ---- history ---- */

static size_t read_registers(const sim_board *b, bl_register *list, size_t capacity)
{
    size_t n = 0;
    for (size_t i = 0; i < b->kind->register_count && n < capacity; i++) {
        const sim_register *r = &b->kind->registers[i];
        const char *name = sim_target_register_name(r);
        if (name == NULL) continue;
        list[n++] = (bl_register){name, sim_target_register_bits(r),
                                  (uint32_t)sim_register_get(&b->cpu, r)};
    }
    return n;
}

/* The instruction that was begun is done: what is other now? The program counter always is. */
static void emit_step(replay *r)
{
    const sim_board *b = &r->past->bench->board;
    bl_register now[BL_PAST_REGISTERS * 3];
    size_t count = read_registers(b, now, BL_COUNT(now));
    bl_past_step *s = &r->step;
    if (r->stepped && !r->waited) {
        s->register_count = 0;
        for (size_t i = 0; i < count && s->register_count < BL_PAST_REGISTERS; i++)
            if (now[i].value != r->before[i].value && strcmp(now[i].name, "pc") != 0)
                s->changed[s->register_count++] = now[i];
        s->write_count = b->access_count;
        memcpy(s->writes, b->accesses, sizeof s->writes);
        r->visit(r->visitor, s);
    }
    r->stepped = true;
    r->waited = sim_cpu_waits(b->kind, &b->cpu);
    s->address = sim_board_pc(b);
    s->cycles = b->cpu.cycles;
    memcpy(r->before, now, sizeof now);
}

/* The steps in front of the first that is wanted are left out. */
typedef struct skipping {
    uint64_t left;
    void *visitor;
    void (*visit)(void *visitor, const bl_past_step *step);
} skipping;

static void visit_behind(void *context, const bl_past_step *step)
{
    skipping *s = context;
    if (s->left > 0)
        s->left--;
    else
        s->visit(s->visitor, step);
}

/* Each stretch from its moment on, so that what was done from outside is in it. */
bl_status sim_past_history(sim_past *p, uint32_t steps, void *visitor,
                           void (*visit)(void *visitor, const bl_past_step *step))
{
    sim_bench *present;
    settings s;
    spot at = {0, 0};
    bl_status status = leave_present(p, &present, &s);
    if (status != BL_OK) return status;
    uint64_t now = present->board.cpu.cycles;
    find_steps(p, now, steps, &at);
    for (size_t i = at.moment; i < p->count; i++) {
        uint64_t end = i + 1 < p->count && start_of(p, i + 1) < now ? start_of(p, i + 1) : now;
        replay r = {.end = end, .last = NOWHERE, .what = BL_BACK_STEPS};
        skipping skip = {i == at.moment ? at.index : 0, visitor, visit};
        if (start_of(p, i) >= end) continue;
        r.visitor = &skip;
        r.visit = visit_behind;
        run_again(p, i, &r, true);
    }
    return_to_present(p, present);
    return BL_OK;
}
