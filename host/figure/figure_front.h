/* figure_front.h - a picture of the front of the simulated board, as it is now. */
#ifndef BOOTLACE_FIGURE_FRONT_H
#define BOOTLACE_FIGURE_FRONT_H

#include "figure.h"
#include "simulation/simulation.h"

/* PNG, SVG or PDF, by the ending of path. BL_E_UNSUPPORTED, BL_E_IO; reported. */
bl_status figure_front(const simulation *s, const char *path, const bl_sink *sink);

#endif
