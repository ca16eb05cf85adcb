/* isa/sheet.h - a sheet in memory, shared by its reader and its look-ups. */
#ifndef BOOTLACE_SRC_ISA_SHEET_H
#define BOOTLACE_SRC_ISA_SHEET_H

#include "base/core.h"
#include "bootlace/sheet.h"

enum {
    SHEET_RESERVED = 48,
    SHEET_VECTORS = 32,
    SHEET_OPERANDS = 64,
    SHEET_EXTRAS = 16,
    SHEET_TEXTS = 8
};

typedef struct sheet_mnemonic {
    uint64_t key; /* capitals, packed */
    bl_text name;
} sheet_mnemonic;

struct bl_sheet {
    bl_memory memory;
    char *texts[SHEET_TEXTS]; /* copies that all names point into */
    size_t text_count;
    bl_text name, title;
    bl_order order;
    unsigned address_bits;
    bl_text reserved[SHEET_RESERVED];
    size_t reserved_count, reserved_longest;
    bl_vector vectors[SHEET_VECTORS];
    size_t vector_count;
    bl_operand operands[SHEET_OPERANDS];
    size_t operand_count;
    bl_extra extras[SHEET_EXTRAS];
    size_t extra_count;
    bl_form *forms;
    size_t form_count, form_capacity;
    sheet_mnemonic *mnemonics;
    size_t mnemonic_count, mnemonic_capacity;
    uint16_t *mnemonic_table;          /* open addressing; index + 1 */
    uint16_t *form_table;              /* by mnemonic and shape; index of the first form + 1 */
    size_t mnemonic_slots, form_slots; /* powers of two */
};

/* Capitals of a name packed into 64 bits; 0 when it is empty or too long. */
uint64_t sheet_key(bl_text name);

/* Builds both tables after the last form. BL_E_MEMORY. */
bl_status sheet_index(bl_sheet *sheet);

#endif
