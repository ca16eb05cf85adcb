/* number.h - numbers and ranges as people write them, alike in sources, bench files and options.
 *
 * Numbers: $1F 0x1F 1Fh (hexadecimal), %1010 0b1010 (binary), 0o17 17q (octal), 31 (decimal),
 * 'A' (the code of one character, with the escapes of .text). Digits and suffixes in either case.
 */
#ifndef BOOTLACE_NUMBER_H
#define BOOTLACE_NUMBER_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Reads a number at the start of text. *used receives how many bytes belong to it.
 * BL_E_SYNTAX: no number there (*used 0), or a malformed one (*used is its length).
 * BL_E_RANGE: more than 64 bits. The value is the unsigned number's bit pattern. */
bl_status bl_number_scan(bl_text text, size_t *used, int64_t *value);

/* The whole text, blanks around it aside, is one number from 0 to limit. A minus sign is refused.
 */
bl_status bl_number_parse(bl_text text, uint32_t limit, uint32_t *value);

/* The whole text is one number, perhaps behind a minus sign: a constant as sources and symbol files
 * have it. Statuses of bl_number_scan, or BL_E_SYNTAX when something stands behind it. */
bl_status bl_number_parse_signed(bl_text text, int64_t *value);

/* A piece of the address space: first, and how many bytes (at least 1; up to 2^32). */
typedef struct bl_range {
    uint32_t first;
    uint64_t count;
} bl_range;

/* "FIRST..LAST" (both included), "FIRST+COUNT", or one address alone.
 * BL_E_SYNTAX: not a range. BL_E_RANGE: last before first, count 0, or beyond 32 bits. */
bl_status bl_range_parse(bl_text text, bl_range *range);

/* The last address of a range. */
static inline uint32_t bl_range_last(bl_range range)
{
    return (uint32_t)(range.first + (range.count - 1));
}

/* Do the two have an address in common? */
static inline bool bl_range_meet(bl_range a, bl_range b)
{
    return a.first < b.first + b.count && b.first < a.first + a.count;
}

/* Is all of inner inside outer? */
static inline bool bl_range_holds(bl_range outer, bl_range inner)
{
    return inner.first >= outer.first && inner.first + inner.count <= outer.first + outer.count;
}

/* Reads one character, or one escape (\n \r \t \0 \e \\ \' \" \xHH), of a quoted text.
 * Multi-byte UTF-8 comes out a byte at a time. BL_E_SYNTAX: unknown or cut-off escape. */
bl_status bl_character_scan(bl_text text, size_t *used, uint8_t *code);

#ifdef __cplusplus
}
#endif
#endif
