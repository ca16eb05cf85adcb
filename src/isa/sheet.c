/* sheet.c - look-ups in a sheet, all in constant time. */
#include "sheet.h"

#include "shipped.h"

uint64_t sheet_key(bl_text name)
{
    uint64_t key = 0;
    if (name.length > BL_MNEMONIC_MOST) return 0;
    for (size_t i = 0; i < name.length; i++)
        key = key << 8 | (uint8_t)bl_upper(name.at[i]);
    return key;
}

static size_t spread(uint64_t key, size_t slots)
{
    key *= 0x9E3779B97F4A7C15u;
    return (size_t)(key >> 40) & (slots - 1);
}

static uint64_t pack(const uint8_t *shape, size_t length)
{
    uint64_t key = length;
    for (size_t i = 0; i < length && i < 7; i++)
        key = key << 8 | shape[i];
    return key;
}

static size_t form_slot(const bl_sheet *s, uint16_t mnemonic, uint64_t key)
{
    return spread(key * 31 + mnemonic, s->form_slots);
}

/* Shapes of up to seven bytes are told apart by their key alone. */
static bool same_group(const bl_form *f, uint16_t mnemonic, uint64_t key, const uint8_t *shape,
                       size_t length)
{
    return f->shape_key == key && f->mnemonic == mnemonic &&
           (length < 8 || memcmp(f->shape, shape, length) == 0);
}

/* Puts a form into its group: shorter before longer, otherwise in the order of the sheet. */
static void add_form(bl_sheet *s, uint16_t index)
{
    bl_form *f = &s->forms[index];
    f->shape_key = pack(f->shape, f->shape_length);
    size_t slot = form_slot(s, f->mnemonic, f->shape_key);
    while (s->form_table[slot] != 0 && !same_group(&s->forms[s->form_table[slot] - 1], f->mnemonic,
                                                   f->shape_key, f->shape, f->shape_length))
        slot = (slot + 1) & (s->form_slots - 1);
    f->next = BL_NO_FORM;
    uint16_t first = (uint16_t)(s->form_table[slot] - 1u);
    if (s->form_table[slot] == 0 || s->forms[first].size > f->size) {
        if (s->form_table[slot] != 0) f->next = first;
        s->form_table[slot] = (uint16_t)(index + 1u);
        return;
    }
    uint16_t at = first;
    while (s->forms[at].next != BL_NO_FORM && s->forms[s->forms[at].next].size <= f->size)
        at = s->forms[at].next;
    f->next = s->forms[at].next;
    s->forms[at].next = index;
}

static uint16_t *table(bl_sheet *s, size_t items, size_t *slots)
{
    *slots = 16;
    while (*slots < items * 2)
        *slots *= 2;
    uint16_t *t = s->memory.resize(s->memory.context, NULL, *slots * sizeof *t);
    if (t != NULL) memset(t, 0, *slots * sizeof *t);
    return t;
}

bl_status sheet_index(bl_sheet *s)
{
    s->mnemonic_table = table(s, s->mnemonic_count, &s->mnemonic_slots);
    s->form_table = table(s, s->form_count, &s->form_slots);
    if (s->mnemonic_table == NULL || s->form_table == NULL) return BL_E_MEMORY;
    for (size_t i = 0; i < s->mnemonic_count; i++) {
        size_t slot = spread(s->mnemonics[i].key, s->mnemonic_slots);
        while (s->mnemonic_table[slot] != 0)
            slot = (slot + 1) & (s->mnemonic_slots - 1);
        s->mnemonic_table[slot] = (uint16_t)(i + 1);
    }
    for (size_t i = 0; i < s->form_count; i++)
        add_form(s, (uint16_t)i);
    return BL_OK;
}

int32_t bl_sheet_find_mnemonic(const bl_sheet *s, bl_text name)
{
    uint64_t key = sheet_key(name);
    if (key == 0) return -1;
    size_t slot = spread(key, s->mnemonic_slots);
    while (s->mnemonic_table[slot] != 0) {
        uint16_t i = (uint16_t)(s->mnemonic_table[slot] - 1u);
        if (s->mnemonics[i].key == key) return i;
        slot = (slot + 1) & (s->mnemonic_slots - 1);
    }
    return -1;
}

const bl_form *bl_sheet_find(const bl_sheet *s, uint16_t mnemonic, const uint8_t *shape,
                             size_t length)
{
    uint64_t key = pack(shape, length);
    size_t slot = form_slot(s, mnemonic, key);
    while (s->form_table[slot] != 0) {
        const bl_form *f = &s->forms[s->form_table[slot] - 1];
        if (same_group(f, mnemonic, key, shape, length)) return f;
        slot = (slot + 1) & (s->form_slots - 1);
    }
    return NULL;
}

bool bl_sheet_is_reserved(const bl_sheet *s, bl_text name)
{
    if (name.length > s->reserved_longest) return false;
    for (size_t i = 0; i < s->reserved_count; i++)
        if (bl_text_same_nocase(s->reserved[i], name)) return true;
    return false;
}

void bl_sheet_close(bl_sheet *s)
{
    if (s == NULL) return;
    bl_memory memory = s->memory;
    for (size_t i = 0; i < s->text_count; i++)
        bl_release(&memory, s->texts[i]);
    bl_release(&memory, s->forms);
    bl_release(&memory, s->mnemonics);
    bl_release(&memory, s->mnemonic_table);
    bl_release(&memory, s->form_table);
    bl_release(&memory, s);
}

bl_text bl_sheet_name(const bl_sheet *s)
{
    return s->name;
}

bl_text bl_sheet_title(const bl_sheet *s)
{
    return s->title;
}

bl_order bl_sheet_order(const bl_sheet *s)
{
    return s->order;
}

unsigned bl_sheet_address_bits(const bl_sheet *s)
{
    return s->address_bits;
}

size_t bl_sheet_forms(const bl_sheet *s)
{
    return s->form_count;
}

const bl_form *bl_sheet_form(const bl_sheet *s, size_t index)
{
    return index < s->form_count ? &s->forms[index] : NULL;
}

size_t bl_sheet_operands(const bl_sheet *s)
{
    return s->operand_count;
}

const bl_operand *bl_sheet_operand(const bl_sheet *s, size_t index)
{
    return index < s->operand_count ? &s->operands[index] : NULL;
}

size_t bl_sheet_vectors(const bl_sheet *s)
{
    return s->vector_count;
}

const bl_vector *bl_sheet_vector(const bl_sheet *s, size_t index)
{
    return index < s->vector_count ? &s->vectors[index] : NULL;
}

size_t bl_sheet_extras(const bl_sheet *s)
{
    return s->extra_count;
}

const bl_extra *bl_sheet_extra(const bl_sheet *s, size_t index)
{
    return index < s->extra_count ? &s->extras[index] : NULL;
}

size_t bl_sheet_mnemonics(const bl_sheet *s)
{
    return s->mnemonic_count;
}

bl_text bl_sheet_mnemonic(const bl_sheet *s, size_t index)
{
    return index < s->mnemonic_count ? s->mnemonics[index].name : (bl_text){NULL, 0};
}

size_t bl_sheet_shipped_count(void)
{
    return bl_shipped_sheet_count;
}

bl_text bl_sheet_shipped_name(size_t index)
{
    return index < bl_shipped_sheet_count ? bl_text_of(bl_shipped_sheets[index].name)
                                          : (bl_text){NULL, 0};
}

bl_text bl_sheet_shipped_text(size_t index)
{
    if (index >= bl_shipped_sheet_count) return (bl_text){NULL, 0};
    return (bl_text){(const char *)bl_shipped_sheets[index].bytes, bl_shipped_sheets[index].size};
}

bl_status bl_sheet_open(const bl_memory *memory, bl_text cpu, const bl_sink *sink, bl_sheet **sheet)
{
    char hint[160];
    size_t n = bl_format(hint, sizeof hint, "known:");
    for (size_t i = 0; i < bl_shipped_sheet_count; i++) {
        bl_text name = bl_sheet_shipped_name(i);
        if (bl_text_same_nocase(name, cpu))
            return bl_sheet_read(memory, name.at, bl_sheet_shipped_text(i), NULL, sink, sheet);
        if (n < sizeof hint)
            n += bl_format(hint + n, sizeof hint - n, "%s %s", i > 0 ? "," : "", name.at);
    }
    bl_report(sink, BL_ERROR, NULL, 0, hint, "no sheet for a CPU named '%.*s'",
              (int)(cpu.length & 63), cpu.at);
    return BL_E_NOT_FOUND;
}
