/* sheet_parts.h - a sheet in memory, shared by its reader and its look-ups.
 */
#ifndef BOOTLACE_SRC_ISA_SHEET_PARTS_H
#define BOOTLACE_SRC_ISA_SHEET_PARTS_H

#include "base/core.h"
#include "bootlace/sheet.h"

enum {
    SHEET_VECTORS = 32,
    SHEET_OPERANDS = 120,
    SHEET_EXTRAS = 16,
    SHEET_SUFFIXES = 12,
    SHEET_REGISTERS = 48,
    SHEET_DEPTH = 8, /* sheets that take one another */
    SHEET_RESERVED_SLOTS = 512,
    SHEET_NAME = 40,   /* characters of the name of a sheet, vector, operand, extra, mode */
    SHEET_LINE = 1000, /* characters */
};

#define SHEET_ROWS 0xFFFFul /* of the table */

typedef struct sheet_mnemonic {
    uint64_t key; /* capitals, packed */
    bl_text name;
} sheet_mnemonic;

struct bl_sheet {
    bl_memory memory;
    char **texts; /* that all names point into */
    size_t text_count, text_capacity;
    char *spare; /* what is left of the last of them */
    size_t spare_left;
    bl_text name, title;
    bl_text taken[SHEET_DEPTH]; /* the sheet that this one takes, the one which that takes, ... */
    bl_order order;
    bl_radix radix;
    unsigned unit, word, address_bits;
    uint16_t access_halves, access_own; /* 0: not told */
    unsigned given;                     /* properties that a sheet has set which takes another */
    uint32_t expansions;                /* of modes, so far */
    bool no_cycles;
    uint64_t reserved[SHEET_RESERVED_SLOTS]; /* keys; open addressing */
    size_t reserved_count, reserved_longest;
    uint8_t used[16]; /* punctuation in patterns, a bit a character */
    bl_vector vectors[SHEET_VECTORS];
    size_t vector_count;
    bl_operand operands[SHEET_OPERANDS];
    size_t operand_count;
    bl_choice *choices;
    size_t choice_count, choice_capacity;
    bl_extra extras[SHEET_EXTRAS];
    size_t extra_count;
    bl_row *rows; /* of the table */
    size_t row_count, row_capacity;
    bl_row *modes;
    size_t mode_count, mode_capacity;
    bl_row suffixes[SHEET_SUFFIXES]; /* .written: what changes */
    size_t suffix_count;
    bl_sheet_register registers[SHEET_REGISTERS];
    size_t register_count;
    bl_text stack;
    bl_form *forms;
    size_t form_count, form_capacity;
    sheet_mnemonic *mnemonics;
    size_t mnemonic_count, mnemonic_capacity;
    uint16_t *mnemonic_table; /* open addressing; index + 1 */
    uint16_t *form_table;     /* while reading: by mnemonic, pattern and kinds of operands */
    size_t mnemonic_slots, form_slots; /* powers of two */

    bl_spelling *spellings;
    uint64_t *spelling_keys; /* of mnemonic and shape */
    uint32_t *spelling_shapes;
    uint8_t *spelling_lengths;
    size_t spelling_count, spelling_capacity, key_capacity, shape_capacity, length_capacity;
    uint8_t *shapes; /* text of all shapes that are longer than a key shows */
    size_t shapes_count, shapes_room;
    uint16_t *spelling_table;
    size_t spelling_slots;

    uint16_t *nodes; /* 2^unit to a node; 0 nothing, form + 1, or NODE + node */
    size_t node_count, node_room;
};

/* Capitals of a name packed into 64 bits; 0 when it is empty, too long or has other characters than
 * letters, digits, ' and dots. */
uint64_t sheet_key(bl_text name);
static inline size_t sheet_spread(uint64_t key, size_t slots)
{
    return (size_t)(key * 0x9E3779B97F4A7C15u >> 40) & (slots - 1);
}
/* An empty table of indices for so many items, at most half full; NULL without memory. */
uint16_t *sheet_table(const bl_sheet *s, size_t items, size_t *slots);
/* Text of so many bytes that lives as long as the sheet, or NULL. */
char *sheet_keep(bl_sheet *s, size_t length);

/* mnemonic.c */
bl_status sheet_mnemonic_of(bl_sheet *s, bl_text name, uint16_t *index);
/* After the first count mnemonics were moved together: drops the rest. */
bl_status sheet_mnemonics_moved(bl_sheet *s, size_t count);
/* Makes a name reserved. BL_E_RANGE: there are too many, or it is too long. */
bl_status sheet_reserve(bl_sheet *s, bl_text name);

/* spell.c: after the last form. *culprit and *other: forms that are written alike (BL_E_OVERLAP).
 */
bl_status sheet_spell(bl_sheet *s, const bl_form **culprit, const bl_form **other);

/* The first spelling that is tried for what a decoded instruction is written like. */
uint16_t sheet_chain_of(const bl_sheet *s, const bl_decoded *d);

/* decode.c: after the last form; the same for forms that are encoded alike. */
bl_status sheet_build_decoder(bl_sheet *s, const bl_form **culprit, const bl_form **other);

#endif
