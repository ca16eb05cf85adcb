/* parallel.h - bytes over eight data lines with strobe and ready. The far side is Grommet, a loader
 * for a parallel port with an interrupt. docs/parallel.md.
 *
 * Without I/O, as the others: the pump tells whether ready is up, and does to the lines what comes
 * back.
 */
#ifndef BOOTLACE_PARALLEL_H
#define BOOTLACE_PARALLEL_H

#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_lines_do {
    BL_LINES_HOLD,    /* nothing; look again when ready changes, or at the deadline */
    BL_LINES_PUT,     /* put the byte on the data lines, then strobe up */
    BL_LINES_RELEASE, /* strobe down */
} bl_lines_do;

typedef struct bl_rows {
    const bl_piece *pieces;
    size_t piece_count, piece, at;
    bool run;
    uint32_t entry;
    bl_status status; /* BL_E_BUSY while it goes on */
    unsigned step, phase;
    uint8_t row[3], sum; /* the header; of what was sent in the row */
    size_t position, size;
    uint64_t deadline;
    size_t done, total; /* payload bytes in rows that were good, of all */
} bl_rows;

/* Sends the pieces, whose addresses have 16 bits; then starts at entry if run. */
void bl_rows_begin(bl_rows *r, const bl_piece *pieces, size_t piece_count, bool run, uint32_t entry,
                   uint64_t now);
/* What to do with the lines now. BL_LINES_PUT: *byte goes on them. */
bl_lines_do bl_rows_next(bl_rows *r, bool ready, uint64_t now, uint8_t *byte);
/* BL_E_BUSY; BL_OK: each row's sum of memory was right; BL_E_TIMEOUT: nobody took a byte;
 * BL_E_REFUSED: a row's sum was wrong, the far side has stopped; BL_E_LINE: it stopped in a row. */
static inline bl_status bl_rows_status(const bl_rows *r)
{
    return r->status;
}

#ifdef __cplusplus
}
#endif
#endif
