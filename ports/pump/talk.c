/* talk.c - exchanges with devices that speak text. */
#include <string.h>

#include "far.h"

/* The first bytes that came behind the last text that was waited for, as far as there is room:
 * what came before is the device's part in the command. */
typedef struct heard {
    uint8_t *bytes;
    size_t room, count;
} heard;

static bl_status pump(const bl_serial *port, bl_talk *t, heard *h)
{
    uint8_t out[64], in; /* what comes behind the end of it is for somebody else */
    while (bl_talk_status(t) == BL_E_BUSY) {
        uint64_t now = port->now(port->context);
        size_t n = bl_talk_output(t, out, sizeof out, now), got = 0;
        bl_status status = bl_pump_send(port, out, n);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        uint64_t deadline = bl_talk_deadline(t), left = deadline > now ? deadline - now : 0;
        status = port->wait(port->context, left > 20000 ? 20000u : (uint32_t)left + 1);
        if (status == BL_OK) status = port->receive(port->context, &in, 1, &got);
        if (status != BL_OK) return status;
        size_t said_from = t->said_from;
        bl_talk_input(t, &in, got, port->now(port->context));
        if (h != NULL && t->said_from != said_from) h->count = got = 0;
        if (got > 0 && h != NULL && h->count < h->room) h->bytes[h->count++] = in;
    }
    return bl_talk_status(t);
}

bl_status bl_pump_talk(const bl_serial *port, bl_talk *t)
{
    return pump(port, t, NULL);
}

/* How much at the beginning of what was heard is the end of our own command, echoed, and the end of
 * its line. */
static size_t echo_length(const bl_talk *t, const heard *h)
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

bl_status bl_far_start(bl_far_work *w, uint32_t entry)
{
    uint8_t bytes[512];
    heard h = {bytes, sizeof bytes, 0};
    bl_talk_begin(&w->talk, w->d, BL_TALK_START, entry, NULL, 0, w->port->now(w->port->context));
    bl_status status = pump(w->port, &w->talk, &h);
    size_t echo = echo_length(&w->talk, &h);
    if (status == BL_OK && w->watch != NULL && w->watch->said != NULL && h.count > echo)
        w->watch->said(w->watch->context, bytes + echo, h.count - echo);
    return status;
}

/* Hears the device out, so that what it says next is about what is asked next. */
bl_status bl_far_hear_out(const bl_serial *port)
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
static bl_status wake_again(bl_far_work *w)
{
    bl_talk wake;
    bl_status status = bl_far_hear_out(w->port);
    if (status != BL_OK) return status;
    bl_talk_begin(&wake, w->d, BL_TALK_WAKE, 0, NULL, 0, w->port->now(w->port->context));
    status = bl_pump_talk(w->port, &wake);
    return status == BL_E_IO ? status : bl_far_hear_out(w->port);
}

/* Text has no checksum: what makes no sense, is refused, or never comes, is asked for some times
 * more. */
bl_status bl_far_exchange(bl_far_work *w, bl_talk_kind kind, uint32_t address, const uint8_t *bytes,
                          size_t count)
{
    enum { TRIES = 8 };
    bl_status status = BL_OK;
    w->job->where = address;
    for (unsigned i = 0; i < TRIES; i++) {
        bl_talk_begin(&w->talk, w->d, kind, address, bytes, count, w->port->now(w->port->context));
        status = bl_pump_talk(w->port, &w->talk);
        if (status != BL_E_TIMEOUT && status != BL_E_SYNTAX && status != BL_E_REFUSED)
            return status;
        w->retries++;
        bl_status awake = kind == BL_TALK_WAKE ? bl_far_hear_out(w->port) : wake_again(w);
        if (awake != BL_OK) return awake;
    }
    return status;
}
