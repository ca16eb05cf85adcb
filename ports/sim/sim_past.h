/* sim_past.h - what was: a bench is remembered every tenth of a second and after whatever is done
 * to it from outside, and any moment between is worked out again from there, since it runs the same
 * each time.
 *
 * Chips are not remembered: a program cannot change them, and a programmer is not taken back.
 */
#ifndef BOOTLACE_SIM_PAST_H
#define BOOTLACE_SIM_PAST_H

#include "bootlace/target.h"
#include "sim_bench.h"

typedef struct sim_past sim_past;

/* From now on. Half a megabyte for each moment that is remembered, 64 of them; older ones get
 * rarer. BL_E_MEMORY. The bench must outlive it. */
bl_status sim_past_open(sim_bench *bench, const bl_memory *memory, sim_past **past);
void sim_past_close(sim_past *past);

/* Time is about to pass. */
void sim_past_look(sim_past *past);
/* Something is done to the bench from outside. */
void sim_past_changed(sim_past *past);

/* As target.h has them. The CPU stands, and does so afterwards. */
bl_status sim_past_back(sim_past *past, bl_back what, uint32_t number);
bl_status sim_past_history(sim_past *past, uint32_t steps, void *visitor,
                           void (*visit)(void *visitor, const bl_past_step *step));

#endif
