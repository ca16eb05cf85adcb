/* access.h - memory and code as the sources of a CPU reach them. They name the CPU's structure
 * first: typedef sim_NAME cpu;
 *
 * Most instructions lie in one page of memory, so the bytes of code are taken through a pointer
 * that only jumps and the ends of pages set anew. Pages may change between runs, not within one.
 */
#ifndef BOOTLACE_SIM_ACCESS_H
#define BOOTLACE_SIM_ACCESS_H

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
    const uint8_t *page = c->bus->read_page[a >> 8];
    if (page == NULL) {
        c->code.at = c->code.end = NULL;
        c->code.end_address = a;
    } else {
        c->code.at = page + (a & 0xFF);
        c->code.end = page + 256;
        c->code.end_address = (uint16_t)((a | 0xFF) + 1);
    }
}

/* A jump from here by a distance: mostly within the page. Returns whether it left it. */
SIM_INLINE bool jump_by(cpu *c, int distance)
{
    ptrdiff_t left = c->code.end - c->code.at, after = left - distance;
    if (left > 0 && after > 0 && after <= 256) {
        c->code.at = c->code.end - after;
        return false;
    }
    uint16_t from = here(c), to = (uint16_t)(from + distance);
    jump(c, to);
    return (from ^ to) >> 8 != 0;
}

/* The next byte of code beyond a page, or from where no memory is. */
static uint8_t fetch_far(cpu *c)
{
    uint16_t at = c->code.end_address;
    jump(c, at);
    if (c->code.at != c->code.end) return *c->code.at++;
    uint8_t v = rd(c, at);
    c->code.end_address++;
    return v;
}

SIM_INLINE uint8_t fetch(cpu *c)
{
    return c->code.at != c->code.end ? *c->code.at++ : fetch_far(c);
}

/* Two bytes of code. */
SIM_INLINE uint16_t fetch_two(cpu *c, unsigned first, unsigned second)
{
    const uint8_t *at = c->code.at;
    if (c->code.end - at >= 2) {
        c->code.at = at + 2;
        return (uint16_t)(at[0] << first | at[1] << second);
    }
    unsigned v = (unsigned)fetch(c) << first;
    return (uint16_t)(v | (unsigned)fetch(c) << second);
}

#endif
