/* read.c - reads a sheet: one line an item, "keyword words". The format is in docs/sheets.md. */
#include "sheet.h"

#include "bootlace/number.h"

typedef struct reader {
    bl_sheet *sheet;
    const char *name;
    const bl_sheet_source *source;
    const bl_sink *sink;
    bl_text line; /* the current line, whole */
    bl_text rest; /* what of it is still unread */
    uint32_t number;
    uint32_t inherited; /* forms before this index came from the sheet that was taken */
    unsigned depth;
    bl_status status;
} reader;

/* Reports a fault at the text at (which lies in the line). */
static void fault(reader *r, bl_text at, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
static void fault(reader *r, bl_text at, const char *hint, const char *message, ...)
{
    char text[200];
    va_list list;
    r->status = BL_E_SYNTAX;
    if (r->sink == NULL || r->sink->report == NULL) return;
    va_start(list, message);
    bl_format_list(text, sizeof text, message, list);
    va_end(list);
    uint32_t column = at.at == NULL ? 0 : (uint32_t)(at.at - r->line.at) + 1;
    bl_diag d = {BL_ERROR, r->name, r->number, column, (uint32_t)at.length, r->line, text, hint};
    r->sink->report(r->sink->context, &d);
}

static bl_text next_word(reader *r)
{
    bl_text t = bl_text_trim(r->rest);
    size_t n = 0;
    while (n < t.length && !bl_is_blank(t.at[n]))
        n++;
    r->rest = (bl_text){t.at + n, t.length - n};
    return (bl_text){t.at, n};
}

static bl_text next_quoted(reader *r)
{
    bl_text t = bl_text_trim(r->rest);
    size_t n = 1;
    while (n < t.length && t.at[n] != '"')
        n++;
    if (t.length < 2 || t.at[0] != '"' || n == t.length) {
        fault(r, t, NULL, "text in double quotes is needed here");
        return (bl_text){NULL, 0};
    }
    r->rest = (bl_text){t.at + n + 1, t.length - n - 1};
    return (bl_text){t.at + 1, n - 1};
}

static uint32_t next_number(reader *r, uint32_t limit)
{
    bl_text w = next_word(r);
    uint32_t value = 0;
    if (w.length == 0 || bl_number_parse(w, limit, &value) != BL_OK)
        fault(r, w, NULL, "a number from 0 to %lu is needed here", (unsigned long)limit);
    return value;
}

static bool is(bl_text word, const char *text)
{
    return bl_text_same(word, bl_text_of(text));
}

static void take_vector(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_vector v = {.name = next_word(r)};
    v.address = next_number(r, UINT32_MAX);
    bl_text last = next_word(r);
    v.needed = is(last, "needed");
    if (last.length != 0 && !v.needed)
        fault(r, last, "'needed' is the only word that may follow", "unknown word");
    if (s->vector_count == SHEET_VECTORS) {
        fault(r, v.name, NULL, "more than %d vectors", SHEET_VECTORS);
        return;
    }
    s->vectors[s->vector_count++] = v;
}

static void take_operand(reader *r)
{
    static const char *const classes[] = {"value", "address", "relative"};
    bl_sheet *s = r->sheet;
    bl_operand o = {.name = next_word(r)};
    bl_text kind = next_word(r);
    size_t k = 0;
    while (k < 3 && !is(kind, classes[k]))
        k++;
    if (k == 3) {
        fault(r, kind, "value, address or relative", "unknown class of operand");
        return;
    }
    o.kind = (bl_operand_class)k;
    o.bits = (uint8_t)next_number(r, 32);
    if (o.bits == 0 || o.bits % 8 != 0) fault(r, kind, NULL, "an operand has 8, 16, 24 or 32 bits");
    if (o.name.length == 2 && bl_hex_digit(o.name.at[0]) >= 0 && bl_hex_digit(o.name.at[1]) >= 0)
        fault(r, o.name, "take a longer name", "'%.2s' would read as a byte in hexadecimal",
              o.name.at);
    if (s->operand_count == SHEET_OPERANDS) {
        fault(r, o.name, NULL, "more than %d operand kinds", SHEET_OPERANDS);
        return;
    }
    s->operands[s->operand_count++] = o;
}

static void take_extra(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_extra e = {.name = next_word(r)};
    e.meaning = next_quoted(r);
    if (s->extra_count == SHEET_EXTRAS) {
        fault(r, e.name, NULL, "more than %d extras", SHEET_EXTRAS);
        return;
    }
    s->extras[s->extra_count++] = e;
}

static int32_t find_operand(const bl_sheet *s, bl_text name)
{
    for (size_t i = 0; i < s->operand_count; i++)
        if (bl_text_same(s->operands[i].name, name)) return (int32_t)i;
    return -1;
}

static bool find_mnemonic(reader *r, bl_text name, uint16_t *index)
{
    bl_sheet *s = r->sheet;
    uint64_t key = sheet_key(name);
    if (key == 0) {
        fault(r, name, NULL, "a mnemonic has 1 to %d characters", BL_MNEMONIC_MOST);
        return false;
    }
    for (size_t i = 0; i < s->mnemonic_count; i++) {
        if (s->mnemonics[i].key == key) {
            *index = (uint16_t)i;
            return true;
        }
    }
    sheet_mnemonic *m =
        bl_grown(&s->memory, s->mnemonics, &s->mnemonic_capacity, s->mnemonic_count + 1, sizeof *m);
    if (m == NULL) {
        r->status = BL_E_MEMORY;
        return false;
    }
    s->mnemonics = m;
    *index = (uint16_t)s->mnemonic_count;
    m[s->mnemonic_count++] = (sheet_mnemonic){key, name};
    return true;
}

/* The operand pattern: names of operand kinds become slots, all else stands for itself. */
static bool take_shape(reader *r, bl_text pattern, bl_form *f)
{
    size_t i = 0;
    while (i < pattern.length) {
        size_t n = i;
        while (n < pattern.length && (bl_is_letter(pattern.at[n]) || bl_is_digit(pattern.at[n])))
            n++;
        bl_text word = {pattern.at + i, n > i ? n - i : 1};
        i += word.length;
        if (n < i && bl_is_blank(word.at[0])) continue;
        int32_t operand = find_operand(r->sheet, word);
        if (operand >= 0 && f->slots < BL_FORM_SLOTS) {
            f->operand[f->slots++] = (uint8_t)operand;
            word = (bl_text){"\1", 1};
        } else if (operand >= 0 || f->shape_length + word.length > BL_SHAPE_MOST) {
            fault(r, word, NULL, "more operands than a form can have");
            return false;
        } else if (bl_is_letter(word.at[0]) && !bl_sheet_is_reserved(r->sheet, word)) {
            fault(r, word, "declare it with 'operand' or 'reserved'", "unknown operand");
            return false;
        }
        for (size_t k = 0; k < word.length; k++)
            f->shape[f->shape_length++] = (uint8_t)bl_upper(word.at[k]);
    }
    return true;
}

/* The slot that a name in the code column means: the first of that kind not yet placed. */
static int32_t slot_named(const bl_form *f, int32_t operand, const bool *placed)
{
    for (uint8_t i = 0; i < f->slots; i++)
        if (f->operand[i] == operand && !placed[i]) return i;
    return -1;
}

static bool take_code(reader *r, bl_text column, bl_form *f)
{
    bool placed[BL_FORM_SLOTS] = {false};
    r->rest = column;
    for (bl_text w = next_word(r); w.length > 0; w = next_word(r)) {
        bl_code code = {false, 0};
        int32_t operand = find_operand(r->sheet, w);
        int high = bl_hex_digit(w.at[0]), low = w.length == 2 ? bl_hex_digit(w.at[1]) : -1;
        if (operand >= 0) {
            int32_t slot = slot_named(f, operand, placed);
            if (slot < 0) {
                fault(r, w, NULL, "this operand does not occur in what is written");
                return false;
            }
            placed[slot] = true;
            code = (bl_code){true, (uint8_t)slot};
            f->size = (uint8_t)(f->size + r->sheet->operands[operand].bits / 8);
        } else if (high >= 0 && low >= 0) {
            code.value = (uint8_t)(high * 16 + low);
            f->size++;
        } else {
            fault(r, w, "two hexadecimal digits, or the name of an operand", "not a code");
            return false;
        }
        if (f->codes == BL_FORM_CODES) {
            fault(r, w, NULL, "more than %d codes", BL_FORM_CODES);
            return false;
        }
        f->code[f->codes++] = code;
    }
    for (uint8_t i = 0; i < f->slots; i++) {
        if (!placed[i]) {
            fault(r, column, "every operand that is written must be encoded",
                  "an operand is not encoded");
            return false;
        }
    }
    if (f->codes == 0) fault(r, column, NULL, "the code column is empty");
    return f->codes > 0;
}

static bool take_cycles(reader *r, bl_text column, bl_form *f)
{
    r->rest = column;
    f->cycles = (uint8_t)next_number(r, 255);
    for (bl_text w = next_word(r); w.length > 0; w = next_word(r)) {
        size_t i = 0;
        bl_text name = {w.at + 1, w.length - 1};
        while (i < r->sheet->extra_count && !bl_text_same(r->sheet->extras[i].name, name))
            i++;
        if (w.at[0] != '+' || i == r->sheet->extra_count) {
            fault(r, w, "'+' and the name of a declared extra", "not an extra cycle");
            return false;
        }
        f->extras |= (uint32_t)1 << i;
    }
    return r->status == BL_OK;
}

/* Two forms collide when nothing in their codes tells them apart. */
static bool collide(const bl_form *a, const bl_form *b)
{
    uint8_t n = a->codes < b->codes ? a->codes : b->codes;
    for (uint8_t i = 0; i < n; i++) {
        if (a->code[i].is_slot || b->code[i].is_slot) return true;
        if (a->code[i].value != b->code[i].value) return false;
    }
    return true;
}

static void add_form(reader *r, const bl_form *f)
{
    bl_sheet *s = r->sheet;
    for (size_t i = 0; i < s->form_count; i++) {
        bl_form *old = &s->forms[i];
        bool same = old->mnemonic == f->mnemonic && old->shape_length == f->shape_length &&
                    memcmp(old->shape, f->shape, f->shape_length) == 0 && old->slots == f->slots &&
                    memcmp(old->operand, f->operand, f->slots) == 0;
        if (same && i < r->inherited) {
            *old = *f; /* a sheet may replace what it took */
            return;
        }
        if (same || (!f->alias && !old->alias && collide(old, f))) {
            fault(r, f->written, "mark a second spelling with 'also'",
                  same ? "written alike on line %lu" : "encoded alike on line %lu",
                  (unsigned long)old->line);
            return;
        }
    }
    bl_form *forms =
        bl_grown(&s->memory, s->forms, &s->form_capacity, s->form_count + 1, sizeof *forms);
    if (forms == NULL || s->form_count >= BL_NO_FORM - 1) {
        r->status = BL_E_MEMORY;
        return;
    }
    s->forms = forms;
    forms[s->form_count++] = *f;
}

/* Cuts the rest of the line at the next bar. */
static bl_text next_column(reader *r)
{
    size_t n = 0;
    while (n < r->rest.length && r->rest.at[n] != '|')
        n++;
    bl_text column = bl_text_trim((bl_text){r->rest.at, n});
    size_t skip = n < r->rest.length ? n + 1 : n;
    r->rest = (bl_text){r->rest.at + skip, r->rest.length - skip};
    return column;
}

static void take_form(reader *r, bool alias)
{
    bl_form f = {.alias = alias, .line = r->number, .next = BL_NO_FORM};
    f.written = next_column(r);
    bl_text code = next_column(r), cycles = next_column(r);
    if (f.written.length == 0 || code.length == 0 || cycles.length == 0) {
        fault(r, f.written, "form WRITTEN | CODE | CYCLES", "a form has three columns");
        return;
    }
    r->rest = f.written;
    bl_text mnemonic = next_word(r);
    bl_text pattern = r->rest;
    if (find_mnemonic(r, mnemonic, &f.mnemonic) && take_shape(r, pattern, &f) &&
        take_code(r, code, &f) && take_cycles(r, cycles, &f))
        add_form(r, &f);
}

static void read_text(reader *r, bl_text text);

static bl_status find_text(const reader *r, bl_text name, bl_text *text)
{
    if (r->source != NULL && r->source->find(r->source->context, name, text) == BL_OK) return BL_OK;
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        if (bl_text_same_nocase(bl_sheet_shipped_name(i), name)) {
            *text = bl_sheet_shipped_text(i);
            return BL_OK;
        }
    }
    return BL_E_NOT_FOUND;
}

/* Takes over everything of another sheet; what follows may add to it or replace forms. */
static void take_sheet(reader *r)
{
    bl_text name = next_word(r), text;
    if (r->sheet->form_count > 0 || r->depth + 1 == SHEET_TEXTS) {
        fault(r, name, NULL, "'takes' comes first, and at most %d sheets deep", SHEET_TEXTS - 1);
        return;
    }
    if (find_text(r, name, &text) != BL_OK) {
        fault(r, name, NULL, "no sheet has this name");
        return;
    }
    reader base = {.sheet = r->sheet,
                   .name = r->name,
                   .source = r->source,
                   .sink = r->sink,
                   .depth = r->depth + 1};
    read_text(&base, text);
    if (base.status != BL_OK) r->status = base.status;
    r->inherited = (uint32_t)r->sheet->form_count;
}

static void take_line(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_text keyword = next_word(r);
    if (is(keyword, "form") || is(keyword, "also")) {
        take_form(r, is(keyword, "also"));
        return;
    }
    if (is(keyword, "sheet")) {
        bl_text name = next_word(r);
        if (r->depth == 0) s->name = name; /* not that of a sheet being taken */
    } else if (is(keyword, "title"))
        s->title = next_quoted(r);
    else if (is(keyword, "takes"))
        take_sheet(r);
    else if (is(keyword, "vector"))
        take_vector(r);
    else if (is(keyword, "operand"))
        take_operand(r);
    else if (is(keyword, "extra"))
        take_extra(r);
    else if (is(keyword, "address"))
        s->address_bits = (unsigned)next_number(r, 32);
    else if (is(keyword, "order")) {
        bl_text order = next_word(r);
        s->order = is(order, "big") ? BL_BIG : BL_LITTLE;
        if (!is(order, "big") && !is(order, "little")) fault(r, order, NULL, "little or big");
    } else if (is(keyword, "reserved")) {
        for (bl_text w = next_word(r); w.length > 0; w = next_word(r)) {
            if (s->reserved_count == SHEET_RESERVED)
                fault(r, w, NULL, "too many reserved names");
            else {
                s->reserved[s->reserved_count++] = w;
                if (w.length > s->reserved_longest) s->reserved_longest = w.length;
            }
        }
    } else {
        fault(r, keyword, "sheet title takes address order reserved vector operand extra form also",
              "unknown keyword");
        return;
    }
    bl_text left = bl_text_trim(r->rest);
    if (left.length > 0 && r->status == BL_OK) fault(r, left, NULL, "unexpected words");
}

/* A comment starts with ';' outside quotes. */
static bl_text without_comment(bl_text line)
{
    bool quoted = false;
    for (size_t i = 0; i < line.length; i++) {
        if (line.at[i] == '"') quoted = !quoted;
        if (line.at[i] == ';' && !quoted) return (bl_text){line.at, i};
    }
    return line;
}

static void read_text(reader *r, bl_text text)
{
    bl_sheet *s = r->sheet;
    char *copy = bl_text_copy(&s->memory, text);
    if (copy == NULL) {
        r->status = BL_E_MEMORY;
        return;
    }
    s->texts[s->text_count++] = copy;
    bl_status worst = BL_OK;
    for (size_t at = 0; at < text.length && worst != BL_E_MEMORY;) {
        size_t end = at;
        while (end < text.length && copy[end] != '\n')
            end++;
        r->line = bl_text_trim((bl_text){copy + at, end - at});
        r->rest = without_comment(r->line);
        r->number++;
        r->status = BL_OK;
        if (bl_text_trim(r->rest).length > 0) take_line(r);
        if (r->status != BL_OK) worst = r->status;
        at = end + 1;
    }
    r->status = worst;
}

bl_status bl_sheet_read(const bl_memory *memory, const char *name, bl_text text,
                        const bl_sheet_source *source, const bl_sink *sink, bl_sheet **sheet)
{
    bl_sheet *s = memory->resize(memory->context, NULL, sizeof *s);
    if (s == NULL) return BL_E_MEMORY;
    memset(s, 0, sizeof *s);
    s->memory = *memory;
    s->address_bits = 16;
    reader r = {.sheet = s, .name = name, .source = source, .sink = sink};
    read_text(&r, text);
    r.line = (bl_text){NULL, 0};
    r.number = 0;
    if (r.status == BL_OK && s->name.length == 0)
        fault(&r, r.line, "begin with: sheet NAME", "the sheet has no name");
    if (r.status == BL_OK && (s->address_bits < 8 || s->address_bits > 32))
        fault(&r, r.line, NULL, "addresses have 8 to 32 bits");
    if (r.status == BL_OK) r.status = sheet_index(s);
    if (r.status != BL_OK) {
        bl_sheet_close(s);
        return r.status;
    }
    *sheet = s;
    return BL_OK;
}
