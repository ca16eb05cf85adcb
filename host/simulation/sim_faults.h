/* sim_faults.h - faults of the simulated bench, by name. */
#ifndef BOOTLACE_SIM_FAULTS_H
#define BOOTLACE_SIM_FAULTS_H

#include "simulation.h"

/* Switches on each fault of a NULL-terminated list (may be NULL). BL_E_SYNTAX, reported. */
bl_status simulation_apply_faults(simulation *s, char **faults, const bl_sink *sink);

/* The faults that there are, by index: name, the form of its value (NULL: none), and what it is.
 * NULL: there are no more. */
const char *simulation_fault(size_t index, const char **form, const char **help);
/* One line a fault, for help. Free with g_free. */
char *simulation_fault_help(void);

/* Those of a disk drive alone, for a drive without a board. BL_E_SYNTAX, reported. */
bl_status simulation_disk_faults(char **list, sim_drive_faults *chosen, const bl_sink *sink);

#endif
