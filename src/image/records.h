/* records.h - what the two record formats share: lines of hexadecimal byte pairs. */
#ifndef BOOTLACE_SRC_RECORDS_H
#define BOOTLACE_SRC_RECORDS_H

#include "base/core.h"
#include "bootlace/imagefile.h"

enum { BL_RECORD_DATA = 16, BL_RECORD_MAX = 260 };

typedef struct bl_records {
    const char *name;
    bl_image *image;
    const bl_sink *sink;
    uint32_t line;
    bl_text text;     /* the current line */
    bl_status status; /* of the first fault */
    unsigned faults;
    uint32_t file;  /* origin index */
    uint32_t base;  /* HEX: what the last 02 or 04 record set */
    bool segmented; /* HEX: by a 02 record */
    bool ended;
    uint32_t data_records;
    uint8_t bytes[BL_RECORD_MAX];
    size_t count;
} bl_records;

/* Writes a byte as two digits; returns where the next goes. */
static inline char *bl_put_hex(char *at, unsigned byte)
{
    static const char digits[] = "0123456789ABCDEF";
    at[0] = digits[byte >> 4 & 15];
    at[1] = digits[byte & 15];
    return at + 2;
}

/* Notes a fault at a column (0: the whole line). */
void bl_records_fault(bl_records *r, bl_status status, size_t column, size_t length,
                      const char *hint, const char *message, ...) BL_PRINTF(6, 7);

/* Turns text from skip on into r->bytes. False after a fault. */
bool bl_records_decode(bl_records *r, size_t skip);

/* Adds data of the current record to the image, faults told. */
void bl_records_put(bl_records *r, uint32_t address, const uint8_t *bytes, size_t count);

/* Runs take over all lines, then looks that the end was seen. */
bl_status bl_records_each(bl_records *r, const void *bytes, size_t count,
                          void (*take)(bl_records *r), const char *end_hint);

bl_status bl_hex_read(bl_records *r, const void *bytes, size_t count);
bl_status bl_srec_read(bl_records *r, const void *bytes, size_t count);
bl_status bl_hex_write(const bl_image *image, const bl_writer *writer);
bl_status bl_srec_write(const bl_image *image, const char *title, const bl_writer *writer);

#endif
