/* spell.c - every form with its names chosen, in a table by mnemonic and shape, so that the
 * assembler finds what is written in constant time however large the sheet is. */
#include "sheet_parts.h"

enum {
    KEY_BYTES = 5,   /* of a shape that its key holds whole, beside mnemonic and length */
    MAX_ALIKE = 1000 /* spellings of one shape, told apart by their values alone */
};

static uint64_t key_of(uint16_t mnemonic, const uint8_t *shape, size_t length)
{
    uint64_t key = (uint64_t)mnemonic << 8 | length;
    for (size_t i = 0; i < length && i < KEY_BYTES; i++)
        key = key << 8 | shape[i];
    return key;
}

static bool same_shape(const bl_sheet *s, uint16_t index, uint64_t key, const uint8_t *shape,
                       size_t length)
{
    if (s->spelling_keys[index] != key || s->spelling_lengths[index] != length) return false;
    return length <= KEY_BYTES || memcmp(s->shapes + s->spelling_shapes[index], shape, length) == 0;
}

/* The slot of the first spelling with this shape, or a free one. */
static size_t slot_of_spelling(const bl_sheet *s, uint64_t key, const uint8_t *shape, size_t length)
{
    size_t slot = sheet_spread(key, s->spelling_slots);
    while (s->spelling_table[slot] != 0 &&
           !same_shape(s, (uint16_t)(s->spelling_table[slot] - 1u), key, shape, length))
        slot = (slot + 1) & (s->spelling_slots - 1);
    return slot;
}

static bl_status grow_spellings(bl_sheet *s)
{
    size_t slots;
    uint16_t *t = sheet_table(s, s->spelling_count * 2 + s->form_count, &slots), *old;
    if (t == NULL) return BL_E_MEMORY;
    old = s->spelling_table;
    size_t old_slots = s->spelling_slots;
    s->spelling_table = t;
    s->spelling_slots = slots;
    for (size_t i = 0; i < old_slots; i++) {
        if (old[i] == 0) continue;
        uint16_t index = (uint16_t)(old[i] - 1u);
        t[slot_of_spelling(s, s->spelling_keys[index], s->shapes + s->spelling_shapes[index],
                           s->spelling_lengths[index])] = old[i];
    }
    bl_release(&s->memory, old);
    return BL_OK;
}

static const bl_operand *operand_of(const bl_sheet *s, const bl_form *f, uint8_t place)
{
    return &s->operands[f->operand[place]];
}

/* Does nothing tell these two apart when they are written? */
static bool written_alike(const bl_sheet *s, const bl_form *a, const bl_form *b)
{
    uint8_t i = 0, k = 0;
    while (i < a->operands || k < b->operands) {
        while (i < a->operands && operand_of(s, a, i)->kind == BL_OPERAND_ONEOF)
            i++;
        while (k < b->operands && operand_of(s, b, k)->kind == BL_OPERAND_ONEOF)
            k++;
        if (i == a->operands || k == b->operands) break;
        const bl_operand *x = operand_of(s, a, i++), *y = operand_of(s, b, k++);
        if (x->kind != y->kind || x->bits != y->bits || x->value != y->value ||
            x->first != y->first)
            return false;
    }
    return true;
}

/* Puts a spelling into the chain of its shape: shorter before longer, one number before any number,
 * otherwise in the order of the sheet. */
static bl_status add_to_chain(bl_sheet *s, size_t slot, uint16_t index, const bl_form **other)
{
    bl_spelling *n = &s->spellings[index];
    const bl_form *f = &s->forms[n->form];
    uint16_t *link = NULL, at = (uint16_t)(s->spelling_table[slot] - 1u);
    if (s->spelling_table[slot] == 0) at = BL_NO_FORM;
    unsigned alike = 0;
    for (uint16_t i = at; i != BL_NO_FORM; i = s->spellings[i].next) {
        *other = &s->forms[s->spellings[i].form];
        if (written_alike(s, f, *other)) return BL_E_OVERLAP;
        if (++alike == MAX_ALIKE) return BL_E_RANGE;
    }
    bool exact = f->slots == 1 && operand_of(s, f, f->slot[0])->kind == BL_OPERAND_EXACT;
    while (at != BL_NO_FORM &&
           (exact ? s->spellings[at].size < n->size : s->spellings[at].size <= n->size)) {
        link = &s->spellings[at].next;
        at = *link;
    }
    n->next = at;
    if (link != NULL)
        *link = index;
    else
        s->spelling_table[slot] = (uint16_t)(index + 1u);
    return BL_OK;
}

/* Room for one more; the arrays grow together. */
static bl_status make_room(bl_sheet *s)
{
    size_t n = s->spelling_count + 1;
    bl_spelling *a =
        bl_grown(&s->memory, s->spellings, &s->spelling_capacity, n, sizeof *s->spellings);
    if (a != NULL) s->spellings = a;
    uint64_t *k =
        bl_grown(&s->memory, s->spelling_keys, &s->key_capacity, n, sizeof *s->spelling_keys);
    if (k != NULL) s->spelling_keys = k;
    uint32_t *w =
        bl_grown(&s->memory, s->spelling_shapes, &s->shape_capacity, n, sizeof *s->spelling_shapes);
    if (w != NULL) s->spelling_shapes = w;
    uint8_t *l = bl_grown(&s->memory, s->spelling_lengths, &s->length_capacity, n, 1);
    if (l != NULL) s->spelling_lengths = l;
    uint8_t *t =
        bl_grown(&s->memory, s->shapes, &s->shapes_room, s->shapes_count + BL_SHAPE_MAX * 2, 1);
    if (t != NULL) s->shapes = t;
    if (a == NULL || k == NULL || w == NULL || l == NULL || t == NULL) return BL_E_MEMORY;
    if (n >= BL_NO_FORM) return BL_E_RANGE;
    return n * 2 > s->spelling_slots ? grow_spellings(s) : BL_OK;
}

/* The operand text of a form, with its names chosen. SIZE_MAX: it is too long. */
static size_t shape_of(const bl_sheet *s, const bl_form *f, const uint8_t *chosen, uint8_t *shape)
{
    size_t n = 0;
    for (uint8_t i = 0; i < f->pattern_length; i++) {
        uint8_t c = f->pattern[i];
        if (n == BL_SHAPE_MAX) return SIZE_MAX;
        if (c < 0x80) {
            shape[n++] = c;
            continue;
        }
        const bl_operand *o = operand_of(s, f, c & 0x7Fu);
        if (o->kind != BL_OPERAND_ONEOF) {
            shape[n++] = o->kind == BL_OPERAND_ANYOF ? BL_LIST : BL_SLOT;
            continue;
        }
        bl_text name = s->choices[o->first + chosen[c & 0x7Fu]].name;
        if (n + name.length > BL_SHAPE_MAX) return SIZE_MAX;
        for (size_t k = 0; k < name.length; k++)
            shape[n++] = (uint8_t)bl_upper(name.at[k]);
    }
    return n;
}

/* Of the shape only what does not fit into the key is kept. */
static bl_status add_spelling(bl_sheet *s, uint16_t form, const uint8_t *chosen,
                              const bl_form **other)
{
    uint8_t shape[BL_SHAPE_MAX];
    const bl_form *f = &s->forms[form];
    size_t length = shape_of(s, f, chosen, shape);
    bl_status status = make_room(s);
    if (status != BL_OK || length == SIZE_MAX) return status != BL_OK ? status : BL_E_RANGE;
    uint16_t index = (uint16_t)s->spelling_count++;
    bl_spelling *n = &s->spellings[index];
    *n = (bl_spelling){.form = form, .next = BL_NO_FORM, .size = f->size};
    memcpy(n->chosen, chosen, sizeof n->chosen);
    s->spelling_keys[index] = key_of(f->mnemonic, shape, length);
    s->spelling_lengths[index] = (uint8_t)length;
    s->spelling_shapes[index] = (uint32_t)s->shapes_count;
    memcpy(s->shapes + s->shapes_count, shape, length);
    if (length > KEY_BYTES) s->shapes_count += length;
    return add_to_chain(s, slot_of_spelling(s, s->spelling_keys[index], shape, length), index,
                        other);
}

/* The next choice of names, counted like the digits of a number. */
static bool next_choice(const bl_sheet *s, const bl_form *f, uint8_t *chosen)
{
    for (uint8_t i = 0; i < f->operands; i++) {
        if (operand_of(s, f, i)->kind != BL_OPERAND_ONEOF) continue;
        if (++chosen[i] < operand_of(s, f, i)->count) return true;
        chosen[i] = 0;
    }
    return false;
}

uint16_t sheet_chain_of(const bl_sheet *s, const bl_decoded *d)
{
    uint8_t chosen[BL_FORM_OPERANDS] = {0}, shape[BL_SHAPE_MAX];
    const bl_form *f = d->form;
    for (uint8_t i = 0; i < f->operands; i++) {
        const bl_operand *o = operand_of(s, f, i);
        if (o->kind != BL_OPERAND_ONEOF) continue;
        while (chosen[i] + 1 < o->count && s->choices[o->first + chosen[i]].code != d->value[i])
            chosen[i]++;
    }
    size_t length = shape_of(s, f, chosen, shape);
    const bl_spelling *w = bl_sheet_find(s, f->mnemonic, shape, length);
    return w == NULL ? BL_NO_FORM : (uint16_t)(w - s->spellings);
}

bl_status sheet_spell(bl_sheet *s, const bl_form **culprit, const bl_form **other)
{
    for (size_t i = 0; i < s->form_count; i++) {
        uint8_t chosen[BL_FORM_OPERANDS] = {0};
        do {
            bl_status status = add_spelling(s, (uint16_t)i, chosen, other);
            *culprit = &s->forms[i];
            if (status != BL_OK) return status;
        } while (next_choice(s, &s->forms[i], chosen));
    }
    for (size_t i = 0; i < s->spelling_count; i++)
        if (s->spellings[i].next != BL_NO_FORM)
            s->forms[s->spellings[s->spellings[i].next].form].rivals = true;
    return BL_OK;
}

const bl_spelling *bl_sheet_find(const bl_sheet *s, uint16_t mnemonic, const uint8_t *shape,
                                 size_t length)
{
    if (s->spelling_slots == 0) return NULL;
    size_t slot = slot_of_spelling(s, key_of(mnemonic, shape, length), shape, length);
    return s->spelling_table[slot] == 0 ? NULL : &s->spellings[s->spelling_table[slot] - 1];
}

size_t bl_sheet_spellings(const bl_sheet *s)
{
    return s->spelling_count;
}

const bl_spelling *bl_sheet_spelling(const bl_sheet *s, size_t index)
{
    return index < s->spelling_count ? &s->spellings[index] : NULL;
}
