/* alphabet.c - character codes other than ASCII, and .embed. */
#include "assembler.h"

/* Codes of a built-in alphabet; false when the name is not one. */
static bool built_in(bl_text name, uint8_t *codes)
{
    bool swapped = bl_text_same(name, bl_text_of("swapped"));
    if (!swapped && !bl_text_same(name, bl_text_of("ascii"))) return false;
    for (unsigned i = 0; i < 256; i++)
        codes[i] = (uint8_t)(swapped && bl_is_letter((char)i) ? i ^ 0x20 : i);
    return true;
}

static int32_t find_alphabet(const bl_program *a, bl_text name)
{
    for (size_t i = 0; i < a->names.alphabet_count; i++)
        if (bl_text_same(a->names.alphabet_names[i], name)) return (int32_t)i;
    return -1;
}

static int32_t add_alphabet(bl_program *a, bl_text name)
{
    BL_ASSERT(a->names.alphabet_count <= a->names.alphabet_capacity);
    size_t count = a->names.alphabet_count + 1;
    uint8_t(*codes)[256] =
        bl_grown(&a->memory, a->names.alphabets, &a->names.alphabet_capacity, count, sizeof *codes);
    if (codes != NULL) a->names.alphabets = codes;
    bl_text *names = bl_grown(&a->memory, a->names.alphabet_names, &a->names.alphabet_name_capacity,
                              count, sizeof *names);
    if (names != NULL) a->names.alphabet_names = names;
    if (codes == NULL || names == NULL) {
        a->fatal = BL_E_MEMORY;
        return -1;
    }
    names[a->names.alphabet_count] = name;
    for (unsigned i = 0; i < 256; i++)
        codes[a->names.alphabet_count][i] = (uint8_t)i;
    return (int32_t)a->names.alphabet_count++;
}

/* One "characters", FIRST: the characters get rising codes. */
static bool stretch(bl_program *a, int32_t index)
{
    bl_text inside;
    int64_t code = 0;
    if (!asm_quoted(a, &inside)) return false;
    if (!asm_comma(a)) {
        asm_error(a, inside, ".alphabet NAME, \"characters\", FIRST CODE",
                  "the code of the first character is missing");
        return false;
    }
    if (!asm_known_value(a, &code)) return false;
    while (inside.length > 0) {
        size_t used;
        uint8_t character;
        if (bl_character_scan(inside, &used, &character) != BL_OK || code < 0 || code > 255) {
            asm_error(a, (bl_text){inside.at, used}, NULL,
                      code < 0 || code > 255 ? "a code is 0 to 255" : "unknown escape");
            return false;
        }
        a->names.alphabets[index][character] = (uint8_t)code++;
        inside.at += used;
        inside.length -= used;
    }
    return true;
}

/* .alphabet NAME selects; .alphabet NAME, "characters", FIRST[, ...] defines. */
void asm_alphabet(bl_program *a, bl_text word)
{
    uint8_t codes[256];
    a->cursor.p = asm_skip(a->cursor.p);
    bl_text name = asm_word(a->cursor.p);
    a->cursor.p += name.length;
    if (name.length == 0) {
        asm_error(a, word, "ascii, swapped, or one defined before",
                  "the name of an alphabet is expected here");
        return;
    }
    int32_t index = find_alphabet(a, name);
    if (!asm_comma(a)) {
        if (index < 0 && built_in(name, codes) && (index = add_alphabet(a, name)) >= 0)
            memcpy(a->names.alphabets[index], codes, 256);
        if (index < 0 && a->fatal == BL_OK)
            asm_error(a, name, "ascii, swapped, or define it: .alphabet NAME, \"ABC\", 1",
                      "no alphabet is called '%.*s'", (int)(name.length & 63), name.at);
        if (index >= 0) a->cursor.alphabet = index + 1;
        return;
    }
    if (index >= 0 || built_in(name, codes)) {
        asm_error(a, name, NULL, "alphabet '%.*s' exists already", (int)(name.length & 63),
                  name.at);
        return;
    }
    index = add_alphabet(a, name);
    if (index < 0) return;
    do {
        if (!stretch(a, index)) return;
    } while (asm_comma(a));
}

/* .embed "file"[, OFFSET[, LENGTH]] */
void asm_embed(bl_program *a, bl_text word)
{
    bl_text name;
    uint32_t index;
    int64_t offset = 0, length = -1;
    if (!asm_quoted(a, &name)) return;
    bool more = asm_comma(a);
    if (more && !asm_known_value(a, &offset)) return;
    more = more && asm_comma(a);
    if (more && !asm_known_value(a, &length)) return;
    if (more) asm_end_of_line(a);
    if (!asm_load(a, name, "file", name, &index)) return;
    int64_t size = (int64_t)a->code.sources[index].size;
    if (length < 0 && !more) length = size - offset;
    if (offset < 0 || length < 0 || offset > size || length > size - offset) {
        asm_error(a, word, NULL, "'%s' has %lld bytes; this asks for %lld from %lld on",
                  a->code.sources[index].name, (long long)size, (long long)length,
                  (long long)offset);
        return;
    }
    uint8_t *pool = bl_grown(&a->memory, a->code.pool, &a->code.pool_capacity,
                             a->code.pool_count + (size_t)length + 1, 1);
    if (pool == NULL) {
        a->fatal = BL_E_MEMORY;
        return;
    }
    a->code.pool = pool;
    if (length > 0)
        memcpy(pool + a->code.pool_count, a->code.sources[index].text + offset, (size_t)length);
    ref r = {.kind = REF_BYTES, .first = (uint32_t)a->code.pool_count, .count = (uint32_t)length};
    r.at = (uint32_t)(name.at - a->code.sources[a->cursor.source].text);
    a->code.pool_count += (size_t)length;
    uint32_t first = asm_push_ref(a, r);
    if (!asm_push_statement(a, ST_BYTE, word.at, first, 1)) return;
    a->code.statements[a->code.statement_count - 1].size = (uint32_t)length * asm_width(a, ST_BYTE);
}
