/* parts.c - the catalogue. */
#include "base/core.h"
#include "bootlace/part.h"

/* The 27 series to 27128 with its first, highest voltages; the parts that take less are written
 * with less by describing them in the bench file. */
/* clang-format off */
#define PULSE(name, size, pins, us, pulses, over, vpp, vcc, ...) \
    {name, size, pins, BL_ALGORITHM_PULSE, 16, us, 0, pulses, over, vpp, vcc, 0, 0, false, {__VA_ARGS__}}
#define EEPROM(name, size, pins, method, page, window, locks, ...) \
    {name, size, pins, method, page, 10000, window, 0, 0, 0, 0, 0, 0, locks, {__VA_ARGS__}}
#define FLASH(name, size, ...) \
    {name, size, 32, BL_ALGORITHM_COMMAND, 128, 20, 0, 0, 0, 0, 0, 4096, 25000, false, {__VA_ARGS__}}

static const bl_part parts[] = {
    /*    name     bytes  pins  pulse us  most over Vpp  Vcc  access times */
    PULSE("2716",  2048,  24,   50000,    1,   0,   250, 50,  350, 390, 450),
    PULSE("2732",  4096,  24,   50000,    1,   0,   250, 50,  250, 350, 450),
    PULSE("2764",  8192,  28,   1000,     15,  4,   210, 60,  200, 250, 300, 450),
    PULSE("27128", 16384, 28,   1000,     15,  4,   210, 60,  150, 200, 250, 300, 450),
    PULSE("27256", 32768, 28,   1000,     25,  3,   125, 60,  150, 170, 200, 250, 300),
    PULSE("27512", 65536, 28,   1000,     25,  3,   125, 60,  150, 170, 200, 250, 300),
    /*     name      bytes   pins method           page window locks  access times */
    EEPROM("28C16",  2048,   24,  BL_ALGORITHM_BYTE,  32,  0,     false, 150, 200, 250, 350),
    EEPROM("28C64",  8192,   28,  BL_ALGORITHM_PAGE,  64,  150,   true,  120, 150, 200, 250),
    EEPROM("28C256", 32768,  28,  BL_ALGORITHM_PAGE,  64,  150,   true,  150, 200, 250, 350),
    EEPROM("28C010", 131072, 32,  BL_ALGORITHM_PAGE,  128, 150,   true,  120, 150, 200),
    FLASH("39F010",  131072, 55, 70, 90),
    FLASH("39F020",  262144, 55, 70, 90),
    FLASH("39F040",  524288, 55, 70, 90),
};
/* clang-format on */

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

const char *bl_algorithm_text(unsigned algorithm)
{
    static const char *const texts[] = {
        [BL_ALGORITHM_PAGE] = "page write",
        [BL_ALGORITHM_BYTE] = "byte write",
        [BL_ALGORITHM_PULSE] = "pulses",
        [BL_ALGORITHM_COMMAND] = "commands",
    };
    _Static_assert(BL_COUNT(texts) == BL_ALGORITHMS, "one for each");
    return algorithm < BL_ALGORITHMS ? texts[algorithm] : NULL;
}

static bool is_power(uint32_t n)
{
    return n != 0 && (n & (n - 1)) == 0;
}

/* What no single figure shows: figures that do not go together. */
const char *bl_part_fault(const bl_part *p)
{
    if (p->algorithm >= BL_ALGORITHMS) return "no such method";
    if (!is_power(p->size) || p->size < 256 || p->size > 0x1000000u)
        return "its size must be a power of two from 256 to 16777216 bytes";
    if (!is_power(p->page) || p->page > BL_PAGE_MAX || p->page > p->size)
        return "its page must be a power of two, of 128 bytes at most";
    if (p->cycle_us == 0 || p->cycle_us > 1000000u)
        return "its write cycle must be longer than nothing, and a second at most";
    if (p->algorithm == BL_ALGORITHM_PULSE && (p->pulses == 0 || p->vpp < 50))
        return "pulses need a count, and a programming voltage of 5 V or more";
    if (p->algorithm == BL_ALGORITHM_PULSE && (p->vcc < 45 || p->vcc > 70))
        return "its supply while programming must be from 4.5 to 7 V";
    if (p->algorithm == BL_ALGORITHM_PULSE &&
        (uint64_t)p->cycle_us * p->pulses * (p->over > 0 ? p->over : 1u) > 4000000u)
        return "all its pulses, and the last one, must be shorter than 4 seconds";
    if (p->algorithm == BL_ALGORITHM_COMMAND &&
        (!is_power(p->sector) || p->sector < p->page || p->sector > p->size || p->erase_us == 0 ||
         p->erase_us > 20000000u))
        return "commands need a sector (a power of two, a page at least) and an erase time";
    return NULL;
}

bool bl_part_only_falls(const bl_part *part)
{
    return part->algorithm == BL_ALGORITHM_PULSE || part->algorithm == BL_ALGORITHM_COMMAND;
}

int32_t bl_access_left(uint32_t clock, uint16_t halves, uint16_t own_ns, uint16_t decode_ns)
{
    return (int32_t)((uint64_t)halves * 500000000u / clock) - own_ns - decode_ns;
}
