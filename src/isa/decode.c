/* decode.c - back from units to forms: a tree with a table of 2^unit ways at each node. Building it
 * also finds forms that are encoded alike. */
#include "sheet_parts.h"

#define NODE        0x8000u
#define MAX_ENTRIES 0x1000000L /* of all nodes together: 32 MiB */
#define MAX_WORK    0x8000000L /* entries looked at while it is built */

static size_t ways(const bl_sheet *s)
{
    return (size_t)1 << s->unit;
}

static bl_status new_node(bl_sheet *s, uint16_t *index)
{
    size_t n = s->node_count + 1;
    if (n >= NODE || n > (size_t)(MAX_ENTRIES / (1L << s->unit))) return BL_E_RANGE;
    uint16_t *nodes = bl_grown(&s->memory, s->nodes, &s->node_room, n, ways(s) * sizeof *s->nodes);
    if (nodes == NULL) return BL_E_MEMORY;
    s->nodes = nodes;
    memset(nodes + s->node_count * ways(s), 0, ways(s) * sizeof *nodes);
    *index = (uint16_t)s->node_count++;
    return BL_OK;
}

/* How many units tell a form apart from others. */
static uint8_t depth_of(const bl_sheet *s, const bl_form *f)
{
    uint8_t depth = 1;
    for (uint8_t u = 0; u < f->size; u++)
        if (f->fixed[u] != 0) depth = (uint8_t)(u + 1);
    for (uint8_t i = 0; i < f->fields; i++) {
        bl_operand_class kind = s->operands[f->operand[f->field[i].operand]].kind;
        if (kind >= BL_OPERAND_ANYOF && f->field[i].unit >= depth)
            depth = (uint8_t)(f->field[i].unit + 1);
    }
    return depth;
}

static bool has_choice(const bl_sheet *s, const bl_operand *o, uint32_t code)
{
    uint32_t all = 0;
    for (uint16_t i = 0; i < o->count; i++) {
        if (o->kind == BL_OPERAND_ONEOF && s->choices[o->first + i].code == code) return true;
        all |= s->choices[o->first + i].code;
    }
    return o->kind == BL_OPERAND_ANYOF && (code & ~all) == 0;
}

/* Do the names chosen in this unit exist? */
static bool names_exist(const bl_sheet *s, const bl_form *f, uint8_t unit, uint16_t value)
{
    for (uint8_t i = 0; i < f->fields; i++) {
        const bl_field *d = &f->field[i];
        const bl_operand *o = &s->operands[f->operand[d->operand]];
        if (d->unit != unit || o->kind < BL_OPERAND_ANYOF) continue;
        if (!has_choice(s, o, (unsigned)value >> d->shift & ((1u << d->bits) - 1))) return false;
    }
    return true;
}

/* A copy of a node and all below it, for what tells it apart from now on. */
static bl_status copy_node(bl_sheet *s, uint16_t from, uint16_t *copy)
{
    uint16_t to = 0;
    bl_status status = new_node(s, &to);
    for (size_t i = 0; i < ways(s) && status == BL_OK; i++) {
        uint16_t entry = s->nodes[from * ways(s) + i], below = 0;
        if ((entry & NODE) != 0) {
            status = copy_node(s, entry & (uint16_t)~NODE, &below);
            entry = below | NODE;
        }
        s->nodes[to * ways(s) + i] = entry;
    }
    *copy = to;
    return status;
}

/* Does an entry of the node that the form does not reach lead to the same node below? */
static bool is_shared(const bl_sheet *s, uint16_t node, uint16_t entry, uint16_t fixed,
                      uint16_t value, long *work)
{
    *work -= 1L << s->unit;
    for (size_t i = 0; i < ways(s); i++)
        if (s->nodes[node * ways(s) + i] == entry && (i & fixed) != value) return true;
    return false;
}

/* Any form at or below an entry. */
static const bl_form *some_form(const bl_sheet *s, uint16_t entry)
{
    while ((entry & NODE) != 0) {
        const uint16_t *n = s->nodes + (entry & (uint16_t)~NODE) * ways(s);
        size_t i = 0;
        while (n[i] == 0)
            i++;
        entry = n[i];
    }
    return &s->forms[entry - 1];
}

typedef struct entering {
    bl_sheet *sheet;
    uint16_t form;
    uint8_t depth;
    const bl_form *other; /* in its way */
    long *work;           /* entries that may still be looked at */
} entering;

_Static_assert(BL_FORM_UNITS <= UINT8_MAX, "a form counts its units in a byte");

static bl_status enter_form(entering *e, uint16_t node, uint8_t unit);

/* One value of a unit that is not the last. *seen and *target: what the value before led to, and
 * leads to now; operands of any value share what is below them. */
static bl_status enter_below(entering *e, size_t at, uint16_t node, uint8_t unit, uint16_t *seen,
                             uint16_t *target)
{
    bl_sheet *s = e->sheet;
    const bl_form *f = &s->forms[e->form];
    uint16_t found = s->nodes[at];
    bl_status status = BL_OK;
    if (*target != 0 && found == *seen) {
        s->nodes[at] = *target;
        return BL_OK;
    }
    uint16_t below = found & (uint16_t)~NODE;
    if (found == 0)
        status = new_node(s, &below);
    else if (is_shared(s, node, found, f->fixed[unit], f->value[unit], e->work))
        status = copy_node(s, found & (uint16_t)~NODE, &below);
    if (status != BL_OK) return status;
    *seen = found;
    *target = s->nodes[at] = below | NODE;
    return enter_form(e, below, (uint8_t)(unit + 1));
}

/* Enters a form from a unit on below a node. */
static bl_status enter_form(entering *e, uint16_t node, uint8_t unit)
{
    bl_sheet *s = e->sheet;
    const bl_form *f = &s->forms[e->form];
    uint16_t free = (uint16_t)((ways(s) - 1) & ~(size_t)f->fixed[unit]), part = 0;
    uint16_t seen = 0, target = 0;
    bl_status status = BL_OK;
    do {
        uint16_t value = (uint16_t)(f->value[unit] | part);
        size_t at = node * ways(s) + value;
        part = (uint16_t)((part - free) & free); /* the next way to fill the free bits */
        if (--*e->work < 0) return BL_E_RANGE;
        if (!names_exist(s, f, unit, value)) continue;
        uint16_t found = s->nodes[at];
        bool last = unit + 1 == e->depth;
        if (found == e->form + 1) continue;
        if (found != 0 && (last || (found & NODE) == 0)) {
            e->other = some_form(s, found);
            return BL_E_OVERLAP;
        }
        if (last)
            s->nodes[at] = (uint16_t)(e->form + 1);
        else
            status = enter_below(e, at, node, unit, &seen, &target);
    } while (part != 0 && status == BL_OK);
    return status;
}

bl_status sheet_build_decoder(bl_sheet *s, const bl_form **culprit, const bl_form **other)
{
    uint16_t root;
    long work = MAX_WORK;
    bl_status status = new_node(s, &root);
    for (size_t i = 0; i < s->form_count && status == BL_OK; i++) {
        *culprit = &s->forms[i];
        entering e = {s, (uint16_t)i, depth_of(s, &s->forms[i]), NULL, &work};
        if (!s->forms[i].alias) status = enter_form(&e, root, 0);
        *other = e.other;
    }
    return status;
}

/* Are the bits that do not count as the assembler leaves them? */
static bool has_no_loose_bits(const bl_form *f, const uint16_t *units)
{
    for (uint8_t u = 0; u < f->size; u++) {
        unsigned covered = f->fixed[u];
        for (uint8_t i = 0; i < f->fields; i++)
            if (f->field[i].unit == u)
                covered |= ((1u << f->field[i].bits) - 1) << f->field[i].shift;
        if ((units[u] & ~covered) != 0) return false;
    }
    return true;
}

/* Down the tree, a node a unit: at its end is the form, whose fields give the values. */
bool bl_sheet_decode(const bl_sheet *s, const uint16_t *units, size_t count, bl_decoded *out)
{
    size_t node = 0, depth = 0;
    uint16_t found = 0;
    do {
        if (depth == count) return false;
        found = s->nodes[node * ways(s) + (units[depth++] & (ways(s) - 1))];
        node = found & (uint16_t)~NODE;
    } while ((found & NODE) != 0);
    if (found == 0 || s->forms[found - 1].size > count) return false;
    const bl_form *f = out->form = &s->forms[found - 1];
    for (uint8_t i = 0; i < f->operands; i++)
        out->value[i] = 0;
    for (uint8_t i = 0; i < f->fields; i++) {
        const bl_field *d = &f->field[i];
        uint32_t bits = units[d->unit] >> d->shift & ((1u << d->bits) - 1);
        out->value[d->operand] |= bits << d->from;
    }
    out->exact = !f->loose || has_no_loose_bits(f, units);
    return true;
}
