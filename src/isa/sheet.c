/* sheet.c - the life of a sheet, and plain questions to it. */
#include "sheet_parts.h"

#include "shipped.h"

char *sheet_keep(bl_sheet *s, size_t length)
{
    BL_ASSERT(s->text_count <= s->text_capacity);
    enum { ROOM = 4096 };
    if (s->spare_left < length) {
        char **texts =
            bl_grown(&s->memory, s->texts, &s->text_capacity, s->text_count + 1, sizeof *texts);
        if (texts != NULL) s->texts = texts;
        size_t capacity = length > ROOM ? length : ROOM;
        char *fresh = texts == NULL ? NULL : s->memory.resize(s->memory.context, NULL, capacity);
        if (fresh == NULL) return NULL;
        s->texts[s->text_count++] = s->spare = fresh;
        s->spare_left = capacity;
    }
    char *kept = s->spare;
    s->spare += length;
    s->spare_left -= length;
    return kept;
}

/* A sheet that failed half way is closed by the same function: every array may be NULL. */
void bl_sheet_close(bl_sheet *s)
{
    if (s == NULL) return;
    bl_memory memory = s->memory;
    for (size_t i = 0; i < s->text_count; i++)
        bl_release(&memory, s->texts[i]);
    void *blocks[] = {s->texts,
                      s->choices,
                      s->rows,
                      s->modes,
                      s->forms,
                      s->mnemonics,
                      s->mnemonic_table,
                      s->form_table,
                      s->spellings,
                      s->spelling_keys,
                      s->spelling_shapes,
                      s->spelling_lengths,
                      s->shapes,
                      s->spelling_table,
                      s->nodes,
                      s};
    for (size_t i = 0; i < sizeof blocks / sizeof blocks[0]; i++)
        bl_release(&memory, blocks[i]);
}

bl_text bl_sheet_name(const bl_sheet *s)
{
    return s->name;
}

bl_text bl_sheet_taken(const bl_sheet *s, size_t index)
{
    return index < SHEET_DEPTH ? s->taken[index] : (bl_text){NULL, 0};
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

bool bl_sheet_access(const bl_sheet *s, uint16_t *halves, uint16_t *own_ns)
{
    *halves = s->access_halves;
    *own_ns = s->access_own;
    return s->access_halves > 0;
}

unsigned bl_sheet_address_units(const bl_sheet *s)
{
    return (s->address_bits + s->unit - 1) / s->unit;
}

unsigned bl_sheet_unit_bits(const bl_sheet *s)
{
    return s->unit;
}

unsigned bl_sheet_unit_bytes(const bl_sheet *s)
{
    return (s->unit + 7) / 8;
}

unsigned bl_sheet_word_bits(const bl_sheet *s)
{
    return s->word;
}

bool bl_sheet_has_cycles(const bl_sheet *s)
{
    return !s->no_cycles;
}

bl_radix bl_sheet_radix(const bl_sheet *s)
{
    return s->radix;
}

bool bl_sheet_uses(const bl_sheet *s, char c)
{
    unsigned i = (unsigned char)c;
    return i < 128 && (s->used[i >> 3] >> (i & 7) & 1) != 0;
}

size_t bl_sheet_forms(const bl_sheet *s)
{
    return s->form_count;
}

const bl_form *bl_sheet_form(const bl_sheet *s, size_t index)
{
    return index < s->form_count ? &s->forms[index] : NULL;
}

/* What a sheet lists: how many there are, and one of them or NULL. */
#define SHEET_LIST(many, one, type, items, count)                                                  \
    size_t many(const bl_sheet *s)                                                                 \
    {                                                                                              \
        return s->count;                                                                           \
    }                                                                                              \
    const type *one(const bl_sheet *s, size_t index)                                               \
    {                                                                                              \
        return index < s->count ? &s->items[index] : NULL;                                         \
    }
SHEET_LIST(bl_sheet_operands, bl_sheet_operand, bl_operand, operands, operand_count)
SHEET_LIST(bl_sheet_vectors, bl_sheet_vector, bl_vector, vectors, vector_count)
SHEET_LIST(bl_sheet_extras, bl_sheet_extra, bl_extra, extras, extra_count)
SHEET_LIST(bl_sheet_rows, bl_sheet_row, bl_row, rows, row_count)
SHEET_LIST(bl_sheet_modes, bl_sheet_mode, bl_row, modes, mode_count)
SHEET_LIST(bl_sheet_suffixes, bl_sheet_suffix, bl_row, suffixes, suffix_count)

const bl_choice *bl_sheet_choice(const bl_sheet *s, size_t index)
{
    return index < s->choice_count ? &s->choices[index] : NULL;
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
    return bl_shipped_sheets_count;
}

bl_text bl_sheet_shipped_name(size_t index)
{
    return index < bl_shipped_sheets_count ? bl_text_of(bl_shipped_sheets[index].name)
                                           : (bl_text){NULL, 0};
}

bl_text bl_sheet_shipped_text(size_t index)
{
    if (index >= bl_shipped_sheets_count) return (bl_text){NULL, 0};
    return (bl_text){(const char *)bl_shipped_sheets[index].bytes, bl_shipped_sheets[index].size};
}

bl_status bl_sheet_open(const bl_memory *memory, bl_text cpu, const bl_sink *sink, bl_sheet **sheet)
{
    char hint[200];
    size_t n = bl_format(hint, sizeof hint, "known:");
    for (size_t i = 0; i < bl_shipped_sheets_count; i++) {
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
