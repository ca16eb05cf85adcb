/* sheet_read.c - reads a sheet: one line an item, "keyword words". The format is in docs/sheets.md.
 */
#include "sheet_read.h"

#include "bootlace/number.h"

void read_fault(reader *r, bl_text at, const char *hint, const char *message, ...)
{
    va_list list;
    r->status = BL_E_SYNTAX;
    va_start(list, message);
    bl_line_fault_list(&r->lines, at, hint, message, list);
    va_end(list);
}

bl_text read_word(reader *r)
{
    return bl_line_word(&r->lines);
}

bl_text read_name(reader *r)
{
    bl_text name = read_word(r);
    bool good = name.length <= SHEET_NAME;
    for (size_t i = 0; i < name.length && good; i++)
        good = name.at[i] > ' ' && name.at[i] <= '~';
    if (good) return name;
    read_fault(r, name, NULL, "a name has at most %d characters, all of them ASCII", SHEET_NAME);
    return (bl_text){name.at, 0};
}

bl_text read_quoted(reader *r)
{
    bl_text t = bl_text_trim(r->lines.rest);
    size_t n = 1;
    while (n < t.length && t.at[n] != '"')
        n++;
    if (t.length < 2 || t.at[0] != '"' || n == t.length) {
        read_fault(r, t, NULL, "text in double quotes is needed here");
        return (bl_text){NULL, 0};
    }
    r->lines.rest = (bl_text){t.at + n + 1, t.length - n - 1};
    return (bl_text){t.at + 1, n - 1};
}

uint32_t read_number(reader *r, uint32_t limit)
{
    bl_text w = read_word(r);
    uint32_t value = 0;
    if (w.length == 0 || bl_number_parse(w, limit, &value) != BL_OK)
        read_fault(r, w, NULL, "a number from 0 to %lu is needed here", (unsigned long)limit);
    return value;
}

bl_text read_column(reader *r)
{
    size_t n = 0;
    while (n < r->lines.rest.length && r->lines.rest.at[n] != '|')
        n++;
    bl_text column = bl_text_trim((bl_text){r->lines.rest.at, n});
    size_t skip = n < r->lines.rest.length ? n + 1 : n;
    r->lines.rest = (bl_text){r->lines.rest.at + skip, r->lines.rest.length - skip};
    return column;
}

int32_t read_code(const bl_sheet *s, bl_text word)
{
    unsigned digit = s->radix == BL_OCTAL ? 3 : 4;
    int32_t code = 0;
    if (word.length != (s->unit + digit - 1) / digit) return -1;
    for (size_t i = 0; i < word.length; i++) {
        int value = bl_hex_digit(word.at[i]);
        if (value < 0 || value >= (int)s->radix) return -1;
        code = code * (int32_t)s->radix + value;
    }
    return code < (int32_t)1 << s->unit ? code : -1;
}

int32_t read_operand_named(const bl_sheet *s, bl_text name)
{
    for (size_t i = s->operand_count; i > 0; i--) /* the latest first: a sheet may replace one */
        if (bl_text_same(s->operands[i - 1].name, name)) return (int32_t)i - 1;
    return -1;
}

static void take_vector(reader *r, bool runs)
{
    bl_sheet *s = r->sheet;
    bl_vector v = {.name = read_name(r), .runs = runs};
    v.address = read_number(r, UINT32_MAX);
    bl_text last = read_word(r);
    v.needed = read_is(last, "needed");
    if (last.length != 0 && !v.needed)
        read_fault(r, last, "'needed' is the only word that may follow", "unknown word");
    if (s->vector_count == SHEET_VECTORS) {
        read_fault(r, v.name, NULL, "more than %d vectors", SHEET_VECTORS);
        return;
    }
    s->vectors[s->vector_count++] = v;
}

/* Makes a name reserved, with a message when that is not possible. */
static void reserve_word(reader *r, bl_text name)
{
    bl_status status = sheet_reserve(r->sheet, name);
    if (status == BL_OK) return;
    read_fault(r, name, NULL, "a reserved name has 1 to %d letters and digits, and there are few",
               BL_MNEMONIC_MAX);
}

static unsigned bits_of(uint32_t value)
{
    unsigned bits = 0;
    for (; value > 0; value >>= 1)
        bits++;
    return bits;
}

/* NAME=CODE, as many as there are. */
static void take_choices(reader *r, bl_operand *o)
{
    bl_sheet *s = r->sheet;
    size_t first = s->choice_count;
    uint32_t all = 0;
    for (bl_text w = read_word(r); w.length > 0; w = read_word(r)) {
        size_t n = 0;
        uint32_t code = 0;
        while (n < w.length && w.at[n] != '=')
            n++;
        bl_text number = {w.at + n + 1, n < w.length ? w.length - n - 1 : 0};
        if (number.length == 0 || bl_number_parse(number, UINT16_MAX, &code) != BL_OK) {
            read_fault(r, w, "like this: A=7", "a name and its code are needed here");
            return;
        }
        bl_choice *c =
            bl_grown(&s->memory, s->choices, &s->choice_capacity, s->choice_count + 1, sizeof *c);
        if (c == NULL) {
            r->status = BL_E_MEMORY;
            return;
        }
        s->choices = c;
        c[s->choice_count++] = (bl_choice){{w.at, n}, (uint16_t)code};
        all |= code;
        reserve_word(r, (bl_text){w.at, n});
    }
    o->first = (uint16_t)first;
    o->count = (uint16_t)(s->choice_count - first);
    o->bits = (uint8_t)bits_of(all);
    if (o->count == 0 || s->choice_count > UINT8_MAX * 16)
        read_fault(r, o->name, "like this: A=7 B=0", "there are no choices, or too many");
    if (o->bits == 0) o->bits = 1;
}

/* The class decides what else the line says: bits, or choices. */
static void take_operand(reader *r)
{
    static const char *const classes[] = {
        [BL_OPERAND_VALUE] = "value",       [BL_OPERAND_NUMBER] = "number",
        [BL_OPERAND_SIGNED] = "signed",     [BL_OPERAND_ADDRESS] = "address",
        [BL_OPERAND_DIRECT] = "direct",     [BL_OPERAND_PAGE] = "page",
        [BL_OPERAND_RELATIVE] = "relative", [BL_OPERAND_EXACT] = "",
        [BL_OPERAND_ANYOF] = "anyof",       [BL_OPERAND_ONEOF] = "oneof",
    };
    _Static_assert(BL_COUNT(classes) == BL_OPERAND_ONEOF + 1, "one for each");
    bl_sheet *s = r->sheet;
    bl_operand o = {.name = read_name(r)};
    bl_text kind = read_word(r);
    size_t k = 0;
    while (k < sizeof classes / sizeof classes[0] && !read_is(kind, classes[k]))
        k++;
    if (k == sizeof classes / sizeof classes[0] || kind.length == 0) {
        read_fault(r, kind,
                   "value, number, signed, address, direct, page, relative, oneof or anyof",
                   "unknown class of operand");
        return;
    }
    if (s->unit != 0 && read_code(s, o.name) >= 0)
        read_fault(r, o.name, "take a longer name", "'%.*s' would read as a code",
                   (int)(o.name.length & 63), o.name.at);
    o.kind = (bl_operand_class)k;
    if (o.kind >= BL_OPERAND_ANYOF) {
        take_choices(r, &o);
    } else {
        o.bits = (uint8_t)read_number(r, 32);
        if (o.bits == 0) read_fault(r, kind, NULL, "an operand has 1 to 32 bits");
    }
    /* A sheet that takes another may have settled this operand before. */
    if (r->depth > 0 && read_operand_named(s, o.name) >= 0) return;
    if (s->operand_count == SHEET_OPERANDS) {
        read_fault(r, o.name, NULL, "more than %d operand kinds", SHEET_OPERANDS);
        return;
    }
    s->operands[s->operand_count++] = o;
}

static void take_extra(reader *r)
{
    bl_sheet *s = r->sheet;
    bl_extra e = {.name = read_name(r), .cycles = 1};
    bl_text next = bl_text_trim(r->lines.rest);
    if (next.length > 0 && next.at[0] != '"') e.cycles = (uint8_t)read_number(r, 99);
    e.meaning = read_quoted(r);
    if (s->extra_count == SHEET_EXTRAS) {
        read_fault(r, e.name, NULL, "more than %d extras", SHEET_EXTRAS);
        return;
    }
    s->extras[s->extra_count++] = e;
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

/* Takes over everything of another sheet; what follows may add to it, replace or remove forms. */
static void take_sheet(reader *r)
{
    bl_text name = read_word(r), text;
    if (r->sheet->form_count > 0 || r->depth + 1 == SHEET_DEPTH) {
        read_fault(r, name, NULL, "'takes' comes first, and at most %d sheets deep",
                   SHEET_DEPTH - 1);
        return;
    }
    if (find_text(r, name, &text) != BL_OK) {
        read_fault(r, name, NULL, "no sheet has this name");
        return;
    }
    reader base = {.sheet = r->sheet,
                   .source = r->source,
                   .lines = {.name = r->lines.name, .sink = r->lines.sink},
                   .depth = r->depth + 1};
    read_text(&base, text);
    if (base.status != BL_OK) r->status = base.status;
    r->inherited = (uint32_t)r->sheet->form_count;
}

/* A property with a number; it comes before what depends on it. */
static void take_width(reader *r, unsigned *width, unsigned min, unsigned max, unsigned mark)
{
    bl_text at = bl_text_trim(r->lines.rest);
    bool settled = r->depth > 0 && (r->sheet->given & mark) != 0;
    uint32_t value = read_number(r, max);
    if (r->status == BL_OK && (value < min || r->sheet->form_count > 0))
        read_fault(r, at, NULL,
                   value < min ? "this is %u to %u bits" : "this comes before the first form", min,
                   max);
    else if (!settled)
        *width = (unsigned)value;
    r->sheet->given |= mark;
}

/* How long memory has to answer: half clocks, and nanoseconds of them that the CPU itself takes. A
 * sheet that takes another says it after that one. */
static void take_access_cycles(reader *r)
{
    r->sheet->access_halves = (uint16_t)read_number(r, 64);
    r->sheet->access_own = (uint16_t)read_number(r, 9999);
}

/* One of two words. */
static bool take_either(reader *r, const char *first, const char *second)
{
    bl_text word = read_word(r);
    if (!read_is(word, first) && !read_is(word, second))
        read_fault(r, word, NULL, "%s or %s", first, second);
    return read_is(word, second);
}

static void take_title(reader *r)
{
    bl_text title = read_quoted(r);
    if (r->depth == 0 || r->sheet->title.length == 0) r->sheet->title = title;
}

/* Properties come before the forms that depend on them, and each once; the sheet that was taken
 * may have said them. */
static bool take_property(reader *r, bl_text keyword)
{
    bl_sheet *s = r->sheet;
    if (read_is(keyword, "sheet")) {
        bl_text name = read_name(r);
        if (r->depth == 0)
            s->name = name;
        else
            s->taken[r->depth - 1] = name;
    } else if (read_is(keyword, "title"))
        take_title(r);
    else if (read_is(keyword, "takes"))
        take_sheet(r);
    else if (read_is(keyword, "address"))
        take_width(r, &s->address_bits, 8, 32, 1);
    else if (read_is(keyword, "unit"))
        take_width(r, &s->unit, 4, 16, 2);
    else if (read_is(keyword, "word"))
        take_width(r, &s->word, 4, 32, 4);
    else if (read_is(keyword, "access"))
        take_access_cycles(r);
    else if (read_is(keyword, "order"))
        s->order = take_either(r, "little", "big") ? BL_BIG : BL_LITTLE;
    else if (read_is(keyword, "radix"))
        s->radix = take_either(r, "hex", "octal") ? BL_OCTAL : BL_HEX;
    else if (read_is(keyword, "cycles"))
        s->no_cycles = take_either(r, "known", "unknown");
    else if (read_is(keyword, "reserved"))
        for (bl_text w = read_word(r); w.length > 0; w = read_word(r))
            reserve_word(r, w);
    else
        return false;
    return true;
}

/* By keyword; what is left of the line afterwards is a fault. */
static void take_sheet_line(reader *r)
{
    bl_text keyword = read_word(r);
    if (read_is(keyword, "form"))
        read_form(r, FORM_DEFINE);
    else if (read_is(keyword, "also"))
        read_form(r, FORM_ALSO);
    else if (read_is(keyword, "remove"))
        read_forms(r, FORM_REMOVE);
    else if (read_is(keyword, "jumps"))
        read_forms(r, FORM_JUMPS);
    else if (read_is(keyword, "ends"))
        read_forms(r, FORM_ENDS);
    else if (read_is(keyword, "calls"))
        read_forms(r, FORM_CALLS);
    else if (read_is(keyword, "returns"))
        read_forms(r, FORM_RETURNS);
    else if (read_is(keyword, "repeats"))
        read_forms(r, FORM_REPEATS);
    else if (read_is(keyword, "leads"))
        read_leads(r);
    else if (read_is(keyword, "mode"))
        read_mode(r);
    else if (read_is(keyword, "suffix"))
        read_suffix(r);
    else if (read_is(keyword, "vector"))
        take_vector(r, false);
    else if (read_is(keyword, "start"))
        take_vector(r, true);
    else if (read_is(keyword, "operand"))
        take_operand(r);
    else if (read_is(keyword, "extra"))
        take_extra(r);
    else if (!take_property(r, keyword) && !read_registers(r, keyword))
        read_fault(
            r, keyword,
            "sheet title takes unit word order radix address access cycles reserved vector start "
            "operand extra mode suffix form also remove jumps ends calls returns repeats leads "
            "registers pair "
            "flags stack",
            "unknown keyword");
    bl_text left = bl_text_trim(r->lines.rest);
    if (left.length > 0 && r->status == BL_OK) read_fault(r, left, NULL, "unexpected words");
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

static bool next_sheet_line(reader *r)
{
    if (!bl_line_next(&r->lines)) return false;
    r->lines.rest = without_comment(r->lines.line);
    return true;
}

/* The text is copied: names in the sheet point into it. */
static void read_text(reader *r, bl_text text)
{
    char *copy = sheet_keep(r->sheet, text.length + 1);
    if (copy == NULL) {
        r->status = BL_E_MEMORY;
        return;
    }
    if (text.length > 0) memcpy(copy, text.at, text.length);
    r->text = (bl_text){copy, text.length};
    r->lines.text = r->text;
    bl_status worst = BL_OK;
    while (worst != BL_E_MEMORY && next_sheet_line(r)) {
        r->status = BL_OK;
        if (r->lines.line.length > SHEET_LINE)
            read_fault(r, (bl_text){NULL, 0}, NULL, "a line has at most %d characters", SHEET_LINE);
        else if (bl_text_trim(r->lines.rest).length > 0)
            take_sheet_line(r);
        if (r->status != BL_OK) worst = r->status;
    }
    r->status = worst;
}

/* Tells of two forms that nothing tells apart. */
static void tell_alike(reader *r, const bl_form *culprit, const bl_form *other, const char *how)
{
    r->lines.text = r->text;
    r->lines.number = 0;
    while (r->lines.number < culprit->line && next_sheet_line(r))
        continue;
    bl_text name = culprit->written;
    read_fault(r, name, "mark a second spelling with 'also'",
               "'%.*s' is %s alike on line %lu, '%.*s'", (int)(name.length & 63), name.at, how,
               (unsigned long)other->line, (int)(other->written.length & 63), other->written.at);
}

/* Look-ups are built when all forms are known; forms that nothing tells apart are told then. */
static void finish_sheet(reader *r)
{
    bl_sheet *s = r->sheet;
    const bl_form *culprit = NULL, *other = NULL;
    if (s->name.length == 0) {
        r->lines.line = (bl_text){NULL, 0};
        r->lines.number = 0;
        read_fault(r, r->lines.line, "begin with: sheet NAME", "the sheet has no name");
        return;
    }
    r->status = read_compact(s);
    for (size_t i = 0; i < s->operand_count; i++)
        s->operands[i].space = (uint8_t)s->address_bits;
    if (r->status == BL_OK) r->status = sheet_spell(s, &culprit, &other);
    if (r->status == BL_E_OVERLAP) tell_alike(r, culprit, other, "written");
    if (r->status == BL_OK) r->status = sheet_build_decoder(s, &culprit, &other);
    if (r->status == BL_E_OVERLAP) tell_alike(r, culprit, other, "encoded");
    if (r->status == BL_E_RANGE) {
        read_fault(r, (bl_text){NULL, 0}, NULL, "the sheet has too many forms, or too long ones");
        r->status = BL_E_SYNTAX;
    }
}

/* All faults of a sheet are told, and nothing of it is used. */
bl_status bl_sheet_read(const bl_memory *memory, const char *name, bl_text text,
                        const bl_sheet_source *source, const bl_sink *sink, bl_sheet **sheet)
{
    bl_sheet *s = memory->resize(memory->context, NULL, sizeof *s);
    if (s == NULL) return BL_E_MEMORY;
    memset(s, 0, sizeof *s);
    s->memory = *memory;
    s->address_bits = s->word = 16;
    s->unit = 8;
    s->radix = BL_HEX;
    reader r = {.sheet = s, .source = source, .lines = {.name = name, .sink = sink}};
    read_text(&r, text);
    if (r.status == BL_OK) finish_sheet(&r);
    if (r.status != BL_OK) {
        bl_sheet_close(s);
        return r.status;
    }
    *sheet = s;
    return BL_OK;
}
