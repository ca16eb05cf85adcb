/* diskboot.h - a boot program on a disk: beside the file system, and with the marks or the sum that
 * the machine's ROM looks for. */
#ifndef BOOTLACE_DISKBOOT_H
#define BOOTLACE_DISKBOOT_H

#include "disk.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_boot_sum {
    BL_BOOT_NO_SUM,
    BL_BOOT_SUM8,      /* bytes add up, modulo 256 */
    BL_BOOT_XOR8,      /* bytes, exclusive or */
    BL_BOOT_WORDS,     /* words of 16 bits add up, the lowest byte first */
    BL_BOOT_WORDS_BIG, /* the same, the highest byte first */
} bl_boot_sum;

enum { BL_BOOT_MARKS = 8 };

/* What the ROM looks for before it starts what it has read: bytes at places of the boot program,
 * and a sum over a part of it that comes out as total; for that the byte or word at sum_at is
 * chosen. */
typedef struct bl_boot_rule {
    struct bl_boot_mark {
        uint32_t at;
        uint8_t value;
    } mark[BL_BOOT_MARKS];
    size_t mark_count;
    bl_boot_sum sum;
    uint32_t sum_from, sum_count, sum_at;
    uint16_t total;
} bl_boot_rule;

/* A boot program: bytes from the begin of the disk on, and which of them it has. */
typedef struct bl_boot_program {
    const uint8_t *bytes;
    const uint8_t *given; /* for each 0 or 1; NULL: all */
    uint32_t size;
} bl_boot_program;

/* Writes it where the file system leaves room, and reads it back. Bytes that it does not give stay.
 * BL_E_FULL: it is longer than that room; BL_E_OVERLAP: it has a byte where the file system, a mark
 * or the sum has another one; told. rule may be NULL. *written: sectors. */
bl_status bl_disk_boot(bl_disk *d, const bl_boot_program *program, const bl_boot_rule *rule,
                       uint32_t *written);
/* Has the disk what the rule asks for? BL_E_DIFFERS: no; told. */
bl_status bl_disk_boot_check(bl_disk *d, const bl_boot_rule *rule);

#ifdef __cplusplus
}
#endif
#endif
