/* wrap.h - what a machine's loader wants around a program in a file: a head, a foot, an end mark,
 * as a description says, field by field. Added on the way in, checked and taken off on the way out.
 */
#ifndef BOOTLACE_WRAP_H
#define BOOTLACE_WRAP_H

#include "diag.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_WRAP_FIELDS = 16, BL_WRAP_TEXT = 32, BL_WRAP_NAME = 24, BL_WRAP_MOST = 512 };

typedef enum bl_wrap_kind {
    BL_WRAP_TEXT_FIELD, /* text, filled up to size */
    BL_WRAP_NUMBER,     /* a constant */
    BL_WRAP_FILE,       /* the program's name, filled up or cut to size */
    BL_WRAP_LENGTH,     /* bytes of the program */
    BL_WRAP_LOAD,       /* its first address */
    BL_WRAP_LAST,       /* its last address */
    BL_WRAP_END,        /* the address behind that */
    BL_WRAP_ENTRY,      /* where it starts */
    BL_WRAP_SUM8,       /* sums over bytes: modulo 256; */
    BL_WRAP_SUM16,      /* modulo 65,536 */
    BL_WRAP_MINUS8,     /* what makes the sum modulo 256 become 0 */
    BL_WRAP_XOR8,
    BL_WRAP_CRC16, /* crc.h */
    BL_WRAP_CRC32,
} bl_wrap_kind;

/* What a sum goes over. */
typedef enum bl_wrap_over {
    BL_WRAP_OVER_DATA, /* the program */
    BL_WRAP_OVER_HEAD, /* of the head, what is before the sum */
    BL_WRAP_OVER_ALL,  /* all that is before the sum */
} bl_wrap_over;

typedef struct bl_wrap_field {
    bl_wrap_kind kind;
    uint8_t size; /* bytes: of numbers 1 to 4 */
    bool big;     /* the highest byte first */
    int32_t plus; /* added to a number: a length that counts the head, or is one less */
    uint32_t value;
    char text[BL_WRAP_TEXT + 1];
    uint8_t pad; /* of text and names */
    bl_wrap_over over;
} bl_wrap_field;

typedef struct bl_wrap {
    char name[BL_WRAP_NAME];
    bl_wrap_field field[BL_WRAP_FIELDS]; /* of the head, then of the foot */
    size_t head, foot;                   /* how many */
} bl_wrap;

/* A program: what is between head and foot. */
typedef struct bl_wrapped {
    const uint8_t *bytes;
    uint32_t size;
    bool has_load, has_entry;
    uint32_t load, entry;
    char name[BL_WRAP_TEXT + 1];
} bl_wrapped;

/* Bytes of head and foot. */
uint32_t bl_wrap_head_bytes(const bl_wrap *w);
uint32_t bl_wrap_foot_bytes(const bl_wrap *w);
/* Writes head and foot of a program: room for BL_WRAP_MOST each. BL_E_NOT_FOUND: a field asks for
 * an address that the program does not have; BL_E_RANGE: a value does not fit its field; told. */
bl_status bl_wrap_make(const bl_wrap *w, const bl_wrapped *program, const bl_sink *sink,
                       uint8_t *head, uint8_t *foot);
/* Takes a file apart, and checks each field. rest: up to so many bytes may follow the foot, as on
 * disks that count records. *program points into bytes. BL_E_SYNTAX: it has no such head or foot,
 * or another length; BL_E_CHECKSUM; told. */
bl_status bl_wrap_take(const bl_wrap *w, const uint8_t *bytes, uint32_t size, uint32_t rest,
                       const bl_sink *sink, bl_wrapped *program);

#ifdef __cplusplus
}
#endif
#endif
