/* remote_talk.c - exchanges with a remote that speaks text, with retries. */
#include "base/core.h"
#include "bootlace/drive_talk.h"
#include "bootlace/drive_transport.h"
#include "remote.h"

/* How much at the beginning of what was heard is the end of our own command, echoed, and the end of
 * its line. */
static size_t echo_length(const bl_talk *t, const bl_talk_heard *h)
{
    size_t n = 0;
    for (size_t i = t->said_from; i < t->out_count && n < h->count; i++) {
        if (h->bytes[n] != (uint8_t)t->out[i]) return 0;
        n++;
    }
    while (n > 0 && n < h->count && (h->bytes[n] == '\r' || h->bytes[n] == '\n'))
        n++;
    return n;
}

bl_status bl_remote_start(bl_remote_work *w, uint32_t entry)
{
    uint8_t bytes[512];
    bl_talk_heard h = {bytes, sizeof bytes, 0};
    bl_talk_begin(&w->talk, w->d, BL_TALK_START, entry, NULL, 0, w->port->now(w->port->context));
    bl_status status = bl_drive_talk(w->port, &w->talk, &h);
    size_t echo = echo_length(&w->talk, &h);
    if (status == BL_OK && w->watch != NULL && w->watch->said != NULL && h.count > echo)
        w->watch->said(w->watch->context, bytes + echo, h.count - echo);
    return status;
}

/* Hears the device out, so that what it says next is about what is asked next. */
bl_status bl_remote_hear_out(const bl_serial *port)
{
    enum { SILENCE_US = 50000, LONGEST_US = 3000000 };
    uint8_t dropped[128];
    uint64_t now = port->now(port->context), quiet_since = now, end = now + LONGEST_US;
    while (now < end && now < quiet_since + SILENCE_US) {
        size_t got = 0;
        bl_status status = port->wait(port->context, SILENCE_US);
        if (status == BL_OK) status = port->receive(port->context, dropped, sizeof dropped, &got);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        if (got > 0) quiet_since = now;
    }
    return BL_OK;
}

/* After an exchange that failed: both begin anew. */
static bl_status wake_again(bl_remote_work *w)
{
    bl_talk wake;
    bl_status status = bl_remote_hear_out(w->port);
    if (status != BL_OK) return status;
    bl_talk_begin(&wake, w->d, BL_TALK_WAKE, 0, NULL, 0, w->port->now(w->port->context));
    status = bl_drive_talk(w->port, &wake, NULL);
    return status == BL_E_IO ? status : bl_remote_hear_out(w->port);
}

/* Text has no checksum: what makes no sense, is refused, or never comes, is asked for some times
 * more. */
bl_status bl_remote_exchange(bl_remote_work *w, bl_talk_kind kind, uint32_t address,
                             const uint8_t *bytes, size_t count)
{
    enum { TRIES = 8 };
    bl_status status = BL_OK;
    w->job->result.where = address;
    for (unsigned i = 0; i < TRIES; i++) {
        bl_talk_begin(&w->talk, w->d, kind, address, bytes, count, w->port->now(w->port->context));
        status = bl_drive_talk(w->port, &w->talk, NULL);
        if (status != BL_E_TIMEOUT && status != BL_E_SYNTAX && status != BL_E_REFUSED)
            return status;
        w->retries++;
        bl_status awake = kind == BL_TALK_WAKE ? bl_remote_hear_out(w->port) : wake_again(w);
        if (awake != BL_OK) return awake;
    }
    return status;
}
