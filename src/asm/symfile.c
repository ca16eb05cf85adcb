/* symfile.c - the symbol file, docs/symbols.md: written for other sources and other tools. */
#include "assembler.h"
#include "base/line_reader.h"

static const char first_line[] = "bootlace symbols 1";

/* A name of any length: level by level, from the outermost. */
static bl_status write_name(const bl_program *a, const bl_writer *w, uint32_t index)
{
    size_t depth = 0;
    bl_status s = BL_OK;
    for (uint32_t i = index; i != 0; i = a->names.symbols[i].parent)
        depth++;
    while (depth-- > 0 && s == BL_OK) {
        uint32_t level = index;
        for (size_t up = 0; up < depth; up++)
            level = a->names.symbols[level].parent;
        const symbol *y = &a->names.symbols[level];
        s = bl_print(w, depth > 0 ? "%.*s." : "%.*s", (int)y->length, y->name);
    }
    return s;
}

/* docs/symbols.md: one line a symbol, so that other tools can read it with three lines of script.
 */
bl_status bl_symbols_write(const bl_program *a, const bl_writer *w)
{
    bl_text cpu = bl_sheet_name(a->machine.sheet);
    uint32_t entry;
    bl_status s = bl_print(w, "%s\ncpu %.*s\n", first_line, (int)cpu.length, cpu.at);
    if (s == BL_OK && bl_image_entry(a->image, &entry))
        s = bl_print(w, "entry $%04lX\n",
                     (unsigned long)(entry / bl_sheet_unit_bytes(a->machine.sheet)));
    for (uint32_t i = 1; i < a->names.symbol_count && s == BL_OK; i++) {
        const symbol *y = &a->names.symbols[i];
        char value[32];
        if (!asm_is_listed(a, i)) continue;
        uint64_t v = (uint64_t)y->value;
        bl_format(value, sizeof value, "%s$%04llX", y->value < 0 ? "-" : "",
                  (unsigned long long)(y->value < 0 ? 0 - v : v));
        s = bl_print(w, "%s ", y->kind == SYMBOL_LABEL ? "label" : "value");
        if (s == BL_OK) s = write_name(a, w, i);
        if (s == BL_OK)
            s = bl_print(w, " %s %lu %s\n", value,
                         (unsigned long)asm_line_of(a, y->source, y->line),
                         a->code.sources[y->source].name);
        /* In .runat a label stands for where it runs; where it is kept is told too. */
        const statement *at = &a->code.statements[y->statement];
        if (s != BL_OK || y->kind != SYMBOL_LABEL || at->stored == at->address) continue;
        s = bl_print(w, "kept ");
        if (s == BL_OK) s = write_name(a, w, i);
        if (s == BL_OK) s = bl_print(w, " $%04lX\n", (unsigned long)at->stored);
    }
    return s;
}

/* By address: where a byte that is looked at belongs to. */
bl_status bl_map_write(bl_program *a, const bl_writer *w)
{
    size_t wide = bl_sheet_unit_bytes(a->machine.sheet);
    bl_status status = bl_print(w, "bootlace map 1\n");
    for (size_t i = 0; i < bl_image_pieces(a->image) && status == BL_OK; i++) {
        bl_piece p = bl_image_piece(a->image, i);
        for (size_t at = 0; at < p.count && status == BL_OK;) {
            uint32_t first = p.first + (uint32_t)at;
            bl_origin o = bl_image_origin(a->image, first);
            size_t n = 1;
            for (; at + n < p.count; n++) {
                bl_origin next = bl_image_origin(a->image, first + (uint32_t)n);
                if (next.file != o.file || next.line != o.line) break;
            }
            const char *file = bl_image_file_name(a->image, o.file);
            status = bl_print(w, "$%04lX %lu %lu %s\n", (unsigned long)(first / wide),
                              (unsigned long)(n / wide), (unsigned long)o.line,
                              file != NULL ? file : "?");
            at += n;
        }
    }
    return status;
}

bool bl_symbol_name_is_valid(bl_text name)
{
    bool starts = true; /* a level */
    for (size_t i = 0; i < name.length; i++) {
        if (!asm_is(name.at[i], starts ? C_LETTER : C_LETTER | C_DIGIT) &&
            (starts || name.at[i] != '.'))
            return false;
        starts = name.at[i] == '.';
    }
    return !starts;
}

/* Kinds of lines that are not known are for newer readers, and passed over. */
bool bl_symbols_read(const char *file, bl_text *rest, uint32_t *line, bl_symbol_line *out,
                     const bl_sink *sink, bl_status *status)
{
    bl_line_reader r = {.name = file, .sink = sink, .text = *rest, .number = *line};
    bool found = false;
    while (!found && r.faults == 0 && bl_line_next(&r)) {
        if (r.number == 1 && bl_text_same(bl_text_trim(r.line), bl_text_of(first_line))) continue;
        if (r.number == 1) {
            bl_line_fault(&r, r.line, "its first line would be: bootlace symbols 1",
                          "this is not a symbol file");
            break;
        }
        bl_text kind = bl_line_word(&r);
        bool label = bl_text_same(kind, bl_text_of("label"));
        if (!label && !bl_text_same(kind, bl_text_of("value"))) continue; /* for newer readers */
        out->kind = label ? BL_SYMBOL_LABEL : BL_SYMBOL_VALUE;
        out->name = bl_line_word(&r);
        found = bl_symbol_name_is_valid(out->name) &&
                bl_number_parse_signed(bl_line_word(&r), &out->value) == BL_OK;
        if (!found)
            bl_line_fault(&r, r.line, "label NAME $VALUE LINE FILE", "a symbol line is malformed");
    }
    *rest = r.text;
    *line = r.number;
    *status = r.faults > 0 ? BL_E_SYNTAX : BL_OK;
    return found;
}
