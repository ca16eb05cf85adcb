/* crc.c - CRC-32 a nibble at a time, CRC-16 and FCS-16 without a table, sums. Small enough for a
 * microcontroller. */
#include "bootlace/crc.h"

#include "core.h"

uint32_t bl_crc32(uint32_t crc, const void *bytes, size_t count)
{
    static const uint32_t nibble[16] = {
        0x00000000u, 0x1DB71064u, 0x3B6E20C8u, 0x26D930ACu, 0x76DC4190u, 0x6B6B51F4u,
        0x4DB26158u, 0x5005713Cu, 0xEDB88320u, 0xF00F9344u, 0xD6D6A3E8u, 0xCB61B38Cu,
        0x9B64C2B0u, 0x86D3D2D4u, 0xA00AE278u, 0xBDBDF21Cu,
    };
    const uint8_t *b = bytes;
    crc = ~crc;
    for (size_t i = 0; i < count; i++) {
        crc ^= b[i];
        crc = (crc >> 4) ^ nibble[crc & 15];
        crc = (crc >> 4) ^ nibble[crc & 15];
    }
    return ~crc;
}

/* The byte-wise form of the same polynomial, highest bit first: x holds the eight feedback bits. */
uint16_t bl_crc16(uint16_t crc, const void *bytes, size_t count)
{
    const uint8_t *b = bytes;
    for (size_t i = 0; i < count; i++) {
        uint16_t x = (uint16_t)((crc >> 8 ^ b[i]) & 0xFFu);
        x = (uint16_t)(x ^ x >> 4);
        crc = (uint16_t)((crc << 8) ^ (uint16_t)(x << 12) ^ (uint16_t)(x << 5) ^ x);
    }
    return crc;
}

uint16_t bl_sum16(uint16_t sum, const void *bytes, size_t count)
{
    const uint8_t *b = bytes;
    for (size_t i = 0; i < count; i++)
        sum = (uint16_t)(sum + b[i]);
    return sum;
}

/* The byte-wise form of the reflected CCITT polynomial: x holds the eight feedback bits. */
uint16_t bl_fcs16(uint16_t fcs, uint8_t byte)
{
    uint16_t x = (uint16_t)((fcs ^ byte) & 0xFFu);
    x = (uint16_t)((x ^ (uint16_t)(x << 4)) & 0xFFu);
    return (uint16_t)((fcs >> 8) ^ (uint16_t)(x << 8) ^ (uint16_t)(x << 3) ^ (x >> 4));
}

uint16_t bl_fcs16_row(uint16_t fcs, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        fcs = bl_fcs16(fcs, bytes[i]);
    return fcs;
}

/* A carry of the sum comes back as 15, so that it is a sum modulo 65521: modulo 65536 two flips of
 * a highest bit at an even distance would not be seen, and modulo 65535 no word that was $0000 and
 * is $FFFF. The carry of the sum of sums goes into the sum, and is not lost. */
uint32_t bl_double_sum(const uint8_t *bytes, size_t count)
{
    enum { ROUND = 15 };
    uint32_t sum = 0xFFFF, sums = 0xFFFF;
    size_t odd = count % 2;
    for (size_t at = 0; at < count; at += at == 0 && odd != 0 ? 1 : 2) {
        bool alone = at == 0 && odd != 0; /* as the high byte of a word */
        uint32_t low = alone ? 0 : bytes[at], high = alone ? bytes[at] : bytes[at + 1];
        sum += (high << 8 | low) + (sums >> 16);
        if (sum > 0xFFFF) sum = (sum + ROUND) & 0xFFFF;
        sums = (sums & 0xFFFF) + sum;
    }
    return ~(sums << 16 | sum);
}
