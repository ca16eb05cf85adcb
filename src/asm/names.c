/* names.c - symbols: a name is a chain of levels, each a symbol under its parent. */
#include "assembler.h"

static uint32_t hash_start(uint32_t parent)
{
    return parent * 0x9E3779B1u + 0x811C9DC5u;
}

static uint32_t hash_step(uint32_t h, char c)
{
    return (h ^ (uint8_t)c) * 0x01000193u;
}

static uint32_t hash_end(uint32_t h)
{
    return h ^ h >> 15;
}

static uint32_t hash_of(uint32_t parent, bl_text name)
{
    uint32_t h = hash_start(parent);
    for (size_t i = 0; i < name.length; i++)
        h = hash_step(h, name.at[i]);
    return hash_end(h);
}

/* The hash is kept in the symbol, so that a chain is walked without looking at names. */
static uint32_t find_hashed(const bl_program *a, uint32_t parent, bl_text name, uint32_t hash)
{
    if (a->names.chain_count == 0) return 0;
    uint32_t i = a->names.chains[hash & (a->names.chain_count - 1)];
    while (i != 0) {
        const symbol *s = &a->names.symbols[i];
        if (s->hash == hash && s->parent == parent && bl_text_same(asm_own_name(s), name)) return i;
        i = s->next;
    }
    return 0;
}

uint32_t asm_find_under(const bl_program *a, uint32_t parent, bl_text name)
{
    return find_hashed(a, parent, name, hash_of(parent, name));
}

static bool grow_chains(bl_program *a, size_t min)
{
    size_t wanted = a->names.chain_count == 0 ? 256 : a->names.chain_count;
    while (wanted < min)
        wanted *= 2;
    uint32_t *chains = a->memory.resize(a->memory.context, NULL, wanted * sizeof *chains);
    if (chains == NULL) return false;
    memset(chains, 0, wanted * sizeof *chains);
    bl_release(&a->memory, a->names.chains);
    a->names.chains = chains;
    a->names.chain_count = wanted;
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        size_t c = (size_t)(a->names.symbols[i].hash & (wanted - 1));
        a->names.symbols[i].next = chains[c];
        chains[c] = i;
    }
    return true;
}

void asm_reserve_names(bl_program *a, size_t count)
{
    symbol *s = bl_grown(&a->memory, a->names.symbols, &a->names.symbol_capacity, count, sizeof *s);
    if (s == NULL) return;
    a->names.symbols = s;
    grow_chains(a, count);
}

/* Finds or makes the symbol whose hash is known. */
static uint32_t intern(bl_program *a, uint32_t parent, bl_text name, uint32_t hash)
{
    uint32_t found = find_hashed(a, parent, name, hash);
    if (found != 0) return found;
    if (a->names.symbol_count == 0) a->names.symbol_count = 1;
    symbol *symbols = bl_grown(&a->memory, a->names.symbols, &a->names.symbol_capacity,
                               a->names.symbol_count + 1, sizeof *symbols);
    if (symbols != NULL) a->names.symbols = symbols;
    if (symbols == NULL || (a->names.symbol_count >= a->names.chain_count &&
                            !grow_chains(a, a->names.symbol_count + 1))) {
        a->fatal = BL_E_MEMORY;
        return 0;
    }
    uint32_t index = (uint32_t)a->names.symbol_count++;
    size_t c = (size_t)(hash & (a->names.chain_count - 1));
    symbols[index] = (symbol){.name = name.at,
                              .length = (uint32_t)name.length,
                              .parent = parent,
                              .hash = hash,
                              .next = a->names.chains[c],
                              .line = a->cursor.line,
                              .source = a->cursor.source,
                              .kind = SYMBOL_UNDEFINED};
    a->names.chains[c] = index;
    return index;
}

uint32_t asm_name_under(bl_program *a, uint32_t parent, bl_text name)
{
    BL_ASSERT(name.length > 0);
    return intern(a, parent, name, hash_of(parent, name));
}

/* Most names have one level: hashed while looking for a dot. 0: there is a dot, or no memory. */
static uint32_t plain_name(bl_program *a, uint32_t parent, bl_text name)
{
    uint32_t h = hash_start(parent);
    for (size_t i = 0; i < name.length; i++) {
        if (name.at[i] == '.') return 0;
        h = hash_step(h, name.at[i]);
    }
    return intern(a, parent, name, hash_end(h));
}

/* The next level of a dotted name. */
static bl_text next_level(bl_text *rest)
{
    size_t n = 0;
    while (n < rest->length && rest->at[n] != '.')
        n++;
    bl_text first = {rest->at, n};
    size_t skip = n < rest->length ? n + 1 : n;
    *rest = (bl_text){rest->at + skip, rest->length - skip};
    return first;
}

/* Local names belong to the label above; in a group a name is the group's until everything was
 * read. */
uint32_t asm_name(bl_program *a, bl_text word)
{
    uint32_t at = a->cursor.group;
    bl_text whole = word;
    if (word.at[0] == '_') {
        at = a->cursor.above;
        if (at == 0) {
            asm_error(a, word, "a name that begins with _ belongs to the label above it",
                      "no label stands above '%.*s'", (int)(word.length & 127), word.at);
            return 0;
        }
    } else if (bl_sheet_is_reserved(a->machine.sheet, word)) {
        asm_error(a, word, NULL, "'%.*s' is a register, not a value", (int)word.length, word.at);
        return 0;
    }
    uint32_t plain = plain_name(a, at, word);
    while (plain == 0 && word.length > 0) {
        at = asm_name_under(a, at, next_level(&word));
        if (at == 0) return 0;
    }
    if (plain != 0) at = plain;
    /* The first use marks the whole dotted name. */
    if (a->names.symbols[at].kind == SYMBOL_UNDEFINED && a->names.symbols[at].use == 0) {
        a->names.symbols[at].at = (uint32_t)(whole.at - a->code.sources[a->cursor.source].text);
        a->names.symbols[at].use = (uint32_t)whole.length;
    }
    return at;
}

/* What a name may not be, before it is one: dotted, 'here', a register, defined already. */
bool asm_define(bl_program *a, bl_text word, symbol_kind kind, uint32_t *index)
{
    for (size_t i = 0; i < word.length; i++) {
        if (word.at[i] != '.') continue;
        asm_error(a, word, "define it under one name; dots reach into groups",
                  "a name that is defined here has no dot");
        return false;
    }
    if (bl_text_same(word, bl_text_of("here"))) {
        asm_error(a, word, "choose another name",
                  "'here' is the address of the statement, and cannot be defined");
        return false;
    }
    if (bl_sheet_is_reserved(a->machine.sheet, word)) {
        asm_error(a, word, "choose another name", "'%.*s' is a register of the %.*s",
                  (int)word.length, word.at, (int)bl_sheet_name(a->machine.sheet).length,
                  bl_sheet_name(a->machine.sheet).at);
        return false;
    }
    uint32_t i = asm_name(a, word);
    if (i == 0) return false;
    symbol *s = &a->names.symbols[i];
    if (s->kind != SYMBOL_UNDEFINED) {
        char hint[160];
        if (s->kind == SYMBOL_FIXED || (s->kind == SYMBOL_LEVEL && !s->is_group))
            bl_format(hint, sizeof hint, "it comes from the bench file, the command or .use");
        else
            bl_format(hint, sizeof hint, "the first is at %s:%lu", a->code.sources[s->source].name,
                      (unsigned long)asm_line_of(a, s->source, s->line));
        asm_error(a, word, hint, "'%.*s' is defined twice", (int)(word.length & 127), word.at);
        return false;
    }
    if (a->cursor.parsing) a->layout.epoch++; /* what had no value before may have one now */
    s->kind = (uint8_t)kind;
    s->at = (uint32_t)(word.at - a->code.sources[a->cursor.source].text);
    s->line = a->cursor.line;
    s->source = a->cursor.source;
    *index = i;
    return true;
}

bool asm_define_fixed(bl_program *a, uint32_t parent, bl_text name, int64_t value)
{
    uint32_t at = parent;
    BL_ASSERT(bl_symbol_name_is_valid(name));
    if (parent == 0 && bl_text_same(name, bl_text_of("here"))) return false;
    while (name.length > 0) {
        at = asm_name_under(a, at, next_level(&name));
        if (at == 0) return false;
        if (name.length > 0 && a->names.symbols[at].kind == SYMBOL_UNDEFINED)
            a->names.symbols[at].kind = SYMBOL_LEVEL;
    }
    symbol *s = &a->names.symbols[at];
    if (at == 0 || (s->kind != SYMBOL_UNDEFINED && s->kind != SYMBOL_LEVEL)) return false;
    if (a->cursor.parsing) a->layout.epoch++;
    s->kind = SYMBOL_FIXED;
    s->value = value;
    s->known = true;
    return true;
}

size_t asm_full_name(const bl_program *a, uint32_t index, char *buffer, size_t capacity)
{
    BL_ASSERT(index < a->names.symbol_count);
    BL_ASSERT(capacity > 0);
    uint32_t path[32];
    size_t depth = 0, n = 0;
    for (uint32_t i = index; i != 0 && i != MACROS && depth < 32; i = a->names.symbols[i].parent)
        path[depth++] = i;
    if (capacity > 0) buffer[0] = '\0';
    while (depth > 0) {
        const symbol *s = &a->names.symbols[path[--depth]];
        n += bl_format(n < capacity ? buffer + n : NULL, n < capacity ? capacity - n : 0, "%.*s%s",
                       (int)(s->length & 0x7FFF), s->name, depth > 0 ? "." : "");
    }
    return n;
}

/* Whole names are compared; the same last level in another group is nearly as good. */
const char *asm_suggest(bl_program *a, uint32_t index, char *buffer, size_t capacity)
{
    char lost[64], name[128];
    size_t length = asm_full_name(a, index, lost, sizeof lost);
    if (length >= sizeof lost) return NULL;
    unsigned best = bl_name_tolerance(length) + 1;
    uint32_t found = 0;
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        const symbol *s = &a->names.symbols[i];
        if (s->kind == SYMBOL_UNDEFINED || s->kind == SYMBOL_LEVEL || s->kind == SYMBOL_ALIAS ||
            s->kind == SYMBOL_MACRO || i == index)
            continue;
        size_t n = asm_full_name(a, i, name, sizeof name);
        unsigned d = n < sizeof name
                         ? bl_name_distance((bl_text){lost, length}, (bl_text){name, n}, best)
                         : best;
        if (d > 2 && bl_text_same(asm_own_name(s), asm_own_name(&a->names.symbols[index]))) d = 2;
        if (d >= best) continue;
        best = d;
        found = i;
    }
    if (found == 0) return NULL;
    asm_full_name(a, found, name, sizeof name);
    const symbol *s = &a->names.symbols[found];
    if (s->kind == SYMBOL_FIXED)
        bl_format(buffer, capacity, "did you mean '%s'?", name);
    else
        bl_format(buffer, capacity, "did you mean '%s' (%s:%lu)?", name,
                  a->code.sources[s->source].name,
                  (unsigned long)asm_line_of(a, s->source, s->line));
    return buffer;
}

void asm_report_undefined(bl_program *a)
{
    unsigned suggestions = 0;
    for (uint32_t i = 1; i < a->names.symbol_count && a->fatal == BL_OK; i++) {
        symbol *s = &a->names.symbols[i];
        /* The levels above a dotted name were made on the way and never used by themselves. */
        if (s->kind != SYMBOL_UNDEFINED || s->use == 0 || s->told) continue;
        char name[192], text[256], hint[320];
        asm_full_name(a, i, name, sizeof name);
        bl_format(text, sizeof text, "undefined name '%s'", name);
        const char *near = suggestions++ < 20 ? asm_suggest(a, i, hint, sizeof hint) : NULL;
        asm_report(a, BL_ERROR, s->source, s->line, s->at, (size_t)s->use, near, text);
    }
}

bool asm_is_listed(const bl_program *a, uint32_t index)
{
    const symbol *s = &a->names.symbols[index];
    if (s->kind != SYMBOL_LABEL && s->kind != SYMBOL_CONST) return false;
    return s->parent == 0 || !a->names.symbols[s->parent].hidden;
}
