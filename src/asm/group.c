/* group.c - .group NAME ... .end, and finding names in the groups around. */
#include "assembler.h"

/* A group whose name is wrong is opened all the same, so that its .end is found. */
void asm_group(bl_program *a, bl_text word)
{
    uint32_t index;
    a->cursor.p = asm_skip(a->cursor.p);
    bl_text name = asm_word(a->cursor.p);
    if (name.length == 0) {
        asm_error(a, word, ".group NAME", "a group needs a name");
        return;
    }
    a->cursor.p = name.at + name.length;
    asm_end_of_line(a);
    block *b = asm_open_block(a, BLOCK_GROUP, word);
    if (b == NULL) return;
    b->group = a->cursor.group;
    b->above = a->cursor.above;
    /* After an error the block is still there to be ended, and its names go where they went. */
    if (!asm_define(a, name, SYMBOL_LEVEL, &index)) {
        b->dead = true;
        return;
    }
    a->names.symbols[index].is_group = true;
    asm_push_statement(a, ST_GROUP, word.at, index, 0);
    a->cursor.group = index;
    a->cursor.above = 0;
}

/* The levels of a name from the group it was used in down to itself. Returns their number; *group
 * is the group, 0 for none. */
static size_t path_of(const bl_program *a, uint32_t index, uint32_t *path, size_t capacity,
                      uint32_t *group)
{
    size_t n = 0;
    while (index != 0 && n < capacity && (n == 0 || !a->names.symbols[index].is_group)) {
        path[n++] = index;
        index = a->names.symbols[index].parent;
    }
    *group = index;
    return n;
}

static uint32_t outer(const bl_program *a, uint32_t group)
{
    do {
        group = a->names.symbols[group].parent;
    } while (group != 0 && !a->names.symbols[group].is_group);
    return group;
}

uint32_t asm_visible(const bl_program *a, uint32_t index)
{
    BL_ASSERT(index < a->names.symbol_count);
    uint32_t path[32], group;
    size_t n = path_of(a, index, path, 32, &group);
    /* A local name belongs to its label and is looked for nowhere else. */
    if (n == 0 || a->names.symbols[path[n - 1]].name[0] == '_') return 0;
    while (group != 0) {
        group = outer(a, group);
        uint32_t at = group;
        for (size_t i = n; i > 0 && (at != 0 || i == n); i--)
            at = asm_find_under(a, at, asm_own_name(&a->names.symbols[path[i - 1]]));
        if (at != 0 && a->names.symbols[at].kind != SYMBOL_UNDEFINED &&
            a->names.symbols[at].kind != SYMBOL_ALIAS)
            return at;
    }
    return 0;
}

void asm_resolve_groups(bl_program *a)
{
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        symbol *s = &a->names.symbols[i];
        if (s->kind != SYMBOL_UNDEFINED || s->use == 0) continue;
        uint32_t found = asm_visible(a, i);
        if (found == 0) continue;
        s->kind = SYMBOL_ALIAS;
        s->alias = found;
    }
}

bool asm_is_defined(const bl_program *a, bl_text word)
{
    uint32_t group = a->cursor.group;
    for (;;) {
        uint32_t at = word.at[0] == '_' ? a->cursor.above : group;
        for (size_t from = 0; from < word.length;) {
            size_t n = from;
            while (n < word.length && word.at[n] != '.')
                n++;
            at = asm_find_under(a, at, (bl_text){word.at + from, n - from});
            from = at == 0 ? word.length : n + 1;
        }
        if (at != 0 && a->names.symbols[at].kind != SYMBOL_UNDEFINED) return true;
        if (group == 0 || word.at[0] == '_') return false;
        group = outer(a, group);
    }
}
