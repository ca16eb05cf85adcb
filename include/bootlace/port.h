/* port.h - the thin line between the core and hardware.
 *
 * A port is a set of functions that somebody supplies: ports/posix for a PC, ports/sim for the
 * simulated bench, ports/blank to copy. The core's protocols never call these; whoever drives a
 * protocol does. No function waits longer than it was told to.
 */
#ifndef BOOTLACE_PORT_H
#define BOOTLACE_PORT_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A serial line, and the clock that goes with it (virtual in a simulator). */
typedef struct bl_serial {
    void *context;
    /* Takes up to count bytes for sending; *taken says how many. BL_E_IO: the device is gone. */
    bl_status (*send)(void *context, const uint8_t *bytes, size_t count, size_t *taken);
    /* Fetches what has arrived, up to capacity bytes, without waiting. BL_E_IO: the device is gone.
     */
    bl_status (*receive)(void *context, uint8_t *bytes, size_t capacity, size_t *got);
    /* Returns when something has arrived or microseconds have passed, whichever is first. */
    bl_status (*wait)(void *context, uint32_t microseconds);
    /* Microseconds since some fixed moment; never goes back. */
    uint64_t (*now)(void *context);
    /* Returns when all that was sent has left the device, or microseconds have passed: BL_OK, or
     * BL_E_BUSY when some of it has not. BL_E_IO: the device is gone. NULL: what is taken has left.
     */
    bl_status (*drain)(void *context, uint32_t microseconds);
} bl_serial;

/* Eight data lines towards a machine, a strobe, and its answer: ready is up while it can take a
 * byte. It takes one when strobe rises, and then is not ready until its program has fetched it. */
typedef struct bl_parallel {
    void *context;
    void (*data)(void *context, uint8_t byte);
    void (*strobe)(void *context, bool up);
    bool (*ready)(void *context);
    /* Returns when ready has changed or microseconds have passed, whichever is first. */
    void (*wait)(void *context, uint32_t microseconds);
    uint64_t (*now)(void *context); /* microseconds */
} bl_parallel;

/* A memory chip in a programming socket: address and data lines, three enables, active low, and the
 * supplies. write is the strobe that programs: write enable, or the program pulse of an EPROM. Each
 * call changes pins at once; time passes only in pause. */
typedef struct bl_chip_bus {
    void *context;
    void (*address)(void *context, uint32_t address);
    void (*drive)(void *context, uint8_t data); /* put data on the data lines */
    void (*release)(void *context);             /* let the chip drive them */
    uint8_t (*sense)(void *context);            /* what is on the data lines now */
    void (*enables)(void *context, bool chip, bool output,
                    bool write);                        /* true: pulled low, active */
    void (*pause)(void *context, uint32_t nanoseconds); /* at least so long */
    /* Supply and programming voltage in tenths of a volt; vpp 0: not connected. False: cannot be
     * made, and nothing has changed. NULL: there are 5 volts and nothing else. */
    bool (*supply)(void *context, uint8_t vcc, uint8_t vpp);
} bl_chip_bus;

/* A front panel: a row of switches, keys, and lamps for address and data. Examine shows the address
 * that the switches are set to; deposit stores the switches there; the next keys move on first. */
typedef enum bl_panel_key {
    BL_KEY_EXAMINE,
    BL_KEY_EXAMINE_NEXT,
    BL_KEY_DEPOSIT,
    BL_KEY_DEPOSIT_NEXT,
    BL_KEY_RUN,  /* from the address shown */
    BL_KEY_STOP, /* at the end of an instruction */
    BL_KEY_STEP, /* one instruction */
} bl_panel_key;

typedef struct bl_panel_lamps {
    uint32_t address, data;
    bool running;
} bl_panel_lamps;

typedef struct bl_front_panel {
    void *context;
    void (*set)(void *context, uint32_t switches);
    void (*press)(void *context, bl_panel_key key);
    bl_panel_lamps (*lamps)(void *context);
} bl_front_panel;

/* ---- a disk drive ---- */

/* Sectors of one size, by number from 0: a drive, or an image of a disk. A sector is written whole
 * or not at all, as far as the medium can do that. BL_E_IO: the sector cannot be read or written;
 * BL_E_NOT_READY: there is no disk in the drive; BL_E_PROTECTED: it must not be written to;
 * BL_E_RANGE: there is no such sector. */
typedef struct bl_sectors {
    void *context;
    bl_status (*read)(void *context, uint32_t sector, uint8_t *bytes); /* size bytes */
    bl_status (*write)(void *context, uint32_t sector, const uint8_t *bytes);
    uint32_t count;
    uint16_t size; /* bytes of a sector */
} bl_sectors;

/* ---- a cassette recorder ---- */

typedef enum bl_deck_key { BL_DECK_STOP, BL_DECK_PLAY, BL_DECK_RECORD } bl_deck_key;

/* Functions that are NULL: it has no such key. */
typedef struct bl_deck {
    void *context;
    bool (*press)(void *context, bl_deck_key key); /* false: there is no cassette in it */
    void (*wind)(void *context, uint32_t seconds); /* to a place, in seconds of playing time */
    uint32_t (*place)(void *context);              /* where it is now, in the same */
} bl_deck;

#ifdef __cplusplus
}
#endif
#endif
