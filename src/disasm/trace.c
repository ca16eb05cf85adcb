/* trace.c - which units are code: followed from where the CPU begins, along jumps and branches. */
#include "bootlace/vector.h"
#include "disassembly.h"

const stretch *disasm_find(const disasm *d, uint32_t address)
{
    size_t low = 0, high = d->stretch_count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (d->stretches[middle].first <= address)
            low = middle + 1;
        else
            high = middle;
    }
    if (low == 0 || address - d->stretches[low - 1].first >= d->stretches[low - 1].count)
        return NULL;
    return &d->stretches[low - 1];
}

bool disasm_decode(const disasm *d, const stretch *s, size_t at, bl_decoded *out)
{
    uint16_t units[BL_FORM_UNITS];
    size_t n = s->count - at < BL_FORM_UNITS ? s->count - at : BL_FORM_UNITS;
    for (size_t i = 0; i < n; i++)
        units[i] = disasm_unit(d, s, at + i);
    return bl_sheet_decode(d->sheet, units, n, out);
}

bool disasm_vector_target(const disasm *d, const bl_vector *v, uint32_t *target)
{
    const stretch *s = disasm_find(d, v->address);
    return s != NULL && s->count - (v->address - s->first) >= bl_sheet_address_units(d->sheet) &&
           bl_vector_target(d->sheet, v, d->o->image, target);
}

/* Is this address in the code still to be followed? */
static void follow_address(disasm *d, uint32_t address)
{
    const stretch *s = disasm_find(d, address);
    if (s == NULL || d->status != BL_OK) return;
    uint8_t *cell = &d->cells[s->cells + (address - s->first)];
    *cell |= CELL_LABEL;
    if ((*cell & (CELL_START | CELL_REST)) != 0) return;
    uint32_t *queue =
        bl_grown(&d->o->memory, d->queue, &d->queue_capacity, d->queue_count + 1, sizeof *queue);
    if (queue == NULL) {
        d->status = BL_E_MEMORY;
        return;
    }
    d->queue = queue;
    queue[d->queue_count++] = address;
}

/* Marks what an instruction refers to, and follows where it goes. */
static void refer(disasm *d, const bl_decoded *i, uint32_t address)
{
    const bl_form *f = i->form;
    for (uint8_t k = 0; k < f->operands; k++) {
        const bl_operand *o = bl_sheet_operand(d->sheet, f->operand[k]);
        bool restart = o->kind == BL_OPERAND_EXACT && (f->flow & BL_FLOW_GOES) != 0;
        if (!bl_operand_is_address(o) && !restart) continue;
        uint32_t target =
            (uint32_t)bl_operand_value(o, i->value[k], address, address + f->size, d->o->direct);
        if ((f->flow & BL_FLOW_GOES) != 0 && !d->o->all_code) {
            follow_address(d, target);
        } else {
            const stretch *s = disasm_find(d, target);
            if (s != NULL) d->cells[s->cells + (target - s->first)] |= CELL_LABEL;
        }
    }
}

/* References into the middle of an instruction are told from its beginning. */
static void label_beginnings(disasm *d)
{
    for (size_t i = 0; i + 1 < d->cell_count; i++) {
        if ((d->cells[i] & CELL_START) == 0) continue;
        for (size_t k = i + 1; k < d->cell_count && (d->cells[k] & CELL_REST) != 0; k++)
            if ((d->cells[k] & CELL_LABEL) != 0) d->cells[i] |= CELL_LABEL;
    }
}

/* Is there room for an instruction: all its units untaken? */
static bool is_free(const disasm *d, const stretch *s, size_t at, size_t size)
{
    for (size_t i = 0; i < size; i++)
        if ((d->cells[s->cells + at + i] & (CELL_START | CELL_REST)) != 0) return false;
    return true;
}

/* Takes instructions one after the other, as long as there are some. */
static void trace_stretch(disasm *d, const stretch *s, size_t at, bool to_the_end)
{
    bl_decoded i;
    while (at < s->count && d->status == BL_OK) {
        if (!disasm_decode(d, s, at, &i) || !is_free(d, s, at, i.form->size)) {
            if (!to_the_end) return;
            at++;
            continue;
        }
        uint8_t *cells = d->cells + s->cells + at;
        cells[0] |= CELL_START;
        for (uint8_t k = 1; k < i.form->size; k++)
            cells[k] |= CELL_REST;
        refer(d, &i, s->first + (uint32_t)at);
        at += i.form->size;
        if ((i.form->flow & BL_FLOW_ENDS) != 0 && !to_the_end) return;
    }
}

static void follow_vectors(disasm *d)
{
    uint32_t target;
    for (size_t i = 0; i < bl_sheet_vectors(d->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(d->sheet, i);
        /* Only where the CPU must begin; what stands at others may be anything. */
        if (v->runs && v->needed) follow_address(d, v->address);
        if (!disasm_vector_target(d, v, &target)) continue;
        const stretch *s = disasm_find(d, v->address);
        uint8_t *cells = d->cells + s->cells + (v->address - s->first);
        cells[0] |= CELL_VECTOR;
        follow_address(d, target);
    }
}

/* A list of places instead of recursion: code may be nested as deep as memory is. */
void disasm_trace(disasm *d)
{
    uint32_t entry;
    if (d->o->all_code) {
        for (size_t i = 0; i < d->stretch_count; i++)
            trace_stretch(d, &d->stretches[i], 0, true);
        label_beginnings(d);
        return;
    }
    for (size_t i = 0; i < d->o->entry_count; i++)
        follow_address(d, d->o->entries[i]);
    if (bl_image_entry(d->o->image, &entry)) follow_address(d, entry / d->wide);
    follow_vectors(d);
    while (d->queue_count > 0 && d->status == BL_OK) {
        uint32_t address = d->queue[--d->queue_count];
        const stretch *s = disasm_find(d, address);
        trace_stretch(d, s, (size_t)(address - s->first), false);
    }
    label_beginnings(d);
}
