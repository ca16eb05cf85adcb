/* chip.h - the plan: how an image is cut onto real chips. */
#ifndef BOOTLACE_CHIP_H
#define BOOTLACE_CHIP_H

#include "diag.h"
#include "image.h"
#include "part.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Where a board decodes (a piece of) a chip. With lanes, only every lanes-th address is in this
 * chip: those whose remainder is lane (even and odd: 2 lanes, lane 0 and 1). */
typedef struct bl_chip_map {
    bl_range cpu;    /* addresses of the CPU */
    uint32_t offset; /* of the first of them within the chip */
    uint8_t lanes;   /* 0 and 1: all addresses */
    uint8_t lane;
    uint8_t
        nibble; /* 0: the whole byte; 1: bits 0 to 3, 2: bits 4 to 7, in bits 0 to 3 of the chip */
    bool mirrored; /* beyond its end the chip begins again at offset */
} bl_chip_map;

enum { BL_CHIP_MAPS = 8 };

typedef struct bl_chip {
    const char *name; /* position on the board: "U5" */
    const bl_part *part;
    bl_chip_map maps[BL_CHIP_MAPS];
    size_t map_count;
    uint8_t fill;
    uint16_t access_ns; /* its grade; 0: not told */
    uint16_t copies;    /* how many with the same contents are made; 0 and 1: one */
} bl_chip;

/* Bytes of the chip that the map reaches, from its offset on. */
uint64_t bl_chip_map_size(const bl_chip *chip, const bl_chip_map *map);
/* Does the map hold this address? *offset: where in the chip; *bits: which bits of the CPU's byte.
 */
bool bl_chip_map_holds(const bl_chip *chip, const bl_chip_map *map, uint32_t address,
                       uint32_t *offset, uint8_t *bits);

/* What of a piece of an image goes into the chip through one of its maps. */
typedef struct bl_chip_run {
    uint32_t first,
        last; /* addresses of the CPU, both included, that the map and the piece share */
    uint32_t offset, highest; /* in the chip, the lowest and the highest that is used */
    uint64_t count;           /* bytes */
} bl_chip_run;
/* False: nothing does. */
bool bl_chip_map_run(const bl_chip *chip, const bl_chip_map *map, const bl_piece *piece,
                     bl_chip_run *run);

/* The (first) chip that a CPU address reads, and the offset in it; NULL when none does. */
const bl_chip *bl_chip_at(const bl_chip *chips, size_t count, uint32_t address, uint32_t *offset);
/* Which bits of the byte at this address some chip holds. */
uint8_t bl_chip_bits(const bl_chip *chips, size_t count, uint32_t address);

/* The nth CPU address at which a byte of the chip is seen, from 0; false when there are not so
 * many.
 */
bool bl_chip_address(const bl_chip *chip, uint32_t offset, size_t nth, uint32_t *address);

/* The whole contents of a chip for an image: bytes needs part->size. *used: how many bytes of the
 * image went into it. */
void bl_chip_contents(const bl_chip *chip, const bl_image *image, uint8_t *bytes, uint32_t *used);

/* Reports bytes of the chip for which the image has two different values, at addresses that reach
 * the same byte of it. bytes: what bl_chip_contents gave. Returns how many. */
uint64_t bl_chip_conflicts(const bl_chip *chip, bl_image *image, const uint8_t *bytes,
                           const bl_sink *sink);

/* Reports each run of image bytes that no chip holds. Returns how many bytes that were. */
uint64_t bl_chip_strays(const bl_chip *chips, size_t count, bl_image *image, const bl_sink *sink);

#ifdef __cplusplus
}
#endif
#endif
