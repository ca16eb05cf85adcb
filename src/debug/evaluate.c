/* evaluate.c - values: registers, pairs, symbols, memory; and formulas over them. */
#include "debug_parts.h"

/* ---- registers ---- */

bl_status debug_plain_register(const bl_debug *d, bl_text name, bl_register *out)
{
    bl_register list[BL_DEBUG_REGISTERS];
    size_t count = 0;
    if (d->target.registers == NULL) return BL_E_UNSUPPORTED;
    bl_status status = d->target.registers(d->target.context, list, BL_DEBUG_REGISTERS, &count);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < count && i < BL_DEBUG_REGISTERS; i++) {
        if (!bl_text_same_nocase(bl_text_of(list[i].name), name)) continue;
        *out = list[i];
        return BL_OK;
    }
    return BL_E_NOT_FOUND;
}

bl_status bl_debug_register(const bl_debug *d, bl_text name, uint32_t *value)
{
    bl_register high, low;
    bl_status status = debug_plain_register(d, name, &low);
    if (status == BL_OK) *value = low.value;
    if (status != BL_E_NOT_FOUND) return status;
    const bl_sheet_register *pair = bl_sheet_register_named(d->sheet, name);
    if (pair == NULL || pair->high.length == 0) return BL_E_NOT_FOUND;
    status = debug_plain_register(d, pair->high, &high);
    if (status == BL_OK) status = debug_plain_register(d, pair->low, &low);
    if (status == BL_OK) *value = high.value << low.bits | low.value;
    return status;
}

bl_status bl_debug_set_register(const bl_debug *d, bl_text name, uint32_t value)
{
    bl_register high, low;
    if (d->target.set_register == NULL) return BL_E_UNSUPPORTED;
    bl_status status = debug_plain_register(d, name, &low);
    if (status == BL_OK) return d->target.set_register(d->target.context, low.name, value);
    const bl_sheet_register *pair = bl_sheet_register_named(d->sheet, name);
    if (status != BL_E_NOT_FOUND || pair == NULL || pair->high.length == 0) return status;
    status = debug_plain_register(d, pair->high, &high);
    if (status == BL_OK) status = debug_plain_register(d, pair->low, &low);
    if (status != BL_OK) return status;
    if ((uint64_t)value >> (high.bits + low.bits) != 0) return BL_E_RANGE;
    status = d->target.set_register(d->target.context, high.name, value >> low.bits);
    if (status != BL_OK) return status;
    uint32_t part = value & (uint32_t)(((uint64_t)1 << low.bits) - 1);
    return d->target.set_register(d->target.context, low.name, part);
}

const bl_sheet *debug_sheet_now(const bl_debug *d)
{
    uint32_t pc;
    if (d->sheet_at == NULL || debug_program_counter(d, &pc) != BL_OK) return d->sheet;
    return d->sheet_at(d->context, pc);
}

bl_status debug_program_counter(const bl_debug *d, uint32_t *pc)
{
    bl_status status = bl_debug_register(d, (bl_text){"PC", 2}, pc);
    return status == BL_E_NOT_FOUND ? BL_E_UNSUPPORTED : status;
}

/* ---- operands ---- */

/* How many bytes the registers of a list take, the program counter's aside; a register that is two
 * others is none of its own. */
static bl_status list_bytes(const bl_sheet *sheet, const bl_operand *o, uint32_t chosen,
                            int64_t *bytes)
{
    *bytes = 0;
    for (size_t i = 0; i < o->count; i++) {
        const bl_choice *c = bl_sheet_choice(sheet, (size_t)o->first + i);
        const bl_sheet_register *r = bl_sheet_register_named(sheet, c->name);
        if ((c->code & (c->code - 1)) != 0 || (chosen & c->code) == 0) continue;
        if (bl_text_same_nocase(c->name, (bl_text){"PC", 2})) continue;
        if (r == NULL) return BL_E_UNSUPPORTED;
        *bytes += (r->bits + 7) / 8;
    }
    return BL_OK;
}

/* A number or an address stands for itself, a register for what it holds, a list of them for the
 * bytes it takes. */
static bl_status value_of_operand(const debug_source *s, unsigned index, int64_t *value)
{
    const bl_debug *d = s->debug;
    const bl_debug_instruction *in = s->instruction;
    if (in == NULL || index >= in->decoded.form->operands) return BL_E_NOT_FOUND;
    const bl_form *f = in->decoded.form;
    const bl_operand *o = bl_sheet_operand(in->sheet, f->operand[index]);
    uint32_t stored = in->decoded.value[index], held = 0, page = 0;
    if (o->kind == BL_OPERAND_ANYOF) return list_bytes(in->sheet, o, stored, value);
    if (o->kind == BL_OPERAND_ONEOF) {
        for (size_t i = 0; i < o->count; i++) {
            const bl_choice *c = bl_sheet_choice(in->sheet, (size_t)o->first + i);
            if (c->code != stored) continue;
            bl_status status = bl_debug_register(d, c->name, &held);
            *value = held;
            return status;
        }
        return BL_E_NOT_FOUND;
    }
    if (o->kind == BL_OPERAND_DIRECT) {
        bl_status status = bl_debug_register(d, (bl_text){"DP", 2}, &page);
        if (status != BL_OK) return status;
    }
    *value = bl_operand_value(o, stored, in->address, in->address + f->size, page);
    return BL_OK;
}

/* ---- names and memory of a formula ---- */

static bl_status program_name(const bl_debug *d, bl_text name, int64_t *value)
{
    for (size_t i = 0; i < d->program_count; i++)
        if (bl_program_value(d->programs[i], name, value) == BL_OK) return BL_OK;
    return d->name != NULL ? d->name(d->context, name, value) : BL_E_NOT_FOUND;
}

static bl_status value_of_name(void *context, bl_text name, int64_t *value)
{
    const debug_source *s = context;
    uint32_t held = 0;
    if (name.length == 2 && name.at[0] == '_' && s->instruction != NULL)
        return value_of_operand(s, (unsigned)(name.at[1] - '0'), value);
    bool here = bl_text_same(name, (bl_text){"here", 4});
    bl_status status =
        here ? debug_program_counter(s->debug, &held) : bl_debug_register(s->debug, name, &held);
    if (status == BL_OK) {
        *value = held;
        const bl_text stack = bl_sheet_stack(s->debug->sheet);
        if (bl_text_same_nocase(name, stack)) *value += s->stack_offset;
        return BL_OK;
    }
    /* A target without registers has names all the same. */
    if (status != BL_E_NOT_FOUND && status != BL_E_UNSUPPORTED) return status;
    return program_name(s->debug, name, value);
}

static bl_status bytes_of_memory(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    debug_source *s = context;
    s->last_read = debug_wrap(s->debug, address);
    s->last_count = count;
    memset(bytes, 0, count);
    if (s->zeros) return BL_OK;
    /* Where addresses count words, a byte has none. */
    if (s->debug->target.read == NULL || bl_sheet_unit_bytes(s->debug->sheet) != 1)
        return BL_E_UNSUPPORTED;
    if (debug_wrap(s->debug, (int64_t)address + (int64_t)count - 1) ==
        address + (uint32_t)(count - 1))
        return s->debug->target.read(s->debug->target.context, address, bytes, count);
    for (size_t i = 0; i < count; i++) {
        uint32_t at = debug_wrap(s->debug, (int64_t)address + (int64_t)i);
        bl_status status = s->debug->target.read(s->debug->target.context, at, bytes + i, 1);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

bl_formula_source debug_formula_source(debug_source *s)
{
    bool big = bl_sheet_order(s->debug->sheet) == BL_BIG;
    return (bl_formula_source){s, value_of_name, bytes_of_memory, big};
}

bl_status bl_debug_evaluate(const bl_debug *d, bl_text text, int64_t *value,
                            bl_formula_fault *fault)
{
    debug_source s = {.debug = d};
    bl_formula_source source = debug_formula_source(&s);
    return bl_formula_evaluate(text, &source, value, fault);
}
