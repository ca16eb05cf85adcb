/* packets_listen.c - the side that receives: takes packets in any order, and knows which are
 * missing. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "bootlace/frame.h"
#include "packets_state.h"

static bool is_seen(const bl_packets_listener *f, uint32_t number)
{
    return (f->seen[(number - 1) / 8] >> ((number - 1) % 8) & 1) != 0;
}

static uint32_t last_of(const bl_packets_listener *f)
{
    return (f->size + f->payload - 1) / f->payload;
}

static void reply(bl_packets_listener *f, bl_packet_code code, uint64_t now)
{
    if (f->announced[AT_ROUNDS] > 0) return; /* nobody listens */
    f->reply[0] = BL_PACKET_ANSWER;
    f->reply[1] = (uint8_t)code;
    bl_frame_store(f->reply + 2, f->wanted, 2);
    bl_packet_seal(f->reply, BL_PACKET_REPLY - 3);
    bl_transport_say(&f->transport, f->reply, sizeof f->reply, 0, now);
}

static void forget(bl_packets_listener *f)
{
    memset(f->seen, 0, f->seen_capacity);
    f->wanted = 1;
    f->whole = false;
}

static void reply_state(bl_packets_listener *f, uint64_t now)
{
    while (f->wanted <= last_of(f) && is_seen(f, f->wanted))
        f->wanted++;
    if (f->wanted <= last_of(f)) {
        reply(f, BL_PACKET_GOOD, now);
        return;
    }
    f->whole = bl_crc32(0, f->memory + (size_t)(f->address - f->first), (size_t)f->size) == f->crc;
    f->transport.done = (size_t)f->size;
    reply(f, f->whole ? BL_PACKET_WHOLE : BL_PACKET_WRONG, now);
    if (!f->whole) forget(f);
}

/* The same announcement again goes on where it was. */
static void take_announcement(bl_packets_listener *f, const uint8_t *at, uint64_t now)
{
    bool same = f->open && memcmp(f->announced, at, f->payload) == 0;
    if (!same) {
        memcpy(f->announced, at, f->payload);
        f->address = bl_frame_number(at + AT_ADDRESS, 3);
        f->size = bl_frame_number(at + AT_SIZE, 3);
        f->crc = bl_frame_number(at + AT_CRC, 4);
        f->open = at[AT_VERSION] == VERSION && at[AT_PAYLOAD] == f->payload &&
                  f->address >= f->first && f->size <= f->capacity &&
                  f->address - f->first <= f->capacity - f->size &&
                  (last_of(f) + 7) / 8 <= f->seen_capacity;
        f->transport.total = (size_t)f->size;
        f->transport.done = 0;
        forget(f);
    }
    if (f->open)
        reply_state(f, now);
    else
        reply(f, BL_PACKET_REFUSED, now);
}

static void take_packet(bl_packets_listener *f, uint64_t now)
{
    uint32_t number = bl_frame_number(f->packet + 1, 2);
    const uint8_t *at = f->packet + 3;
    if (number == 0) {
        take_announcement(f, at, now);
        return;
    }
    if (!f->open || number > last_of(f)) return; /* the announcement was missed */
    uint32_t first = (number - 1) * f->payload, left = f->size - first;
    size_t n = left < f->payload ? (size_t)left : f->payload;
    memcpy(f->memory + (size_t)(f->address - f->first + first), at, n);
    f->seen[(number - 1) / 8] |= (uint8_t)(1u << ((number - 1) % 8));
    reply_state(f, now);
}

static void take_packet_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_packets_listener *f = (bl_packets_listener *)transport;
    size_t size = f->payload + (size_t)BL_PACKET_FRAME;
    f->packet[f->count++] = byte;
    if (f->packet[0] == BL_PACKET_MARK && f->count < size) return;
    bool whole = f->count == size && bl_packet_whole(f->packet, f->payload + 2u);
    if (whole) {
        f->count = 0;
        take_packet(f, now);
        return;
    }
    /* One that is whole may begin inside a damaged one. */
    do
        memmove(f->packet, f->packet + 1, --f->count);
    while (f->count > 0 && f->packet[0] != BL_PACKET_MARK);
}

/* A packet that breaks off is forgotten, so that the next begins well. */
static void tick_listener(bl_transport *transport, uint64_t now)
{
    (void)now;
    ((bl_packets_listener *)transport)->count = 0;
    transport->deadline = UINT64_MAX;
}

static const bl_transport_kind kind = {
    .name = "packets", .input = take_packet_byte, .tick = tick_listener};

void bl_packets_listen(bl_packets_listener *f, uint32_t baud, uint32_t first, uint8_t *memory,
                       uint32_t capacity, uint8_t *seen, size_t seen_capacity, uint8_t payload)
{
    memset(f, 0, sizeof *f);
    bl_transport_begin(&f->transport, &kind, baud, 0);
    f->memory = memory;
    f->first = first;
    f->capacity = capacity;
    f->seen = seen;
    f->seen_capacity = seen_capacity;
    f->payload = payload;
    f->transport.deadline = UINT64_MAX;
    forget(f);
}
