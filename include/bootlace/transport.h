/* transport.h - what all ways of carrying bytes down a serial line have in common.
 *
 * Each way (xmodem.h, acked.h, packets.h, bare.h, records.h) is a struct that begins with a
 * bl_transport, and has a begin function of its own. From then on they are all driven alike: send
 * what bl_transport_output gives, hand in what arrives, call bl_transport_tick when the deadline
 * has come, until the status is no longer BL_E_BUSY. No I/O happens in here; src/drive has the
 * loop.
 */
#ifndef BOOTLACE_TRANSPORT_H
#define BOOTLACE_TRANSPORT_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct bl_transport bl_transport;

typedef struct bl_transport_kind {
    const char *name; /* for people: "XMODEM" */
    void (*input)(bl_transport *transport, uint8_t byte, uint64_t now);
    void (*tick)(bl_transport *transport,
                 uint64_t now); /* the deadline has come, and all was sent */
    /* Tells the remote that it is over, so that it is usable again; NULL: that is not possible. */
    void (*cancel)(bl_transport *transport, uint64_t now);
} bl_transport_kind;

struct bl_transport {
    const bl_transport_kind *kind;
    bl_status status; /* BL_E_BUSY while it goes on */
    uint32_t baud;    /* 8N1, so ten bits a byte */
    const uint8_t *out;
    size_t out_count, out_sent;
    uint32_t pace_us, rest_us; /* pause after each byte, and after the last of what is said */
    uint64_t next_at;          /* microseconds: when the next byte may leave */
    uint64_t deadline;
    uint32_t timeout_us; /* of what is being said: deadline after its last byte */
    bool heard;          /* something came back since the beginning */
    /* for the user */
    size_t done, total; /* payload bytes that are over there, of all */
    uint32_t resends;
    uint64_t bytes_out, bytes_in;
};

/* Bytes to send now, as the pace allows; 0: none now. */
size_t bl_transport_output(bl_transport *transport, uint8_t *bytes, size_t capacity, uint64_t now);
void bl_transport_input(bl_transport *transport, const uint8_t *bytes, size_t count, uint64_t now);
/* When output or tick has something to do, in microseconds. */
uint64_t bl_transport_deadline(const bl_transport *transport);
void bl_transport_tick(bl_transport *transport, uint64_t now);

/* BL_E_BUSY; BL_OK; BL_E_TIMEOUT: not a byte came; BL_E_LINE: bytes came, but too many were
 * damaged; BL_E_REFUSED: the remote would not take it; BL_E_CANCELLED: it ended it; BL_E_SHORT,
 * BL_E_LONG: less or more came than was asked for. Each way says what else there may be. */
static inline bl_status bl_transport_status(const bl_transport *transport)
{
    return transport->status;
}

/* ---- for the ways themselves ---- */

void bl_transport_begin(bl_transport *transport, const bl_transport_kind *kind, uint32_t baud,
                        size_t total);
/* Sends bytes, which must stay where they are; then waits timeout_us for something. */
void bl_transport_say(bl_transport *transport, const uint8_t *bytes, size_t count,
                      uint32_t timeout_us, uint64_t now);
/* Nothing to send; waits. */
void bl_transport_await(bl_transport *transport, uint32_t timeout_us, uint64_t now);
/* Gives up: with BL_E_TIMEOUT when nothing was ever heard, else with BL_E_LINE. */
void bl_transport_give_up(bl_transport *transport);

#ifdef __cplusplus
}
#endif
#endif
