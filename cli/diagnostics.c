/* diagnostics.c - messages, results, progress. Results go to standard output, talk to standard
 * error. */
#include "cli.h"
#include "json_answer.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

common given;
static unsigned errors;
static bool line_open;

bool cli_colour(FILE *stream)
{
    const char *no = g_getenv("NO_COLOR"), *term = g_getenv("TERM");
    if (no != NULL && *no != '\0') return false;
    int file = stream == stderr ? STDERR_FILENO : STDOUT_FILENO;
    return isatty(file) && term != NULL && strcmp(term, "dumb") != 0;
}

const char *cli_verified(void)
{
    static char text[40];
    g_snprintf(text, sizeof text, "%sverified:%s", cli_green(), cli_plain());
    return text;
}

const char *cli_not_verified(void)
{
    static char text[40];
    g_snprintf(text, sizeof text, "%snot verified:%s", cli_yellow(), cli_plain());
    return text;
}

int cli_width(void)
{
    enum { USUAL = 100, LOWEST = 40, LIMIT = 200 };
    struct winsize size;
    const char *columns = g_getenv("COLUMNS");
    int width = columns != NULL ? atoi(columns) : 0;
    if (width <= 0 && isatty(STDOUT_FILENO) && ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0)
        width = size.ws_col;
    if (width <= 0) width = USUAL;
    return width < LOWEST ? LOWEST : width > LIMIT ? LIMIT : width;
}

void cli_print(const char *message, ...)
{
    va_list list;
    va_start(list, message);
    char *text = g_strdup_vprintf(message, list), *at = text;
    va_end(list);
    size_t indent = strspn(text, " "), width = (size_t)cli_width(), left = width;
    while (strlen(at) > left) {
        size_t cut = left;
        while (cut > indent + 2 && at[cut] != ' ')
            cut--;
        if (at[cut] != ' ') break;
        printf("%.*s\n%*s", (int)cut, at, (int)indent + 2, "");
        at += cut + strspn(at + cut, " ");
        left = width - indent - 2;
    }
    printf("%s\n", at);
    g_free(text);
}

static bl_status write_error(void *context, const void *bytes, size_t count)
{
    (void)context;
    return fwrite(bytes, 1, count, stderr) == count ? BL_OK : BL_E_IO;
}

static bl_status write_out(void *context, const void *bytes, size_t count)
{
    (void)context;
    return fwrite(bytes, 1, count, stdout) == count ? BL_OK : BL_E_IO;
}

const bl_writer cli_out = {NULL, write_out};

/* Messages of this turn and the one before, while watching. A line number is not part of what a
 * message says. */
static GHashTable *told_before, *told_now;

/* Was it told in the turn before? Notes it for this one. */
static bool is_old(const bl_diag *d)
{
    if (told_now == NULL) return false;
    char *key = g_strdup_printf("%s|%s|%.*s", d->file != NULL ? d->file : "", d->message,
                                (int)d->source.length, d->source.at != NULL ? d->source.at : "");
    bool old = told_before != NULL && g_hash_table_contains(told_before, key);
    g_hash_table_add(told_now, key);
    return old;
}

void cli_messages_turn(void)
{
    if (told_before != NULL) g_hash_table_destroy(told_before);
    told_before = told_now;
    told_now = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    errors = 0;
}

void cli_watch_tell(void)
{
    GHashTableIter iter;
    gpointer key;
    guint gone = 0, stay = 0;
    if (told_before == NULL) return;
    g_hash_table_iter_init(&iter, told_before);
    while (g_hash_table_iter_next(&iter, &key, NULL))
        if (g_hash_table_contains(told_now, key))
            stay++;
        else
            gone++;
    if (gone > 0) say("%u message%s gone", gone, gone == 1 ? "" : "s");
    if (stay > 0) say("%u as before", stay);
}

static void render(void *context, const bl_diag *diag)
{
    static const bl_writer writer = {NULL, write_error};
    (void)context;
    if (diag->severity == BL_ERROR) {
        errors++;
        answer_note(diag->file, diag->line, diag->column, diag->message, diag->hint);
    }
    if (is_old(diag)) return;
    if (diag->severity == BL_NOTE && given.quiet) return;
    progress_end();
    fflush(stdout);
    bl_diag_render(diag, &writer, cli_colour(stderr));
}

const bl_sink cli_sink = {NULL, render};

unsigned cli_errors(void)
{
    return errors;
}

static void talk(const char *prefix, const char *message, va_list list)
{
    static const bl_writer writer = {NULL, write_error};
    char *text = g_strdup_vprintf(message, list);
    progress_end();
    fflush(stdout);
    fputs(prefix, stderr);
    bl_show((bl_text){text, strlen(text)}, true, &writer); /* names and answers are anything */
    fputc('\n', stderr);
    g_free(text);
}

void say(const char *message, ...)
{
    va_list list;
    if (given.quiet) return;
    va_start(list, message);
    talk("", message, list);
    va_end(list);
}

void detail(const char *message, ...)
{
    va_list list;
    if (!given.verbose || given.quiet) return;
    va_start(list, message);
    talk("", message, list);
    va_end(list);
}

/* The first line is the message, the others what to do. */
static void write_note(const char *message, va_list list)
{
    char *text = g_strdup_vprintf(message, list), *rest = strchr(text, '\n');
    if (rest != NULL) *rest++ = '\0';
    answer_note(NULL, 0, 0, text, rest != NULL ? g_strstrip(rest) : NULL);
    g_free(text);
}

int fail(const char *message, ...)
{
    va_list list;
    va_start(list, message);
    write_note(message, list);
    va_end(list);
    va_start(list, message);
    talk(cli_colour(stderr) ? "\x1b[31merror:\x1b[0m " : "error: ", message, list);
    va_end(list);
    return EXIT_FAILED;
}

int cli_usage(const char *message, ...)
{
    va_list list;
    va_start(list, message);
    write_note(message, list);
    va_end(list);
    va_start(list, message);
    talk("usage: ", message, list);
    va_end(list);
    return EXIT_USAGE;
}

int cli_end(int code)
{
    bool lost = ferror(stdout) != 0;
    errno = 0;
    if (fflush(stdout) != 0) lost = true;
    if (!lost) return code;
    fail("standard output was not written whole: %s", g_strerror(errno != 0 ? errno : EIO));
    return code == EXIT_GOOD ? EXIT_FAILED : code;
}

/* Since when this kind of work is under way, and how much of it was done then. */
static struct {
    const char *what;
    gint64 began; /* microseconds */
    size_t first;
} stage;

/* "12 a second, 4 s left", as soon as there is something to tell it from. */
static void tell_rate(char *text, size_t capacity, size_t done, size_t total)
{
    enum { SOONEST = 300000 };
    gint64 took = g_get_monotonic_time() - stage.began;
    *text = '\0';
    if (took < SOONEST || done <= stage.first) return;
    double rate = (double)(done - stage.first) * 1e6 / (double)took;
    g_snprintf(text, capacity, ", %.0f a second, %.0f s left", rate, (double)(total - done) / rate);
}

/* Only on a terminal: in a pipe it would be output. */
void progress(const char *what, size_t done, size_t total, const char *unit, uint32_t resends)
{
    enum { WIDTH = 24 };
    char bar[WIDTH + 1], again[32] = "", rate[64];
    if (given.quiet || !isatty(STDERR_FILENO) || total == 0) return;
    if (stage.what != what) {
        stage.what = what;
        stage.began = g_get_monotonic_time();
        stage.first = done;
    }
    if (done > total) done = total;
    size_t filled = done * WIDTH / total;
    memset(bar, '.', WIDTH);
    memset(bar, '#', filled < WIDTH ? filled : WIDTH);
    bar[WIDTH] = '\0';
    tell_rate(rate, sizeof rate, done, total);
    if (resends > 0) g_snprintf(again, sizeof again, ", %u sent again", resends);
    fprintf(stderr, "\r\x1b[K  %-9s %s %zu of %zu %s%s%s", what, bar, done, total, unit, rate,
            again);
    fflush(stderr);
    line_open = true;
}

void progress_end(void)
{
    stage.what = NULL;
    if (!line_open) return;
    fputs("\r\x1b[K", stderr);
    line_open = false;
}
