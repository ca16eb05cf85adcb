/* block.c - blocks: .if, .macro, .repeat, .runat and .group, each up to its .end.
 *
 * A block ends in the source, or the expansion, in which it begins. The bodies of .macro and
 * .repeat are text (macro.c); they stand on the stack only in lines that do not count.
 */
#include "assembler.h"

static const char *const words[] = {
    [BLOCK_IF] = "if",       [BLOCK_MACRO] = "macro", [BLOCK_REPEAT] = "repeat",
    [BLOCK_RUNAT] = "runat", [BLOCK_GROUP] = "group",
};
_Static_assert(BL_COUNT(words) == BLOCK_GROUP + 1, "one for each");
enum { WORDS = sizeof words / sizeof words[0] };

const char *asm_block_word(block_kind kind)
{
    BL_ASSERT((unsigned)kind < WORDS);
    return words[kind];
}

bool asm_begins_block(bl_text word, block_kind *kind)
{
    for (unsigned i = 0; i < WORDS; i++) {
        *kind = (block_kind)i;
        if (bl_text_same_nocase(word, bl_text_of(words[i]))) return true;
    }
    return false;
}

bl_text asm_directive_of_line(const char *line)
{
    const char *p = asm_skip(line);
    while (asm_is(*p, C_LETTER)) {
        bl_text label = asm_word(p);
        const char *after = asm_skip(label.at + label.length);
        if (*after == ':')
            after = asm_skip(after + 1);
        else if (p != line || *after != '.')
            break;
        p = after;
    }
    return *p == '.' ? asm_word(p + 1) : (bl_text){p, 0};
}

bool asm_skipping(const bl_program *a)
{
    return a->cursor.block_count > 0 && !a->cursor.blocks[a->cursor.block_count - 1].taking;
}

block *asm_open_block(bl_program *a, block_kind kind, bl_text word)
{
    if (a->cursor.block_count == MAX_BLOCKS) {
        asm_error(a, word, NULL, "blocks are nested more than %d deep", MAX_BLOCKS);
        a->fatal = BL_E_SYNTAX;
        return NULL;
    }
    bool dead = asm_skipping(a);
    block *b = &a->cursor.blocks[a->cursor.block_count++];
    *b = (block){.kind = (uint8_t)kind,
                 .dead = dead,
                 .taking = !dead,
                 .row = a->cursor.line,
                 .at = (uint32_t)(word.at - a->code.sources[a->cursor.source].text)};
    return b;
}

block *asm_innermost_block(bl_program *a)
{
    return a->cursor.block_count > a->cursor.block_base
               ? &a->cursor.blocks[a->cursor.block_count - 1]
               : NULL;
}

/* What an end means for a block that counts. */
static void leave(bl_program *a, const block *b, const char *at)
{
    if (b->dead) return;
    if (b->kind == BLOCK_GROUP) {
        asm_push_statement(a, ST_END_GROUP, at, a->cursor.group, 0);
        a->cursor.group = b->group;
        a->cursor.above = b->above;
    } else if (b->kind == BLOCK_RUNAT) {
        a->cursor.in_runat = false;
        asm_push_statement(a, ST_END_RUNAT, at, 0, 0);
    }
}

/* An .end that ends nothing: most often the last line of a source that was written for another
 * assembler, with or without the address at which the program begins. */
static void tell_nothing_open(bl_program *a, bl_text word, bl_text what)
{
    block_kind kind;
    const char *p = a->cursor.p;
    while (*p != '\n')
        p++;
    const source *s = &a->code.sources[a->cursor.source];
    while (p < s->text + s->length && (asm_is(*p, C_END | C_BLANK)))
        p++;
    bool last = p == s->text + s->length;
    if (what.length > 0 && !asm_begins_block(what, &kind))
        asm_error(a, word, ".entry ADDRESS says where the program begins; a source needs no end",
                  "no block is open here; .end ends .if .macro .repeat .runat .group");
    else
        asm_error(a, word, last ? "a source ends by itself: leave this line out" : NULL,
                  "no block is open here; .end ends .if .macro .repeat .runat .group");
}

/* The word behind .end, if there is one, must be that of the innermost block: then a missing .end
 * is told where it is missing. */
void asm_end(bl_program *a, bl_text word)
{
    block *b = asm_innermost_block(a);
    bl_text what = asm_word(asm_skip(a->cursor.p));
    if (what.length > 0) a->cursor.p = what.at + what.length;
    asm_end_of_line(a);
    if (b == NULL) {
        tell_nothing_open(a, word, what);
        return;
    }
    if (what.length > 0 && !bl_text_same_nocase(what, bl_text_of(words[b->kind]))) {
        char hint[80];
        bl_format(hint, sizeof hint, "what is open here is the .%s of line %lu", words[b->kind],
                  (unsigned long)asm_line_of(a, a->cursor.source, b->row));
        asm_error(a, what, hint, "'.end %.*s' does not end a .%s", (int)(what.length & 63), what.at,
                  words[b->kind]);
    }
    leave(a, b, word.at);
    a->cursor.block_count--;
}

/* Lines that do not count are looked at for blocks alone, so that their .end is found. */
void asm_dead_line(bl_program *a)
{
    block_kind kind;
    bl_text word = asm_directive_of_line(a->cursor.p);
    if (word.length == 0) return;
    bl_text dotted = {word.at - 1, word.length + 1};
    bool is_else = bl_text_same_nocase(word, bl_text_of("else")) ||
                   bl_text_same_nocase(word, bl_text_of("elseif"));
    const block *b = asm_innermost_block(a);
    a->cursor.p = word.at + word.length;
    if (asm_begins_block(word, &kind)) {
        block *inner = asm_open_block(a, kind, dotted);
        if (inner != NULL) inner->taken = true;
    } else if (bl_text_same_nocase(word, bl_text_of("end"))) {
        asm_end(a, dotted);
    } else if (is_else && b != NULL && b->kind == BLOCK_IF) {
        if (word.length == 4)
            asm_else(a, dotted);
        else
            asm_elseif(a, dotted);
    }
}

void asm_close_blocks(bl_program *a, unsigned count)
{
    BL_ASSERT(count <= a->cursor.block_count);
    while (a->cursor.block_count > count) {
        const block *b = &a->cursor.blocks[a->cursor.block_count - 1];
        char text[40], hint[40];
        bl_format(text, sizeof text, "this .%s is never ended", words[b->kind]);
        bl_format(hint, sizeof hint, "end it with .end %s", words[b->kind]);
        asm_report(a, BL_ERROR, a->cursor.source, b->row, b->at,
                   1 + bl_text_of(words[b->kind]).length, hint, text);
        leave(a, b, a->code.sources[a->cursor.source].text);
        a->cursor.block_count--;
    }
}
