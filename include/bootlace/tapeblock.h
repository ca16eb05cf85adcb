/* tapeblock.h - programs on tape, in numbered blocks with a check each (docs/tape.md).
 *
 * A program is a head, data blocks of up to 256 bytes, and an end that says all that the head does.
 * A block is a mark, seven bytes that say what it is, its bytes, and a CRC-16 over all but the
 * mark. Read back, it is looked at bit by bit: with how sure each of them is, several takes of a
 * block can be added up, and bits that are in doubt can be found by the check.
 */
#ifndef BOOTLACE_TAPEBLOCK_H
#define BOOTLACE_TAPEBLOCK_H

#include "demodulate.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_BLOCK_MARK_1 = 0xE1,
    BL_BLOCK_MARK_2 = 0x5B,
    BL_BLOCK_BEFORE = 7, /* bytes between the mark and the data */
    BL_BLOCK_DATA = 256, /* bytes of data at most */
    BL_BLOCK_SLOTS = BL_BLOCK_BEFORE + BL_BLOCK_DATA + 2,
    BL_BLOCK_MOST = BL_BLOCK_SLOTS + 2, /* bytes of a whole block, at most */
    BL_TAPE_NAME = 16,
};

typedef enum bl_block_kind {
    BL_BLOCK_HEAD = 1,
    BL_BLOCK_PLAIN = 2,  /* bytes as they go to memory */
    BL_BLOCK_PACKED = 3, /* bytes to be unpacked (pack.h) */
    BL_BLOCK_END = 4,
} bl_block_kind;

/* What a block says of itself. */
typedef struct bl_block_label {
    uint8_t kind;     /* bl_block_kind */
    uint8_t number;   /* of the program */
    uint16_t index;   /* the head is 0, data 1 and up, the end one more */
    uint16_t count;   /* bytes of data, 1 to 256 */
    uint16_t address; /* where data belong; of a head the first address, of an end the entry */
} bl_block_label;

typedef enum bl_tape_content { BL_TAPE_PROGRAM, BL_TAPE_DATA, BL_TAPE_TEXT } bl_tape_content;

/* What head and end say of the whole. */
typedef struct bl_tape_head {
    uint8_t content; /* bl_tape_content */
    bool has_entry;  /* the end's address is where it begins */
    bool starts;     /* it is to be started when all is loaded */
    bool no_crc;     /* crc32 is not known: a small machine wrote it */
    uint16_t blocks; /* of data */
    uint32_t size;   /* bytes, unpacked */
    uint32_t crc32;  /* of all bytes, unpacked, in the order of the blocks */
    char name[BL_TAPE_NAME + 1];
} bl_tape_head;

enum { BL_TAPE_HEAD_MOST = 13 + BL_TAPE_NAME };

/* Writes a whole block, mark and check too; room for BL_BLOCK_MOST. Returns how many bytes. */
size_t bl_block_write(const bl_block_label *label, const uint8_t *data, uint8_t *bytes);
/* The data of a head or an end; room for BL_TAPE_HEAD_MOST. Returns how many bytes. */
size_t bl_tape_head_write(const bl_tape_head *head, uint8_t *data);
/* BL_E_SYNTAX: these are not the data of a head, or of one of a later version. */
bl_status bl_tape_head_read(const uint8_t *data, size_t count, bl_tape_head *head);

/* ---- reading ---- */

typedef enum bl_block_state {
    BL_BLOCK_GOOD,   /* the check is right, and so are all bits as they were heard */
    BL_BLOCK_MENDED, /* doubtful bits were chosen so that it is right: in one way only. Whether that
                        is the true way, the CRC-32 of the whole tells. */
    BL_BLOCK_BAD,
} bl_block_state;

/* One byte of a block as it was heard: for each bit, the lowest first, how surely it is 0
 * (negative) or 1. All 0: it was not heard. Several takes add up. */
typedef struct bl_block_slot {
    int16_t bit[8];
} bl_block_slot;

typedef struct bl_tape_block {
    bl_block_label label;
    bl_block_state state;
    uint64_t at;       /* where its mark begins: microseconds from the begin of the take */
    uint64_t end;      /* behind its last byte */
    uint8_t mended;    /* bits that were turned */
    uint16_t slots;    /* without the mark */
    uint16_t worst;    /* the slot that is least sure */
    uint8_t certainty; /* of that one */
    bl_block_slot slot[BL_BLOCK_SLOTS];
} bl_tape_block;

/* The next block in bytes that were heard, from *from on, which moves behind it. False: there is
 * none any more. */
bool bl_block_next(const bl_tape_byte *bytes, size_t count, size_t *from, bl_tape_block *block);
/* The byte that a slot most likely is; how sure its least sure bit is, 100 or less; what another
 * take heard of it, added. */
uint8_t bl_slot_value(const bl_block_slot *slot);
uint8_t bl_slot_certainty(const bl_block_slot *slot);
void bl_slot_add(bl_block_slot *slot, const bl_block_slot *other);
/* A byte of its data. */
uint8_t bl_block_byte(const bl_tape_block *block, size_t index);
/* Adds what another take heard of the same block, and judges anew. BL_E_DIFFERS: it is of another
 * length, and nothing changed. */
bl_status bl_block_add(bl_tape_block *block, const bl_tape_block *other);

#ifdef __cplusplus
}
#endif
#endif
