/* vector.h - where the CPU goes by itself, read from an image. */
#ifndef BOOTLACE_VECTOR_H
#define BOOTLACE_VECTOR_H

#include "image.h"
#include "sheet.h"

#ifdef __cplusplus
extern "C" {
#endif

/* The address that stands at a vector, of as many units as the sheet's addresses take and in its
 * order. False: the CPU runs what stands there, or some of its bytes are not in the image. */
bool bl_vector_target(const bl_sheet *sheet, const bl_vector *vector, const bl_image *image,
                      uint32_t *target);

#ifdef __cplusplus
}
#endif
#endif
