/* device.h - a device on the simulated board: a chip with registers, or a part that is wired to
 * the pins of one. Each kind is one file here, with a sim_device_kind, and a line in device.c. The
 * board, the state folder, the bench file, the names board.DEVICE.REGISTER and the table in
 * docs/bench.md follow from it.
 */
#ifndef BOOTLACE_SIM_DEVICE_H
#define BOOTLACE_SIM_DEVICE_H

#include <stddef.h>

#include "bootlace/device.h"
#include "sim/net.h"
#include "sim/wire.h"

/* What of a device's state is saved when the board is left switched on. */
typedef enum sim_field_form {
    SIM_FIELD_NUMBER,
    SIM_FIELD_FLAG,  /* a bool */
    SIM_FIELD_TIME,  /* nanoseconds, uint64_t; never far in the future */
    SIM_FIELD_CYCLE, /* the device's cycles, uint64_t; never far in the future */
    SIM_FIELD_ROW,   /* bytes */
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
    unsigned variant;  /* which of the kinds that share their functions; their own numbers */
    size_t size;       /* of its state, at most SIM_DEVICE_STATE */
    size_t kept;       /* so many bytes of it, from the first, need no power */
    /* Reset, or power on: then the state is all 0 but for what begin left before. */
    void (*begin)(sim_device *d, bool power);
    uint8_t (*read)(sim_device *d, uint64_t now, unsigned reg); /* NULL: reads $FF */
    void (*write)(sim_device *d, uint64_t now, unsigned reg, uint8_t value);
    uint64_t (*next_event)(const sim_device *d); /* when something happens by itself; UINT64_MAX */
    void (*update)(sim_device *d, uint64_t now); /* brings it up to a moment */
    bool (*interrupt)(const sim_device *d);      /* does it pull the CPU's interrupt line? */
    /* Of devices that bring their own vector (interrupt mode 2): the CPU takes its interrupt; what
     * they put on the bus. Then in_service, until the CPU executes RETI. */
    uint8_t (*acknowledge)(sim_device *d, uint64_t now);
    bool (*in_service)(const sim_device *d);
    void (*returned)(sim_device *d, uint64_t now);
    uint8_t (*lamps)(const sim_device *d); /* eight lamps, which somebody sees */
    /* What else somebody sees of it, as text (UTF-8, lines ended by \n): its length, as snprintf
     * counts. */
    size_t (*shows)(const sim_device *d, char *text, size_t capacity);
    /* Somebody presses (down) or releases one of its keys; "" is the only one of a button. False:
     * it has no such key. */
    bool (*operate)(sim_device *d, uint64_t now, const char *key, bool down);
    bool (*loaded)(sim_device *d); /* after loading: do the numbers fit together? */
    /* Of kinds with pins: what it does to one. */
    sim_level (*drives)(const sim_device *d, unsigned pin);
    /* The level at one of its pins has changed; high when nobody drives it. */
    void (*edge)(sim_device *d, uint64_t now, unsigned pin, bool high);
    /* Can reading a register change what it does to its pins, as it is set up now? NULL: it can. */
    bool (*read_stirs)(const sim_device *d);
    /* How often a pin that it drives goes up and down, Hz; 0: not by itself. */
    uint32_t (*frequency)(const sim_device *d, unsigned pin);
    /* What its clock pin gets, in d->clock, has become another. */
    void (*retime)(sim_device *d, uint64_t now);
    const sim_device_field *fields;
} sim_device_kind;

enum { SIM_DEVICE_STATE = 576 };

struct sim_device {
    const sim_device_kind *kind;
    uint16_t at; /* an address, or a port */
    bool in_ports;
    uint16_t size;                /* registers */
    uint32_t reach;               /* addresses at which they are seen, again and again */
    uint32_t clock;               /* Hz: its own, or the CPU's */
    bool pulls;                   /* the interrupt line, when last looked at */
    bool timed;                   /* its clock comes by a wire to its clock pin */
    bool missing;                 /* a fault: it is not in its socket */
    uint32_t shadow;              /* a fault of the decoder: it answers here, too; 0: nowhere */
    uint8_t request;              /* which line that is: sim_cpu_kind, or SIM_NO_REQUEST */
    sim_wire *in, *out;           /* its line, or NULL */
    struct sim_deck *deck;        /* the recorder at it, or NULL */
    struct sim_drive *drive;      /* the disk drive, or NULL */
    struct sim_board *board;      /* that it is on; NULL in a test of its own */
    uint8_t nets[BL_DEVICE_PINS]; /* what each pin is wired to, from 1 on; 0: nothing */
    union {
        uint64_t alignment;
        uint8_t bytes[SIM_DEVICE_STATE];
    } state;
};

enum { SIM_NO_REQUEST = 0xFF };

/* The clock's edges up to a moment. */
static inline uint64_t sim_device_cycles(const sim_device *d, uint64_t now)
{
    uint64_t whole = now / 1000000000u, rest = now % 1000000000u;
    return whole * d->clock + (rest * d->clock + 999999999u) / 1000000000u;
}

/* When so many of them have been: the inverse. */
static inline uint64_t sim_device_moment(const sim_device *d, uint64_t cycles)
{
    return cycles / d->clock * 1000000000u + cycles % d->clock * 1000000000u / d->clock;
}

/* The pin by which a kind with a clock of its own gets it; -1: it has none that can be wired. */
int sim_clock_pin(const sim_device_kind *kind);
/* How often what one of its pins is wired to goes up and down by itself, Hz; 0: it does not. */
uint32_t sim_device_frequency(const sim_device *d, unsigned pin);
/* The same, of an oscillator or the CPU's clock alone, which make no edges. */
uint32_t sim_device_counts(const sim_device *d, unsigned pin);
/* Is a pin wired to clock pins, which need no edges? */
bool sim_device_is_clock(const sim_device *d, unsigned pin);

/* The board's time, for what is asked of a device without one. */
uint64_t sim_device_now(const sim_device *d);
/* The level at a pin, as an input sees it. floating: what that is where nobody drives it. */
bool sim_device_sees(const sim_device *d, unsigned pin, bool floating);

/* What all others do to what one of its pins is wired to. */
sim_level sim_device_level_without(const sim_device *d, unsigned pin);

/* The kinds, by index; NULL: there are no more. By name; NULL: there is none. */
const sim_device_kind *sim_device_kind_at(size_t index);
const sim_device_kind *sim_device_kind_named(const char *name);

#endif
