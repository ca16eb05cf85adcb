/* directive.c - everything that begins with a dot and is not data. */
#include "assembler.h"

/* A statement whose operands are expressions, at least least and at most most of them. */
static void with_values(bl_program *a, statement_kind kind, bl_text word, unsigned min,
                        unsigned max)
{
    uint32_t first = (uint32_t)a->code.ref_count, index;
    unsigned n = 0;
    do {
        if (n == max) {
            asm_error(a, (bl_text){a->cursor.p, 0}, NULL, "%.*s takes at most %u value%s",
                      (int)word.length, word.at, max, max == 1 ? "" : "s");
            return;
        }
        if (!asm_expression_ref(a, &index)) return;
        n++;
    } while (asm_comma(a));
    if (n < min) {
        asm_error(a, word, NULL, "%.*s takes %u values", (int)word.length, word.at, min);
        return;
    }
    asm_push_statement(a, kind, word.at, first, (uint16_t)n);
}

/* Which area it is is known at once; where in it, only in layout. */
static void place(bl_program *a, bl_text word)
{
    a->cursor.p = asm_skip(a->cursor.p);
    bl_text name = asm_word(a->cursor.p);
    const char *hint =
        a->options.area_count == 0 ? "areas come from a bench file: -b bench.yaml" : NULL;
    char buffer[200];
    size_t n = bl_format(buffer, sizeof buffer, "areas:");
    for (uint32_t i = 0; i < a->options.area_count; i++) {
        const char *area = a->options.areas[i].name;
        if (bl_text_same(bl_text_of(area), name)) {
            a->cursor.p = name.at + name.length;
            asm_end_of_line(a);
            asm_push_statement(a, ST_PLACE, word.at, i, 0);
            return;
        }
        if (n < sizeof buffer) n += bl_format(buffer + n, sizeof buffer - n, " %s", area);
    }
    asm_error(a, name.length > 0 ? name : word, hint != NULL ? hint : buffer,
              "no area is called '%.*s'", (int)(name.length & 63), name.at);
}

/* Which vectors there are is for the sheet to say. */
static void take_vector_directive(bl_program *a, bl_text word)
{
    char hint[120];
    size_t n = bl_format(hint, sizeof hint, "vectors:");
    a->cursor.p = asm_skip(a->cursor.p);
    bl_text name = asm_word(a->cursor.p);
    for (size_t i = 0; i < bl_sheet_vectors(a->machine.sheet); i++) {
        const bl_vector *v = bl_sheet_vector(a->machine.sheet, i);
        if (n < sizeof hint)
            n += bl_format(hint + n, sizeof hint - n, " %.*s", (int)v->name.length, v->name.at);
        if (!bl_text_same_nocase(v->name, name)) continue;
        a->cursor.p = name.at + name.length;
        uint32_t index;
        if (v->runs) {
            char place[16];
            bl_address_text(place, v->address, bl_sheet_address_bits(a->machine.sheet),
                            a->machine.radix);
            asm_error(a, name, "put the code there: .org and the address",
                      "the %.*s runs what stands at %s; no address stands there",
                      (int)bl_sheet_name(a->machine.sheet).length,
                      bl_sheet_name(a->machine.sheet).at, place);
            return;
        }
        if (!asm_comma(a)) {
            asm_error(a, word, ".vector NAME, ADDRESS", "the address is missing");
            return;
        }
        if (!asm_expression_ref(a, &index)) return;
        asm_end_of_line(a);
        if (!asm_push_statement(a, ST_VECTOR, word.at, index, 1)) return;
        a->code.statements[a->code.statement_count - 1].form = (uint16_t)i;
        return;
    }
    if (bl_sheet_vectors(a->machine.sheet) == 0)
        asm_error(a, word, ".org and .word put an address where it belongs",
                  "'.cpu %.*s' has no vectors", (int)bl_sheet_name(a->machine.sheet).length,
                  bl_sheet_name(a->machine.sheet).at);
    else
        asm_error(a, name.length > 0 ? name : word, hint, "the %.*s has no vector '%.*s'",
                  (int)bl_sheet_name(a->machine.sheet).length, bl_sheet_name(a->machine.sheet).at,
                  (int)(name.length & 63), name.at);
}

/* .assert CONDITION, "message": the message is kept as bytes of the second ref. */
static void assertion(bl_program *a, bl_text word)
{
    uint32_t first;
    bl_text message = {NULL, 0};
    if (!asm_expression_ref(a, &first)) return;
    if (asm_comma(a)) {
        if (!asm_quoted(a, &message)) return;
        asm_end_of_line(a);
    }
    uint32_t at =
        message.at == NULL ? 0 : (uint32_t)(message.at - a->code.sources[a->cursor.source].text);
    uint16_t length = (uint16_t)(message.length > 200 ? 200 : message.length);
    asm_push_ref(a, (ref){.kind = REF_BYTES, .at = at, .length = length});
    asm_push_statement(a, ST_ASSERT, word.at, first, 2);
}

/* Text is read where it stands: what comes behind the directive is behind all of it. */
static void include(bl_program *a, bl_text word)
{
    bl_text name;
    if (!asm_quoted(a, &name)) return;
    asm_end_of_line(a);
    if (a->cursor.includes == MAX_INCLUDES - 1) {
        asm_error(a, name, NULL, "includes are nested more than %d deep", MAX_INCLUDES - 1);
        return;
    }
    uint32_t index;
    if (!asm_load(a, name, "source", name, &index)) return;
    for (unsigned i = 1; i <= a->cursor.includes; i++) {
        if (a->code.sources[a->cursor.include_stack[i]].expanded) continue;
        if (!bl_text_same(bl_text_of(a->code.sources[a->cursor.include_stack[i]].name),
                          bl_text_of(a->code.sources[index].name)))
            continue;
        asm_error(a, name, "it is being read already", "'%s' includes itself",
                  a->code.sources[index].name);
        return;
    }
    a->cursor.included += a->code.sources[index].length;
    if (a->cursor.included > (size_t)MAX_INCLUDED) {
        asm_error(a, name, "does each of some files include the next more than once?",
                  "includes bring more than %ld MiB of text", MAX_INCLUDED >> 20);
        a->fatal = BL_E_SYNTAX; /* every further one would be told as well */
        return;
    }
    a->code.sources[index].included = true;
    a->code.sources[index].from = a->cursor.source;
    a->code.sources[index].from_row = a->cursor.line;
    asm_push_statement(a, ST_INCLUDE, word.at, index, 0);
    asm_parse_source(a, index);
}

/* Takes over the symbols of a file, under a name. Local names stay behind. */
static void use_symbols(bl_program *a, uint32_t index, uint32_t group)
{
    bl_text rest = {a->code.sources[index].text, a->code.sources[index].length};
    uint32_t line = 0;
    bl_symbol_line s;
    bl_status status = BL_OK;
    while (
        bl_symbols_read(a->code.sources[index].name, &rest, &line, &s, a->options.sink, &status)) {
        bool local = false;
        for (size_t i = 0; i < s.name.length; i++)
            local |= s.name.at[i] == '_' && (i == 0 || s.name.at[i - 1] == '.');
        if (local || asm_define_fixed(a, group, s.name, s.value) || a->fatal != BL_OK) continue;
        bl_report(a->options.sink, BL_ERROR, a->code.sources[index].name, line, NULL,
                  "'%.*s' stands here twice, or below a name that has a value itself",
                  (int)(s.name.length & 127), s.name.at);
        a->errors++;
    }
    if (status != BL_OK) a->errors++;
}

/* .use "file.sym" as NAME */
static void use(bl_program *a, bl_text word)
{
    bl_text file;
    if (!asm_quoted(a, &file)) return;
    bl_text as = asm_word(asm_skip(a->cursor.p));
    bl_text name = asm_word(asm_skip(as.at + as.length));
    if (!bl_text_same(as, bl_text_of("as")) || name.length == 0) {
        asm_error(a, word, ".use \"file.sym\" as NAME", "the name for these symbols is missing");
        return;
    }
    a->cursor.p = name.at + name.length;
    asm_end_of_line(a);
    uint32_t group;
    uint32_t index;
    if (!asm_load(a, file, "symbol file", file, &index)) return;
    if (!asm_define(a, name, SYMBOL_LEVEL, &group)) return;
    use_symbols(a, index, group);
}

/* .runat ADDR: what follows is kept here and runs there. */
static void runat(bl_program *a, bl_text word)
{
    uint32_t index;
    if (a->cursor.in_runat) {
        asm_error(a, word, "end it with .end", "this stands in another .runat");
        return;
    }
    if (!asm_expression_ref(a, &index)) return;
    asm_end_of_line(a);
    if (asm_open_block(a, BLOCK_RUNAT, word) == NULL) return;
    a->cursor.in_runat = true;
    asm_push_statement(a, ST_RUNAT, word.at, index, 1);
}

/* .direct PAGE: what the direct page register holds from here on. */
static void take_direct_page(bl_program *a, bl_text word)
{
    int64_t page = 0;
    if (!asm_known_value(a, &page)) return;
    asm_end_of_line(a);
    if (page < 0 || page > 0xFFFF)
        asm_error(a, word, "the high byte of the page's addresses", "%lld is not a page",
                  (long long)page);
    else
        asm_push_statement(a, ST_DIRECT, word.at, (uint32_t)page, 0);
}

/* Has anything been read that depends on the sheet? */
static bool has_begun(const bl_program *a)
{
    for (size_t i = 0; i < a->code.statement_count; i++)
        if (a->code.statements[i].kind == ST_INSTRUCTION || a->code.statements[i].kind == ST_VECTOR)
            return true;
    return false;
}

/* Modes of one CPU have the same memory: what differs is how instructions are written. */
static bool is_mode_of(const bl_sheet *a, const bl_sheet *b)
{
    return bl_sheet_unit_bits(a) == bl_sheet_unit_bits(b) &&
           bl_sheet_order(a) == bl_sheet_order(b) &&
           bl_sheet_address_bits(a) == bl_sheet_address_bits(b) &&
           bl_sheet_address_bits(a) > 16; /* of the CPUs with 16 bits none has modes */
}

/* In the middle of a program: another mode of its CPU. The sheet is given over. */
static void change_mode(bl_program *a, bl_text word, bl_sheet *sheet)
{
    unsigned index = a->machine.sheet_count;
    if (!is_mode_of(a->machine.sheet, sheet) || index == ASM_SHEETS) {
        asm_error(a, word, "give it before the first instruction, or with -c",
                  "the CPU cannot change in the middle, but between the modes of one");
        bl_sheet_close(sheet);
        return;
    }
    a->machine.sheets[index] = a->machine.own_sheets[index] = sheet;
    a->machine.sheet_count++;
    asm_turn_to_sheet(a, index);
}

/* One that was named before. */
static bool turn_back(bl_program *a, bl_text name)
{
    for (unsigned i = 0; i < a->machine.sheet_count; i++) {
        if (!bl_text_same_nocase(name, bl_sheet_name(a->machine.sheets[i]))) continue;
        asm_turn_to_sheet(a, i);
        return true;
    }
    return false;
}

/* .cpu NAME: the sheet from here on; before the first instruction, or another mode of the CPU. */
static void take_cpu(bl_program *a, bl_text word)
{
    a->cursor.p = asm_skip(a->cursor.p);
    const char *start = a->cursor.p;
    while (!asm_is(*a->cursor.p, C_END) && !asm_is(*a->cursor.p, C_BLANK))
        a->cursor.p++;
    bl_text name = {start, (size_t)(a->cursor.p - start)};
    bl_sheet *sheet = NULL;
    asm_end_of_line(a);
    if (turn_back(a, name)) return;
    bl_status status = bl_sheet_open(&a->memory, name, NULL, &sheet);
    if (status == BL_E_MEMORY)
        a->fatal = status;
    else if (status != BL_OK)
        asm_error(a, name.length > 0 ? name : word, "bootlace cpus lists them",
                  "no sheet for a CPU named '%.*s'", (int)(name.length & 63), name.at);
    if (status != BL_OK) return;
    if (has_begun(a)) {
        change_mode(a, word, sheet);
        return;
    }
    asm_use_sheet(a, sheet);
    bl_sheet_close(a->machine.own_sheets[0]);
    a->machine.own_sheets[0] = sheet;
}

typedef struct directive {
    const char *name;
    statement_kind kind;
    uint8_t min, max; /* values; most 0: has its own function */
    void (*take)(bl_program *a, bl_text word);
} directive;

static const directive directives[] = {
    {".byte", ST_BYTE, 0, 0, NULL},
    {".word", ST_WORD, 0, 0, NULL},
    {".triple", ST_TRIPLE, 0, 0, NULL},
    {".long", ST_LONG, 0, 0, NULL},
    {".text", ST_BYTE, 0, 0, asm_text},
    {".org", ST_ORG, 1, 1, NULL},
    {".place", ST_PLACE, 0, 0, place},
    {".align", ST_ALIGN, 1, 1, NULL},
    {".reserve", ST_RESERVE, 1, 1, NULL},
    {".fill", ST_FILL, 1, 2, NULL},
    {".entry", ST_ENTRY, 1, 1, NULL},
    {".vector", ST_VECTOR, 0, 0, take_vector_directive},
    {".assert", ST_ASSERT, 0, 0, assertion},
    {".include", ST_INCLUDE, 0, 0, include},
    {".use", ST_INCLUDE, 0, 0, use},
    {".cpu", ST_ASSERT, 0, 0, take_cpu},
    {".if", ST_ASSERT, 0, 0, asm_if},
    {".elseif", ST_ASSERT, 0, 0, asm_elseif},
    {".else", ST_ASSERT, 0, 0, asm_else},
    {".end", ST_ASSERT, 0, 0, asm_end},
    {".macro", ST_ASSERT, 0, 0, asm_macro},
    {".repeat", ST_ASSERT, 0, 0, asm_repeat},
    {".group", ST_GROUP, 0, 0, asm_group},
    {".note", ST_ASSERT, 0, 0, asm_note},
    {".warn", ST_ASSERT, 0, 0, asm_warn_directive},
    {".fail", ST_ASSERT, 0, 0, asm_fail},
    {".embed", ST_BYTE, 0, 0, asm_embed},
    {".checksum", ST_CHECKSUM, 0, 0, asm_checksum},
    {".alphabet", ST_BYTE, 0, 0, asm_alphabet},
    {".runat", ST_RUNAT, 0, 0, runat},
    {".direct", ST_DIRECT, 0, 0, take_direct_page},
};
enum { DIRECTIVES = sizeof directives / sizeof directives[0] };

/* Words that are widely used elsewhere, and what says the same here. */
static const char *foreign(bl_text word)
{
    static const struct {
        const char *word, *hint;
    } words[] = {
        {".ifdef", "write .if defined(NAME)"},
        {".ifndef", "write .if !defined(NAME)"},
        {".endif", "every block ends with .end"},
        {".endm", "every block ends with .end"},
        {".endr", "every block ends with .end"},
        {".equ", "write NAME = VALUE"},
        {".set", "write NAME = VALUE"},
        {".db", "write .byte"},
        {".dw", "write .word"},
        {".ds", "write .reserve, or .fill to make bytes"},
        {".ascii", "write .text"},
        {".asciz", "write .text \"...\" ending 0"},
        {".incbin", "write .embed"},
        {".rept", "write .repeat"},
        {".error", "write .fail"},
    };
    for (size_t i = 0; i < sizeof words / sizeof words[0]; i++)
        if (bl_text_same_nocase(word, bl_text_of(words[i].word))) return words[i].hint;
    return NULL;
}

static const char *directive_name(const void *list, size_t index)
{
    return index < DIRECTIVES ? ((const directive *)list)[index].name : NULL;
}

static void refuse_directive(bl_program *a, bl_text word)
{
    char hint[64];
    const char *found = NULL, *other = foreign(word);
    if (other == NULL)
        found =
            bl_name_nearest(word, bl_name_tolerance(word.length), directive_name, directives, NULL);
    if (found != NULL) bl_format(hint, sizeof hint, "did you mean %s?", found);
    asm_error(a, word,
              other != NULL   ? other
              : found != NULL ? hint
                              : NULL,
              "no directive is called '%.*s'", (int)(word.length & 63), word.at);
}

void asm_directive(bl_program *a)
{
    bl_text word = asm_word(a->cursor.p + 1);
    word = (bl_text){a->cursor.p, word.length + 1};
    for (size_t i = 0; i < DIRECTIVES; i++) {
        const directive *d = &directives[i];
        if (!bl_text_same_nocase(word, bl_text_of(d->name))) continue;
        a->cursor.p = word.at + word.length;
        if (d->take != NULL)
            d->take(a, word);
        else if (d->max > 0)
            with_values(a, d->kind, word, d->min, d->max);
        else
            asm_data(a, d->kind, word);
        return;
    }
    refuse_directive(a, word);
}
