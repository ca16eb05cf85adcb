/* packets_send.c - announces, then sends what is wanted next, or all of it blindly. */
#include "base/core.h"
#include "bootlace/crc.h"
#include "bootlace/frame.h"
#include "packets_state.h"

enum { MAX_TRIES = 40, ANNOUNCEMENTS = 2 };
_Static_assert(ANNOUNCEMENTS < MAX_TRIES, "there are tries left for the packets");
#define ANSWER_US 150000u

void bl_packet_seal(uint8_t *packet, size_t count)
{
    uint16_t fcs = bl_fcs16_row(BL_FCS16_START, packet + 1, count);
    bl_frame_store(packet + count + 1, ~(uint32_t)fcs, 2);
}

bool bl_packet_whole(const uint8_t *packet, size_t count)
{
    return bl_fcs16_row(BL_FCS16_START, packet + 1, count + 2) == BL_FCS16_GOOD;
}

static void write_announcement(bl_packets *p, uint8_t *at)
{
    at[AT_VERSION] = VERSION;
    at[AT_PAYLOAD] = p->payload;
    at[AT_ROUNDS] = p->rounds;
    bl_frame_store(at + AT_ADDRESS, p->address, 3);
    bl_frame_store(at + AT_SIZE, (uint32_t)p->transport.total, 3);
    bl_frame_store(at + AT_CRC, bl_crc32(0, p->bytes, p->transport.total), 4);
}

static void send_packet(bl_packets *p, uint64_t now)
{
    uint8_t *at = p->packet + 3;
    p->packet[0] = BL_PACKET_MARK;
    bl_frame_store(p->packet + 1, p->number, 2);
    memset(at, 0, p->payload);
    if (p->number == 0) {
        write_announcement(p, at);
    } else {
        size_t first = (size_t)(p->number - 1) * p->payload, left = p->transport.total - first;
        memcpy(at, p->bytes + first, left < p->payload ? left : p->payload);
    }
    bl_packet_seal(p->packet, p->payload + 2u);
    p->reply_count = 0;
    bl_transport_say(
        &p->transport, p->packet, p->payload + (size_t)BL_PACKET_FRAME,
        p->rounds > 0 ? 0 : ANSWER_US + BL_PACKET_REPLY * 10u * 1000000u / p->transport.baud, now);
}

static void note_done(bl_packets *p)
{
    size_t done = p->number == 0 ? 0 : (size_t)(p->number - 1) * p->payload;
    p->transport.done = done < p->transport.total ? done : p->transport.total;
}

/* What is wanted next is sent. Twice wrong as a whole is the end. */
static void take_reply(bl_packets *p, uint64_t now)
{
    uint32_t wanted = bl_frame_number(p->reply + 2, 2);
    p->tries = 0;
    switch (p->reply[1]) {
    case BL_PACKET_WHOLE:
        p->transport.done = p->transport.total;
        p->transport.status = BL_OK;
        return;
    case BL_PACKET_WRONG:
        p->wrong++;
        p->transport.resends++;
        wanted = 0;
        break;
    case BL_PACKET_GOOD: break;
    default: p->transport.status = BL_E_REFUSED; return;
    }
    if (p->wrong == 2 || wanted > p->last) {
        p->transport.status = p->wrong == 2 ? BL_E_DIFFERS : BL_E_LINE;
        return;
    }
    if (wanted <= p->number && p->number > 0) p->transport.resends++;
    p->number = wanted;
    note_done(p);
    send_packet(p, now);
}

static void take_reply_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_packets *p = (bl_packets *)transport;
    if (p->rounds > 0) return;
    p->reply[p->reply_count++] = byte;
    while (p->reply_count > 0 && p->reply[0] != BL_PACKET_ANSWER)
        memmove(p->reply, p->reply + 1, --p->reply_count);
    if (p->reply_count < BL_PACKET_REPLY) return;
    if (bl_packet_whole(p->reply, BL_PACKET_REPLY - 3)) {
        p->reply_count = 0;
        if (transport->out_sent == transport->out_count) take_reply(p, now);
        return;
    }
    /* Damaged: one that is whole may begin inside it. */
    do
        memmove(p->reply, p->reply + 1, --p->reply_count);
    while (p->reply_count > 0 && p->reply[0] != BL_PACKET_ANSWER);
}

static void send_blindly(bl_packets *p, uint64_t now)
{
    if (p->number == 0 && ++p->tries < ANNOUNCEMENTS) {
        send_packet(p, now);
        return;
    }
    if (p->number < p->last) {
        p->number++;
    } else if (++p->round < p->rounds) {
        p->number = 0;
        p->tries = 0;
    } else {
        p->transport.done = p->transport.total;
        p->transport.status = BL_OK;
        return;
    }
    note_done(p);
    send_packet(p, now);
}

static void time_out_packet(bl_transport *transport, uint64_t now)
{
    bl_packets *p = (bl_packets *)transport;
    if (p->rounds > 0) {
        send_blindly(p, now);
    } else if (++p->tries == MAX_TRIES) {
        bl_transport_give_up(transport);
    } else {
        transport->resends++;
        send_packet(p, now);
    }
}

static const bl_transport_kind kind = {
    .name = "packets", .input = take_reply_byte, .tick = time_out_packet};

void bl_packets_send(bl_packets *p, uint32_t baud, uint32_t address, const uint8_t *bytes,
                     size_t count, uint8_t payload, uint8_t rounds, uint64_t now)
{
    memset(p, 0, sizeof *p);
    bl_transport_begin(&p->transport, &kind, baud, count);
    p->bytes = bytes;
    p->address = address;
    p->payload = payload < BL_PACKET_MIN   ? (uint8_t)BL_PACKET_MIN
                 : payload > BL_PACKET_MAX ? (uint8_t)BL_PACKET_MAX
                                           : payload;
    p->rounds = rounds;
    p->last = (uint32_t)((count + p->payload - 1) / p->payload);
    if (p->last > 0xFFFF || (uint64_t)address + count > (uint64_t)1 << 24)
        p->transport.status = BL_E_RANGE;
    else
        send_packet(p, now);
}
