/* bare.c - counting bytes. */
#include "bootlace/bare.h"

#include "base/core.h"

static void ignore(bl_way *way, uint8_t byte, uint64_t now)
{
    (void)way, (void)byte, (void)now; /* an echo, perhaps */
}

static void all_sent(bl_way *way, uint64_t now)
{
    (void)now;
    way->done = way->total;
    way->status = BL_OK;
}

static const bl_way_kind sending = {"bare bytes", ignore, all_sent};

void bl_bare_send(bl_bare *b, uint32_t baud, const uint8_t *bytes, size_t count, uint32_t pace_us,
                  uint64_t now)
{
    memset(b, 0, sizeof *b);
    bl_way_begin(&b->way, &sending, baud, count);
    b->way.pace_us = pace_us;
    bl_way_say(&b->way, bytes, count, 0, now);
}

static void take(bl_way *way, uint8_t byte, uint64_t now)
{
    bl_bare *b = (bl_bare *)way;
    b->buffer[way->done++] = byte;
    way->deadline = now + way->patience_us;
    if (way->done == way->total) way->status = BL_OK;
}

static void missing(bl_way *way, uint64_t now)
{
    (void)now;
    bl_way_give_up(way);
}

static const bl_way_kind receiving = {"bare bytes", take, missing};

void bl_bare_receive(bl_bare *b, uint32_t baud, uint8_t *buffer, size_t count, uint32_t patience_us,
                     uint64_t now)
{
    memset(b, 0, sizeof *b);
    bl_way_begin(&b->way, &receiving, baud, count);
    b->buffer = buffer;
    bl_way_await(&b->way, patience_us, now);
    if (count == 0) b->way.status = BL_OK;
}
