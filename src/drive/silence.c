/* silence.c - nothing is sent; what comes is handed on, or dropped. */
#include "silence.h"

#include "drive_watch.h"

bl_status bl_silence_keep(const bl_serial *port, uint32_t microseconds, const bl_drive_watch *watch)
{
    uint8_t said[64];
    size_t got;
    uint64_t end = port->now(port->context) + microseconds;
    bl_status status = BL_OK;
    while (status == BL_OK && port->now(port->context) < end) {
        status = port->wait(port->context, (uint32_t)(end - port->now(port->context)));
        got = 0;
        if (status == BL_OK) status = port->receive(port->context, said, sizeof said, &got);
        if (status == BL_OK) bl_watch_said(watch, said, got);
    }
    return status;
}

bl_status bl_silence_await(const bl_serial *port)
{
    const uint32_t silence_us = 50000, longest_us = 3000000;
    uint8_t dropped[128];
    uint64_t now = port->now(port->context), quiet_since = now, end = now + longest_us;
    while (now < end && now < quiet_since + silence_us) {
        size_t got = 0;
        bl_status status = port->wait(port->context, silence_us);
        if (status == BL_OK) status = port->receive(port->context, dropped, sizeof dropped, &got);
        if (status != BL_OK) return status;
        now = port->now(port->context);
        if (got > 0) quiet_since = now;
    }
    return BL_OK;
}
