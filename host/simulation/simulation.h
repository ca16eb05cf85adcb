/* simulation.h - the simulated bench that a bench file describes, kept in a state folder.
 * docs/board.md. */
#ifndef BOOTLACE_SIMULATION_H
#define BOOTLACE_SIMULATION_H

#include "bench/bench.h"
#include "disk/disk_image.h"
#include "sim/deck.h"
#include "sim/drive.h"
#include "sim/sim_bench.h"

typedef struct simulation {
    sim_bench sim;
    const bench *b;
    char *folder;
    int lock;
    uint8_t *cells[SIM_CHIPS];
    size_t socket;   /* which of the chips is in the programmer */
    unsigned copy;   /* 2, 3, ...: it is not the one of the board, but another of the same */
    uint8_t *copied; /* that one's contents */
    sim_deck_faults recorder; /* of the recorder at its cassette input, when there is one */
    sim_drive_faults disk;    /* of its disk drive */
    sim_drive drive;          /* that one, where the board has a device for it */
    disk_image medium;        /* what is in it: disk.img of the state folder */
} simulation;

/* The devices and neighbours that bench files may name. */
extern const bench_hardware simulation_hardware;

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

/* Puts a copy of a disk image into the drive, which keeps it as disk.img; the board begins anew.
 * BL_E_NOT_FOUND: the board has no drive; BL_E_SYNTAX: it is no image of sectors; reported. */
bl_status simulation_insert_disk(simulation *s, const char *path, const bl_sink *sink);
/* The same for an image that is open, or new. */
bl_status simulation_insert_image(simulation *s, disk_image *image, const bl_sink *sink);

/* Takes a chip out of the board, which is switched off, and puts it into the programmer; copy 2 and
 * more: another one of the same kind, kept as CHIP-2.bin. */
bl_status simulation_insert(simulation *s, size_t chip, unsigned copy, const bl_sink *sink);

/* How long the line is held low when somebody asks for a break, nanoseconds. */
enum { SIMULATION_BREAK_NS = 250000000 };

/* While a board is served, somebody may use its programmer at any time. */
typedef struct simulation_rest {
    uint64_t steps; /* that the programmer had done at the last look; at first: now */
    uint64_t since; /* nanoseconds; when it did the last of them */
} simulation_rest;
typedef enum simulation_change {
    SIMULATION_NO_CHANGE,
    SIMULATION_CHIP_OUT, /* the programmer works on the chip: the board went off */
    SIMULATION_CHIP_BACK /* it has rested for half a second: chip in the board, power on */
} simulation_change;
/* To be asked often. off: the board was switched off by hand, and stays so. */
simulation_change simulation_mind_socket(simulation *s, simulation_rest *rest, bool off);

/* Is this device of the bench file one of the simulated board? */
bool simulation_has_device(const bench *b, const bench_device *d);

/* Devices of the bench file, by their index there, are those of the board that are simulated, in
 * the same order: the place on the board, or SIMULATION_NO_PLACE; and the way back, NULL: none is
 * there. */
enum { SIMULATION_NO_PLACE = 0xFF };
uint8_t simulation_place(const bench *b, size_t index);
const bench_device *simulation_described(const bench *b, size_t place);

/* Are there no more chips, devices and wires than the board has room for? */
bool simulation_has_room(const bench *b);

/* Puts those devices, and their wires, on a board that was begun. */
void simulation_add_devices(sim_bench *s, const bench *b);

/* Writes the state folder. */
bl_status simulation_save(simulation *s, const bl_sink *sink);
void simulation_close(simulation *s);

#endif
