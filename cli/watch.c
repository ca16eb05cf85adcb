/* watch.c - files that change, and Control-C. */
#include <glib/gstdio.h>
#include <signal.h>
#include <string.h>

#include "cli.h"

static volatile sig_atomic_t stopped;

static void on_interrupt(int number)
{
    (void)number;
    stopped = 1;
}

void cli_take_interrupts(void)
{
    struct sigaction action = {.sa_handler = on_interrupt, .sa_flags = (int)SA_RESETHAND};
    stopped = 0;
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
}

bool cli_stopped(void)
{
    return stopped != 0;
}

static gint64 newest(GPtrArray *files)
{
    gint64 newest_time = 0;
    for (guint i = 0; i < files->len; i++) {
        GStatBuf info;
        if (g_stat(g_ptr_array_index(files, i), &info) != 0) continue;
        gint64 t = (gint64)info.st_mtim.tv_sec * 1000000 + info.st_mtim.tv_nsec / 1000 +
                   (gint64)info.st_size;
        newest_time = MAX(newest_time, t);
        newest_time += t % 1000; /* also when an older file comes back */
    }
    return newest_time;
}

/* Until the user stops it: run, wait for a change of any source that was read, run again. */

void cli_watch_wait(GPtrArray *files)
{
    gint64 before = newest(files);
    while (newest(files) == before && !cli_stopped())
        g_usleep(50000);
}
