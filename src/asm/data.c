/* data.c - directives that make bytes: lists of values and texts. */
#include "assembler.h"

bool asm_comma(bl_program *a)
{
    a->cursor.p = asm_skip(a->cursor.p);
    if (*a->cursor.p == ',') {
        a->cursor.p++;
        return true;
    }
    asm_end_of_line(a);
    return false;
}

bool asm_quoted(bl_program *a, bl_text *inside)
{
    a->cursor.p = asm_skip(a->cursor.p);
    if (*a->cursor.p != '"') {
        asm_error(a, (bl_text){a->cursor.p, asm_is(*a->cursor.p, C_END) ? 0u : 1u},
                  "like this: \"text\"", "text in double quotes is expected here");
        return false;
    }
    const char *start = a->cursor.p + 1, *p = start;
    while (*p != '"' && *p != '\n')
        p += *p == '\\' && p[1] != '\n' ? 2 : 1;
    if (*p != '"') {
        asm_error(a, (bl_text){a->cursor.p, 1}, NULL, "this quotation mark is never closed");
        return false;
    }
    *inside = (bl_text){start, (size_t)(p - start)};
    a->cursor.p = p + 1;
    return true;
}

/* A quoted text, escapes resolved, goes into the pool; the ref says where. */
static bool text_ref(bl_program *a, ref *r)
{
    bl_text inside;
    const char *start = asm_skip(a->cursor.p);
    if (!asm_quoted(a, &inside)) return false;
    uint8_t *pool = bl_grown(&a->memory, a->code.pool, &a->code.pool_capacity,
                             a->code.pool_count + inside.length + 1, 1);
    if (pool == NULL) {
        a->fatal = BL_E_MEMORY;
        return false;
    }
    a->code.pool = pool;
    *r = (ref){.kind = REF_BYTES, .first = (uint32_t)a->code.pool_count};
    r->at = (uint32_t)(start - a->code.sources[a->cursor.source].text);
    r->length = asm_span(start, a->cursor.p);
    while (inside.length > 0) {
        size_t used;
        if (bl_character_scan(inside, &used, &pool[a->code.pool_count]) != BL_OK) {
            asm_error(a, (bl_text){inside.at, used},
                      "known: \\n \\r \\t \\0 \\e \\\\ \\' \\\" \\xHH", "unknown escape");
            return false;
        }
        if (a->cursor.alphabet > 0)
            pool[a->code.pool_count] =
                a->names.alphabets[a->cursor.alphabet - 1][pool[a->code.pool_count]];
        a->code.pool_count++;
        inside.at += used;
        inside.length -= used;
    }
    r->count = (uint32_t)(a->code.pool_count - (size_t)r->first);
    return true;
}

/* board.version, the text that the bench gives what is built. */
static bool version_ref(bl_program *a, ref *r)
{
    bl_text word = asm_word(a->cursor.p);
    if (a->options.version == NULL || !bl_text_same(word, bl_text_of("board.version")))
        return false;
    bl_text text = bl_text_of(a->options.version);
    uint8_t *pool = bl_grown(&a->memory, a->code.pool, &a->code.pool_capacity,
                             a->code.pool_count + text.length + 1, 1);
    if (pool == NULL) {
        a->fatal = BL_E_MEMORY;
        return false;
    }
    a->code.pool = pool;
    *r = (ref){
        .kind = REF_BYTES, .first = (uint32_t)a->code.pool_count, .count = (uint32_t)text.length};
    r->at = (uint32_t)(word.at - a->code.sources[a->cursor.source].text);
    r->length = asm_span(word.at, word.at + word.length);
    for (size_t i = 0; i < text.length; i++) {
        uint8_t c = (uint8_t)text.at[i];
        pool[a->code.pool_count++] =
            a->cursor.alphabet > 0 ? a->names.alphabets[a->cursor.alphabet - 1][c] : c;
    }
    a->cursor.p = word.at + word.length;
    return true;
}

/* One element of a list; texts are allowed where bytes are made. */
static bool element(bl_program *a, bool text_allowed)
{
    ref r = {0};
    a->cursor.p = asm_skip(a->cursor.p);
    bool is_text = *a->cursor.p == '"';
    if (is_text && !text_allowed) {
        asm_error(a, (bl_text){a->cursor.p, 1}, "text goes into .byte or .text",
                  "text cannot be a wider number");
        return false;
    }
    bool version = text_allowed && version_ref(a, &r);
    if (!version && !(is_text ? text_ref(a, &r) : asm_expression(a, &r))) return false;
    asm_push_ref(a, r);
    return a->fatal == BL_OK;
}

static uint32_t bytes_of(const bl_program *a, uint32_t first, uint32_t count, uint32_t width)
{
    uint32_t size = 0;
    for (uint32_t i = 0; i < count; i++) {
        const ref *r = &a->code.refs[first + i];
        size += r->kind == REF_BYTES ? r->count * width : width;
    }
    return size;
}

/* Statements for the refs from first on: one, unless there are very many. */
static void push_data(bl_program *a, statement_kind kind, bl_text word, uint32_t first)
{
    uint32_t width = asm_width(a, kind), end = (uint32_t)a->code.ref_count;
    do {
        uint32_t count = end - first > UINT16_MAX ? UINT16_MAX : end - first;
        if (!asm_push_statement(a, kind, word.at, first, (uint16_t)count)) return;
        a->code.statements[a->code.statement_count - 1].size = bytes_of(a, first, count, width);
        first += count;
    } while (first < end);
}

void asm_data(bl_program *a, statement_kind kind, bl_text word)
{
    uint32_t first = (uint32_t)a->code.ref_count;
    do {
        if (!element(a, kind == ST_BYTE)) return;
    } while (asm_comma(a));
    push_data(a, kind, word, first);
}

static bool next_is(bl_program *a, const char *text)
{
    bl_text word = asm_word(asm_skip(a->cursor.p));
    if (!bl_text_same(word, bl_text_of(text))) return false;
    a->cursor.p = word.at + word.length;
    return true;
}

/* Sets the top bit of the last character. */
static void mark_last(bl_program *a, uint32_t first)
{
    const ref *last = &a->code.refs[a->code.ref_count - 1];
    if (a->code.ref_count == first || last->kind != REF_BYTES || last->count == 0) {
        asm_error(a, (bl_text){a->cursor.p - 6, 6}, "end with a text that is not empty",
                  "there is no last character to mark");
        return;
    }
    a->code.pool[(size_t)last->first + last->count - 1] |= 0x80;
}

/* .text "..."[, more]... [ending BYTE | counted | marked] */
void asm_text(bl_program *a, bl_text word)
{
    uint32_t first = asm_push_ref(a, (ref){.kind = REF_CONST});
    bool counted = false;
    for (;;) {
        if (!element(a, true)) return;
        if (next_is(a, "marked")) {
            mark_last(a, first);
        } else if (next_is(a, "counted")) {
            counted = true;
        } else if (next_is(a, "ending")) {
            uint32_t index;
            if (!asm_expression_ref(a, &index)) return;
        } else if (asm_comma(a)) {
            continue;
        } else {
            break;
        }
        asm_end_of_line(a);
        break;
    }
    uint32_t size = bytes_of(a, first + 1, (uint32_t)a->code.ref_count - first - 1, 1);
    if (counted && size > 255) {
        asm_error(a, word, "make two of it", "a counted text has at most 255 bytes, this one %lu",
                  (unsigned long)size);
        return;
    }
    a->code.refs[first].value = size;
    push_data(a, ST_BYTE, word, counted ? first : first + 1);
}
