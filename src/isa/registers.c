/* registers.c - what the CPU holds, for people and debuggers: names, widths, pairs, flags. */
#include "sheet_read.h"

size_t bl_sheet_registers(const bl_sheet *s)
{
    return s->register_count;
}

const bl_sheet_register *bl_sheet_register_at(const bl_sheet *s, size_t index)
{
    BL_ASSERT(index < s->register_count);
    return &s->registers[index];
}

/* register_count: there is none of this name. */
static size_t index_of_register(const bl_sheet *s, bl_text name)
{
    size_t i = 0;
    while (i < s->register_count && !bl_text_same_nocase(s->registers[i].name, name))
        i++;
    return i;
}

static bl_sheet_register *register_named(bl_sheet *s, bl_text name)
{
    size_t i = index_of_register(s, name);
    return i < s->register_count ? &s->registers[i] : NULL;
}

const bl_sheet_register *bl_sheet_register_named(const bl_sheet *s, bl_text name)
{
    size_t i = index_of_register(s, name);
    return i < s->register_count ? &s->registers[i] : NULL;
}

bl_text bl_sheet_stack(const bl_sheet *s)
{
    return s->stack;
}

/* Keeps a register. One of the sheet that was taken may be given again. */
static void keep_register(reader *r, const bl_sheet_register *one)
{
    bl_sheet *s = r->sheet;
    bl_sheet_register *before = register_named(s, one->name);
    if (r->status != BL_OK) return;
    if (before != NULL)
        *before = *one;
    else if (s->register_count == SHEET_REGISTERS)
        read_fault(r, one->name, NULL, "more than %d registers", SHEET_REGISTERS);
    else
        s->registers[s->register_count++] = *one;
}

/* registers NAME BITS NAME BITS ... */
static void read_register_list(reader *r)
{
    do {
        bl_sheet_register one = {.name = read_name(r)};
        bl_text at = bl_text_trim(r->lines.rest);
        one.bits = (uint8_t)read_number(r, 32);
        if (r->status == BL_OK && one.bits == 0)
            read_fault(r, at, "registers PC 16 A 8", "a register has 1 to 32 bits");
        keep_register(r, &one);
    } while (r->status == BL_OK && bl_text_trim(r->lines.rest).length > 0);
}

/* A register that a line refers to, or NULL with the fault told. */
static bl_sheet_register *known_register(reader *r)
{
    bl_text name = read_word(r);
    bl_sheet_register *found = register_named(r->sheet, name);
    if (found == NULL)
        read_fault(r, name, "declare it with 'registers NAME BITS'", "there is no such register");
    return found;
}

/* pair NAME HIGH LOW */
static void read_pair(reader *r)
{
    bl_sheet_register one = {.name = read_name(r)};
    const bl_sheet_register *high = known_register(r), *low = known_register(r);
    if (high == NULL || low == NULL) return;
    if (high->bits + low->bits > 32 || high->high.length > 0 || low->high.length > 0) {
        read_fault(r, one.name, NULL, "a pair is two registers of 32 bits together");
        return;
    }
    one.bits = (uint8_t)(high->bits + low->bits);
    one.high = high->name;
    one.low = low->name;
    keep_register(r, &one);
}

/* flags NAME LETTERS */
static void read_flags(reader *r)
{
    bl_sheet_register *one = known_register(r);
    bl_text letters = read_word(r);
    if (one == NULL) return;
    if (letters.length != one->bits)
        read_fault(r, letters, "a letter for each bit, the highest first; - for one without",
                   "'%.*s' has %u bits", (int)(one->name.length & 63), one->name.at, one->bits);
    else
        one->flags = letters;
}

bool read_registers(reader *r, bl_text keyword)
{
    if (read_is(keyword, "registers"))
        read_register_list(r);
    else if (read_is(keyword, "pair"))
        read_pair(r);
    else if (read_is(keyword, "flags"))
        read_flags(r);
    else if (read_is(keyword, "stack")) {
        const bl_sheet_register *one = known_register(r);
        if (one != NULL) r->sheet->stack = one->name;
    } else
        return false;
    return true;
}
