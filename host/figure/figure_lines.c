/* figure_lines.c - lines, set so that the longest fits. */
#include "figure_lines.h"

#include <glib.h>
#include <math.h>

static const double page_width = 595, page_height = 842, margin = 48, largest = 11;

static char *next_text_line(bl_text text, size_t *at)
{
    size_t from = *at;
    while (*at < text.length && text.at[*at] != '\n')
        ++*at;
    char *line = g_strndup(text.at + from, *at - from);
    ++*at;
    return line;
}

static double widest_line(figure *f, bl_text text, double size, unsigned *count)
{
    double width = 1;
    figure_font(f, size, false, true);
    *count = 0;
    for (size_t at = 0; at < text.length; ++*count) {
        char *line = next_text_line(text, &at);
        width = fmax(width, figure_text_width(f, line));
        g_free(line);
    }
    return width;
}

/* A sheet without paper, only to measure on. */
static double page_text_size(bl_text text, unsigned *count)
{
    figure f;
    if (figure_begin(&f, FIGURE_PNG, 8, 8, 72) != BL_OK) return largest;
    double width = widest_line(&f, text, largest, count);
    figure_drop(&f);
    return fmin(largest, largest * (page_width - 2 * margin) / width);
}

/* One size for all lines: the widest decides, so that columns stay columns. */
bl_status figure_lines(bl_text text, const char *path, const bl_sink *sink)
{
    figure f;
    unsigned count = 0;
    figure_type type = figure_type_of(path);
    double size = page_text_size(text, &count), step = size * 1.35;
    double tall = type == FIGURE_PDF ? page_height : 2 * margin + count * step;
    bl_status status = figure_begin(&f, type, page_width, tall, 144);
    if (status != BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, "a PDF has pages", "%u lines are too many for a picture",
                  count);
        return status;
    }
    double y = margin;
    for (size_t at = 0; at < text.length;) {
        char *line = next_text_line(text, &at);
        y += step;
        if (y > tall - margin + 1) {
            figure_page(&f);
            y = margin + step;
        }
        figure_font(&f, size, false, true);
        figure_colour(&f, 0);
        figure_text(&f, margin, y, FIGURE_LEFT, line);
        g_free(line);
    }
    return figure_end(&f, path, sink);
}
