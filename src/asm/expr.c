/* expr.c - expressions: C's operators on 64-bit integers, read into postfix operations. */
#include "assembler.h"

/* How deep the stack gets is counted while the expression is read, so that working it out needs no
 * checks. */
static bool push_op(bl_program *a, op_code code, uint32_t index, int64_t value)
{
    BL_ASSERT(a->cursor.stack <= MAX_STACK);
    op *ops =
        bl_grown(&a->memory, a->code.ops, &a->code.op_capacity, a->code.op_count + 1, sizeof *ops);
    if (ops == NULL) {
        a->fatal = BL_E_MEMORY;
        return false;
    }
    a->code.ops = ops;
    ops[a->code.op_count++] = (op){(uint8_t)code, index, value};
    if (code <= OP_SIZE && ++a->cursor.stack > MAX_STACK) {
        asm_error(a, (bl_text){a->cursor.p, 0}, "name a part of it with NAME = ...",
                  "the expression holds more than %d values at once", MAX_STACK);
        return false;
    }
    if (code == OP_PICK || code == OP_SINE)
        a->cursor.stack -= index - 1;
    else if (code >= OP_MULTIPLY)
        a->cursor.stack -= code == OP_CHOOSE ? 2 : 1;
    return true;
}

static bool ternary(bl_program *a);

static bool parenthesis(bl_program *a)
{
    bl_text open = {a->cursor.p, 1};
    a->cursor.p++;
    if (!ternary(a)) return false;
    a->cursor.p = asm_skip(a->cursor.p);
    if (*a->cursor.p != ')') {
        asm_error(a, open, NULL, "this parenthesis is never closed");
        return false;
    }
    a->cursor.p++;
    return true;
}

/* What is no number is told with all the ways to write one. */
static bool scan_number(bl_program *a)
{
    enum { LONGEST_CHARACTER = 8 }; /* with its quotes and an escape */
    const char *end = a->cursor.p + 1;
    /* No further than the number goes: a line may hold a million of them. A character may be the
     * one that begins a comment. */
    while (*a->cursor.p == '\'' ? *end != '\n' && end - a->cursor.p < LONGEST_CHARACTER
                                : asm_is(*end, C_LETTER | C_DIGIT))
        end++;
    size_t used = 0;
    int64_t value = 0;
    bl_status status =
        bl_number_scan((bl_text){a->cursor.p, (size_t)(end - a->cursor.p)}, &used, &value);
    if (status != BL_OK) {
        bl_text mark = {a->cursor.p, used > 0 ? used : 1};
        asm_error(a, mark, "numbers: 31 $1F 0x1F 1Fh %11111 0b11111 0o37 37q 'A'",
                  status == BL_E_RANGE ? "the number has more than 64 bits" : "not a number");
        return false;
    }
    a->cursor.p += used;
    return push_op(a, OP_PUSH, 0, value);
}

/* The name in "(NAME)"; length 0 after an error. */
static bl_text name_in_parentheses(bl_program *a)
{
    bl_text open = {a->cursor.p, 1}, word = asm_word(asm_skip(a->cursor.p + 1));
    a->cursor.p = asm_skip(word.at + word.length);
    if (word.length > 0 && *a->cursor.p == ')') {
        a->cursor.p++;
        return word;
    }
    asm_error(a, open, "like defined(NAME), sizeof(GROUP)",
              "a name in parentheses is expected here");
    return (bl_text){NULL, 0};
}

/* defined(NAME): has it been defined, so far? */
static bool defined(bl_program *a)
{
    bl_text word = name_in_parentheses(a);
    if (word.length == 0) return false;
    return push_op(a, OP_PUSH, 0, asm_is_defined(a, word));
}

static bool size_of(bl_program *a)
{
    bl_text word = name_in_parentheses(a);
    if (word.length == 0) return false;
    uint32_t index = asm_name(a, word);
    return index != 0 && push_op(a, OP_SIZE, index, 0);
}

/* "(VALUE, VALUE, ...)": how many there are; 0 where no parenthesis ends the list. */
static bool scan_arguments(bl_program *a, uint32_t *count)
{
    *count = 0;
    do {
        a->cursor.p++;
        if (!ternary(a)) return false;
        ++*count;
        a->cursor.p = asm_skip(a->cursor.p);
    } while (*a->cursor.p == ',');
    if (*a->cursor.p == ')')
        a->cursor.p++;
    else
        *count = 0;
    return true;
}

static bool pick_from(bl_program *a)
{
    bl_text open = {a->cursor.p, 1};
    uint32_t count;
    if (!scan_arguments(a, &count)) return false;
    if (count < 2) {
        asm_error(a, open, "pick(INDEX, VALUE, VALUE, ...)",
                  "an index and at least one value are expected");
        return false;
    }
    return push_op(a, OP_PICK, count, 0);
}

/* sine(I, STEPS, AMPLITUDE): the I-th of STEPS points of a sine wave, rounded. */
static bool sine_of(bl_program *a)
{
    bl_text open = {a->cursor.p, 1};
    uint32_t count;
    if (!scan_arguments(a, &count)) return false;
    if (count != 3) {
        asm_error(a, open, "sine(INDEX, STEPS, AMPLITUDE)", "sine takes three values");
        return false;
    }
    return push_op(a, OP_SINE, 3, 0);
}

/* cpu("NAME"): is this the CPU? */
static bool is_cpu(bl_program *a)
{
    bl_text open = {a->cursor.p, 1}, name;
    a->cursor.p++;
    if (!asm_quoted(a, &name)) return false;
    a->cursor.p = asm_skip(a->cursor.p);
    if (*a->cursor.p != ')') {
        asm_error(a, open, NULL, "this parenthesis is never closed");
        return false;
    }
    a->cursor.p++;
    return push_op(a, OP_PUSH, 0, bl_text_same_nocase(name, bl_sheet_name(a->machine.sheet)));
}

static bool lo(bl_program *a)
{
    return parenthesis(a) && push_op(a, OP_LO, 0, 0);
}

static bool hi(bl_program *a)
{
    return parenthesis(a) && push_op(a, OP_HI, 0, 0);
}

static bool bank(bl_program *a)
{
    return parenthesis(a) && push_op(a, OP_BANK, 0, 0);
}

/* A function, here, or a symbol. */
static bool named(bl_program *a, bl_text word)
{
    static const struct {
        const char *name;
        bool (*take)(bl_program *a);
    } functions[] = {{"lo", lo},          {"hi", hi},           {"bank", bank},
                     {"pick", pick_from}, {"defined", defined}, {"sizeof", size_of},
                     {"sine", sine_of},   {"cpu", is_cpu}};
    const char *after = asm_skip(word.at + word.length);
    if (*after == '(' && word.length <= 7) {
        for (size_t i = 0; i < sizeof functions / sizeof functions[0]; i++) {
            if (!bl_text_same(word, bl_text_of(functions[i].name))) continue;
            a->cursor.p = after;
            return functions[i].take(a);
        }
    }
    a->cursor.p += word.length;
    if (word.length == 4 && memcmp(word.at, "here", 4) == 0) return push_op(a, OP_HERE, 0, 0);
    uint32_t index = asm_name(a, word);
    return index != 0 && push_op(a, OP_SYMBOL, index, 0);
}

/* What cannot begin a value is told by what it is instead. */
static bool primary(bl_program *a)
{
    char c = *a->cursor.p;
    if (asm_is(c, C_LETTER)) return named(a, asm_word(a->cursor.p));
    if (asm_is(c, C_DIGIT) || c == '\'' || c == '%') return scan_number(a);
    if (c == '$') {
        if (asm_is(a->cursor.p[1], C_HEX)) return scan_number(a);
        a->cursor.p++;
        return push_op(a, OP_HERE, 0, 0);
    }
    if (c == '*') {
        a->cursor.p++;
        return push_op(a, OP_HERE, 0, 0);
    }
    if (c == '(') return parenthesis(a);
    bl_text mark = {a->cursor.p, asm_is(c, C_END) ? 0u : 1u};
    if (c == '"')
        asm_error(a, mark, "one character is 'A'; text goes into .byte or .text",
                  "text is not a number");
    else
        asm_error(a, mark, NULL, "a value is missing here");
    return false;
}

/* One level deeper; false, with the error told, when that is too deep. */
static bool deeper(bl_program *a)
{
    if (++a->cursor.nesting <= MAX_NESTING) return true;
    asm_error(a, (bl_text){a->cursor.p, 1}, "name a part of it with NAME = ...",
              "the expression is nested too deeply");
    return false;
}

/* Prefixes nest, so their depth is limited like that of parentheses. */
static bool prefix(bl_program *a)
{
    op_code code;
    a->cursor.p = asm_skip(a->cursor.p);
    switch (*a->cursor.p) {
    case '-': code = OP_NEGATE; break;
    case '~': code = OP_INVERT; break;
    case '!': code = OP_NOT; break;
    case '<': code = OP_LO; break;
    case '>': code = OP_HI; break;
    case '+': code = OP_PUSH; break; /* no operation */
    default: return primary(a);
    }
    bl_text mark = {a->cursor.p++, 1};
    if (!deeper(a) || !prefix(a)) return false;
    a->cursor.nesting--;
    if (code == OP_PUSH) return true;
    char next = *asm_skip(a->cursor.p);
    if ((code == OP_LO || code == OP_HI) && (next == '+' || next == '-'))
        asm_warn(a, mark,
                 "write <(a + b) for the byte of the sum, or (<a) + b for what stands here",
                 "'%c' takes a byte of the next value alone, before the '%c'", *mark.at, next);
    op *last = &a->code.ops[a->code.op_count - 1];
    if (code == OP_NEGATE && last->code == OP_PUSH) {
        last->value = (int64_t)(0 - (uint64_t)last->value);
        return true;
    }
    return push_op(a, code, 0, 0);
}

/* Two constants in a row become one. */
static bool push_infix(bl_program *a, op_code code)
{
    if (a->code.op_count >= 2 && (code == OP_ADD || code == OP_SUBTRACT || code == OP_MULTIPLY)) {
        op *x = &a->code.ops[a->code.op_count - 2], *y = x + 1;
        if (x->code == OP_PUSH && y->code == OP_PUSH) {
            uint64_t u = (uint64_t)x->value, v = (uint64_t)y->value;
            x->value = (int64_t)(code == OP_ADD ? u + v : code == OP_SUBTRACT ? u - v : u * v);
            a->code.op_count--;
            a->cursor.stack--;
            return true;
        }
    }
    return push_op(a, code, 0, 0);
}

static bool binary(bl_program *a, unsigned rank)
{
    if (!deeper(a) || !prefix(a)) return false;
    for (;;) {
        a->cursor.p = asm_skip(a->cursor.p);
        bl_infix o = bl_infix_at(a->cursor.p);
        if (o.rank < rank || o.rank == 0) break;
        a->cursor.p += o.length;
        if (!binary(a, o.rank + 1u) || !push_infix(a, (op_code)(OP_NEGATE + o.operation)))
            return false;
    }
    a->cursor.nesting--;
    return true;
}

static bool ternary(bl_program *a)
{
    if (!binary(a, 1)) return false;
    if (*a->cursor.p != '?') return true;
    bl_text mark = {a->cursor.p++, 1};
    if (!deeper(a) || !ternary(a)) return false;
    a->cursor.p = asm_skip(a->cursor.p);
    if (*a->cursor.p != ':') {
        asm_error(a, mark, "CONDITION ? VALUE : OTHER", "'?' without ':'");
        return false;
    }
    a->cursor.p++;
    if (!ternary(a)) return false;
    a->cursor.nesting--;
    return push_op(a, OP_CHOOSE, 0, 0);
}

/* Most operands are a constant, a symbol, a byte of a symbol, or a symbol plus or minus a constant:
 * no operations left. */
static void simplify(bl_program *a, size_t first, ref *r)
{
    size_t n = a->code.op_count - first;
    const op *o = a->code.ops + first;
    r->kind = REF_EXPR;
    r->part = 0;
    r->first = (uint32_t)first;
    r->count = (uint32_t)n;
    if (n == 1 && o->code == OP_PUSH) {
        r->kind = REF_CONST;
        r->value = o->value;
    } else if (n == 1 && o->code == OP_SYMBOL) {
        r->kind = REF_SYMBOL;
        r->symbol = o->symbol;
        r->addend = 0;
    } else if (n == 2 && o[0].code == OP_SYMBOL && o[1].code >= OP_LO && o[1].code <= OP_BANK) {
        r->kind = REF_SYMBOL;
        r->symbol = o->symbol;
        r->part = o[1].code;
    } else if (n == 3 && o[0].code == OP_SYMBOL && o[1].code == OP_PUSH &&
               (o[2].code == OP_ADD || o[2].code == OP_SUBTRACT) && o[1].value >= -INT32_MAX &&
               o[1].value <= INT32_MAX) {
        r->kind = REF_SYMBOL;
        r->symbol = o->symbol;
        r->addend = (int32_t)(o[2].code == OP_ADD ? o[1].value : -o[1].value);
    } else {
        return;
    }
    a->code.op_count = first;
}

/* What may follow an operand that is a number or a name and nothing else. */
static bool ends_operand(const char *p)
{
    p = asm_skip(p);
    return asm_is(*p, C_END) || *p == ',' || *p == ')';
}

/* Most operands are a number or a name alone. False: it is something else, and nothing was read. */
static bool plain_operand(bl_program *a, ref *r)
{
    const char *start = a->cursor.p, *p = start;
    uint32_t value = 0;
    if (asm_is(*p, C_LETTER)) {
        bl_text word = asm_word(p);
        bool here = word.length == 4 && memcmp(p, "here", 4) == 0;
        if (here || !ends_operand(p + word.length)) return false;
        r->kind = REF_SYMBOL;
        r->part = 0;
        r->addend = 0;
        r->symbol = asm_name(a, word);
        a->cursor.p = p + word.length;
        r->length = asm_span(start, a->cursor.p);
        return r->symbol != 0;
    }
    if (asm_is(*p, C_DIGIT)) {
        for (; asm_is(*p, C_DIGIT) && p - start < 9; p++)
            value = value * 10 + (uint32_t)(*p - '0');
    } else if (*p == '$') {
        for (p++; asm_is(*p, C_HEX) && p - start < 9; p++)
            value = value << 4 | (uint32_t)bl_hex_digit(*p);
        if (p == start + 1) return false;
    }
    if (p == start || asm_is(*p, C_LETTER | C_DIGIT) || !ends_operand(p)) return false;
    r->kind = REF_CONST;
    r->value = value;
    a->cursor.p = p;
    r->length = asm_span(start, p);
    return true;
}

/* A number alone and a symbol plus a constant are kept without operations: nine of ten operands
 * are one of these. */
bool asm_expression(bl_program *a, ref *r)
{
    size_t first = a->code.op_count;
    a->cursor.p = asm_skip(a->cursor.p);
    const char *start = a->cursor.p;
    r->at = (uint32_t)(start - a->code.sources[a->cursor.source].text);
    if (plain_operand(a, r)) return true;
    if (a->cursor.p != start) return false; /* a name that cannot be used; told */
    a->cursor.nesting = 0;
    a->cursor.stack = 0;
    if (!ternary(a)) {
        a->code.op_count = first;
        return false;
    }
    const char *end = a->cursor.p;
    while (end > start && asm_is(end[-1], C_BLANK))
        end--;
    r->length = asm_span(start, end);
    simplify(a, first, r);
    return true;
}

bool asm_expression_ref(bl_program *a, uint32_t *index)
{
    ref r = {0};
    if (!asm_expression(a, &r)) return false;
    *index = asm_push_ref(a, r);
    return a->fatal == BL_OK;
}
