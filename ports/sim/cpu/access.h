/* access.h - memory and code as the sources of a CPU reach them. They name the CPU's structure
 * first: typedef sim_NAME cpu, and how long its instructions are: SIM_LENGTH(c, code, have), from
 * code_length.h.
 *
 * Code comes through a pointer that jumps and the ends of pages set anew. One look before each
 * instruction tells that all of its bytes are there: its page goes on in the host's memory, or ends
 * far enough away; otherwise the instruction is copied together first, byte by byte as the bus
 * gives it, and not a byte more: it may be a device's. Pages may change between runs, not within
 * one.
 */
#ifndef BOOTLACE_SIM_ACCESS_H
#define BOOTLACE_SIM_ACCESS_H

#include "code_length.h"

SIM_INLINE uint8_t rd(const cpu *c, uint16_t a)
{
    return sim_read(c->bus, a);
}

SIM_INLINE void wr(const cpu *c, uint16_t a, uint8_t v)
{
    sim_write(c->bus, a, v);
}

/* The same with the page known. */
SIM_INLINE uint8_t rd_page(const cpu *c, uint8_t page, uint8_t low)
{
    const uint8_t *bytes = c->bus->read_page[page];
    return bytes != NULL ? bytes[low] : rd(c, (uint16_t)(page << 8 | low));
}

SIM_INLINE void wr_page(const cpu *c, uint8_t page, uint8_t low, uint8_t v)
{
    uint8_t *bytes = c->bus->write_page[page];
    if (bytes != NULL)
        bytes[low] = v;
    else
        wr(c, (uint16_t)(page << 8 | low), v);
}

/* Two bytes side by side, mostly in one page; the parameters tell how far each is shifted. */
SIM_INLINE uint16_t rd_two(const cpu *c, uint16_t a, unsigned first, unsigned second)
{
    const uint8_t *page = c->bus->read_page[a >> 8];
    unsigned at = a & 0xFF;
    if (page != NULL && at != 0xFF) return (uint16_t)(page[at] << first | page[at + 1] << second);
    unsigned v = (unsigned)rd(c, a) << first;
    return (uint16_t)(v | (unsigned)rd(c, (uint16_t)(a + 1)) << second);
}

SIM_INLINE void wr_two(const cpu *c, uint16_t a, uint8_t first, uint8_t second)
{
    uint8_t *page = c->bus->write_page[a >> 8];
    unsigned at = a & 0xFF;
    if (page != NULL && at != 0xFF) {
        page[at] = first;
        page[at + 1] = second;
        return;
    }
    wr(c, a, first);
    wr(c, (uint16_t)(a + 1), second);
}

/* Where the next byte of code is. */
SIM_INLINE uint16_t here(const cpu *c)
{
    return (uint16_t)(c->code.end_address - (c->code.end - c->code.at));
}

SIM_INLINE void jump(cpu *c, uint16_t a)
{
    const uint8_t *page = c->bus->read_page[a >> 8], *edge = c->code.edge;
    if (page != NULL && c->bus->read_page[((a >> 8) + 1) & 0xFF] == page + 256) {
        c->code.at = page + (a & 0xFF);
        c->code.start = page;
        c->code.end = page + 256;
        c->code.end_address = (uint16_t)((a | 0xFF) + 1);
    } else {
        c->code.at = c->code.start = c->code.end = edge; /* gather decides */
        c->code.end_address = a;
    }
}

/* A jump from here by a distance: mostly within the page. Returns whether it left it. */
SIM_INLINE bool jump_by(cpu *c, int distance)
{
    ptrdiff_t left = c->code.end - c->code.at, after = left - distance;
    if (left > 0 && after > 0 && after <= c->code.end - c->code.start) {
        c->code.at = c->code.end - after;
        return false;
    }
    uint16_t from = here(c), to = (uint16_t)(from + distance);
    jump(c, to);
    return (from ^ to) >> 8 != 0;
}

/* Makes the next instruction's bytes ready where they do not go on after their page. */
static void gather(cpu *c)
{
    uint16_t a = here(c);
    jump(c, a);
    if (c->code.at != c->code.end) return;
    const uint8_t *page = c->bus->read_page[a >> 8];
    unsigned last = 256 - SIM_LONGEST;
    if (page != NULL && (a & 0xFF) <= last) {
        c->code.at = page + (a & 0xFF);
        c->code.start = page;
        c->code.end = page + last + 1;
        c->code.end_address = (uint16_t)((a & 0xFF00) + last + 1);
        return;
    }
    unsigned have = 0;
    do {
        c->code.edge[have] = sim_fetch(c->bus, (uint16_t)(a + have));
        have++;
    } while (have < SIM_LENGTH(c, c->code.edge, have));
    c->code.at = c->code.start = c->code.edge;
    c->code.end = c->code.edge + 1;
    c->code.end_address = (uint16_t)(a + 1);
}

/* The first byte of an instruction, then the others. */
SIM_INLINE uint8_t fetch_first(cpu *c)
{
    if (c->code.at >= c->code.end) gather(c);
    return *c->code.at++;
}

SIM_INLINE uint8_t fetch(cpu *c)
{
    return *c->code.at++;
}

/* A byte of code as it is now: the instruction may have changed it. */
SIM_INLINE uint8_t fetch_now(cpu *c)
{
    uint16_t a = here(c);
    const uint8_t *page = c->bus->read_page[a >> 8];
    uint8_t copied = fetch(c);
    return page != NULL ? page[a & 0xFF] : copied;
}

/* Two bytes of code. */
SIM_INLINE uint16_t fetch_two(cpu *c, unsigned first, unsigned second)
{
    const uint8_t *at = c->code.at;
    c->code.at = at + 2;
    return (uint16_t)(at[0] << first | at[1] << second);
}

#endif
