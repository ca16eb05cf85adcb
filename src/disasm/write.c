/* write.c - the source: labels, instructions, and data as text, fills and lists. */
#include "base/stream.h"
#include "disassembly.h"

enum {
    INSTRUCTION = 400, /* the longest text of one; what would be longer is written as data */
    COLUMN = 36,       /* where the comment begins */
    IN_ROW = 8,
    MIN_TEXT = 5,
    MAX_TEXT = 48,
    MIN_FILL = 12
};
#define MAX_FILL ((size_t)0x100000L) /* units in one; the assembler takes more */

typedef struct out {
    bl_stream s;
    disasm *d;
    char label[16]; /* of an address without a name */
    bool octal;
    unsigned address_digits, unit_digits;
} out;

static void put_piece(out *o, bl_text text)
{
    bl_stream_put(&o->s, text);
}

static void put_string(out *o, const char *text)
{
    bl_stream_string(&o->s, text);
}

static void put_value(out *o, int64_t value, unsigned bits)
{
    char text[32];
    bl_value_text(text, sizeof text, value, bits, bl_sheet_radix(o->d->sheet));
    put_string(o, text);
}

static void put_count(out *o, uint64_t count)
{
    char text[24];
    bl_format(text, sizeof text, "%llu", (unsigned long long)count);
    put_string(o, text);
}

/* Blanks up to a column; one at least. */
static void pad_to(out *o, size_t column)
{
    bl_stream_pad(&o->s, column, 1);
}

static void end_line(out *o)
{
    bl_stream_end_line(&o->s);
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
    for (unsigned i = count; i > 0; i--)
        put_piece(
            o,
            (bl_text){&"0123456789ABCDEF"[(uint64_t)value >> shift * (i - 1) & ((1u << shift) - 1)],
                      1});
}

/* "; E000  A9 12" behind a line. */
static void comment(out *o, const stretch *s, size_t at, size_t count)
{
    pad_to(o, COLUMN);
    put_string(o, "; ");
    put_digits(o, s->first + (uint32_t)at, o->address_digits);
    if (count > 0) put_string(o, " ");
    for (size_t k = 0; k < count; k++) {
        put_string(o, " ");
        put_digits(o, disasm_unit(o->d, s, at + k), o->unit_digits);
    }
}

static const char *unit_directive(const disasm *d)
{
    unsigned unit = bl_sheet_unit_bits(d->sheet);
    if (unit == 8) return ".byte ";
    return unit == bl_sheet_word_bits(d->sheet) ? ".word " : ".fill 1, ";
}

static void write_units_row(out *o, const stretch *s, size_t at, size_t count)
{
    unsigned unit = bl_sheet_unit_bits(o->d->sheet);
    put_string(o, unit_directive(o->d));
    for (size_t i = 0; i < count; i++) {
        if (i > 0) put_string(o, ", ");
        put_value(o, disasm_unit(o->d, s, at + i), unit);
    }
}

/* The units of an instruction as data: all on a line, or a line each where they are small. */
static void write_units(out *o, const stretch *s, size_t at, size_t count)
{
    size_t in_row = bl_sheet_unit_bits(o->d->sheet) >= 8 ? count : 1;
    for (size_t i = 0; i < count; i += in_row) {
        if (i > 0) end_line(o);
        pad_to(o, 8);
        write_units_row(o, s, at + i, in_row);
    }
}

/* An instruction that would not assemble to these units is written as data. */
static size_t instruction(out *o, const stretch *s, size_t at)
{
    bl_decoded d;
    char text[INSTRUCTION];
    uint32_t address = s->first + (uint32_t)at;
    bl_label_source labels = {o, label_of, near_label};
    if (!disasm_decode(o->d, s, at, &d)) return 1; /* it was there when it was traced */
    size_t length =
        bl_instruction_text(o->d->sheet, &d, address, o->d->o->direct, &labels, text, sizeof text);
    bool usual =
        length < sizeof text && bl_instruction_is_usual(o->d->sheet, &d, address, o->d->o->direct);
    if (usual) {
        pad_to(o, 8);
        put_string(o, text);
    } else {
        write_units(o, s, at, d.form->size);
    }
    comment(o, s, at, d.form->size);
    if (!usual) {
        put_string(o, "  ");
        put_string(o, text);
    }
    end_line(o);
    return d.form->size;
}

/* ---- data ---- */

/* Is the unit there, data, and without a label or vector? */
static bool goes_on(const disasm *d, const stretch *s, size_t at)
{
    return at < s->count && d->cells[s->cells + at] == 0;
}

/* How far data goes on from here, as far as a line can show: it may go on for megabytes. */
static size_t data_length(const disasm *d, const stretch *s, size_t at)
{
    size_t n = 1;
    while (n < MAX_TEXT + IN_ROW && goes_on(d, s, at + n))
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
    while (n < limit && n < MAX_TEXT && is_text(disasm_unit(d, s, at + n)))
        n++;
    return n >= MIN_TEXT ? n : 0;
}

/* The same unit again and again, most of them at most. */
static size_t same_length(const disasm *d, const stretch *s, size_t at, size_t max)
{
    size_t n = 1;
    uint16_t first = disasm_unit(d, s, at);
    while (n < max && goes_on(d, s, at + n) && disasm_unit(d, s, at + n) == first)
        n++;
    return n;
}

/* Texts, words and fills are guessed from the bytes; each assembles to the same ones. */
static size_t data(out *o, const stretch *s, size_t at)
{
    disasm *d = o->d;
    unsigned unit = bl_sheet_unit_bits(d->sheet);
    size_t limit = data_length(d, s, at);
    size_t same = same_length(d, s, at, MAX_FILL), text = text_length(d, s, at, limit), n = 1;
    pad_to(o, 8);
    if (same >= MIN_FILL) {
        put_string(o, ".fill ");
        put_count(o, same);
        put_string(o, ", ");
        put_value(o, disasm_unit(d, s, at), unit);
        comment(o, s, at, 0);
        n = same;
    } else if (text > 0 && unit >= 8) {
        put_string(o, ".text \"");
        for (size_t i = 0; i < text; i++)
            put_piece(o, (bl_text){&(char){(char)disasm_unit(d, s, at + i)}, 1});
        put_string(o, "\"");
        comment(o, s, at, 0);
        n = text;
    } else {
        size_t max = unit >= 8 ? IN_ROW : 1;
        while (n < limit && n < max && text_length(d, s, at + n, limit - n) == 0 &&
               same_length(d, s, at + n, limit - n) < MIN_FILL)
            n++;
        write_units_row(o, s, at, n);
        comment(o, s, at, 0);
    }
    end_line(o);
    return n;
}

/* An address that the CPU takes: by the name of what stands there. */
static size_t write_vector(out *o, const stretch *s, size_t at)
{
    uint32_t target;
    for (size_t i = 0; i < bl_sheet_vectors(o->d->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(o->d->sheet, i);
        if (v->address != s->first + at || !disasm_vector_target(o->d, v, &target)) continue;
        bl_text label = label_of(o, target);
        pad_to(o, 8);
        put_string(o, ".vector ");
        put_piece(o, v->name);
        put_string(o, ", ");
        if (label.length > 0)
            put_piece(o, label);
        else
            put_value(o, target, bl_sheet_address_bits(o->d->sheet));
        comment(o, s, at, bl_sheet_address_units(o->d->sheet));
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

/* A label stands before what is at its place; a vector says its place itself. */
static void write_stretch(out *o, const stretch *s)
{
    bool placed = false; /* a vector says its own place; what follows it needs a new .org */
    for (size_t at = 0; at < s->count && o->s.status == BL_OK;) {
        uint8_t cell = o->d->cells[s->cells + at];
        bool is_vector = (cell & CELL_VECTOR) != 0 && vector_is_whole(o->d, s, at);
        if (!placed && !is_vector) {
            pad_to(o, 8);
            put_string(o, ".org ");
            put_value(o, s->first + (int64_t)at, bl_sheet_address_bits(o->d->sheet));
            end_line(o);
            placed = true;
        }
        if ((cell & CELL_LABEL) != 0 && (cell & CELL_REST) == 0) {
            bl_text label = label_of(o, s->first + (uint32_t)at);
            put_piece(o, label);
            put_string(o, ":");
            end_line(o);
        }
        if (is_vector)
            at += write_vector(o, s, at), placed = false;
        else
            at += (cell & CELL_START) != 0 ? instruction(o, s, at) : data(o, s, at);
    }
}

/* ---- the head ---- */

/* Names of addresses that no line of the source can carry. */
static void equates(out *o)
{
    const disasm *d = o->d;
    for (size_t i = 0; i < d->name_count && o->s.status == BL_OK; i++) {
        const bl_disasm_name *n = &d->names[i];
        if (has_label(d, n->address) || n->name.length > 200) continue;
        put_piece(o, n->name);
        pad_to(o, 16);
        put_string(o, "= ");
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

/* What it is, on the first line. A title is a file's name, and may hold anything. */
static void write_head(out *o, const bl_disasm_counts *c, const char *what)
{
    put_string(o, "; ");
    for (const char *p = o->d->o->title; p != NULL && *p != '\0'; p++)
        put_piece(o, (bl_text){(unsigned char)*p >= ' ' ? p : "?", 1});
    if (o->d->o->title != NULL) put_string(o, ": ");
    put_count(o, c->code);
    put_string(o, " ");
    put_string(o, what);
    put_string(o, " of code in ");
    put_count(o, c->instructions);
    put_string(o, " instructions, ");
    put_count(o, c->data);
    put_string(o, " of data\n");
    o->s.column = 0;
}

/* What is written must assemble without the original: names, vectors, and the order of places. */
bl_status disasm_write(disasm *d, bl_disasm_counts *counts, const bl_writer *w)
{
    out *o = d->o->memory.resize(d->o->memory.context, NULL, sizeof *o);
    if (o == NULL) return BL_E_MEMORY;
    bl_disasm_counts c;
    bl_text cpu = bl_sheet_name(d->sheet);
    bl_stream_begin(&o->s, w);
    o->d = d;
    o->octal = bl_sheet_radix(d->sheet) == BL_OCTAL;
    o->address_digits = (bl_sheet_address_bits(d->sheet) + (o->octal ? 2 : 3)) / (o->octal ? 3 : 4);
    o->unit_digits = (bl_sheet_unit_bits(d->sheet) + (o->octal ? 2 : 3)) / (o->octal ? 3 : 4);
    count_all(d, &c);
    if (counts != NULL) *counts = c;
    const char *what = d->wide == 1 ? "bytes" : "words";
    write_head(o, &c, what);
    put_string(o, "        .cpu ");
    put_piece(o, cpu);
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
    bl_status status = bl_stream_flush(&o->s);
    bl_release(&d->o->memory, o);
    return status;
}
