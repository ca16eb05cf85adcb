/* board_events.c - lamps and words of the simulated board, in order. */
#include "board_events.h"

#include <string.h>

#include "front.h"

/* A part that shows something, when that last changed, and what of it was told. */
typedef struct shown {
    front_part part;
    char now[FRONT_TEXT], told[FRONT_TEXT];
    uint64_t since;
} shown;

enum { STEADY_NS = 20000000 };

static void tell_waiting(board_events *e)
{
    for (guint i = 0; i < e->waiting->len; i++)
        e->watcher.tell(e->watcher.context, &g_array_index(e->waiting, board_event, i));
    for (guint i = 0; i < e->waiting->len; i++)
        g_free((char *)g_array_index(e->waiting, board_event, i).shows);
    g_array_set_size(e->waiting, 0);
    if (e->watcher.told != NULL) e->watcher.told(e->watcher.context);
}

static void add_lamps(board_events *e, unsigned device, uint64_t now, uint8_t value)
{
    board_event lamps = {
        .at = now - e->began, .name = simulation_described(e->b, device)->name, .lamps = value};
    g_array_append_val(e->waiting, lamps);
}

static void lamps_changed(void *context, unsigned device, uint64_t now, uint8_t value)
{
    board_events *e = context;
    if (!front_is_lamps(&e->s->sim.board.devices[device])) return;
    add_lamps(e, device, now, value);
    e->count++;
    if (e->line->len == 0) tell_waiting(e);
}

/* Those that show more than lamps, which tell themselves. */
static void begin_parts(board_events *e)
{
    GArray *all = front_parts(e->s);
    e->parts = g_array_new(FALSE, TRUE, sizeof(shown));
    for (guint i = 0; i < all->len; i++) {
        shown one = {.part = g_array_index(all, front_part, i), .since = e->s->sim.now};
        if (one.part.form == FRONT_LAMPS) continue;
        front_shows(&one.part, one.now);
        /* What is touched is news only when it is. */
        bool touched = one.part.form == FRONT_BUTTON || one.part.form == FRONT_KEYPAD;
        if (touched) strcpy(one.told, one.now);
        g_array_append_val(e->parts, one);
    }
    g_array_unref(all);
}

bool board_events_looks(const board_events *e)
{
    return e->parts->len > 0;
}

static void add_shown(board_events *e, shown *p)
{
    board_event event = {
        .at = p->since - e->began, .name = p->part.name, .shows = g_strdup(p->now)};
    strcpy(p->told, p->now);
    g_array_append_val(e->waiting, event);
    e->count++;
}

/* steady: how long a part must have shown the same. */
static void look_at_parts(board_events *e, uint64_t steady)
{
    uint64_t now = e->s->sim.now;
    bool any = false;
    for (guint i = 0; i < e->parts->len; i++) {
        shown *p = &g_array_index(e->parts, shown, i);
        char text[FRONT_TEXT];
        front_shows(&p->part, text);
        if (strcmp(text, p->now) != 0) {
            strcpy(p->now, text);
            p->since = now;
        }
        if (strcmp(p->now, p->told) == 0 || now - p->since < steady) continue;
        add_shown(e, p);
        any = true;
    }
    if (any && e->line->len == 0) tell_waiting(e);
}

/* "via.pa0"; free with g_free. */
static char *end_name(const board_events *e, sim_pin p)
{
    if (p.device == SIM_NET_TIED) return g_strdup(p.pin == SIM_HIGH ? "supply" : "ground");
    return g_strdup_printf("%s.%s", simulation_described(e->b, p.device)->name,
                           e->s->sim.board.devices[p.device].kind->about.pins[p.pin]);
}

/* Wires that two outputs drove against each other since the last look. */
static void look_at_wires(board_events *e)
{
    const sim_nets *nets = &e->s->sim.board.nets;
    for (size_t i = 0; i < nets->net_count; i++) {
        const sim_net *n = &nets->nets[i];
        if (!n->fights || e->contention[i]) continue;
        e->contention[i] = true;
        char *high = end_name(e, nets->pins[n->fights_high]);
        char *low = end_name(e, nets->pins[n->fights_low]);
        uint64_t at = n->fights_since > e->began ? n->fights_since - e->began : 0;
        board_event event = {.at = at, .name = "contention"};
        event.shows = g_strdup_printf("%s drives the wire high, %s low", high, low);
        g_array_append_val(e->waiting, event);
        e->count++;
        g_free(high);
        g_free(low);
    }
    if (e->waiting->len > 0 && e->line->len == 0) tell_waiting(e);
}

void board_events_look(board_events *e)
{
    look_at_wires(e);
    look_at_parts(e, STEADY_NS);
}

void board_events_begin(board_events *e, const bench *b, simulation *s,
                        const board_watcher *watcher)
{
    *e = (board_events){.b = b,
                        .watcher = *watcher,
                        .s = s,
                        .began = s->sim.now,
                        .line = g_string_new(NULL),
                        .waiting = g_array_new(FALSE, FALSE, sizeof(board_event))};
    s->sim.board.watch = (sim_watch){e, lamps_changed};
    for (unsigned i = 0; i < s->sim.board.device_count; i++)
        if (front_is_lamps(&s->sim.board.devices[i]))
            add_lamps(e, i, s->sim.now,
                      s->sim.board.devices[i].kind->lamps(&s->sim.board.devices[i]));
    begin_parts(e);
    look_at_parts(e, 0);
    tell_waiting(e);
    e->count = 0; /* so far nothing has changed */
}

void board_events_flush(board_events *e)
{
    look_at_wires(e);
    look_at_parts(e, 0);
    board_events_line_end(e);
}

void board_events_end(board_events *e, simulation *s)
{
    board_events_flush(e);
    s->sim.board.watch = (sim_watch){NULL, NULL};
    g_string_free(e->line, TRUE);
    g_array_free(e->waiting, TRUE);
    g_array_free(e->parts, TRUE);
}

void board_events_line_end(board_events *e)
{
    if (e->line->len > 0) {
        board_event said = {.at = e->line_at - e->began, .text = e->line->str};
        e->watcher.tell(e->watcher.context, &said);
        g_string_truncate(e->line, 0);
        e->count++;
    }
    tell_waiting(e);
}

void board_events_byte(board_events *e, uint64_t now, uint8_t byte)
{
    if (byte == '\r' || byte == '\n') {
        board_events_line_end(e);
        return;
    }
    if (e->line->len == 0) e->line_at = now;
    if (g_ascii_isprint(byte))
        g_string_append_c(e->line, (char)byte);
    else
        g_string_append_printf(e->line, "<%02X>", byte);
}
