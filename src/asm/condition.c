/* condition.c - .if .elseif .else: which lines count. Decided while the source is read. */
#include "assembler.h"

/* Evaluates the condition at a->cursor.p. After an error it counts as false. */
static bool holds(bl_program *a)
{
    int64_t value = 0;
    if (!asm_known_value(a, &value)) return false;
    asm_end_of_line(a);
    return value != 0;
}

void asm_if(bl_program *a, bl_text word)
{
    bool taking = holds(a);
    block *b = asm_open_block(a, BLOCK_IF, word);
    if (b == NULL) return;
    b->taking = taking;
    b->taken = taking;
}

/* The .if that is open here, or NULL after an error. */
static block *open_if(bl_program *a, bl_text word)
{
    char hint[80];
    block *b = asm_innermost_block(a);
    if (b != NULL && b->kind == BLOCK_IF) return b;
    if (b != NULL)
        bl_format(hint, sizeof hint, "what is open here is the .%s of line %lu",
                  asm_block_word((block_kind)b->kind),
                  (unsigned long)asm_line_of(a, a->cursor.source, b->row));
    asm_error(a, word, b != NULL ? hint : NULL, "no .if is open here");
    return NULL;
}

void asm_elseif(bl_program *a, bl_text word)
{
    block *b = open_if(a, word);
    if (b == NULL) return;
    if (b->has_else) asm_error(a, word, NULL, ".elseif after .else");
    b->taking = !b->taken && holds(a);
    b->taken = b->taken || b->taking;
}

void asm_else(bl_program *a, bl_text word)
{
    block *b = open_if(a, word);
    if (b == NULL) return;
    if (b->has_else) asm_error(a, word, NULL, "a second .else");
    asm_end_of_line(a);
    b->has_else = true;
    b->taking = !b->taken;
    b->taken = true;
}
