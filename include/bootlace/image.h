/* image.h - sparse memory contents: bytes with addresses, an entry point, and the source line that
 * each byte came from.
 *
 * An image never holds two values for one address: a second source for a byte is BL_E_OVERLAP and
 * changes nothing.
 */
#ifndef BOOTLACE_IMAGE_H
#define BOOTLACE_IMAGE_H

#include "base.h"
#include "number.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct bl_image bl_image;

/* A place in a source. file is an index from bl_image_file; 0 means unknown. line counts from 1. */
typedef struct bl_origin {
    uint32_t file;
    uint32_t line;
} bl_origin;

/* A run of bytes without a gap. bytes belongs to the image and is valid until it changes. */
typedef struct bl_piece {
    uint32_t first;
    size_t count;
    const uint8_t *bytes;
} bl_piece;

/* Does any of the pieces reach the address limit, or beyond? *where: the first that does. A
 * protocol whose addresses have fewer bits than the machine's would carry it to another place. */
static inline bool bl_pieces_reach(const bl_piece *pieces, size_t count, uint64_t limit,
                                   uint32_t *where)
{
    for (size_t i = 0; i < count; i++) {
        if (pieces[i].count == 0 || pieces[i].first + (uint64_t)pieces[i].count <= limit) continue;
        *where = pieces[i].first < limit ? (uint32_t)limit : pieces[i].first;
        return true;
    }
    return false;
}

/* Makes an empty image; *memory is copied. BL_E_MEMORY. Close with bl_image_close (NULL is fine).
 */
bl_status bl_image_open(const bl_memory *memory, bl_image **image);
void bl_image_close(bl_image *image);

/* The index of a file name (copied), for origins; the same name gives the same index. BL_E_MEMORY;
 * BL_E_RANGE: more than 65,535 files. */
bl_status bl_image_file(bl_image *image, bl_text name, uint32_t *index);
/* The name behind an index, or NULL. */
const char *bl_image_file_name(const bl_image *image, uint32_t index);

/* Adds count bytes from address on. BL_E_RANGE: beyond 32 bits. BL_E_OVERLAP: an address among them
 * is taken (bl_image_conflict tells which). BL_E_MEMORY. On failure the image is as before. */
bl_status bl_image_put(bl_image *image, uint32_t address, const void *bytes, size_t count,
                       bl_origin origin);

/* Makes room for so many origins ahead of time; only a hint, so it cannot fail. */
void bl_image_reserve(bl_image *image, size_t origins);

/* The first address in range that has a byte; false when there is none. */
bool bl_image_conflict(const bl_image *image, bl_range range, uint32_t *address);

/* Adds all of from, its origins and (if into has none) its entry. BL_E_OVERLAP: *conflict is the
 * first address that both have, and into is unchanged. conflict may be NULL. */
bl_status bl_image_merge(bl_image *into, bl_image *from, uint32_t *conflict);

/* Copies into buffer what the image holds of count bytes from address on; the rest becomes fill.
 * Returns how many bytes were really there. */
size_t bl_image_copy(const bl_image *image, uint32_t address, size_t count, uint8_t fill,
                     uint8_t *buffer);

/* The byte at an address; false when there is none. */
bool bl_image_get(const bl_image *image, uint32_t address, uint8_t *byte);

/* Pieces in rising order, never touching. */
size_t bl_image_pieces(const bl_image *image);
bl_piece bl_image_piece(const bl_image *image, size_t index);

/* How many bytes the image holds within a range. */
uint64_t bl_image_count(const bl_image *image, bl_range range);

/* Bytes held. */
uint64_t bl_image_size(const bl_image *image);

/* Where the byte at address was written. {0, 0} when unknown. May sort an index inside. */
bl_origin bl_image_origin(bl_image *image, uint32_t address);

void bl_image_set_entry(bl_image *image, uint32_t address);
bool bl_image_entry(const bl_image *image, uint32_t *address);

typedef enum bl_image_difference {
    BL_IMAGE_DIFFERS, /* both have the bytes, and all of them differ */
    BL_IMAGE_ONLY_FIRST,
    BL_IMAGE_ONLY_SECOND,
} bl_image_difference;

/* Compares two images byte for byte and visits each range in which they differ, by rising address.
 * True: they are the same. Entry points and origins are not compared. */
bool bl_image_compare(const bl_image *first, const bl_image *second, void *context,
                      void (*visit)(void *context, bl_image_difference kind, bl_range range));

#ifdef __cplusplus
}
#endif
#endif
