/* embedded.h - firmware, and examples that projects start from, compiled in as data; the build
 * makes the tables from firmware/ and examples/. */
#ifndef BOOTLACE_EMBEDDED_H
#define BOOTLACE_EMBEDDED_H

#include <stddef.h>

typedef struct host_shipped {
    const char *name;
    const unsigned char *bytes;
    size_t size;
} host_shipped;

extern const host_shipped host_firmware[];
extern const size_t host_firmware_count;
extern const host_shipped host_templates[];
extern const size_t host_templates_count;

#endif
