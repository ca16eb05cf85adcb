/* transport.c - sending at a pace, and waiting. */
#include "bootlace/transport.h"

#include "base/core.h"

void bl_transport_begin(bl_transport *w, const bl_transport_kind *kind, uint32_t baud, size_t total)
{
    BL_ASSERT(kind->input != NULL && kind->tick != NULL);
    memset(w, 0, sizeof *w);
    w->kind = kind;
    w->status = BL_E_BUSY;
    w->baud = baud == 0 ? 9600 : baud;
    w->total = total;
}

void bl_transport_await(bl_transport *w, uint32_t timeout_us, uint64_t now)
{
    w->timeout_us = timeout_us;
    w->deadline = now + timeout_us;
}

void bl_transport_say(bl_transport *w, const uint8_t *bytes, size_t count, uint32_t timeout_us,
                      uint64_t now)
{
    BL_ASSERT(count == 0 || bytes != NULL);
    w->out = bytes;
    w->out_count = count;
    w->out_sent = 0;
    if (w->next_at < now) w->next_at = now;
    bl_transport_await(w, timeout_us, now);
}

/* What has been handed over is still on the line for a while. */
static uint64_t transport_line_time(const bl_transport *w, size_t count)
{
    return (uint64_t)count * 10u * 1000000u / w->baud;
}

size_t bl_transport_output(bl_transport *w, uint8_t *bytes, size_t capacity, uint64_t now)
{
    BL_ASSERT(w->out_sent <= w->out_count);
    size_t n = 0;
    while (n < capacity && w->out_sent < w->out_count && now >= w->next_at) {
        bytes[n++] = w->out[w->out_sent++];
        if (w->pace_us == 0) continue;
        w->next_at = now + w->pace_us + transport_line_time(w, 1);
        break;
    }
    if (n > 0 && w->out_sent == w->out_count) {
        uint64_t left = now + transport_line_time(w, w->pace_us == 0 ? w->out_count : 1);
        bool slow = w->pace_us > 0 || w->rest_us > 0;
        w->next_at = slow ? left + w->pace_us + w->rest_us : now;
        w->deadline = left + w->timeout_us;
    }
    w->bytes_out += n;
    return n;
}

void bl_transport_input(bl_transport *w, const uint8_t *bytes, size_t count, uint64_t now)
{
    w->bytes_in += count;
    if (count > 0) w->heard = true;
    for (size_t i = 0; i < count && w->status == BL_E_BUSY; i++)
        w->kind->input(w, bytes[i], now);
    bl_transport_tick(w, now);
}

uint64_t bl_transport_deadline(const bl_transport *w)
{
    return w->out_sent < w->out_count ? w->next_at : w->deadline;
}

void bl_transport_tick(bl_transport *w, uint64_t now)
{
    if (w->status == BL_E_BUSY && w->out_sent == w->out_count && now >= w->deadline)
        w->kind->tick(w, now);
}

void bl_transport_give_up(bl_transport *w)
{
    w->status = w->heard ? BL_E_LINE : BL_E_TIMEOUT;
}
