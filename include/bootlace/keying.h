/* keying.h - two-tone frequency keying, as cassettes carry it: which tone a bit is, for how long,
 * and how the bits of a byte follow one another.
 *
 * The Kansas City standard (Byte, February 1976) has 300 baud: a 0 is four cycles of 1200 Hz, a 1
 * is eight cycles of 2400 Hz; a start bit (0), eight data bits, the lowest first, two stop bits
 * (1). Its faster relatives have fewer cycles of the same tones. Between bytes the tone of a 1 goes
 * on.
 */
#ifndef BOOTLACE_KEYING_H
#define BOOTLACE_KEYING_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_parity { BL_PARITY_NONE, BL_PARITY_EVEN, BL_PARITY_ODD } bl_parity;

enum { BL_KEYING_MAX_BITS = 13 }; /* of a byte: start, 8 data, parity, up to 3 stop bits */

typedef struct bl_keying {
    uint32_t hz[2];          /* the tone of a 0, of a 1 */
    uint16_t half_cycles[2]; /* how many halves of a cycle a 0 lasts, a 1 */
    uint8_t data_bits;       /* 5 to 8 */
    uint8_t stop_bits;       /* 1 to 3 */
    bl_parity parity;
    bool high_first; /* the highest data bit is sent first */
    bool idle_low;   /* the line rests at the tone of a 0: start bits are 1, stop bits 0 */
} bl_keying;

/* The Kansas City standard and its relatives: 300, 600, 1200 and 2400 baud. Returns NULL for
 * another rate. The keying is constant. */
const bl_keying *bl_keying_standard(uint32_t baud);
/* The index-th of them, or NULL behind the last. */
const bl_keying *bl_keying_at(size_t index);

/* BL_E_RANGE when a field is out of its bounds: tones of 200 Hz to 20 kHz that differ, 1 to 64 half
 * cycles, bits of which one is at most 8 times as long as the other. */
bl_status bl_keying_check(const bl_keying *keying);

/* How long a 0 or a 1 lasts, in nanoseconds. */
uint64_t bl_keying_bit_ns(const bl_keying *keying, unsigned value);
/* Bits a second, rounded; of the slower bit where they differ. */
uint32_t bl_keying_baud(const bl_keying *keying);
/* How long a byte takes, in nanoseconds, with start, parity and stop bits. */
uint64_t bl_keying_byte_ns(const bl_keying *keying, uint8_t byte);

/* The bits of a byte in the order they are sent, start and stop bits included. Returns how many. */
unsigned bl_keying_bits(const bl_keying *keying, uint8_t byte, uint8_t bits[BL_KEYING_MAX_BITS]);

#ifdef __cplusplus
}
#endif
#endif
