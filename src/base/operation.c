/* operation.c - C's operators on 64-bit integers, and mod. */
#include "operation.h"

#include "core.h"

/* Two characters before one: '<<' is not '<' twice. */
bl_infix bl_infix_at(const char *p)
{
    switch (*p) {
    case '*': return (bl_infix){BL_MULTIPLY, 10, 1};
    case '/': return (bl_infix){BL_DIVIDE, 10, 1};
    case 'm':
        if (p[1] == 'o' && p[2] == 'd' && !bl_is_letter(p[3]) && !bl_is_digit(p[3]) && p[3] != '_')
            return (bl_infix){BL_MODULO, 10, 3};
        break;
    case '+': return (bl_infix){BL_ADD, 9, 1};
    case '-': return (bl_infix){BL_SUBTRACT, 9, 1};
    case '<':
        if (p[1] == '<') return (bl_infix){BL_SHIFT_LEFT, 8, 2};
        if (p[1] == '=') return (bl_infix){BL_LESS_EQUAL, 7, 2};
        return (bl_infix){BL_LESS, 7, 1};
    case '>':
        if (p[1] == '>') return (bl_infix){BL_SHIFT_RIGHT, 8, 2};
        if (p[1] == '=') return (bl_infix){BL_GREATER_EQUAL, 7, 2};
        return (bl_infix){BL_GREATER, 7, 1};
    case '=':
        if (p[1] == '=') return (bl_infix){BL_EQUAL, 6, 2};
        break;
    case '!':
        if (p[1] == '=') return (bl_infix){BL_UNEQUAL, 6, 2};
        break;
    case '&': return p[1] == '&' ? (bl_infix){BL_BOTH, 2, 2} : (bl_infix){BL_AND, 5, 1};
    case '^': return (bl_infix){BL_XOR, 4, 1};
    case '|': return p[1] == '|' ? (bl_infix){BL_EITHER, 1, 2} : (bl_infix){BL_OR, 3, 1};
    default: break;
    }
    return (bl_infix){0, 0, 0};
}

static int64_t shift(int64_t x, int64_t by, bool left)
{
    if (by < 0 || by > 63) return left || x >= 0 ? 0 : -1;
    if (left) return (int64_t)((uint64_t)x << by);
    return x < 0 ? (int64_t) ~(~(uint64_t)x >> by) : x >> by;
}

int64_t bl_operation_of_one(bl_operation operation, int64_t x)
{
    BL_ASSERT(operation < BL_MULTIPLY);
    switch (operation) {
    case BL_NEGATE: return (int64_t)(0 - (uint64_t)x);
    case BL_NOT: return x == 0;
    case BL_INVERT: return ~x;
    case BL_LO: return x & 0xFF;
    case BL_HI: return (x >> 8) & 0xFF;
    default: return (x >> 16) & 0xFF; /* bank */
    }
}

/* Wraps where C would leave it open: the sums are those of unsigned numbers. */
bool bl_operation_of_two(bl_operation operation, int64_t x, int64_t y, int64_t *z)
{
    uint64_t u = (uint64_t)x, v = (uint64_t)y;
    switch (operation) {
    case BL_MULTIPLY: *z = (int64_t)(u * v); break;
    case BL_DIVIDE:
        if (y == 0) return false;
        *z = y == -1 ? (int64_t)(0 - u) : x / y;
        break;
    case BL_MODULO:
        if (y == 0) return false;
        *z = y == -1 ? 0 : x % y;
        break;
    case BL_ADD: *z = (int64_t)(u + v); break;
    case BL_SUBTRACT: *z = (int64_t)(u - v); break;
    case BL_SHIFT_LEFT: *z = shift(x, y, true); break;
    case BL_SHIFT_RIGHT: *z = shift(x, y, false); break;
    case BL_LESS: *z = x < y; break;
    case BL_LESS_EQUAL: *z = x <= y; break;
    case BL_GREATER: *z = x > y; break;
    case BL_GREATER_EQUAL: *z = x >= y; break;
    case BL_EQUAL: *z = x == y; break;
    case BL_UNEQUAL: *z = x != y; break;
    case BL_AND: *z = (int64_t)(u & v); break;
    case BL_XOR: *z = (int64_t)(u ^ v); break;
    case BL_OR: *z = (int64_t)(u | v); break;
    case BL_BOTH: *z = x != 0 && y != 0; break;
    case BL_EITHER: *z = x != 0 || y != 0; break;
    default: BL_ASSERT(operation >= BL_MULTIPLY && operation <= BL_EITHER); return false;
    }
    return true;
}
