/* write.c - the source: labels, instructions, and data as text, fills and lists. */
#include "disasm.h"

enum {
    OUT = 4096,
    LINE = 512,
    COLUMN = 36, /* where the comment begins */
    IN_ROW = 8,
    LEAST_TEXT = 5,
    MOST_TEXT = 48,
    LEAST_FILL = 12
};

typedef struct out {
    const bl_writer *w;
    bl_status status;
    size_t count;
    char text[OUT + LINE];
    disasm *d;
    char label[16]; /* of an address without a name */
    bool octal;
    unsigned address_digits, unit_digits;
} out;

static void flush(out *o)
{
    if (o->status == BL_OK && o->count > 0)
        o->status = o->w->write(o->w->context, o->text, o->count);
    o->count = 0;
}

static void put(out *o, const char *text, size_t length)
{
    memcpy(o->text + o->count, text, length);
    o->count += length;
}

static void put_string(out *o, const char *text)
{
    put(o, text, bl_length(text));
}

static void put_value(out *o, int64_t value, unsigned bits)
{
    o->count += bl_value_text(o->text + o->count, 24, value, bits, bl_sheet_radix(o->d->sheet));
}

static void pad_to(out *o, size_t begin, size_t column)
{
    size_t now = o->count - begin, n = now < column ? column - now : 1;
    memset(o->text + o->count, ' ', n);
    o->count += n;
}

static void end_line(out *o)
{
    o->text[o->count++] = '\n';
    if (o->count >= OUT) flush(o);
}

/* ---- names ---- */

static const bl_disasm_name *name_of(const disasm *d, uint32_t address)
{
    size_t low = 0, high = d->name_count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (d->names[middle].address < address)
            low = middle + 1;
        else
            high = middle;
    }
    return low < d->name_count && d->names[low].address == address ? &d->names[low] : NULL;
}

/* Can a label stand at this address? Not inside of an instruction. */
static bool has_label(const disasm *d, uint32_t address)
{
    const stretch *s = disasm_find(d, address);
    if (s == NULL) return false;
    uint8_t cell = d->cells[s->cells + (address - s->first)];
    return (cell & CELL_REST) == 0 && (cell & CELL_LABEL) != 0;
}

static bl_text made_up(out *o, uint32_t address)
{
    char *p = o->label;
    unsigned digits = o->address_digits, shift = o->octal ? 3 : 4;
    memcpy(p, "at_", 3);
    p += 3;
    if (digits < 8 && address >> shift * digits != 0) digits = (32 + shift - 1) / shift;
    for (unsigned i = digits; i > 0; i--)
        *p++ = "0123456789ABCDEF"[address >> shift * (i - 1) & ((1u << shift) - 1)];
    return (bl_text){o->label, (size_t)(p - o->label)};
}

static bl_text label_of(void *context, uint32_t address)
{
    out *o = context;
    const bl_disasm_name *n = o->d->name_count > 0 ? name_of(o->d, address) : NULL;
    /* A name for a place inside of an instruction is defined as a number. */
    if (n != NULL) return n->name;
    return has_label(o->d, address) ? made_up(o, address) : (bl_text){NULL, 0};
}

/* Inside of an instruction: what stands at its beginning, and how far. */
static bl_text near_label(void *context, uint32_t address, uint32_t *beyond)
{
    out *o = context;
    const stretch *s = disasm_find(o->d, address);
    if (s == NULL) return (bl_text){NULL, 0};
    const uint8_t *cells = o->d->cells + s->cells;
    uint32_t at = address - s->first;
    for (uint32_t back = 1; back < BL_FORM_UNITS && back <= at && (cells[at] & CELL_REST) != 0;
         back++) {
        if ((cells[at - back] & CELL_REST) != 0) continue;
        *beyond = back;
        return label_of(o, address - back);
    }
    return (bl_text){NULL, 0};
}

/* ---- instructions ---- */

/* Digits of a number in the sheet's radix. */
static void put_digits(out *o, uint32_t value, unsigned count)
{
    unsigned shift = o->octal ? 3 : 4;
    char *p = o->text + o->count;
    for (unsigned i = count; i > 0; i--, value >>= shift)
        p[i - 1] = "0123456789ABCDEF"[value & ((1u << shift) - 1)];
    o->count += count;
}

/* "; E000  A9 12" behind a line. */
static void comment(out *o, size_t begin, const stretch *s, size_t at, size_t count)
{
    pad_to(o, begin, COLUMN);
    put(o, "; ", 2);
    put_digits(o, s->first + (uint32_t)at, o->address_digits);
    if (count > 0) o->text[o->count++] = ' ';
    for (size_t k = 0; k < count; k++) {
        o->text[o->count++] = ' ';
        put_digits(o, disasm_unit(o->d, s, at + k), o->unit_digits);
    }
}

static const char *unit_directive(const disasm *d)
{
    unsigned unit = bl_sheet_unit_bits(d->sheet);
    if (unit == 8) return ".byte ";
    return unit == bl_sheet_word_bits(d->sheet) ? ".word " : ".fill 1, ";
}

static void put_units(out *o, const stretch *s, size_t at, size_t count)
{
    unsigned unit = bl_sheet_unit_bits(o->d->sheet);
    put_string(o, unit_directive(o->d));
    for (size_t i = 0; i < count; i++) {
        if (i > 0) put(o, ", ", 2);
        put_value(o, disasm_unit(o->d, s, at + i), unit);
    }
}

static size_t instruction(out *o, const stretch *s, size_t at)
{
    bl_decoded d;
    size_t begin = o->count;
    uint32_t address = s->first + (uint32_t)at;
    bl_label_source labels = {o, label_of, near_label};
    if (!disasm_decode(o->d, s, at, &d)) return 1; /* it was there when it was traced */
    pad_to(o, begin, 8);
    bool usual = bl_instruction_is_usual(o->d->sheet, &d, address, o->d->o->direct);
    size_t data = o->count;
    if (!usual && bl_sheet_unit_bits(o->d->sheet) >= 8) put_units(o, s, at, d.form->size);
    for (size_t i = 0; !usual && data == o->count && i < d.form->size; i++) {
        put_units(o, s, at + i, 1);
        if (i + 1 == d.form->size) break;
        end_line(o);
        begin = data = o->count;
        pad_to(o, begin, 8);
        data = o->count;
    }
    if (usual)
        o->count += bl_instruction_text(o->d->sheet, &d, address, o->d->o->direct, &labels,
                                        o->text + o->count, 200);
    comment(o, begin, s, at, d.form->size);
    if (!usual) {
        put(o, "  ", 2);
        o->count += bl_instruction_text(o->d->sheet, &d, address, o->d->o->direct, &labels,
                                        o->text + o->count, 120);
    }
    end_line(o);
    return d.form->size;
}

/* ---- data ---- */

/* How far data goes on from here without a label, code or vector. */
static size_t data_length(const disasm *d, const stretch *s, size_t at)
{
    size_t n = 1;
    while (at + n < s->count && d->cells[s->cells + at + n] == 0)
        n++;
    return n;
}

static bool is_text(uint16_t c)
{
    return c >= ' ' && c < 0x7F && c != '"' && c != '\\';
}

static size_t text_length(const disasm *d, const stretch *s, size_t at, size_t limit)
{
    size_t n = 0;
    while (n < limit && n < MOST_TEXT && is_text(disasm_unit(d, s, at + n)))
        n++;
    return n >= LEAST_TEXT ? n : 0;
}

static size_t same_length(const disasm *d, const stretch *s, size_t at, size_t limit)
{
    size_t n = 1;
    uint16_t first = disasm_unit(d, s, at);
    while (n < limit && disasm_unit(d, s, at + n) == first)
        n++;
    return n;
}

static size_t data(out *o, const stretch *s, size_t at)
{
    disasm *d = o->d;
    unsigned unit = bl_sheet_unit_bits(d->sheet);
    size_t begin = o->count, limit = data_length(d, s, at);
    size_t same = same_length(d, s, at, limit), text = text_length(d, s, at, limit), n = 1;
    pad_to(o, begin, 8);
    if (same >= LEAST_FILL) {
        put(o, ".fill ", 6);
        o->count += bl_format(o->text + o->count, 24, "%lu, ", (unsigned long)same);
        put_value(o, disasm_unit(d, s, at), unit);
        comment(o, begin, s, at, 0);
        n = same;
    } else if (text > 0 && unit >= 8) {
        put(o, ".text \"", 7);
        for (size_t i = 0; i < text; i++)
            o->text[o->count++] = (char)disasm_unit(d, s, at + i);
        put(o, "\"", 1);
        comment(o, begin, s, at, 0);
        n = text;
    } else {
        size_t most = unit >= 8 ? IN_ROW : 1;
        while (n < limit && n < most && text_length(d, s, at + n, limit - n) == 0 &&
               same_length(d, s, at + n, limit - n) < LEAST_FILL)
            n++;
        put_units(o, s, at, n);
        comment(o, begin, s, at, 0);
    }
    end_line(o);
    return n;
}

/* An address that the CPU takes: by the name of what stands there. */
static size_t vector(out *o, const stretch *s, size_t at)
{
    uint32_t target;
    size_t begin = o->count;
    for (size_t i = 0; i < bl_sheet_vectors(o->d->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(o->d->sheet, i);
        if (v->address != s->first + at || !disasm_vector_target(o->d, v, &target)) continue;
        bl_text label = label_of(o, target);
        pad_to(o, begin, 8);
        put_string(o, ".vector ");
        put(o, v->name.at, v->name.length);
        put(o, ", ", 2);
        if (label.length > 0)
            put(o, label.at, label.length);
        else
            put_value(o, target, bl_sheet_address_bits(o->d->sheet));
        comment(o, begin, s, at, bl_sheet_address_units(o->d->sheet));
        end_line(o);
        return bl_sheet_address_units(o->d->sheet);
    }
    return data(o, s, at);
}

/* Is the vector whole: nothing inside of it that must be seen? */
static bool vector_is_whole(const disasm *d, const stretch *s, size_t at)
{
    size_t count = bl_sheet_address_units(d->sheet);
    for (size_t i = 0; i < count; i++)
        if (at + i >= s->count || (d->cells[s->cells + at + i] & ~(unsigned)CELL_VECTOR) != 0 ||
            (i > 0 && d->cells[s->cells + at + i] != 0))
            return false;
    return true;
}

static void write_stretch(out *o, const stretch *s)
{
    bool placed = false; /* a vector says its own place; what follows it needs a new .org */
    for (size_t at = 0; at < s->count && o->status == BL_OK;) {
        uint8_t cell = o->d->cells[s->cells + at];
        bool is_vector = (cell & CELL_VECTOR) != 0 && vector_is_whole(o->d, s, at);
        if (!placed && !is_vector) {
            pad_to(o, o->count, 8);
            put(o, ".org ", 5);
            put_value(o, s->first + (int64_t)at, bl_sheet_address_bits(o->d->sheet));
            end_line(o);
            placed = true;
        }
        if ((cell & CELL_LABEL) != 0 && (cell & CELL_REST) == 0) {
            bl_text label = label_of(o, s->first + (uint32_t)at);
            put(o, label.at, label.length);
            put(o, ":", 1);
            end_line(o);
        }
        if (is_vector)
            at += vector(o, s, at), placed = false;
        else
            at += (cell & CELL_START) != 0 ? instruction(o, s, at) : data(o, s, at);
    }
}

/* ---- the head ---- */

/* Names of addresses that no line of the source can carry. */
static void equates(out *o)
{
    const disasm *d = o->d;
    for (size_t i = 0; i < d->name_count && o->status == BL_OK; i++) {
        const bl_disasm_name *n = &d->names[i];
        if (has_label(d, n->address) || n->name.length > 200) continue;
        size_t begin = o->count;
        put(o, n->name.at, n->name.length);
        pad_to(o, begin, 16);
        put(o, "= ", 2);
        put_value(o, n->address, bl_sheet_address_bits(d->sheet));
        end_line(o);
    }
}

static void count_all(const disasm *d, bl_disasm_counts *c)
{
    *c = (bl_disasm_counts){0, 0, 0, 0};
    for (size_t i = 0; i < d->cell_count; i++) {
        uint8_t cell = d->cells[i];
        c->instructions += (cell & CELL_START) != 0;
        if ((cell & (CELL_START | CELL_REST)) != 0)
            c->code++;
        else
            c->data++;
        c->labels += (cell & CELL_LABEL) != 0 && (cell & CELL_REST) == 0;
    }
}

bl_status disasm_write(disasm *d, bl_disasm_counts *counts, const bl_writer *w)
{
    out *o = d->o->memory.resize(d->o->memory.context, NULL, sizeof *o);
    if (o == NULL) return BL_E_MEMORY;
    bl_disasm_counts c;
    bl_text cpu = bl_sheet_name(d->sheet);
    o->w = w;
    o->status = BL_OK;
    o->count = 0;
    o->d = d;
    o->octal = bl_sheet_radix(d->sheet) == BL_OCTAL;
    o->address_digits = (bl_sheet_address_bits(d->sheet) + (o->octal ? 2 : 3)) / (o->octal ? 3 : 4);
    o->unit_digits = (bl_sheet_unit_bits(d->sheet) + (o->octal ? 2 : 3)) / (o->octal ? 3 : 4);
    count_all(d, &c);
    if (counts != NULL) *counts = c;
    const char *what = d->wide == 1 ? "bytes" : "words";
    o->count += bl_format(
        o->text, LINE, "; %.200s%s%lu %s of code in %lu instructions, %lu of data\n",
        d->o->title != NULL ? d->o->title : "", d->o->title != NULL ? ": " : "",
        (unsigned long)c.code, what, (unsigned long)c.instructions, (unsigned long)c.data);
    put_string(o, "        .cpu ");
    put(o, cpu.at, cpu.length);
    end_line(o);
    if (d->o->direct != 0) {
        put_string(o, "        .direct ");
        put_value(o, d->o->direct, 8);
        end_line(o);
    }
    equates(o);
    for (size_t i = 0; i < d->stretch_count; i++)
        write_stretch(o, &d->stretches[i]);
    uint32_t entry;
    if (bl_image_entry(d->o->image, &entry)) {
        put_string(o, "        .entry ");
        put_value(o, entry / d->wide, bl_sheet_address_bits(d->sheet));
        end_line(o);
    }
    flush(o);
    bl_status status = o->status;
    bl_release(&d->o->memory, o);
    return status;
}
