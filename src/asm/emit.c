/* emit.c - bytes: evaluate every operand once more, check its range, write the image. */
#include "assembler.h"

enum { BATCH = 256 };

static bool operand_value(bl_program *a, const statement *s, uint32_t index, int64_t *value)
{
    const ref *r = &a->code.refs[s->refs + index];
    value_state state = asm_value(a, r, s, value);
    if (state == VALUE_KNOWN) return true;
    asm_explain(a, s, r, state);
    return false;
}

/* Bytes of another statement that lie there already are told with both lines. */
void asm_put(bl_program *a, const statement *s, uint32_t address, const uint8_t *bytes,
             size_t count)
{
    BL_ASSERT(count == 0 || bytes != NULL);
    a->emitted += count;
    if (a->emitted > (uint64_t)MAX_IMAGE) {
        asm_error_at(a, s, NULL, NULL, "the program has more than %ld MiB of bytes",
                     MAX_IMAGE >> 20);
        a->fatal = BL_E_SYNTAX;
        return;
    }
    bl_origin origin = {a->code.sources[s->source].file, asm_line_of(a, s->source, s->line)};
    bl_status status = bl_image_put(a->image, address, bytes, count, origin);
    if (status == BL_E_OVERLAP && a->layout.overrun) {
        return; /* what runs over the end of its area lies on others: told already */
    } else if (status == BL_E_OVERLAP) {
        char hint[200], where[16];
        uint32_t conflict = address;
        bl_image_conflict(a->image, (bl_range){address, count}, &conflict);
        bl_origin first = bl_image_origin(a->image, conflict);
        const char *name = bl_image_file_name(a->image, first.file);
        bl_address_text(where, conflict / bl_sheet_unit_bytes(a->machine.sheet),
                        bl_sheet_address_bits(a->machine.sheet), a->machine.radix);
        bl_format(hint, sizeof hint, "the first is at %s:%lu", name != NULL ? name : "?",
                  (unsigned long)first.line);
        asm_error_at(a, s, NULL, hint, "address %s is filled twice", where);
    } else if (status == BL_E_RANGE) {
        asm_error_at(a, s, NULL, NULL, "bytes beyond the last address");
    } else if (status != BL_OK) {
        a->fatal = status;
    }
}

/* Writes units, which an image keeps in one byte each or in two. Addresses of the image count
 * bytes. */
static void emit_units(bl_program *a, const statement *s, uint32_t address, const uint16_t *units,
                       size_t count)
{
    uint8_t bytes[BATCH * 2];
    if (!a->machine.wide) {
        for (size_t i = 0; i < count; i++)
            bytes[i] = (uint8_t)units[i];
        asm_put(a, s, address, bytes, count);
        return;
    }
    for (size_t i = 0; i < count; i++) {
        bytes[i * 2] = (uint8_t)(a->machine.big ? units[i] >> 8 : units[i]);
        bytes[i * 2 + 1] = (uint8_t)(a->machine.big ? units[i] : units[i] >> 8);
    }
    asm_put(a, s, address * 2, bytes, count * 2);
}

/* Cuts a value into units, in the CPU's order. */
static void split_value(const bl_program *a, int64_t value, unsigned width, uint16_t *units)
{
    for (unsigned i = 0; i < width; i++) {
        unsigned place = a->machine.big ? width - 1 - i : i;
        units[place] =
            (uint16_t)((uint64_t)value >> (a->machine.unit * i) & ((1u << a->machine.unit) - 1));
    }
}

/* What to do about a branch that is too far: the CPU's own jump, where it has one. */
static const char *far_hint(const bl_program *a, char *buffer, size_t capacity)
{
    static const char *const jumps[] = {"JMP", "JP", "GO"};
    for (size_t i = 0; i < sizeof jumps / sizeof jumps[0]; i++) {
        if (bl_sheet_find_mnemonic(a->machine.sheet, bl_text_of(jumps[i])) < 0) continue;
        bl_format(buffer, capacity, "%s reaches everywhere: use it, or branch round one", jumps[i]);
        return buffer;
    }
    return "branch the other way round a jump";
}

static void tell_too_far(bl_program *a, const statement *s, const ref *r, const bl_operand *o,
                         int64_t value, uint32_t end)
{
    char hint[64];
    long long top = 1LL << o->bits, far = bl_operand_distance(o, value, end);
    long long over = far < 0 ? -top / 2 - far : far - (top / 2 - 1);
    asm_error_at(a, s, r, far_hint(a, hint, sizeof hint),
                 "the target is %lld byte%s too far: %lld away, reach is %lld to +%lld", over,
                 over == 1 ? "" : "s", far, -top / 2, top / 2 - 1);
}

/* The numbers that the forms which can be written so take, as a hint. */
static const char *list_numbers(const bl_program *a, const statement *s, char *buffer,
                                size_t capacity)
{
    size_t n = bl_format(buffer, capacity, "it takes");
    const bl_form *f = &a->machine.forms[a->machine.spellings[s->form].form];
    for (size_t i = 0; i < bl_sheet_forms(a->machine.sheet) && n < capacity; i++) {
        const bl_form *g = &a->machine.forms[i];
        if (g->mnemonic != f->mnemonic || g->slots != 1 || g->pattern_length != f->pattern_length)
            continue;
        const bl_operand *o = &a->machine.operands[g->operand[g->slot[0]]];
        if (o->kind == BL_OPERAND_EXACT)
            n += bl_format(buffer + n, capacity - n, " %.*s", (int)o->name.length, o->name.at);
    }
    return buffer;
}

/* A branch that is too far says by how much, and what would reach. */
static void tell_operand_range(bl_program *a, const statement *s, const ref *r, const bl_operand *o,
                               int64_t value, uint32_t end)
{
    char shown[24], last[16], hint[200];
    unsigned address = bl_sheet_address_bits(a->machine.sheet);
    long long top = 1LL << o->bits;
    if (value < 0 || value > UINT32_MAX)
        bl_format(shown, sizeof shown, "%lld", (long long)value);
    else
        bl_address_text(shown, (uint32_t)value,
                        o->kind == BL_OPERAND_ADDRESS && value < top ? o->bits
                        : value >> address == 0                      ? address
                                                                     : 32,
                        a->machine.radix);
    switch (o->kind) {
    case BL_OPERAND_VALUE:
    case BL_OPERAND_SIGNED:
        asm_error_at(a, s, r,
                     o->bits == 8 && o->kind == BL_OPERAND_VALUE
                         ? "lo() and hi() take one byte of a value"
                         : NULL,
                     "%lld does not fit into %u bits: %lld to %lld", (long long)value, o->bits,
                     -top / 2, o->kind == BL_OPERAND_SIGNED ? top / 2 - 1 : top - 1);
        break;
    case BL_OPERAND_RELATIVE:
        if (value >= 0 && value >> address == 0) {
            tell_too_far(a, s, r, o, value, end);
            break;
        }
        bl_address_text(last, (uint32_t)(((int64_t)1 << address) - 1), address, a->machine.radix);
        asm_error_at(a, s, r, NULL, "%s is beyond the last address, %s", shown, last);
        break;
    case BL_OPERAND_EXACT:
        asm_error_at(a, s, r, list_numbers(a, s, hint, sizeof hint), "%lld is not possible here",
                     (long long)value);
        break;
    case BL_OPERAND_DIRECT:
        asm_error_at(a, s, r, ".direct says what the direct page register holds",
                     "%s is not in the direct page, which is page $%02lX", shown,
                     (unsigned long)a->layout.direct);
        break;
    case BL_OPERAND_PAGE:
        asm_error_at(a, s, r, NULL, "%s is not on this instruction's page of %lld", shown, top);
        break;
    case BL_OPERAND_NUMBER:
        asm_error_at(a, s, r, NULL, "%lld is not 0 to %lld", (long long)value, top - 1);
        break;
    default:
        bl_address_text(last, (uint32_t)(top - 1), o->bits, a->machine.radix);
        asm_error_at(a, s, r, NULL, "%s is not an address of %u bits: 0 to %s", shown, o->bits,
                     last);
        break;
    }
}

/* Most values are numbers that are stored as they are. */
static bool is_plain_number(const bl_operand *o, int64_t value)
{
    return o->kind <= BL_OPERAND_ADDRESS && o->kind != BL_OPERAND_SIGNED &&
           (uint64_t)value >> o->bits == 0;
}

/* The bits to store for each operand of a form. False after an error. */
static bool stored_bits(bl_program *a, const statement *s, const bl_spelling *w, uint32_t *stored)
{
    const bl_form *f = &a->machine.forms[w->form];
    uint32_t end = s->address + f->size;
    for (uint8_t i = 0; i < f->slots; i++) {
        const bl_operand *o = &a->machine.operands[f->operand[f->slot[i]]];
        int64_t value = 0;
        if (!operand_value(a, s, i, &value)) return false;
        if (is_plain_number(o, value)) {
            stored[f->slot[i]] = (uint32_t)value;
            continue;
        }
        if (!bl_operand_fits(o, value, s->address, end, a->layout.direct)) {
            tell_operand_range(a, s, &a->code.refs[s->refs + i], o, value, end);
            return false;
        }
        stored[f->slot[i]] = bl_operand_stored(o, value, end);
    }
    for (uint8_t i = 0; i < f->operands && f->slots < f->operands; i++) {
        const bl_operand *o = &a->machine.operands[f->operand[i]];
        if (o->kind == BL_OPERAND_ONEOF)
            stored[i] = bl_sheet_choice(a->machine.sheet, o->first + w->chosen[i])->code;
    }
    return true;
}

/* Layout has chosen the form by what it knew then: a value that does not fit now is an error, not
 * another form. */
static void emit_instruction(bl_program *a, const statement *s)
{
    const bl_spelling *w = &a->machine.spellings[s->form];
    const bl_form *f = &a->machine.forms[w->form];
    uint16_t units[BL_FORM_UNITS];
    uint8_t bytes[BL_FORM_UNITS];
    uint32_t stored[BL_FORM_OPERANDS] = {0};
    if (f->operands > 0 && !stored_bits(a, s, w, stored)) return;
    memcpy(units, f->value, sizeof units);
    for (uint8_t i = 0; i < f->fields; i++) {
        const bl_field *d = &f->field[i];
        uint32_t bits = stored[d->operand] >> d->from & ((1u << d->bits) - 1);
        units[d->unit] = (uint16_t)(units[d->unit] | bits << d->shift);
    }
    if (a->machine.wide) {
        emit_units(a, s, s->stored, units, f->size);
        return;
    }
    for (uint8_t i = 0; i < BL_FORM_UNITS; i++)
        bytes[i] = (uint8_t)units[i];
    asm_put(a, s, s->stored, bytes, f->size);
}

/* Texts: a byte of it takes as many units as .byte. */
static uint32_t emit_text(bl_program *a, const statement *s, uint32_t address, const uint8_t *bytes,
                          uint32_t count, unsigned width)
{
    uint16_t batch[BATCH];
    if (a->machine.unit == 8) {
        asm_put(a, s, address, bytes, (size_t)count);
        return address + count;
    }
    for (uint32_t i = 0; i < count && a->fatal == BL_OK;) {
        size_t n = 0;
        for (; i < count && n + width <= BATCH; i++, n += width)
            split_value(a, bytes[i], width, batch + n);
        emit_units(a, s, address, batch, n);
        address += (uint32_t)n;
    }
    return address;
}

/* A string is its bytes; a number is as many units as the directive makes, in the CPU's order. */
static void emit_data(bl_program *a, const statement *s)
{
    unsigned width = asm_width(a, (statement_kind)s->kind);
    unsigned bits = asm_bits(a, (statement_kind)s->kind);
    uint16_t batch[BATCH];
    size_t n = 0;
    uint32_t address = s->stored;
    for (uint32_t i = 0; i < s->ref_count; i++) {
        const ref *r = &a->code.refs[s->refs + i];
        if (n + width > BATCH || r->kind == REF_BYTES) {
            emit_units(a, s, address, batch, n);
            address += (uint32_t)n;
            n = 0;
        }
        if (r->kind == REF_BYTES) {
            address = emit_text(a, s, address, a->code.pool + r->first, r->count, width);
            continue;
        }
        int64_t value = 0, top = (int64_t)1 << bits;
        if (operand_value(a, s, i, &value) && (value < -(top / 2) || value >= top)) {
            char capacity[24];
            bl_format(capacity, sizeof capacity, bits % 8 == 0 ? "%u byte%s" : "%u bit%s",
                      bits % 8 == 0 ? bits / 8 : bits, bits == 8 ? "" : "s");
            asm_error_at(a, s, r, "lo(), hi() and bank() take one byte of a value",
                         "%lld does not fit into %s: %lld to %lld", (long long)value, capacity,
                         (long long)(-top / 2), (long long)(top - 1));
        }
        split_value(a, value, width, batch + n);
        n += width;
    }
    emit_units(a, s, address, batch, n);
}

/* Values that layout clipped are told here, once. */
static bool check_range(bl_program *a, const statement *s, int64_t min, int64_t max)
{
    int64_t value = 0;
    if (!operand_value(a, s, 0, &value)) return false;
    if (value >= min && value <= max) return true;
    asm_error_at(a, s, &a->code.refs[s->refs], NULL, "%lld is outside %lld to %lld",
                 (long long)value, (long long)min, (long long)max);
    return false;
}

/* A fill may be millions of units. */
static void emit_fill(bl_program *a, const statement *s)
{
    uint16_t batch[BATCH];
    int64_t value = 0, top = (int64_t)1 << a->machine.unit;
    if (!check_range(a, s, 0, MAX_FILL)) return;
    if (s->ref_count > 1) {
        if (!operand_value(a, s, 1, &value)) return;
        if (value < -top / 2 || value >= top) {
            asm_error_at(a, s, &a->code.refs[s->refs + 1], NULL, "%lld does not fit into a %s",
                         (long long)value, top == 256 ? "byte" : "word");
            return;
        }
    }
    for (size_t i = 0; i < BATCH; i++)
        batch[i] = (uint16_t)(value & (top - 1));
    for (uint32_t done = 0; done < s->size && a->fatal == BL_OK;) {
        uint32_t n = s->size - done < BATCH ? s->size - done : BATCH;
        unsigned errors = a->errors;
        emit_units(a, s, s->stored + done, batch, (size_t)n);
        if (a->errors > errors) return;
        done += n;
    }
}

static void emit_vector(bl_program *a, const statement *s)
{
    const bl_vector *v = bl_sheet_vector(a->machine.sheet, s->form);
    unsigned width = bl_sheet_address_units(a->machine.sheet);
    uint16_t units[8];
    if (!check_range(a, s, 0, ((int64_t)1 << bl_sheet_address_bits(a->machine.sheet)) - 1)) return;
    int64_t value = 0;
    operand_value(a, s, 0, &value);
    split_value(a, value, width, units);
    emit_units(a, s, v->address, units, width);
}

static void emit_entry(bl_program *a, const statement *s)
{
    uint32_t entry;
    int64_t value = 0;
    if (!check_range(a, s, 0, UINT32_MAX)) return;
    operand_value(a, s, 0, &value);
    if (bl_image_entry(a->image, &entry)) {
        asm_error_at(a, s, NULL, NULL, "the entry point is given twice");
        return;
    }
    bl_image_set_entry(a->image, (uint32_t)value * bl_sheet_unit_bytes(a->machine.sheet));
}

static void emit_assert(bl_program *a, const statement *s)
{
    int64_t value = 0;
    if (!operand_value(a, s, 0, &value) || value != 0) return;
    const ref *message = &a->code.refs[s->refs + 1];
    const char *text = a->code.sources[s->source].text + message->at;
    if (message->length == 0)
        asm_error_at(a, s, &a->code.refs[s->refs], NULL, "this does not hold");
    else
        asm_error_at(a, s, &a->code.refs[s->refs], NULL, "%.*s", (int)message->length, text);
}

/* What a statement makes, less what it says it makes, must be nothing: a hole would hold whatever
 * the chip held, and a byte too many would lie on its neighbour. */
static void check_made(bl_program *a, const statement *s, uint64_t before)
{
    uint64_t wanted = 0;
    bool makes = s->kind >= ST_INSTRUCTION && s->kind <= ST_LONG;
    if (makes || s->kind == ST_FILL) wanted = s->size;
    if (s->kind == ST_VECTOR) wanted = bl_sheet_address_units(a->machine.sheet);
    if (a->emitted - before == wanted * bl_sheet_unit_bytes(a->machine.sheet)) return;
    if (a->errors == 0 && a->fatal == BL_OK)
        asm_internal(a, s, "it takes room for other bytes than it makes");
}

/* Where layout put something must be what its value says now. */
static void check_settled(bl_program *a, const statement *s, int64_t laid)
{
    int64_t value = laid;
    if (asm_value(a, &a->code.refs[s->refs], s, &value) != VALUE_KNOWN) return; /* told */
    if (value != laid && a->errors == 0) asm_internal(a, s, "its address moved after it was laid");
}

/* What lies where since the last .org, .place, .runat or .end. */
typedef struct stretch {
    int64_t limit;
    bool fresh; /* nothing since */
    bool below; /* it began where the CPU has addresses */
    bool told_code, told_data;
} stretch;

/* Code must run where the CPU has addresses; bytes that only flow over the last one are warned of,
 * because a banked ROM may mean it. */
static void check_top(bl_program *a, const statement *s, stretch *t)
{
    bool moves =
        s->kind == ST_ORG || s->kind == ST_PLACE || s->kind == ST_RUNAT || s->kind == ST_END_RUNAT;
    if (moves) *t = (stretch){.limit = t->limit, .fresh = true};
    if (moves || s->size == 0 || s->kind == ST_ALIGN) return;
    if (t->fresh) t->below = (int64_t)s->address < t->limit;
    t->fresh = false;
    if ((int64_t)s->address + s->size <= t->limit) return;
    char last[16];
    unsigned bits = bl_sheet_address_bits(a->machine.sheet);
    bl_address_text(last, (uint32_t)(t->limit - 1), bits, a->machine.radix);
    if (s->kind == ST_INSTRUCTION && !t->told_code) {
        t->told_code = true;
        asm_error_at(
            a, s, NULL,
            ".runat ADDRESS ... .end says where code runs that is kept there (a banked ROM)",
            "this instruction runs beyond the last address, %s", last);
    } else if (s->kind != ST_INSTRUCTION && t->below && !t->told_data) {
        t->told_data = true;
        asm_warn_at(a, s, ".org before it says that it is meant to lie there (a banked ROM)",
                    "this runs over the last address, %s", last);
    }
}

/* Only statements that make bytes, or that must be checked again now that all is known. */
static void emit_statement(bl_program *a, const statement *s)
{
    switch (s->kind) {
    case ST_BYTE:
    case ST_WORD:
    case ST_TRIPLE:
    case ST_LONG: emit_data(a, s); break;
    case ST_FILL:
        emit_fill(a, s);
        check_settled(a, s, s->size);
        break;
    case ST_RESERVE:
        check_range(a, s, 0, UINT32_MAX);
        check_settled(a, s, s->size);
        break;
    case ST_ORG:
        check_range(a, s, 0, UINT32_MAX);
        check_settled(a, s, s->stored);
        break;
    case ST_ALIGN: check_range(a, s, 1, UINT32_MAX); break;
    case ST_RUNAT:
        check_range(a, s, 0, ((int64_t)1 << bl_sheet_address_bits(a->machine.sheet)) - 1);
        break;
    case ST_DIRECT: a->layout.direct = s->page; break;
    case ST_VECTOR: emit_vector(a, s); break;
    case ST_ENTRY: emit_entry(a, s); break;
    case ST_ASSERT: emit_assert(a, s); break;
    default: break;
    }
}

/* What layout promised is compared with what comes out: a difference is an internal error and
 * never an image. */
void asm_emit(bl_program *a)
{
    stretch t = {.limit = (int64_t)1 << bl_sheet_address_bits(a->machine.sheet), .fresh = true};
    int64_t quiet = 0; /* instructions that end before this address need no look at the top */
    unsigned wide = a->machine.wide;
    const statement *end = a->code.statements + a->code.statement_count;
    a->layout.direct = 0;
    for (const statement *s = a->code.statements; s < end && a->fatal == BL_OK; s++) {
        uint64_t before = a->emitted;
        asm_turn_to(a, s);
        /* Most statements are instructions in the middle of a stretch: nothing else to look at. */
        if (s->kind == ST_INSTRUCTION) {
            emit_instruction(a, s);
            if (a->emitted - before == (uint64_t)s->size << wide &&
                (int64_t)s->address + s->size <= quiet)
                continue;
        } else if (s->kind == ST_LABEL) {
            if (a->names.symbols[s->symbol].value != (int64_t)s->address && a->errors == 0)
                asm_internal(a, s, "a label moved after it was laid");
            continue;
        } else {
            emit_statement(a, s);
        }
        check_made(a, s, before);
        check_top(a, s, &t);
        quiet = t.fresh ? 0 : t.limit;
    }
    asm_turn_to_sheet(a, 0); /* what the program is called by */
    asm_emit_checksums(a);
}
