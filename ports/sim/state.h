/* state.h - all that a bench holds besides its memory, as named numbers: what is saved when it is
 * left switched on. One walk serves saving and loading, so that nothing is saved that is not
 * loaded.
 */
#ifndef BOOTLACE_SIM_STATE_H
#define BOOTLACE_SIM_STATE_H

#include "sim_bench.h"

/* Called for each number: field has so many bytes (1, 2, 4 or 8, of the host's order), and may be
 * read or set. The names are short, without blanks, and valid during the call only. */
typedef struct sim_state_visit {
    void *context;
    void (*number)(void *context, const char *group, const char *name, void *field, size_t bytes);
    /* The same for a row of bytes. */
    void (*row)(void *context, const char *group, const char *name, uint8_t *bytes, size_t count);
} sim_state_visit;

/* The board, its devices, and both directions of its line. */
void sim_state_board(sim_bench *bench, const sim_state_visit *visit);
/* After loading: what follows from the numbers, and counts that would lead out of a buffer. False:
 * the numbers do not fit together. */
bool sim_state_loaded(sim_bench *bench);

#endif
