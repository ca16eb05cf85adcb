/* instruction.c - operands: their text becomes a shape, the shape finds the forms of the sheet. */
#include "assembler.h"

static void push_instruction(bl_program *a, bl_text word, const bl_spelling *w, uint32_t refs)
{
    if (!asm_push_statement(a, ST_INSTRUCTION, word.at, refs, a->machine.forms[w->form].slots))
        return;
    statement *s = &a->code.statements[a->code.statement_count - 1];
    s->form = (uint16_t)(w - a->machine.spellings);
    s->size = w->size;
    s->fixed = w->next == BL_NO_FORM;
}

typedef struct operand_text {
    uint8_t shape[BL_SHAPE_MAX + 4];
    size_t length;
    ref *refs; /* behind the last, BL_FORM_SLOTS of them */
    uint8_t slots;
    bool fresh; /* an operand begins here */
    bool named; /* a register's name was the last */
    unsigned depth;
} operand_text;

/* A parenthesis that closes right at the end of an operand means indirection; otherwise it groups.
 */
static bool is_indirection(const char *p)
{
    unsigned depth = 0;
    for (; !asm_is(*p, C_END); p++) {
        if (*p == '\'' && p[1] != '\n' && p[2] == '\'') p += 2;
        if (*p == '(') depth++;
        if (*p != ')' || --depth > 0) continue;
        p = asm_skip(p + 1);
        return asm_is(*p, C_END) || *p == ',';
    }
    return false;
}

static bool add_operand_literal(bl_program *a, operand_text *o, const char *at, size_t length)
{
    if (o->length + length > BL_SHAPE_MAX) {
        asm_error(a, (bl_text){at, length}, NULL, "no instruction has so many operands");
        return false;
    }
    for (size_t i = 0; i < length; i++)
        o->shape[o->length++] = (uint8_t)bl_upper(at[i]);
    a->cursor.p = at + length;
    return true;
}

static bool add_expression(bl_program *a, operand_text *o)
{
    if (o->slots == BL_FORM_SLOTS || o->length == BL_SHAPE_MAX) {
        asm_error(a, (bl_text){a->cursor.p, 1}, NULL, "no instruction has so many operands");
        return false;
    }
    if (!asm_expression(a, &o->refs[o->slots])) return false;
    o->slots++;
    o->shape[o->length++] = BL_SLOT;
    return true;
}

/* Signs that stand before a register: "--X". Their number; 0 when this is something else. */
static size_t signs_of_register(const bl_program *a, const char *p)
{
    size_t n = 0;
    while (p[n] == '-')
        n++;
    bl_text word = asm_word(asm_skip(p + n));
    return n > 0 && word.length > 0 && bl_sheet_is_reserved(a->machine.sheet, word) ? n : 0;
}

/* Punctuation that begins an operand in some sheets: "[", "@", "<". */
static bool is_prefix(const bl_program *a, char c)
{
    return c != '(' && c != '-' && c != '+' && c != '\'' && !asm_is(c, C_LETTER | C_DIGIT) &&
           bl_sheet_uses(a->machine.sheet, c);
}

/* What may follow a register: "X+", "X++", "AF'", and a sum, "IX+5" or "IX-5", whose sign is the
 * expression's when it is '-'. Returns how much of the text stands for itself; *sum: an expression
 * comes next. */
static size_t after_register(const bl_program *a, const char *p, bool *sum)
{
    *sum = false;
    if (*p == '\'' && bl_sheet_uses(a->machine.sheet, '\'')) return 1;
    if ((*p != '+' && *p != '-') || !bl_sheet_uses(a->machine.sheet, '+')) return 0;
    size_t n = 1;
    while (*p == '+' && p[n] == '+')
        n++;
    char next = *asm_skip(p + n);
    if (*p == '+' && (asm_is(next, C_END) || next == ',' || next == ')' || next == ']')) return n;
    *sum = true;
    return *p == '+';
}

/* Punctuation and registers at p. Returns false when an expression is there instead; *good: no
 * error. */
static bool read_literal(bl_program *a, operand_text *o, const char *p, bool *good)
{
    bool sum = false, open = *p == '(' && o->fresh && is_indirection(p);
    size_t length = 0;
    if (*p == ',' || *p == '#' || open || (*p == ')' && o->depth > 0)) {
        if (open) o->depth++;
        if (*p == ')') o->depth--;
        o->fresh = *p == ',';
        o->named = false;
        if (o->length == BL_SHAPE_MAX) {
            *good = add_operand_literal(a, o, p, 1);
            return true;
        }
        o->shape[o->length++] = (uint8_t)*p;
        a->cursor.p = p + 1;
        return true;
    }
    if (asm_is(*p, C_LETTER)) {
        bl_text word = asm_word(p);
        o->named = bl_sheet_is_reserved(a->machine.sheet, word);
        if (!o->named) return false;
        o->fresh = false;
        *good = add_operand_literal(a, o, p, word.length);
        return true;
    }
    if (asm_is(*p, C_DIGIT)) return false;
    if (o->named) {
        length = after_register(a, p, &sum);
        if (sum) *good = add_operand_literal(a, o, "+", 1);
        if (sum) a->cursor.p = p + length;
        o->named = false;
        if (sum) return false;
    } else if (o->fresh) {
        length = *p == '-' ? signs_of_register(a, p) : is_prefix(a, *p);
        o->fresh = *p == '[';
    }
    if (length == 0 && *p == ']' && bl_sheet_uses(a->machine.sheet, ']')) length = 1;
    if (length > 0) *good = add_operand_literal(a, o, p, length);
    return length > 0;
}

/* Reads all operands of a line. False after an error. */
static bool read_operands(bl_program *a, operand_text *o)
{
    for (;;) {
        bool good = true;
        a->cursor.p = asm_skip(a->cursor.p);
        if (asm_is(*a->cursor.p, C_END)) return true;
        if (read_literal(a, o, a->cursor.p, &good)) {
            if (!good) return false;
            continue;
        }
        o->fresh = false;
        if (o->length > 0 && o->shape[o->length - 1] == BL_SLOT) {
            asm_end_of_line(a);
            return false;
        }
        if (!good || !add_expression(a, o)) return false;
    }
}

/* ---- lists of names ---- */

/* The names joined, when all of them belong to the operand; -1 otherwise. */
static int64_t joined(const bl_program *a, const bl_operand *o, const char *p)
{
    int64_t codes = 0;
    for (;;) {
        bl_text word = asm_word(asm_skip(p));
        const bl_choice *c = bl_sheet_choice_named(a->machine.sheet, o, word);
        if (word.length == 0 || c == NULL) return -1;
        codes |= c->code;
        p = asm_skip(word.at + word.length);
        if (asm_is(*p, C_END)) return codes;
        if (*p == ',') p++;
    }
}

/* An instruction that takes a list of names: "PSHS A,B,X". False: it is something else. */
static bool list_instruction(bl_program *a, bl_text word, uint16_t mnemonic)
{
    static const uint8_t shape[] = {BL_LIST};
    const char *start = asm_skip(a->cursor.p), *end = start;
    const bl_spelling *w = bl_sheet_find(a->machine.sheet, mnemonic, shape, 1);
    while (w != NULL) {
        const bl_form *f = &a->machine.forms[w->form];
        int64_t codes =
            joined(a, bl_sheet_operand(a->machine.sheet, f->operand[f->slot[0]]), start);
        if (codes >= 0) {
            while (!asm_is(*end, C_END))
                end++;
            ref r = {.kind = REF_CONST, .value = codes, .length = asm_span(start, end)};
            r.at = (uint32_t)(start - a->code.sources[a->cursor.source].text);
            a->cursor.p = end;
            push_instruction(a, word, w, asm_push_ref(a, r));
            return true;
        }
        w = w->next == BL_NO_FORM ? NULL : &a->machine.spellings[w->next];
    }
    return false;
}

/* Lists the forms that a mnemonic has, as the sheet writes them: no more than fit on two lines. */
static void list_forms(const bl_program *a, uint16_t mnemonic, char *buffer, size_t capacity)
{
    enum { ENOUGH = 150 };
    size_t n = bl_format(buffer, capacity, "it has:"), row = SIZE_MAX;
    const char *before = " ";
    for (size_t i = 0; i < bl_sheet_forms(a->machine.sheet); i++) {
        const bl_form *f = bl_sheet_form(a->machine.sheet, i);
        if (f->mnemonic != mnemonic || f->row == row) continue;
        row = f->row; /* a mode makes many forms of one row */
        bl_text cpu = bl_sheet_name(a->machine.sheet), written = f->written;
        const bl_row *r = bl_sheet_row(a->machine.sheet, row);
        if (bl_sheet_suffixes(a->machine.sheet) == 0) written = r->written;
        if (n > ENOUGH) {
            bl_format(buffer + n, capacity - n, " and more: bootlace cpus %.*s", (int)cpu.length,
                      cpu.at);
            return;
        }
        n += bl_format(buffer + n, capacity - n, "%s%.*s", before, (int)written.length, written.at);
        before = " | ";
    }
}

static void no_such_form(bl_program *a, uint16_t mnemonic, const char *start)
{
    char hint[400];
    const char *end = start;
    while (!asm_is(*end, C_END))
        end++;
    while (end > start && asm_is(end[-1], C_BLANK))
        end--;
    list_forms(a, mnemonic, hint, sizeof hint);
    bl_text name = bl_sheet_mnemonic(a->machine.sheet, mnemonic);
    bl_text mark = {start, (size_t)(end - start)};
    if (mark.length == 0)
        asm_error(a, mark, hint, "%.*s needs an operand", (int)name.length, name.at);
    else
        asm_error(a, mark, hint, "%.*s has no such operand", (int)name.length, name.at);
}

/* Mnemonic and shape together find the spelling in one look-up; only when that fails is the reason
 * looked for. */
void asm_instruction(bl_program *a, bl_text word, uint16_t mnemonic)
{
    operand_text o;
    const char *start = asm_skip(a->cursor.p);
    if (a->machine.has_lists && list_instruction(a, word, mnemonic)) return;
    if (!asm_room_for_refs(a, BL_FORM_SLOTS)) return;
    o.refs = a->code.refs + a->code.ref_count;
    o.length = 0;
    o.slots = 0;
    o.depth = 0;
    o.fresh = true;
    o.named = false;
    if (!read_operands(a, &o)) return;
    const bl_spelling *w = bl_sheet_find(a->machine.sheet, mnemonic, o.shape, o.length);
    if (w == NULL) {
        no_such_form(a, mnemonic, start);
        return;
    }
    uint32_t first = (uint32_t)a->code.ref_count;
    a->code.ref_count += o.slots;
    push_instruction(a, word, w, first);
}

/* A label without its colon, a directive without its dot and a misspelt mnemonic look alike: the
 * nearest decides the hint. */
void asm_unknown_word(bl_program *a, bl_text word)
{
    char hint[96];
    /* Of three letters two are hardly a misspelling: MOV is not meant to be EOR. */
    unsigned best = word.length < 4 ? 2 : bl_name_tolerance(word.length) + 1;
    bl_text found = {NULL, 0};
    for (size_t i = 0; i < bl_sheet_mnemonics(a->machine.sheet); i++) {
        bl_text name = bl_sheet_mnemonic(a->machine.sheet, i);
        unsigned d = bl_name_distance(word, name, best);
        if (d < best) {
            best = d;
            found = name;
        }
    }
    bl_text cpu = bl_sheet_name(a->machine.sheet);
    if (bl_sheet_mnemonics(a->machine.sheet) == 0) {
        asm_error(a, word,
                  "a ROM of data has .byte, .word, .text and the like; labels need a colon",
                  "'%.*s' is no directive, and '.cpu %.*s' has no instructions",
                  (int)(word.length & 63), word.at, (int)cpu.length, cpu.at);
        return;
    }
    if (found.at != NULL)
        bl_format(hint, sizeof hint, "did you mean %.*s? (a label here needs a colon)",
                  (int)found.length, found.at);
    else
        bl_format(hint, sizeof hint, "a label that is not in column one needs a colon");
    asm_error(a, word, hint, "the %.*s has no instruction '%.*s'", (int)cpu.length, cpu.at,
              (int)(word.length & 63), word.at);
}
