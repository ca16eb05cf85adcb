/* blank.c - the smallest port that compiles. Copy it, and put your hardware where the comments are.
 *
 * It is honest about having no hardware: nothing is ever taken or received, and time passes only by
 * being waited for.
 */
#include "bootlace/port.h"

typedef struct blank {
    uint64_t now; /* microseconds */
} blank;

static bl_status blank_send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    /* Put up to count bytes into the transmitter; say how many it took. */
    (void)context, (void)bytes, (void)count;
    *taken = 0;
    return BL_E_IO;
}

static bl_status blank_receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    /* Fetch what the receiver holds, without waiting. */
    (void)context, (void)bytes, (void)capacity;
    *got = 0;
    return BL_OK;
}

static bl_status blank_wait(void *context, uint32_t microseconds)
{
    /* Sleep until something arrives, or so long. */
    blank *b = context;
    b->now += microseconds;
    return BL_OK;
}

static uint64_t blank_now(void *context)
{
    /* Read a timer that never goes back. */
    const blank *b = context;
    return b->now;
}

/* Sectors of a drive. */
static bl_status blank_read(void *context, uint32_t sector, uint8_t *bytes)
{
    /* Fetch 512 bytes of it; BL_E_NOT_READY without a disk, BL_E_IO when it cannot be read. */
    (void)context, (void)sector, (void)bytes;
    return BL_E_NOT_READY;
}

static bl_status blank_write(void *context, uint32_t sector, const uint8_t *bytes)
{
    /* Return when it is on the medium: the order of sectors is what keeps a disk whole. */
    (void)context, (void)sector, (void)bytes;
    return BL_E_NOT_READY;
}

bl_sectors blank_sectors(void);
bl_sectors blank_sectors(void)
{
    return (bl_sectors){.read = blank_read, .write = blank_write, .count = 0, .size = 512};
}

bl_serial blank_port(void);
bl_serial blank_port(void)
{
    static blank state;
    return (bl_serial){.context = &state,
                       .send = blank_send,
                       .receive = blank_receive,
                       .wait = blank_wait,
                       .now = blank_now};
}
