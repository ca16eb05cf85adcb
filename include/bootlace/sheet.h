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
    BL_OPERAND_NUMBER,   /* 0 .. 2^bits-1 */
    BL_OPERAND_SIGNED,   /* -2^(bits-1) .. 2^(bits-1)-1 */
    BL_OPERAND_ADDRESS,  /* an address: 0 .. 2^bits-1 */
    BL_OPERAND_DIRECT,   /* an address in the page that the direct page register points at; its low
                            bits are stored */
    BL_OPERAND_PAGE,     /* an address in the same page of 2^bits units as the instruction */
    BL_OPERAND_RELATIVE, /* an address, stored as its distance from the end of the instruction */
    BL_OPERAND_EXACT,    /* one number that is part of the form; nothing is stored */
    BL_OPERAND_ANYOF,    /* a list of names; their codes are joined */
    BL_OPERAND_ONEOF,    /* one of some names */
} bl_operand_class;

typedef struct bl_operand {
    bl_text name;
    bl_operand_class kind;
    uint8_t bits;
    uint8_t space;  /* bits of the CPU's addresses; distances wrap there */
    int64_t value;  /* EXACT */
    uint16_t first; /* ONEOF, ANYOF: of its choices */
    uint16_t count;
} bl_operand;

/* A name that an operand may be, and what is stored for it. */
typedef struct bl_choice {
    bl_text name;
    uint16_t code;
} bl_choice;

enum {
    BL_FORM_UNITS = 8,
    BL_FORM_OPERANDS = 4,
    BL_FORM_SLOTS = 3,
    BL_FORM_FIELDS = 8,
    BL_SHAPE_MAX = 24,
    BL_MNEMONIC_MAX = 10,
};
#define BL_NO_FORM 0xFFFFu
#define BL_SLOT    1 /* stands in a shape where an expression goes */
#define BL_LIST    2 /* stands in a shape where a list of names goes */

enum {
    BL_FLOW_GOES = 1,     /* its address operand is a place of code: a jump, a branch, a call */
    BL_FLOW_ENDS = 2,     /* what follows is reached by other ways only */
    BL_FLOW_CALLS = 4,    /* leaves behind where to come back to: what follows it */
    BL_FLOW_RETURNS = 8,  /* goes back to there */
    BL_FLOW_REPEATS = 16, /* a block instruction: it may be executed again and again */
};

/* Where bits of an operand go: bits of it from bit from on, into a unit at bit shift. */
typedef struct bl_field {
    uint8_t operand; /* its place in the form */
    uint8_t unit, shift, bits, from;
} bl_field;

/* One line of the opcode table. A unit is what one address holds: a byte, or a word. */
typedef struct bl_form {
    bl_text written; /* as the sheet has it: "LDA zp,X" */
    uint16_t mnemonic;
    uint8_t operands;                  /* in the order in which they are written */
    uint8_t operand[BL_FORM_OPERANDS]; /* index of their kinds */
    uint8_t slots;                     /* those that are expressions or lists */
    uint8_t slot[BL_FORM_SLOTS];       /* the place of each in operand */
    uint8_t size;                      /* units */
    uint16_t value[BL_FORM_UNITS];
    uint16_t fixed[BL_FORM_UNITS]; /* the bits of value that count */
    uint8_t fields;
    bl_field field[BL_FORM_FIELDS];
    uint8_t cycles;  /* without extras */
    uint32_t extras; /* bit n: extra n may add cycles */
    bool alias;      /* a second spelling; never chosen by a disassembler */
    uint8_t pattern_length;
    uint8_t pattern[BL_SHAPE_MAX]; /* operand text without blanks, names in capitals; 0x80 + n
                                       stands for operand n */
    bool loose;                    /* some bits do not count */
    bool rivals;                   /* another form may be tried before it */
    uint8_t flow;                  /* BL_FLOW_... */
    bl_text leads; /* formulas (formula.h) of further places that it may go to, with commas between;
                      _0, _1, ... are its operands. Length 0: there are none */
    uint32_t line;
    uint16_t row; /* of the table in the sheet: a mode or a suffix makes many forms of one */
} bl_form;

/* A form with its names chosen: what the assembler looks for. */
typedef struct bl_spelling {
    uint16_t form;
    uint16_t next;                    /* to be tried when a value does not fit, or BL_NO_FORM */
    uint8_t size;                     /* of the form */
    uint8_t chosen[BL_FORM_OPERANDS]; /* of a ONEOF operand: which */
} bl_spelling;

/* A row of the sheet as it is written there: of the opcode table, of an addressing mode, of a
 * suffix. */
typedef struct bl_row {
    bl_text name; /* of the mode or suffix */
    bool alias;
    bl_text written, code, cycles;
    bl_text place; /* of a mode: the formula of the address that it means, or length 0 */
} bl_row;

/* Something that can add cycles, for example "p": a page is crossed. */
typedef struct bl_extra {
    bl_text name;
    uint8_t cycles; /* 0: it depends */
    bl_text meaning;
} bl_extra;

/* A place that the CPU goes to by itself. */
typedef struct bl_vector {
    bl_text name;
    uint32_t address;
    bool needed; /* the CPU cannot start without it */
    bool runs;   /* it runs what stands there; otherwise an address stands there */
} bl_vector;

/* A register, as people and debuggers name it. A pair is two others side by side. */
typedef struct bl_sheet_register {
    bl_text name;
    uint8_t bits;
    bl_text high, low; /* of a pair: the two; else of length 0 */
    bl_text flags; /* a letter for each bit, the highest first, '-' for one without; or length 0 */
} bl_sheet_register;

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
/* The name of the sheet that this one takes (index 0), of the one which that takes (1), and so on;
 * .at NULL beyond the last. */
bl_text bl_sheet_taken(const bl_sheet *sheet, size_t index);
bl_text bl_sheet_title(const bl_sheet *sheet);
bl_order bl_sheet_order(const bl_sheet *sheet);
unsigned bl_sheet_address_bits(const bl_sheet *sheet);
/* Half clocks from an address to the moment its data are taken, and how many nanoseconds of that
 * the CPU needs itself. False: the sheet does not tell. */
bool bl_sheet_access(const bl_sheet *sheet, uint16_t *halves, uint16_t *own_ns);
unsigned bl_sheet_address_units(const bl_sheet *sheet); /* that a vector takes */
unsigned bl_sheet_unit_bits(const bl_sheet *sheet);     /* 4 to 16 */
unsigned bl_sheet_unit_bytes(const bl_sheet *sheet);    /* that an image keeps for a unit: 1 or 2 */
unsigned bl_sheet_word_bits(const bl_sheet *sheet);     /* of .word */
bool bl_sheet_has_cycles(const bl_sheet *sheet);        /* or are they unknown? */
bl_radix bl_sheet_radix(const bl_sheet *sheet);         /* that its codes are written in */

size_t bl_sheet_forms(const bl_sheet *sheet);
const bl_form *bl_sheet_form(const bl_sheet *sheet, size_t index); /* NULL beyond the last */
size_t bl_sheet_operands(const bl_sheet *sheet);
const bl_operand *bl_sheet_operand(const bl_sheet *sheet, size_t index);
size_t bl_sheet_vectors(const bl_sheet *sheet);
const bl_vector *bl_sheet_vector(const bl_sheet *sheet, size_t index);
/* In the order that people expect; pairs stand behind the others. */
size_t bl_sheet_registers(const bl_sheet *sheet);
const bl_sheet_register *bl_sheet_register_at(const bl_sheet *sheet, size_t index);
/* By name, in either case; NULL: there is none. */
const bl_sheet_register *bl_sheet_register_named(const bl_sheet *sheet, bl_text name);
/* The stack pointer's name; length 0: the sheet does not tell. */
bl_text bl_sheet_stack(const bl_sheet *sheet);
size_t bl_sheet_extras(const bl_sheet *sheet);
const bl_extra *bl_sheet_extra(const bl_sheet *sheet, size_t index);
size_t bl_sheet_rows(const bl_sheet *sheet); /* some may have been replaced: .written empty */
const bl_row *bl_sheet_row(const bl_sheet *sheet, size_t index);
size_t bl_sheet_modes(const bl_sheet *sheet);
const bl_row *bl_sheet_mode(const bl_sheet *sheet, size_t index);
size_t bl_sheet_suffixes(const bl_sheet *sheet);
const bl_row *bl_sheet_suffix(const bl_sheet *sheet, size_t index);
size_t bl_sheet_mnemonics(const bl_sheet *sheet);
bl_text bl_sheet_mnemonic(const bl_sheet *sheet, size_t index);

/* The index of a mnemonic in either case, or -1. Constant time. */
int32_t bl_sheet_find_mnemonic(const bl_sheet *sheet, bl_text name);
/* Is this a reserved name (a register), in either case? */
bool bl_sheet_is_reserved(const bl_sheet *sheet, bl_text name);
/* Do its patterns use this punctuation? */
bool bl_sheet_uses(const bl_sheet *sheet, char c);
const bl_choice *bl_sheet_choice(const bl_sheet *sheet, size_t index);
/* The choice of a ONEOF or ANYOF operand that has this name in either case, or NULL. */
const bl_choice *bl_sheet_choice_named(const bl_sheet *sheet, const bl_operand *operand,
                                       bl_text name);

size_t bl_sheet_spellings(const bl_sheet *sheet);
const bl_spelling *bl_sheet_spelling(const bl_sheet *sheet, size_t index);
/* What to try first for a mnemonic with this shape, or NULL: the shortest. Constant time. */
const bl_spelling *bl_sheet_find(const bl_sheet *sheet, uint16_t mnemonic, const uint8_t *shape,
                                 size_t length);

/* Is it an address, in whatever way it is stored? */
bool bl_operand_is_address(const bl_operand *operand);
/* Does the value fit the operand of an instruction at start that ends at end? direct: what the
 * direct page register holds. */
bool bl_operand_fits(const bl_operand *operand, int64_t value, uint32_t start, uint32_t end,
                     uint32_t direct);
/* How far a RELATIVE operand's target is from the end of its instruction. Addresses wrap, so that
 * it is never more than half of them. */
int64_t bl_operand_distance(const bl_operand *operand, int64_t value, uint32_t end);
/* The bits to store for a value that fits. */
uint32_t bl_operand_stored(const bl_operand *operand, int64_t value, uint32_t end);

/* An instruction that was recognised. */
typedef struct bl_decoded {
    const bl_form *form;
    uint32_t value[BL_FORM_OPERANDS]; /* the bits stored for each operand */
    bool exact; /* all bits that do not count are as the assembler would leave them */
} bl_decoded;

/* Recognises the instruction that begins with units[0]. False: none does, or it needs more than
 * count units. */
bool bl_sheet_decode(const bl_sheet *sheet, const uint16_t *units, size_t count, bl_decoded *out);
/* The value behind stored bits: a target for a relative operand, an address for one in a page. */
int64_t bl_operand_value(const bl_operand *operand, uint32_t stored, uint32_t start, uint32_t end,
                         uint32_t direct);

/* The bits stored for each operand in the units of an instruction, as bl_sheet_decode gives them,
 * written as text for the assembler: "LDA $12,X". label: the name of an address, or length 0 to
 * have its number; may be NULL. Returns the length; text that does not fit is cut. */
typedef struct bl_label_source {
    void *context;
    bl_text (*label)(void *context, uint32_t address);
    /* A name shortly before an address that has none itself, and how far; may be NULL. */
    bl_text (*near)(void *context, uint32_t address, uint32_t *beyond);
} bl_label_source;
size_t bl_instruction_text(const bl_sheet *sheet, const bl_decoded *d, uint32_t address,
                           uint32_t direct, const bl_label_source *labels, char *buffer,
                           size_t capacity);
/* Would the assembler make these units of that text? It takes the shortest form, and leaves bits
 * that do not count at 0. */
bool bl_instruction_is_usual(const bl_sheet *sheet, const bl_decoded *d, uint32_t address,
                             uint32_t direct);
/* A number as the assembler reads it, in the sheet's radix, with at least so many bits' digits. */
size_t bl_value_text(char *buffer, size_t capacity, int64_t value, unsigned bits, bl_radix radix);

#ifdef __cplusplus
}
#endif
#endif
