/* layout.c - addresses: walk the statements until nothing moves.
 *
 * An instruction starts in its shortest form and only ever grows, so the walk ends. After the first
 * walk all growing is done before anything moves: between a place of this walk and one of the walk
 * before, a distance could be anything. A constant is worked out when it is needed.
 */
#include "assembler.h"

typedef struct place {
    int64_t at;
    int32_t area;  /* -1: none, after .org or at the beginning */
    int64_t end;   /* of the area, or of all addresses */
    int64_t shift; /* in .runat: where it runs less where it is kept */
} place;

unsigned asm_bits(const bl_program *a, statement_kind kind)
{
    switch (kind) {
    case ST_BYTE: return 8;
    case ST_WORD: return bl_sheet_word_bits(a->machine.sheet);
    case ST_TRIPLE: return 24;
    default: return 32;
    }
}

unsigned asm_width(const bl_program *a, statement_kind kind)
{
    return (asm_bits(a, kind) + a->machine.unit - 1) / a->machine.unit;
}

/* Does it depend on places that may still move towards each other: a label on its way into a page,
 * a number that an instruction is on its way to? Such questions wait until all else stands still.
 */
static bool waits_for_pages(const bl_program *a, const bl_operand *o, const ref *r)
{
    if (a->layout.pages_count) return false;
    if (o->kind == BL_OPERAND_RELATIVE) return r->kind == REF_CONST;
    bool in_page =
        (o->kind == BL_OPERAND_DIRECT && a->layout.direct != 0) || o->kind == BL_OPERAND_PAGE;
    return in_page && r->kind != REF_CONST;
}

static bool form_fits(bl_program *a, const statement *s, const bl_form *f)
{
    for (uint8_t i = 0; i < f->slots; i++) {
        int64_t value = 0;
        const ref *r = &a->code.refs[s->refs + i];
        const bl_operand *o = &a->machine.operands[f->operand[f->slot[i]]];
        if (asm_value(a, r, s, &value) != VALUE_KNOWN) continue;
        if (waits_for_pages(a, o, r))
            a->layout.pages_waiting = true;
        else if (!bl_operand_fits(o, value, s->address, s->address + f->size, a->layout.direct))
            return false;
    }
    return true;
}

/* Can nothing change any more about whether its operands fit? */
static bool is_constant(const bl_program *a, const statement *s, const bl_form *f)
{
    for (uint8_t i = 0; i < f->slots; i++)
        if (waits_for_pages(a, &a->machine.operands[f->operand[f->slot[i]]],
                            &a->code.refs[s->refs + i]))
            return false;
    for (uint8_t i = 0; i < s->ref_count; i++)
        if (a->code.refs[s->refs + i].kind != REF_CONST) return false;
    return true;
}

static void grow(bl_program *a, statement *s)
{
    const bl_spelling *w = &a->machine.spellings[s->form];
    while (w->next != BL_NO_FORM && !form_fits(a, s, &a->machine.forms[w->form])) {
        s->form = w->next;
        w = &a->machine.spellings[s->form];
    }
    s->size = w->size;
    s->fixed = w->next == BL_NO_FORM || is_constant(a, s, &a->machine.forms[w->form]);
}

/* A value that layout needs, at least least and at most most. Unknown counts as least for now. */
static int64_t layout_value(bl_program *a, statement *s, int64_t min, int64_t max)
{
    int64_t value = 0;
    if (asm_value(a, &a->code.refs[s->refs], s, &value) != VALUE_KNOWN) {
        a->layout.unsettled = true;
        return min;
    }
    return value < min ? min : value > max ? max : value;
}

static void set_label(bl_program *a, statement *s, int64_t at)
{
    symbol *label = &a->names.symbols[s->symbol];
    if (label->known && label->value == at) return;
    label->known = true;
    label->value = at;
    a->layout.changed = true;
}

/* A group's value is where it begins until its end is met, then its size. */
static void group_begins(bl_program *a, const statement *s, int64_t at)
{
    a->names.symbols[s->symbol].begin = (uint32_t)at;
}

static void group_ends(bl_program *a, const statement *s, int64_t at)
{
    symbol *y = &a->names.symbols[s->symbol];
    int64_t size = at - (int64_t)y->begin;
    if (!y->sized || y->value != size) a->layout.changed = true;
    y->sized = true;
    y->value = size;
}

/* Where an area goes on: not in a hole. */
static int64_t behind_holes(const bl_area *area, int64_t at)
{
    for (size_t i = 0; i < area->hole_count; i++) {
        int64_t first = area->holes[i].first, end = first + (int64_t)area->holes[i].count;
        if (at < first || at >= end) continue;
        at = end;
        i = SIZE_MAX; /* another hole may begin there */
    }
    return at;
}

/* Address and size of one statement in this walk; anything that moved asks for another walk. */
static void lay(bl_program *a, statement *s, place *p)
{
    uint32_t size = s->size;
    s->stored = (uint32_t)p->at;
    s->address = (uint32_t)(p->at + p->shift);
    switch (s->kind) {
    case ST_LABEL: set_label(a, s, p->at + p->shift); return;
    case ST_CONST: {
        int64_t value;
        if (asm_symbol_value(a, s->symbol, &value) != VALUE_KNOWN) a->layout.unsettled = true;
        return;
    }
    case ST_INSTRUCTION:
        if (a->layout.first_walk && !s->fixed) grow(a, s);
        break;
    case ST_BYTE:
    case ST_WORD:
    case ST_TRIPLE:
    case ST_LONG:
    case ST_CHECKSUM: break;
    case ST_FILL: s->size = (uint32_t)layout_value(a, s, 0, MAX_FILL); break;
    case ST_RESERVE: s->size = (uint32_t)layout_value(a, s, 0, UINT32_MAX); break;
    case ST_ALIGN: {
        int64_t n = layout_value(a, s, 1, UINT32_MAX);
        s->size = (uint32_t)((n - (int64_t)s->address % n) % n);
        break;
    }
    case ST_ORG:
    case ST_PLACE:
        if (p->area >= 0) a->layout.areas[p->area].next = p->at;
        p->area = s->kind == ST_PLACE ? (int32_t)s->area : -1;
        p->at = s->kind == ST_PLACE
                    ? behind_holes(&a->options.areas[s->area], a->layout.areas[s->area].next)
                    : layout_value(a, s, 0, UINT32_MAX);
        p->end = p->area < 0 ? (int64_t)UINT32_MAX + 1
                             : (int64_t)a->options.areas[p->area].range.first +
                                   (int64_t)a->options.areas[p->area].range.count;
        s->address = s->stored = (uint32_t)p->at;
        return;
    case ST_GROUP: group_begins(a, s, p->at); return;
    case ST_END_GROUP: group_ends(a, s, p->at); return;
    case ST_RUNAT: p->shift = layout_value(a, s, 0, UINT32_MAX) - p->at; return;
    case ST_END_RUNAT: p->shift = 0; return;
    case ST_DIRECT: a->layout.direct = s->page; return;
    default: return; /* makes no bytes here */
    }
    if (s->size != size) a->layout.changed = true;
    p->at += s->size;
}

static void tell_overflow(bl_program *a, const statement *s, place *p)
{
    if (p->at <= p->end) return;
    if (p->area >= 0) {
        const bl_area *area = &a->options.areas[p->area];
        area_state *state = &a->layout.areas[p->area];
        if (state->told) return;
        char last[16];
        state->told = true;
        bl_address_text(last, bl_range_last(area->range), bl_sheet_address_bits(a->machine.sheet),
                        a->machine.radix);
        asm_error_at(a, s, NULL, "make the program smaller or the area larger",
                     "area '%s' ends at %s and is full; this runs over its end", area->name, last);
    } else {
        asm_error_at(a, s, NULL, NULL, "this lies beyond the last address, $FFFFFFFF");
        p->at = 0;
    }
}

/* Lets grow what does not fit where everything lies now. Has anything grown? */
static bool grow_all(bl_program *a)
{
    bool grown = false;
    a->layout.epoch++;
    a->layout.direct = 0;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        statement *s = &a->code.statements[i];
        uint32_t size = s->size;
        if (s->kind == ST_DIRECT) a->layout.direct = s->page;
        if (s->kind != ST_INSTRUCTION || s->fixed) continue;
        asm_turn_to(a, s);
        grow(a, s);
        if (s->size != size) grown = true;
    }
    return grown;
}

/* One walk over everything. The last one, with tell, reports areas that run over. */
static void walk(bl_program *a, bool tell)
{
    place p = {0, -1, (int64_t)UINT32_MAX + 1, 0};
    a->layout.changed = a->layout.overrun = false;
    a->layout.epoch++;
    a->layout.direct = 0;
    for (size_t i = 0; i < a->options.area_count; i++) {
        a->layout.areas[i].next = a->options.areas[i].range.first;
        a->layout.areas[i].told = false;
    }
    for (size_t i = 0; i < a->code.statement_count && a->fatal == BL_OK; i++) {
        statement *s = &a->code.statements[i];
        if (s->kind == ST_INSTRUCTION && s->fixed) {
            s->stored = (uint32_t)p.at;
            s->address = (uint32_t)(p.at + p.shift);
            p.at += s->size;
        } else {
            asm_turn_to(a, s);
            lay(a, s, &p);
        }
        if (p.at > p.end) a->layout.overrun = true;
        if (tell) tell_overflow(a, &a->code.statements[i], &p);
        if (p.at > (int64_t)1 << 40) p.at = (int64_t)1 << 40;
    }
    if (p.area >= 0) a->layout.areas[p.area].next = p.at;
}

enum { CONTRIBUTORS = 5 };

/* The labels (or groups, where there are some) of an area that take most of it. */
typedef struct contributors {
    uint32_t symbol[CONTRIBUTORS];
    int64_t bytes[CONTRIBUTORS];
} contributors;

static void add_contributor(contributors *c, uint32_t index, int64_t bytes)
{
    size_t at = CONTRIBUTORS;
    while (at > 0 && bytes > c->bytes[at - 1])
        at--;
    if (index == 0 || at == CONTRIBUTORS) return;
    for (size_t i = CONTRIBUTORS - 1; i > at; i--) {
        c->symbol[i] = c->symbol[i - 1];
        c->bytes[i] = c->bytes[i - 1];
    }
    c->symbol[at] = index;
    c->bytes[at] = bytes;
}

/* What a label stands for in the count: itself, or the outermost group around it. */
static uint32_t owner(const bl_program *a, uint32_t index)
{
    uint32_t found = index;
    for (uint32_t i = index; i != 0; i = a->names.symbols[i].parent)
        if (a->names.symbols[i].is_group) found = i;
    return found;
}

/* Who to blame when an area is full: the label whose bytes take most of it. */
static contributors largest(const bl_program *a, int32_t area)
{
    contributors c = {{0}, {0}};
    int32_t current = -1;
    uint32_t label = 0;
    int64_t bytes = 0;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        const statement *s = &a->code.statements[i];
        bool moves = s->kind == ST_PLACE || s->kind == ST_ORG;
        bool global = s->kind == ST_LABEL && a->names.symbols[s->symbol].name[0] != '_';
        uint32_t next = global ? owner(a, s->symbol) : label;
        if (moves || next != label) {
            add_contributor(&c, label, bytes);
            bytes = 0;
            label = moves ? 0 : next;
        }
        if (moves) current = s->kind == ST_PLACE ? (int32_t)s->area : -1;
        if (current == area && s->kind >= ST_INSTRUCTION && s->kind <= ST_ALIGN) bytes += s->size;
    }
    add_contributor(&c, label, bytes);
    return c;
}

/* A full area is told as a total as well: how many bytes too many, and what is largest in it. */
static void tell_totals(bl_program *a)
{
    for (size_t i = 0; i < a->options.area_count; i++) {
        const bl_area *area = &a->options.areas[i];
        if (!a->layout.areas[i].told) continue;
        int64_t over =
            a->layout.areas[i].next - (int64_t)area->range.first - (int64_t)area->range.count;
        char text[300] = "", name[64];
        contributors c = largest(a, (int32_t)i);
        size_t n = bl_format(text, sizeof text, "largest in it:");
        for (size_t k = 0; k < CONTRIBUTORS && c.bytes[k] > 0 && n < sizeof text; k++) {
            asm_full_name(a, c.symbol[k], name, sizeof name);
            n += bl_format(text + n, sizeof text - n, "%s %s %lld", k > 0 ? "," : "", name,
                           (long long)c.bytes[k]);
        }
        if (over > 0)
            bl_report(a->options.sink, BL_NOTE, NULL, 0, c.bytes[0] > 0 ? text : NULL,
                      "area '%s' has %lu bytes; %ld too many", area->name,
                      (unsigned long)area->range.count, (long)over);
    }
}

static void tell_unknown_constants(bl_program *a)
{
    for (uint32_t i = 1; i < a->names.symbol_count; i++) {
        symbol *s = &a->names.symbols[i];
        int64_t value = 0;
        if (s->kind != SYMBOL_CONST || s->known) continue;
        const statement *st = &a->code.statements[s->statement];
        value_state state = asm_value(a, &a->code.refs[s->ref], st, &value);
        char message[320], hint[320];
        if (state == VALUE_BAD ||
            asm_explain_level(a, &a->code.refs[s->ref], message, hint, sizeof hint)) {
            asm_explain(a, st, &a->code.refs[s->ref], state);
            s->told = true;
        } else if (a->errors == 0 || s->open) {
            asm_error_at(a, st, &a->code.refs[s->ref], NULL, "'%.*s' is defined through itself",
                         (int)(s->length & 127), s->name);
        }
    }
}

/* Walks until nothing moves. False: it never stands still. */
static bool settle_places(bl_program *a)
{
    a->layout.first_walk = true;
    walk(a, false);
    a->layout.first_walk = false;
    bool moving = a->layout.unsettled;
    for (unsigned turn = 0; turn < MAX_PASSES && a->fatal == BL_OK; turn++) {
        bool grown = grow_all(a);
        if (!grown && !moving) {
            if (!a->layout.pages_waiting) return true;
            a->layout.pages_waiting = false;
            a->layout.pages_count = true;
            continue;
        }
        walk(a, false);
        moving = a->layout.changed;
    }
    return a->fatal != BL_OK;
}

/* What lies in a hole of the area that it was placed in. Told once for each hole. */
static void check_holes(bl_program *a)
{
    const bl_area *area = NULL, *told = NULL;
    uint32_t told_at = 0;
    for (size_t i = 0; i < a->code.statement_count; i++) {
        const statement *s = &a->code.statements[i];
        if (s->kind == ST_PLACE) area = &a->options.areas[s->area];
        if (s->kind == ST_ORG) area = NULL;
        if (area == NULL || s->size == 0) continue;
        for (size_t k = 0; k < area->hole_count; k++) {
            bl_range hole = area->holes[k];
            if (!bl_range_meet(hole, (bl_range){s->stored, s->size})) continue;
            if (told == area && told_at == hole.first) continue;
            char first[16], last[16], hint[80], behind[16];
            unsigned bits = bl_sheet_address_bits(a->machine.sheet);
            bl_address_text(first, hole.first, bits, a->machine.radix);
            bl_address_text(last, bl_range_last(hole), bits, a->machine.radix);
            bl_address_text(behind, bl_range_last(hole) + 1, bits, a->machine.radix);
            bl_format(hint, sizeof hint, ".org %s goes on behind it", behind);
            asm_error_at(a, s, NULL, hint, "this runs into the hole of area '%s', %s..%s",
                         area->name, first, last);
            told = area;
            told_at = hole.first;
        }
    }
}

/* Sizes only grow, so the walks end; what waits for pages is decided when all else stands still. */
void asm_layout(bl_program *a)
{
    BL_ASSERT(a->machine.sheet != NULL);
    if (!settle_places(a)) {
        bl_report(a->options.sink, BL_ERROR, a->code.sources[0].name, 0,
                  "an address depends on itself through .org, .fill, .reserve or .align",
                  "the addresses never settle");
        a->errors++;
        return;
    }
    if (a->layout.overrun) walk(a, true);
    tell_totals(a);
    for (size_t i = 0; i < a->options.area_count; i++) {
        if (a->options.areas[i].hole_count == 0) continue;
        check_holes(a);
        break;
    }
    asm_report_undefined(a);
    tell_unknown_constants(a);
}
