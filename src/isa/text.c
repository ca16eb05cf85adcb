/* text.c - instructions as text, and whether the assembler would make the same of it. */
#include "base/stream.h"
#include "sheet_parts.h"

static void put_number(bl_room *o, int64_t value, unsigned bits, bl_radix radix)
{
    char digits[24];
    unsigned shift = radix == BL_OCTAL ? 3 : 4, min = (bits + shift - 1) / shift, n = 0;
    uint64_t v = value < 0 ? 0 - (uint64_t)value : (uint64_t)value;
    if (value < 0) bl_room_put(o, '-');
    do {
        digits[n++] = "0123456789ABCDEF"[v & ((1u << shift) - 1)];
        v >>= shift;
    } while (v != 0 || n < min);
    if (radix != BL_OCTAL) bl_room_put(o, '$');
    while (n > 0)
        bl_room_put(o, digits[--n]);
    if (radix == BL_OCTAL) bl_room_put(o, 'q');
}

size_t bl_value_text(char *buffer, size_t capacity, int64_t value, unsigned bits, bl_radix radix)
{
    bl_room o = {buffer, capacity, 0};
    put_number(&o, value, bits, radix);
    bl_room_end(&o);
    return o.length;
}

static void put_names(bl_room *o, const bl_sheet *s, const bl_operand *operand, uint32_t stored)
{
    bool list = operand->kind == BL_OPERAND_ANYOF, first = true;
    for (uint16_t i = 0; i < operand->count; i++) {
        const bl_choice *c = &s->choices[operand->first + i];
        bool here = list ? c->code != 0 && (stored & c->code) == c->code : c->code == stored;
        if (!here) continue;
        if (!first) bl_room_put(o, ',');
        bl_room_text(o, c->name);
        if (!list) return;
        first = false;
        stored &= ~(uint32_t)c->code;
    }
}

/* A name where there is one for the address; a number where a name would leave the form open. */
static void put_operand(bl_room *o, const bl_sheet *s, const bl_decoded *d, uint8_t place,
                        uint32_t address, uint32_t direct, const bl_label_source *labels)
{
    const bl_operand *operand = &s->operands[d->form->operand[place]];
    uint32_t stored = d->value[place], end = address + d->form->size;
    if (operand->kind >= BL_OPERAND_ANYOF) {
        put_names(o, s, operand, stored);
        return;
    }
    int64_t value = bl_operand_value(operand, stored, address, end, direct);
    bl_text name = {NULL, 0};
    if (bl_operand_is_address(operand)) {
        /* A number settles at once what form is meant. */
        bool moves = operand->kind == BL_OPERAND_DIRECT && direct != 0;
        if (labels != NULL && !moves) name = labels->label(labels->context, (uint32_t)value);
        uint32_t beyond = 0;
        if (labels != NULL && name.length == 0 && !moves && labels->near != NULL)
            name = labels->near(labels->context, (uint32_t)value, &beyond);
        char sum[16] = "";
        if (beyond > 0) bl_format(sum, sizeof sum, "+%lu", (unsigned long)beyond);
        if (name.length > 0) {
            bl_room_text(o, name);
            bl_room_text(o, bl_text_of(sum));
        } else
            put_number(o, value,
                       operand->kind == BL_OPERAND_ADDRESS ? operand->bits : s->address_bits,
                       s->radix);
    } else if (operand->kind == BL_OPERAND_SIGNED || operand->bits < 5) {
        char text[8]; /* small: a bit, a distance */
        bl_format(text, sizeof text, "%ld", (long)value);
        bl_room_text(o, bl_text_of(text));
    } else {
        put_number(o, value, operand->bits, s->radix);
    }
}

/* Is the '+' at this place of the pattern followed by a negative number? */
static bool is_difference(const bl_sheet *s, const bl_decoded *d, uint8_t at)
{
    const bl_form *f = d->form;
    uint8_t next = at + 1 < f->pattern_length ? f->pattern[at + 1] : 0;
    if (next < 0x80) return false;
    const bl_operand *o = &s->operands[f->operand[next & 0x7F]];
    return o->kind == BL_OPERAND_SIGNED && bl_operand_value(o, d->value[next & 0x7F], 0, 0, 0) < 0;
}

size_t bl_instruction_text(const bl_sheet *s, const bl_decoded *d, uint32_t address,
                           uint32_t direct, const bl_label_source *labels, char *buffer,
                           size_t capacity)
{
    bl_room o = {buffer, capacity, 0};
    const bl_form *f = d->form;
    bl_room_text(&o, s->mnemonics[f->mnemonic].name);
    if (f->pattern_length > 0) bl_room_put(&o, ' ');
    for (uint8_t i = 0; i < f->pattern_length; i++) {
        uint8_t c = f->pattern[i];
        if (c >= 0x80)
            put_operand(&o, s, d, c & 0x7F, address, direct, labels);
        else if (c != '+' || !is_difference(s, d, i))
            bl_room_put(&o, (char)c);
    }
    bl_room_end(&o);
    return o.length;
}

/* ---- would it be assembled alike? ---- */

/* Do the values behind an instruction fit this form? Slots are in the order of writing. */
static bool values_fit(const bl_sheet *s, const bl_form *f, const int64_t *values, uint32_t address,
                       uint32_t direct)
{
    for (uint8_t i = 0; i < f->slots; i++)
        if (!bl_operand_fits(&s->operands[f->operand[f->slot[i]]], values[i], address,
                             address + f->size, direct))
            return false;
    return true;
}

/* Would the assembler make the same units of this text? Then it may be shown as an instruction. */
bool bl_instruction_is_usual(const bl_sheet *s, const bl_decoded *d, uint32_t address,
                             uint32_t direct)
{
    const bl_form *f = d->form;
    int64_t values[BL_FORM_SLOTS] = {0};
    uint32_t end = address + f->size;
    if (!d->exact || ((uint64_t)address + f->size - 1) >> s->address_bits != 0) return false;
    for (uint8_t i = 0; i < f->slots; i++) {
        const bl_operand *o = &s->operands[f->operand[f->slot[i]]];
        uint32_t stored = d->value[f->slot[i]];
        values[i] = bl_operand_value(o, stored, address, end, direct);
        if (o->kind == BL_OPERAND_ANYOF && stored == 0) return false; /* nothing to write */
    }
    if (!values_fit(s, f, values, address, direct)) return false;
    if (!f->rivals) return true;
    for (uint16_t i = sheet_chain_of(s, d); i != BL_NO_FORM; i = s->spellings[i].next) {
        const bl_form *rival = &s->forms[s->spellings[i].form];
        if (rival == f) return true;
        if (rival->slots == f->slots && values_fit(s, rival, values, address, direct)) return false;
    }
    return true;
}
