/* frame.c - RFC 1662 framing. */
#include "bootlace/frame.h"

#include "base/core.h"
#include "bootlace/crc.h"

_Static_assert(BL_FRAME_PAYLOAD <= UINT8_MAX, "the length of a frame is one byte");
_Static_assert(BL_FRAME_FLAG != (BL_FRAME_ESCAPE ^ BL_FRAME_FLIP), "an escaped byte is no flag");

static size_t put_escaped(uint8_t *wire, size_t n, uint8_t byte)
{
    if (bl_frame_escapes(byte)) {
        wire[n++] = BL_FRAME_ESCAPE;
        byte ^= BL_FRAME_FLIP;
    }
    wire[n++] = byte;
    return n;
}

size_t bl_frame_encode(const bl_frame *frame, uint8_t *wire)
{
    BL_ASSERT(frame->length <= BL_FRAME_PAYLOAD);
    const uint8_t head[3] = {frame->kind, frame->sequence, frame->length};
    uint16_t fcs = BL_FCS16_START;
    size_t n = 0;
    wire[n++] = BL_FRAME_FLAG;
    for (size_t i = 0; i < (size_t)frame->length + 3; i++) {
        uint8_t byte = i < 3 ? head[i] : frame->payload[i - 3];
        fcs = bl_fcs16(fcs, byte);
        n = put_escaped(wire, n, byte);
    }
    fcs = (uint16_t)~fcs;
    n = put_escaped(wire, n, (uint8_t)fcs);
    n = put_escaped(wire, n, (uint8_t)(fcs >> 8));
    wire[n++] = BL_FRAME_FLAG;
    BL_ASSERT(n <= BL_FRAME_WIRE);
    return n;
}

static bool is_right(const bl_frame_reader *r)
{
    if (r->overrun || r->escaped || r->count < BL_FRAME_OVERHEAD ||
        r->count != (size_t)r->bytes[2] + BL_FRAME_OVERHEAD)
        return false;
    return bl_fcs16_row(BL_FCS16_START, r->bytes, r->count) == BL_FCS16_GOOD;
}

/* A flag ends a frame and begins the next; two in a row hold nothing. */
static bl_frame_event end_frame(bl_frame_reader *r, bl_frame *frame)
{
    bl_frame_event event = BL_FRAME_NOTHING;
    if (r->open && r->count > 0) {
        event = is_right(r) ? BL_FRAME_GOOD : BL_FRAME_DAMAGED;
        if (event == BL_FRAME_GOOD) {
            frame->kind = r->bytes[0];
            frame->sequence = r->bytes[1];
            frame->length = r->bytes[2];
            memcpy(frame->payload, r->bytes + 3, frame->length);
        }
    }
    *r = (bl_frame_reader){.open = true};
    return event;
}

bl_frame_event bl_frame_take(bl_frame_reader *r, uint8_t byte, bl_frame *frame)
{
    if (byte == BL_FRAME_FLAG) return end_frame(r, frame);
    if (!r->open) return BL_FRAME_NOTHING;
    if (byte == BL_FRAME_ESCAPE) {
        r->escaped = true;
        return BL_FRAME_NOTHING;
    }
    if (r->escaped) byte ^= BL_FRAME_FLIP;
    r->escaped = false;
    if (r->count == sizeof r->bytes)
        r->overrun = true;
    else
        r->bytes[r->count++] = byte;
    return BL_FRAME_NOTHING;
}

void bl_frame_store(uint8_t *at, uint32_t value, unsigned width)
{
    for (unsigned i = 0; i < width; i++)
        at[i] = (uint8_t)(value >> (8 * i));
}

void bl_frame_put(bl_frame *frame, uint32_t value, unsigned width)
{
    BL_ASSERT(width >= 1 && width <= 4);
    BL_ASSERT(frame->length + width <= BL_FRAME_PAYLOAD);
    bl_frame_store(frame->payload + frame->length, value, width);
    frame->length = (uint8_t)(frame->length + width);
}

uint32_t bl_frame_number(const uint8_t *at, unsigned width)
{
    BL_ASSERT(width >= 1 && width <= 4);
    uint32_t value = 0;
    for (unsigned i = 0; i < width; i++)
        value |= (uint32_t)at[i] << (8 * i);
    return value;
}
