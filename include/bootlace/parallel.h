/* parallel.h - bytes over eight data lines with strobe and ready. The remote is Grommet, a loader
 * for a parallel port with an interrupt. docs/parallel.md.
 *
 * A state machine without I/O: the driver (drive_parallel.h) tells whether ready is up, and does to
 * the lines what bl_rows_next answers. It allocates nothing, takes bounded time, and may be used
 * from an interrupt; one bl_rows is used by one thread at a time.
 */
#ifndef BOOTLACE_PARALLEL_H
#define BOOTLACE_PARALLEL_H

#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What is to be done to the lines. */
typedef enum bl_lines_do {
    BL_LINES_HOLD,    /* nothing; look again when ready changes, or at the deadline */
    BL_LINES_PUT,     /* put the byte on the data lines, then strobe up */
    BL_LINES_RELEASE, /* strobe down */
} bl_lines_do;

/* Half of the handshake that is waited for. */
typedef enum bl_rows_step {
    BL_ROWS_WAIT_READY, /* ready up: Grommet wants a byte */
    BL_ROWS_WAIT_TAKEN, /* ready down: it has the byte */
} bl_rows_step;

typedef struct bl_rows {
    /* for the user */
    bl_status status;   /* as bl_rows_status */
    size_t done, total; /* payload bytes in rows whose sum was right, of all */
    uint64_t deadline;  /* microseconds: call bl_rows_next then, whatever ready does */
    /* private */
    const bl_piece *pieces;
    size_t piece_count, piece, at; /* where the row begins */
    bool run;
    uint32_t entry;
    bl_rows_step step;
    uint8_t row[3];        /* the header: address high and low, count */
    uint8_t sum;           /* of what was sent in the row */
    size_t position, size; /* bytes of the row that were taken; payload of the row */
} bl_rows;

/* Begins to send piece_count pieces, whose addresses have 16 bits; run: then starts at entry. The
 * array and its bytes stay the caller's and must stay as they are until the end; r needs no
 * releasing. now: microseconds of a clock that only goes up, the same in every call.
 * BL_E_RANGE as the status, at once: an address beyond 0xFFFF, or an entry of 0, which the protocol
 * cannot start. */
void bl_rows_begin(bl_rows *r, const bl_piece *pieces, size_t piece_count, bool run, uint32_t entry,
                   uint64_t now);

/* What to do with the lines now; ready: the state of that line. BL_LINES_PUT: *byte goes on them;
 * otherwise *byte is left alone. */
bl_lines_do bl_rows_next(bl_rows *r, bool ready, uint64_t now, uint8_t *byte);

/* BL_E_BUSY while it goes on; BL_OK: each row's sum of memory was right; BL_E_TIMEOUT: for three
 * seconds nobody took a byte; BL_E_REFUSED: a row's sum was wrong, the remote has stopped;
 * BL_E_LINE: it stopped within a row; BL_E_RANGE as above. */
static inline bl_status bl_rows_status(const bl_rows *r)
{
    return r->status;
}

#ifdef __cplusplus
}
#endif
#endif
