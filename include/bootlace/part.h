/* part.h - the catalogue: memory parts, how each is written, and what a programmer must know.
 *
 * Figures are the slowest and longest of the data sheets of each series, so that every maker's part
 * is served; a bench file may describe others (docs/parts.md).
 */
#ifndef BOOTLACE_PART_H
#define BOOTLACE_PART_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_algorithm {
    BL_ALGORITHM_PAGE = 0, /* a page is loaded, then the part writes it by itself */
    BL_ALGORITHM_BYTE = 1, /* the same, one byte at a time */
    BL_ALGORITHM_PULSE =
        2, /* pulses under a programming voltage; bits only fall; UV light erases */
    BL_ALGORITHM_COMMAND = 3, /* a command before each byte; bits only fall; sectors are erased */
} bl_algorithm;
enum { BL_ALGORITHMS = 4 };

enum { BL_PART_NAME = 16, BL_GRADES = 6, BL_PAGE_MAX = 128 };

typedef struct bl_part {
    char name[BL_PART_NAME];
    uint32_t size; /* bytes; a power of two */
    uint8_t pins;  /* 24, 28 or 32 */
    uint8_t algorithm;
    uint16_t page;      /* bytes of one write request, a power of two; PAGE: the part's own page */
    uint32_t cycle_us;  /* PAGE, BYTE, COMMAND: longest write cycle; PULSE: one pulse */
    uint16_t window_us; /* PAGE: longest pause between bytes of one page */
    uint8_t pulses;     /* PULSE: most for one byte */
    uint8_t over;       /* PULSE: one more, so many times as long as all before; 0: none */
    uint8_t vpp, vcc;   /* PULSE: supplies while programming, in tenths of a volt */
    uint32_t sector;    /* COMMAND: bytes erased together */
    uint32_t erase_us;  /* COMMAND: longest erasure of a sector */
    bool locks;         /* has software data protection that stays */
    uint16_t access_ns[BL_GRADES]; /* access times it is sold in, rising; 0 ends */
} bl_part;

/* The part with this designation, in either case; NULL when we do not know it. */
const bl_part *bl_part_named(bl_text name);
size_t bl_parts(void);
const bl_part *bl_part_at(size_t index);

/* The slowest access time it is sold in, in nanoseconds; 500 when none is known. */
uint16_t bl_part_slowest(const bl_part *part);

/* "page write", "byte write", "pulses", "commands"; NULL beyond the last. */
const char *bl_algorithm_text(unsigned algorithm);

/* NULL when a part can be programmed as described; else what is wrong with it. */
const char *bl_part_fault(const bl_part *part);

/* Do bits only fall when it is written? Then what is there decides what can be written over it. */
bool bl_part_only_falls(const bl_part *part);

/* Nanoseconds that a CPU leaves a part to answer; negative: no part is fast enough. halves: half
 * clocks from a valid address to the moment data is taken; own_ns: of them the CPU's own share,
 * both from its sheet (docs/sheets.md); decode_ns: the board's address decoder. clock, in Hz, must
 * not be 0. */
int32_t bl_access_left(uint32_t clock, uint16_t halves, uint16_t own_ns, uint16_t decode_ns);

#ifdef __cplusplus
}
#endif
#endif
