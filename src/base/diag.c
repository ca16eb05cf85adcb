/* diag.c - reporting and rendering messages, and finding names that were meant. */
#include "bootlace/diag.h"

#include "core.h"

void bl_report(const bl_sink *sink, bl_severity severity, const char *file, uint32_t line,
               const char *hint, const char *message, ...)
{
    char text[512];
    if (sink == NULL || sink->report == NULL) return;
    va_list list;
    va_start(list, message);
    bl_format_list(text, sizeof text, message, list);
    va_end(list);
    bl_diag diag = {severity, file, line, 0, 0, {NULL, 0}, text, hint};
    sink->report(sink->context, &diag);
}

/* How many bytes the UTF-8 character at the front has; 0 when it is not one. */
static size_t utf8_length(bl_text t)
{
    uint8_t lead = (uint8_t)t.at[0];
    size_t n = lead < 0x80                   ? 1
               : lead >= 0xC2 && lead < 0xE0 ? 2
               : lead >= 0xE0 && lead < 0xF0 ? 3
               : lead >= 0xF0 && lead < 0xF5 ? 4
                                             : 0;
    if (n > t.length) return 0;
    for (size_t i = 1; i < n; i++)
        if (((uint8_t)t.at[i] & 0xC0) != 0x80) return 0;
    return n;
}

/* The same, of what a terminal may have: 0 for control characters too, U+0080 to U+009F and those
 * that turn the direction of text included. */
static size_t shown_length(bl_text t)
{
    const uint8_t *b = (const uint8_t *)t.at;
    size_t n = utf8_length(t);
    if (n == 1 && (b[0] < 32 || b[0] == 127)) return 0;
    if (n == 2 && b[0] == 0xC2 && b[1] < 0xA0) return 0;
    if (n == 3 && b[0] == 0xE2)
        if ((b[1] == 0x80 && b[2] >= 0xAA && b[2] <= 0xAE) ||
            (b[1] == 0x81 && b[2] >= 0xA6 && b[2] <= 0xA9))
            return 0;
    return n;
}

bl_status bl_show(bl_text text, bool lines, const bl_writer *w)
{
    bl_status status = BL_OK;
    size_t whole = 0; /* what can go as it is */
    for (size_t at = 0; at < text.length && status == BL_OK;) {
        size_t n = shown_length((bl_text){text.at + at, text.length - at});
        if (n == 0 && lines && (text.at[at] == '\n' || text.at[at] == '\t')) n = 1;
        if (n > 0) {
            at += n;
            continue;
        }
        if (at > whole) status = w->write(w->context, text.at + whole, at - whole);
        if (status == BL_OK) status = bl_print(w, "<%02X>", (unsigned)(uint8_t)text.at[at]);
        whole = ++at;
    }
    if (status == BL_OK && text.length > whole)
        status = w->write(w->context, text.at + whole, text.length - whole);
    return status;
}

/* Writes up to width characters of a line, each one column wide: tabs become blanks, and what a
 * terminal must not have, question marks. Returns in *columns how many characters the first mark
 * bytes take. */
static bl_status write_line(const bl_writer *w, bl_text line, size_t width, size_t mark,
                            size_t *columns)
{
    char buffer[512];
    size_t n = 0, shown = 0, at = 0;
    *columns = 0;
    while (at < line.length && shown < width && n + 4 < sizeof buffer) {
        bl_text rest = {line.at + at, line.length - at};
        size_t length = shown_length(rest);
        if (length == 0) {
            buffer[n++] = *rest.at == '\t' ? ' ' : '?';
            length = 1;
        } else {
            memcpy(buffer + n, rest.at, length);
            n += length;
        }
        if (at < mark) ++*columns;
        shown++;
        at += length;
    }
    if (at < mark) *columns += mark - at;
    return w->write(w->context, buffer, n);
}

/* The source line, shifted so that the marked place is in sight, and the marks under it. */
static bl_status write_marked_line(const bl_diag *d, const bl_writer *w, const char *on,
                                   const char *off)
{
    enum { WIDTH = 92 };
    bl_text line = d->source;
    size_t mark = d->column > 0 ? (size_t)(d->column - 1u) : 0, columns = 0;
    if (mark > WIDTH - 13 && mark <= line.length) {
        size_t skip = mark - 39;
        line.at += skip;
        line.length -= skip;
        mark -= skip;
    }
    bl_status s = bl_print(w, "    ");
    if (s == BL_OK) s = write_line(w, line, WIDTH, mark, &columns);
    if (s == BL_OK) s = bl_print(w, "\n");
    if (s != BL_OK || d->column == 0 || d->length == 0) return s;
    s = bl_print(w, "    %*s%s", (int)columns, "", on);
    for (uint32_t i = 0; i < d->length && columns + i < WIDTH && s == BL_OK; i++)
        s = bl_print(w, "~");
    return s == BL_OK ? bl_print(w, "%s\n", off) : s;
}

/* File, line and column as editors and build tools read them. */
bl_status bl_diag_render(const bl_diag *d, const bl_writer *w, bool colour)
{
    static const char *const names[] = {
        [BL_NOTE] = "note",
        [BL_WARNING] = "warning",
        [BL_ERROR] = "error",
    };
    _Static_assert(BL_COUNT(names) == BL_ERROR + 1, "one for each");
    static const char *const colours[] = {
        [BL_NOTE] = "\x1b[36m",
        [BL_WARNING] = "\x1b[33m",
        [BL_ERROR] = "\x1b[31m",
    };
    _Static_assert(BL_COUNT(colours) == BL_ERROR + 1, "one for each");
    const char *on = colour ? colours[d->severity] : "", *off = colour ? "\x1b[0m" : "";
    bl_status s = BL_OK;
    if (d->file != NULL) s = bl_show(bl_text_of(d->file), false, w);
    if (s == BL_OK && d->file != NULL) s = bl_print(w, ":");
    if (s == BL_OK && d->line != 0) s = bl_print(w, "%lu:", (unsigned long)d->line);
    if (s == BL_OK && d->line != 0 && d->column != 0)
        s = bl_print(w, "%lu:", (unsigned long)d->column);
    if (s == BL_OK)
        s = bl_print(w, "%s%s%s:%s ", d->file != NULL ? " " : "", on, names[d->severity], off);
    if (s == BL_OK) s = bl_show(bl_text_of(d->message), true, w);
    if (s == BL_OK) s = bl_print(w, "\n");
    if (s == BL_OK && d->source.at != NULL) s = write_marked_line(d, w, on, off);
    if (s != BL_OK || d->hint == NULL) return s;
    s = bl_print(w, "    -> ");
    if (s == BL_OK) s = bl_show(bl_text_of(d->hint), true, w);
    return s == BL_OK ? bl_print(w, "\n") : s;
}

unsigned bl_name_tolerance(size_t length)
{
    return length < 3 ? 1 : length < 7 ? 2 : 3;
}

/* Three rows of the usual table are enough; it ends as soon as the limit is passed. */
unsigned bl_name_distance(bl_text a, bl_text b, unsigned limit)
{
    enum { LIMIT = 64 };
    unsigned rows[3][LIMIT];
    size_t apart = a.length > b.length ? a.length - b.length : b.length - a.length;
    if (a.length >= LIMIT || b.length >= LIMIT || apart > limit) return limit + 1;
    unsigned *before = rows[0], *last = rows[1], *now = rows[2];
    for (size_t j = 0; j <= b.length; j++)
        last[j] = (unsigned)j;
    for (size_t i = 1; i <= a.length; i++) {
        now[0] = (unsigned)i;
        for (size_t j = 1; j <= b.length; j++) {
            char x = bl_upper(a.at[i - 1]), y = bl_upper(b.at[j - 1]);
            unsigned best = last[j - 1] + (x != y);
            if (last[j] + 1 < best) best = last[j] + 1;
            if (now[j - 1] + 1 < best) best = now[j - 1] + 1;
            bool swapped =
                i > 1 && j > 1 && x == bl_upper(b.at[j - 2]) && y == bl_upper(a.at[i - 2]);
            if (swapped && before[j - 2] + 1 < best) best = before[j - 2] + 1;
            now[j] = best;
        }
        unsigned *turn = before;
        before = last;
        last = now;
        now = turn;
    }
    return last[b.length] <= limit ? last[b.length] : limit + 1;
}

const char *bl_name_nearest(bl_text word, unsigned limit,
                            const char *(*name)(const void *list, size_t index), const void *list,
                            unsigned *distance)
{
    unsigned best = limit + 1;
    const char *nearest = NULL, *one;
    for (size_t i = 0; (one = name(list, i)) != NULL; i++) {
        unsigned d = bl_name_distance(word, bl_text_of(one), best);
        if (d >= best) continue;
        best = d;
        nearest = one;
    }
    if (distance != NULL) *distance = best;
    return nearest;
}
