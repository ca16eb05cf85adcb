/* places.h - addresses and ranges as people write them where a build is at hand: numbers, symbols,
 * areas, and sums of them. */
#ifndef BOOTLACE_HOST_PLACES_H
#define BOOTLACE_HOST_PLACES_H

#include "bench/bench.h"
#include "whereis.h"

/* What addresses count where the machine has words, which are two bytes of an image. What is
 * written is the machine's own address, a number as well as a symbol. */
typedef enum places_count {
    PLACES_BYTES, /* it comes out as the address of its bytes in an image */
    PLACES_UNITS, /* it comes out as it is */
    PLACES_FILE,  /* numbers are those of an image file, which counts bytes; symbols as in BYTES */
} places_count;

/* Where names are looked for. */
typedef struct places {
    const bench *b;              /* areas and board names; may be NULL */
    const whereis *w;            /* symbols; may be NULL */
    const whereis *after;        /* those that count where w has none of that name; may be NULL */
    const project *built;        /* its pieces are known by name: lamp-rom.light; may be NULL */
    const bl_disasm_name *names; /* further symbols; may be NULL */
    size_t name_count;
    places_count count;
    bool machine_radix; /* digits alone are in the bench's radix, as a monitor has them */
} places;

/* NUMBER, SYMBOL, area.NAME.first and the like, and + or - NUMBER behind them. False: *why, to be
 * freed with g_free, says what is wrong and what to do, in one line or two. */
bool places_address(const places *p, const char *text, uint32_t *address, char **why);

/* FIRST..LAST (both included; each an address as above), FIRST+COUNT, one address, or the name of
 * an area for all of it. */
bool places_range(const places *p, const char *text, bl_range *range, char **why);

/* Does an operand look like what a shell leaves of one that began with a dollar sign: "bash300" or
 * ".." of $0300.., "00" of $100? */
bool places_eaten(const char *text);
extern const char places_eaten_hint[];

/* Does it hold a name, so that a build is needed? */
bool places_names(const char *text);

#endif
