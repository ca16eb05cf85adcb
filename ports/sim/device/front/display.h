/* display.h - the usual character display with a controller of the 44780 kind, 2 lines of 16 or 4
 * of 20 characters.
 *
 * Source: the controller's common data sheet. At an address it has two registers; at pins it takes
 * 8 or, on d4 to d7, 4 bits at a time at the falling edge of e. Modelled: all instructions, the
 * busy flag (37 us, 1.52 ms to clear and home, 10 ms after power-on; what is written meanwhile is
 * lost), cursor and its blinking, shifting, eight characters of the user's own, one line or two.
 */
#ifndef BOOTLACE_SIM_DISPLAY_H
#define BOOTLACE_SIM_DISPLAY_H

#include "sim/device/device.h"

enum { SIM_DISPLAY_COMMAND, SIM_DISPLAY_DATA };

/* What is to be seen: characters as their codes, 0 to 15 are the user's own. */
typedef struct sim_display_look {
    unsigned rows, columns;
    uint8_t codes[4][20];
    bool on, cursor, blinks;
    unsigned cursor_row, cursor_column; /* rows: it is not in sight */
    const uint8_t *own;                 /* 8 characters of 8 rows, five bits each */
} sim_display_look;

/* d is of one of these kinds. */
void sim_display_see(const sim_device *d, sim_display_look *look);
/* Is it one? */
bool sim_display_is(const sim_device *d);

extern const sim_device_kind sim_display_16x2_kind, sim_display_20x4_kind;

#endif
