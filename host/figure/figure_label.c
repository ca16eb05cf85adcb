/* figure_label.c - a label is as long as its package: 0.1 inch for each pair of pins. */
#include "figure_label.h"

#include <glib.h>
#include <math.h>

static const double point = 72 / 25.4; /* a millimetre */
static const double page_width = 595, page_height = 842, margin = 42, gap = 8;
static const double largest = 9, smallest = 3.6, notch = 5;

void package_label_size(const package_label *label, double *width, double *height)
{
    *width = label->pins / 2 * 7.2 - 1 * point;
    *height = (label->narrow ? 6.5 : 13.5) * point - 1 * point;
}

/* ---- one label ---- */

static double line_width(figure *f, const package_label *l, size_t i, double size)
{
    double width = 0;
    figure_font(f, size, i == 0, false);
    if (l->left[i] != NULL) width += figure_text_width(f, l->left[i]);
    if (l->right[i] != NULL) width += figure_text_width(f, l->right[i]);
    if (l->left[i] != NULL && l->right[i] != NULL) width += size * 0.8; /* between them */
    return width;
}

/* The largest size at which a line fits; below the smallest when it does not. */
static double label_text_size(figure *f, const package_label *l, size_t i)
{
    double width, height;
    package_label_size(l, &width, &height);
    double size = fmin(largest, height / LABEL_LINES * 0.86), usable = width - notch - 5;
    while (size >= smallest && line_width(f, l, i, size) > usable)
        size -= 0.1;
    return size;
}

static bool label_fits(figure *f, const package_label *l, const char *path, const bl_sink *sink)
{
    for (size_t i = 0; i < LABEL_LINES; i++) {
        if (label_text_size(f, l, i) >= smallest) continue;
        bl_report(sink, BL_ERROR, path, 0, "shorten it, or leave --narrow out",
                  "the label of %s has no room for '%s%s%s'", l->name,
                  l->left[i] != NULL ? l->left[i] : "",
                  l->left[i] != NULL && l->right[i] != NULL ? "  " : "",
                  l->right[i] != NULL ? l->right[i] : "");
        return false;
    }
    return true;
}

static void draw_label(figure *f, const package_label *l, double x, double y)
{
    double width, height;
    package_label_size(l, &width, &height);
    figure_box(f, x, y, width, height, 0xFFFFFF);
    figure_frame(f, x, y, width, height, 0x9AA5AF);
    figure_colour(f, 0x9AA5AF); /* the notch, where pin 1 is */
    cairo_arc(f->cr, x, y + height / 2, notch * 0.7, -G_PI / 2, G_PI / 2);
    cairo_fill(f->cr);
    for (size_t i = 0; i < LABEL_LINES; i++) {
        double size = label_text_size(f, l, i), base = y + height * ((double)i + 0.5) / LABEL_LINES;
        figure_font(f, size, i == 0, false);
        figure_colour(f, 0x000000);
        if (l->left[i] != NULL)
            figure_text(f, x + notch + 1, base + size * 0.36, FIGURE_LEFT, l->left[i]);
        if (l->right[i] != NULL)
            figure_text(f, x + width - 3, base + size * 0.36, FIGURE_RIGHT, l->right[i]);
    }
}

/* ---- the sheet ---- */

typedef struct cursor {
    double x, y, row; /* row: height of the labels in it */
} cursor;

/* The next free place. True: it is on a new page. */
static bool advance_label(cursor *at, double width, double height, double bottom)
{
    if (at->x > margin && at->x + width > page_width - margin) {
        at->x = margin;
        at->y += at->row + gap;
        at->row = 0;
    }
    at->row = fmax(at->row, height);
    if (at->y + height <= bottom) return false;
    *at = (cursor){margin, margin, height};
    return true;
}

/* Pictures are one page as high as need be; a PDF has pages of paper. */
static double needed_height(const package_label *labels, size_t count)
{
    cursor at = {margin, margin, 0};
    for (size_t i = 0; i < count; i++) {
        double width, height;
        package_label_size(&labels[i], &width, &height);
        advance_label(&at, width, height, INFINITY);
        at.x += width + gap;
    }
    return at.y + at.row + margin;
}

/* Each label is tried before the first page is drawn. */
bl_status figure_labels(const package_label *labels, size_t count, const char *path,
                        const bl_sink *sink)
{
    figure f;
    figure_type type = figure_type_of(path);
    double tall = type == FIGURE_PDF ? page_height : needed_height(labels, count);
    bl_status status = figure_begin(&f, type, page_width, tall, 200);
    if (status != BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, "a PDF has pages", "too many labels for one picture");
        return status;
    }
    for (size_t i = 0; i < count; i++)
        if (!label_fits(&f, &labels[i], path, sink)) status = BL_E_RANGE;
    cursor at = {margin, margin, 0};
    for (size_t i = 0; i < count && status == BL_OK; i++) {
        double width, height;
        package_label_size(&labels[i], &width, &height);
        if (advance_label(&at, width, height, tall - margin + 1)) figure_page(&f);
        draw_label(&f, &labels[i], at.x, at.y);
        at.x += width + gap;
    }
    if (status == BL_OK) return figure_end(&f, path, sink);
    figure_drop(&f);
    return status;
}
