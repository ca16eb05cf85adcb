/* state.c - walking over what a bench holds. */
#include "state.h"

#include <stdio.h>
#include <string.h>

typedef struct walk {
    const sim_state_visit *visit;
    const char *group;
} walk;

static void visit_number(const walk *w, const char *name, void *field, size_t bytes)
{
    w->visit->number(w->visit->context, w->group, name, field, bytes);
}

#define NUMBER(w, object, field) visit_number(w, #field, &(object)->field, sizeof((object)->field))

/* Anything but 0 is true: a bool that holds something else may be taken for both. */
static void visit_flag(const walk *w, const char *name, bool *field)
{
    uint8_t value = *field;
    visit_number(w, name, &value, sizeof value);
    *field = value != 0;
}

#define FLAG(w, object, field) visit_flag(w, #field, &(object)->field)

/* A row of numbers is named name0, name1, ... */
static void numbered(const walk *w, const char *name, unsigned index, void *field, size_t bytes)
{
    char full[40];
    snprintf(full, sizeof full, "%s%u", name, index);
    visit_number(w, full, field, bytes);
}

/* The head that all CPUs share, then the registers of the kind that are not in it. */
static void visit_cpu(sim_board *b, const sim_state_visit *v)
{
    walk w = {v, "cpu"};
    sim_cpu *c = &b->cpu;
    NUMBER(&w, c, cycles);
    FLAG(&w, c, irq);
    FLAG(&w, c, nmi);
    FLAG(&w, c, rest);
    FLAG(&w, c, special);
    for (unsigned i = 0; i < sizeof c->line; i++)
        numbered(&w, "line", i, &c->line[i], 1);
    for (size_t i = 0; i < b->kind->register_count; i++) {
        const sim_register *r = &b->kind->registers[i];
        if (r->offset < sizeof *c && r->offset != offsetof(sim_cpu, pc)) continue; /* above */
        uint8_t *field = (uint8_t *)c + r->offset;
        if (r->flag)
            visit_flag(&w, r->name, (bool *)field);
        else
            visit_number(&w, r->name, field, r->bytes);
    }
}

/* The section of a device: that of its kind; a second one of the kind has its own. */
static void device_group(const sim_board *b, unsigned index, char *group, size_t capacity)
{
    const sim_device_kind *kind = b->devices[index].kind;
    unsigned before = 0;
    for (unsigned i = 0; i < index && !kind->numbered; i++)
        before += b->devices[i].kind == kind;
    if (before == 0)
        snprintf(group, capacity, "%s", kind->group);
    else
        snprintf(group, capacity, "%s%u", kind->group, before + 1);
}

static void device(sim_board *b, unsigned index, const sim_state_visit *v)
{
    char group[40];
    sim_device *d = &b->devices[index];
    walk w = {v, group};
    device_group(b, index, group, sizeof group);
    for (const sim_device_field *f = d->kind->fields; f->name != NULL; f++) {
        void *field = d->state.bytes + f->offset;
        if (d->kind->numbered)
            numbered(&w, f->name, index, field, f->bytes);
        else if (f->form == SIM_FIELD_ROW)
            v->row(v->context, group, f->name, field, f->bytes);
        else if (f->form == SIM_FIELD_FLAG)
            visit_flag(&w, f->name, field);
        else
            visit_number(&w, f->name, field, f->bytes);
    }
}

/* Bytes under way, from the one that arrives first. */
static void visit_wire(sim_wire *x, const char *name, const sim_state_visit *v)
{
    walk w = {v, name};
    NUMBER(&w, x, free_at);
    NUMBER(&w, x, fraction);
    NUMBER(&w, x, count);
    if (x->count > SIM_WIRE_ROOM) return; /* loaded, and wrong: sim_state_loaded tells */
    for (unsigned i = 0; i < x->count; i++) {
        size_t at = (x->head + i) % SIM_WIRE_ROOM;
        numbered(&w, "at", i, &x->at[at], sizeof x->at[at]);
        numbered(&w, "byte", i, &x->what[at], sizeof x->what[at]);
    }
}

/* Faults and chance belong to a run, not to the bench. */
static void visit_line(sim_line *l, const sim_state_visit *v)
{
    visit_wire(&l->from_pc, "from_pc", v);
    visit_wire(&l->to_pc, "to_pc", v);
}

/* The radio's transfer that is under way. */
static void radio(bl_packets_listener *f, const sim_state_visit *v)
{
    walk w = {v, "radio"};
    NUMBER(&w, &f->transport, out_count);
    NUMBER(&w, &f->transport, out_sent);
    NUMBER(&w, &f->transport, next_at);
    NUMBER(&w, &f->transport, deadline);
    NUMBER(&w, f, count);
    FLAG(&w, f, open);
    FLAG(&w, f, whole);
    NUMBER(&w, f, address);
    NUMBER(&w, f, size);
    NUMBER(&w, f, crc);
    NUMBER(&w, f, wanted);
    v->row(v->context, w.group, "packet", f->packet, sizeof f->packet);
    v->row(v->context, w.group, "announced", f->announced, sizeof f->announced);
    v->row(v->context, w.group, "reply", f->reply, sizeof f->reply);
    v->row(v->context, w.group, "seen", f->seen, f->seen_capacity);
}

/* A neighbour's monitor: the line it is hearing, and what it has not said yet. */
static void monitor(sim_monitor *m, const sim_state_visit *v)
{
    walk w = {v, "monitor"};
    NUMBER(&w, m, count);
    NUMBER(&w, m, place);
    NUMBER(&w, m, last);
    NUMBER(&w, m, left);
    NUMBER(&w, m, step);
    NUMBER(&w, m, heard_at);
    NUMBER(&w, m, lost);
    FLAG(&w, m, started);
    NUMBER(&w, m, start);
    NUMBER(&w, m, text_first);
    NUMBER(&w, m, text_count);
    v->row(v->context, w.group, "line", (uint8_t *)m->line, sizeof m->line);
    v->row(v->context, w.group, "text", m->text, sizeof m->text);
    if (m->kind != NULL) radio(&m->radio, v);
}

void sim_state_board(sim_bench *s, const sim_state_visit *v)
{
    visit_cpu(&s->board, v);
    for (unsigned i = 0; i < s->board.device_count; i++)
        device(&s->board, i, v);
    visit_line(&s->board_line, v);
    if (s->neighbour != NULL) monitor(&s->monitor, v);
}

/* ---- what was loaded ---- */

/* The longest that anything on the bench takes which is under way: a full buffer at 50 baud. */
#define LONGEST_NS 4000000000000u

/* Ten years: all sums of times stay far below what a time can hold. */
#define LATEST_NS 315360000000000000u

static bool is_due(const sim_bench *s, uint64_t at)
{
    return at <= s->now + LONGEST_NS;
}

static bool device_is_sound(const sim_bench *s, sim_device *d)
{
    for (const sim_device_field *f = d->kind->fields; f->name != NULL; f++) {
        uint64_t at = 0;
        if (f->form == SIM_FIELD_TIME || f->form == SIM_FIELD_CYCLE)
            memcpy(&at, d->state.bytes + f->offset, sizeof at);
        if (f->form == SIM_FIELD_CYCLE ? at > sim_device_cycles(d, s->now + LONGEST_NS)
                                       : !is_due(s, at))
            return false;
    }
    return d->kind->loaded == NULL || d->kind->loaded(d);
}

static bool wire_is_sound(const sim_bench *s, sim_wire *w)
{
    if (w->fraction >= w->baud) w->fraction = 0; /* it ran at another rate before */
    if (w->count > SIM_WIRE_ROOM || !is_due(s, w->free_at)) return false;
    for (size_t i = 0; i < w->count; i++)
        if (!is_due(s, w->at[(w->head + i) % SIM_WIRE_ROOM])) return false;
    return true;
}

static bool radio_is_sound(const bl_packets_listener *f)
{
    uint64_t first = f->first, capacity = f->capacity,
             last = (f->size + (uint64_t)f->payload - 1) / f->payload;
    return f->transport.out_count <= sizeof f->reply &&
           f->transport.out_sent <= f->transport.out_count && f->count < sizeof f->packet &&
           f->size <= capacity && f->wanted >= 1 && (f->wanted - 1) / 8 < f->seen_capacity &&
           (!f->open || ((last + 7) / 8 <= f->seen_capacity && f->address >= first &&
                         f->address - first <= capacity - f->size));
}

bool sim_state_loaded(sim_bench *s)
{
    sim_monitor *m = &s->monitor;
    bool good = s->now <= LATEST_NS && (m->kind == NULL || radio_is_sound(&m->radio)) &&
                wire_is_sound(s, &s->board_line.from_pc) &&
                wire_is_sound(s, &s->board_line.to_pc) && is_due(s, m->heard_at) &&
                m->count + 1 < SIM_MONITOR_LINE && m->text_first < SIM_MONITOR_OUT &&
                m->text_count <= SIM_MONITOR_OUT;
    for (size_t i = 0; i < s->board.device_count; i++)
        good = good && device_is_sound(s, &s->board.devices[i]);
    if (!good) return false;
    /* A CPU whose count has nothing to do with the time, because the clock was changed, would stand
     * still or rush. */
    double due = (double)s->now / 1e9 * s->board.clock, is = (double)s->board.cpu.cycles;
    if (is > due + 1000 || is < due - 1000) s->board.cpu.cycles = (uint64_t)due;
    if (m->kind != NULL) m->radio.transport.out = m->radio.reply;
    sim_board_loaded(&s->board);
    return true;
}
