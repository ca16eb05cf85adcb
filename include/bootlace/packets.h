/* packets.h - numbered packets of a fixed small payload, for radio modules and slow ports that are
 * made in software. docs/packets.md. Both sides are here.
 *
 * The first packet announces what comes. Then each packet is answered with the number that is
 * wanted next; or, blind, nobody answers and everything is sent several times.
 */
#ifndef BOOTLACE_PACKETS_H
#define BOOTLACE_PACKETS_H

#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_PACKET_USUAL = 32, /* payload bytes */
    BL_PACKET_MIN = 16,
    BL_PACKET_MAX = 128,
    BL_PACKET_FRAME = 5, /* mark, number (2), FCS-16 (2) */
    BL_PACKET_MARK = 0xA7,
    BL_PACKET_ANSWER = 0xA8,
    BL_PACKET_REPLY = 6, /* mark, code, number (2), FCS-16 (2) */
};

typedef enum bl_packet_code {
    BL_PACKET_GOOD = 0,    /* the number is the one wanted next */
    BL_PACKET_REFUSED = 1, /* this does not fit into the memory that is there */
    BL_PACKET_WHOLE = 2,   /* all of it is there, and its CRC-32 is right */
    BL_PACKET_WRONG = 3,   /* all of it is there, and its CRC-32 is wrong: it begins anew */
} bl_packet_code;

typedef struct bl_packets {
    bl_transport transport; /* must be first */
    const uint8_t *bytes;
    uint32_t address;
    uint8_t payload; /* bytes */
    uint8_t rounds;  /* 0: each packet is answered */
    uint8_t round;
    uint8_t packet[BL_PACKET_MAX + BL_PACKET_FRAME];
    uint8_t reply[BL_PACKET_REPLY];
    size_t reply_count;
    uint32_t number, last; /* 0 announces */
    unsigned tries, wrong;
} bl_packets;

/* Sends count bytes for address. rounds 0: acknowledged; else blind, everything so many times, and
 * BL_OK says only that it was sent. BL_E_REFUSED: they have no place there; BL_E_DIFFERS: their
 * CRC-32 was wrong over there, twice; BL_E_RANGE, at once: more than 65,535 packets,
 * or addresses of more than 24 bits. */
void bl_packets_send(bl_packets *p, uint32_t baud, uint32_t address, const uint8_t *bytes,
                     size_t count, uint8_t payload, uint8_t rounds, uint64_t now);

/* The receiving side, for a microcontroller or a simulated one. */
typedef struct bl_packets_listener {
    bl_transport
        transport; /* must be first; stays BL_E_BUSY: it can always take another announcement */
    uint8_t *memory;
    uint32_t first, capacity; /* the addresses that memory stands for */
    uint8_t *seen;            /* a bit a packet */
    size_t seen_capacity;     /* bytes */
    uint8_t payload;
    uint8_t packet[BL_PACKET_MAX + BL_PACKET_FRAME];
    size_t count;
    uint8_t announced[BL_PACKET_MAX];
    bool open, whole;
    uint32_t address, size, crc, wanted;
    uint8_t reply[BL_PACKET_REPLY];
} bl_packets_listener;

/* memory and seen must outlive it. seen needs a bit for each packet of the largest transfer. */
void bl_packets_listen(bl_packets_listener *f, uint32_t baud, uint32_t first, uint8_t *memory,
                       uint32_t capacity, uint8_t *seen, size_t seen_capacity, uint8_t payload);

#ifdef __cplusplus
}
#endif
#endif
