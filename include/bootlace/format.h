/* format.h - text without the C library: a small printf that works on a microcontroller.
 *
 * Understands %s %.*s %c %d %u %x %X %% with l and ll, a width and 0 for padding; * for both.
 * Nothing else; what it does not know it prints as it stands.
 */
#ifndef BOOTLACE_FORMAT_H
#define BOOTLACE_FORMAT_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

#ifdef __GNUC__
#define BL_PRINTF(f, a) __attribute__((format(printf, f, a)))
#else
#define BL_PRINTF(f, a)
#endif

/* Formats into buffer, always terminated when capacity > 0. Returns the length of the whole text,
 * which was cut if that is >= room. */
size_t bl_format(char *buffer, size_t capacity, const char *format, ...) BL_PRINTF(3, 4);
size_t bl_format_list(char *buffer, size_t capacity, const char *format, va_list list);

/* Formats and writes, up to 1023 bytes at a time. */
bl_status bl_print(const bl_writer *writer, const char *format, ...) BL_PRINTF(2, 3);

/* An address in the user's radix: "$C000", or "0o140000"; digits fitting bits (8 to 32). The text
 * lands in buffer, which needs 16 bytes, and is returned. */
const char *bl_address_text(char *buffer, uint32_t address, unsigned bits, bl_radix radix);

#ifdef __cplusplus
}
#endif
#endif
