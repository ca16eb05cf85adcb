/* algorithm.h - how each kind of part is read, written and erased at its pins. */
#ifndef BOOTLACE_SRC_METHOD_H
#define BOOTLACE_SRC_METHOD_H

#include "bootlace/programmer.h"

uint8_t bl_pins_read(const bl_chip_bus *b, const bl_part *part, uint32_t address);

/* Sets the supplies, in tenths of a volt. False: they cannot be made. */
bool bl_pins_supply(const bl_chip_bus *b, uint8_t vcc, uint8_t vpp);

/* Begins a page of work: first, count and wanted are set. Not busy afterwards when the part holds
 * them already. False: it has not begun, and the outcome says why. */
bool bl_work_write(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now);
/* Begins to erase the sector that first lies in. */
void bl_work_erase(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now);
/* Goes on. When it is over, busy is false and the outcome is set. */
void bl_work_step(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now);

/* Software data protection of the 28C parts, off or on. Takes 20 ms. */
void bl_pins_protect(const bl_chip_bus *b, const bl_part *part, bool on);

#endif
