/* figure.c - surfaces, and the few strokes that all drawings use. */
#include "figure.h"

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <glib.h>
#include <string.h>

figure_type figure_type_of(const char *path)
{
    static const char *const endings[] = {".png", ".svg", ".pdf"};
    for (size_t i = 0; path != NULL && i < 3; i++) {
        size_t n = strlen(path);
        if (n > 4 && g_ascii_strcasecmp(path + n - 4, endings[i]) == 0)
            return (figure_type)(FIGURE_PNG + i);
    }
    return FIGURE_NONE;
}

static cairo_status_t collect_picture(void *context, const unsigned char *bytes, unsigned count)
{
    const figure *f = context;
    return f->writer.write(f->writer.context, bytes, count) == BL_OK ? CAIRO_STATUS_SUCCESS
                                                                     : CAIRO_STATUS_WRITE_ERROR;
}

/* Points everywhere; only pictures of dots are scaled, so that all types look alike. */
bl_status figure_begin(figure *f, figure_type type, double width, double height, double dots)
{
    double scale = dots / 72;
    memset(f, 0, sizeof *f);
    f->type = type;
    host_output_begin(&f->out, &f->writer);
    if (type == FIGURE_PDF)
        f->surface = cairo_pdf_surface_create_for_stream(collect_picture, f, width, height);
    else if (type == FIGURE_SVG)
        f->surface = cairo_svg_surface_create_for_stream(collect_picture, f, width, height);
    else
        f->surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)(width * scale + 0.5),
                                                (int)(height * scale + 0.5));
    f->cr = cairo_create(f->surface);
    if (cairo_status(f->cr) != CAIRO_STATUS_SUCCESS) {
        cairo_destroy(f->cr);
        cairo_surface_destroy(f->surface);
        host_output_drop(&f->out);
        return BL_E_RANGE;
    }
    if (type == FIGURE_PNG) cairo_scale(f->cr, scale, scale);
    figure_box(f, 0, 0, width, height, 0xFFFFFF);
    return BL_OK;
}

void figure_page(figure *f)
{
    if (f->type == FIGURE_PDF) cairo_show_page(f->cr);
}

bl_status figure_end(figure *f, const char *path, const bl_sink *sink)
{
    cairo_status_t status = cairo_status(f->cr);
    cairo_destroy(f->cr);
    if (status == CAIRO_STATUS_SUCCESS && f->type == FIGURE_PNG)
        status = cairo_surface_write_to_png_stream(f->surface, collect_picture, f);
    cairo_surface_finish(f->surface);
    if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(f->surface);
    cairo_surface_destroy(f->surface);
    if (status == CAIRO_STATUS_SUCCESS) return host_output_end(&f->out, path, sink);
    host_output_drop(&f->out);
    bl_report(sink, BL_ERROR, path, 0, NULL, "cannot be drawn: %s", cairo_status_to_string(status));
    return BL_E_IO;
}

void figure_drop(figure *f)
{
    cairo_destroy(f->cr);
    cairo_surface_finish(f->surface);
    cairo_surface_destroy(f->surface);
    host_output_drop(&f->out);
}

void figure_colour(figure *f, uint32_t rgb)
{
    cairo_set_source_rgb(f->cr, (rgb >> 16 & 255) / 255.0, (rgb >> 8 & 255) / 255.0,
                         (rgb & 255) / 255.0);
}

void figure_box(figure *f, double x, double y, double width, double height, uint32_t fill)
{
    figure_colour(f, fill);
    cairo_rectangle(f->cr, x, y, width, height);
    cairo_fill(f->cr);
}

void figure_frame(figure *f, double x, double y, double width, double height, uint32_t line)
{
    figure_colour(f, line);
    cairo_set_line_width(f->cr, 0.75);
    cairo_rectangle(f->cr, x, y, width, height);
    cairo_stroke(f->cr);
}

void figure_line(figure *f, double x0, double y0, double x1, double y1, uint32_t colour)
{
    figure_colour(f, colour);
    cairo_set_line_width(f->cr, 0.75);
    cairo_move_to(f->cr, x0, y0);
    cairo_line_to(f->cr, x1, y1);
    cairo_stroke(f->cr);
}

void figure_font(figure *f, double size, bool bold, bool mono)
{
    cairo_select_font_face(f->cr, mono ? "monospace" : "sans-serif", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(f->cr, size);
}

double figure_text_width(figure *f, const char *text)
{
    cairo_text_extents_t e;
    cairo_text_extents(f->cr, text, &e);
    return e.x_advance;
}

void figure_text(figure *f, double x, double y, figure_align align, const char *text)
{
    double width = figure_text_width(f, text);
    cairo_move_to(f->cr,
                  x - (align == FIGURE_LEFT    ? 0
                       : align == FIGURE_RIGHT ? width
                                               : width / 2),
                  y);
    cairo_show_text(f->cr, text);
}
