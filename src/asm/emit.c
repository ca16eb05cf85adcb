/* emit.c - bytes: evaluate every operand once more, check its range, write the image. */
#include "asm.h"

enum { BATCH = 256 };

/* Says why an operand has no usable value. Undefined names were told already. */
static void tell_bad(bl_program *a, const statement *s, const ref *r, value_state state)
{
    if (state == VALUE_BAD)
        asm_error_at(a, s, r, NULL, "division by zero, or pick() beyond its list");
}

static bool value_of(bl_program *a, const statement *s, uint32_t index, int64_t *value)
{
    const ref *r = &a->refs[s->refs + index];
    value_state state = asm_value(a, r, s, value);
    if (state == VALUE_KNOWN) return true;
    tell_bad(a, s, r, state);
    return false;
}

static void put(bl_program *a, const statement *s, uint32_t address, const uint8_t *bytes,
                size_t count)
{
    a->emitted += count;
    if (a->emitted > (uint64_t)MOST_IMAGE) {
        asm_error_at(a, s, NULL, NULL, "the program has more than 64 MiB of bytes");
        a->fatal = BL_E_SYNTAX;
        return;
    }
    bl_origin origin = {a->sources[s->source].file, asm_line_of(a, s->source, s->line)};
    bl_status status = bl_image_put(a->image, address, bytes, count, origin);
    if (status == BL_E_OVERLAP) {
        char hint[200], where[16];
        uint32_t conflict = address;
        bl_image_conflict(a->image, (bl_range){address, count}, &conflict);
        bl_origin first = bl_image_origin(a->image, conflict);
        const char *name = bl_image_file_name(a->image, first.file);
        bl_address_text(where, conflict, bl_sheet_address_bits(a->sheet), a->radix);
        bl_format(hint, sizeof hint, "the first is at %s:%lu", name != NULL ? name : "?",
                  (unsigned long)first.line);
        asm_error_at(a, s, NULL, hint, "address %s is filled twice", where);
    } else if (status == BL_E_RANGE) {
        asm_error_at(a, s, NULL, NULL, "bytes beyond the last address");
    } else if (status != BL_OK) {
        a->fatal = status;
    }
}

/* Writes value in the CPU's byte order. */
static void split(const bl_program *a, int64_t value, unsigned width, uint8_t *bytes)
{
    for (unsigned i = 0; i < width; i++) {
        unsigned place = bl_sheet_order(a->sheet) == BL_LITTLE ? i : width - 1 - i;
        bytes[place] = (uint8_t)((uint64_t)value >> (8 * i));
    }
}

static void tell_operand_range(bl_program *a, const statement *s, const ref *r, const bl_operand *o,
                               int64_t value, uint32_t end)
{
    long long top = 1LL << o->bits, far = value - (int64_t)end;
    long long over = far < 0 ? -top / 2 - far : far - (top / 2 - 1);
    switch (o->kind) {
    case BL_OPERAND_VALUE:
        asm_error_at(a, s, r, "lo() and hi() take one byte of a value",
                     "%lld does not fit into %u bits: %lld to %lld", (long long)value, o->bits,
                     -top / 2, top - 1);
        break;
    case BL_OPERAND_ADDRESS: {
        char shown[24], last[16];
        if (value < 0 || value > UINT32_MAX)
            bl_format(shown, sizeof shown, "%lld", (long long)value);
        else
            bl_address_text(shown, (uint32_t)value, value >= top ? 32 : o->bits, a->radix);
        bl_address_text(last, (uint32_t)(top - 1), o->bits, a->radix);
        asm_error_at(a, s, r, NULL, "%s is not an address of %u bits: 0 to %s", shown, o->bits,
                     last);
        break;
    }
    case BL_OPERAND_RELATIVE:
        asm_error_at(a, s, r,
                     bl_sheet_find_mnemonic(a->sheet, bl_text_of("JMP")) >= 0
                         ? "JMP reaches everywhere: use it, or branch round one"
                         : "branch the other way round a jump",
                     "the target is %lld byte%s too far: %lld away, reach is %lld to +%lld", over,
                     over == 1 ? "" : "s", far, -top / 2, top / 2 - 1);
        break;
    }
}

static void emit_instruction(bl_program *a, const statement *s)
{
    const bl_form *f = &a->forms[s->form];
    uint8_t bytes[BL_FORM_CODES * 4];
    size_t n = 0;
    for (uint8_t i = 0; i < f->codes; i++) {
        if (!f->code[i].is_slot) {
            bytes[n++] = f->code[i].value;
            continue;
        }
        uint8_t slot = f->code[i].value;
        const bl_operand *o = bl_sheet_operand(a->sheet, f->operand[slot]);
        uint32_t end = s->address + f->size;
        int64_t value = 0;
        if (!value_of(a, s, slot, &value)) return;
        if (!asm_fits(o, value, end)) {
            tell_operand_range(a, s, &a->refs[s->refs + slot], o, value, end);
            return;
        }
        if (o->kind == BL_OPERAND_RELATIVE) value -= end;
        if (o->bits == 8) {
            bytes[n++] = (uint8_t)value;
            continue;
        }
        split(a, value, o->bits / 8u, bytes + n);
        n += o->bits / 8u;
    }
    put(a, s, s->stored, bytes, n);
}

static void emit_data(bl_program *a, const statement *s)
{
    unsigned width = (unsigned)(s->kind - ST_BYTE) + 1;
    uint8_t batch[BATCH];
    size_t n = 0;
    uint32_t address = s->stored;
    for (uint32_t i = 0; i < s->ref_count; i++) {
        const ref *r = &a->refs[s->refs + i];
        if (n + width > BATCH || r->kind == REF_BYTES) {
            put(a, s, address, batch, n);
            address += (uint32_t)n;
            n = 0;
        }
        if (r->kind == REF_BYTES) {
            put(a, s, address, a->pool + r->first, (size_t)r->count);
            address += r->count;
            continue;
        }
        int64_t value = 0, top = (int64_t)1 << (8 * width);
        if (value_of(a, s, i, &value) && (value < -(top / 2) || value >= top))
            asm_error_at(a, s, r, "lo(), hi() and bank() take one byte of a value",
                         "%lld does not fit into %u byte%s: %lld to %lld", (long long)value, width,
                         width == 1 ? "" : "s", (long long)(-top / 2), (long long)(top - 1));
        split(a, value, width, batch + n);
        n += width;
    }
    put(a, s, address, batch, n);
}

/* Values that layout clipped are told here, once. */
static bool check_range(bl_program *a, const statement *s, int64_t least, int64_t most)
{
    int64_t value = 0;
    if (!value_of(a, s, 0, &value)) return false;
    if (value >= least && value <= most) return true;
    asm_error_at(a, s, &a->refs[s->refs], NULL, "%lld is outside %lld to %lld", (long long)value,
                 (long long)least, (long long)most);
    return false;
}

static void emit_fill(bl_program *a, const statement *s)
{
    uint8_t batch[BATCH];
    int64_t byte = 0;
    if (!check_range(a, s, 0, MOST_FILL)) return;
    if (s->ref_count > 1) {
        if (!value_of(a, s, 1, &byte)) return;
        if (byte < -128 || byte > 255) {
            asm_error_at(a, s, &a->refs[s->refs + 1], NULL, "%lld does not fit into a byte",
                         (long long)byte);
            return;
        }
    }
    memset(batch, (uint8_t)byte, sizeof batch);
    for (uint32_t done = 0; done < s->size && a->fatal == BL_OK;) {
        uint32_t n = s->size - done < BATCH ? s->size - done : BATCH;
        unsigned errors = a->errors;
        put(a, s, s->stored + done, batch, (size_t)n);
        if (a->errors > errors) return;
        done += n;
    }
}

static void emit_vector(bl_program *a, const statement *s)
{
    const bl_vector *v = bl_sheet_vector(a->sheet, s->form);
    unsigned width = (bl_sheet_address_bits(a->sheet) + 7) / 8;
    uint8_t bytes[4];
    if (!check_range(a, s, 0, ((int64_t)1 << bl_sheet_address_bits(a->sheet)) - 1)) return;
    int64_t value = 0;
    value_of(a, s, 0, &value);
    split(a, value, width, bytes);
    put(a, s, v->address, bytes, width);
}

static void emit_entry(bl_program *a, const statement *s)
{
    uint32_t entry;
    int64_t value = 0;
    if (!check_range(a, s, 0, UINT32_MAX)) return;
    value_of(a, s, 0, &value);
    if (bl_image_entry(a->image, &entry)) {
        asm_error_at(a, s, NULL, NULL, "the entry point is given twice");
        return;
    }
    bl_image_set_entry(a->image, (uint32_t)value);
}

static void emit_assert(bl_program *a, const statement *s)
{
    int64_t value = 0;
    if (!value_of(a, s, 0, &value) || value != 0) return;
    const ref *message = &a->refs[s->refs + 1];
    const char *text = a->sources[s->source].text + message->at;
    if (message->length == 0)
        asm_error_at(a, s, &a->refs[s->refs], NULL, "this does not hold");
    else
        asm_error_at(a, s, &a->refs[s->refs], NULL, "%.*s", (int)message->length, text);
}

void asm_emit(bl_program *a)
{
    for (size_t i = 0; i < a->statement_count && a->fatal == BL_OK; i++) {
        const statement *s = &a->statements[i];
        switch (s->kind) {
        case ST_INSTRUCTION: emit_instruction(a, s); break;
        case ST_BYTE:
        case ST_WORD:
        case ST_TRIPLE:
        case ST_LONG: emit_data(a, s); break;
        case ST_FILL: emit_fill(a, s); break;
        case ST_RESERVE:
        case ST_ORG: check_range(a, s, 0, UINT32_MAX); break;
        case ST_ALIGN: check_range(a, s, 1, UINT32_MAX); break;
        case ST_RUNAT:
            check_range(a, s, 0, ((int64_t)1 << bl_sheet_address_bits(a->sheet)) - 1);
            break;
        case ST_VECTOR: emit_vector(a, s); break;
        case ST_ENTRY: emit_entry(a, s); break;
        case ST_ASSERT: emit_assert(a, s); break;
        default: break;
        }
    }
}
