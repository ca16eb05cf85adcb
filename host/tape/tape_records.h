/* tape_records.h - hexadecimal records among the bytes of a tape. */
#ifndef BOOTLACE_TAPE_RECORDS_H
#define BOOTLACE_TAPE_RECORDS_H

#include "bootlace/imagefile.h"
#include "tape_bytes.h"

typedef struct tape_record_fault {
    uint64_t at; /* microseconds */
    unsigned take;
    char *line;           /* as it was heard, made printable */
    uint32_t after, next; /* addresses: where the good record before it ends, where the one behind
                             it begins; both UINT32_MAX: not known */
} tape_record_fault;

typedef struct tape_records {
    bl_filetype type;  /* BL_FILE_UNKNOWN: no record was heard */
    GPtrArray *copies; /* char *: records whose checksum is right, a line each; a new text behind
                          each end record */
    guint count;       /* good records */
    bool ended;        /* an end record is among them */
    GArray *faults;    /* tape_record_fault: lines that begin like a record, and are none */
} tape_records;

/* What of all copies is good, together. BL_E_OVERLAP: they are at odds, *where says at which
 * address. The faults that it leaves open are counted in *open. */
bl_status tape_records_image(const tape_records *r, bl_image **image, uint32_t *where, guint *open);

/* The records in a row of bytes (tape_sum). */
void tape_records_find(const GArray *row, tape_records *r);
/* Good records of another row of the same, too; its faults are nobody's business. */
void tape_records_more(const GArray *row, tape_records *r);
void tape_records_clear(tape_records *r);

#endif
