/* figure_plan.h - the picture of a machine's memory and of the chips that hold it. */
#ifndef BOOTLACE_FIGURE_PLAN_H
#define BOOTLACE_FIGURE_PLAN_H

#include "bench/bench.h"
#include "figure.h"

/* Draws it into a file of the type that its ending asks for. */
bl_status figure_plan(const bench *b, const bl_image *image, const char *path, const bl_sink *sink);

#endif
