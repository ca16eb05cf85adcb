/* drive.h - a simulated disk drive: a medium behind bl_sectors, with what can go wrong with one.
 *
 * Sectors take time: a fixed one to be found, and one to be passed. The medium itself is somebody
 * else's: memory, or a file of the state folder.
 */
#ifndef BOOTLACE_SIM_DRIVE_H
#define BOOTLACE_SIM_DRIVE_H

#include "bootlace/port.h"

enum { SIM_DRIVE_SECTOR_MOST = 1024, SIM_DRIVE_BAD = 8 };

/* 0: nothing of the kind. */
typedef struct sim_drive_faults {
    bool not_ready;     /* there is no disk in it */
    bool write_protect; /* its notch, or switch */
    bool within;        /* the power fails in the middle of a sector: half of it is written */
    uint32_t cut_after; /* so many sectors were written, then the power fails; 0: never */
    uint32_t bad[SIM_DRIVE_BAD];
    uint32_t bad_count; /* sectors that cannot be read, nor written */
} sim_drive_faults;

typedef struct sim_drive {
    bl_sectors medium; /* count 0: none */
    sim_drive_faults faults;
    uint32_t written;
    bool dead; /* the power has failed */
} sim_drive;

void sim_drive_begin(sim_drive *d, const bl_sectors *medium);
/* Power on again, after it failed: what was to be written is forgotten. */
void sim_drive_power(sim_drive *d);
/* The drive as a port. */
bl_sectors sim_drive_port(sim_drive *d);

bl_status sim_drive_read(sim_drive *d, uint32_t sector, uint8_t *bytes);
bl_status sim_drive_write(sim_drive *d, uint32_t sector, const uint8_t *bytes);

#endif
