/* programmer.h - the programmer's own side: what runs on its microcontroller. docs/programmer.md.
 *
 * A state machine: bytes from the PC and the time go in, bytes for the PC come out, and the pins of
 * the socket are moved through a bl_chip_bus. No allocation; about 1 KiB of state.
 */
#ifndef BOOTLACE_PROGRAMMER_H
#define BOOTLACE_PROGRAMMER_H

#include "frame.h"
#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_PAGE_MOST = 128 };

typedef struct bl_programmer {
    const bl_chip_bus *bus;
    const char *name; /* told in the hello */
    bl_frame_reader reader;
    bl_frame request, answer;
    uint8_t wire[BL_FRAME_WIRE];
    size_t wire_count, wire_sent;
    bool answered; /* answer belongs to request: a repeat of it is answered again, not done again */
    bool selected;
    uint32_t size; /* of the selected part */
    uint16_t page, cycle_ms;
    /* a page write under way */
    bool writing;
    uint32_t first;
    uint8_t count;
    uint8_t old[BL_PAGE_MOST];
    uint64_t give_up; /* microseconds */
    uint64_t look_again;
    /* for whoever wants to know */
    uint32_t pages_written;
} bl_programmer;

/* Begins. bus and name must outlive it. The socket's lines are put to rest. */
void bl_programmer_begin(bl_programmer *p, const bl_chip_bus *bus, const char *name);

/* Bytes from the PC. */
void bl_programmer_input(bl_programmer *p, const uint8_t *bytes, size_t count, uint64_t now);
/* Bytes for the PC; 0 when there is nothing. */
size_t bl_programmer_output(bl_programmer *p, uint8_t *bytes, size_t room);
/* To be called when now has reached bl_programmer_deadline: looks whether a write cycle has ended.
 */
void bl_programmer_tick(bl_programmer *p, uint64_t now);
/* UINT64_MAX when it waits for nothing but the PC. */
uint64_t bl_programmer_deadline(const bl_programmer *p);

#ifdef __cplusplus
}
#endif
#endif
