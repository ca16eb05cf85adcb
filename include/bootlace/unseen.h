/* unseen.h - address lines whose failure a chip's contents cannot show.
 *
 * When a line of the socket is stuck, two halves of the chip are one. If both should hold the same,
 * as in a chip that is nearly blank or repeats itself, reading it back finds nothing wrong, and on
 * the board the other half is empty. What can tell is a byte that is different for a moment.
 */
#ifndef BOOTLACE_UNSEEN_H
#define BOOTLACE_UNSEEN_H

#include "image.h"
#include "part.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_LINES_MAX = 32 };

/* Bit n: the contents stay the same when address line n is turned over. size: a power of two. */
uint32_t bl_unseen_lines(const uint8_t *bytes, uint32_t size);

/* A page with its last byte changed, and the pages that must stay as they are when it is written.
 * Pieces point into the probe and into bytes. */
typedef struct bl_line_probe {
    uint8_t page[BL_PAGE_MAX];
    bl_piece changed;  /* the page, to be written and read back */
    bl_piece original; /* the same as it should be */
    bl_piece others[BL_LINES_MAX];
    uint8_t line[BL_LINES_MAX]; /* of each of the others: the line that leads there */
    size_t other_count;
} bl_line_probe;

/* For the lines that unseen names. A line within the page shows when the page itself is read back:
 * what is wrong differs from the last byte's address in that line. The last byte itself wrong: the
 * part took nothing, and nothing was tried. */
void bl_line_probe_make(bl_line_probe *probe, const uint8_t *bytes, const bl_part *part,
                        uint32_t unseen);

#ifdef __cplusplus
}
#endif
#endif
