/* xmodem_receive.c - asks for blocks, and takes each that is whole and due. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "xmodem_block.h"

#define ASK_TIMEOUT_US   3000000u
#define BLOCK_TIMEOUT_US 10000000u
/* Silence inside a block ends it. The retry is asked for after so long a silence: a NAK into the
 * rest of a damaged block would be lost. */
#define RETRY_DELAY_US 1000000u
enum { CRC_ASKS = 4, MAX_ASKS = 20 };
_Static_assert(CRC_ASKS < MAX_ASKS, "a sender that knows checksums only is asked for them");

static void say_byte(bl_xmodem *x, uint8_t byte, uint32_t timeout_us, uint64_t now)
{
    x->say[0] = byte;
    bl_transport_say(&x->transport, x->say, 1, timeout_us, now);
}

/* Before the first block the sender is asked to begin, in the other way after some tries; later
 * the block is asked for again. */
static void request_retry(bl_xmodem *x, uint64_t now)
{
    x->retries++;
    x->count = 0;
    if (x->retries == (x->serial == 1 ? (unsigned)MAX_ASKS : (unsigned)MAX_RETRIES)) {
        bl_xmodem_cancel(x, now);
        bl_transport_give_up(&x->transport);
        return;
    }
    if (x->serial == 1 && x->transport.done == 0) {
        /* A sender that has said nothing at all may know checksums only. */
        if (x->retries == CRC_ASKS && !x->transport.heard) x->crc = false;
        x->step = BL_XMODEM_WAIT_FIRST;
        say_byte(x, x->crc ? ASK_CRC : NAK, ASK_TIMEOUT_US, now);
        return;
    }
    x->step = BL_XMODEM_WAIT_HEAD;
    x->transport.resends++;
    say_byte(x, NAK, BLOCK_TIMEOUT_US, now);
}

/* ---- blocks ---- */

static bool is_whole(const bl_xmodem *x, size_t data)
{
    const uint8_t *p = x->block + HEAD;
    if ((x->block[1] ^ x->block[2]) != 0xFF) return false;
    if (!x->crc) return p[data] == (uint8_t)bl_sum16(0, p, data);
    return bl_crc16(0, p, data + 2) == 0;
}

static bool keep_block(bl_xmodem *x, size_t data, uint64_t now)
{
    BL_ASSERT(x->transport.done <= x->capacity);
    size_t max = x->size > 0 ? x->size : x->capacity, left = max - x->transport.done;
    size_t n = data < left ? data : left;
    /* Padding fills the last block, and no more than that. */
    if (n < data && (x->size == 0 || n == 0)) {
        bl_xmodem_cancel(x, now);
        x->transport.status = BL_E_LONG;
        return false;
    }
    memcpy(x->buffer + x->transport.done, x->block + HEAD, n);
    x->transport.done += n;
    x->padding += data - n;
    return true;
}

/* A damaged block is asked for again after a silence; one that came twice is acknowledged and
 * dropped; a gap is the end. */
static void take_xmodem_block(bl_xmodem *x, uint64_t now)
{
    size_t data = x->block[0] == STX ? BL_XMODEM_LARGE : BL_XMODEM_SMALL;
    x->count = 0;
    x->ends = 0;
    if (!is_whole(x, data)) {
        x->step = BL_XMODEM_WAIT_QUIET;
        bl_transport_await(&x->transport, RETRY_DELAY_US, now);
        return;
    }
    uint8_t number = x->block[1];
    bool repeated = number == (uint8_t)(x->serial - 1);
    if (number != x->serial && !repeated) { /* one is missing: no way back */
        bl_xmodem_cancel(x, now);
        x->transport.status = BL_E_LINE;
        return;
    }
    if (!repeated) {
        if (!keep_block(x, data, now)) return;
        x->serial++;
    }
    x->large |= data == BL_XMODEM_LARGE;
    x->retries = 0;
    x->step = BL_XMODEM_WAIT_HEAD;
    say_byte(x, ACK, BLOCK_TIMEOUT_US, now);
}

/* The first end is doubted: noise can make one. It comes again when it is meant. */
static void take_end(bl_xmodem *x, uint64_t now)
{
    if (++x->ends < 2) {
        x->step = BL_XMODEM_WAIT_HEAD;
        say_byte(x, NAK, BLOCK_TIMEOUT_US, now);
        return;
    }
    x->transport.total = x->transport.done;
    say_byte(x, ACK, 0, now);
    x->transport.status = x->transport.done < x->size ? BL_E_SHORT : BL_OK;
}

/* While the line is to fall silent every byte puts the retry off; between blocks only beginnings,
 * ends and cancels count. */
static void take_block_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_xmodem *x = (bl_xmodem *)transport;
    if (x->step == BL_XMODEM_WAIT_QUIET) {
        bl_transport_await(transport, RETRY_DELAY_US, now);
        return;
    }
    if (x->step == BL_XMODEM_WAIT_REST) {
        x->block[x->count++] = byte;
        size_t data = x->block[0] == STX ? BL_XMODEM_LARGE : BL_XMODEM_SMALL;
        if (x->count == HEAD + data + (x->crc ? 2u : 1u))
            take_xmodem_block(x, now);
        else
            bl_transport_await(transport, RETRY_DELAY_US, now);
        return;
    }
    if (bl_xmodem_cancelled(x, byte)) return;
    if (byte == SOH || byte == STX) {
        x->block[0] = byte;
        x->count = 1;
        x->step = BL_XMODEM_WAIT_REST;
        bl_transport_await(transport, RETRY_DELAY_US, now);
    } else if (byte == EOT && x->step == BL_XMODEM_WAIT_HEAD) {
        take_end(x, now);
    }
}

static void time_out_block(bl_transport *transport, uint64_t now)
{
    request_retry((bl_xmodem *)transport, now);
}

static const bl_transport_kind kind = {
    .name = "XMODEM", .input = take_block_byte, .tick = time_out_block, .cancel = bl_xmodem_stop};

void bl_xmodem_receive(bl_xmodem *x, uint32_t baud, uint8_t *buffer, size_t capacity, size_t size,
                       bool crc, uint64_t now)
{
    memset(x, 0, sizeof *x);
    bl_transport_begin(&x->transport, &kind, baud, size);
    x->buffer = buffer;
    x->capacity = capacity;
    x->size = size <= capacity ? size : capacity;
    x->crc = crc;
    x->serial = 1;
    x->step = BL_XMODEM_WAIT_FIRST;
    say_byte(x, crc ? ASK_CRC : NAK, ASK_TIMEOUT_US, now);
}
