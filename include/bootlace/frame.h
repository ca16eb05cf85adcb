/* frame.h - frames on a serial line, shared by Eyelet and the programmer. docs/link.md.
 *
 * Framing is RFC 1662's for asynchronous lines (flag $7E, escape $7D, FCS-16). Between the flags:
 *   kind, sequence, length, payload (length bytes), FCS low, FCS high.
 */
#ifndef BOOTLACE_FRAME_H
#define BOOTLACE_FRAME_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_FRAME_FLAG = 0x7E,
    BL_FRAME_ESCAPE = 0x7D,
    BL_FRAME_FLIP = 0x20,   /* what an escaped byte is changed with */
    BL_FRAME_PAYLOAD = 240, /* the most payload bytes */
    BL_FRAME_OVERHEAD = 5,  /* kind, sequence, length, FCS */
    BL_FRAME_WIRE = 2 * (BL_FRAME_PAYLOAD + BL_FRAME_OVERHEAD) + 2, /* the most bytes on the line */
};

typedef struct bl_frame {
    uint8_t kind;
    uint8_t sequence;
    uint8_t length;
    uint8_t payload[BL_FRAME_PAYLOAD];
} bl_frame;

/* Encodes a frame into wire, which needs BL_FRAME_WIRE bytes. Returns how many bytes to send. */
size_t bl_frame_encode(const bl_frame *frame, uint8_t *wire);

/* Collects bytes from a line. Zero it to begin. */
typedef struct bl_frame_reader {
    uint8_t bytes[BL_FRAME_PAYLOAD + BL_FRAME_OVERHEAD];
    size_t count;
    bool open; /* a flag was seen */
    bool escaped;
    bool overrun;
} bl_frame_reader;

typedef enum bl_frame_event { BL_FRAME_NOTHING, BL_FRAME_GOOD, BL_FRAME_DAMAGED } bl_frame_event;

/* Takes one byte. BL_FRAME_GOOD: frame holds a frame whose checksum and length are right.
 * BL_FRAME_DAMAGED: one ended that was not right, and is dropped. */
bl_frame_event bl_frame_take(bl_frame_reader *reader, uint8_t byte, bl_frame *frame);

/* Numbers in payloads are low byte first. width: bytes, 1 to 4. The payload must have room. */
void bl_frame_put(bl_frame *frame, uint32_t value, unsigned width);
uint32_t bl_frame_number(const uint8_t *at, unsigned width);
void bl_frame_store(uint8_t *at, uint32_t value, unsigned width);

/* Must this byte be escaped on the line? */
static inline bool bl_frame_escapes(uint8_t byte)
{
    return byte == BL_FRAME_FLAG || byte == BL_FRAME_ESCAPE;
}

#ifdef __cplusplus
}
#endif
#endif
