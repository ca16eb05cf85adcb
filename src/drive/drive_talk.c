/* drive_talk.c - one exchange of a dialogue: send, wait, receive, tick. */
#include "bootlace/drive_talk.h"

#include "bootlace/drive_transport.h"

/* Byte by byte: what comes behind the end of an exchange is for somebody else. */
bl_status bl_drive_talk(const bl_serial *port, bl_talk *t, bl_talk_heard *h)
{
    uint8_t out[64], in;
    while (bl_talk_status(t) == BL_E_BUSY) {
        uint64_t now = port->now(port->context);
        size_t n = bl_talk_output(t, out, sizeof out, now), got = 0;
        bl_status status = bl_drive_send(port, out, n);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        uint64_t deadline = bl_talk_deadline(t), left = deadline > now ? deadline - now : 0;
        status = port->wait(port->context, left > 20000 ? 20000u : (uint32_t)left + 1);
        if (status == BL_OK) status = port->receive(port->context, &in, 1, &got);
        if (status != BL_OK) return status;
        size_t said_from = t->said_from;
        bl_talk_input(t, &in, got, port->now(port->context));
        if (h != NULL && t->said_from != said_from) h->count = got = 0;
        if (got > 0 && h != NULL && h->count < h->capacity) h->bytes[h->count++] = in;
    }
    return bl_talk_status(t);
}
