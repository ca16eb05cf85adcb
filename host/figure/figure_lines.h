/* figure_lines.h - lines of text as pages: listings and sheets for paper. */
#ifndef BOOTLACE_FIGURE_LINES_H
#define BOOTLACE_FIGURE_LINES_H

#include "figure.h"

/* Draws text, its lines ended by '\n', in letters of one width; a PDF in pages, others as one. */
bl_status figure_lines(bl_text text, const char *path, const bl_sink *sink);

#endif
