/* figure_tape.h - takes as pictures: how good they are from begin to end, and the signal at one
 * place with the bits that were made of it. */
#ifndef BOOTLACE_FIGURE_TAPE_H
#define BOOTLACE_FIGURE_TAPE_H

#include "figure.h"
#include "tape/tape_programs.h"

typedef struct figure_takes {
    take *const *takes;
    guint count;
    const GPtrArray *programs; /* tape_program *; may be NULL */
} figure_takes;

/* Where in a take somebody should look: its first bad block, or else its first doubtful byte, or
 * else its first byte. Microseconds. */
uint64_t figure_tape_place(const figure_takes *f, guint index);

/* Draws all takes; the type by the ending of path. BL_E_RANGE: it is none. Reported. */
bl_status figure_tape(const figure_takes *f, const char *path, const bl_sink *sink);

#endif
