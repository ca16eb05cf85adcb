/* form.c - reads a form: what is written, what units come out, how many cycles it takes. */
#include "bootlace/number.h"
#include "sheet_read.h"

/* What is being read: the form, and the other names of its operands. */
typedef struct draft {
    bl_form form;
    bl_text other[BL_FORM_OPERANDS];
    bool placed[BL_FORM_OPERANDS];
} draft;

/* ---- what is written ---- */

/* The operand kind that a word in a pattern means, or -1. A number means itself. */
static int32_t operand_of_word(reader *r, bl_text word)
{
    bl_sheet *s = r->sheet;
    uint32_t value;
    int32_t found = read_operand_named(s, word);
    if (found >= 0 || (!bl_is_digit(word.at[0]) && word.at[0] != '$')) return found;
    if (bl_number_parse(word, UINT32_MAX, &value) != BL_OK) return -1;
    if (s->operand_count == SHEET_OPERANDS) return -1;
    s->operands[s->operand_count] =
        (bl_operand){.name = word, .kind = BL_OPERAND_EXACT, .value = (int64_t)value};
    return (int32_t)s->operand_count++;
}

static bool add_operand(reader *r, draft *d, int32_t operand, bl_text word)
{
    bl_form *f = &d->form;
    bl_operand_class kind = r->sheet->operands[operand].kind;
    if (f->operands == BL_FORM_OPERANDS ||
        (kind != BL_OPERAND_ONEOF && f->slots == BL_FORM_SLOTS) ||
        f->pattern_length == BL_SHAPE_MAX) {
        read_fault(r, word, NULL, "more operands than a form can have");
        return false;
    }
    if (kind != BL_OPERAND_ONEOF) f->slot[f->slots++] = f->operands;
    f->pattern[f->pattern_length++] = (uint8_t)(0x80 | f->operands);
    d->other[f->operands] = (bl_text){NULL, 0};
    d->placed[f->operands] = kind == BL_OPERAND_EXACT;
    f->operand[f->operands++] = (uint8_t)operand;
    return true;
}

/* Characters that must stand in the operand as they are. Letters must have been declared, so that
 * a misspelt operand is told. */
static bool add_form_literal(reader *r, bl_form *f, bl_text word)
{
    if (f->pattern_length + word.length > BL_SHAPE_MAX) {
        read_fault(r, word, NULL, "more operands than a form can have");
        return false;
    }
    if (bl_is_letter(word.at[0]) && !bl_sheet_is_reserved(r->sheet, word)) {
        read_fault(r, word, "declare it with 'operand' or 'reserved'", "unknown operand");
        return false;
    }
    for (size_t k = 0; k < word.length; k++) {
        unsigned c = (unsigned char)bl_upper(word.at[k]);
        if (c < ' ' || c >= 0x7F) {
            read_fault(r, word, NULL, "this cannot be written in a program");
            return false;
        }
        if (!read_is_name_char((char)c)) r->sheet->used[c >> 3] |= (uint8_t)(1 << (c & 7));
        f->pattern[f->pattern_length++] = (uint8_t)c;
    }
    return true;
}

/* The operand pattern: names of operand kinds become slots, all else stands for itself. ':' gives
 * an operand another name for the code column. */
static bool take_pattern(reader *r, bl_text pattern, draft *d)
{
    size_t i = 0;
    while (i < pattern.length) {
        if (bl_is_blank(pattern.at[i])) {
            i++;
            continue;
        }
        bl_text word = read_word_at(pattern, i);
        int32_t operand = word.length > 0 ? operand_of_word(r, word) : -1;
        if (word.length == 0) word = (bl_text){pattern.at + i, 1};
        i += word.length;
        if (!(operand >= 0 ? add_operand(r, d, operand, word)
                           : add_form_literal(r, &d->form, word)))
            return false;
        if (operand < 0 || i >= pattern.length || pattern.at[i] != ':') continue;
        bl_text other = read_word_at(pattern, i + 1);
        d->other[d->form.operands - 1] = other;
        i += 1 + other.length;
    }
    return true;
}

/* ---- what comes out ---- */

/* The operand that a name in the code column means: the first so called that is not yet placed. */
static int32_t place_named(const reader *r, const draft *d, bl_text name)
{
    for (uint8_t i = 0; i < d->form.operands; i++) {
        bl_text own = r->sheet->operands[d->form.operand[i]].name;
        bool fits = bl_text_same(d->other[i].length > 0 ? d->other[i] : own, name);
        if (fits && !d->placed[i]) return i;
    }
    return -1;
}

static bool add_form_field(reader *r, draft *d, bl_text word, bl_field field)
{
    if (d->form.fields == BL_FORM_FIELDS) {
        read_fault(r, word, NULL, "more than %d pieces of operands", BL_FORM_FIELDS);
        return false;
    }
    d->form.field[d->form.fields++] = field;
    return true;
}

static bool add_unit(reader *r, draft *d, bl_text word, uint16_t value, uint16_t fixed)
{
    if (d->form.size == BL_FORM_UNITS) {
        read_fault(r, word, NULL, "more than %d units", BL_FORM_UNITS);
        return false;
    }
    d->form.value[d->form.size] = value;
    d->form.fixed[d->form.size++] = fixed;
    return true;
}

/* A whole operand, in as many units as it needs, in the CPU's order. */
static bool whole_operand(reader *r, draft *d, bl_text word, int32_t place)
{
    const bl_sheet *s = r->sheet;
    const bl_operand *o = &s->operands[d->form.operand[place]];
    unsigned count = o->kind >= BL_OPERAND_ANYOF ? 1 : (o->bits + s->unit - 1) / s->unit;
    if (o->kind >= BL_OPERAND_ANYOF ? o->bits > s->unit : o->bits % s->unit != 0) {
        read_fault(r, word, "give its bits letters: 01dddsss", "%u bits do not fill units of %u",
                   o->bits, s->unit);
        return false;
    }
    uint8_t first = d->form.size;
    for (unsigned i = 0; i < count; i++) {
        unsigned unit = s->order == BL_LITTLE ? i : count - 1 - i;
        bl_field field = {(uint8_t)place, (uint8_t)(first + unit), 0, (uint8_t)s->unit,
                          (uint8_t)(i * s->unit)};
        if (!add_unit(r, d, word, 0, 0) || !add_form_field(r, d, word, field)) return false;
    }
    d->placed[place] = true;
    return true;
}

/* Is this a unit written bit by bit? */
static bool is_bits(const bl_sheet *s, bl_text word)
{
    if (word.length != s->unit) return false;
    for (size_t i = 0; i < word.length; i++)
        if (word.at[i] != '0' && word.at[i] != '1' && word.at[i] != '-' &&
            !bl_is_letter(word.at[i]))
            return false;
    return true;
}

/* Bits 0 and 1 are fixed, '-' does not count, letters are bits of operands; their highest bits come
 * first. */
static bool take_bits(reader *r, draft *d, bl_text word, uint8_t *left)
{
    unsigned unit = d->form.size, width = r->sheet->unit;
    uint16_t value = 0, fixed = 0;
    for (unsigned i = 0; i < width;) {
        char c = word.at[i];
        unsigned run = i, shift;
        while (run < width && word.at[run] == c)
            run++;
        shift = width - run;
        uint16_t mask = (uint16_t)(((1u << (run - i)) - 1) << shift);
        int32_t place = bl_is_letter(c) ? place_named(r, d, (bl_text){word.at + i, 1}) : -1;
        if (c == '0' || c == '1') fixed |= mask;
        if (c == '1') value |= mask;
        if (bl_is_letter(c)) {
            if (place < 0 || left[place] < run - i) {
                read_fault(r, (bl_text){word.at + i, run - i}, NULL,
                           place < 0 ? "these bits belong to no operand"
                                     : "the operand has fewer bits than letters");
                return false;
            }
            left[place] = (uint8_t)(left[place] - (run - i));
            bl_field field = {(uint8_t)place, (uint8_t)unit, (uint8_t)shift, (uint8_t)(run - i),
                              left[place]};
            if (!add_form_field(r, d, word, field)) return false;
        }
        i = run;
    }
    for (unsigned i = 0; i < width; i++)
        d->form.loose |= word.at[i] == '-';
    return add_unit(r, d, word, value, fixed);
}

/* How many bits the letters of each operand have in the whole column. */
static bool count_letters(reader *r, bl_text column, const draft *d, uint8_t *left)
{
    memset(left, 0, BL_FORM_OPERANDS);
    r->lines.rest = column;
    for (bl_text w = read_word(r); w.length > 0; w = read_word(r)) {
        if (place_named(r, d, w) >= 0 || !is_bits(r->sheet, w)) continue;
        for (size_t i = 0; i < w.length; i++) {
            int32_t place = bl_is_letter(w.at[i]) ? place_named(r, d, (bl_text){w.at + i, 1}) : -1;
            if (place >= 0 && left[place] < UINT8_MAX) left[place]++;
        }
    }
    for (uint8_t i = 0; i < d->form.operands; i++) {
        const bl_operand *o = &r->sheet->operands[d->form.operand[i]];
        bool names = o->kind >= BL_OPERAND_ANYOF;
        bool fits = names ? o->bits <= left[i] && left[i] <= 16 : o->bits == left[i];
        if (left[i] == 0 || fits) continue;
        read_fault(r, column, NULL, "operand '%.*s' has %u bits, its letters %u",
                   (int)(o->name.length & 63), o->name.at, o->bits, left[i]);
        return false;
    }
    return true;
}

/* Fixed digits and fields in turn; all bits of each unit must be said, once. */
static bool take_code(reader *r, bl_text column, draft *d)
{
    uint8_t left[BL_FORM_OPERANDS];
    bool lettered[BL_FORM_OPERANDS];
    if (!count_letters(r, column, d, left)) return false;
    for (uint8_t i = 0; i < BL_FORM_OPERANDS; i++)
        lettered[i] = left[i] > 0;
    r->lines.rest = column;
    for (bl_text w = read_word(r); w.length > 0; w = read_word(r)) {
        int32_t place = place_named(r, d, w), code = read_code(r->sheet, w);
        bool good;
        if (place >= 0 && !lettered[place])
            good = whole_operand(r, d, w, place);
        else if (code >= 0)
            good = add_unit(r, d, w, (uint16_t)code, (uint16_t)((1u << r->sheet->unit) - 1));
        else if (is_bits(r->sheet, w))
            good = take_bits(r, d, w, left);
        else {
            good = false;
            bool known = read_operand_named(r->sheet, w) >= 0;
            read_fault(r, w, known ? NULL : "digits, bits like 01dddsss, or the name of an operand",
                       known ? "this operand does not occur in what is written" : "not a code");
        }
        if (!good) return false;
    }
    for (uint8_t i = 0; i < d->form.operands; i++) {
        if (d->placed[i] || lettered[i]) continue;
        read_fault(r, column, "every operand that is written must be encoded",
                   "an operand is not encoded");
        return false;
    }
    if (d->form.size == 0) read_fault(r, column, NULL, "the code column is empty");
    return d->form.size > 0;
}

static bool take_cycles(reader *r, bl_text column, bl_form *f)
{
    r->lines.rest = column;
    f->cycles = (uint8_t)read_number(r, 255);
    for (bl_text w = read_word(r); w.length > 0; w = read_word(r)) {
        size_t i = 0;
        bl_text name = {w.at + 1, w.length - 1};
        while (i < r->sheet->extra_count && !bl_text_same(r->sheet->extras[i].name, name))
            i++;
        if (w.at[0] != '+' || i == r->sheet->extra_count) {
            read_fault(r, w, "'+' and the name of a declared extra", "not an extra cycle");
            return false;
        }
        f->extras |= (uint32_t)1 << i;
    }
    return r->status == BL_OK;
}

/* ---- keeping forms ---- */

static bool same_writing(const bl_form *a, const bl_form *b)
{
    return a->mnemonic == b->mnemonic && a->pattern_length == b->pattern_length &&
           memcmp(a->pattern, b->pattern, a->pattern_length) == 0 && a->operands == b->operands &&
           memcmp(a->operand, b->operand, a->operands) == 0;
}

static size_t form_slot(const bl_sheet *s, const bl_form *f)
{
    uint64_t key = f->mnemonic;
    for (uint8_t i = 0; i < f->pattern_length; i++)
        key = key * 31 + f->pattern[i];
    for (uint8_t i = 0; i < f->operands; i++)
        key = key * 31 + f->operand[i];
    size_t slot = sheet_spread(key, s->form_slots);
    while (s->form_table[slot] != 0 && !same_writing(&s->forms[s->form_table[slot] - 1], f))
        slot = (slot + 1) & (s->form_slots - 1);
    return slot;
}

static bl_status room_for_form(bl_sheet *s)
{
    bl_form *forms =
        bl_grown(&s->memory, s->forms, &s->form_capacity, s->form_count + 1, sizeof *forms);
    if (forms == NULL) return BL_E_MEMORY;
    s->forms = forms;
    if ((s->form_count + 1) * 2 <= s->form_slots) return BL_OK;
    size_t slots;
    uint16_t *t = sheet_table(s, s->form_count * 2 + 128, &slots);
    if (t == NULL) return BL_E_MEMORY;
    bl_release(&s->memory, s->form_table);
    s->form_table = t;
    s->form_slots = slots;
    for (size_t i = 0; i < s->form_count; i++)
        t[form_slot(s, &s->forms[i])] = (uint16_t)(i + 1);
    return BL_OK;
}

/* A form that is written like one of the sheet that was taken replaces it; like one of this sheet
 * it is a fault. */
static void keep_form(reader *r, const bl_form *f, form_purpose purpose)
{
    static const uint8_t flows[] = {[FORM_JUMPS] = BL_FLOW_GOES,
                                    [FORM_ENDS] = BL_FLOW_ENDS,
                                    [FORM_CALLS] = BL_FLOW_CALLS,
                                    [FORM_RETURNS] = BL_FLOW_RETURNS,
                                    [FORM_REPEATS] = BL_FLOW_REPEATS};
    bl_sheet *s = r->sheet;
    if (room_for_form(s) != BL_OK) {
        r->status = BL_E_MEMORY;
        return;
    }
    size_t slot = form_slot(s, f), index = s->form_table[slot];
    if (purpose >= FORM_REMOVE) {
        if (index == 0 || (purpose == FORM_REMOVE && index > r->inherited))
            read_fault(r, f->written,
                       purpose == FORM_REMOVE ? "a form of the sheet that was taken"
                                              : "written as in the form",
                       "there is no such form");
        else if (purpose == FORM_REMOVE)
            s->forms[index - 1].size = 0;
        else if (purpose == FORM_LEADS)
            s->forms[index - 1].leads = f->leads;
        else
            s->forms[index - 1].flow |= flows[purpose];
        return;
    }
    if (index > r->inherited) {
        read_fault(r, f->written, NULL, "written alike on line %lu",
                   (unsigned long)s->forms[index - 1].line);
    } else if (index != 0) {
        const bl_form before = s->forms[index - 1];
        s->forms[index - 1] = *f; /* a sheet may replace what it took */
        s->forms[index - 1].flow = before.flow;
        s->forms[index - 1].leads = before.leads;
    } else if (s->form_count == 0x7FFE) {
        read_fault(r, f->written, NULL, "the sheet has too many forms");
    } else {
        s->form_table[slot] = (uint16_t)(s->form_count + 1);
        s->forms[s->form_count++] = *f;
    }
}

/* Rows of which no form is left show nothing any more. */
static bl_status blank_rows(bl_sheet *s)
{
    uint8_t *used = s->memory.resize(s->memory.context, NULL, s->row_count + 1);
    if (used == NULL) return BL_E_MEMORY;
    memset(used, 0, s->row_count + 1);
    for (size_t i = 0; i < s->form_count; i++)
        used[s->forms[i].row] = 1;
    for (size_t i = 0; i < s->row_count; i++)
        if (used[i] == 0) s->rows[i].written.length = 0;
    bl_release(&s->memory, used);
    return BL_OK;
}

/* Forms that were removed leave no holes: their indexes are used everywhere. */
bl_status read_compact(bl_sheet *s)
{
    size_t n = 0, kept = 0;
    uint16_t *moved =
        s->memory.resize(s->memory.context, NULL, (s->mnemonic_count + 1) * sizeof *moved);
    if (moved == NULL) return BL_E_MEMORY;
    memset(moved, 0, (s->mnemonic_count + 1) * sizeof *moved);
    for (size_t i = 0; i < s->form_count; i++) {
        if (s->forms[i].size == 0) continue;
        s->forms[n] = s->forms[i];
        moved[s->forms[n++].mnemonic] = 1;
    }
    s->form_count = n;
    for (size_t i = 0; i < s->mnemonic_count; i++) {
        if (moved[i] == 0) continue;
        moved[i] = (uint16_t)kept;
        s->mnemonics[kept++] = s->mnemonics[i];
    }
    for (size_t i = 0; i < n; i++)
        s->forms[i].mnemonic = moved[s->forms[i].mnemonic];
    bl_release(&s->memory, moved);
    bl_release(&s->memory, s->form_table);
    s->form_table = NULL;
    s->form_slots = 0;
    bl_status status = blank_rows(s);
    return status == BL_OK ? sheet_mnemonics_moved(s, kept) : status;
}

void read_one_form(reader *r, bl_text written, bl_text code, bl_text cycles, form_purpose purpose)
{
    draft d = {.form = {.written = written,
                        .line = r->lines.number,
                        .row = (uint16_t)(r->sheet->row_count - 1),
                        .alias = purpose == FORM_ALSO}};
    r->lines.rest = written;
    bl_text mnemonic = read_word(r), pattern = r->lines.rest;
    bl_status status = sheet_mnemonic_of(r->sheet, mnemonic, &d.form.mnemonic);
    if (status == BL_E_MEMORY) r->status = status;
    if (status == BL_E_RANGE)
        read_fault(r, mnemonic, NULL, "a mnemonic has 1 to %d letters and digits", BL_MNEMONIC_MAX);
    if (status == BL_OK && take_pattern(r, pattern, &d) &&
        (purpose >= FORM_REMOVE || (take_code(r, code, &d) && take_cycles(r, cycles, &d.form)))) {
        if (purpose == FORM_LEADS) read_formula(r, &d.form, d.other, code);
        if (r->status == BL_OK) keep_form(r, &d.form, purpose);
    }
    r->lines.rest = (bl_text){NULL, 0};
}
