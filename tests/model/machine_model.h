/* machine_model.h - a machine with Eyelet, by docs/link.md alone, at the end of a line that
 * damages; without a CPU and without time, so that a million sends take minutes. Shares no code
 * with the library: its sums are its own.
 */
#ifndef BOOTLACE_MACHINE_MODEL_H
#define BOOTLACE_MACHINE_MODEL_H

#include "bootlace/port.h"

/* What `quick` is answered with. */
typedef enum model_quick {
    MODEL_DOUBLE,  /* double sums */
    MODEL_SHORT,   /* FCS-16: an Eyelet of before */
    MODEL_UNKNOWN, /* neither pours nor quick: a small one */
} model_quick;

/* One in so many bytes, 0: none. Both ways. */
typedef struct model_faults {
    uint32_t flip;   /* a bit */
    uint32_t lose;   /* is lost */
    uint32_t insert; /* one comes that was not sent */
    uint32_t burst;  /* 2 to 9 in a row are any */
    uint32_t kernel; /* three in a row are changed so that the FCS-16 stays right */
} model_faults;

typedef struct machine_model {
    uint8_t memory[65536];
    model_quick quick;
    model_faults faults;
    uint64_t chance, clock; /* us */
    uint8_t frame[256];     /* between two flags */
    size_t count;
    bool inside, escaped;
    /* a pour */
    uint32_t at, left;
    uint16_t fcs;
    bool pouring, draining;
    uint8_t sequence;
    /* to the PC */
    uint8_t out[1024];
    size_t out_count, out_at;
    /* damage under way, a way each */
    unsigned burst[2], kernel[2];
    uint8_t shift[2];
} machine_model;

void model_begin(machine_model *m, model_quick quick, const model_faults *faults, uint64_t seed);
uint32_t model_below(machine_model *m, uint32_t limit);
bl_serial model_port(machine_model *m);

#endif
