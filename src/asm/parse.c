/* parse.c - lines: labels, constants, then an instruction or a directive. */
#include "assembler.h"

#define L C_LETTER
#define D (C_DIGIT | C_HEX)
#define X (C_LETTER | C_HEX)
#define E C_END
/* The end of a line is a line feed, a carriage return or a comment. */
const uint8_t asm_class[256] = {
    ['\n'] = E, ['\r'] = E, [';'] = E, ['\0'] = 0, [' '] = C_BLANK, ['\t'] = C_BLANK, ['0'] = D,
    ['1'] = D,  ['2'] = D,  ['3'] = D, ['4'] = D,  ['5'] = D,       ['6'] = D,        ['7'] = D,
    ['8'] = D,  ['9'] = D,  ['A'] = X, ['B'] = X,  ['C'] = X,       ['D'] = X,        ['E'] = X,
    ['F'] = X,  ['G'] = L,  ['H'] = L, ['I'] = L,  ['J'] = L,       ['K'] = L,        ['L'] = L,
    ['M'] = L,  ['N'] = L,  ['O'] = L, ['P'] = L,  ['Q'] = L,       ['R'] = L,        ['S'] = L,
    ['T'] = L,  ['U'] = L,  ['V'] = L, ['W'] = L,  ['X'] = L,       ['Y'] = L,        ['Z'] = L,
    ['_'] = L,  ['a'] = X,  ['b'] = X, ['c'] = X,  ['d'] = X,       ['e'] = X,        ['f'] = X,
    ['g'] = L,  ['h'] = L,  ['i'] = L, ['j'] = L,  ['k'] = L,       ['l'] = L,        ['m'] = L,
    ['n'] = L,  ['o'] = L,  ['p'] = L, ['q'] = L,  ['r'] = L,       ['s'] = L,        ['t'] = L,
    ['u'] = L,  ['v'] = L,  ['w'] = L, ['x'] = L,  ['y'] = L,       ['z'] = L,
};
#undef L
#undef D
#undef X
#undef E

void asm_end_of_line(bl_program *a)
{
    a->cursor.p = asm_skip(a->cursor.p);
    if (asm_is(*a->cursor.p, C_END)) return;
    const char *end = a->cursor.p;
    while (!asm_is(*end, C_END))
        end++;
    while (asm_is(end[-1], C_BLANK))
        end--;
    asm_error(a, (bl_text){a->cursor.p, (size_t)(end - a->cursor.p)}, "a comment begins with ';'",
              "unexpected text at the end of the line");
}

static void label(bl_program *a, bl_text word)
{
    uint32_t index;
    if (!asm_define(a, word, SYMBOL_LABEL, &index)) return;
    a->names.symbols[index].statement = (uint32_t)a->code.statement_count;
    asm_push_statement(a, ST_LABEL, word.at, index, 0);
    if (word.at[0] != '_') a->cursor.above = index;
}

static void constant(bl_program *a, bl_text word)
{
    uint32_t index, ref_index;
    a->cursor.p++;
    if (!asm_expression_ref(a, &ref_index)) return;
    asm_end_of_line(a);
    if (!asm_define(a, word, SYMBOL_CONST, &index)) return;
    a->names.symbols[index].ref = ref_index;
    a->names.symbols[index].statement = (uint32_t)a->code.statement_count;
    asm_push_statement(a, ST_CONST, word.at, index, 0);
}

/* A word that is not followed by ':' or '='. True when the line may go on (it was a label). */
static bool plain_word(bl_program *a, bl_text word)
{
    int32_t mnemonic = bl_sheet_find_mnemonic(a->machine.sheet, word);
    if (mnemonic >= 0) {
        a->cursor.p = word.at + word.length;
        asm_instruction(a, word, (uint16_t)mnemonic);
        return false;
    }
    int32_t macro_index = asm_find_macro(a, word);
    if (macro_index >= 0) {
        a->cursor.p = word.at + word.length;
        asm_expand(a, word, (uint32_t)macro_index);
        return false;
    }
    if (word.at != a->cursor.line_start) {
        asm_unknown_word(a, word);
        return false;
    }
    label(a, word);
    a->cursor.p = word.at + word.length;
    return true;
}

/* Conditions and counts decide what is read: they cannot wait for layout. */
bool asm_known_value(bl_program *a, int64_t *value)
{
    ref r = {0};
    statement nowhere = {.source = a->cursor.source, .line = a->cursor.line};
    if (!asm_expression(a, &r)) return false;
    value_state state = asm_value(a, &r, &nowhere, value);
    if (state == VALUE_KNOWN) return true;
    bl_text mark = {a->code.sources[a->cursor.source].text + r.at, r.length};
    char message[320], hint[320];
    bool undefined = r.kind == REF_SYMBOL && a->names.symbols[r.symbol].kind == SYMBOL_UNDEFINED;
    if (r.kind == REF_SYMBOL) a->names.symbols[r.symbol].told = true;
    if (asm_explain_level(a, &r, message, hint, sizeof hint))
        asm_error(a, mark, hint, "%s", message);
    else if (undefined)
        asm_error(a, mark, "define it above, or ask defined(NAME) whether there is one",
                  "this must be known here, and nothing above defines it");
    else
        asm_error(a, mark,
                  "constants defined above, -D, board and area names are known; addresses are not "
                  "yet",
                  state == VALUE_BAD ? "this has no value" : "this must be known here");
    return false;
}

/* Labels, then a constant, a directive or an instruction; the first word that is none of them is
 * told. */
static void parse_line(bl_program *a)
{
    if (asm_skipping(a)) {
        asm_dead_line(a);
        return;
    }
    for (;;) {
        a->cursor.p = asm_skip(a->cursor.p);
        if (asm_is(*a->cursor.p, C_END)) return;
        if (*a->cursor.p == '.') {
            asm_directive(a);
            return;
        }
        bl_text word = asm_word(a->cursor.p);
        if (word.length == 0) {
            asm_error(a, (bl_text){a->cursor.p, 1}, "a line is: label: instruction ; comment",
                      "a label, an instruction or a directive is expected here");
            return;
        }
        const char *after = asm_skip(word.at + word.length);
        if (*after == ':') {
            label(a, word);
            a->cursor.p = after + 1;
        } else if (*after == '=' && after[1] != '=') {
            a->cursor.p = after;
            constant(a, word);
            return;
        } else if (!plain_word(a, word)) {
            return;
        }
    }
}

void asm_parse_lines(bl_program *a)
{
    const char *end = a->cursor.p + a->code.sources[a->cursor.source].length;
    /* Editors put a byte-order mark before texts of UTF-8; it belongs to no line. */
    if (a->code.sources[a->cursor.source].length > 3 && memcmp(a->cursor.p, "\xEF\xBB\xBF", 3) == 0)
        a->cursor.p += 3;
    while (a->cursor.p < end && a->fatal == BL_OK) {
        a->cursor.line++;
        a->cursor.line_start = a->cursor.p;
        parse_line(a);
        while (*a->cursor.p != '\n')
            a->cursor.p++;
        a->cursor.p++;
    }
}
