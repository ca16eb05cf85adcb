/* method.h - the methods: how bytes get into a machine's memory, and back. docs/send.md.
 *
 * Each is one row of a table: its name in files and on the command line, what it needs, what it
 * makes sure of, and the transport that carries the bytes. Everything that must know which methods
 * there are asks the table; to add one, add a row (docs/hacking.md). The table is constant data and
 * may be read from anywhere.
 */
#ifndef BOOTLACE_METHOD_H
#define BOOTLACE_METHOD_H

#include "acked.h"
#include "bare.h"
#include "image.h"
#include "imagefile.h"
#include "lines.h"
#include "packets.h"
#include "transfer.h"
#include "xmodem.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_method {
    BL_METHOD_EYELET,    /* our monitor, drive_frames.h */
    BL_METHOD_ACKED,     /* acked.h */
    BL_METHOD_XMODEM,    /* xmodem.h, blocks of 128 bytes */
    BL_METHOD_XMODEM_1K, /* the same, of 1,024 */
    BL_METHOD_BARE,      /* bare.h */
    BL_METHOD_HEX,       /* Intel HEX records as lines.h */
    BL_METHOD_SREC,      /* Motorola S-records as lines.h */
    BL_METHOD_PACKETS,   /* packets.h */
    BL_METHOD_BLIND,     /* packets that nobody answers, sent several times */
    BL_METHOD_PARALLEL,  /* parallel.h; no serial line */
    BL_METHOD_TYPING,    /* deposit commands of a dialogue */
    BL_METHOD_NONE,      /* no method; also how many there are */
} bl_method;

/* Room for any of the transports, so that one may be chosen at run time. */
typedef union bl_carrier {
    bl_transport transport; /* all begin with it */
    bl_acked acked;
    bl_xmodem xmodem;
    bl_bare bare;
    bl_lines lines;
    bl_packets packets;
} bl_carrier;

/* What is to be carried. All that it points at must outlive the carrying. */
typedef struct bl_cargo {
    const bl_piece *pieces; /* one, unless the method takes all */
    size_t piece_count;
    bl_text records;               /* the same as text, for methods with records */
    const bl_lines_manner *manner; /* for those: how lines are sent */
    uint32_t baud;
    uint32_t pace_us;       /* BARE: pause after each byte */
    uint8_t packet, rounds; /* PACKETS, BLIND: bytes of payload, how often; 0: as usual */
    bool run;               /* for methods that start: at entry, afterwards */
    uint32_t entry;
    uint8_t *buffer; /* receiving: where count bytes go */
    size_t count;
} bl_cargo;

typedef struct bl_method_row {
    const char *name;     /* in files and commands: "xmodem-1k" */
    const char *remote;   /* what is at the other end, for messages; NULL: nobody knows */
    bool needs_dialogue;  /* cannot be used without one */
    bool takes_all;       /* carries all pieces at once, with their addresses */
    bool starts;          /* can start a program by itself */
    uint8_t address_bits; /* that it can address; what lies beyond would go elsewhere */
    uint16_t fills;       /* what is carried is filled up to a multiple of so many bytes */
    bl_filetype records;  /* BL_FILE_UNKNOWN: the bytes themselves are carried */
    bl_proof proof;       /* what the method itself makes sure of */
    /* Begins to send; NULL: this is not done by a transport. */
    void (*send)(bl_carrier *c, const bl_cargo *cargo, uint64_t now);
    /* Begins to receive cargo->count bytes; NULL: it cannot bring bytes back. */
    void (*receive)(bl_carrier *c, const bl_cargo *cargo, uint64_t now);
    /* What the transport knows besides, at the end; may be NULL. */
    void (*result)(const bl_carrier *c, const bl_cargo *cargo, bl_transfer_result *result);
} bl_method_row;

/* NULL for BL_METHOD_NONE. */
const bl_method_row *bl_method_of(bl_method method);
/* By its name; BL_METHOD_NONE: there is none of that name. */
bl_method bl_method_named(bl_text name);
/* The name of a method; NULL for BL_METHOD_NONE. */
const char *bl_method_name(bl_method method);

/* Kinds of methods, to be listed. */
bool bl_method_any(const bl_method_row *row);
bool bl_method_sends(const bl_method_row *row);
bool bl_method_receives(const bl_method_row *row);
/* Writes the names of all that fit, "bare, xmodem", terminated and cut to capacity bytes. Returns
 * text. */
const char *bl_method_list(bool (*fits)(const bl_method_row *row), char *text, size_t capacity);
enum { BL_METHOD_LIST = 160 }; /* capacity for all of them */

#ifdef __cplusplus
}
#endif
#endif
