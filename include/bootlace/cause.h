/* cause.h - what the differences between a chip and what it should hold say about their cause.
 *
 * Each cause is a model: it tells what would be found if it were so. Those are named whose model is
 * right, for all bytes or nearly all, where the chip is not what it should be; the evidence is how
 * many of the wrong bytes the model explains. Lines are numbered as on the chip: D0 to D7, A0 up.
 */
#ifndef BOOTLACE_CAUSE_H
#define BOOTLACE_CAUSE_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_cause_kind {
    BL_CAUSE_CONSTANT = 1,    /* all bytes read alike: .value */
    BL_CAUSE_DATA_STUCK,      /* .lines, at .levels */
    BL_CAUSE_DATA_SWAPPED,    /* .line and .other */
    BL_CAUSE_DATA_BRIDGED,    /* the same; .levels 0: a 0 wins, 1: a 1 wins */
    BL_CAUSE_ADDRESS_STUCK,   /* .lines without effect; what is seen is as if they were .levels */
    BL_CAUSE_ADDRESS_SWAPPED, /* .line and .other */
    BL_CAUSE_ADDRESS_TURNED,  /* .line is inverted: what belongs to 0 is at 1 and the reverse */
    BL_CAUSE_SHIFTED,         /* what belongs at an offset is found .shift bytes further up */
} bl_cause_kind;

typedef struct bl_cause {
    bl_cause_kind kind;
    uint8_t line, other, value;
    uint32_t lines, levels; /* a bit a line */
    int32_t shift;          /* bytes */
    uint32_t explained;     /* of the wrong bytes */
} bl_cause;

enum { BL_CAUSES = 3 };

typedef struct bl_causes {
    uint32_t size;        /* of the chip, bytes */
    uint32_t differences; /* wrong bytes */
    size_t count;         /* 0 with differences: no pattern that we know */
    bl_cause cause[BL_CAUSES];
} bl_causes;

/* Compares size bytes. Causes that explain more come first. size is a power of two, at most 2^24;
 * otherwise causes of address lines are not looked for. */
void bl_causes_find(const uint8_t *expected, const uint8_t *found, uint32_t size,
                    bl_causes *causes);

/* One cause in words, without line end: what it is, then what speaks for it. Returns the length it
 * has, cut to room. */
size_t bl_cause_text(const bl_causes *causes, size_t index, char *text, size_t capacity);

#ifdef __cplusplus
}
#endif
#endif
