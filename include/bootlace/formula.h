/* formula.h - an expression that is worked out at once, over numbers, names and memory: what a
 * person asks for ("word(table + 2 * X)"), the condition of a breakpoint, where an instruction of a
 * sheet leads to.
 *
 * The operators are those of the source language (docs/language.md), C's on 64-bit integers and
 * mod;
 * && || ? leave alone what they do not need. lo() hi() bank() take a byte of a value; byte(),
 * word() and triple() what memory holds at an address.
 */
#ifndef BOOTLACE_FORMULA_H
#define BOOTLACE_FORMULA_H

#include "number.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_FORMULA_LONGEST = 250 }; /* characters */

/* Where names and memory are looked up. Each function may be NULL: there are none. */
typedef struct bl_formula_source {
    void *context;
    /* The value of a name. BL_E_NOT_FOUND: it has none; any other failure ends the work. */
    bl_status (*name)(void *context, bl_text name, int64_t *value);
    /* count bytes of memory, at most 3. */
    bl_status (*memory)(void *context, uint32_t address, uint8_t *bytes, size_t count);
    bool big; /* the highest byte of a word comes first */
} bl_formula_source;

/* What is wrong with a formula, and where: a place in its text, for a mark. */
typedef struct bl_formula_fault {
    char why[100];
    size_t at, length;
} bl_formula_fault;

/* Works text out. BL_E_SYNTAX: it is no formula, or longer than BL_FORMULA_LONGEST; BL_E_NOT_FOUND:
 * a name has no value; BL_E_RANGE: a division by zero, or an address beyond 32 bits; or what the
 * source returned. *fault (may be NULL) tells each of them. */
bl_status bl_formula_evaluate(bl_text text, const bl_formula_source *source, int64_t *value,
                              bl_formula_fault *fault);

/* Is this word the name of a function in formulas? */
bool bl_formula_is_function(bl_text word);

/* Cuts the first of several formulas off: those with commas between them that are in no
 * parentheses.
 */
bl_text bl_formula_next(bl_text *list);

#ifdef __cplusplus
}
#endif
#endif
