/* cassette_file.h - recordings in the simulated recorder: files in, files out. */
#ifndef BOOTLACE_CASSETTE_FILE_H
#define BOOTLACE_CASSETTE_FILE_H

#include "sim/deck.h"
#include "simulation.h"

typedef struct cassette_file {
    sim_deck deck;
    sim_tape tape;
    bl_deck port; /* its keys */
} cassette_file;

/* Puts the recorder at the board's device cassette, with a recording to be played from a place on,
 * or (path NULL) an empty cassette of so many seconds to record on. BL_E_NOT_FOUND: the board has
 * no such device; or what a recording that cannot be read gives. Reported. cassette_file_end
 * follows when it was BL_OK. */
bl_status cassette_file_begin(cassette_file *c, simulation *s, const char *path, uint32_t from,
                              uint32_t seconds, const bl_sink *sink);
/* Stops it and takes it away. path: where what was recorded goes; or NULL. Reported. */
bl_status cassette_file_end(cassette_file *c, simulation *s, const char *path, const bl_sink *sink);

#endif
