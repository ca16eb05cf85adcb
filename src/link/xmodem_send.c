/* xmodem_send.c - sends when the receiver asks for it, block after block. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "xmodem.h"

enum { WAIT_START, WAIT_BLOCK, WAIT_END };

#define START_US  60000000u /* until the receiver begins */
#define ANSWER_US 10000000u

bool bl_xmodem_cancelled(bl_xmodem *x, uint8_t byte)
{
    x->cancels = byte == CAN ? x->cancels + 1 : 0;
    if (x->cancels < 2) return false;
    x->way.status = BL_E_REFUSED;
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
    bl_way_say(&x->way, stop, sizeof stop, 0, now);
    x->way.status = BL_E_REFUSED;
}

static void send_block(bl_xmodem *x, uint64_t now)
{
    size_t left = x->way.total - x->way.done;
    size_t size = x->large && left >= BL_XMODEM_LARGE ? BL_XMODEM_LARGE : BL_XMODEM_SMALL;
    x->data = left < size ? left : size;
    x->padding = size - x->data;
    x->block[0] = size == BL_XMODEM_LARGE ? STX : SOH;
    x->block[1] = x->serial;
    x->block[2] = (uint8_t)~x->serial;
    memcpy(x->block + HEAD, x->bytes + x->way.done, x->data);
    memset(x->block + HEAD + x->data, x->fill, x->padding);
    size += HEAD + bl_xmodem_seal(x, x->block, size);
    x->step = WAIT_BLOCK;
    bl_way_say(&x->way, x->block, size, ANSWER_US, now);
}

static void send_next(bl_xmodem *x, uint64_t now)
{
    static const uint8_t end[] = {EOT};
    if (x->way.done < x->way.total) {
        send_block(x, now);
        return;
    }
    x->step = WAIT_END;
    bl_way_say(&x->way, end, sizeof end, ANSWER_US, now);
}

/* A receiver may ask for the end twice to be sure of it: the first of these is no resend. */
static void again(bl_xmodem *x, uint64_t now)
{
    x->tries++;
    if (x->tries == MOST_TRIES) {
        bl_xmodem_cancel(x, now);
        bl_way_give_up(&x->way);
        return;
    }
    if (x->step != WAIT_END || x->tries > 1) x->way.resends++;
    send_next(x, now);
}

static void take_start(bl_xmodem *x, uint8_t byte, uint64_t now)
{
    if (byte != NAK && byte != ASK_CRC) return;
    x->crc = byte == ASK_CRC;
    send_next(x, now);
}

static void input(bl_way *way, uint8_t byte, uint64_t now)
{
    bl_xmodem *x = (bl_xmodem *)way;
    if (bl_xmodem_cancelled(x, byte)) return;
    if (x->step == WAIT_START) {
        take_start(x, byte, now);
        return;
    }
    if (way->out_sent < way->out_count) return; /* nobody can know yet what to say of it */
    /* A receiver that has not heard the first block still asks for it. */
    bool asks = byte == ASK_CRC && way->done == 0 && x->crc;
    if (byte == NAK || asks) {
        again(x, now);
    } else if (byte == ACK && x->step == WAIT_END) {
        way->status = BL_OK;
    } else if (byte == ACK) {
        way->done += x->data;
        x->serial++;
        x->tries = 0;
        send_next(x, now);
    }
}

static void tick(bl_way *way, uint64_t now)
{
    bl_xmodem *x = (bl_xmodem *)way;
    if (x->step == WAIT_START)
        bl_way_give_up(way);
    else
        again(x, now);
}

static const bl_way_kind kind = {"XMODEM", input, tick};

void bl_xmodem_send(bl_xmodem *x, uint32_t baud, const uint8_t *bytes, size_t count, bool large,
                    uint8_t fill, uint64_t now)
{
    memset(x, 0, sizeof *x);
    bl_way_begin(&x->way, &kind, baud, count);
    x->bytes = bytes;
    x->large = large;
    x->fill = fill;
    x->serial = 1;
    x->step = WAIT_START;
    bl_way_await(&x->way, START_US, now);
}
