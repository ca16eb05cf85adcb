/* board_faults.h - faults of the board's devices and wires, by the names of the bench file. For
 * sim_faults.c.
 */
#ifndef BOOTLACE_BOARD_FAULTS_H
#define BOOTLACE_BOARD_FAULTS_H

#include "simulation.h"

/* Each takes the text behind the = of a fault. False: it names nothing that there is. */
bool board_fault_missing(simulation *s, const char *device);
bool board_fault_backwards(simulation *s, const char *device);
bool board_fault_open(simulation *s, const char *pin);          /* "glass.e" */
bool board_fault_swapped(simulation *s, const char *pins);      /* "glass.d4:d5" */
bool board_fault_dead_clock(simulation *s, const char *device); /* or "cpu" */
bool board_fault_shadow(simulation *s, const char *where);      /* "serial:0x8100" */

#endif
