/* disasm.c - gathers the units of a range and the names, then traces and writes. */
#include "bootlace/crc.h"
#include "disassembly.h"

#define MAX_UNITS 0x4000000L

/* The part of a piece of the image that lies in the range, as whole units. */
static void take_piece(disasm *d, const bl_piece *p)
{
    uint64_t range_first = d->o->range.first, range_end = range_first + d->o->range.count;
    uint64_t first = ((uint64_t)p->first + d->wide - 1) / d->wide;
    uint64_t end = ((uint64_t)p->first + p->count) / d->wide;
    if (d->o->range.count > 0) {
        if (first < range_first) first = range_first;
        if (end > range_end) end = range_end;
    }
    if (first >= end) return;
    stretch *s = bl_grown(&d->o->memory, d->stretches, &d->stretch_capacity, d->stretch_count + 1,
                          sizeof *s);
    if (s == NULL) {
        d->status = BL_E_MEMORY;
        return;
    }
    d->stretches = s;
    s[d->stretch_count++] = (stretch){(uint32_t)first, (size_t)(end - first),
                                      p->bytes + (first * d->wide - p->first), d->cell_count};
    d->cell_count += (size_t)(end - first);
}

static void sift_names(bl_disasm_name *names, size_t root, size_t count)
{
    for (;;) {
        size_t child = root * 2 + 1;
        if (child >= count) return;
        if (child + 1 < count && names[child].address < names[child + 1].address) child++;
        if (names[root].address >= names[child].address) return;
        bl_disasm_name turn = names[root];
        names[root] = names[child];
        names[child] = turn;
        root = child;
    }
}

/* Names by address; one for each. */
static void sort_names(disasm *d)
{
    bl_disasm_name *names = d->names;
    size_t count = d->name_count, kept = 0;
    for (size_t i = count / 2; i > 0; i--)
        sift_names(names, i - 1, count);
    for (size_t i = count; i > 1; i--) {
        bl_disasm_name turn = names[0];
        names[0] = names[i - 1];
        names[i - 1] = turn;
        sift_names(names, 0, i - 1);
    }
    for (size_t i = 0; i < count; i++)
        if (kept == 0 || names[kept - 1].address != names[i].address) names[kept++] = names[i];
    d->name_count = kept;
}

/* Words that mean something else where a name could stand. */
static bool is_taken(bl_text name)
{
    static const char *const words[] = {"here", "mod",    "lo",      "hi",  "bank",  "pick",
                                        "sine", "sizeof", "defined", "cpu", "board", "area"};
    for (size_t i = 0; i < sizeof words / sizeof words[0]; i++)
        if (bl_text_same(name, bl_text_of(words[i]))) return true;
    return false;
}

/* Does it look like the labels that are made up here: at_1F00? */
static bool looks_made_up(bl_text name)
{
    if (name.length < 4 || memcmp(name.at, "at_", 3) != 0) return false;
    for (size_t i = 3; i < name.length; i++)
        if (bl_hex_digit(name.at[i]) < 0) return false;
    return true;
}

/* Would the assembler take this name as a label? One with a dot belongs to a group, one with a low
 * line in front to another label. */
static bool is_label_name(const disasm *d, bl_text name)
{
    enum { LONGEST = 100 };
    if (name.length == 0 || name.length > LONGEST || !bl_is_letter(name.at[0])) return false;
    for (size_t i = 0; i < name.length; i++)
        if (!bl_is_letter(name.at[i]) && !bl_is_digit(name.at[i]) && name.at[i] != '_')
            return false;
    return !bl_sheet_is_reserved(d->sheet, name) && !is_taken(name) && !looks_made_up(name);
}

/* Drops all but the first of names that are alike: a label can stand once. */
static bool drop_repeated(disasm *d)
{
    const bl_memory *m = &d->o->memory;
    size_t slots = 64, kept = 0;
    while (slots < d->name_count * 2)
        slots *= 2;
    uint32_t *table = m->resize(m->context, NULL, slots * sizeof *table);
    if (table == NULL) return false;
    memset(table, 0, slots * sizeof *table);
    for (size_t i = 0; i < d->name_count; i++) {
        bl_text name = d->names[i].name;
        size_t slot = bl_crc32(0, name.at, name.length) & (slots - 1);
        while (table[slot] != 0 && !bl_text_same(d->names[table[slot] - 1].name, name))
            slot = (slot + 1) & (slots - 1);
        if (table[slot] != 0) continue;
        d->names[kept++] = d->names[i];
        table[slot] = (uint32_t)kept;
    }
    d->name_count = kept;
    bl_release(m, table);
    return true;
}

static bool take_names(disasm *d)
{
    const bl_disasm_options *o = d->o;
    if (o->name_count == 0) return true;
    d->names = o->memory.resize(o->memory.context, NULL, o->name_count * sizeof *d->names);
    if (d->names == NULL) return false;
    for (size_t i = 0; i < o->name_count; i++) {
        const bl_disasm_name *n = &o->names[i];
        if (!is_label_name(d, n->name)) continue;
        d->names[d->name_count++] = *n;
        const stretch *s = disasm_find(d, n->address);
        if (s != NULL) d->cells[s->cells + (n->address - s->first)] |= CELL_LABEL;
    }
    sort_names(d);
    return drop_repeated(d);
}

/* Code is followed first; what nothing leads to is data. */
bl_status bl_disassemble(const bl_disasm_options *options, bl_disasm_counts *counts,
                         const bl_writer *writer)
{
    const bl_memory *m = &options->memory;
    disasm d = {.o = options,
                .sheet = options->sheet,
                .wide = bl_sheet_unit_bytes(options->sheet),
                .big = bl_sheet_order(options->sheet) == BL_BIG};
    for (size_t i = 0; i < bl_image_pieces(options->image) && d.status == BL_OK; i++) {
        bl_piece p = bl_image_piece(options->image, i);
        take_piece(&d, &p);
    }
    if (d.status == BL_OK && (d.cell_count == 0 || d.cell_count > (size_t)MAX_UNITS))
        d.status = BL_E_RANGE;
    if (d.status == BL_OK) {
        d.cells = m->resize(m->context, NULL, d.cell_count);
        if (d.cells == NULL) d.status = BL_E_MEMORY;
    }
    if (d.status == BL_OK) {
        memset(d.cells, 0, d.cell_count);
        if (!take_names(&d)) d.status = BL_E_MEMORY;
    }
    if (d.status == BL_OK) disasm_trace(&d);
    if (d.status == BL_OK) d.status = disasm_write(&d, counts, writer);
    bl_release(m, d.stretches);
    bl_release(m, d.cells);
    bl_release(m, d.queue);
    bl_release(m, d.names);
    return d.status;
}
