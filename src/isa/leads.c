/* leads.c - where an instruction leads beside what its address operand says: formulas of a sheet.
 */
#include "bootlace/formula.h"
#include "sheet_read.h"

/* Which operand of the form a name means, or -1. */
static int32_t operand_called(const bl_sheet *s, const bl_form *f, const bl_text *others,
                              bl_text name)
{
    for (uint8_t i = 0; i < f->operands; i++) {
        bl_text own = s->operands[f->operand[i]].name;
        if (bl_text_same(others[i].length > 0 ? others[i] : own, name)) return i;
    }
    return -1;
}

/* Operands become _0, _1, ...: what a name means is settled here. Anything else is a register. */
static size_t write_formula(reader *r, const bl_form *f, const bl_text *others, bl_text formula,
                            char *text, size_t capacity)
{
    size_t n = 0;
    for (size_t i = 0; i < formula.length && n + 3 < capacity;) {
        bl_text word = read_word_at(formula, i);
        if (word.length == 0) word = (bl_text){formula.at + i, 1};
        int32_t operand = operand_called(r->sheet, f, others, word);
        i += word.length;
        if (operand >= 0) {
            text[n++] = '_';
            text[n++] = (char)('0' + operand);
            continue;
        }
        if (bl_is_letter(word.at[0]) && !bl_formula_is_function(word) &&
            bl_sheet_register_named(r->sheet, word) == NULL) {
            read_fault(r, word, "declare a register with 'registers NAME BITS'",
                       "'%.*s' is neither an operand of this form nor a register",
                       (int)(word.length & 63), word.at);
            return 0;
        }
        for (size_t k = 0; k < word.length && n + 3 < capacity; k++)
            text[n++] = word.at[k];
    }
    return n;
}

static bl_status any_value(void *context, bl_text name, int64_t *value)
{
    (void)context, (void)name;
    *value = 0;
    return BL_OK;
}

static bl_status any_memory(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    (void)context, (void)address;
    memset(bytes, 0, count);
    return BL_OK;
}

/* Each of them is worked out once, with any values: what is no formula is told now. */
static bool check_formulas(reader *r, bl_text where, bl_text formulas)
{
    static const bl_formula_source anything = {NULL, any_value, any_memory, false};
    while (formulas.length > 0) {
        bl_text one = bl_formula_next(&formulas);
        bl_formula_fault fault;
        int64_t value;
        if (bl_formula_evaluate(one, &anything, &value, &fault) != BL_E_SYNTAX) continue;
        read_fault(r, where, NULL, "%s", fault.why);
        return false;
    }
    return true;
}

void read_formula(reader *r, bl_form *f, const bl_text *others, bl_text formula)
{
    char text[BL_FORMULA_LONGEST];
    size_t n = write_formula(r, f, others, formula, text, sizeof text);
    if (r->status != BL_OK) return;
    if (n + 3 >= sizeof text) {
        read_fault(r, formula, NULL, "the formula is longer than %d characters",
                   BL_FORMULA_LONGEST - 4);
        return;
    }
    char *kept = sheet_keep(r->sheet, n + 1);
    if (kept == NULL) {
        r->status = BL_E_MEMORY;
        return;
    }
    memcpy(kept, text, n);
    kept[n] = '\0';
    if (check_formulas(r, formula, (bl_text){kept, n})) f->leads = (bl_text){kept, n};
}
