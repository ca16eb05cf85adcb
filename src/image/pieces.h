/* pieces.h - the bytes of an image: pieces in rising order, none touching the next.
 *
 * They stand in chunks of a bounded size, and a piece has room in front of its bytes as well as
 * behind them: so a file whose records come in falling order, or in none, takes time that grows as
 * the file does.
 */
#ifndef BOOTLACE_SRC_PIECES_H
#define BOOTLACE_SRC_PIECES_H

#include "base/core.h"
#include "bootlace/image.h"

typedef struct piece {
    uint32_t first;
    size_t count;
    uint8_t *block; /* the bytes begin lead bytes behind its beginning */
    size_t lead, capacity;
} piece;

typedef struct chunk {
    piece *pieces;
    size_t count, capacity;
} chunk;

typedef struct pieces {
    chunk *chunks; /* none is empty */
    size_t count, capacity;
} pieces;

/* Where a piece stands; chunk is pieces.count when there is none. */
typedef struct place {
    size_t chunk, at;
} place;

static inline uint8_t *piece_bytes(const piece *p)
{
    return p->block + p->lead;
}

static inline uint64_t piece_end(const piece *p)
{
    return (uint64_t)p->first + p->count;
}

void pieces_free(pieces *s, const bl_memory *memory);
/* The first piece that ends behind address. */
place pieces_find(const pieces *s, uint32_t address);
/* The piece at a place, or NULL. */
piece *pieces_at(const pieces *s, place where);
place pieces_next(const pieces *s, place where);
/* The one before; false: there is none. */
bool pieces_before(const pieces *s, place where, place *before);
/* How many there are, and the place of one. */
size_t pieces_total(const pieces *s);
place pieces_numbered(const pieces *s, size_t index);

/* Adds bytes at an address that has none: to the piece before, to the piece behind, or as a piece
 * of their own. BL_E_MEMORY: everything is as it was. */
bl_status pieces_put(pieces *s, const bl_memory *memory, uint32_t address, const uint8_t *bytes,
                     size_t count);

#endif
