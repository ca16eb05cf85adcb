/* figure_disk.h - a disk as a picture: a box for each run of sectors, coloured by what it belongs
 * to, and who has which. */
#ifndef BOOTLACE_FIGURE_DISK_H
#define BOOTLACE_FIGURE_DISK_H

#include "disk/disk_map.h"
#include "figure.h"

enum { FIGURE_DISK_COLUMNS = 72, FIGURE_DISK_ROWS = 40 };

/* What is drawn besides the cells. */
typedef struct figure_disk_words {
    const char *title, *shape, *state; /* "skerry.img", "fat12, 1440 KiB, ...", "whole" */
    bool whole;
} figure_disk_words;

/* Draws a map of at most FIGURE_DISK_COLUMNS * FIGURE_DISK_ROWS cells; the type by the ending of
 * path. BL_E_RANGE: it is none. Reported. */
bl_status figure_disk(const disk_map *map, const figure_disk_words *words, const char *path,
                      const bl_sink *sink);

#endif
