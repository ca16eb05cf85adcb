/* device.h - a device on the simulated board: a chip with registers. Each kind is one file here,
 * with a sim_device_kind, and a line in device.c. The board, the state folder, the bench file, the
 * names board.DEVICE.REGISTER and the table in docs/bench.md follow from it.
 */
#ifndef BOOTLACE_SIM_DEVICE_H
#define BOOTLACE_SIM_DEVICE_H

#include <stddef.h>

#include "bootlace/device.h"
#include "sim/wire.h"

/* What of a device's state is saved when the board is left switched on. */
typedef enum sim_field_form {
    SIM_FIELD_NUMBER,
    SIM_FIELD_FLAG, /* a bool */
    SIM_FIELD_TIME, /* nanoseconds, uint64_t; never far in the future */
    SIM_FIELD_ROW,  /* bytes */
} sim_field_form;

typedef struct sim_device_field {
    const char *name; /* NULL ends the list */
    size_t offset;    /* in the state */
    size_t bytes;     /* 1, 2, 4 or 8; of a row as many as it has */
    sim_field_form form;
} sim_device_field;

#define SIM_FIELD(state, member, form)                                                             \
    {                                                                                              \
#member, offsetof(state, member), sizeof(((state *)0)->member), form                       \
    }

typedef struct sim_device sim_device;

/* Times are nanoseconds. Functions that are NULL: the device has nothing of the kind. */
typedef struct sim_device_kind {
    bl_device_kind about;
    const char *group; /* its section in board.ini */
    bool numbered;     /* all of this kind share that section; fields carry the device's number */
    bool on_link;      /* it sits at the line to the PC: only the link's device is one */
    size_t size;       /* of its state, at most SIM_DEVICE_STATE */
    /* Reset, or power on: then the state is all 0 but for what begin left before. */
    void (*begin)(sim_device *d, bool power);
    uint8_t (*read)(sim_device *d, uint64_t now, unsigned reg); /* NULL: reads $FF */
    void (*write)(sim_device *d, uint64_t now, unsigned reg, uint8_t value);
    uint64_t (*next_event)(const sim_device *d); /* when something happens by itself; UINT64_MAX */
    void (*update)(sim_device *d, uint64_t now); /* brings it up to a moment */
    bool (*interrupt)(const sim_device *d);      /* does it pull the CPU's interrupt line? */
    uint8_t (*lamps)(const sim_device *d);       /* what somebody sees of it */
    bool (*loaded)(sim_device *d);               /* after loading: do the numbers fit together? */
    const sim_device_field *fields;
} sim_device_kind;

enum { SIM_DEVICE_STATE = 576 };

struct sim_device {
    const sim_device_kind *kind;
    uint16_t at; /* an address, or a port */
    bool in_ports;
    uint16_t size;           /* registers */
    bool pulls;              /* the interrupt line, when last looked at */
    sim_wire *in, *out;      /* its line, or NULL */
    struct sim_deck *deck;   /* the recorder at it, or NULL */
    struct sim_drive *drive; /* the disk drive, or NULL */
    union {
        uint64_t alignment;
        uint8_t bytes[SIM_DEVICE_STATE];
    } state;
};

/* The kinds, by index; NULL: there are no more. By name; NULL: there is none. */
const sim_device_kind *sim_device_kind_at(size_t index);
const sim_device_kind *sim_device_kind_named(const char *name);

#endif
