/* scope.c - .scope NAME ... .endscope, and finding names in the scopes around. */
#include "asm.h"

void asm_scope(bl_program *a, bl_text word)
{
    uint32_t index;
    a->p = asm_skip(a->p);
    bl_text name = asm_word(a->p);
    if (name.length == 0) {
        asm_error(a, word, ".scope NAME", "a scope needs a name");
        return;
    }
    a->p = name.at + name.length;
    asm_end_of_line(a);
    if (!asm_define(a, name, SYMBOL_SCOPE, &index)) return;
    enclosing *e = bl_grown(&a->memory, a->enclosing, &a->enclosing_capacity,
                            a->enclosing_count + 1, sizeof *e);
    if (e == NULL) {
        a->fatal = BL_E_MEMORY;
        return;
    }
    a->enclosing = e;
    e[a->enclosing_count++] = (enclosing){a->scope, a->above};
    a->symbols[index].is_scope = true;
    asm_push_statement(a, ST_SCOPE, word.at, index, 0);
    a->scope = index;
    a->above = 0;
}

void asm_endscope(bl_program *a, bl_text word)
{
    asm_end_of_line(a);
    if (a->scope == 0) {
        asm_error(a, word, NULL, "no .scope is open here");
        return;
    }
    asm_push_statement(a, ST_END_SCOPE, word.at, a->scope, 0);
    enclosing around = a->enclosing[--a->enclosing_count];
    a->above = around.above;
    a->scope = around.scope;
}

/* The levels of a name from the scope it was used in down to itself. Returns their number; *scope
 * is the scope, 0 for none. */
static size_t path_of(const bl_program *a, uint32_t index, uint32_t *path, size_t room,
                      uint32_t *scope)
{
    size_t n = 0;
    while (index != 0 && n < room && (n == 0 || !a->symbols[index].is_scope)) {
        path[n++] = index;
        index = a->symbols[index].parent;
    }
    *scope = index;
    return n;
}

static uint32_t outer(const bl_program *a, uint32_t scope)
{
    do {
        scope = a->symbols[scope].parent;
    } while (scope != 0 && !a->symbols[scope].is_scope);
    return scope;
}

uint32_t asm_visible(const bl_program *a, uint32_t index)
{
    uint32_t path[32], scope;
    size_t n = path_of(a, index, path, 32, &scope);
    /* A local name belongs to its label and is looked for nowhere else. */
    if (n == 0 || a->symbols[path[n - 1]].name[0] == '_') return 0;
    while (scope != 0) {
        scope = outer(a, scope);
        uint32_t at = scope;
        for (size_t i = n; i > 0 && (at != 0 || i == n); i--)
            at = asm_find_under(a, at, asm_own_name(&a->symbols[path[i - 1]]));
        if (at != 0 && a->symbols[at].kind != SYMBOL_UNDEFINED &&
            a->symbols[at].kind != SYMBOL_ALIAS)
            return at;
    }
    return 0;
}

void asm_resolve_scopes(bl_program *a)
{
    if (a->scope != 0) {
        const symbol *s = &a->symbols[a->scope];
        asm_report(a, BL_ERROR, s->source, s->line, s->at, (size_t)s->length,
                   "end it with .endscope", "this scope is never ended");
    }
    for (uint32_t i = 1; i < a->symbol_count; i++) {
        symbol *s = &a->symbols[i];
        if (s->kind != SYMBOL_UNDEFINED || s->statement == 0) continue;
        uint32_t found = asm_visible(a, i);
        if (found == 0) continue;
        s->kind = SYMBOL_ALIAS;
        s->ref = found;
    }
}

bool asm_is_defined(const bl_program *a, bl_text word)
{
    uint32_t scope = a->scope;
    for (;;) {
        uint32_t at = word.at[0] == '_' ? a->above : scope;
        for (size_t from = 0; from < word.length;) {
            size_t n = from;
            while (n < word.length && word.at[n] != '.')
                n++;
            at = asm_find_under(a, at, (bl_text){word.at + from, n - from});
            from = at == 0 ? word.length : n + 1;
        }
        if (at != 0 && a->symbols[at].kind != SYMBOL_UNDEFINED) return true;
        if (scope == 0 || word.at[0] == '_') return false;
        scope = outer(a, scope);
    }
}
