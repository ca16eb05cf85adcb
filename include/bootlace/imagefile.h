/* imagefile.h - images to and from files: raw binary, Intel HEX, Motorola S-record.
 *
 * Sources: "Hexadecimal Object File Format Specification", revision A (record types 00 to 05);
 * the Motorola S-record description (S0 to S9).
 */
#ifndef BOOTLACE_IMAGEFILE_H
#define BOOTLACE_IMAGEFILE_H

#include "diag.h"
#include "image.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_filetype { BL_FILE_UNKNOWN, BL_FILE_BIN, BL_FILE_HEX, BL_FILE_SREC } bl_filetype;

/* "bin", "hex" or "srec", in either case; BL_FILE_UNKNOWN for anything else. */
bl_filetype bl_filetype_named(bl_text name);
/* By a file name's ending: .bin .rom; .hex .ihx .ihex; .srec .s19 .s28 .s37 .mot. */
bl_filetype bl_filetype_of(bl_text path);
/* Records: HEX and S-record, which carry their addresses. */
bool bl_filetype_is_records(bl_filetype type);
/* The name, for messages: "raw binary", "Intel HEX", "S-record". */
const char *bl_filetype_text(bl_filetype type);

/* Reads a whole file's contents into image (which may already hold bytes). name is for messages. at
 * is the address of the first byte of a raw binary; the others carry their addresses. Every fault
 * of the file is reported with its line. BL_E_SYNTAX: malformed; BL_E_CHECKSUM, BL_E_OVERLAP: the
 * first fault was of that kind; BL_E_RANGE; BL_E_MEMORY. On failure the image may hold part of the
 * file: close it. */
bl_status bl_imagefile_read(bl_filetype type, const char *name, const void *bytes, size_t count,
                            uint32_t at, bl_image *image, const bl_sink *sink);

/* Writes the image. Raw binary runs from the first byte to the last, gaps filled with fill. HEX and
 * S-record write 16 bytes a record, the entry point, and the end record; an S-record end record
 * with address 0 means that no entry was given, so an entry of 0 does not survive there. title goes
 * into S0 (may be NULL). BL_E_RANGE: a raw binary of more than 2^31 bytes. Otherwise the writer's
 * status. */
bl_status bl_imagefile_write(bl_filetype type, const bl_image *image, uint8_t fill,
                             const char *title, const bl_writer *writer);

#ifdef __cplusplus
}
#endif
#endif
