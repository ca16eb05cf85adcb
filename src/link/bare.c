/* bare.c - counting bytes. */
#include "bootlace/bare.h"

#include "base/core.h"

static void ignore(bl_transport *transport, uint8_t byte, uint64_t now)
{
    (void)transport, (void)byte, (void)now; /* an echo, perhaps */
}

static void all_sent(bl_transport *transport, uint64_t now)
{
    (void)now;
    transport->done = transport->total;
    transport->status = BL_OK;
}

static const bl_transport_kind sending = {.name = "bare bytes", .input = ignore, .tick = all_sent};

void bl_bare_send(bl_bare *b, uint32_t baud, const uint8_t *bytes, size_t count, uint32_t pace_us,
                  uint64_t now)
{
    memset(b, 0, sizeof *b);
    bl_transport_begin(&b->transport, &sending, baud, count);
    b->transport.pace_us = pace_us;
    bl_transport_say(&b->transport, bytes, count, 0, now);
}

static void take_bare_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_bare *b = (bl_bare *)transport;
    b->buffer[transport->done++] = byte;
    transport->deadline = now + transport->timeout_us;
    if (transport->done == transport->total) transport->status = BL_OK;
}

static void missing(bl_transport *transport, uint64_t now)
{
    (void)now;
    bl_transport_give_up(transport);
}

static const bl_transport_kind receiving = {
    .name = "bare bytes", .input = take_bare_byte, .tick = missing};

void bl_bare_receive(bl_bare *b, uint32_t baud, uint8_t *buffer, size_t count, uint32_t timeout_us,
                     uint64_t now)
{
    memset(b, 0, sizeof *b);
    bl_transport_begin(&b->transport, &receiving, baud, count);
    b->buffer = buffer;
    bl_transport_await(&b->transport, timeout_us, now);
    if (count == 0) b->transport.status = BL_OK;
}
