/* pack.h - bytes in fewer bits, so small to unpack that a first-stage loader can (docs/tape.md).
 *
 * A packed block is a row of bits, the highest of each byte first, with whole bytes among them. It
 * consists of:
 *
 * - 1 and a byte: that byte.
 *
 * - 0 1, a number N, a byte, a number M: the distance is (N - 1) * 256 + byte + 1 from now on, and
 *   M + 1 bytes are copied from there.
 *
 * - 0 0 and a number M: M bytes are copied from the same distance as before.
 *
 * A number from 1 to 255 is written as its bits behind the highest, each after a 0, and a 1 at the
 * end (Elias's gamma code, its bits interleaved). A byte is taken from the row where it is needed:
 * the next one of which no bit was used. The first copy of a block says its distance. Copies may
 * reach back before the block, and into what they write. It ends where a byte would have to follow,
 * and there is none: bits that are left over are 1.
 */
#ifndef BOOTLACE_PACK_H
#define BOOTLACE_PACK_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Packs as many bytes as fit in room (8 to 256). bytes: the first of them, with before bytes in
 * front that may be copied from. *taken: how many were packed; *made: what they became.
 * BL_E_MEMORY. */
bl_status bl_pack(const bl_memory *memory, const uint8_t *bytes, size_t before, size_t count,
                  uint8_t *packed, size_t room, size_t *taken, size_t *made);

/* Unpacks one block to bytes, in front of which before bytes stand already. *made: how many there
 * are. BL_E_SYNTAX: it copies from further away than there is anything. BL_E_RANGE: more than
 * capacity come out. What was made until then stays. */
bl_status bl_unpack(const uint8_t *packed, size_t count, uint8_t *bytes, size_t before,
                    size_t capacity, size_t *made);

#ifdef __cplusplus
}
#endif
#endif
