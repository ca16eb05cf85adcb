/* xmodem.h - XMODEM, both directions: checksum, CRC-16, and blocks of 1,024 bytes. docs/xmodem.md.
 *
 * Source: the protocol as Ward Christensen described it in 1982, with the CRC option and the 1K
 * blocks that became common later. The receiver begins, by asking for a checksum (NAK) or for a
 * CRC ('C').
 */
#ifndef BOOTLACE_XMODEM_H
#define BOOTLACE_XMODEM_H

#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_XMODEM_SMALL = 128, BL_XMODEM_LARGE = 1024, BL_XMODEM_MAX = BL_XMODEM_LARGE + 5 };

/* What is waited for. */
typedef enum bl_xmodem_step {
    BL_XMODEM_WAIT_START, /* sending: until the receiver asks for the first block */
    BL_XMODEM_WAIT_BLOCK, /* sending: until a block is acknowledged */
    BL_XMODEM_WAIT_END,   /* sending: until the end is */
    BL_XMODEM_WAIT_FIRST, /* receiving: nothing has come yet; go on asking */
    BL_XMODEM_WAIT_HEAD,  /* receiving: until a block begins */
    BL_XMODEM_WAIT_REST,  /* receiving: in a block */
    BL_XMODEM_WAIT_QUIET, /* receiving: something was wrong; let the sender finish, then retry */
} bl_xmodem_step;

typedef struct bl_xmodem {
    bl_transport transport; /* must be first */
    const uint8_t *bytes;
    uint8_t *buffer;
    size_t capacity, size; /* receiving: size bytes are known to come; 0: not known */
    bool large;            /* may send, or has seen, blocks of 1,024 */
    bool crc;              /* the receiver asked for it */
    uint8_t fill;
    uint8_t block[BL_XMODEM_MAX];
    uint8_t say[2];
    size_t count;   /* receiving: bytes of the block so far */
    size_t data;    /* payload of the block under way */
    uint8_t serial; /* of the block that is due */
    bl_xmodem_step step;
    unsigned retries; /* of this block, or of the beginning */
    unsigned cancels; /* CAN in a row */
    unsigned ends;    /* EOT in a row */
    size_t padding;   /* bytes sent, or received, behind the payload to fill the last block */
} bl_xmodem;

/* Sends count bytes. large allows blocks of 1,024 bytes; what is left over at the end goes in
 * small ones. The last block is filled up with fill ($1A is usual): padding tells with how many.
 * BL_E_REFUSED: the receiver cancelled. */
void bl_xmodem_send(bl_xmodem *x, uint32_t baud, const uint8_t *bytes, size_t count, bool large,
                    uint8_t fill, uint64_t now);

/* Receives into buffer; transport.done tells how many bytes. XMODEM does not tell the length: when
 * size is known, what comes behind it counts as padding; when it is 0, everything is taken and the
 * padding is part of it. crc false asks for checksums only. BL_E_RANGE: more came than fits;
 * BL_E_REFUSED: the sender cancelled; BL_E_DIFFERS: less than size came. */
void bl_xmodem_receive(bl_xmodem *x, uint32_t baud, uint8_t *buffer, size_t capacity, size_t size,
                       bool crc, uint64_t now);

/* Stops: says so to the remote, so that it is usable again. */
void bl_xmodem_cancel(bl_xmodem *x, uint64_t now);

#ifdef __cplusplus
}
#endif
#endif
