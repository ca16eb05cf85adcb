/* xmodem_send.c - sends when the receiver asks for it, block after block. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "xmodem_block.h"

#define START_TIMEOUT_US  60000000u /* until the receiver begins */
#define ANSWER_TIMEOUT_US 10000000u

_Static_assert(BL_XMODEM_MAX >= HEAD + BL_XMODEM_LARGE + 2, "a block and its CRC");

bool bl_xmodem_cancelled(bl_xmodem *x, uint8_t byte)
{
    x->cancels = byte == CAN ? x->cancels + 1 : 0;
    if (x->cancels < 2) return false;
    x->transport.status = BL_E_CANCELLED;
    return true;
}

size_t bl_xmodem_seal(const bl_xmodem *x, uint8_t *block, size_t data)
{
    const uint8_t *p = block + HEAD;
    if (!x->crc) {
        block[HEAD + data] = (uint8_t)bl_sum16(0, p, data);
        return 1;
    }
    uint16_t crc = bl_crc16(0, p, data);
    block[HEAD + data] = (uint8_t)(crc >> 8);
    block[HEAD + data + 1] = (uint8_t)crc;
    return 2;
}

void bl_xmodem_cancel(bl_xmodem *x, uint64_t now)
{
    static const uint8_t stop[] = {CAN, CAN, CAN};
    bl_transport_say(&x->transport, stop, sizeof stop, 0, now);
    x->transport.status = BL_E_CANCELLED;
}

void bl_xmodem_stop(bl_transport *transport, uint64_t now)
{
    bl_xmodem_cancel((bl_xmodem *)transport, now);
}

static void send_block(bl_xmodem *x, uint64_t now)
{
    BL_ASSERT(x->transport.done < x->transport.total);
    size_t left = x->transport.total - x->transport.done;
    size_t size = x->large && left >= BL_XMODEM_LARGE ? BL_XMODEM_LARGE : BL_XMODEM_SMALL;
    x->data = left < size ? left : size;
    x->padding = size - x->data;
    x->block[0] = size == BL_XMODEM_LARGE ? STX : SOH;
    x->block[1] = x->serial;
    x->block[2] = (uint8_t)~x->serial;
    memcpy(x->block + HEAD, x->bytes + x->transport.done, x->data);
    memset(x->block + HEAD + x->data, x->fill, x->padding);
    size += HEAD + bl_xmodem_seal(x, x->block, size);
    x->step = BL_XMODEM_WAIT_BLOCK;
    bl_transport_say(&x->transport, x->block, size, ANSWER_TIMEOUT_US, now);
}

static void send_next(bl_xmodem *x, uint64_t now)
{
    static const uint8_t end[] = {EOT};
    if (x->transport.done < x->transport.total) {
        send_block(x, now);
        return;
    }
    x->step = BL_XMODEM_WAIT_END;
    bl_transport_say(&x->transport, end, sizeof end, ANSWER_TIMEOUT_US, now);
}

/* A receiver may ask for the end twice to be sure of it: the first of these is no resend. */
static void retry_block(bl_xmodem *x, uint64_t now)
{
    x->retries++;
    if (x->retries == MAX_RETRIES) {
        bl_xmodem_cancel(x, now);
        bl_transport_give_up(&x->transport);
        return;
    }
    if (x->step != BL_XMODEM_WAIT_END || x->retries > 1) x->transport.resends++;
    send_next(x, now);
}

static void take_start(bl_xmodem *x, uint8_t byte, uint64_t now)
{
    if (byte != NAK && byte != ASK_CRC) return;
    x->crc = byte == ASK_CRC;
    send_next(x, now);
}

/* What comes while a block is on the line cannot be about it and is passed over. */
static void take_receiver_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_xmodem *x = (bl_xmodem *)transport;
    if (bl_xmodem_cancelled(x, byte)) return;
    if (x->step == BL_XMODEM_WAIT_START) {
        take_start(x, byte, now);
        return;
    }
    if (transport->out_sent < transport->out_count)
        return; /* nobody can know yet what to say of it */
    /* A receiver that has not heard the first block still asks for it. */
    bool asks = byte == ASK_CRC && transport->done == 0 && x->crc;
    if (byte == NAK || asks) {
        retry_block(x, now);
    } else if (byte == ACK && x->step == BL_XMODEM_WAIT_END) {
        transport->status = BL_OK;
    } else if (byte == ACK) {
        transport->done += x->data;
        x->serial++;
        x->retries = 0;
        send_next(x, now);
    }
}

static void time_out_receiver(bl_transport *transport, uint64_t now)
{
    bl_xmodem *x = (bl_xmodem *)transport;
    if (x->step == BL_XMODEM_WAIT_START)
        bl_transport_give_up(transport);
    else
        retry_block(x, now);
}

static const bl_transport_kind kind = {.name = "XMODEM",
                                       .input = take_receiver_byte,
                                       .tick = time_out_receiver,
                                       .cancel = bl_xmodem_stop};

void bl_xmodem_send(bl_xmodem *x, uint32_t baud, const uint8_t *bytes, size_t count, bool large,
                    uint8_t fill, uint64_t now)
{
    memset(x, 0, sizeof *x);
    bl_transport_begin(&x->transport, &kind, baud, count);
    x->bytes = bytes;
    x->large = large;
    x->fill = fill;
    x->serial = 1;
    x->step = BL_XMODEM_WAIT_START;
    bl_transport_await(&x->transport, START_TIMEOUT_US, now);
}
