/* sheet.h - instruction sheets: the data sheet's opcode table, machine-readable.
 *
 * A sheet is text (docs/sheets.md). Once read it never changes and can serve several assemblies.
 */
#ifndef BOOTLACE_SHEET_H
#define BOOTLACE_SHEET_H

#include "diag.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct bl_sheet bl_sheet;

typedef enum bl_order { BL_LITTLE, BL_BIG } bl_order;

typedef enum bl_operand_class {
    BL_OPERAND_VALUE,    /* a number: -2^(bits-1) .. 2^bits-1 */
    BL_OPERAND_ADDRESS,  /* an address: 0 .. 2^bits-1 */
    BL_OPERAND_RELATIVE, /* an address, stored as its distance from the end of the instruction */
} bl_operand_class;

typedef struct bl_operand {
    bl_text name;
    bl_operand_class kind;
    uint8_t bits;
} bl_operand;

enum { BL_FORM_CODES = 8, BL_FORM_SLOTS = 3, BL_SHAPE_MOST = 24, BL_MNEMONIC_MOST = 8 };
#define BL_NO_FORM 0xFFFFu
#define BL_SLOT    1 /* stands in a shape where an expression goes */

/* One step of an instruction's encoding: a fixed byte, or the operand in a slot. */
typedef struct bl_code {
    bool is_slot;
    uint8_t value; /* the byte, or the slot's index */
} bl_code;

/* One line of the opcode table. */
typedef struct bl_form {
    bl_text written;              /* as the sheet has it: "LDA zp,X" */
    uint16_t mnemonic;            /* index */
    uint8_t shape[BL_SHAPE_MOST]; /* operand text without blanks, names in capitals, BL_SLOT for
                                     expressions */
    uint8_t shape_length;
    uint64_t shape_key; /* its length and first seven bytes */
    uint8_t slots;
    uint8_t operand[BL_FORM_SLOTS]; /* index of the operand kind in each slot */
    bl_code code[BL_FORM_CODES];
    uint8_t codes;
    uint8_t size;    /* bytes */
    uint8_t cycles;  /* without extras */
    uint32_t extras; /* bit n: extra n may add cycles */
    uint16_t next;   /* next longer form with the same mnemonic and shape, or BL_NO_FORM */
    bool alias;      /* a second spelling; never chosen by a disassembler */
    uint32_t line;
} bl_form;

/* Something that can add cycles, for example "p": a page is crossed. */
typedef struct bl_extra {
    bl_text name;
    bl_text meaning;
} bl_extra;

typedef struct bl_vector {
    bl_text name;
    uint32_t address;
    bool needed; /* the CPU cannot start without it */
} bl_vector;

/* Finds the text of another sheet by name, for sheets that take one. The text must outlive the
 * call. */
typedef struct bl_sheet_source {
    void *context;
    bl_status (*find)(void *context, bl_text name, bl_text *text);
} bl_sheet_source;

/* Reads a sheet from text. name is for messages. Every fault is reported with its line. source may
 * be NULL (then only shipped sheets can be taken). BL_E_SYNTAX, BL_E_MEMORY. Close with
 * bl_sheet_close (NULL is fine). */
bl_status bl_sheet_read(const bl_memory *memory, const char *name, bl_text text,
                        const bl_sheet_source *source, const bl_sink *sink, bl_sheet **sheet);
void bl_sheet_close(bl_sheet *sheet);

/* Opens one of the sheets that come with the library, by CPU name in either case.
 * BL_E_NOT_FOUND: no such sheet; reported with the nearest names. */
bl_status bl_sheet_open(const bl_memory *memory, bl_text cpu, const bl_sink *sink,
                        bl_sheet **sheet);

/* The shipped sheets: how many, and name and text of one. */
size_t bl_sheet_shipped_count(void);
bl_text bl_sheet_shipped_name(size_t index);
bl_text bl_sheet_shipped_text(size_t index);

bl_text bl_sheet_name(const bl_sheet *sheet);
bl_text bl_sheet_title(const bl_sheet *sheet);
bl_order bl_sheet_order(const bl_sheet *sheet);
unsigned bl_sheet_address_bits(const bl_sheet *sheet);

size_t bl_sheet_forms(const bl_sheet *sheet);
const bl_form *bl_sheet_form(const bl_sheet *sheet, size_t index); /* NULL beyond the last */
size_t bl_sheet_operands(const bl_sheet *sheet);
const bl_operand *bl_sheet_operand(const bl_sheet *sheet, size_t index);
size_t bl_sheet_vectors(const bl_sheet *sheet);
const bl_vector *bl_sheet_vector(const bl_sheet *sheet, size_t index);
size_t bl_sheet_extras(const bl_sheet *sheet);
const bl_extra *bl_sheet_extra(const bl_sheet *sheet, size_t index);
size_t bl_sheet_mnemonics(const bl_sheet *sheet);
bl_text bl_sheet_mnemonic(const bl_sheet *sheet, size_t index);

/* The index of a mnemonic in either case, or -1. Constant time. */
int32_t bl_sheet_find_mnemonic(const bl_sheet *sheet, bl_text name);
/* Is this a reserved name (a register), in either case? */
bool bl_sheet_is_reserved(const bl_sheet *sheet, bl_text name);
/* The shortest form of a mnemonic with this shape, or NULL. Constant time. */
const bl_form *bl_sheet_find(const bl_sheet *sheet, uint16_t mnemonic, const uint8_t *shape,
                             size_t length);

#ifdef __cplusplus
}
#endif
#endif
