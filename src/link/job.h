/* job.h - between transfer.c, which asks, answer.c, which takes the answers, and job_blocks.c. */
#ifndef BOOTLACE_SRC_JOB_H
#define BOOTLACE_SRC_JOB_H

#include "bootlace/transfer.h"

enum {
    SUM = 4,       /* bytes of a sum, whichever it is */
    SHORT_SUM = 2, /* of an Eyelet that answers quick with FCS-16 */
    FEW = 4,       /* blocks that stand for all, when Eyelet is first looked at */
    ADDRESS = 3,
    EASIEST = 16, /* data bytes in a frame on the worst of lines */
    SAMPLE = 8,   /* blocks that stand for their region */
};

/* What is known of a block. */
enum {
    MARK_WRONG = 1,    /* is not what it should be */
    MARK_UNKNOWN = 2,  /* its own sum has not been asked for yet */
    MARK_BLANK = 4,    /* all FF, so anything can be written there */
    MARK_ERASE = 8,    /* first block of a sector that must be erased */
    MARK_WRITTEN = 16, /* was written by this job; stays when the rest changes */
};

/* ---- job_blocks.c: every piece cut at multiples of the block size ---- */
/* How many blocks a piece has. */
size_t bl_job_blocks_of(const bl_piece *p, uint32_t block);
/* Do count blocks from index on lie in a row, all of full size? */
bool bl_job_is_row(const bl_transfer *t, size_t index, size_t count);
/* Blocks of a region; 0 when only blocks are summed. */
size_t bl_job_region(const bl_transfer *t);
/* Blocks that one sum covers in this pass; 0: at index there are not that many in a row. */
size_t bl_job_unit(const bl_transfer *t, size_t index);
/* Is the row of blocks at index asked for as a sample of its region? */
bool bl_job_sample(const bl_transfer *t, size_t index);
/* Does this pass ask for double sums? Otherwise for CRC-32. */
bool bl_job_doubles(const bl_transfer *t);
/* What is known of count blocks from index on; that they were written stays. */
void bl_job_mark(bl_transfer *t, size_t index, size_t count, uint8_t mark);
bool bl_job_blank(const uint8_t *bytes, size_t count);

#endif
