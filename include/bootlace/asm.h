/* asm.h - the assembler: source text to image, symbols and listing. The language is
 * docs/language.md.
 *
 * FILES  the caller lends sources through bl_source_provider; they stay lent until the program is
 * closed, for messages and the listing.
 */
#ifndef BOOTLACE_ASM_H
#define BOOTLACE_ASM_H

#include "diag.h"
#include "image.h"
#include "number.h"
#include "sheet.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_area_kind { BL_AREA_RAM, BL_AREA_ROM, BL_AREA_IO } bl_area_kind;

/* A named range of the machine's addresses. */
typedef struct bl_area {
    const char *name;
    bl_range range;
    bl_area_kind kind;
    uint8_t fill; /* what its unused bytes hold in ROM */
    const bl_range
        *holes; /* parts of the range that are not of it: a device in the middle of RAM */
    size_t hole_count;
    bool keeps; /* RAM that keeps what it has without power: it has a battery */
} bl_area;

/* Is all of inner in the area, and nothing of it in a hole? */
static inline bool bl_area_holds(const bl_area *area, bl_range inner)
{
    if (!bl_range_holds(area->range, inner)) return false;
    for (size_t i = 0; i < area->hole_count; i++)
        if (bl_range_meet(area->holes[i], inner)) return false;
    return true;
}

/* Its bytes, without the holes. */
static inline uint64_t bl_area_size(const bl_area *area)
{
    uint64_t size = area->range.count;
    for (size_t i = 0; i < area->hole_count; i++)
        size -= area->holes[i].count;
    return size;
}

/* A name that exists before the source begins; dots separate its levels ("board.lamps.data"). */
typedef struct bl_definition {
    const char *name;
    int64_t value;
} bl_definition;

/* Gives the text of a source. name is as written (or the main name), from the name of the source
 * that asks (NULL for the main one). *found is how messages shall call it, and what cycles of
 * includes are detected by; both texts stay valid until release is called with *handle,
 * when the program is closed or earlier. Text that does not end with a line feed is copied.
 * Returns BL_E_NOT_FOUND or BL_E_IO when it cannot; release may be NULL. */
typedef struct bl_source_provider {
    void *context;
    bl_status (*open)(void *context, bl_text name, const char *from, bl_text *text, bl_text *found,
                      void **handle);
    void (*release)(void *context, void *handle);
} bl_source_provider;

typedef struct bl_asm_options {
    bl_memory memory;
    const bl_sheet *sheet; /* must outlive the program */
    const bl_area *areas;  /* for .place and area.NAME; may be NULL */
    size_t area_count;
    const bl_definition *definitions; /* may be NULL */
    size_t definition_count;
    const char *version; /* the text board.version in .text and .byte; may be NULL, else it must
                            stay valid as long as the program */
    const bl_source_provider *provider; /* for the main source and .include, .use; it is copied,
                                           its context must outlive the program */
    const bl_sink *sink;
    unsigned max_errors; /* stop after so many; 0 stands for 100 */
    bl_radix radix;      /* of addresses in messages; 0: as the sheet has it */
    bool strict;         /* warnings are errors */
} bl_asm_options;

/* What came out: image, symbols, and the statements for a listing. */
typedef struct bl_program bl_program;

/* Assembles the source called name. All errors go to the sink. BL_E_SYNTAX when there were any,
 * BL_E_NOT_FOUND when the main source does not exist (reported), BL_E_MEMORY.
 * On failure *program is NULL. Close with bl_program_close (NULL is fine). */
bl_status bl_assemble(const bl_asm_options *options, const char *name, bl_program **program);

/* The same for one source in memory, which has no other sources to include unless options say so.
 */
bl_status bl_assemble_text(const bl_asm_options *options, const char *name, bl_text text,
                           bl_program **program);
void bl_program_close(bl_program *program);

/* Bytes of the image that an address of the CPU stands for: 1, or 2 where addresses count words. */
unsigned bl_program_unit_bytes(const bl_program *program);

/* The image, owned by the program. Every byte has an origin: file and line. */
bl_image *bl_program_image(bl_program *program);

typedef enum bl_symbol_kind { BL_SYMBOL_LABEL, BL_SYMBOL_VALUE } bl_symbol_kind;

typedef struct bl_symbol {
    char name[192]; /* whole, with dots */
    bl_symbol_kind kind;
    int64_t value;
    const char *file; /* where it is defined */
    uint32_t line;
} bl_symbol;

/* The program's own symbols in order of definition (not those of the bench or of .use). */
size_t bl_program_symbols(const bl_program *program);
bl_status bl_program_symbol(const bl_program *program, size_t index, bl_symbol *symbol);
/* The value of a symbol by its whole name. BL_E_NOT_FOUND. */
bl_status bl_program_value(const bl_program *program, bl_text name, int64_t *value);
/* The label at or nearest below address (of the CPU), among those whose statement's bytes are in
 * the image near it: false when there is none. */
bool bl_program_label_near(const bl_program *program, uint32_t address, bl_symbol *symbol);

/* What an address of the CPU is to whoever wrote the program. */
typedef struct bl_place {
    const char *file; /* the source that it came from; NULL: unknown */
    uint32_t line;
    uint32_t stored; /* where its byte is kept: another address in .runat */
    bool filled;     /* the program has a byte there; false: it is reserved */
    bool code;       /* of an instruction, which begins at first */
    bl_text cpu;     /* the name of the sheet that it was read by; lives as long as the program */
    uint32_t first;  /* address of the first byte that its statement made */
    char label[192]; /* the nearest at or above it; empty: there is none */
    uint32_t beyond; /* how far behind the label, in addresses */
} bl_place;

/* False: the program has nothing there. */
bool bl_program_place(const bl_program *program, uint32_t address, bl_place *place);
/* How many bytes it keeps free for itself (.reserve): what is there changes while it runs. */
uint64_t bl_program_reserved(const bl_program *program);
/* The addresses that a source line has made something for, in the order of the source. file: its
 * whole name, or what stands behind a slash. Returns how many there are, also when capacity is
 * less.
 */
size_t bl_program_line_places(const bl_program *program, bl_text file, uint32_t line,
                              uint32_t *addresses, size_t capacity);
/* The text of a source line, without its end; it lives as long as the program. False: there is no
 * such line. */
bool bl_program_line_text(const bl_program *program, bl_text file, uint32_t line, bl_text *text);

/* The listing (docs/listing.md) as text. expand: the lines that macros and repeats made are shown;
 * otherwise only their bytes. */
bl_status bl_listing_write(bl_program *program, bl_radix radix, bool expand,
                           const bl_writer *writer);

/* The source map (docs/symbols.md): which source line each run of bytes came from, in rising order.
 */
bl_status bl_map_write(bl_program *program, const bl_writer *writer);

/* The symbol file (docs/symbols.md). */
bl_status bl_symbols_write(const bl_program *program, const bl_writer *writer);

/* Whether a name can be one: letters, digits and _, no digit first; levels apart by one dot. */
bool bl_symbol_name_is_valid(bl_text name);

/* One line of a symbol file; false at the end. Malformed text is reported and ends it with
 * *status BL_E_SYNTAX. rest is what is still to be read, and line the number of the last line. */
typedef struct bl_symbol_line {
    bl_symbol_kind kind;
    bl_text name;
    int64_t value;
} bl_symbol_line;
bool bl_symbols_read(const char *file, bl_text *rest, uint32_t *line, bl_symbol_line *symbol,
                     const bl_sink *sink, bl_status *status);

#ifdef __cplusplus
}
#endif
#endif
