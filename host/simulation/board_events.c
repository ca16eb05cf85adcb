/* board_events.c - lamps and words of the simulated board, in order. */
#include "board_events.h"

static void tell_waiting(board_events *e)
{
    for (guint i = 0; i < e->waiting->len; i++)
        e->watcher.tell(e->watcher.context, &g_array_index(e->waiting, board_event, i));
    g_array_set_size(e->waiting, 0);
    if (e->watcher.told != NULL) e->watcher.told(e->watcher.context);
}

/* The board's devices are those of the bench file that are simulated, in order. */
static const char *device_name(const bench *b, unsigned device)
{
    unsigned simulated = 0;
    for (size_t i = 0; i < b->device_count; i++)
        if (simulation_has_device(b, &b->devices[i]) && simulated++ == device)
            return b->devices[i].name;
    return "?";
}

static void add_lamps(board_events *e, unsigned device, uint64_t now, uint8_t value)
{
    board_event lamps = {.at = now - e->began, .name = device_name(e->b, device), .lamps = value};
    g_array_append_val(e->waiting, lamps);
}

static void lamps_changed(void *context, unsigned device, uint64_t now, uint8_t value)
{
    board_events *e = context;
    add_lamps(e, device, now, value);
    e->count++;
    if (e->line->len == 0) tell_waiting(e);
}

void board_events_begin(board_events *e, const bench *b, simulation *s,
                        const board_watcher *watcher)
{
    *e = (board_events){.b = b,
                        .watcher = *watcher,
                        .began = s->sim.now,
                        .line = g_string_new(NULL),
                        .waiting = g_array_new(FALSE, FALSE, sizeof(board_event))};
    s->sim.board.watch = (sim_watch){e, lamps_changed};
    for (unsigned i = 0; i < s->sim.board.device_count; i++)
        if (s->sim.board.devices[i].kind->lamps != NULL)
            add_lamps(e, i, s->sim.now,
                      s->sim.board.devices[i].kind->lamps(&s->sim.board.devices[i]));
    tell_waiting(e);
}

void board_events_end(board_events *e, simulation *s)
{
    board_events_line_end(e);
    s->sim.board.watch = (sim_watch){NULL, NULL};
    g_string_free(e->line, TRUE);
    g_array_free(e->waiting, TRUE);
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
