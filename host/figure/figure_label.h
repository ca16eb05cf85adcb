/* figure_label.h - chip labels, to size, on a sheet to be printed and cut. */
#ifndef BOOTLACE_FIGURE_LABEL_H
#define BOOTLACE_FIGURE_LABEL_H

#include "figure.h"

enum { LABEL_LINES = 3 };

/* The first text of a line stands left, the second right. */
typedef struct package_label {
    const char *name; /* for messages */
    unsigned pins;
    bool narrow; /* 0.3 inch between the rows of pins, not 0.6 */
    const char *left[LABEL_LINES], *right[LABEL_LINES];
} package_label;

/* Width (along the pins) and height in points: the body of the package, less a millimetre. */
void package_label_size(const package_label *label, double *width, double *height);

/* Draws the labels. Texts are made smaller until they fit; BL_E_RANGE, reported, when one would be
 * smaller than people can read: nothing is ever cut off. */
bl_status figure_labels(const package_label *labels, size_t count, const char *path,
                        const bl_sink *sink);

#endif
