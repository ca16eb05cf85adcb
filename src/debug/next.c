/* next.c - instructions in memory, what addresses are called, and where the CPU can go next. */
#include "debug_parts.h"

/* ---- names ---- */

bool bl_debug_place(const bl_debug *d, uint32_t address, bl_place *place)
{
    for (size_t i = 0; i < d->program_count; i++)
        if (bl_program_place(d->programs[i], address, place)) return true;
    return false;
}

size_t bl_debug_name(const bl_debug *d, uint32_t address, char *buffer, size_t capacity)
{
    bl_place place;
    bool named = bl_debug_place(d, address, &place) && place.label[0] != '\0';
    if (!named && d->label != NULL &&
        d->label(d->context, address, place.label, sizeof place.label))
        return bl_format(buffer, capacity, "%s", place.label);
    if (!named) return bl_format(buffer, capacity, "%s", "");
    if (place.beyond == 0) return bl_format(buffer, capacity, "%s", place.label);
    return bl_format(buffer, capacity, "%s+%lu", place.label, (unsigned long)place.beyond);
}

/* ---- instructions ---- */

/* Near the end of the addresses there are fewer units than an instruction may have. */
bl_status bl_debug_decode(const bl_debug *d, uint32_t address, bl_debug_instruction *out)
{
    unsigned wide = bl_sheet_unit_bytes(d->sheet), bits = bl_sheet_address_bits(d->sheet);
    uint64_t space = ((uint64_t)1 << bits) - address;
    size_t n = space < BL_FORM_UNITS ? (size_t)space : BL_FORM_UNITS;
    uint8_t bytes[BL_FORM_UNITS * 2];
    bool big = bl_sheet_order(d->sheet) == BL_BIG;
    memset(out, 0, sizeof *out);
    out->address = address;
    out->sheet = debug_sheet_at(d, address);
    if (d->target.read == NULL) return BL_E_UNSUPPORTED;
    bl_status status = d->target.read(d->target.context, address * wide, bytes, n * wide);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < n; i++)
        out->units[i] =
            (uint16_t)(wide == 1 ? bytes[i] : bytes[i * 2 + !big] << 8 | bytes[i * 2 + big]);
    return bl_sheet_decode(out->sheet, out->units, n, &out->decoded) ? BL_OK : BL_E_NOT_FOUND;
}

/* Text of a name lives in the context while the instruction is written. */
typedef struct naming {
    const bl_debug *debug;
    bl_place place;
} naming;

static bl_text exact_name(void *context, uint32_t address)
{
    naming *n = context;
    const bl_debug *d = n->debug;
    bool named = bl_debug_place(d, address, &n->place);
    if (named && n->place.beyond == 0) return bl_text_of(n->place.label);
    if (!named && d->label != NULL &&
        d->label(d->context, address, n->place.label, sizeof n->place.label))
        return bl_text_of(n->place.label);
    return (bl_text){NULL, 0};
}

static bl_text near_name(void *context, uint32_t address, uint32_t *beyond)
{
    naming *n = context;
    if (!bl_debug_place(n->debug, address, &n->place)) return (bl_text){NULL, 0};
    *beyond = n->place.beyond;
    return bl_text_of(n->place.label);
}

size_t bl_debug_text(const bl_debug *d, const bl_debug_instruction *i, char *buffer,
                     size_t capacity)
{
    naming n = {.debug = d};
    bl_label_source labels = {&n, exact_name, near_name};
    uint32_t direct = 0;
    BL_ASSERT(i->decoded.form != NULL);
    if (bl_debug_register(d, (bl_text){"DP", 2}, &direct) != BL_OK) direct = 0;
    return bl_instruction_text(i->sheet, &i->decoded, i->address, direct, &labels, buffer,
                               capacity);
}

/* ---- where to ---- */

/* Is the program counter among the registers that an instruction names? *can: it could be. */
static bool chooses_program_counter(const bl_debug_instruction *i, bool *can)
{
    bool chosen = false;
    for (uint8_t k = 0; k < i->decoded.form->operands; k++) {
        const bl_operand *o = bl_sheet_operand(i->sheet, i->decoded.form->operand[k]);
        bool list = o->kind == BL_OPERAND_ANYOF;
        if (!list && o->kind != BL_OPERAND_ONEOF) continue;
        for (size_t n = 0; n < o->count; n++) {
            const bl_choice *c = bl_sheet_choice(i->sheet, (size_t)o->first + n);
            if (!bl_text_same_nocase(c->name, (bl_text){"PC", 2})) continue;
            *can = true;
            uint32_t value = i->decoded.value[k];
            chosen |= list ? (value & c->code) == c->code : value == c->code;
        }
    }
    return chosen;
}

/* An instruction that names its registers leads somewhere only when the program counter is one of
 * them. */
static bool leads_now(const bl_debug_instruction *i, bool *chosen)
{
    bool can = false;
    *chosen = chooses_program_counter(i, &can);
    return !can || *chosen;
}

bool debug_lead(debug_source *s, bl_text *formulas, uint32_t *place, bl_status *status)
{
    int64_t value;
    if (formulas->length == 0) return false;
    bl_formula_source source = debug_formula_source(s);
    bl_text one = bl_formula_next(formulas);
    *status = bl_formula_evaluate(one, &source, &value, NULL);
    if (*status == BL_OK) *place = debug_wrap(s->debug, value);
    return true;
}

static void add_place(bl_debug_next *next, uint32_t place)
{
    for (size_t i = 0; i < next->count; i++)
        if (next->places[i] == place) return;
    if (next->count < BL_DEBUG_NEXT) next->places[next->count++] = place;
}

/* What its address operand says, or what is the same for a restart. */
static void add_operands(const bl_debug *d, const bl_debug_instruction *i, bl_debug_next *next)
{
    const bl_form *f = i->decoded.form;
    uint32_t page = 0;
    for (uint8_t k = 0; k < f->operands; k++) {
        const bl_operand *o = bl_sheet_operand(i->sheet, f->operand[k]);
        if (!bl_operand_is_address(o) && o->kind != BL_OPERAND_EXACT) continue;
        if (o->kind == BL_OPERAND_DIRECT &&
            bl_debug_register(d, (bl_text){"DP", 2}, &page) != BL_OK)
            page = 0;
        /* BBR0 zp,rel: only the last address is a place of code. */
        bool last = true;
        for (uint8_t n = (uint8_t)(k + 1); n < f->operands; n++)
            last &= !bl_operand_is_address(bl_sheet_operand(i->sheet, f->operand[n]));
        if (!last) continue;
        add_place(next, debug_wrap(d, bl_operand_value(o, i->decoded.value[k], i->address,
                                                       i->address + f->size, page)));
    }
}

bl_status debug_next_of(const bl_debug *d, const bl_debug_instruction *i, bl_debug_next *next)
{
    const bl_form *f = i->decoded.form;
    bool chosen, leads = leads_now(i, &chosen);
    *next = (bl_debug_next){.behind = debug_wrap(d, (int64_t)i->address + f->size)};
    next->calls = (f->flow & BL_FLOW_CALLS) != 0;
    next->returns = (f->flow & BL_FLOW_RETURNS) != 0 && leads;
    next->repeats = (f->flow & BL_FLOW_REPEATS) != 0;
    next->falls = (f->flow & BL_FLOW_ENDS) == 0;
    if (next->falls && !chosen) add_place(next, next->behind);
    if ((f->flow & BL_FLOW_GOES) != 0) add_operands(d, i, next);
    debug_source source = {.debug = d, .instruction = i};
    bl_text formulas = leads ? f->leads : (bl_text){NULL, 0};
    bl_status status = BL_OK;
    uint32_t place;
    while (debug_lead(&source, &formulas, &place, &status)) {
        if (status != BL_OK) return status;
        /* The program counter itself as a source: where it stands now, which is no place to go. */
        if (!chosen || place != i->address) add_place(next, place);
    }
    /* It named the program counter, and only to read it. What goes there does not go on: behind it
     * may be data, where a breakpoint would be a wrong byte. */
    if (chosen) next->falls = next->count == 0;
    if (chosen && next->falls) add_place(next, next->behind);
    return BL_OK;
}

bl_status bl_debug_next_places(const bl_debug *d, bl_debug_next *next)
{
    bl_debug_instruction i;
    uint32_t pc;
    bl_status status = debug_program_counter(d, &pc);
    if (status == BL_OK) status = bl_debug_decode(d, pc, &i);
    return status == BL_OK ? debug_next_of(d, &i, next) : status;
}

/* The plainest is the first that needs no operand. */
bl_text debug_return_formula(const bl_debug *d)
{
    const bl_sheet *sheet = debug_sheet_now(d);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        if ((f->flow & BL_FLOW_RETURNS) == 0 || f->operands > 0 || f->leads.length == 0) continue;
        bl_text formulas = f->leads;
        return bl_formula_next(&formulas);
    }
    return (bl_text){NULL, 0};
}
