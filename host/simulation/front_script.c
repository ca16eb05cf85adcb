/* front_script.c - steps at times. */
#include "front_script.h"

#include <string.h>

#include "figure/figure_front.h"
#include "files/files.h"

enum { TAP_NS = 100000000 };

static void drop_step(gpointer step)
{
    g_free(((front_step *)step)->what);
}

void front_script_begin(front_script *f, uint64_t began)
{
    f->began = began;
    f->next = 0;
    f->steps = g_array_new(FALSE, FALSE, sizeof(front_step));
    g_array_set_clear_func(f->steps, drop_step);
}

void front_script_end(front_script *f)
{
    g_array_unref(f->steps);
}

/* Behind those that are due at the same time. */
static void add_step(front_script *f, uint64_t at, front_action action, bool of_tap,
                     const char *what)
{
    front_step step = {at += f->began, action, of_tap, g_strdup(what)};
    guint i = f->steps->len;
    while (i > 0 && g_array_index(f->steps, front_step, i - 1).at > at)
        i--;
    g_array_insert_val(f->steps, i, step);
}

/* The time before the first word of a step, which is where a letter follows a blank: "0.5 s tap".
 */
static const char *find_word(const char *line)
{
    static const char *const words[] = {"press", "release", "tap", "picture"};
    for (const char *p = line; *p != '\0'; p++)
        for (size_t i = 0; i < G_N_ELEMENTS(words); i++) {
            size_t n = strlen(words[i]);
            if ((p == line || p[-1] == ' ') && strncmp(p, words[i], n) == 0 && p[n] == ' ')
                return p;
        }
    return NULL;
}

bl_status front_script_add(front_script *f, const char *line, const char *name, unsigned number,
                           const bl_sink *sink)
{
    char *plain = g_strdup(line), *mark = strchr(plain, '#');
    if (mark != NULL) *mark = '\0';
    for (char *c = plain; *c != '\0'; c++)
        if (*c == '\t') *c = ' ';
    g_strstrip(plain);
    const char *word = find_word(plain);
    uint64_t at = 0;
    bl_status status = BL_OK;
    if (*plain != '\0') {
        char *time = g_strstrip(g_strndup(plain, word != NULL ? (size_t)(word - plain) : 0));
        bl_text written = {time, strlen(time)};
        bool timed =
            strcmp(time, "0") == 0 || bl_quantity_parse(written, BL_NANOSECONDS, "s", &at) == BL_OK;
        g_free(time);
        if (word == NULL || !timed) {
            bl_report(sink, BL_ERROR, name, number,
                      "like 0.5s tap go, 1s press keys 5, 2s picture front.png",
                      "'%s' is no step: TIME press, release, tap or picture, and what", plain);
            status = BL_E_SYNTAX;
        }
    }
    if (*plain != '\0' && status == BL_OK) {
        const char *what = strchr(word, ' ') + 1;
        what += strspn(what, " ");
        front_action action = word[0] == 'r'                     ? FRONT_RELEASE
                              : strncmp(word, "picture", 7) == 0 ? FRONT_PICTURE
                                                                 : FRONT_PRESS;
        add_step(f, at, action, false, what);
        if (word[0] == 't') add_step(f, at + TAP_NS, FRONT_RELEASE, true, what);
    }
    g_free(plain);
    return status;
}

bl_status front_script_read(front_script *f, const char *path, const bl_sink *sink)
{
    char *text = NULL;
    size_t length = 0;
    bl_status status = host_read_file(path, &text, &length, sink);
    if (status != BL_OK) return status;
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i] != NULL; i++) {
        g_strchomp(lines[i]);
        bl_status its = front_script_add(f, lines[i], path, i + 1, sink);
        if (status == BL_OK) status = its;
    }
    g_strfreev(lines);
    g_free(text);
    return status;
}

void front_script_let_go(front_script *f, simulation *s, const bl_sink *sink)
{
    static const char *const words[] = {"press", "release", "picture"};
    for (; f->next < f->steps->len; f->next++) {
        const front_step *step = &g_array_index(f->steps, front_step, f->next);
        if (step->of_tap && step->at - TAP_NS <= s->sim.now)
            front_touch(s, step->what, false, NULL);
        else if (!step->of_tap)
            bl_report(sink, BL_WARNING, NULL, 0, "a longer --for",
                      "'%s %s' was due at %u ms, when the run was over: it was not done",
                      words[step->action], step->what, (unsigned)((step->at - f->began) / 1000000));
    }
}

bl_status front_script_check(const front_script *f, const simulation *s, const bl_sink *sink)
{
    bl_status status = BL_OK;
    for (guint i = f->next; i < f->steps->len && status == BL_OK; i++) {
        const front_step *step = &g_array_index(f->steps, front_step, i);
        if (step->action != FRONT_PICTURE) status = front_check(s, step->what, sink);
    }
    return status;
}

uint64_t front_script_due(const front_script *f)
{
    return f->next < f->steps->len ? g_array_index(f->steps, front_step, f->next).at : UINT64_MAX;
}

bl_status front_script_do(front_script *f, simulation *s, const bl_sink *sink)
{
    bl_status status = BL_OK;
    while (front_script_due(f) <= s->sim.now) {
        const front_step *step = &g_array_index(f->steps, front_step, f->next++);
        bl_status its = step->action == FRONT_PICTURE
                            ? figure_front(s, step->what, sink)
                            : front_touch(s, step->what, step->action == FRONT_PRESS, sink);
        if (status == BL_OK) status = its;
    }
    return status;
}
