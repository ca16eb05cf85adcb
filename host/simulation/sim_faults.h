/* sim_faults.h - faults of the simulated bench, by name. */
#ifndef BOOTLACE_SIM_FAULTS_H
#define BOOTLACE_SIM_FAULTS_H

#include "simulation.h"

/* Switches on each fault of a NULL-terminated list (may be NULL). BL_E_SYNTAX, reported. */
bl_status simulation_apply_faults(simulation *s, char **faults, const bl_sink *sink);

/* One line a fault, for help. */
extern const char simulation_fault_help[];

#endif
