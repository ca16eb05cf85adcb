/* xmodem_block.h - what both directions share. */
#ifndef BOOTLACE_SRC_XMODEM_H
#define BOOTLACE_SRC_XMODEM_H

#include "bootlace/xmodem.h"

enum {
    SOH = 0x01, /* a block of 128 bytes begins */
    STX = 0x02, /* a block of 1,024 bytes */
    EOT = 0x04,
    ACK = 0x06,
    NAK = 0x15,
    CAN = 0x18,
    ASK_CRC = 'C',
    HEAD = 3, /* kind, number, its complement */
    MAX_RETRIES = 12,
};

/* Two in a row cancel: one alone may be noise. */
bool bl_xmodem_cancelled(bl_xmodem *x, uint8_t byte);
/* Puts the check behind the payload. Returns its size. */
size_t bl_xmodem_seal(const bl_xmodem *x, uint8_t *block, size_t data);

/* bl_xmodem_cancel, as kinds of transports have it. */
void bl_xmodem_stop(bl_transport *transport, uint64_t now);

#endif
