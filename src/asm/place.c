/* place.c - from an address back to the source: line, label, text. For debuggers. */
#include "assembler.h"
#include "base/line_reader.h"

static bool holds_storage(const statement *s)
{
    return s->kind >= ST_INSTRUCTION && s->kind <= ST_ALIGN && s->size > 0;
}

static const char *file_of(const bl_program *a, const statement *s)
{
    return a->code.sources[s->source].name;
}

static void set_source_line(const bl_program *a, const statement *s, bl_place *out)
{
    out->file = file_of(a, s);
    out->line = asm_line_of(a, s->source, s->line);
}

/* The label above in the same run of statements is the nearest one. */
static void set_nearest_label(const bl_program *a, const statement *label, uint32_t address,
                              bl_place *out)
{
    out->label[0] = '\0';
    out->beyond = 0;
    if (label == NULL) return;
    asm_full_name(a, label->symbol, out->label, sizeof out->label);
    out->beyond = address - label->address;
}

/* A statement that ends the run of addresses it stands in. */
static bool moves_on(const statement *s)
{
    return s->kind == ST_ORG || s->kind == ST_PLACE || s->kind == ST_RUNAT ||
           s->kind == ST_END_RUNAT;
}

/* In the order of the source, so that a label's run of addresses is known. A label behind which
 * nothing stands names its address, too. */
bool bl_program_place(const bl_program *a, uint32_t address, bl_place *out)
{
    const statement *label = NULL, *bare = NULL;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        const statement *s = &a->code.statements[i];
        if (moves_on(s)) label = NULL;
        if (s->kind == ST_LABEL && asm_is_listed(a, s->symbol)) {
            label = s;
            if (s->address == address) bare = s;
        }
        if (!holds_storage(s) || address - s->address >= s->size) continue;
        set_source_line(a, s, out);
        set_nearest_label(a, label, address, out);
        out->stored = s->stored + (address - s->address);
        out->filled = s->kind != ST_RESERVE;
        out->code = s->kind == ST_INSTRUCTION;
        out->cpu = bl_sheet_name(a->machine.sheets[s->sheet]);
        out->first = s->address;
        return true;
    }
    if (bare == NULL) return false;
    set_source_line(a, bare, out);
    set_nearest_label(a, bare, address, out);
    out->stored = bare->stored;
    out->filled = out->code = false;
    out->cpu = bl_sheet_name(a->machine.sheet);
    out->first = bare->address;
    return true;
}

uint64_t bl_program_reserved(const bl_program *a)
{
    uint64_t count = 0;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        const statement *s = &a->code.statements[i];
        if (s->kind == ST_RESERVE) count += (uint64_t)s->size;
    }
    return count;
}

/* Is this the file that is meant: by its whole name, or by what stands behind the last slash? */
static bool is_file(const char *name, bl_text wanted)
{
    if (name == NULL) return false;
    bl_text whole = bl_text_of(name);
    if (bl_text_same(whole, wanted)) return true;
    if (whole.length <= wanted.length) return false;
    size_t cut = whole.length - wanted.length;
    return whole.at[cut - 1] == '/' &&
           bl_text_same((bl_text){whole.at + cut, wanted.length}, wanted);
}

size_t bl_program_line_places(const bl_program *a, bl_text file, uint32_t line, uint32_t *addresses,
                              size_t capacity)
{
    size_t count = 0;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        const statement *s = &a->code.statements[i];
        if (!holds_storage(s) || asm_line_of(a, s->source, s->line) != line ||
            !is_file(file_of(a, s), file))
            continue;
        if (count < capacity) addresses[count] = s->address;
        count++;
    }
    return count;
}

bool bl_program_line_text(const bl_program *a, bl_text file, uint32_t line, bl_text *text)
{
    for (size_t i = 0; i < a->code.source_count; i++) {
        const source *s = &a->code.sources[i];
        if (s->expanded || !is_file(s->name, file)) continue;
        bl_line_reader lines = {.text = {s->text, s->length}};
        while (bl_line_next(&lines))
            if (lines.number == line) {
                *text = lines.line;
                return true;
            }
        return false;
    }
    return false;
}
