/* acked.h - acknowledged bytes: every byte is answered before the next one leaves. The remote is
 * Aglet, a loader of less than 80 bytes. docs/aglet.md.
 */
#ifndef BOOTLACE_ACKED_H
#define BOOTLACE_ACKED_H

#include "image.h"
#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_ACKED_ROW = 255 }; /* bytes behind one header, at most */

/* What the byte that was sent last is. */
typedef enum bl_acked_step {
    BL_ACKED_FIND,   /* a filler, until a reset of the sum is seen */
    BL_ACKED_SETTLE, /* one of three more: then a header is due, with the sum at 0 */
    BL_ACKED_HEADER, /* of a header */
    BL_ACKED_DATA,   /* of the bytes behind it */
    BL_ACKED_CLOSE,  /* after the last row: a header that is none confirms its sum */
    BL_ACKED_RUN,    /* of a header with count 0 and the entry */
} bl_acked_step;

typedef struct bl_acked {
    bl_transport transport; /* must be first */
    const bl_piece *pieces;
    size_t piece_count;
    bool run;
    uint32_t entry;
    bl_acked_step step;
    unsigned position;  /* bytes of this step that were answered */
    uint8_t byte;       /* the last that was sent */
    uint8_t sum;        /* what Aglet's sum is, as far as is known */
    bool known;         /* it is */
    uint8_t row[4];     /* the header */
    size_t piece, at;   /* where the row begins */
    size_t size, max;   /* of the row; of the next ones, less on a bad line */
    unsigned good, bad; /* rows in a row that went through; errors since the last that did */
    unsigned fillers;   /* the same */
    unsigned silent;    /* bytes in a row that were not answered */
    size_t last_size;   /* of the row before, until its sum is confirmed */
    bool run_doubted;   /* the last answer did not come: it runs, or it does not */
} bl_acked;

/* Sends the pieces, whose addresses have 16 bits; then starts at entry if run. Every answer is
 * Aglet's sum of all bytes, each read back from memory, so at the end all are verified by an 8-bit
 * sum, and each by its own answer. BL_E_LINE also when memory does not keep what is stored.
 * BL_E_RANGE, at once: an address has more than 16 bits. */
void bl_acked_send(bl_acked *a, uint32_t baud, const bl_piece *pieces, size_t piece_count, bool run,
                   uint32_t entry, uint64_t now);

/* The address of the byte last sent. */
uint32_t bl_acked_where(const bl_acked *a);

#ifdef __cplusplus
}
#endif
#endif
