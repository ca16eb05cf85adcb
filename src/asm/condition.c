/* condition.c - .if .elseif .else .endif: which lines count. Decided while the source is read. */
#include "asm.h"

bool asm_skipping(const bl_program *a)
{
    return a->condition_count > 0 && !a->conditions[a->condition_count - 1].taking;
}

bool asm_is_condition(const char *p)
{
    static const char *const words[] = {"if", "elseif", "else", "endif"};
    bl_text word = asm_word(p + 1);
    for (size_t i = 0; i < 4; i++)
        if (bl_text_same_nocase(word, bl_text_of(words[i]))) return true;
    return false;
}

/* Evaluates the condition at a->p. After an error it counts as false. */
static bool holds(bl_program *a)
{
    int64_t value = 0;
    if (!asm_known_value(a, &value)) return false;
    asm_end_of_line(a);
    return value != 0;
}

void asm_if(bl_program *a, bl_text word)
{
    if (a->condition_count == MOST_CONDITIONS) {
        asm_error(a, word, NULL, ".if is nested more than %d deep", MOST_CONDITIONS);
        a->fatal = BL_E_SYNTAX;
        return;
    }
    bool dead = asm_skipping(a);
    condition c = {.row = a->line, .at = (uint32_t)(word.at - a->sources[a->source].text)};
    c.taking = !dead && holds(a);
    c.taken = dead || c.taking;
    a->conditions[a->condition_count++] = c;
}

/* The innermost condition, or NULL after an error. */
static condition *innermost(bl_program *a, bl_text word)
{
    if (a->condition_count > a->condition_base) return &a->conditions[a->condition_count - 1];
    asm_error(a, word, NULL, "no .if is open here");
    return NULL;
}

void asm_elseif(bl_program *a, bl_text word)
{
    condition *c = innermost(a, word);
    if (c == NULL) return;
    if (c->has_else) asm_error(a, word, NULL, ".elseif after .else");
    c->taking = !c->taken && holds(a);
    c->taken = c->taken || c->taking;
}

void asm_else(bl_program *a, bl_text word)
{
    condition *c = innermost(a, word);
    if (c == NULL) return;
    if (c->has_else) asm_error(a, word, NULL, "a second .else");
    asm_end_of_line(a);
    c->has_else = true;
    c->taking = !c->taken;
    c->taken = true;
}

void asm_endif(bl_program *a, bl_text word)
{
    if (innermost(a, word) == NULL) return;
    asm_end_of_line(a);
    a->condition_count--;
}

void asm_close_conditions(bl_program *a, unsigned count)
{
    while (a->condition_count > count) {
        const condition *c = &a->conditions[--a->condition_count];
        asm_report(a, BL_ERROR, a->source, c->row, c->at, 3, "end it with .endif",
                   "this .if is never ended");
    }
}
