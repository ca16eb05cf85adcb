/* shipped.h - sheets compiled in as data; the build makes the table from sheets/. */
#ifndef BOOTLACE_SRC_ISA_SHIPPED_H
#define BOOTLACE_SRC_ISA_SHIPPED_H

#include <stddef.h>

typedef struct bl_shipped {
    const char *name;
    const unsigned char *bytes;
    size_t size;
} bl_shipped;

extern const bl_shipped bl_shipped_sheets[];
extern const size_t bl_shipped_sheets_count;

#endif
