/* operand.c - what fits an operand, and how a value is stored in it. */
#include "sheet_parts.h"

static uint32_t low_bits(unsigned bits)
{
    return bits >= 32 ? UINT32_MAX : ((uint32_t)1 << bits) - 1;
}

bool bl_operand_is_address(const bl_operand *o)
{
    return o->kind >= BL_OPERAND_ADDRESS && o->kind <= BL_OPERAND_RELATIVE;
}

int64_t bl_operand_distance(const bl_operand *o, int64_t value, uint32_t end)
{
    int64_t around = (int64_t)1 << o->space, far = (value - (int64_t)end) & (around - 1);
    return far >= around / 2 ? far - around : far;
}

bool bl_operand_fits(const bl_operand *o, int64_t value, uint32_t start, uint32_t end,
                     uint32_t direct)
{
    int64_t top = (int64_t)1 << o->bits;
    switch (o->kind) {
    case BL_OPERAND_VALUE: return value >= -(top / 2) && value < top;
    case BL_OPERAND_SIGNED: return value >= -(top / 2) && value < top / 2;
    case BL_OPERAND_RELATIVE: {
        int64_t far = bl_operand_distance(o, value, end);
        return value >= 0 && value >> o->space == 0 && far >= -(top / 2) && far < top / 2;
    }
    case BL_OPERAND_DIRECT: return value >= 0 && value >> o->bits == (int64_t)direct;
    case BL_OPERAND_PAGE: return value >= 0 && value >> o->bits == (int64_t)start >> o->bits;
    case BL_OPERAND_EXACT: return value == o->value;
    default: return value >= 0 && value < top;
    }
}

uint32_t bl_operand_stored(const bl_operand *o, int64_t value, uint32_t end)
{
    if (o->kind == BL_OPERAND_RELATIVE) value -= end;
    return (uint32_t)value & low_bits(o->bits);
}

int64_t bl_operand_value(const bl_operand *o, uint32_t stored, uint32_t start, uint32_t end,
                         uint32_t direct)
{
    int64_t value = stored, top = (int64_t)1 << o->bits;
    switch (o->kind) {
    case BL_OPERAND_SIGNED: return value >= top / 2 ? value - top : value;
    case BL_OPERAND_RELATIVE:
        return ((value >= top / 2 ? value - top : value) + (int64_t)end) & low_bits(o->space);
    case BL_OPERAND_DIRECT: return value | (int64_t)direct << o->bits;
    case BL_OPERAND_PAGE: return value | (int64_t)(start & ~low_bits(o->bits));
    case BL_OPERAND_EXACT: return o->value;
    default: return value;
    }
}

const bl_choice *bl_sheet_choice_named(const bl_sheet *s, const bl_operand *o, bl_text name)
{
    for (uint16_t i = 0; i < o->count; i++)
        if (bl_text_same_nocase(s->choices[o->first + i].name, name))
            return &s->choices[o->first + i];
    return NULL;
}
