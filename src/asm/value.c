/* value.c - what an expression is worth: known, not known yet, or never. */
#include "assembler.h"

/* The symbol that has the value of this one; 0: there is none so far. */
static uint32_t bearer(const bl_program *a, uint32_t index)
{
    if (a->names.symbols[index].kind == SYMBOL_UNDEFINED && a->cursor.parsing)
        index = asm_visible(a, index);
    return a->names.symbols[index].kind == SYMBOL_ALIAS ? a->names.symbols[index].alias : index;
}

/* A constant that is being worked out, and how much of its expression has been looked through. */
typedef struct pending {
    uint32_t symbol, next;
} pending;

/* The next constant of the expression that this pass has not worked out yet; 0: no more. */
static uint32_t next_needed(const bl_program *a, pending *p)
{
    const ref *r = &a->code.refs[a->names.symbols[p->symbol].ref];
    uint32_t count = r->kind == REF_SYMBOL ? 1 : r->kind == REF_EXPR ? r->count : 0;
    while (p->next < count) {
        uint32_t i = p->next++;
        const op *o = r->kind == REF_EXPR ? &a->code.ops[(size_t)r->first + i] : NULL;
        if (o != NULL && o->code != OP_SYMBOL) continue;
        uint32_t index = bearer(a, o != NULL ? o->symbol : r->symbol);
        const symbol *s = &a->names.symbols[index];
        if (index != 0 && s->kind == SYMBOL_CONST && s->epoch != a->layout.epoch && !s->open)
            return index;
    }
    return 0;
}

/* All that it needs has been worked out, or is on the way to itself. */
static void work_out(bl_program *a, uint32_t index)
{
    int64_t v = 0;
    symbol *s = &a->names.symbols[index];
    value_state state = asm_value(a, &a->code.refs[s->ref], &a->code.statements[s->statement], &v);
    s = &a->names.symbols[index];
    s->open = false;
    s->epoch = a->layout.epoch;
    s->state = (uint8_t)state;
    if (state != VALUE_KNOWN) return;
    if (!s->known || s->value != v) a->layout.changed = true;
    s->known = true;
    s->value = v;
}

/* Constants are worked out when needed, so that their order in the source does not matter: what one
 * needs comes before it, however long the chain is. */
static void settle_constant(bl_program *a, uint32_t index)
{
    size_t n = 0;
    for (uint32_t needed = index; needed != 0 || n > 0;) {
        if (needed != 0) {
            pending *p = bl_grown(&a->memory, a->layout.pending, &a->layout.pending_capacity, n + 1,
                                  sizeof *p);
            if (p == NULL) {
                a->fatal = BL_E_MEMORY;
                return;
            }
            a->layout.pending = p;
            p[n++] = (pending){needed, 0};
            a->names.symbols[needed].open = true;
        }
        pending *top = (pending *)a->layout.pending + n - 1;
        needed = next_needed(a, top);
        if (needed != 0) continue;
        work_out(a, top->symbol);
        n--;
    }
}

value_state asm_symbol_value(bl_program *a, uint32_t index, int64_t *value)
{
    BL_ASSERT(index < a->names.symbol_count);
    index = bearer(a, index);
    if (index == 0) return VALUE_UNKNOWN;
    if (a->names.symbols[index].kind == SYMBOL_CONST && !a->names.symbols[index].open) {
        if (a->names.symbols[index].epoch != a->layout.epoch) settle_constant(a, index);
        if (a->fatal != BL_OK) return VALUE_UNKNOWN;
        if (a->names.symbols[index].state != VALUE_KNOWN)
            return (value_state)a->names.symbols[index].state;
    }
    const symbol *s = &a->names.symbols[index];
    *value = s->value;
    return s->known ? VALUE_KNOWN : VALUE_UNKNOWN;
}

_Static_assert(OP_EITHER - OP_NEGATE == BL_EITHER - BL_NEGATE, "an operation's code tells it");

static bl_operation operation_of(op_code code)
{
    BL_ASSERT(code >= OP_NEGATE && code <= OP_EITHER);
    return (bl_operation)(code - OP_NEGATE);
}

typedef struct cell {
    int64_t value;
    value_state state;
} cell;

static cell group_size(const bl_program *a, uint32_t index)
{
    const symbol *s = &a->names.symbols[index];
    if (s->kind == SYMBOL_ALIAS) s = &a->names.symbols[s->alias];
    if (!s->is_group) return (cell){0, a->cursor.parsing ? VALUE_UNKNOWN : VALUE_BAD};
    return (cell){s->value, s->sized && !a->cursor.parsing ? VALUE_KNOWN : VALUE_UNKNOWN};
}

static cell load_value(bl_program *a, const op *o, const statement *s)
{
    cell c = {o->value, VALUE_KNOWN};
    if (o->code == OP_SYMBOL) c.state = asm_symbol_value(a, o->symbol, &c.value);
    if (o->code == OP_HERE) {
        c.value = s->address;
        if (a->cursor.parsing) c.state = VALUE_UNKNOWN;
    }
    if (o->code == OP_SIZE) c = group_size(a, o->symbol);
    return c;
}

/* pick(i, a, b, ...): the i-th of what follows, counted from 0. */
static cell pick(const cell *list, uint32_t count)
{
    cell index = list[0];
    if (index.state != VALUE_KNOWN) return index;
    if (index.value < 0 || index.value >= (int64_t)count - 1) return (cell){0, VALUE_BAD};
    return list[index.value + 1];
}

/* A quarter of a sine, from a fraction of it in 30 bits, in 30 bits: Taylor's series to the ninth
 * power. */
static int64_t quarter_sine(int64_t fraction)
{
    int64_t x = fraction * 1686629713 >> 30, square = x * x >> 30; /* pi / 2 in 30 bits */
    int64_t term = x, sum = x;
    static const int64_t divisors[] = {6, 20, 42, 72, 110};
    for (size_t i = 0; i < 5; i++) {
        term = -((term * square >> 30) / divisors[i]);
        sum += term;
    }
    return sum;
}

/* By a series in integers, so that all machines make the same table. */
static cell sine(const cell *list)
{
    cell z = {0, VALUE_KNOWN};
    for (size_t i = 0; i < 3; i++)
        if (list[i].state > z.state) z.state = list[i].state;
    int64_t steps = list[1].value, amplitude = list[2].value;
    if (z.state != VALUE_KNOWN) return z;
    if (steps < 1 || steps > 0xFFFFFF || amplitude < -0xFFFFFF || amplitude > 0xFFFFFF)
        return (cell){0, VALUE_BAD};
    int64_t at = list[0].value % steps;
    if (at < 0) at += steps;
    bool below = at * 2 >= steps && steps > 1;
    if (below)
        at = at * 2 - steps; /* the second half is the first, below */
    else
        at *= 2;
    if (at * 2 > steps) at = steps - at; /* and falls as it rose */
    int64_t value = quarter_sine((at * 2 << 30) / steps) * amplitude;
    value = (value + ((int64_t)1 << 29)) >> 30;
    z.value = below ? -value : value;
    return z;
}

static cell combine(op_code code, cell x, cell y)
{
    cell z = {0, x.state > y.state ? x.state : y.state};
    if (z.state == VALUE_KNOWN &&
        !bl_operation_of_two(operation_of(code), x.value, y.value, &z.value))
        z.state = VALUE_BAD;
    return z;
}

/* A stack of known depth; a constant that is not worked out yet puts the work aside instead of
 * recursing. */
value_state asm_value(bl_program *a, const ref *r, const statement *s, int64_t *value)
{
    if (r->kind == REF_CONST) {
        *value = r->value;
        return VALUE_KNOWN;
    }
    if (r->kind == REF_SYMBOL) {
        value_state state = asm_symbol_value(a, r->symbol, value);
        if (r->part != 0)
            *value = bl_operation_of_one(operation_of((op_code)r->part), *value);
        else
            *value = (int64_t)((uint64_t)*value + (uint64_t)(int64_t)r->addend);
        return state;
    }
    cell stack[MAX_STACK + 1];
    size_t n = 0;
    for (size_t i = 0; i < r->count; i++) {
        const op *o = &a->code.ops[(size_t)r->first + i];
        if (o->code <= OP_SIZE) {
            stack[n++] = load_value(a, o, s);
        } else if (o->code <= OP_BANK) {
            stack[n - 1].value =
                bl_operation_of_one(operation_of((op_code)o->code), stack[n - 1].value);
        } else if (o->code == OP_PICK) {
            n -= o->symbol;
            stack[n] = pick(stack + n, o->symbol);
            n++;
        } else if (o->code == OP_SINE) {
            n -= 3;
            stack[n] = sine(stack + n);
            n++;
        } else if (o->code == OP_CHOOSE) {
            n -= 2;
            cell test = stack[n - 1];
            stack[n - 1] = test.state != VALUE_KNOWN ? test : stack[test.value != 0 ? n : n + 1];
        } else {
            n--;
            stack[n - 1] = combine((op_code)o->code, stack[n - 1], stack[n]);
        }
    }
    *value = stack[0].value;
    return stack[0].state;
}
