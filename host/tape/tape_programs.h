/* tape_programs.h - the programs on a tape, put together from the blocks of all takes. */
#ifndef BOOTLACE_TAPE_PROGRAMS_H
#define BOOTLACE_TAPE_PROGRAMS_H

#include "bootlace/image.h"
#include "bootlace/tapeblock.h"
#include "take.h"

/* A block of a program. */
typedef struct tape_part {
    bl_tape_block block;
    unsigned take;  /* index of the take it was first heard in */
    unsigned heard; /* how many copies of it were */
    bool merged;    /* it took more than one copy to make it good */
} tape_part;

typedef enum tape_outcome {
    TAPE_PROVEN,     /* all blocks are there, and the CRC-32 of the whole is right */
    TAPE_UNPROVEN,   /* all are there, and good; the head that has the CRC-32 is not */
    TAPE_INCOMPLETE, /* blocks are missing or bad */
    TAPE_WRONG,      /* all are there, and the CRC-32 is not right */
} tape_outcome;

typedef struct tape_program {
    uint8_t number;
    bool head_known; /* from its head or its end */
    bl_tape_head head;
    uint16_t entry;
    bool entry_known;
    uint64_t at;      /* microseconds, in the take where it was first heard */
    unsigned take;    /* that one */
    GPtrArray *parts; /* tape_part *, index 0 the head, 1 and up data, the last the end; NULL where
                         nothing was heard */
    guint data;       /* data blocks there should be, as far as is known */
    guint good, missing, bad, mended;
    guint lost; /* good, but packed, and what they copy from is not there */
    tape_outcome outcome;
    bl_image *image;   /* what of it is good, where it belongs; of a proven one all */
    GByteArray *bytes; /* the same in the order of the blocks, up to the first that is not good */
} tape_program;

/* All programs of some takes, in the order in which they were heard first. Programs that are alike
 * are one, whichever take they are on: each helps to mend the others. Free with g_ptr_array_unref.
 */
GPtrArray *tape_programs_find(take *const *takes, guint count);

/* Where its most doubtful byte is: microseconds. */
uint64_t tape_block_doubt(const bl_tape_block *b);
/* "boathook", or "" when no name was heard. */
const char *tape_program_name(const tape_program *p);

#endif
