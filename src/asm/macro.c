/* macro.c - .macro and .repeat: text that is made and read as a further source.
 *
 * In the body every word that is a parameter's name is replaced by the argument. An argument that
 * uses a local name gets it in full, so that it means the same inside. Labels that begin with _
 * belong to the expansion.
 */
#include "assembler.h"

typedef struct buffer {
    char *text;
    size_t length, capacity;
} buffer;

static bool add_expansion(bl_program *a, buffer *b, const char *text, size_t length)
{
    char *grown = bl_grown(&a->memory, b->text, &b->capacity, b->length + length + 1, 1);
    if (grown == NULL) {
        a->fatal = BL_E_MEMORY;
        return false;
    }
    b->text = grown;
    memcpy(b->text + b->length, text, length);
    b->length += length;
    return true;
}

/* One block that is open in a body. */
typedef struct inner {
    block_kind kind;
    uint32_t row;
} inner;

/* An .end in a body. False, told, when it names another block than the one that is open. */
static bool ends_inner(bl_program *a, bl_text end, inner open)
{
    bl_text what = asm_word(asm_skip(end.at + end.length));
    char hint[80];
    if (what.length == 0 || bl_text_same_nocase(what, bl_text_of(asm_block_word(open.kind))))
        return true;
    bl_format(hint, sizeof hint, "what is open here is the .%s of line %lu",
              asm_block_word(open.kind), (unsigned long)asm_line_of(a, a->cursor.source, open.row));
    asm_error(a, what, hint, "'.end %.*s' does not end a .%s", (int)(what.length & 63), what.at,
              asm_block_word(open.kind));
    return false;
}

/* Rows from the next one on to the one that ends what was begun; a->cursor.p is left behind that
 * .end. False, told, when it is never ended. */
static bool find_body(bl_program *a, bl_text word, block_kind kind, bl_text *body)
{
    const source *s = &a->code.sources[a->cursor.source];
    const char *p = a->cursor.p, *limit = s->text + s->length;
    inner open[MAX_BLOCKS] = {{kind, a->cursor.line}};
    unsigned depth = 1;
    uint32_t begun = a->cursor.line, row = a->cursor.line;
    while (*p != '\n')
        p++;
    const char *start = ++p;
    for (; p < limit && depth < MAX_BLOCKS; p++) {
        bl_text found = asm_directive_of_line(p);
        block_kind further;
        row++;
        if (found.length > 0 && asm_begins_block(found, &further)) {
            open[depth++] = (inner){further, row};
        } else if (found.length == 3 && bl_text_same_nocase(found, bl_text_of("end"))) {
            a->cursor.line = row;
            a->cursor.line_start = p;
            if (!ends_inner(a, found, open[depth - 1])) break;
            if (--depth == 0) {
                *body = (bl_text){start, (size_t)(p - start)};
                bl_text what = asm_word(asm_skip(found.at + found.length));
                a->cursor.p = what.length > 0 ? what.at + what.length : found.at + found.length;
                asm_end_of_line(a);
                return true;
            }
        }
        while (*p != '\n')
            p++;
    }
    a->cursor.p = limit - 1;
    if (p < limit && depth < MAX_BLOCKS) return false; /* told */
    char hint[100];
    a->cursor.line = begun;
    if (depth > 1)
        bl_format(hint, sizeof hint, "the .%s of line %lu is still open; each needs its .end",
                  asm_block_word(open[depth - 1].kind),
                  (unsigned long)asm_line_of(a, a->cursor.source, open[depth - 1].row));
    else
        bl_format(hint, sizeof hint, "end it with .end %s", asm_block_word(kind));
    asm_error(a, word, hint, "this .%s is never ended", asm_block_word(kind));
    return false;
}

/* ---- expanding ---- */

/* Copies a text, the words that are parameters replaced. Quoted text and comments stay as they are.
 */
static bool substitute(bl_program *a, buffer *b, bl_text body, const bl_text *names,
                       const bl_text *values, size_t count)
{
    size_t i = 0;
    while (i < body.length) {
        size_t n = i;
        char c = body.at[i];
        if (c == '"' || c == '\'') {
            n++;
            while (n < body.length && body.at[n] != c && body.at[n] != '\n')
                n += body.at[n] == '\\' ? 2 : 1;
            n = n < body.length ? n + 1 : body.length;
        } else if (c == ';') {
            while (n < body.length && body.at[n] != '\n')
                n++;
        } else if (asm_is(c, C_LETTER)) {
            while (n < body.length && asm_is(body.at[n], C_LETTER | C_DIGIT))
                n++;
        } else if (asm_is(c, C_DIGIT) || c == '$' || c == '%') {
            n++;
            while (n < body.length && asm_is(body.at[n], C_LETTER | C_DIGIT))
                n++;
        } else {
            n++;
        }
        bl_text piece = {body.at + i, n - i};
        bool member = i > 0 && body.at[i - 1] == '.';
        for (size_t k = 0; k < count && !member; k++) {
            if (!bl_text_same(piece, names[k])) continue;
            piece = values[k];
            break;
        }
        if (!add_expansion(a, b, piece.at, piece.length)) return false;
        i = n;
    }
    return true;
}

/* Reads the text made as a source of its own, with a label of its own for local names. */
static void read_expansion(bl_program *a, bl_text word, buffer *b, uint32_t base,
                           uint32_t base_source, uint32_t period, bl_text name)
{
    char group[24];
    uint32_t index, above = a->cursor.above;
    bl_text source_name = bl_text_of(a->code.sources[base_source].name);
    a->cursor.expanded += b->length;
    if (a->cursor.includes >= MAX_INCLUDES - 1 || a->cursor.expanded > (size_t)MAX_EXPANSION) {
        asm_error(a, word,
                  a->cursor.expanded > (size_t)MAX_EXPANSION ? NULL
                                                             : "does it expand itself without end?",
                  a->cursor.expanded > (size_t)MAX_EXPANSION
                      ? "expansions come to more than 8 MiB of text"
                      : "expansions are nested more than %d deep",
                  MAX_INCLUDES - 1);
        a->fatal = a->fatal == BL_OK ? BL_E_SYNTAX : a->fatal;
        return;
    }
    if (!asm_add_source(a, source_name, (bl_text){b->text, b->length}, &index)) return;
    source *s = &a->code.sources[index];
    s->expanded = true;
    s->base = base;
    s->period = period;
    s->from = a->cursor.source;
    s->from_row = a->cursor.line;
    s->macro = name;
    bl_format(group, sizeof group, "expansion__%u", ++a->cursor.expansions);
    bl_text kept = asm_keep(a, bl_text_of(group));
    if (kept.at == NULL) return;
    a->cursor.above = asm_name_under(a, 0, kept);
    if (a->cursor.above == 0) return;
    a->names.symbols[a->cursor.above].kind = SYMBOL_LEVEL;
    a->names.symbols[a->cursor.above].hidden = true;
    asm_push_statement(a, ST_INCLUDE, word.at, index, 0);
    asm_parse_source(a, index);
    a->cursor.above = above;
}

/* ---- .macro NAME P1, P2 = DEFAULT, REST... ---- */

int32_t asm_find_macro(const bl_program *a, bl_text word)
{
    if (a->names.macro_count == 0) return -1;
    uint32_t i = asm_find_under(a, MACROS, word);
    return i == 0 || a->names.symbols[i].kind != SYMBOL_MACRO ? -1
                                                              : (int32_t)a->names.symbols[i].macro;
}

/* The text up to a comma, outside quotes, parentheses and braces; braces around all of it are taken
 * off. */
static bl_text argument(bl_program *a)
{
    const char *start = asm_skip(a->cursor.p), *p = start;
    unsigned depth = 0;
    for (; !asm_is(*p, C_END) || (*p == ';' && depth > 0); p++) {
        if (*p == '"' || *p == '\'') {
            char quote = *p++;
            while (*p != quote && *p != '\n')
                p += *p == '\\' && p[1] != '\n' ? 2 : 1;
            if (*p == '\n') break;
        } else if (*p == '(' || *p == '{') {
            depth++;
        } else if ((*p == ')' || *p == '}') && depth > 0) {
            depth--;
        } else if (*p == ',' && depth == 0) {
            break;
        }
    }
    a->cursor.p = p;
    bl_text text = bl_text_trim((bl_text){start, (size_t)(p - start)});
    bool braces = text.length >= 2 && text.at[0] == '{' && text.at[text.length - 1] == '}';
    return braces ? (bl_text){text.at + 1, text.length - 2} : text;
}

/* A default makes a parameter one that may be left out; '...' takes all that is left. */
static bool parameter(bl_program *a, macro *m)
{
    a->cursor.p = asm_skip(a->cursor.p);
    bl_text name = asm_word(a->cursor.p);
    if (name.length == 0 || m->count == MAX_PARAMETERS || m->rest) {
        asm_error(a, (bl_text){a->cursor.p, name.length}, "NAME, NAME = DEFAULT, and last NAME...",
                  m->rest            ? "nothing follows the parameter that takes the rest"
                  : name.length == 0 ? "the name of a parameter is expected here"
                                     : "a macro has at most 16 parameters");
        return false;
    }
    a->cursor.p = asm_skip(name.at + name.length);
    m->parameters[m->count] = name;
    if (a->cursor.p[0] == '.' && a->cursor.p[1] == '.' && a->cursor.p[2] == '.') {
        a->cursor.p += 3;
        m->rest = true;
    } else if (*a->cursor.p == '=') {
        a->cursor.p++;
        m->defaults[m->count] = argument(a);
    }
    m->count++;
    return true;
}

/* The body is kept as text: what it means depends on where it is used. */
void asm_macro(bl_program *a, bl_text word)
{
    macro m = {.source = a->cursor.source};
    bl_text body = {NULL, 0};
    a->cursor.p = asm_skip(a->cursor.p);
    m.name = asm_word(a->cursor.p);
    a->cursor.p += m.name.length;
    bool good = m.name.length > 0;
    if (!good) asm_error(a, word, ".macro NAME P1, P2 = DEFAULT, REST...", "a macro needs a name");
    a->cursor.p = asm_skip(a->cursor.p);
    if (good && !asm_is(*a->cursor.p, C_END)) {
        do {
            good = parameter(a, &m);
        } while (good && asm_comma(a));
    }
    if (good && bl_sheet_find_mnemonic(a->machine.sheet, m.name) >= 0) {
        asm_error(a, m.name, "choose another name", "'%.*s' is an instruction",
                  (int)(m.name.length & 63), m.name.at);
        good = false;
    }
    m.row = a->cursor.line + 1;
    if (!find_body(a, word, BLOCK_MACRO, &body) || !good) return;
    m.body = body.at;
    m.length = body.length;
    uint32_t index = asm_name_under(a, MACROS, m.name);
    if (index == 0) return;
    if (a->names.symbols[index].kind == SYMBOL_MACRO) {
        asm_error(a, m.name, NULL, "macro '%.*s' is defined twice", (int)(m.name.length & 63),
                  m.name.at);
        return;
    }
    macro *macros = bl_grown(&a->memory, a->names.macros, &a->names.macro_capacity,
                             a->names.macro_count + 1, sizeof *macros);
    if (macros == NULL) {
        a->fatal = BL_E_MEMORY;
        return;
    }
    a->names.macros = macros;
    a->names.symbols[index].kind = SYMBOL_MACRO;
    a->names.symbols[index].macro = (uint32_t)a->names.macro_count;
    macros[a->names.macro_count++] = m;
}

/* An argument as it is passed on: local names in full. */
static bl_text qualified(bl_program *a, bl_text text)
{
    bool local = false;
    for (size_t i = 0; i < text.length; i++)
        local |= text.at[i] == '_' &&
                 (i == 0 || (!asm_is(text.at[i - 1], C_LETTER | C_DIGIT) && text.at[i - 1] != '.'));
    if (!local || a->cursor.above == 0) return text;
    char name[200];
    buffer b = {NULL, 0, 0};
    size_t length = asm_full_name(a, a->cursor.above, name, sizeof name);
    char quote = '\0';
    for (size_t i = 0; i < text.length; i++) {
        char c = text.at[i], before = i > 0 ? text.at[i - 1] : ' ';
        if (quote != '\0')
            quote = c == quote && before != '\\' ? '\0' : quote;
        else if (c == '"' || c == '\'')
            quote = c;
        bool begins =
            c == '_' && quote == '\0' && !asm_is(before, C_LETTER | C_DIGIT) && before != '.';
        if (begins && length < sizeof name &&
            (!add_expansion(a, &b, name, length) || !add_expansion(a, &b, ".", 1)))
            break;
        if (!add_expansion(a, &b, &c, 1)) break;
    }
    bl_text kept = a->fatal == BL_OK ? asm_keep(a, (bl_text){b.text, b.length}) : text;
    bl_release(&a->memory, b.text);
    return kept.at != NULL ? kept : text;
}

/* Reads the arguments of a call. False after an error. */
static bool split_arguments(bl_program *a, const macro *m, bl_text word, bl_text *values)
{
    uint8_t given = 0;
    a->cursor.p = asm_skip(a->cursor.p);
    bool more = !asm_is(*a->cursor.p, C_END);
    while (more && given < m->count) {
        bool takes_rest = m->rest && given + 1 == m->count;
        const char *start = a->cursor.p;
        values[given] = argument(a);
        while (takes_rest && *a->cursor.p == ',') {
            a->cursor.p++;
            argument(a);
            values[given] = bl_text_trim((bl_text){start, (size_t)(a->cursor.p - start)});
        }
        values[given] = qualified(a, values[given]);
        given++;
        more = *a->cursor.p == ',';
        if (more) a->cursor.p++;
    }
    if (more) {
        asm_error(a, word, NULL, "macro '%.*s' takes at most %u argument%s",
                  (int)(word.length & 63), word.at, m->count, m->count == 1 ? "" : "s");
        return false;
    }
    for (uint8_t i = given; i < m->count; i++) {
        bool optional = m->defaults[i].at != NULL || (m->rest && i + 1 == m->count);
        values[i] = m->defaults[i].at != NULL ? m->defaults[i] : (bl_text){"", 0};
        if (optional) continue;
        asm_error(a, word, NULL, "macro '%.*s' needs an argument for '%.*s'",
                  (int)(word.length & 63), word.at, (int)(m->parameters[i].length & 63),
                  m->parameters[i].at);
        return false;
    }
    return true;
}

void asm_expand(bl_program *a, bl_text word, uint32_t index)
{
    BL_ASSERT(index < a->names.macro_count);
    macro m = a->names.macros[index]; /* a copy: the body may define further macros */
    bl_text values[MAX_PARAMETERS];
    buffer b = {NULL, 0, 0};
    if (!split_arguments(a, &m, word, values)) return;
    asm_end_of_line(a);
    if (substitute(a, &b, (bl_text){m.body, m.length}, m.parameters, values, m.count))
        read_expansion(a, word, &b, asm_line_of(a, m.source, m.row), m.source, 0, m.name);
    bl_release(&a->memory, b.text);
}

/* ---- .repeat COUNT[, INDEX] ---- */

static uint32_t rows_of(bl_text body)
{
    uint32_t rows = 0;
    for (size_t i = 0; i < body.length; i++)
        rows += body.at[i] == '\n';
    return rows;
}

/* The body is written out as many times, with its index in place of the name; the whole is one
 * source. */
void asm_repeat(bl_program *a, bl_text word)
{
    int64_t count = 0;
    bl_text name = {"", 0}, body = {NULL, 0};
    bool good = asm_known_value(a, &count);
    if (good && asm_comma(a)) {
        a->cursor.p = asm_skip(a->cursor.p);
        name = asm_word(a->cursor.p);
        a->cursor.p += name.length;
        if (name.length == 0)
            asm_error(a, (bl_text){a->cursor.p, 0}, ".repeat COUNT, INDEX",
                      "the name of the index is expected here");
        asm_end_of_line(a);
    }
    uint32_t row = a->cursor.line + 1, call_row = a->cursor.line;
    if (!find_body(a, word, BLOCK_REPEAT, &body) || !good) return;
    int64_t max = MAX_EXPANSION / (int64_t)(body.length + 1);
    if (count < 0 || count > max) {
        asm_report(a, BL_ERROR, a->cursor.source, call_row,
                   (uint32_t)(word.at - a->code.sources[a->cursor.source].text), word.length,
                   "all repeats and macros may make 8 MiB of text",
                   count < 0 ? "the count is negative" : "this repeats too often");
        return;
    }
    buffer b = {NULL, 0, 0};
    for (int64_t i = 0; i < count && a->fatal == BL_OK; i++) {
        char number[24];
        bl_text value = {number, bl_format(number, sizeof number, "%lld", (long long)i)};
        if (!substitute(a, &b, body, &name, &value, name.length > 0)) break;
    }
    if (a->fatal == BL_OK && count > 0)
        read_expansion(a, word, &b, asm_line_of(a, a->cursor.source, row), a->cursor.source,
                       rows_of(body), (bl_text){NULL, 0});
    bl_release(&a->memory, b.text);
}
