/* parts.c - the catalogue. */
#include "base/core.h"
#include "bootlace/part.h"

/* The 27 series to 27128 with its first, highest voltages; the parts that take less are written
 * with less by describing them in the bench file. 39F: 4 KiB sectors. */
static const bl_part parts[] = {
    {.name = "2716",
     .size = 2048,
     .pins = 24,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 50000,
     .pulses = 1,
     .vpp = 250,
     .vcc = 50,
     .access_ns = {350, 390, 450}},
    {.name = "2732",
     .size = 4096,
     .pins = 24,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 50000,
     .pulses = 1,
     .vpp = 250,
     .vcc = 50,
     .access_ns = {250, 350, 450}},
    {.name = "2764",
     .size = 8192,
     .pins = 28,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 1000,
     .pulses = 15,
     .over = 4,
     .vpp = 210,
     .vcc = 60,
     .access_ns = {200, 250, 300, 450}},
    {.name = "27128",
     .size = 16384,
     .pins = 28,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 1000,
     .pulses = 15,
     .over = 4,
     .vpp = 210,
     .vcc = 60,
     .access_ns = {150, 200, 250, 300, 450}},
    {.name = "27256",
     .size = 32768,
     .pins = 28,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 1000,
     .pulses = 25,
     .over = 3,
     .vpp = 125,
     .vcc = 60,
     .access_ns = {150, 170, 200, 250, 300}},
    {.name = "27512",
     .size = 65536,
     .pins = 28,
     .method = BL_METHOD_PULSE,
     .page = 16,
     .cycle_us = 1000,
     .pulses = 25,
     .over = 3,
     .vpp = 125,
     .vcc = 60,
     .access_ns = {150, 170, 200, 250, 300}},
    {.name = "28C16",
     .size = 2048,
     .pins = 24,
     .method = BL_METHOD_BYTE,
     .page = 32,
     .cycle_us = 10000,
     .access_ns = {150, 200, 250, 350}},
    {.name = "28C64",
     .size = 8192,
     .pins = 28,
     .method = BL_METHOD_PAGE,
     .page = 64,
     .cycle_us = 10000,
     .window_us = 150,
     .locks = true,
     .access_ns = {120, 150, 200, 250}},
    {.name = "28C256",
     .size = 32768,
     .pins = 28,
     .method = BL_METHOD_PAGE,
     .page = 64,
     .cycle_us = 10000,
     .window_us = 150,
     .locks = true,
     .access_ns = {150, 200, 250, 350}},
    {.name = "28C010",
     .size = 131072,
     .pins = 32,
     .method = BL_METHOD_PAGE,
     .page = 128,
     .cycle_us = 10000,
     .window_us = 150,
     .locks = true,
     .access_ns = {120, 150, 200}},
    {.name = "39F010",
     .size = 131072,
     .pins = 32,
     .method = BL_METHOD_COMMAND,
     .page = 128,
     .cycle_us = 20,
     .sector = 4096,
     .erase_us = 25000,
     .access_ns = {55, 70, 90}},
    {.name = "39F020",
     .size = 262144,
     .pins = 32,
     .method = BL_METHOD_COMMAND,
     .page = 128,
     .cycle_us = 20,
     .sector = 4096,
     .erase_us = 25000,
     .access_ns = {55, 70, 90}},
    {.name = "39F040",
     .size = 524288,
     .pins = 32,
     .method = BL_METHOD_COMMAND,
     .page = 128,
     .cycle_us = 20,
     .sector = 4096,
     .erase_us = 25000,
     .access_ns = {55, 70, 90}},
};

size_t bl_parts(void)
{
    return sizeof parts / sizeof parts[0];
}

const bl_part *bl_part_at(size_t index)
{
    return index < bl_parts() ? &parts[index] : NULL;
}

const bl_part *bl_part_named(bl_text name)
{
    for (size_t i = 0; i < bl_parts(); i++)
        if (bl_text_same_nocase(bl_text_of(parts[i].name), name)) return &parts[i];
    return NULL;
}

uint16_t bl_part_slowest(const bl_part *part)
{
    uint16_t slowest = 0;
    for (size_t i = 0; i < BL_GRADES; i++)
        if (part->access_ns[i] > slowest) slowest = part->access_ns[i];
    return slowest > 0 ? slowest : 500;
}

const char *bl_method_text(unsigned method)
{
    static const char *const texts[] = {"page write", "byte write", "pulses", "commands"};
    return method < BL_METHODS ? texts[method] : NULL;
}

static bool is_power(uint32_t n)
{
    return n != 0 && (n & (n - 1)) == 0;
}

const char *bl_part_fault(const bl_part *p)
{
    if (p->method >= BL_METHODS) return "no such method";
    if (!is_power(p->size) || p->size < 256 || p->size > 0x1000000u)
        return "its size must be a power of two from 256 to 16777216 bytes";
    if (!is_power(p->page) || p->page > BL_PAGE_MOST || p->page > p->size)
        return "its page must be a power of two, of 128 bytes at most";
    if (p->cycle_us == 0 || p->cycle_us > 1000000u)
        return "its write cycle must be longer than nothing, and a second at most";
    if (p->method == BL_METHOD_PULSE && (p->pulses == 0 || p->vpp < 50))
        return "pulses need a count, and a programming voltage of 5 V or more";
    if (p->method == BL_METHOD_PULSE && (p->vcc < 45 || p->vcc > 70))
        return "its supply while programming must be from 4.5 to 7 V";
    if (p->method == BL_METHOD_COMMAND &&
        (!is_power(p->sector) || p->sector < p->page || p->sector > p->size || p->erase_us == 0 ||
         p->erase_us > 20000000u))
        return "commands need a sector (a power of two, a page at least) and an erase time";
    return NULL;
}

bool bl_part_only_falls(const bl_part *part)
{
    return part->method == BL_METHOD_PULSE || part->method == BL_METHOD_COMMAND;
}

bl_access bl_access_time(uint32_t clock, uint16_t halves, uint16_t setup_ns, uint16_t decode_ns)
{
    bl_access a = {clock, 1000000000u / clock, halves, setup_ns, decode_ns, 0};
    a.left_ns = (int32_t)((uint64_t)halves * 500000000u / clock) - setup_ns - decode_ns;
    return a;
}
