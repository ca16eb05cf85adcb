/* keying.c - the standards of two-tone keying, and what a byte is in one. */
#include "bootlace/keying.h"

static const bl_keying standards[] = {
    {.hz = {1200, 2400}, .half_cycles = {8, 16}, .data_bits = 8, .stop_bits = 2},
    {.hz = {1200, 2400}, .half_cycles = {4, 8}, .data_bits = 8, .stop_bits = 2},
    {.hz = {1200, 2400}, .half_cycles = {2, 4}, .data_bits = 8, .stop_bits = 2},
    {.hz = {1200, 2400}, .half_cycles = {1, 2}, .data_bits = 8, .stop_bits = 2},
};

const bl_keying *bl_keying_at(size_t index)
{
    return index < sizeof standards / sizeof standards[0] ? &standards[index] : NULL;
}

const bl_keying *bl_keying_standard(uint32_t baud)
{
    for (size_t i = 0; i < sizeof standards / sizeof standards[0]; i++)
        if (bl_keying_baud(&standards[i]) == baud) return &standards[i];
    return NULL;
}

uint64_t bl_keying_bit_ns(const bl_keying *k, unsigned value)
{
    return (uint64_t)k->half_cycles[value] * 500000000u / k->hz[value];
}

bl_status bl_keying_check(const bl_keying *k)
{
    for (unsigned v = 0; v < 2; v++)
        if (k->hz[v] < 200 || k->hz[v] > 20000 || k->half_cycles[v] < 1 || k->half_cycles[v] > 64)
            return BL_E_RANGE;
    if (k->hz[0] == k->hz[1] || bl_keying_bit_ns(k, 0) > 8 * bl_keying_bit_ns(k, 1) ||
        bl_keying_bit_ns(k, 1) > 8 * bl_keying_bit_ns(k, 0))
        return BL_E_RANGE;
    if (k->data_bits < 5 || k->data_bits > 8 || k->stop_bits < 1 || k->stop_bits > 3)
        return BL_E_RANGE;
    return (unsigned)k->parity <= BL_PARITY_ODD ? BL_OK : BL_E_RANGE;
}

uint32_t bl_keying_baud(const bl_keying *k)
{
    uint64_t longer = bl_keying_bit_ns(k, 0) > bl_keying_bit_ns(k, 1) ? bl_keying_bit_ns(k, 0)
                                                                      : bl_keying_bit_ns(k, 1);
    return (uint32_t)((1000000000u + longer / 2) / longer);
}

unsigned bl_keying_bits(const bl_keying *k, uint8_t byte, uint8_t bits[BL_KEYING_MAX_BITS])
{
    unsigned count = 0, ones = 0;
    uint8_t idle = k->idle_low ? 0 : 1;
    bits[count++] = idle ^ 1;
    for (unsigned i = 0; i < k->data_bits; i++) {
        unsigned place = k->high_first ? k->data_bits - 1u - i : i;
        bits[count] = byte >> place & 1;
        ones += bits[count++];
    }
    if (k->parity != BL_PARITY_NONE)
        bits[count++] = (uint8_t)((ones & 1) ^ (k->parity == BL_PARITY_ODD));
    for (unsigned i = 0; i < k->stop_bits; i++)
        bits[count++] = idle;
    return count;
}

uint64_t bl_keying_byte_ns(const bl_keying *k, uint8_t byte)
{
    uint8_t bits[BL_KEYING_MAX_BITS];
    unsigned count = bl_keying_bits(k, byte, bits);
    uint64_t ns = 0;
    for (unsigned i = 0; i < count; i++)
        ns += bl_keying_bit_ns(k, bits[i]);
    return ns;
}
