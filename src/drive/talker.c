/* talker.c - asks, asks again, and reads rows. */
#include "talker.h"

#include "base/core.h"
#include "bootlace/drive_talk.h"
#include "drive_watch.h"
#include "silence.h"

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

bl_status bl_talker_start(bl_talk_target *t, uint32_t entry)
{
    uint8_t bytes[512];
    bl_talk_heard h = {bytes, sizeof bytes, 0};
    bl_talk_begin(&t->talk, t->dialogue, BL_TALK_START, entry, NULL, 0,
                  t->port->now(t->port->context));
    bl_status status = bl_drive_talk(t->port, &t->talk, &h);
    size_t echo = echo_length(&t->talk, &h);
    if (status == BL_OK) bl_watch_said(t->watch, bytes + echo, h.count - echo);
    return status;
}

/* After an exchange that failed: both begin anew. */
static bl_status wake_again(const bl_talk_target *t)
{
    bl_talk wake;
    bl_status status = bl_silence_await(t->port);
    if (status != BL_OK) return status;
    bl_talk_begin(&wake, t->dialogue, BL_TALK_WAKE, 0, NULL, 0, t->port->now(t->port->context));
    status = bl_drive_talk(t->port, &wake, NULL);
    return status == BL_E_IO ? status : bl_silence_await(t->port);
}

/* Text has no checksum: an answer that makes no sense may have been damaged on the way, and so may
 * the question that was refused. */
bl_status bl_talker_exchange(bl_talk_target *t, bl_talk_kind kind, uint32_t address,
                             const uint8_t *bytes, size_t count)
{
    enum { MAX_TRIES = 8 };
    bl_status status = BL_OK;
    t->where = address;
    for (unsigned i = 0; i < MAX_TRIES; i++) {
        bl_talk_begin(&t->talk, t->dialogue, kind, address, bytes, count,
                      t->port->now(t->port->context));
        status = bl_drive_talk(t->port, &t->talk, NULL);
        if (status != BL_E_TIMEOUT && status != BL_E_SYNTAX && status != BL_E_REFUSED)
            return status;
        t->retries++;
        bl_status awake = kind == BL_TALK_WAKE ? bl_silence_await(t->port) : wake_again(t);
        if (awake != BL_OK) return awake;
    }
    return status;
}

bl_status bl_talker_read(bl_talk_target *t, uint32_t first, uint8_t *bytes, size_t count)
{
    size_t max = t->dialogue->read_block;
    BL_ASSERT(max > 0);
    bl_status status = BL_OK;
    for (size_t at = 0; at < count && status == BL_OK; at += max) {
        size_t n = count - at < max ? count - at : max;
        status = bl_talker_exchange(t, BL_TALK_READ, first + (uint32_t)at, NULL, n);
        if (status == BL_OK) memcpy(bytes + at, t->talk.bytes, n);
    }
    return status;
}
