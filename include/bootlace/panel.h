/* panel.h - a switch sheet: an image for hand entry at a front panel or a keypad.
 *
 * Each line is one address: its contents in hexadecimal, octal, and as switch positions, up '*' and
 * down '.', in groups of three or four from the right. After every 16, and at the end, stands the
 * sum of what was entered, so that a person who adds up finds the mistake near its place. Where
 * addresses do not follow one another, a line tells the address to set.
 */
#ifndef BOOTLACE_PANEL_H
#define BOOTLACE_PANEL_H

#include "image.h"
#include "port.h"
#include "sheet.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct bl_panel {
    const bl_image *image;
    const bl_image *have;  /* what memory holds already: only what differs is listed; or NULL */
    const bl_sheet *sheet; /* width of address and unit, order of bytes; NULL: 16 and 8 bits */
    bl_range range;        /* addresses of units; .count 0: all */
    bl_radix radix;        /* of addresses and sums */
    unsigned group;        /* switches in a group: 3 or 4 */
} bl_panel;

typedef struct bl_panel_count {
    uint32_t units;    /* that the image holds in the range */
    uint32_t listed;   /* of them */
    uint32_t settings; /* of the address */
    uint32_t sum;      /* of what is listed, 16 bits */
} bl_panel_count;

/* What a sheet would list. BL_E_ARGUMENT: group is not 3 or 4. */
bl_status bl_panel_look(const bl_panel *panel, bl_panel_count *count);
/* Writes the lines. Fails as look does, or as the writer does. */
bl_status bl_panel_write(const bl_panel *panel, const bl_writer *writer, bl_panel_count *count);

/* Calls visit for every unit that a sheet lists, addresses rising in each piece. Returns how many
 * the image holds in the range. */
typedef void (*bl_panel_visit)(void *context, uint32_t address, uint32_t value);
uint32_t bl_panel_each(const bl_panel *panel, bl_panel_visit visit, void *context);

/* ---- somebody at the switches ---- */

typedef struct bl_panel_entry {
    uint32_t presses;   /* of keys */
    uint32_t deposited; /* units */
    uint32_t read_back, wrong;
    uint32_t where, expected,
        found; /* the first that is wrong; found UINT32_MAX: another address */
} bl_panel_entry;

/* Stops the machine, toggles in what the sheet lists, then examines all of the image and compares
 * the lamps. BL_E_BUSY: it does not stop. BL_E_DIFFERS: entry tells where. */
bl_status bl_panel_enter(const bl_panel *panel, const bl_front_panel *port, bl_panel_entry *entry);
/* The same without toggling anything in: what is there is examined and compared. */
bl_status bl_panel_examine(const bl_panel *panel, const bl_front_panel *port,
                           bl_panel_entry *entry);
/* Executes one instruction from an address on. Returns what the lamps show then: where it goes on.
 */
bl_panel_lamps bl_panel_step(const bl_front_panel *port, uint32_t address);
/* Starts the machine at an address. */
void bl_panel_run(const bl_front_panel *port, uint32_t entry);

#ifdef __cplusplus
}
#endif
#endif
