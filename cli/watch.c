/* watch.c - files that change, and Control-C. */
#define _GNU_SOURCE /* CLOCK_REALTIME_COARSE */
#include <glib/gstdio.h>
#include <signal.h>
#include <string.h>
#include <time.h>

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

/* What a file looks like from outside: microseconds and bytes; 0 and 0 when it is not there. */
typedef struct {
    gint64 date, size;
} file_stamp;

static file_stamp stamp(const char *path)
{
    GStatBuf info;
    if (g_stat(path, &info) != 0) return (file_stamp){0, 0};
    return (file_stamp){(gint64)info.st_mtim.tv_sec * 1000000 + info.st_mtim.tv_nsec / 1000,
                        (gint64)info.st_size};
}

/* Path to stamp, of the files of earlier turns, as they were when this turn began; and when that
 * was, in microseconds by the clock that dates files. */
static GHashTable *stamps;
static gint64 turn_began;

void cli_watch_turn(void)
{
    struct timespec now;
    clock_gettime(CLOCK_REALTIME_COARSE, &now);
    turn_began = (gint64)now.tv_sec * 1000000 + now.tv_nsec / 1000;
    if (stamps == NULL) stamps = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    GList *paths = g_hash_table_get_keys(stamps);
    for (const GList *each = paths; each != NULL; each = each->next) {
        file_stamp *kept = g_hash_table_lookup(stamps, each->data);
        *kept = stamp(each->data);
    }
    g_list_free(paths);
    cli_messages_turn();
}

/* Has one changed since its stamp? Of a file that the turn before did not read only its date can
 * tell: it may have been saved while the turn that read it was still sending. */
static bool saved_since(GPtrArray *files)
{
    bool saved = false;
    for (guint i = 0; i < files->len; i++) {
        const char *path = g_ptr_array_index(files, i);
        const file_stamp now = stamp(path);
        file_stamp *kept = g_hash_table_lookup(stamps, path);
        if (kept == NULL) {
            kept = g_new(file_stamp, 1);
            *kept = now;
            g_hash_table_insert(stamps, g_strdup(path), kept);
            saved |= now.date >= turn_began;
        }
        saved |= now.date != kept->date || now.size != kept->size;
    }
    return saved;
}

/* Until the user stops it: run, wait for a change of any source that was read, run again. */
void cli_watch_wait(GPtrArray *files)
{
    while (!saved_since(files) && !cli_stopped())
        g_usleep(50000);
}
