/* base.h - what every part of Bootlace shares: status codes, memory, a place to write to.
 *
 * Conventions of the whole library:
 *   - addresses and byte counts are uint32_t; a range that ends at $FFFFFFFF has its end computed
 *     in 64 bits;
 *   - times are microseconds in uint64_t unless a name says otherwise;
 *   - text passed in is UTF-8, need not be terminated where a length is asked for, and is never
 * kept unless the function says so.
 */
#ifndef BOOTLACE_BASE_H
#define BOOTLACE_BASE_H

#include <stdarg.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

#define BL_VERSION "0.1.0"

/* 0 is good, negatives name the failure. */
typedef enum bl_status {
    BL_OK = 0,
    BL_E_MEMORY = -1,       /* the allocator gave nothing; every object is still usable or freed */
    BL_E_ARGUMENT = -2,     /* the caller broke the contract of the function */
    BL_E_RANGE = -3,        /* an address, count or value lies outside what is allowed */
    BL_E_SYNTAX = -4,       /* input is not well-formed; diagnostics say where */
    BL_E_OVERLAP = -5,      /* two sources give the same byte */
    BL_E_CHECKSUM = -6,     /* a checksum does not match */
    BL_E_NOT_FOUND = -7,    /* a file, name or symbol does not exist */
    BL_E_IO = -8,           /* a device or file failed */
    BL_E_TIMEOUT = -9,      /* nothing answered in time */
    BL_E_LINE = -10,        /* answers came, but damaged, until timeout ran out */
    BL_E_DIFFERS = -11,     /* what was read back is not what was meant */
    BL_E_REFUSED = -12,     /* the remote said no */
    BL_E_UNSUPPORTED = -13, /* understood, but not possible here */
    BL_E_BUSY = -14,        /* in use by somebody else, or not finished yet */
    BL_E_NOT_BLANK = -15,   /* a part must be erased before this can be written */
    BL_E_FULL = -16,        /* there is no room for it */
    BL_E_PROTECTED = -17,   /* a medium, or a file, must not be written to */
    BL_E_NOT_READY = -18,   /* there is no medium in a drive, or it does not turn yet */
    BL_E_DAMAGED = -19,     /* what is stored contradicts itself */
    BL_E_EXISTS = -20,      /* there is something of this name */
    BL_E_SHORT = -21,       /* the remote sent less than was asked for, and said that it was all */
    BL_E_LONG = -22,        /* the remote sent more than was asked for */
    BL_E_CANCELLED = -23,   /* the remote cancelled the transfer */
} bl_status;

/* A short English phrase for a status, for example "nothing answered in time". Never NULL. */
const char *bl_status_text(bl_status status);

/* Where memory comes from. resize behaves like realloc: block NULL allocates, size 0 frees and
 * returns NULL; on failure it returns NULL and the block stays as it was. */
typedef struct bl_memory {
    void *context;
    void *(*resize)(void *context, void *block, size_t size);
} bl_memory;

/* Where text or bytes go. Returns BL_OK or the failure, which ends the writing. */
typedef struct bl_writer {
    void *context;
    bl_status (*write)(void *context, const void *bytes, size_t count);
} bl_writer;

/* A piece of text that somebody else owns; not terminated. */
typedef struct bl_text {
    const char *at;
    size_t length; /* bytes */
} bl_text;

/* How the user likes addresses and bytes printed. */
typedef enum bl_radix { BL_HEX = 16, BL_OCTAL = 8 } bl_radix;

#ifdef __cplusplus
}
#endif
#endif
