/* assembler.h - the assembler's data, shared by its files.
 *
 * A source is read once. Each line becomes statements; each operand becomes a ref, which is a
 * constant, a symbol plus a constant, or a run of postfix operations. Layout walks the statements
 * until addresses stand still; emission walks them once more.
 *
 * Text that a macro or a repeat makes is a further source, kept with the place that asked for it.
 */
#ifndef BOOTLACE_SRC_ASM_ASSEMBLER_H
#define BOOTLACE_SRC_ASM_ASSEMBLER_H

#include "base/core.h"
#include "base/operation.h"
#include "bootlace/asm.h"
#include "bootlace/number.h"

enum {
    MAX_INCLUDES = 128, /* how deep includes and expansions may nest */
    MAX_BLOCKS = 64,    /* how deep .if, .group and the like may nest in all */
    MAX_PARAMETERS = 16,
    MAX_STACK = 64,   /* values an expression may hold at once */
    MAX_NESTING = 96, /* parentheses and prefixes in an expression */
    MAX_PASSES = 64,
};

#define MAX_FILL      0x1000000L /* bytes that one .fill may make */
#define MAX_IMAGE     0x1000000L /* bytes in all */
#define MAX_EXPANSION 0x800000L  /* bytes of text that macros and repeats may make in all */
#define MAX_INCLUDED  0x1000000L /* bytes of text that includes may bring in all */
#define MAX_LOADS     10000      /* sources that may be asked for in all */

typedef struct source {
    char *name;
    const char *text; /* ends with a line feed */
    char *copy;       /* of the text, where it was not lent or lacked the line feed */
    void *handle;     /* to give back what was lent */
    size_t length;    /* with the line feed */
    size_t size;      /* as it was given */
    uint32_t file;    /* in the image */
    /* an expansion of a macro or a repeat: text that stands for lines of another source */
    bool expanded;
    bool included;           /* by .include, last from here: */
    uint32_t base;           /* line number of its first row */
    uint32_t period;         /* rows of one turn of a repeat; 0 for a macro */
    uint32_t from, from_row; /* the source and row that asked for it */
    bl_text macro;           /* its name; empty for a repeat */
} source;

/* A macro: its parameters and the rows of its body, still text. */
typedef struct macro {
    uint32_t source, row; /* of the first row of the body */
    const char *body;
    size_t length;
    bl_text name;
    bl_text parameters[MAX_PARAMETERS];
    bl_text defaults[MAX_PARAMETERS]; /* .at NULL: none */
    uint8_t count;
    bool rest; /* the last one takes all that is left */
} macro;

typedef enum block_kind {
    BLOCK_IF,
    BLOCK_MACRO,
    BLOCK_REPEAT,
    BLOCK_RUNAT,
    BLOCK_GROUP,
} block_kind;

/* One block that is open. */
typedef struct block {
    uint8_t kind;
    bool dead;     /* it began in lines that do not count */
    bool taking;   /* the lines inside count */
    bool taken;    /* BLOCK_IF: a branch has been taken */
    bool has_else; /* BLOCK_IF */
    uint32_t row, at;
    uint32_t group, above; /* BLOCK_GROUP: what was in force around it */
} block;

typedef enum ref_kind { REF_CONST, REF_SYMBOL, REF_EXPR, REF_BYTES } ref_kind;

/* There is one for each operand: kept small. */
typedef struct ref {
    uint8_t kind;
    uint8_t part;    /* REF_SYMBOL: OP_LO, OP_HI or OP_BANK of it; 0: all */
    uint16_t length; /* of its text in the source, for marks */
    uint32_t at;     /* where its text begins in the source */
    union {
        int64_t value; /* REF_CONST */
        struct {
            uint32_t symbol; /* REF_SYMBOL */
            int32_t addend;
        };
        struct {
            uint32_t first; /* REF_EXPR: of its operations; REF_BYTES: of its bytes in the pool */
            uint32_t count;
        };
    };
} ref;

typedef enum op_code {
    OP_PUSH,
    OP_SYMBOL,
    OP_HERE,
    OP_SIZE,   /* of a group; the last that only puts a value on the stack */
    OP_NEGATE, /* from here to OP_EITHER as in base/operation.h */
    OP_NOT,
    OP_INVERT,
    OP_LO,
    OP_HI,
    OP_BANK,
    OP_MULTIPLY,
    OP_DIVIDE,
    OP_MODULO,
    OP_ADD,
    OP_SUBTRACT,
    OP_SHIFT_LEFT,
    OP_SHIFT_RIGHT,
    OP_LESS,
    OP_LESS_EQUAL,
    OP_GREATER,
    OP_GREATER_EQUAL,
    OP_EQUAL,
    OP_UNEQUAL,
    OP_AND,
    OP_XOR,
    OP_OR,
    OP_BOTH,
    OP_EITHER,
    OP_CHOOSE,
    OP_SINE, /* of three values */
    OP_PICK, /* of so many values as symbol says, the first being the index */
} op_code;

typedef struct op {
    uint8_t code;
    uint32_t symbol;
    int64_t value;
} op;

typedef enum symbol_kind {
    SYMBOL_UNDEFINED,
    SYMBOL_LABEL,
    SYMBOL_CONST,
    SYMBOL_FIXED, /* from the bench, the command or .use */
    SYMBOL_LEVEL, /* it only leads to other names: a group, a board, .use */
    SYMBOL_MACRO, /* under MACROS */
    SYMBOL_ALIAS, /* a name that an outer group defines */
} symbol_kind;

#define MACROS 0xFFFFFFFFu /* what macro names have as parent */

typedef struct symbol {
    const char *name; /* its own level only */
    int64_t value;
    uint32_t length; /* of the name */
    uint32_t parent;
    uint32_t hash;
    uint32_t next; /* in the hash chain */
    union {
        uint32_t ref;   /* SYMBOL_CONST: its expression */
        uint32_t macro; /* SYMBOL_MACRO: its index */
        uint32_t alias; /* SYMBOL_ALIAS: the symbol that it stands for */
        uint32_t begin; /* a group, in a walk: where it begins */
    };
    uint32_t at; /* of the definition, or of the first use */
    uint32_t line;
    uint32_t epoch; /* SYMBOL_CONST: the pass that evaluated it last */
    uint32_t source;
    union {
        uint32_t statement; /* defined: by this one */
        uint32_t use; /* SYMBOL_UNDEFINED: how long its first use is, 0 when it was not used */
    };
    uint8_t kind;
    uint8_t state; /* SYMBOL_CONST: value_state of the pass that evaluated it last */
    bool known;
    bool sized;    /* a group: value is its size; as a value it has none */
    bool hidden;   /* an expansion's: what is below it is not shown */
    bool is_group; /* made by .group: names are looked for around it */
    bool open;     /* being evaluated: meeting it again is a cycle */
    bool told;     /* an error about it was reported */
} symbol;

typedef enum statement_kind {
    ST_LABEL,
    ST_CONST,
    ST_INSTRUCTION,
    ST_BYTE,
    ST_WORD,
    ST_TRIPLE,
    ST_LONG, /* in order of width */
    ST_CHECKSUM,
    ST_FILL,
    ST_RESERVE,
    ST_ALIGN,
    ST_ORG,
    ST_PLACE,
    ST_ENTRY,
    ST_VECTOR,
    ST_ASSERT,
    ST_INCLUDE, /* and an expansion */
    ST_END_SOURCE,
    ST_GROUP,
    ST_END_GROUP,
    ST_RUNAT,
    ST_END_RUNAT,
    ST_DIRECT,
} statement_kind;

/* There is one or two for each line: kept small. */
typedef struct statement {
    uint8_t kind;
    bool fixed;         /* its form cannot change any more */
    uint8_t sheet;      /* which of the machine's it is read by */
    uint16_t form;      /* of an instruction: its spelling; grows in layout */
    uint16_t ref_count; /* longer lists are made of several */
    uint16_t column;    /* where it begins in its line */
    uint32_t source;
    uint32_t line; /* row in its source; asm_line_of tells the line to show */
    union {
        uint32_t refs;   /* first of its refs */
        uint32_t symbol; /* ST_LABEL, ST_CONST, ST_GROUP, ST_END_GROUP */
        uint32_t area;   /* ST_PLACE */
        uint32_t page;   /* ST_DIRECT: what the direct page register holds */
        uint32_t inner;  /* ST_INCLUDE: the source that begins here */
    };
    uint32_t address; /* where it runs */
    uint32_t stored;  /* where its bytes are kept */
    uint32_t size;    /* bytes */
} statement;

_Static_assert(sizeof(statement) <= 40 && sizeof(ref) <= 16, "there are millions: kept small");

typedef struct area_state {
    int64_t next;
    bool told;
} area_state;

/* The CPU that the program is for: one sheet, or those of its modes, of which one counts now. */
enum { ASM_SHEETS = 8 };
typedef struct asm_machine {
    const bl_sheet *sheet;
    const bl_sheet *sheets[ASM_SHEETS];
    bl_sheet *own_sheets[ASM_SHEETS]; /* of .cpu, to be closed; or NULL */
    uint8_t sheet_count, current;
    const bl_form *forms; /* of the sheet, in a row */
    const bl_spelling *spellings;
    const bl_operand *operands;
    unsigned unit;  /* bits */
    bool wide, big; /* a unit takes two bytes of the image; high parts come first */
    bool has_lists; /* some instructions take lists of names */
    bl_radix radix; /* of messages and listings */
} asm_machine;

/* What was read, in order. */
typedef struct asm_code {
    source *sources;
    size_t source_count, source_capacity;
    statement *statements;
    size_t statement_count, statement_capacity;
    ref *refs;
    size_t ref_count, ref_capacity;
    op *ops;
    size_t op_count, op_capacity;
    uint8_t *pool; /* bytes of texts */
    size_t pool_count, pool_capacity;
} asm_code;

/* All that has a name. */
typedef struct asm_names {
    symbol *symbols; /* 0 is never used */
    size_t symbol_count, symbol_capacity;
    uint32_t *chains; /* of the hash table */
    size_t chain_count;
    char **kept; /* text that symbols' names point into */
    size_t kept_count, kept_capacity;
    macro *macros;
    size_t macro_count, macro_capacity;
    uint8_t (*alphabets)[256];
    bl_text *alphabet_names;
    size_t alphabet_count, alphabet_capacity, alphabet_name_capacity;
} asm_names;

/* The place being read, and what is in force there. */
typedef struct asm_cursor {
    const char *p;
    const char *line_start;
    uint32_t source;
    uint32_t line;  /* row of that source */
    uint32_t above; /* label that locals belong to */
    uint32_t group; /* that names are defined in; 0: none */
    bool parsing;
    bool in_runat;
    int32_t alphabet; /* in force, plus one; 0: characters as they are */
    block blocks[MAX_BLOCKS];
    unsigned block_count;
    unsigned block_base; /* those below were opened by another source */
    unsigned includes;
    uint32_t include_stack[MAX_INCLUDES];
    unsigned nesting; /* parentheses and prefixes around this place of an expression */
    unsigned stack;   /* values that the expression holds here */
    /* so far, against the limits */
    unsigned expansions; /* also for the names of their groups */
    size_t expanded;     /* bytes of text that they made */
    size_t included;     /* the same, by includes */
    unsigned loads;      /* sources asked for */
} asm_cursor;

/* Where everything lies, walk by walk. */
typedef struct asm_places {
    area_state *areas;
    uint32_t direct; /* what the direct page register is said to hold here */
    uint32_t epoch;  /* of this walk, for constants */
    void *pending;   /* constants that are being worked out: value.c */
    size_t pending_capacity;
    bool changed; /* in this walk */
    bool first_walk;
    bool unsettled;     /* a place depended on what was not known yet */
    bool pages_count;   /* whether an address is in a page decides about forms */
    bool pages_waiting; /* it was not asked yet, but will be */
    bool overrun;       /* an area, or the addresses, came to their end */
} asm_places;

struct bl_program {
    bl_memory memory;
    bl_asm_options options;
    bl_source_provider provider;
    bl_image *image;
    asm_machine machine;
    asm_code code;
    asm_names names;
    asm_cursor cursor;
    asm_places layout;
    bl_status fatal; /* out of memory, or too many errors: stop everything */
    unsigned errors;
    uint64_t emitted; /* bytes */
};

/* The result of an evaluation. */
typedef enum value_state { VALUE_KNOWN, VALUE_UNKNOWN, VALUE_BAD } value_state;

/* asm.c */
bool asm_push_statement(bl_program *a, statement_kind kind, const char *at, uint32_t refs,
                        uint16_t count);
uint32_t asm_push_ref(bl_program *a, ref r);
/* Room for so many refs behind the last. */
bool asm_room_for_refs(bl_program *a, size_t count);
/* Reads a further source. What it is for ("source", "symbol file") is for messages. */
bool asm_load(bl_program *a, bl_text name, const char *what, bl_text mark, uint32_t *index);
/* Takes text as a further source, copied. */
bool asm_add_source(bl_program *a, bl_text name, bl_text text, uint32_t *index);
void asm_parse_source(bl_program *a, uint32_t index);
/* The name of a symbol, its own level only. */
static inline bl_text asm_own_name(const symbol *s)
{
    return (bl_text){s->name, (size_t)s->length};
}
/* The line number to show for a row of a source. */
uint32_t asm_line_of(const bl_program *a, uint32_t index, uint32_t row);
/* A copy of text that lives as long as the program; .at NULL without memory. */
bl_text asm_keep(bl_program *a, bl_text text);

/* Messages. The mark is a piece of the line being read. */
void asm_error(bl_program *a, bl_text mark, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
void asm_warn(bl_program *a, bl_text mark, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
/* The same anywhere: offset and length in a source. */
void asm_report(bl_program *a, bl_severity severity, uint32_t source, uint32_t line, uint32_t at,
                size_t length, const char *hint, const char *message);
void asm_error_at(bl_program *a, const statement *s, const ref *r, const char *hint,
                  const char *message, ...) BL_PRINTF(5, 6);

void asm_warn_at(bl_program *a, const statement *s, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);

/* How long a mark is, as far as 16 bits can tell. */
static inline uint16_t asm_span(const char *start, const char *end)
{
    size_t n = (size_t)(end - start);
    return n > 0xFFFFu ? (uint16_t)0xFFFFu : (uint16_t)n;
}

/* parse.c */
extern const uint8_t asm_class[256];
enum { C_LETTER = 1, C_DIGIT = 2, C_BLANK = 4, C_HEX = 8, C_END = 16 };
static inline bool asm_is(char c, unsigned classes)
{
    return (asm_class[(unsigned char)c] & classes) != 0;
}
static inline const char *asm_skip(const char *p)
{
    while (asm_is(*p, C_BLANK))
        p++;
    return p;
}
/* A name or dotted name at p; length 0 when there is none. */
static inline bl_text asm_word(const char *p)
{
    const char *q = p;
    if (asm_is(*q, C_LETTER))
        while (asm_is(*q, C_LETTER | C_DIGIT) || (*q == '.' && asm_is(q[1], C_LETTER)))
            q++;
    return (bl_text){p, (size_t)(q - p)};
}
void asm_parse_lines(bl_program *a);
/* Evaluates an expression that must be known while the source is read. False after an error. */
bool asm_known_value(bl_program *a, int64_t *value);

/* alphabet.c */
void asm_embed(bl_program *a, bl_text word);
void asm_alphabet(bl_program *a, bl_text word);

/* block.c */
const char *asm_block_word(block_kind kind);
/* Is it the word, without its dot, that begins a block? */
bool asm_begins_block(bl_text word, block_kind *kind);
/* The directive that stands in a line behind its labels, without the dot; length 0: none. */
bl_text asm_directive_of_line(const char *line);
/* Are we in lines that do not count? */
bool asm_skipping(const bl_program *a);
/* Takes notice of a line that does not count. */
void asm_dead_line(bl_program *a);
/* NULL after an error. Valid until the next is opened. */
block *asm_open_block(bl_program *a, block_kind kind, bl_text word);
/* The last one opened in this source, or NULL. */
block *asm_innermost_block(bl_program *a);
void asm_end(bl_program *a, bl_text word);
/* Complains about blocks that were opened since there were count of them, and drops them. */
void asm_close_blocks(bl_program *a, unsigned count);

/* condition.c */
void asm_if(bl_program *a, bl_text word);
void asm_elseif(bl_program *a, bl_text word);
void asm_else(bl_program *a, bl_text word);

/* macro.c */
void asm_macro(bl_program *a, bl_text word);
void asm_repeat(bl_program *a, bl_text word);
/* Is this the name of a macro? Its index, or -1. */
int32_t asm_find_macro(const bl_program *a, bl_text word);
void asm_expand(bl_program *a, bl_text word, uint32_t index);

/* group.c */
void asm_group(bl_program *a, bl_text word);
/* After reading: names that an outer group defines become aliases. */
void asm_resolve_groups(bl_program *a);
/* The symbol of this name in the groups around, defined so far; 0 when there is none. */
uint32_t asm_visible(const bl_program *a, uint32_t index);

/* message.c */
void asm_note(bl_program *a, bl_text word);
void asm_warn_directive(bl_program *a, bl_text word);
void asm_fail(bl_program *a, bl_text word);
/* Complains when something is left on the line. */
void asm_end_of_line(bl_program *a);

/* instruction.c */
void asm_instruction(bl_program *a, bl_text word, uint16_t mnemonic);
void asm_unknown_word(bl_program *a, bl_text word);

/* directive.c, data.c */
void asm_directive(bl_program *a);
void asm_data(bl_program *a, statement_kind kind, bl_text word);
void asm_text(bl_program *a, bl_text word);
/* A comma, then more. False (with the end checked) when the list ends. */
bool asm_comma(bl_program *a);
/* A quoted text: the bytes between the quotes. False after an error. */
bool asm_quoted(bl_program *a, bl_text *inside);

/* expr.c */
/* Reads an expression at a->cursor.p into r. False after an error. */
bool asm_expression(bl_program *a, ref *r);
bool asm_expression_ref(bl_program *a, uint32_t *index);
/* value.c */
value_state asm_value(bl_program *a, const ref *r, const statement *s, int64_t *value);
value_state asm_symbol_value(bl_program *a, uint32_t index, int64_t *value);

/* explain.c */
/* Is there a name in the value that only leads to other names? Then message and hint say so. */
bool asm_explain_level(bl_program *a, const ref *r, char *message, char *hint, size_t capacity);
/* Says why a value has none, unless that was told already (undefined names are). */
void asm_explain(bl_program *a, const statement *s, const ref *r, value_state state);
/* An error that no source should be able to cause. */
void asm_internal(bl_program *a, const statement *s, const char *what);

/* names.c */
/* Finds or makes the symbol for a name as written, relative to where we are; 0 after an error. */
uint32_t asm_name(bl_program *a, bl_text word);
/* Makes room for so many names ahead of time; only a hint. */
void asm_reserve_names(bl_program *a, size_t count);
uint32_t asm_name_under(bl_program *a, uint32_t parent, bl_text name);
/* Is the name, as written here, defined by now? */
bool asm_is_defined(const bl_program *a, bl_text word);
/* The symbol when it exists, 0 otherwise. */
uint32_t asm_find_under(const bl_program *a, uint32_t parent, bl_text name);
bool asm_define(bl_program *a, bl_text word, symbol_kind kind, uint32_t *index);
/* Defines a dotted name with a fixed value. */
bool asm_define_fixed(bl_program *a, uint32_t parent, bl_text name, int64_t value);
size_t asm_full_name(const bl_program *a, uint32_t index, char *buffer, size_t capacity);
/* Is it one of the program's own, to be shown? */
bool asm_is_listed(const bl_program *a, uint32_t index);
/* The nearest defined name, as a hint; NULL when none is near. */
const char *asm_suggest(bl_program *a, uint32_t index, char *buffer, size_t capacity);
void asm_report_undefined(bl_program *a);

/* layout.c, emit.c */
/* The program is for this sheet and no other. */
void asm_use_sheet(bl_program *a, const bl_sheet *sheet);
/* From here on one of its sheets counts. */
void asm_turn_to_sheet(bl_program *a, unsigned index);
/* The one that a statement is read by. */
static inline void asm_turn_to(bl_program *a, const statement *s)
{
    if (s->sheet != a->machine.current) asm_turn_to_sheet(a, s->sheet);
}
void asm_layout(bl_program *a);
void asm_emit(bl_program *a);
/* How many units a data directive makes for one value. */
unsigned asm_width(const bl_program *a, statement_kind kind);
unsigned asm_bits(const bl_program *a, statement_kind kind);

/* ---- checksum.c ---- */
void asm_checksum(bl_program *a, bl_text word);
/* After all other bytes. */
void asm_emit_checksums(bl_program *a);
/* emit.c: puts bytes of a statement into the image, telling what goes wrong. */
void asm_put(bl_program *a, const statement *s, uint32_t address, const uint8_t *bytes,
             size_t count);

#endif
