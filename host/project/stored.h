/* stored.h - a program that is kept in RAM with a battery, and starts at power-on (docs/tongue.md).
 */
#ifndef BOOTLACE_HOST_STORED_H
#define BOOTLACE_HOST_STORED_H

#include "bench/bench.h"

enum { STORED_HEAD = 6 }; /* bytes of the area stored_head that are used */

/* The program without holes, from the beginning of the area stored on, and the head that proves it.
 * *image is the caller's to close. NULL, with *why to be freed: it cannot be kept. */
bl_image *stored_image(const bench *b, const bl_image *program, char **why);

#endif
