/* expand.c - the rows of a sheet: a mode or a suffix makes further forms of one, as text that is
 * read like a line. */
#include "bootlace/formula.h"
#include "sheet_read.h"

enum { MAX_MODES = 3 };         /* in one form */
#define MAX_EXPANSIONS 200000ul /* in a sheet */

/* The first word like this in text from at on; length 0 when there is none. */
static bl_text find_word(bl_text text, size_t at, bl_text word)
{
    while (at < text.length) {
        bl_text w = read_word_at(text, at);
        if (w.length > 0 && bl_text_same(w, word)) return w;
        at += w.length > 0 ? w.length : 1;
    }
    return (bl_text){NULL, 0};
}

/* The text with a piece of it replaced, kept. */
static bl_text replaced(reader *r, bl_text text, bl_text piece, bl_text with)
{
    size_t before = (size_t)(piece.at - text.at), length = text.length - piece.length + with.length;
    char *kept = sheet_keep(r->sheet, length + 1);
    if (kept == NULL) {
        r->status = BL_E_MEMORY;
        return (bl_text){"", 0};
    }
    memcpy(kept, text.at, before);
    if (with.length > 0) memcpy(kept + before, with.at, with.length);
    memcpy(kept + before + with.length, piece.at + piece.length,
           text.length - before - piece.length);
    return (bl_text){kept, length};
}

/* Both cycle columns together. */
static bl_text cycles_together(reader *r, bl_text a, bl_text b)
{
    r->lines.rest = b;
    uint32_t more = read_number(r, 255);
    bl_text extras = bl_text_trim(r->lines.rest);
    r->lines.rest = a;
    uint32_t sum = read_number(r, 255) + more;
    bl_text rest = bl_text_trim(r->lines.rest);
    char text[64];
    size_t n = bl_format(text, sizeof text, "%lu %.*s %.*s", (unsigned long)sum,
                         (int)(rest.length & 63), rest.at, (int)(extras.length & 63), extras.at);
    if (n >= sizeof text) read_fault(r, a, NULL, "too many extras");
    bl_text none = {text, 0};
    return r->status == BL_OK ? replaced(r, none, none, (bl_text){text, n}) : none;
}

/* The mode that a word of the pattern names, or NULL. */
static const bl_row *mode_in(const bl_sheet *s, bl_text written, bl_text *word)
{
    size_t at = 0;
    while (at < written.length && !bl_is_blank(written.at[at]))
        at++; /* the mnemonic is not one */
    for (size_t i = 0; i < s->mode_count; i++) {
        if (i > 0 && bl_text_same(s->modes[i].name, s->modes[i - 1].name)) continue;
        *word = find_word(written, at, s->modes[i].name);
        if (word->length > 0) return &s->modes[i];
    }
    return NULL;
}

static void add_suffixes(reader *r, bl_text written, bl_text code, bl_text cycles,
                         form_purpose purpose);

/* A formula in which a mode's name stands for the address that this row of it means. */
static bl_text placed_formula(reader *r, bl_text formula, const bl_row *m)
{
    bl_text word = find_word(formula, 0, m->name);
    if (word.length == 0) return formula;
    if (m->place.length == 0)
        read_fault(r, word, "mode NAME WRITTEN | CODE | CYCLES | PLACE",
                   "the rows of this mode do not say which address they mean");
    if (r->status != BL_OK) return formula;
    char text[BL_FORMULA_LONGEST];
    size_t n = bl_format(text, sizeof text, "(%.*s)", (int)(m->place.length & 0xFF), m->place.at);
    if (n >= sizeof text) read_fault(r, m->place, NULL, "the formula is too long");
    if (r->status == BL_OK) return replaced(r, formula, word, (bl_text){text, n});
    return formula;
}

/* A mode's name in a line stands for each of its rows: the line is written out for them, text for
 * text. */
static void define_spellings(reader *r, bl_text written, bl_text code, bl_text cycles,
                             form_purpose purpose, unsigned depth)
{
    bl_text word, place;
    bl_sheet *s = r->sheet;
    const bl_row *mode = mode_in(s, written, &word);
    if (++s->expansions > MAX_EXPANSIONS) {
        read_fault(r, written, NULL, "modes and suffixes make more than %lu forms of this sheet",
                   MAX_EXPANSIONS);
        return;
    }
    if (mode == NULL || depth == MAX_MODES) {
        read_one_form(r, written, code, cycles, purpose);
        if (r->status == BL_OK) add_suffixes(r, written, code, cycles, purpose);
        return;
    }
    bl_text name = mode->name;
    for (size_t i = 0; i < s->mode_count && r->status == BL_OK; i++) {
        const bl_row *m = &s->modes[i];
        if (!bl_text_same(m->name, name)) continue;
        bl_text all = replaced(r, written, word, m->written), codes = code, sum = cycles;
        if (purpose < FORM_REMOVE) {
            place = find_word(code, 0, name);
            if (place.length == 0) {
                read_fault(r, code, NULL, "mode '%.*s' is not in the code column",
                           (int)(name.length & 63), name.at);
                return;
            }
            codes = replaced(r, code, place, m->code);
            sum = cycles_together(r, cycles, m->cycles);
        }
        if (purpose == FORM_LEADS) codes = placed_formula(r, code, m);
        if (r->status == BL_OK) define_spellings(r, all, codes, sum, purpose, depth + 1);
    }
}

/* One change of a suffix, NAME=OTHER, in all places of a text. */
static bl_text changed(reader *r, bl_text text, bl_text name, bl_text other)
{
    size_t at = 0;
    for (;;) {
        bl_text found = find_word(text, at, name);
        if (found.length == 0 || r->status != BL_OK) return text;
        at = (size_t)(found.at - text.at) + other.length;
        text = replaced(r, text, found, other);
    }
}

/* What a suffix changes is applied to the written line, the code and the cycles alike. */
static void add_suffix(reader *r, const bl_row *x, bl_text written, bl_text code, bl_text cycles,
                       form_purpose purpose)
{
    bl_text changes = x->written, dotted = x->name;
    r->lines.rest = written;
    bl_text mnemonic = read_word(r), end = {mnemonic.at + mnemonic.length, 0};
    for (;;) {
        r->lines.rest = changes;
        bl_text w = read_word(r);
        changes = r->lines.rest;
        size_t n = 0;
        while (n < w.length && w.at[n] != '=')
            n++;
        if (n == w.length) break;
        bl_text name = {w.at, n}, other = {w.at + n + 1, w.length - n - 1};
        size_t head = (size_t)(end.at - written.at);
        written = changed(r, written, name, other);
        end = (bl_text){written.at + head, 0};
        code = changed(r, code, name, other);
    }
    written = replaced(r, written, end, dotted);
    if (purpose >= FORM_REMOVE) {
        if (r->status == BL_OK) read_one_form(r, written, code, cycles, purpose);
        return;
    }
    bl_text none = {code.at, 0}, blank = {" ", 1};
    code = replaced(r, code, none, blank);
    code = replaced(r, code, (bl_text){code.at, 0}, x->code);
    bl_text sum = cycles_together(r, cycles, (bl_text){"1", 1});
    if (purpose == FORM_DEFINE && x->alias) purpose = FORM_ALSO;
    if (r->status == BL_OK) read_one_form(r, written, code, sum, purpose);
}

static void add_suffixes(reader *r, bl_text written, bl_text code, bl_text cycles,
                         form_purpose purpose)
{
    for (size_t i = 0; i < r->sheet->suffix_count && r->status == BL_OK; i++)
        add_suffix(r, &r->sheet->suffixes[i], written, code, cycles, purpose);
}

/* Forms between bars that exist already; formula: of those that lead somewhere. */
static void read_existing(reader *r, form_purpose purpose, bl_text formula)
{
    bl_text rest = r->lines.rest;
    do {
        r->lines.rest = rest;
        bl_text written = read_column(r);
        rest = r->lines.rest;
        if (written.length == 0)
            read_fault(r, written, "a form, or several between bars", "which form?");
        else
            define_spellings(r, written, formula, (bl_text){NULL, 0}, purpose, 0);
    } while (bl_text_trim(rest).length > 0 && r->status == BL_OK);
}

void read_forms(reader *r, form_purpose purpose)
{
    read_existing(r, purpose, (bl_text){NULL, 0});
}

/* The first '=' between blanks: patterns have none. */
void read_leads(reader *r)
{
    bl_text all = r->lines.rest;
    size_t n = 0;
    while (n + 2 < all.length && memcmp(all.at + n, " = ", 3) != 0)
        n++;
    bl_text formula = n + 2 < all.length
                          ? bl_text_trim((bl_text){all.at + n + 3, all.length - n - 3})
                          : (bl_text){NULL, 0};
    if (formula.length == 0) {
        read_fault(r, all, "leads WRITTEN | WRITTEN = FORMULA, FORMULA", "where does it lead?");
        return;
    }
    r->lines.rest = (bl_text){all.at, n};
    read_existing(r, FORM_LEADS, formula);
}

/* Three columns between bars; what they hold is read when modes and suffixes have been written
 * out. */
void read_form(reader *r, form_purpose purpose)
{
    bl_text written = read_column(r);
    bl_text code = read_column(r), cycles = read_column(r);
    if (r->sheet->row_count == SHEET_ROWS) {
        read_fault(r, written, NULL, "a sheet has at most %lu forms", SHEET_ROWS);
        return;
    }
    bl_row *rows = bl_grown(&r->sheet->memory, r->sheet->rows, &r->sheet->row_capacity,
                            r->sheet->row_count + 1, sizeof *rows);
    if (rows == NULL) {
        r->status = BL_E_MEMORY;
        return;
    }
    r->sheet->rows = rows;
    rows[r->sheet->row_count++] = (bl_row){.written = written, .code = code, .cycles = cycles};
    if (written.length == 0 || code.length == 0 || cycles.length == 0)
        read_fault(r, written, "form WRITTEN | CODE | CYCLES", "a form has three columns");
    else
        define_spellings(r, written, code, cycles, purpose, 0);
}

/* A mode is kept as text: it means something only where it is used. */
void read_mode(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_row m = {.name = read_name(r)};
    m.written = read_column(r);
    m.code = read_column(r);
    m.cycles = read_column(r);
    m.place = read_column(r);
    if (m.written.length == 0 || m.code.length == 0 || m.cycles.length == 0) {
        read_fault(r, m.name, "mode NAME WRITTEN | CODE | CYCLES",
                   "a mode has three columns, or four");
        return;
    }
    bl_row *modes =
        bl_grown(&s->memory, s->modes, &s->mode_capacity, s->mode_count + 1, sizeof *modes);
    if (modes == NULL) {
        r->status = BL_E_MEMORY;
        return;
    }
    s->modes = modes;
    modes[s->mode_count++] = m;
}

void read_suffix(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_row x = {.name = read_name(r)};
    bl_text also = read_column(r);
    x.alias = read_is(also, "also");
    x.code = read_column(r);
    x.written = read_column(r);
    if (x.name.length < 2 || x.name.at[0] != '.' || x.code.length == 0 ||
        (also.length > 0 && !x.alias)) {
        read_fault(r, x.name, "suffix .NAME [also] | CODE | OPERAND=OTHER ...",
                   "a suffix has a dot, a name and a code");
        return;
    }
    if (s->suffix_count == SHEET_SUFFIXES)
        read_fault(r, x.name, NULL, "more than %d suffixes", SHEET_SUFFIXES);
    else
        s->suffixes[s->suffix_count++] = x;
}
