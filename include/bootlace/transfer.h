/* transfer.h - puts bytes into a machine's memory or into a chip in the programmer, and proves
 * them.
 *
 * The remote is Eyelet or the programmer: both know the same memory messages (docs/link.md). The
 * job asks for sums of blocks, writes only the blocks that differ, asks for the sums again, and
 * when one is wrong reads the block to name the bytes. Sums are CRC-32; of Eyelet double sums
 * (crc.h), and after any trouble on the line both. It does no I/O: the driver (drive_frames.h)
 * calls next, does the exchange, and hands the answer in. A job is used by one thread at a time,
 * and not from an interrupt.
 */
#ifndef BOOTLACE_TRANSFER_H
#define BOOTLACE_TRANSFER_H

#include "exchange.h"
#include "image.h"
#include "part.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_goal {
    BL_GOAL_WRITE,   /* make memory equal to the pieces, then prove it */
    BL_GOAL_COMPARE, /* find every difference */
    BL_GOAL_READ,    /* fetch a range into buffer */
} bl_goal;

typedef struct bl_difference {
    uint32_t address;
    uint8_t expected, found;
} bl_difference;

enum { BL_DIFFERENCES = 16, BL_NAME_MAX = 40 };

typedef enum bl_protect { BL_PROTECT_LEAVE, BL_PROTECT_OFF, BL_PROTECT_ON } bl_protect;

typedef struct bl_transfer_options {
    bl_goal goal;
    const bl_piece *pieces; /* WRITE, COMPARE: must outlive the job */
    size_t piece_count;
    uint8_t *buffer; /* READ: range.count bytes */
    bl_range range;
    uint32_t block;      /* bytes; chips: the page */
    uint32_t region;     /* bytes that are summed first, a multiple of block; 0: only blocks are */
    uint8_t who;         /* BL_WHO_EYELET or BL_WHO_PROGRAMMER */
    const bl_part *part; /* programmer: the part in the socket */
    bl_protect protect;  /* programmer: before (off) and after (on) writing */
    bool corners;        /* programmer: prove at 4.5 and at 5.5 V, if it can make them */
    bool twice;          /* prove all a second time */
    bool every_block;    /* write without looking first */
    const bl_piece *known; /* Eyelet: what memory is believed to hold; then it is not looked at
                              first, and whatever is not as believed is found by the proof */
    size_t known_count;
    bool resume; /* Eyelet: at the end let the program go on that gave way */
    bool run;    /* Eyelet: start at entry after the proof */
    uint32_t entry;
    uint32_t sum_ns; /* the remote's time to add one byte to a sum */
} bl_transfer_options;

typedef enum bl_stage {
    BL_STAGE_HELLO,
    BL_STAGE_SELECT,
    BL_STAGE_UNPROTECT,
    BL_STAGE_LOOK,  /* sums before writing */
    BL_STAGE_FIT,   /* parts whose bits only fall: reading what must be written over */
    BL_STAGE_ERASE, /* sectors of which a bit must rise */
    BL_STAGE_WRITE,
    BL_STAGE_SUPPLY,  /* the voltage for the next proof */
    BL_STAGE_PROVE,   /* sums after writing, or of a comparison */
    BL_STAGE_INSPECT, /* reading blocks that are wrong */
    BL_STAGE_RESTORE, /* 5 volts again */
    BL_STAGE_PROTECT,
    BL_STAGE_RUN,
    BL_STAGE_RESUME,
    BL_STAGE_READ,
    BL_STAGE_DONE,
} bl_stage;
enum { BL_STAGES = BL_STAGE_DONE + 1 };

/* What makes sure that the bytes are there. */
typedef enum bl_proof {
    BL_PROOF_NONE,    /* nothing does */
    BL_PROOF_SUMS,    /* CRC-32 that the remote computed over its memory */
    BL_PROOF_DOUBLE,  /* double sums of each region, the same */
    BL_PROOF_READ,    /* all of it was read back, and compared here */
    BL_PROOF_ANSWERS, /* a sum over each byte as memory kept it, docs/aglet.md */
    BL_PROOF_ROWS,    /* a sum over each row as memory kept it, docs/parallel.md */
    BL_PROOF_PACKETS, /* the CRC-32 of the whole, which the remote compared */
} bl_proof;
enum { BL_PROOFS = BL_PROOF_PACKETS + 1 };

/* What came of it. All of it may be read at any time, and after bl_transfer_end. */
typedef struct bl_transfer_result {
    char name[BL_NAME_MAX]; /* of the remote, terminated */
    bl_stage stage;         /* where it is, or where it ended */
    uint32_t where;         /* address last worked on */
    size_t blocks;          /* of all pieces */
    size_t blocks_written, sectors_erased;
    uint64_t bytes_total;   /* of all pieces */
    uint64_t bytes_written; /* more than bytes_total when some were sent again */
    uint64_t bytes_proved;  /* by each of the proofs */
    uint64_t bytes_sure;    /* found right so far, and not written since; after a failure, too */
    uint64_t bytes_fetched;
    uint32_t misread;     /* readings that were different when they were repeated */
    bool touched;         /* something was asked that changes memory */
    uint64_t bytes_twice; /* of those, by CRC-32 besides double sums: after trouble on the line */
    bl_proof proved_by;   /* BL_PROOF_NONE: by nothing */
    size_t blocks_wrong;  /* after the proof */
    uint64_t differences; /* bytes, in the blocks that were inspected */
    bl_difference difference[BL_DIFFERENCES]; /* the first of them */
    uint8_t refusal;                          /* bl_answer_code when status is BL_E_REFUSED */
    uint8_t supply;                           /* of the last proof, in tenths of a volt */
    bool no_corners;                          /* the programmer cannot make other voltages */
    bool run_asked;                           /* a run request went out */
    bool run_doubted; /* it was started, and nobody could say whether it runs */
    bool resumed;     /* a program had given way, and goes on */
    bool in_loader;   /* it failed, and the remote did not come back to its prompt */
    uint32_t resends; /* other than those of the exchange */
    uint32_t line;    /* of the records that were being sent, from 1 */
    uint32_t padding; /* bytes behind the payload that a block of the transport had to fill */
    uint32_t padded_at;
    bool padding_kept; /* with what was there before */
} bl_transfer_result;

/* For whoever shows how far it is. */
typedef struct bl_progress {
    bl_stage stage;
    size_t done, total; /* of this stage: blocks; of BL_STAGE_READ bytes */
    uint32_t resends;   /* so far */
    const bl_transfer_options *options;
} bl_progress;

/* Private: where the state machine stands. */
typedef struct bl_transfer_state {
    bl_memory memory;
    uint8_t *marks;     /* what is known of each block */
    size_t block;       /* that the stage is at */
    size_t offset;      /* bytes of that block that are done */
    size_t position;    /* bytes of the range that have been read */
    bool answered;      /* a stage of one request has its answer */
    size_t asked_sums;  /* in the current request */
    size_t asked_bytes; /* in the current request */
    bool corners;       /* they were asked for, and the programmer has not said that it cannot */
    bool by_region;     /* LOOK, PROVE: this pass asks for sums of regions */
    bool touched;       /* something of the block had to be written */
    bool swift;         /* Eyelet takes pours and knows quick */
    bool doubles;       /* it answers quick with double sums */
    bool trouble;       /* the line, or what was believed, has failed since the job began */
    bool again;         /* PROVE: by CRC-32 this time */
    bool sampling;      /* LOOK: a few blocks stand for all */
    bool believed;      /* what was written was chosen by what is said to be there */
    unsigned proofs;    /* that are complete */
    unsigned rounds;    /* of writing and proving */
    size_t max_data;    /* bytes of data in one frame; falls on a bad line */
    size_t pour_max;    /* bytes in one pour; falls on a bad line; 0: none */
    size_t pouring;     /* bytes of the pour that was asked for */
} bl_transfer_state;

typedef struct bl_transfer {
    bl_transfer_options options; /* what is asked; a copy */
    bl_transfer_result result;
    bl_transfer_state state;
} bl_transfer;

/* Begins a job. BL_E_ARGUMENT: block is 0 or too large, or region no multiple of it. BL_E_MEMORY.
 * End it with bl_transfer_end. */
bl_status bl_transfer_begin(bl_transfer *t, const bl_memory *memory,
                            const bl_transfer_options *options);
void bl_transfer_end(bl_transfer *t);

/* BL_E_RANGE, at first: result.where lies beyond the 24 bits of address that a frame has; nothing
 * was done. The next request: *request, how long the remote may work, how much may come back.
 * *done: there is none, the job succeeded. BL_E_DIFFERS: the proof failed; result.difference tells
 * where. */
bl_status bl_transfer_next(bl_transfer *t, bl_frame *request, uint32_t *timeout_us,
                           uint32_t *answer_max, bool *done);

/* The answer to it. BL_E_REFUSED with result.refusal; BL_E_DIFFERS; BL_E_NOT_BLANK: a bit would
 * have to rise, nothing has been written, result.difference tells where; BL_E_UNSUPPORTED: the far
 * side is another kind of thing or another version; BL_E_SYNTAX: the answer makes no sense. */
bl_status bl_transfer_answer(bl_transfer *t, const bl_frame *answer);

/* After a good answer: are bytes to be poured now (bl_exchange_pour)? What became of it, the second
 * answer or a failure, is told with bl_transfer_poured; statuses as of bl_transfer_answer. */
bool bl_transfer_pours(const bl_transfer *t, const uint8_t **bytes, size_t *count);
bl_status bl_transfer_poured(bl_transfer *t, bl_status status, const bl_frame *answer);

/* Notes a byte that is wrong among the results; for whoever does a transfer in a way of its own. */
void bl_transfer_note(bl_transfer *t, uint32_t address, uint8_t expected, uint8_t found);

/* A frame was damaged or sent again since the last answer: what was written is then proved by
 * CRC-32, too. Of pours and proofs the job knows by itself. */
void bl_transfer_trouble(bl_transfer *t);

/* Sets result.bytes_sure; while the job has its marks, before bl_transfer_end. */
void bl_transfer_count_sure(bl_transfer *t);

/* The line damaged every attempt: makes frames shorter, so that some get through; ask next again.
 * False: they are as short as they get, or that would not help. */
bool bl_transfer_ease(bl_transfer *t);

/* Microseconds for which nothing may be sent after the job: Eyelet starts a program, or lets one go
 * on, only when the line has been silent. 0: no need. */
uint32_t bl_transfer_silence(const bl_transfer *t);

/* The index-th block, as the piece of memory it covers: pieces are cut at multiples of block. */
bl_piece bl_transfer_block(const bl_transfer *t, size_t index);

/* How far the current stage is; resends: of the exchange, to be added. */
bl_progress bl_transfer_progress(const bl_transfer *t, uint32_t resends);

#ifdef __cplusplus
}
#endif
#endif
