/* ramtest.h - is there RAM, and which wire is it when there is not: data lines, address lines,
 * cells.
 *
 * Works on any target that can read and write (target.h). What was in memory is lost; whoever needs
 * it keeps it. Nothing is allocated.
 */
#ifndef BOOTLACE_RAMTEST_H
#define BOOTLACE_RAMTEST_H

#include "target.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_ram_fault {
    BL_RAM_GOOD,
    BL_RAM_NONE,         /* nothing is kept: no RAM, no select, or no write line */
    BL_RAM_STUCK_LOW,    /* the data lines of mask are always 0 */
    BL_RAM_STUCK_HIGH,   /* always 1 */
    BL_RAM_JOINED,       /* the data lines of mask follow one another */
    BL_RAM_ADDRESS_LINE, /* address line number line makes no difference: open, or joined */
    BL_RAM_CELL,         /* address does not keep expected; found is there */
} bl_ram_fault;

typedef struct bl_ram_result {
    bl_ram_fault fault;
    uint8_t mask;     /* of data lines */
    unsigned line;    /* of the address */
    uint32_t address; /* where it was seen */
    uint8_t expected, found;
} bl_ram_result;

/* Asked between two rows of 64 bytes; false ends the test with BL_E_REFUSED. May be NULL. */
typedef bool (*bl_ram_go_on)(void *context, uint64_t done, uint64_t total);

/* Tests a range: its data lines at its first address, the address lines that differ within it, then
 * each cell with two patterns that are each other's inverse. BL_E_UNSUPPORTED: the target cannot
 * read or write; or what the target returned. */
bl_status bl_ram_test(const bl_target *target, bl_range range, void *context, bl_ram_go_on go_on,
                      bl_ram_result *result);

#ifdef __cplusplus
}
#endif
#endif
