/* simulation.h - the simulated bench that a bench file describes, kept in a state folder.
 * docs/board.md. */
#ifndef BOOTLACE_SIMULATION_H
#define BOOTLACE_SIMULATION_H

#include "bench.h"
#include "sim/bench.h"

typedef struct simulation {
    sim_bench sim;
    const bench *b;
    char *folder;
    int lock;
    uint8_t *cells[SIM_CHIPS];
    size_t socket;   /* which of the chips is in the programmer */
    unsigned copy;   /* 2, 3, ...: it is not the one of the board, but another of the same */
    uint8_t *copied; /* that one's contents */
} simulation;

/* Opens the bench as it was left: chip contents, and RAM and CPU if the board was on. folder NULL
 * stands for "state" beside the bench file. faults: NULL-terminated list of NAME or NAME=VALUE
 * (docs/board.md). BL_E_UNSUPPORTED: it has too many chips or devices; BL_E_BUSY: somebody else
 * has the bench; BL_E_SYNTAX: a fault that is not one; all reported. */
bl_status simulation_open(const bench *b, const char *folder, uint64_t seed, char **faults,
                          const bl_sink *sink, simulation **s);

/* Can the board run? The programmer needs no CPU. BL_E_UNSUPPORTED, reported: it is not simulated.
 */
bl_status simulation_check_cpu(const bench *b, const bl_sink *sink);

/* Switches the board on unless it is. */
void simulation_power_on(simulation *s);
/* The same, and lets it greet: a monitor that is not there yet, or still speaks, does not listen.
 * What it says waits on the line. */
void simulation_come_up(simulation *s);
/* Pulls the reset line. False: it is off. */
bool simulation_reset(simulation *s);
/* Switches it off: RAM is forgotten. */
void simulation_power_off(simulation *s);

/* Takes a chip out of the board, which is switched off, and puts it into the programmer; copy 2 and
 * more: another one of the same kind, kept as CHIP-2.bin. */
bl_status simulation_insert(simulation *s, size_t chip, unsigned copy, const bl_sink *sink);

/* Writes the state folder. */
bl_status simulation_save(simulation *s, const bl_sink *sink);
void simulation_close(simulation *s);

#endif
