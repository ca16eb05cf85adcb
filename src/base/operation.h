/* operation.h - the operators of expressions: what they are written like, how tight they bind, what
 * they make of 64-bit integers. The source language and formulas have the same ones.
 */
#ifndef BOOTLACE_SRC_OPERATION_H
#define BOOTLACE_SRC_OPERATION_H

#include "bootlace/base.h"

typedef enum bl_operation {
    BL_NEGATE, /* of one value */
    BL_NOT,
    BL_INVERT,
    BL_LO,
    BL_HI,
    BL_BANK,
    BL_MULTIPLY, /* of two */
    BL_DIVIDE,
    BL_MODULO,
    BL_ADD,
    BL_SUBTRACT,
    BL_SHIFT_LEFT,
    BL_SHIFT_RIGHT,
    BL_LESS,
    BL_LESS_EQUAL,
    BL_GREATER,
    BL_GREATER_EQUAL,
    BL_EQUAL,
    BL_UNEQUAL,
    BL_AND,
    BL_XOR,
    BL_OR,
    BL_BOTH,
    BL_EITHER,
} bl_operation;

/* An operator between two values. */
typedef struct bl_infix {
    uint8_t operation;
    uint8_t rank; /* binds tighter the higher; 0: there is none */
    uint8_t length;
} bl_infix;

/* The operator that text begins with; a zero or a line feed ends the text. */
bl_infix bl_infix_at(const char *text);

/* An operation of one value. */
int64_t bl_operation_of_one(bl_operation operation, int64_t x);
/* An operation of two. False: division by zero. Sums and products wrap. */
bool bl_operation_of_two(bl_operation operation, int64_t x, int64_t y, int64_t *z);

#endif
