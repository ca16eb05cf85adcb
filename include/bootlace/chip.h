/* chip.h - the plan: how an image is cut onto real chips. */
#ifndef BOOTLACE_CHIP_H
#define BOOTLACE_CHIP_H

#include "diag.h"
#include "image.h"
#include "part.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Where a board decodes (a piece of) a chip. */
typedef struct bl_chip_map {
    bl_range cpu;    /* addresses of the CPU */
    uint32_t offset; /* of the first of them within the chip */
} bl_chip_map;

enum { BL_CHIP_MAPS = 8 };

typedef struct bl_chip {
    const char *name; /* position on the board: "U5" */
    const bl_part *part;
    bl_chip_map maps[BL_CHIP_MAPS];
    size_t map_count;
    uint8_t fill;
} bl_chip;

/* The chip that a CPU address reads, and the offset in it; NULL when none does. */
const bl_chip *bl_chip_at(const bl_chip *chips, size_t count, uint32_t address, uint32_t *offset);

/* The CPU address at which a byte of the chip is seen; false when the board does not decode it. */
bool bl_chip_cpu_address(const bl_chip *chip, uint32_t offset, uint32_t *address);

/* The whole contents of a chip for an image: bytes needs part->size. *used: how many came from the
 * image. */
void bl_chip_contents(const bl_chip *chip, const bl_image *image, uint8_t *bytes, uint32_t *used);

/* Reports each run of image bytes that no chip holds. Returns how many bytes that were. */
uint64_t bl_chip_strays(const bl_chip *chips, size_t count, bl_image *image, const bl_sink *sink);

#ifdef __cplusplus
}
#endif
#endif
