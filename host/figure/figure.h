/* figure.h - drawings as PNG, SVG or PDF, after the ending of the file. Lengths are points, 1/72
 * inch. */
#ifndef BOOTLACE_FIGURE_H
#define BOOTLACE_FIGURE_H

#include <cairo.h>

#include "files/files.h"

typedef enum figure_type { FIGURE_NONE, FIGURE_PNG, FIGURE_SVG, FIGURE_PDF } figure_type;

typedef struct figure {
    figure_type type;
    cairo_surface_t *surface;
    cairo_t *cr;
    host_output out;
    bl_writer writer;
} figure;

figure_type figure_type_of(const char *path);

/* Begins on white paper. dots: of a PNG, an inch. BL_E_RANGE: too large to draw. */
bl_status figure_begin(figure *f, figure_type type, double width, double height, double dots);
/* The next page (PDF); other types have one. */
void figure_page(figure *f);
/* Writes the file, whole or not at all; frees in any case. */
bl_status figure_end(figure *f, const char *path, const bl_sink *sink);

/* Frees without writing. */
void figure_drop(figure *f);

/* ---- what drawings have alike ---- */
void figure_colour(figure *f, uint32_t rgb);
void figure_box(figure *f, double x, double y, double width, double height, uint32_t fill);
void figure_frame(figure *f, double x, double y, double width, double height, uint32_t line);
void figure_line(figure *f, double x0, double y0, double x1, double y1, uint32_t colour);

typedef enum figure_align { FIGURE_LEFT, FIGURE_CENTRE, FIGURE_RIGHT } figure_align;
/* x is the left edge, the middle or the right edge; y the base line. */
void figure_font(figure *f, double size, bool bold, bool mono);
void figure_text(figure *f, double x, double y, figure_align align, const char *text);
double figure_text_width(figure *f, const char *text);

#endif
