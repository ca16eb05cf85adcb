/* board_show.c - lamps and words of the simulated board, a line each. */
#include "board_commands.h"

/* A display has a line for each of its own, between bars. */
static void show_part(double seconds, const board_event *e)
{
    char **lines = g_strsplit(e->shows, "\n", -1);
    bool glass = lines[0] != NULL && lines[1] != NULL;
    for (unsigned i = 0; lines[i] != NULL; i++)
        if (i == 0)
            printf("  %8.3f s  %-8s %s%s%s\n", seconds, e->name, glass ? "|" : "", lines[i],
                   glass ? "|" : "");
        else
            printf("  %10s  %-8s |%s|\n", "", "", lines[i]);
    g_strfreev(lines);
}

static void show_event(void *context, const board_event *e)
{
    double seconds = (double)e->at / 1e9;
    char lamps[9];
    (void)context;
    if (e->name == NULL) {
        printf("  %8.3f s  %-8s %s\n", seconds, "says", e->text);
        return;
    }
    if (e->shows != NULL) {
        show_part(seconds, e);
        return;
    }
    for (unsigned i = 0; i < 8; i++)
        lamps[i] = (e->lamps >> (7 - i) & 1) != 0 ? '*' : '.';
    lamps[8] = '\0';
    const char *on = e->lamps != 0 ? cli_bright() : "", *off = *on != '\0' ? cli_plain() : "";
    printf("  %8.3f s  %-8s %s%s%s  $%02X\n", seconds, e->name, on, lamps, off, e->lamps);
}

static void flush_events(void *context)
{
    (void)context;
    fflush(stdout);
}

const board_watcher board_show = {NULL, show_event, flush_events};
