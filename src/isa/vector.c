/* vector.c - the address that stands at a vector. */
#include "bootlace/vector.h"

/* An address, or code that runs from there: what the CPU would do with the bytes. */
bool bl_vector_target(const bl_sheet *sheet, const bl_vector *v, const bl_image *image,
                      uint32_t *target)
{
    uint8_t bytes[16];
    unsigned units = bl_sheet_address_units(sheet), wide = bl_sheet_unit_bytes(sheet);
    size_t count = (size_t)units * wide;
    bool big = bl_sheet_order(sheet) == BL_BIG;
    if (v->runs || count > sizeof bytes ||
        bl_image_copy(image, v->address * wide, count, 0, bytes) < count)
        return false;
    *target = 0;
    /* From the highest unit down, and in it from the highest byte down. */
    for (unsigned i = 0; i < units; i++) {
        const uint8_t *unit = bytes + (size_t)(big ? i : units - 1 - i) * wide;
        uint32_t value = 0;
        for (unsigned k = 0; k < wide; k++)
            value = value << 8 | unit[big ? k : wide - 1 - k];
        *target = *target << bl_sheet_unit_bits(sheet) | value;
    }
    return true;
}
