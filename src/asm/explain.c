/* explain.c - why something has no value. A name may only lead to other names; whatever else has
 * no value and was not told must not pass for one. */
#include "assembler.h"

/* The symbol that a name stands for, through the groups around it. */
static uint32_t resolved(const bl_program *a, uint32_t index)
{
    if (a->names.symbols[index].kind == SYMBOL_UNDEFINED && a->cursor.parsing) {
        uint32_t visible = asm_visible(a, index);
        return visible != 0 ? visible : index;
    }
    return a->names.symbols[index].kind == SYMBOL_ALIAS ? a->names.symbols[index].alias : index;
}

/* The names right below a level, as a hint: as many as fit on a line. */
static const char *names_below(const bl_program *a, uint32_t level, char *buffer, size_t capacity)
{
    enum { ENOUGH = 100 };
    char name[160];
    size_t n = 0, more = 0;
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        const symbol *s = &a->names.symbols[i];
        if (s->parent != level || s->kind == SYMBOL_UNDEFINED || s->kind == SYMBOL_ALIAS) continue;
        if (n > ENOUGH) {
            more++;
            continue;
        }
        asm_full_name(a, i, name, sizeof name);
        n += bl_format(n < capacity ? buffer + n : NULL, n < capacity ? capacity - n : 0, "%s%s",
                       n == 0 ? "there is " : ", ", name);
    }
    if (more > 0 && n < capacity)
        n += bl_format(buffer + n, capacity - n, " and %lu more", (unsigned long)more);
    if (a->names.symbols[level].is_group && n < capacity)
        bl_format(buffer + n, capacity - n, "%ssizeof() tells its size", n == 0 ? "" : "; ");
    else if (n == 0)
        bl_format(buffer, capacity, "nothing is defined below it");
    return buffer;
}

/* The first name of a value that only leads to other names, or that is asked for its size and is no
 * group; 0 when there is none. *size: which of the two. */
static uint32_t level_in(const bl_program *a, const ref *r, bool *size)
{
    *size = false;
    if (r->kind == REF_SYMBOL) {
        uint32_t index = resolved(a, r->symbol);
        return a->names.symbols[index].kind == SYMBOL_LEVEL ? index : 0;
    }
    for (uint32_t i = 0; r->kind == REF_EXPR && i < r->count; i++) {
        const op *o = &a->code.ops[(size_t)r->first + i];
        if (o->code != OP_SYMBOL && o->code != OP_SIZE) continue;
        uint32_t index = resolved(a, o->symbol);
        const symbol *s = &a->names.symbols[index];
        *size = o->code == OP_SIZE;
        if (*size ? !s->is_group && s->kind != SYMBOL_UNDEFINED : s->kind == SYMBOL_LEVEL)
            return index;
    }
    return 0;
}

bool asm_explain_level(bl_program *a, const ref *r, char *message, char *hint, size_t capacity)
{
    bool size;
    char name[160];
    uint32_t level = level_in(a, r, &size);
    if (level == 0) return false;
    asm_full_name(a, level, name, sizeof name);
    if (size) {
        bl_format(message, capacity, "sizeof() is of a group; '%s' is not one", name);
        bl_format(hint, capacity, ".group %s ... .end makes one", name);
        return true;
    }
    bl_format(message, capacity, "'%s' has no value: %s", name,
              a->names.symbols[level].is_group ? "it is a group of names"
                                               : "it only leads to other names");
    names_below(a, level, hint, capacity);
    return true;
}

void asm_explain(bl_program *a, const statement *s, const ref *r, value_state state)
{
    char message[320], hint[320];
    if (asm_explain_level(a, r, message, hint, sizeof hint))
        asm_error_at(a, s, r, hint, "%s", message);
    else if (state == VALUE_BAD)
        asm_error_at(a, s, r, NULL, "division by zero, or pick() beyond its list");
    else if (a->errors == 0)
        asm_internal(a, s, "an operand never got a value");
}

void asm_internal(bl_program *a, const statement *s, const char *what)
{
    asm_error_at(a, s, NULL, "this is a fault of the assembler: please report it with the source",
                 "internal error: %s", what);
}
