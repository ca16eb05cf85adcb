/* baredisk.h - the disk of ours for bare machines: the smallest file system from which a routine of
 * 512 bytes in ROM can load a program, and start it at power-up. docs/disk.md.
 *
 * Sectors of 512 bytes. Sector 0 is the directory: a head of 32 bytes and 15 entries of 32. A file
 * lies in sectors that follow each other. Numbers have the lowest byte first. A check is two sums
 * modulo 256: a begins with 1, b with 0; for each byte a += byte, then b += a.
 *
 *   head    0 "BAREDISK"   8 version, 1   9 entry that starts at power-up, 1 to 15; 0: none
 *          10 sectors of the disk (2)    12 first sector that files may have (2)
 *          14 check of this sector, these two bytes taken as 0: a, b      16 label (16)
 *   entry   0 name (16), ended by zeros; first byte 0: no file
 *          16 first sector (2)   18 length in bytes (3)   21 bit 0: it has a load address, bit 1:
 * it has an entry point    22 load address (3)      25 entry point (3) 28 check of its bytes: a, b
 * 30 zeros (2)
 */
#ifndef BOOTLACE_BAREDISK_H
#define BOOTLACE_BAREDISK_H

#include "disk.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_BARE_SECTOR = 512,
    BL_BARE_FILES = 15,
    BL_BARE_NAME = 16, /* characters */
};

#define BL_BARE_MOST 65535u /* sectors */

/* Adds bytes to a check: check[0] is a, check[1] b. */
void bl_bare_sum(uint8_t check[2], const uint8_t *bytes, size_t count);

/* Writes an empty directory. label: at most 16 ASCII characters. boot: sectors behind the directory
 * that no file gets. BL_E_ARGUMENT: sectors are of another size, there are too few, or the label is
 * too long. Sectors beyond BL_BARE_MOST are not used. */
bl_status bl_bare_format(const bl_sectors *sectors, const char *label, uint16_t boot);
/* Makes a file the one that starts at power-up; path NULL: none does. BL_E_NOT_FOUND; BL_E_REFUSED:
 * it has no load address and no entry point; told. */
bl_status bl_bare_start(bl_disk *d, const char *path);

#ifdef __cplusplus
}
#endif
#endif
