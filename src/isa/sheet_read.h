/* sheet_read.h - reading a sheet: what read.c and form.c share. */
#ifndef BOOTLACE_SRC_ISA_READ_H
#define BOOTLACE_SRC_ISA_READ_H

#include "base/line_reader.h"
#include "sheet_parts.h"

typedef struct reader {
    bl_sheet *sheet;
    const bl_sheet_source *source;
    bl_text text;         /* the whole sheet */
    bl_line_reader lines; /* rest: without the comment */
    uint32_t inherited;   /* forms before this index came from the sheet that was taken */
    unsigned depth;
    bl_status status;
} reader;

/* Reports a fault at the text at, which lies in the line or stands for all of it. */
void read_fault(reader *r, bl_text at, const char *hint, const char *message, ...) BL_PRINTF(4, 5);
bl_text read_word(reader *r);
/* A word that becomes a name; one that is too long, or cannot be printed, is a fault. */
bl_text read_name(reader *r);
bl_text read_quoted(reader *r);
uint32_t read_number(reader *r, uint32_t limit);
/* Cuts the rest of the line at the next bar. */
bl_text read_column(reader *r);
/* What a word of so many digits in the sheet's radix means, or -1. */
int32_t read_code(const bl_sheet *s, bl_text word);
int32_t read_operand_named(const bl_sheet *s, bl_text name);
static inline bool read_is_name_char(char c)
{
    return bl_is_letter(c) || bl_is_digit(c);
}

/* The word of letters and digits at a place of a text; '$' may begin it. */
static inline bl_text read_word_at(bl_text text, size_t at)
{
    size_t n = at;
    if (n < text.length && text.at[n] == '$') n++;
    while (n < text.length && read_is_name_char(text.at[n]))
        n++;
    return (bl_text){text.at + at, n - at};
}

static inline bool read_is(bl_text word, const char *text)
{
    return bl_text_same(word, bl_text_of(text));
}

/* expand.c: lines that begin with form, also, remove, mode and suffix. */
typedef enum form_purpose {
    FORM_DEFINE,
    FORM_ALSO,
    FORM_REMOVE, /* from here on forms that exist already */
    FORM_JUMPS,
    FORM_ENDS,
    FORM_CALLS,
    FORM_RETURNS,
    FORM_REPEATS,
    FORM_LEADS /* what the code column is otherwise: a formula */
} form_purpose;
void read_form(reader *r, form_purpose purpose);
/* Several forms, between bars, that exist already. */
void read_forms(reader *r, form_purpose purpose);
/* The same, with "= FORMULA" behind them. */
void read_leads(reader *r);
void read_mode(reader *r);
void read_suffix(reader *r);
/* form.c: one form, of its three columns. */
void read_one_form(reader *r, bl_text written, bl_text code, bl_text cycles, form_purpose purpose);
/* registers.c: a line of what the CPU holds. False: the keyword is another. */
bool read_registers(reader *r, bl_text keyword);
/* leads.c: keeps a formula with the form, of which operands and others gives the names; others may
 * have names of length 0. */
void read_formula(reader *r, bl_form *f, const bl_text *others, bl_text formula);
/* Drops removed forms, and mnemonics that none is left of. */
bl_status read_compact(bl_sheet *s);

#endif
