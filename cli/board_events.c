/* board_events.c - lamps and words of the simulated board, in order. */
#include "board.h"

static void print_waiting(board_events *e)
{
    for (guint i = 0; i < e->waiting->len; i++)
        fputs(g_ptr_array_index(e->waiting, i), stdout);
    g_ptr_array_set_size(e->waiting, 0);
    fflush(stdout);
}

/* The board's latches are those of the bench file, in order, behind its serial interface. */
static const char *latch_name(const bench *b, unsigned device)
{
    unsigned simulated = 0;
    for (size_t i = 0; i < b->device_count; i++) {
        const bench_device *d = &b->devices[i];
        bool there = d->kind == BENCH_LATCH || d->kind == BENCH_PORT8 || d == b->link_device;
        if (there && simulated++ == device) return d->name;
    }
    return "?";
}

static void add_lamps(board_events *e, unsigned device, uint64_t now, uint8_t value)
{
    char lamps[9];
    for (unsigned i = 0; i < 8; i++)
        lamps[i] = (value >> (7 - i) & 1) != 0 ? '*' : '.';
    lamps[8] = '\0';
    const char *on = value != 0 ? cli_bright() : "", *off = *on != '\0' ? cli_plain() : "";
    g_ptr_array_add(e->waiting, g_strdup_printf("  %8.3f s  %-8s %s%s%s  $%02X\n",
                                                (double)(now - e->began) / 1e9,
                                                latch_name(e->b, device), on, lamps, off, value));
}

static void latch_changed(void *context, unsigned device, uint64_t now, uint8_t value)
{
    board_events *e = context;
    add_lamps(e, device, now, value);
    e->count++;
    if (e->line->len == 0) print_waiting(e);
}

void board_events_begin(board_events *e, const bench *b, simulation *s)
{
    *e = (board_events){.b = b,
                        .began = s->sim.now,
                        .line = g_string_new(NULL),
                        .waiting = g_ptr_array_new_with_free_func(g_free)};
    s->sim.board.watch = (sim_watch){e, latch_changed};
    for (unsigned i = 0; i < s->sim.board.device_count; i++)
        if (s->sim.board.devices[i].kind == SIM_DEVICE_LATCH)
            add_lamps(e, i, s->sim.now, s->sim.board.devices[i].latch);
    print_waiting(e);
}

void board_events_end(board_events *e, simulation *s)
{
    board_event_line_end(e);
    s->sim.board.watch = (sim_watch){NULL, NULL};
    g_string_free(e->line, TRUE);
    g_ptr_array_free(e->waiting, TRUE);
}

void board_event_line_end(board_events *e)
{
    if (e->line->len > 0) {
        printf("  %8.3f s  %-8s %s\n", (double)(e->line_at - e->began) / 1e9, "says", e->line->str);
        g_string_truncate(e->line, 0);
        e->count++;
    }
    print_waiting(e);
}

void board_event_byte(board_events *e, uint64_t now, uint8_t byte)
{
    if (byte == '\r' || byte == '\n') {
        board_event_line_end(e);
        return;
    }
    if (e->line->len == 0) e->line_at = now;
    if (g_ascii_isprint(byte))
        g_string_append_c(e->line, (char)byte);
    else
        g_string_append_printf(e->line, "<%02X>", byte);
}
