/* formula.c - expressions that are worked out while they are read. */
#include "bootlace/formula.h"

#include "core.h"
#include "operation.h"

enum { NESTING = 64 }; /* parentheses and prefixes */

typedef struct formula {
    char text[BL_FORMULA_LONGEST + 2];
    const char *p;
    const bl_formula_source *source;
    bl_formula_fault *fault;
    unsigned depth;
    bool idle; /* what is read now is not needed: read it, look nothing up */
    bl_status status;
} formula;

/* The first fault counts. */
static bool fault_at(formula *f, bl_status status, const char *at, size_t length, const char *why)
{
    if (f->status != BL_OK) return false;
    f->status = status;
    if (f->fault == NULL) return false;
    f->fault->at = (size_t)(at - f->text);
    f->fault->length = length;
    bl_format(f->fault->why, sizeof f->fault->why, "%s", why);
    return false;
}

static void skip_blanks(formula *f)
{
    while (*f->p == ' ' || *f->p == '\t')
        f->p++;
}

static bool choice(formula *f, int64_t *value);

/* One level deeper, while work is done there. */
static bool go_deeper(formula *f)
{
    if (++f->depth <= NESTING) return true;
    return fault_at(f, BL_E_SYNTAX, f->p, 1, "it is nested too deeply");
}

static bool in_parentheses(formula *f, int64_t *value)
{
    const char *open = f->p++;
    if (!go_deeper(f) || !choice(f, value)) return false;
    f->depth--;
    skip_blanks(f);
    if (*f->p != ')') return fault_at(f, BL_E_SYNTAX, open, 1, "this parenthesis is never closed");
    f->p++;
    return true;
}

static bool is_name_start(char c)
{
    return bl_is_letter(c) || c == '_';
}

/* A dot joins two names; a quote at the end is that of a second set of registers. */
static bl_text scan_name(const char *p)
{
    const char *q = p;
    while (is_name_start(*q) || bl_is_digit(*q) || (*q == '.' && is_name_start(q[1])))
        q++;
    if (*q == '\'') q++;
    return (bl_text){p, (size_t)(q - p)};
}

static bool look_up(formula *f, bl_text name, int64_t *value)
{
    char why[100];
    *value = 0;
    if (f->idle) return true;
    bl_status status =
        f->source->name != NULL ? f->source->name(f->source->context, name, value) : BL_E_NOT_FOUND;
    if (status == BL_OK) return true;
    if (status == BL_E_NOT_FOUND)
        bl_format(why, sizeof why, "'%.*s' has no value", (int)(name.length & 63), name.at);
    else
        bl_format(why, sizeof why, "'%.*s': %s", (int)(name.length & 63), name.at,
                  bl_status_text(status));
    return fault_at(f, status, name.at, name.length, why);
}

/* What memory holds: bytes in the machine's order. */
static bool load_value(formula *f, bl_text name, int64_t address, size_t count, int64_t *value)
{
    uint8_t bytes[3] = {0};
    char why[100];
    *value = 0;
    if (f->idle) return true;
    if (address < 0 || address > UINT32_MAX)
        return fault_at(f, BL_E_RANGE, name.at, name.length, "the address is beyond 32 bits");
    bl_status status = f->source->memory != NULL
                           ? f->source->memory(f->source->context, (uint32_t)address, bytes, count)
                           : BL_E_UNSUPPORTED;
    if (status != BL_OK) {
        bl_format(why, sizeof why, "memory at $%04lX: %s", (unsigned long)address,
                  bl_status_text(status));
        return fault_at(f, status, name.at, name.length, why);
    }
    for (size_t i = 0; i < count; i++)
        *value = *value << 8 | bytes[f->source->big ? i : count - 1 - i];
    return true;
}

static const struct function {
    const char *name;
    bl_operation operation;
    size_t count; /* bytes of memory; 0: an operation */
} functions[] = {
    {"lo", BL_LO, 0},   {"hi", BL_HI, 0},   {"bank", BL_BANK, 0},
    {"byte", BL_LO, 1}, {"word", BL_LO, 2}, {"triple", BL_LO, 3},
};

static const struct function *function_named(bl_text name)
{
    for (size_t i = 0; i < BL_COUNT(functions); i++)
        if (bl_text_same(name, bl_text_of(functions[i].name))) return &functions[i];
    return NULL;
}

bool bl_formula_is_function(bl_text word)
{
    return function_named(word) != NULL;
}

/* NAME(VALUE) is a function, NAME alone has a value. */
static bool value_of_named(formula *f, int64_t *value)
{
    bl_text name = scan_name(f->p);
    f->p += name.length;
    const char *open = f->p;
    while (*open == ' ')
        open++;
    if (*open != '(') return look_up(f, name, value);
    const struct function *function = function_named(name);
    if (function == NULL)
        return fault_at(f, BL_E_SYNTAX, name.at, name.length,
                        "no function; there are lo, hi, bank, byte, word and triple");
    f->p = open;
    if (!in_parentheses(f, value)) return false;
    if (function->count > 0) return load_value(f, name, *value, function->count, value);
    *value = bl_operation_of_one(function->operation, *value);
    return true;
}

static bool number(formula *f, int64_t *value)
{
    size_t used = 0, length = 0;
    while (f->p[length] != '\0')
        length++;
    bl_status status = bl_number_scan((bl_text){f->p, length}, &used, value);
    if (status != BL_OK)
        return fault_at(f, BL_E_SYNTAX, f->p, used > 0 ? used : length > 0,
                        status == BL_E_RANGE ? "the number has more than 64 bits"
                        : length == 0        ? "a value is missing at the end"
                                             : "a value is missing here");
    f->p += used;
    return true;
}

static bool value_behind_prefix(formula *f, int64_t *value)
{
    static const char written[] = "-!~<>";
    skip_blanks(f);
    for (size_t i = 0; written[i] != '\0'; i++) {
        if (*f->p != written[i]) continue;
        f->p++;
        if (!go_deeper(f) || !value_behind_prefix(f, value)) return false;
        f->depth--;
        *value = bl_operation_of_one((bl_operation)(BL_NEGATE + i), *value);
        return true;
    }
    if (is_name_start(*f->p)) return value_of_named(f, value);
    return *f->p == '(' ? in_parentheses(f, value) : number(f, value);
}

/* && and || leave alone what they do not need: a condition may ask first whether it can ask. */
static bool operators(formula *f, unsigned rank, int64_t *value)
{
    if (!go_deeper(f) || !value_behind_prefix(f, value)) return false;
    for (;;) {
        skip_blanks(f);
        bl_infix o = bl_infix_at(f->p);
        if (o.rank < rank || o.rank == 0) break;
        const char *at = f->p;
        int64_t other;
        bool idle = f->idle;
        f->p += o.length;
        f->idle |=
            (o.operation == BL_BOTH && *value == 0) || (o.operation == BL_EITHER && *value != 0);
        if (!operators(f, o.rank + 1u, &other)) return false;
        f->idle = idle;
        if (!bl_operation_of_two((bl_operation)o.operation, *value, other, value)) {
            if (!idle) return fault_at(f, BL_E_RANGE, at, o.length, "a division by zero");
            *value = 0;
        }
    }
    f->depth--;
    return true;
}

/* CONDITION ? VALUE : OTHER */
static bool choice(formula *f, int64_t *value)
{
    int64_t condition, other;
    if (!operators(f, 1, value)) return false;
    skip_blanks(f);
    if (*f->p != '?') return true;
    const char *mark = f->p++;
    bool idle = f->idle;
    condition = *value;
    f->idle = idle || condition == 0;
    if (!go_deeper(f) || !choice(f, value)) return false;
    skip_blanks(f);
    if (*f->p != ':') return fault_at(f, BL_E_SYNTAX, mark, 1, "'?' without ':'");
    f->p++;
    f->idle = idle || condition != 0;
    if (!choice(f, &other)) return false;
    f->depth--;
    f->idle = idle;
    if (condition == 0) *value = other;
    return true;
}

bl_status bl_formula_evaluate(bl_text text, const bl_formula_source *source, int64_t *value,
                              bl_formula_fault *fault)
{
    static const bl_formula_source nothing = {NULL, NULL, NULL, false};
    formula f = {.source = source != NULL ? source : &nothing, .fault = fault};
    f.p = f.text;
    if (text.length > BL_FORMULA_LONGEST) {
        fault_at(&f, BL_E_SYNTAX, f.text, 0, "it is longer than 250 characters");
        return f.status;
    }
    for (size_t i = 0; i < text.length; i++)
        f.text[i] = text.at[i] == '\0' ? '\1' : text.at[i]; /* a zero would end it early */
    int64_t result;
    if (!choice(&f, &result)) return f.status;
    skip_blanks(&f);
    if (*f.p != '\0') {
        fault_at(&f, BL_E_SYNTAX, f.p, 1, "an operator is missing here");
        return f.status;
    }
    *value = result;
    return BL_OK;
}

bl_text bl_formula_next(bl_text *list)
{
    size_t n = 0;
    unsigned depth = 0;
    for (; n < list->length && (depth > 0 || list->at[n] != ','); n++) {
        if (list->at[n] == '(') depth++;
        if (list->at[n] == ')' && depth > 0) depth--;
    }
    bl_text first = {list->at, n};
    size_t cut = n < list->length ? n + 1 : n;
    *list = (bl_text){list->at + cut, list->length - cut};
    return first;
}
