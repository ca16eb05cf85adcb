/* glow.h - what an eye sees of lamps that are switched fast: one that was lit for a twentieth of
 * the last 20 ms is taken to be on.
 */
#ifndef BOOTLACE_SIM_GLOW_H
#define BOOTLACE_SIM_GLOW_H

#include "sim/device/device.h"

enum { SIM_GLOW_LAMPS = 16 };

/* The state of a device that consists of such lamps, a bit each. */
typedef struct sim_glow {
    uint16_t lit;                /* now */
    uint16_t seen;               /* by an eye, up to the last look */
    bool moves;                  /* something has changed in this look or the one before */
    uint64_t since;              /* up to where it is added up */
    uint64_t began;              /* of this look */
    uint32_t on[SIM_GLOW_LAMPS]; /* nanoseconds in it */
} sim_glow;

sim_glow *sim_glow_of(sim_device *d);
/* Other lamps are lit from now on. */
void sim_glow_change(sim_glow *g, uint64_t now, uint16_t lit);
uint16_t sim_glow_seen(const sim_device *d);
/* For a sim_device_kind whose state is one; its update says what is lit with sim_glow_change. */
uint64_t sim_glow_next(const sim_device *d);
extern const sim_device_field sim_glow_fields[];

#endif
