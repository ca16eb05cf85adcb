/* asm.c - sources, messages and the life of a program. */
#include "assembler.h"

/* One place for all statements, since there are millions: only what layout needs is stored. */
bool asm_push_statement(bl_program *a, statement_kind kind, const char *at, uint32_t refs,
                        uint16_t count)
{
    BL_ASSERT(a->cursor.source < a->code.source_count);
    if (a->code.statement_count == a->code.statement_capacity) {
        statement *s = bl_grown(&a->memory, a->code.statements, &a->code.statement_capacity,
                                a->code.statement_count + 1, sizeof *s);
        if (s == NULL) {
            a->fatal = BL_E_MEMORY;
            return false;
        }
        a->code.statements = s;
    }
    a->code.statements[a->code.statement_count++] =
        (statement){.kind = (uint8_t)kind,
                    .sheet = a->machine.current,
                    .source = a->cursor.source,
                    .line = a->cursor.line,
                    .refs = refs,
                    .ref_count = count,
                    .column = asm_span(a->cursor.line_start, at)};
    return true;
}

bool asm_room_for_refs(bl_program *a, size_t count)
{
    if (a->code.ref_capacity - a->code.ref_count >= count) return true;
    ref *refs = bl_grown(&a->memory, a->code.refs, &a->code.ref_capacity, a->code.ref_count + count,
                         sizeof *refs);
    if (refs == NULL) {
        a->fatal = BL_E_MEMORY;
        return false;
    }
    a->code.refs = refs;
    return true;
}

uint32_t asm_push_ref(bl_program *a, ref r)
{
    if (!asm_room_for_refs(a, 1)) return 0;
    a->code.refs[a->code.ref_count] = r;
    return (uint32_t)a->code.ref_count++;
}

bl_text asm_keep(bl_program *a, bl_text text)
{
    char **kept = bl_grown(&a->memory, a->names.kept, &a->names.kept_capacity,
                           a->names.kept_count + 1, sizeof *kept);
    if (kept != NULL) a->names.kept = kept;
    char *copy = kept == NULL ? NULL : bl_text_copy(&a->memory, text);
    if (copy == NULL) {
        a->fatal = BL_E_MEMORY;
        return (bl_text){NULL, 0};
    }
    kept[a->names.kept_count++] = copy;
    return (bl_text){copy, text.length};
}

/* ---- messages ---- */

uint32_t asm_line_of(const bl_program *a, uint32_t index, uint32_t row)
{
    BL_ASSERT(index < a->code.source_count);
    const source *s = &a->code.sources[index];
    uint32_t turn = s->period > 0 && row > 0 ? (row - 1) % s->period : row - 1;
    return row == 0 ? s->base : s->base + turn;
}

/* Tells by which macros a message came about, the innermost first. */
static void trace(bl_program *a, uint32_t index)
{
    for (unsigned n = 0;
         n < 6 && (a->code.sources[index].expanded || a->code.sources[index].included); n++) {
        const source *s = &a->code.sources[index];
        const char *file = a->code.sources[s->from].name;
        uint32_t line = asm_line_of(a, s->from, s->from_row);
        if (s->included)
            bl_report(a->options.sink, BL_NOTE, file, line, NULL, "'%s' is included here", s->name);
        else if (s->macro.length > 0)
            bl_report(a->options.sink, BL_NOTE, file, line, NULL, "in macro '%.*s', used here",
                      (int)(s->macro.length & 63), s->macro.at);
        index = s->from;
    }
}

/* A message in an expansion is followed by a note for each use it came by. */
void asm_report(bl_program *a, bl_severity severity, uint32_t index, uint32_t line, uint32_t at,
                size_t length, const char *hint, const char *message)
{
    const source *s = &a->code.sources[index];
    const char *mark = s->text + at, *start = mark, *end = mark;
    if (a->fatal != BL_OK) return;
    while (start > s->text && start[-1] != '\n')
        start--;
    while (*end != '\n')
        end++;
    bl_text text = bl_text_trim((bl_text){start, (size_t)(end - start)});
    /* Trimming also takes blanks at the front; those count for the column. */
    text = (bl_text){start, text.length + (size_t)(text.at - start)};
    if (severity == BL_WARNING && a->options.strict) severity = BL_ERROR;
    if (severity == BL_ERROR) a->errors++;
    if (a->options.sink != NULL && a->options.sink->report != NULL) {
        bl_diag d = {severity,
                     s->name,
                     asm_line_of(a, index, line),
                     (uint32_t)(mark - start) + 1,
                     (uint32_t)length,
                     text,
                     message,
                     hint};
        a->options.sink->report(a->options.sink->context, &d);
    }
    if (severity != BL_NOTE) trace(a, index);
    if (a->errors < a->options.max_errors) return;
    bl_report(a->options.sink, BL_NOTE, NULL, 0, NULL, "stopped after %u errors", a->errors);
    a->fatal = BL_E_SYNTAX;
}

static void report_mark(bl_program *a, bl_severity severity, bl_text mark, const char *hint,
                        const char *message, va_list list)
{
    char text[320];
    bl_format_list(text, sizeof text, message, list);
    asm_report(a, severity, a->cursor.source, a->cursor.line,
               (uint32_t)(mark.at - a->code.sources[a->cursor.source].text), mark.length, hint,
               text);
}

void asm_error(bl_program *a, bl_text mark, const char *hint, const char *message, ...)
{
    va_list list;
    va_start(list, message);
    report_mark(a, BL_ERROR, mark, hint, message, list);
    va_end(list);
}

void asm_warn(bl_program *a, bl_text mark, const char *hint, const char *message, ...)
{
    va_list list;
    va_start(list, message);
    report_mark(a, BL_WARNING, mark, hint, message, list);
    va_end(list);
}

/* Where a statement begins in its source. Only messages ask, so the lines are counted then. */
static uint32_t place_of(const bl_program *a, const statement *s)
{
    const char *text = a->code.sources[s->source].text, *p = text;
    for (uint32_t row = 1; row < s->line; p++)
        row += *p == '\n';
    return (uint32_t)(p - text) + s->column;
}

/* How long the word is that begins a statement. */
static size_t word_length(const char *p)
{
    size_t dot = *p == '.';
    return dot + asm_word(p + dot).length;
}

static void report_at(bl_program *a, bl_severity severity, const statement *s, const ref *r,
                      const char *hint, const char *message, va_list list)
{
    char text[320];
    bl_format_list(text, sizeof text, message, list);
    uint32_t at = r != NULL ? r->at : place_of(a, s);
    size_t length = r != NULL ? r->length : word_length(a->code.sources[s->source].text + at);
    asm_report(a, severity, s->source, s->line, at, length, hint, text);
}

void asm_error_at(bl_program *a, const statement *s, const ref *r, const char *hint,
                  const char *message, ...)
{
    va_list list;
    va_start(list, message);
    report_at(a, BL_ERROR, s, r, hint, message, list);
    va_end(list);
}

void asm_warn_at(bl_program *a, const statement *s, const char *hint, const char *message, ...)
{
    va_list list;
    va_start(list, message);
    report_at(a, BL_WARNING, s, NULL, hint, message, list);
    va_end(list);
}

/* ---- sources ---- */

/* A further source whose text stays where it is when it is lent and ends with a line feed. */
static bool add_source(bl_program *a, bl_text name, bl_text text, bool lent, uint32_t *index)
{
    source *sources = bl_grown(&a->memory, a->code.sources, &a->code.source_capacity,
                               a->code.source_count + 1, sizeof *sources);
    if (sources != NULL) a->code.sources = sources;
    if (sources == NULL || (uint64_t)text.length >= UINT32_MAX - 1) {
        a->fatal = sources == NULL ? BL_E_MEMORY : BL_E_RANGE;
        return false;
    }
    bool complete = text.length > 0 && text.at[text.length - 1] == '\n';
    source *s = &sources[a->code.source_count];
    *s = (source){.size = text.length, .length = text.length + !complete, .base = 1};
    s->name = bl_text_copy(&a->memory, name);
    if (!lent || !complete) s->copy = a->memory.resize(a->memory.context, NULL, s->length);
    if (s->copy != NULL) {
        if (text.length > 0) memcpy(s->copy, text.at, text.length);
        s->copy[s->length - 1] = '\n';
    }
    s->text = lent && complete ? text.at : s->copy;
    if (s->name == NULL || s->text == NULL || bl_image_file(a->image, name, &s->file) != BL_OK) {
        bl_release(&a->memory, s->name);
        bl_release(&a->memory, s->copy);
        a->fatal = BL_E_MEMORY;
        return false;
    }
    *index = (uint32_t)a->code.source_count++;
    return true;
}

bool asm_add_source(bl_program *a, bl_text name, bl_text text, uint32_t *index)
{
    return add_source(a, name, text, false, index);
}

static void give_back(const bl_program *a, void *handle)
{
    if (handle != NULL && a->provider.release != NULL)
        a->provider.release(a->provider.context, handle);
}

/* What a provider lent becomes a source, unless it is one already. */
static bool take_source(bl_program *a, bl_text found, bl_text text, void *handle, uint32_t *index)
{
    for (size_t i = 0; i < a->code.source_count; i++) {
        if (a->code.sources[i].expanded ||
            !bl_text_same(bl_text_of(a->code.sources[i].name), found))
            continue;
        give_back(a, handle);
        *index = (uint32_t)i;
        return true;
    }
    bool good = add_source(a, found, text, true, index);
    if (good && a->code.sources[*index].copy == NULL)
        a->code.sources[*index].handle = handle;
    else
        give_back(a, handle);
    return good;
}

/* Why a source cannot be read. */
static const char *why(bl_status status)
{
    return status == BL_E_RANGE ? "it is larger than any source can be" : bl_status_text(status);
}

/* Limits on how often and how much are here, where every further source passes. */
bool asm_load(bl_program *a, bl_text name, const char *what, bl_text mark, uint32_t *index)
{
    const bl_source_provider *p = &a->provider;
    const char *from = a->code.source_count > 0 ? a->code.sources[a->cursor.source].name : NULL;
    bl_text text, found;
    void *handle = NULL;
    if (++a->cursor.loads > MAX_LOADS) {
        asm_error(a, mark, "does each of some files include the next more than once?",
                  "more than %d files are included", MAX_LOADS);
        a->fatal = BL_E_SYNTAX; /* every further one would be told as well */
        return false;
    }
    bl_status status =
        p->open == NULL ? BL_E_NOT_FOUND : p->open(p->context, name, from, &text, &found, &handle);
    if (status != BL_OK) {
        if (status == BL_E_MEMORY) a->fatal = status;
        if (from == NULL)
            bl_report(a->options.sink, BL_ERROR, NULL, 0, NULL, "cannot read %s '%.*s': %s", what,
                      (int)(name.length & 0xFFF), name.at, why(status));
        else
            asm_error(a, mark, NULL, "cannot read %s '%.*s': %s", what, (int)(name.length & 0xFF),
                      name.at, why(status));
        return false;
    }
    return take_source(a, found, text, handle, index);
}

/* The cursor is put aside and comes back: a source may begin in the middle of another's line. */
void asm_parse_source(bl_program *a, uint32_t index)
{
    BL_ASSERT(index < a->code.source_count);
    const char *p = a->cursor.p, *line_start = a->cursor.line_start;
    uint32_t source_before = a->cursor.source, line = a->cursor.line;
    unsigned blocks = a->cursor.block_count, block_base = a->cursor.block_base;
    a->cursor.block_base = blocks;
    a->cursor.source = index;
    a->cursor.line = 0;
    a->cursor.p = a->code.sources[index].text;
    a->cursor.include_stack[++a->cursor.includes] = index;
    asm_parse_lines(a);
    asm_close_blocks(a, blocks);
    a->cursor.block_base = block_base;
    a->cursor.includes--;
    a->cursor.line_start = a->cursor.p = a->code.sources[index].text;
    asm_push_statement(a, ST_END_SOURCE, a->cursor.p, index, 0);
    a->cursor.source = source_before;
    a->cursor.line = line;
    a->cursor.p = p;
    a->cursor.line_start = line_start;
}

/* ---- life ---- */

static void define_given(bl_program *a, const char *name, int64_t value)
{
    bl_text kept = asm_keep(a, bl_text_of(name));
    bool valid = bl_symbol_name_is_valid(bl_text_of(name));
    if (kept.at == NULL || (valid && asm_define_fixed(a, 0, kept, value)) || a->fatal != BL_OK)
        return;
    if (!valid)
        bl_report(a->options.sink, BL_ERROR, NULL, 0,
                  "letters, digits and _, no digit first; levels apart by one dot",
                  "'%s' cannot be a name", name);
    else if (bl_text_same(kept, bl_text_of("here")))
        bl_report(a->options.sink, BL_ERROR, NULL, 0, "choose another name",
                  "'here' is the address of the statement, and cannot be given a value");
    else
        bl_report(a->options.sink, BL_ERROR, NULL, 0, NULL, "'%s' is given twice", name);
    a->errors++;
}

static void define_options(bl_program *a)
{
    char name[160];
    const bl_asm_options *o = &a->options;
    for (size_t i = 0; i < o->area_count && a->fatal == BL_OK; i++) {
        const bl_area *area = &o->areas[i];
        bl_format(name, sizeof name, "area.%s.first", area->name);
        define_given(a, name, area->range.first);
        bl_format(name, sizeof name, "area.%s.last", area->name);
        define_given(a, name, bl_range_last(area->range));
        bl_format(name, sizeof name, "area.%s.size", area->name);
        define_given(a, name, (int64_t)bl_area_size(area));
    }
    for (size_t i = 0; i < o->definition_count && a->fatal == BL_OK; i++)
        define_given(a, o->definitions[i].name, o->definitions[i].value);
}

void asm_turn_to_sheet(bl_program *a, unsigned index)
{
    BL_ASSERT(index < a->machine.sheet_count);
    const bl_sheet *sheet = a->machine.sheets[index];
    a->machine.current = (uint8_t)index;
    a->machine.sheet = sheet;
    a->machine.forms = bl_sheet_form(sheet, 0);
    a->machine.spellings = bl_sheet_spelling(sheet, 0);
    a->machine.operands = bl_sheet_operand(sheet, 0);
    a->machine.unit = bl_sheet_unit_bits(sheet);
    a->machine.radix = a->options.radix != 0 ? a->options.radix : bl_sheet_radix(sheet);
    a->machine.wide = bl_sheet_unit_bytes(sheet) == 2;
    a->machine.big = bl_sheet_order(sheet) == BL_BIG;
    a->machine.has_lists = false;
    for (size_t i = 0; i < bl_sheet_operands(sheet); i++)
        if (bl_sheet_operand(sheet, i)->kind == BL_OPERAND_ANYOF) a->machine.has_lists = true;
}

void asm_use_sheet(bl_program *a, const bl_sheet *sheet)
{
    BL_ASSERT(sheet != NULL);
    a->machine.sheets[0] = sheet;
    a->machine.sheet_count = 1;
    asm_turn_to_sheet(a, 0);
}

static bl_program *create(const bl_asm_options *options)
{
    const bl_memory *m = &options->memory;
    bl_program *a = m->resize(m->context, NULL, sizeof *a);
    if (a == NULL) return NULL;
    memset(a, 0, sizeof *a);
    a->memory = *m;
    a->options = *options;
    if (options->provider != NULL) a->provider = *options->provider;
    asm_use_sheet(a, options->sheet);
    if (a->options.max_errors == 0) a->options.max_errors = 100;
    if (options->area_count > 0)
        a->layout.areas =
            m->resize(m->context, NULL, options->area_count * sizeof *a->layout.areas);
    bool good = options->area_count == 0 || a->layout.areas != NULL;
    if (good && bl_image_open(m, &a->image) == BL_OK) return a;
    bl_program_close(a);
    return NULL;
}

/* Room for what a source of this length usually needs, so that arrays need not be moved while they
 * grow. Without the memory it goes on all the same. */
static void reserve_room(bl_program *a, size_t length)
{
    if (length < 16384) return;
    statement *s = bl_grown(&a->memory, a->code.statements, &a->code.statement_capacity,
                            length / 10, sizeof *s);
    if (s != NULL) a->code.statements = s;
    ref *r = bl_grown(&a->memory, a->code.refs, &a->code.ref_capacity, length / 12, sizeof *r);
    if (r != NULL) a->code.refs = r;
    bl_image_reserve(a->image, length / 14);
    asm_reserve_names(a, length / 36);
}

/* A text of 16-bit characters would be a thousand errors. */
static bool is_utf16(bl_program *a, uint32_t index)
{
    const uint8_t *text = (const uint8_t *)a->code.sources[index].text;
    if (a->code.sources[index].length < 2 || (text[0] ^ text[1]) != 1 || text[0] < 0xFE)
        return false;
    bl_report(a->options.sink, BL_ERROR, a->code.sources[index].name, 0,
              "save it as UTF-8 or ASCII", "this is a text of 16-bit characters (UTF-16)");
    a->errors++;
    a->fatal = BL_E_SYNTAX;
    return true;
}

/* Each step needs what the one before has found out. */
static bl_status finish_program(bl_program *a, bool loaded, uint32_t main_source,
                                bl_program **program)
{
    if (loaded && a->fatal == BL_OK && is_utf16(a, main_source)) loaded = false;
    if (loaded && a->fatal == BL_OK) {
        reserve_room(a, a->code.sources[main_source].length);
        define_options(a);
        a->cursor.parsing = true;
        a->layout.epoch = 1;
        asm_parse_source(a, main_source);
        a->cursor.parsing = false;
        if (a->fatal == BL_OK) asm_resolve_groups(a);
        if (a->fatal == BL_OK) asm_layout(a);
        if (a->fatal == BL_OK) asm_emit(a);
    }
    bl_status status = !loaded && a->fatal == BL_OK ? BL_E_NOT_FOUND : a->fatal;
    if (status == BL_OK && a->errors > 0) status = BL_E_SYNTAX;
    if (status != BL_OK) {
        if (status == BL_E_MEMORY)
            bl_report(a->options.sink, BL_ERROR, NULL, 0, NULL, "out of memory");
        bl_program_close(a);
        return status;
    }
    *program = a;
    return BL_OK;
}

bl_status bl_assemble(const bl_asm_options *options, const char *name, bl_program **program)
{
    *program = NULL;
    bl_program *a = create(options);
    if (a == NULL) return BL_E_MEMORY;
    uint32_t index = 0;
    bool loaded = asm_load(a, bl_text_of(name), "source", (bl_text){NULL, 0}, &index);
    return finish_program(a, loaded, index, program);
}

bl_status bl_assemble_text(const bl_asm_options *options, const char *name, bl_text text,
                           bl_program **program)
{
    *program = NULL;
    bl_program *a = create(options);
    if (a == NULL) return BL_E_MEMORY;
    uint32_t index = 0;
    bool loaded = asm_add_source(a, bl_text_of(name), text, &index);
    return finish_program(a, loaded, index, program);
}

/* A program that failed half way is closed by the same function: every array may be NULL. */
void bl_program_close(bl_program *a)
{
    if (a == NULL) return;
    bl_memory m = a->memory;
    for (size_t i = 0; i < a->code.source_count; i++) {
        bl_release(&m, a->code.sources[i].name);
        bl_release(&m, a->code.sources[i].copy);
        give_back(a, a->code.sources[i].handle);
    }
    for (size_t i = 0; i < a->names.kept_count; i++)
        bl_release(&m, a->names.kept[i]);
    void *blocks[] = {
        a->code.sources,        a->code.statements, a->code.refs,    a->code.ops,
        a->code.pool,           a->names.symbols,   a->names.chains, a->names.kept,
        a->layout.areas,        a->layout.pending,  a->names.macros, a->names.alphabets,
        a->names.alphabet_names};
    for (size_t i = 0; i < sizeof blocks / sizeof blocks[0]; i++)
        bl_release(&m, blocks[i]);
    bl_image_close(a->image);
    for (unsigned i = 0; i < ASM_SHEETS; i++)
        bl_sheet_close(a->machine.own_sheets[i]);
    bl_release(&m, a);
}

/* ---- results ---- */

bl_image *bl_program_image(bl_program *a)
{
    return a->image;
}

size_t bl_program_symbols(const bl_program *a)
{
    size_t n = 0;
    for (uint32_t i = 1; i < a->names.symbol_count; i++)
        n += asm_is_listed(a, i);
    return n;
}

static void describe_symbol(const bl_program *a, uint32_t index, bl_symbol *out)
{
    const symbol *s = &a->names.symbols[index];
    asm_full_name(a, index, out->name, sizeof out->name);
    out->kind = s->kind == SYMBOL_LABEL ? BL_SYMBOL_LABEL : BL_SYMBOL_VALUE;
    out->value = s->value;
    out->file = a->code.sources[s->source].name;
    out->line = asm_line_of(a, s->source, s->line);
}

bl_status bl_program_symbol(const bl_program *a, size_t index, bl_symbol *out)
{
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        if (!asm_is_listed(a, i)) continue;
        if (index-- > 0) continue;
        describe_symbol(a, i, out);
        return BL_OK;
    }
    return BL_E_RANGE;
}

bl_status bl_program_value(const bl_program *a, bl_text name, int64_t *value)
{
    uint32_t at = 0;
    while (name.length > 0) {
        size_t n = 0;
        while (n < name.length && name.at[n] != '.')
            n++;
        at = asm_find_under(a, at, (bl_text){name.at, n});
        if (at == 0) return BL_E_NOT_FOUND;
        size_t skip = n < name.length ? n + 1 : n;
        name = (bl_text){name.at + skip, name.length - skip};
    }
    if (at == 0 || !a->names.symbols[at].known) return BL_E_NOT_FOUND;
    *value = a->names.symbols[at].value;
    return BL_OK;
}

unsigned bl_program_unit_bytes(const bl_program *a)
{
    return bl_sheet_unit_bytes(a->machine.sheet);
}

bool bl_program_label_near(const bl_program *a, uint32_t address, bl_symbol *out)
{
    uint32_t best = 0;
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        const symbol *s = &a->names.symbols[i];
        if (s->kind != SYMBOL_LABEL || s->value > (int64_t)address || !asm_is_listed(a, i))
            continue;
        if (best == 0 || s->value > a->names.symbols[best].value) best = i;
    }
    if (best != 0) describe_symbol(a, best, out);
    return best != 0;
}
