/* programmer.h - the programmer's own side: what runs on its microcontroller. docs/programmer.md.
 *
 * A state machine: bytes from the PC and the time go in, bytes for the PC come out, and the pins of
 * the socket are moved through a bl_chip_bus. No allocation; about 2 KiB of state.
 *
 * While the chip works, the line does too: a write is answered as soon as it has begun. What is
 * asked next is held until it is over, and done only if it ended well; otherwise the answer tells
 * what went wrong.
 */
#ifndef BOOTLACE_PROGRAMMER_H
#define BOOTLACE_PROGRAMMER_H

#include "exchange.h"
#include "part.h"
#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What the socket is busy with: bytes of one page, or one sector to erase. */
typedef struct bl_page_work {
    bool busy, erasing;
    uint32_t first;
    uint16_t count;
    uint16_t position; /* bytes of the page that are done or under way */
    uint8_t wanted[BL_PAGE_MAX], old[BL_PAGE_MAX];
    uint64_t give_up, look_again; /* microseconds */
    bl_answer_code outcome;
    uint32_t where; /* outcome is not GOOD: the address, and the byte there */
    uint8_t expected, found;
} bl_page_work;

typedef struct bl_programmer {
    const bl_chip_bus *bus;
    const char *name; /* told in the hello */
    bl_frame_reader reader;
    bl_frame request, answer;
    bl_frame held; /* came while the chip was busy */
    bool is_held;
    uint8_t wire[BL_FRAME_WIRE];
    size_t wire_count, wire_sent;
    bool answered; /* answer belongs to request: a repeat of it is answered again, not done again */
    bool selected;
    bl_part part;
    bl_page_work work;
    uint32_t pages_written; /* for whoever wants to know */
} bl_programmer;

/* Begins. bus and name must outlive it. The socket's lines are put to rest. */
void bl_programmer_begin(bl_programmer *p, const bl_chip_bus *bus, const char *name);

/* Bytes from the PC. */
void bl_programmer_input(bl_programmer *p, const uint8_t *bytes, size_t count, uint64_t now);
/* Bytes for the PC; 0 when there is nothing. */
size_t bl_programmer_output(bl_programmer *p, uint8_t *bytes, size_t capacity);
/* To be called when now has reached bl_programmer_deadline: goes on with the chip. */
void bl_programmer_tick(bl_programmer *p, uint64_t now);
/* UINT64_MAX when it waits for nothing but the PC. */
uint64_t bl_programmer_deadline(const bl_programmer *p);

#ifdef __cplusplus
}
#endif
#endif
