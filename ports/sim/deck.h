/* deck.h - a cassette recorder: plays to the board's cassette input, records from its output.
 *
 * A tape is samples. The input of the board is a comparator with some hysteresis, as such boards
 * have: a level that is too low gives no edges. Rewinding takes a thirtieth of the time that
 * playing takes. Two cords go to the recorder, one to its earphone output and one to its microphone
 * input; with both plugged in while it plays or records the machine hears itself, and hardly the
 * tape.
 */
#ifndef BOOTLACE_SIM_DECK_H
#define BOOTLACE_SIM_DECK_H

#include <stddef.h>

#include "bootlace/port.h"
#include "sim/wire.h"

/* Owned by whoever made it. */
typedef struct sim_tape {
    int16_t *samples;
    size_t count, room; /* recorded; as long as the tape is */
    uint32_t rate;      /* a second, at the right speed */
} sim_tape;

typedef enum sim_deck_mode { SIM_DECK_STOPPED, SIM_DECK_PLAYING, SIM_DECK_RECORDING } sim_deck_mode;

/* What is wrong with a recorder; 0: nothing of the kind. */
typedef struct sim_deck_faults {
    uint16_t speed;    /* thousandths of the right one */
    uint16_t wow;      /* thousandths that the speed wavers by, 0.7 times a second */
    uint16_t level;    /* thousandths of the tape's, at the output */
    uint16_t hiss;     /* the greatest noise, of 32,768 */
    uint16_t dropouts; /* seconds from one to the next, about; each lasts 40 ms */
    bool both_cords;   /* the other cord is plugged in, too */
} sim_deck_faults;

typedef struct sim_deck {
    sim_tape *tape; /* NULL: there is no cassette in it */
    sim_deck_mode mode;
    bool ear, microphone;  /* cords that are plugged in */
    uint16_t speed, level; /* as in sim_deck_faults, and never 0 */
    uint16_t wow, hiss, dropouts;
    sim_chance chance;
    uint64_t seed;
    uint64_t since;        /* nanoseconds: when it was started */
    uint64_t begin;        /* sample where it was then */
    uint64_t done;         /* samples up to here were played or recorded */
    bool high;             /* what the board hears */
    bool output;           /* what the board says */
    const uint64_t *clock; /* of a deck that is a port: nanoseconds */
} sim_deck;

void sim_deck_begin(sim_deck *d, uint64_t seed);
/* Both cords: to be called when the right one is in. */
void sim_deck_spoil(sim_deck *d, const sim_deck_faults *faults);
/* A cassette goes in, wound to its begin, or comes out (NULL); the deck stops. */
void sim_deck_insert(sim_deck *d, sim_tape *tape);
/* Keys. False: there is no cassette in it. */
bool sim_deck_press(sim_deck *d, sim_deck_mode mode, uint64_t now);
/* Winds to a place, in seconds of playing time; returns how long that takes, nanoseconds. */
uint64_t sim_deck_wind(sim_deck *d, uint32_t seconds, uint64_t now);
/* Seconds of playing time from the begin of the tape. */
uint32_t sim_deck_place(sim_deck *d, uint64_t now);

/* The recorder as a port; clock is whose time it goes by, and must outlive it. */
bl_deck sim_deck_port(sim_deck *d, const uint64_t *clock);

/* The board's side: what its comparator gives, and what its output bit becomes. */
bool sim_deck_hear(sim_deck *d, uint64_t now);
void sim_deck_say(sim_deck *d, uint64_t now, bool high);

#endif
