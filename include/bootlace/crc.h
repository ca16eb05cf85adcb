/* crc.h - the checksums that the protocols and images use. */
#ifndef BOOTLACE_CRC_H
#define BOOTLACE_CRC_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

/* CRC-32 of IEEE 802.3 (polynomial $04C11DB7 reflected, start and final inversion $FFFFFFFF).
 * Start with crc 0; pass the result on to continue over more bytes. "123456789" gives $CBF43926. */
uint32_t bl_crc32(uint32_t crc, const void *bytes, size_t count);

/* CRC-16 as XMODEM has it (polynomial $1021, highest bit first, start 0, no inversion). Start with
 * crc 0; pass the result on to continue. "123456789" gives $31C3. */
uint16_t bl_crc16(uint16_t crc, const void *bytes, size_t count);

/* The sum of the bytes, cut to 16 bits. Start with sum 0; pass the result on to continue. */
uint16_t bl_sum16(uint16_t sum, const void *bytes, size_t count);

/* The double sum: a sum of 16-bit words, and the sum of these sums, with carries; what memory is
 * proved by where a line is guarded by a CRC. Of an odd count the first byte is the high one of its
 * word. The sum is in the low 16 bits, the sum of sums above. docs/link.md has its definition, and
 * what it misses. */
uint32_t bl_double_sum(const uint8_t *bytes, size_t count);

/* FCS-16 of RFC 1662, appendix C (polynomial $1021 reflected). Start with BL_FCS16_START. The
 * sender appends the complement, low byte first; a receiver that runs over all of it gets
 * BL_FCS16_GOOD. */
#define BL_FCS16_START 0xFFFFu
#define BL_FCS16_GOOD  0xF0B8u
uint16_t bl_fcs16(uint16_t fcs, uint8_t byte);
/* The same over a row of bytes. */
uint16_t bl_fcs16_row(uint16_t fcs, const uint8_t *bytes, size_t count);

#ifdef __cplusplus
}
#endif
#endif
