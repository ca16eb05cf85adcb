/* instruction.c - operands: their text becomes a shape, the shape finds the forms of the sheet. */
#include "asm.h"

typedef struct operand_text {
    uint8_t shape[BL_SHAPE_MOST + 4];
    size_t length;
    ref *refs; /* behind the last, BL_FORM_SLOTS of them */
    uint8_t slots;
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

static bool add_literal(bl_program *a, operand_text *o, const char *at, size_t length)
{
    if (o->length + length > BL_SHAPE_MOST) {
        asm_error(a, (bl_text){at, length}, NULL, "no instruction has so many operands");
        return false;
    }
    for (size_t i = 0; i < length; i++)
        o->shape[o->length++] = (uint8_t)bl_upper(at[i]);
    a->p = at + length;
    return true;
}

static bool add_expression(bl_program *a, operand_text *o)
{
    if (o->slots == BL_FORM_SLOTS || o->length == BL_SHAPE_MOST) {
        asm_error(a, (bl_text){a->p, 1}, NULL, "no instruction has so many operands");
        return false;
    }
    if (!asm_expression(a, &o->refs[o->slots])) return false;
    o->slots++;
    o->shape[o->length++] = BL_SLOT;
    return true;
}

/* Reads all operands of a line. False after an error. */
static bool read_operands(bl_program *a, operand_text *o)
{
    unsigned depth = 0;
    bool fresh = true; /* an operand begins here */
    for (;;) {
        a->p = asm_skip(a->p);
        const char *p = a->p;
        if (asm_is(*p, C_END)) return true;
        bl_text word = {p, 0};
        if (asm_is(*p, C_LETTER)) word = asm_word(p);
        bool open = *p == '(' && fresh && is_indirection(p);
        if (*p == ',' || *p == '#' || open || (*p == ')' && depth > 0)) {
            if (open) depth++;
            if (*p == ')') depth--;
            fresh = *p == ',';
            if (o->length == BL_SHAPE_MOST) return add_literal(a, o, p, 1);
            o->shape[o->length++] = (uint8_t)*p;
            a->p = p + 1;
        } else if (word.length > 0 && word.length < 5 && bl_sheet_is_reserved(a->sheet, word)) {
            fresh = false;
            if (!add_literal(a, o, p, word.length)) return false;
        } else {
            fresh = false;
            if (o->length > 0 && o->shape[o->length - 1] == BL_SLOT) {
                asm_end_of_line(a);
                return false;
            }
            if (!add_expression(a, o)) return false;
        }
    }
}

/* Lists the forms that a mnemonic has, as the sheet writes them. */
static void list_forms(const bl_program *a, uint16_t mnemonic, char *buffer, size_t room)
{
    size_t n = bl_format(buffer, room, "it has:");
    bool first = true;
    for (size_t i = 0; i < bl_sheet_forms(a->sheet) && n < room; i++) {
        const bl_form *f = bl_sheet_form(a->sheet, i);
        if (f->mnemonic != mnemonic) continue;
        n += bl_format(buffer + n, room - n, "%s %.*s", first ? "" : " |", (int)f->written.length,
                       f->written.at);
        first = false;
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
    bl_text name = bl_sheet_mnemonic(a->sheet, mnemonic);
    bl_text mark = {start, (size_t)(end - start)};
    if (mark.length == 0)
        asm_error(a, mark, hint, "%.*s needs an operand", (int)name.length, name.at);
    else
        asm_error(a, mark, hint, "%.*s has no such operand", (int)name.length, name.at);
}

void asm_instruction(bl_program *a, bl_text word, uint16_t mnemonic)
{
    operand_text o;
    const char *start = asm_skip(a->p);
    if (!asm_room_for_refs(a, BL_FORM_SLOTS)) return;
    o.refs = a->refs + a->ref_count;
    o.length = 0;
    o.slots = 0;
    if (!read_operands(a, &o)) return;
    const bl_form *form = bl_sheet_find(a->sheet, mnemonic, o.shape, o.length);
    if (form == NULL) {
        no_such_form(a, mnemonic, start);
        return;
    }
    uint32_t first = (uint32_t)a->ref_count;
    a->ref_count += o.slots;
    if (!asm_push_statement(a, ST_INSTRUCTION, word.at, first, o.slots)) return;
    statement *s = &a->statements[a->statement_count - 1];
    s->form = (uint16_t)(form - a->forms);
    s->size = form->size;
    s->fixed = form->next == BL_NO_FORM;
}

void asm_unknown_word(bl_program *a, bl_text word)
{
    char hint[96];
    unsigned best = bl_name_tolerance(word.length) + 1;
    bl_text found = {NULL, 0};
    for (size_t i = 0; i < bl_sheet_mnemonics(a->sheet); i++) {
        bl_text name = bl_sheet_mnemonic(a->sheet, i);
        unsigned d = bl_name_distance(word, name, best);
        if (d < best) {
            best = d;
            found = name;
        }
    }
    bl_text cpu = bl_sheet_name(a->sheet);
    if (found.at != NULL)
        bl_format(hint, sizeof hint, "did you mean %.*s? (a label here needs a colon)",
                  (int)found.length, found.at);
    else
        bl_format(hint, sizeof hint, "a label that is not in column one needs a colon");
    asm_error(a, word, hint, "the %.*s has no instruction '%.*s'", (int)cpu.length, cpu.at,
              (int)(word.length & 63), word.at);
}
