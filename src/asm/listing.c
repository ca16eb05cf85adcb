/* listing.c - the listing, docs/listing.md: address, bytes, cycles, line, source; then the symbols.
 */
#include "assembler.h"

enum { ROW = 6 }; /* units on a line, at most */
#define MAX_ROWS                                                                                   \
    1000000ul /* that only go on with bytes; of what is behind them the first row is shown */

typedef struct lister {
    bl_program *a;
    const bl_writer *w;
    bl_radix radix;
    bool expand;
    int place_width; /* of the first column: two places where something runs elsewhere */
    size_t in_row;   /* units on a line: wide ones are fewer */
    unsigned digits; /* of a unit */
    bl_status status;
    unsigned long rows; /* that may still be shown of those that only go on with bytes */
    size_t next;        /* statement */
    const char *cursor[MAX_INCLUDES + 1]; /* next unprinted text, by include depth */
    uint32_t line[MAX_INCLUDES + 1];
    uint32_t source[MAX_INCLUDES + 1];
    unsigned depth;
} lister;

static size_t unit_text(const lister *l, uint16_t unit, char *at, size_t capacity)
{
    unsigned shift = l->radix == BL_HEX ? 4 : 3;
    if (capacity < l->digits + 2) return 0;
    for (unsigned i = 0; i < l->digits; i++)
        at[i] = "0123456789ABCDEF"[(unsigned)unit >> shift * (l->digits - 1 - i) &
                                   ((unsigned)l->radix - 1)];
    at[l->digits] = ' ';
    at[l->digits + 1] = '\0';
    return l->digits + 1;
}

/* What the image has of the units at an address. */
static void units_at(const lister *l, uint32_t address, size_t count, uint16_t *units)
{
    uint8_t bytes[ROW * 2];
    size_t wide = bl_sheet_unit_bytes(l->a->machine.sheet);
    bool big = bl_sheet_order(l->a->machine.sheet) == BL_BIG;
    bl_image_copy(l->a->image, address * (uint32_t)wide, count * wide, 0, bytes);
    for (size_t i = 0; i < count; i++) {
        const uint8_t *b = bytes + i * wide;
        units[i] = wide == 1 ? b[0] : (uint16_t)((unsigned)b[!big] << 8 | b[big]);
    }
}

static int unit_columns(const lister *l)
{
    return (int)(l->in_row * (l->digits + 1));
}

/* Where the source begins in a row. */
static int source_column(const lister *l)
{
    return l->place_width + 2 + unit_columns(l) + 1 + 4 + 2 + 5 + 2;
}

static const char *address_text(const lister *l, uint32_t address, char *buffer)
{
    bl_address_text(buffer, address, bl_sheet_address_bits(l->a->machine.sheet), l->radix);
    return l->radix == BL_HEX ? buffer + 1 : buffer + 2;
}

/* Where a unit is kept, and behind it where it runs, if that is elsewhere. */
static const char *place_text(const lister *l, uint32_t kept, uint32_t runs, char *buffer,
                              size_t capacity)
{
    char text[24];
    size_t n = bl_format(buffer, capacity, "%s", address_text(l, kept, text));
    if (kept != runs) bl_format(buffer + n, capacity - n, ">%s", address_text(l, runs, text));
    return buffer;
}

/* One row. text .at NULL: a row that only continues the bytes. */
static void row(lister *l, const char *address, const uint16_t *units, size_t count,
                const char *cycles, uint32_t line, bl_text text)
{
    char shown[ROW * 7 + 2] = "";
    size_t n = 0;
    int width = unit_columns(l);
    for (size_t i = 0; i < count; i++)
        n += unit_text(l, units[i], shown + n, sizeof shown - n);
    if (l->status != BL_OK) return;
    bool long_line = text.length > 900;
    if (text.at == NULL)
        l->status =
            bl_print(l->w, "%*s  %.*s\n", l->place_width, address, (int)(n > 0 ? n - 1 : 0), shown);
    else
        l->status =
            bl_print(l->w, "%*s  %s%*s %4s  %5lu%c %.*s%s\n", l->place_width, address, shown,
                     (int)((size_t)width - n), "", cycles, (unsigned long)line,
                     l->depth > 0 && l->a->code.sources[l->source[l->depth]].expanded ? '+' : ' ',
                     (int)(long_line ? 900 : text.length), text.at, long_line ? " ..." : "");
}

/* Takes the next line of the source being listed; false at its end. */
static bool take_source_line(lister *l, bl_text *text)
{
    const source *s = &l->a->code.sources[l->source[l->depth]];
    const char *p = l->cursor[l->depth], *end = p;
    if (p >= s->text + s->length) return false;
    while (*end != '\n')
        end++;
    size_t n = (size_t)(end - p);
    while (n > 0 && (p[n - 1] == '\r' || bl_is_blank(p[n - 1])))
        n--;
    *text = (bl_text){p, n};
    l->cursor[l->depth] = end + 1;
    l->line[l->depth]++;
    return true;
}

static void bare_line(lister *l)
{
    bl_text text;
    if (!take_source_line(l, &text)) return;
    row(l, "", NULL, 0, "", asm_line_of(l->a, l->source[l->depth], l->line[l->depth]), text);
}

static void cycles_text(const lister *l, const statement *s, char *buffer, size_t capacity)
{
    asm_turn_to(l->a, s);
    const bl_form *f = &l->a->machine.forms[l->a->machine.spellings[s->form].form];
    if (!bl_sheet_has_cycles(l->a->machine.sheet)) return;
    bl_format(buffer, capacity, "%u%s", f->cycles, f->extras != 0 ? "+" : "");
}

/* The rows of one source line: its statements from l->next on. */
static void statement_line(lister *l, uint32_t line)
{
    bl_program *a = l->a;
    bl_text text = {"", 0};
    char address[40] = "", buffer[40], cycles[8] = "";
    uint16_t units[ROW];
    uint32_t at = 0, runs = 0;
    size_t size = 0;
    take_source_line(l, &text);
    uint32_t current = l->source[l->depth];
    for (; l->next < a->code.statement_count; l->next++) {
        const statement *s = &a->code.statements[l->next];
        if (s->source != current || s->line != line || s->kind == ST_END_SOURCE) break;
        if (s->kind == ST_CONST) {
            bl_format(address, sizeof address, "=%s",
                      address_text(l, (uint32_t)a->names.symbols[s->symbol].value, buffer));
            continue;
        }
        if (s->kind == ST_INCLUDE) break;
        if (s->kind == ST_ENTRY || s->kind == ST_ASSERT) continue;
        at = s->kind == ST_VECTOR ? bl_sheet_vector(a->machine.sheet, s->form)->address : s->stored;
        runs = s->kind == ST_VECTOR ? at : s->address;
        place_text(l, at, runs, address, sizeof address);
        bool solid = s->kind >= ST_INSTRUCTION && s->kind <= ST_FILL;
        if (solid) size = (size_t)s->size;
        if (s->kind == ST_VECTOR) size = bl_sheet_address_units(a->machine.sheet);
        if (s->kind == ST_INSTRUCTION) cycles_text(l, s, cycles, sizeof cycles);
    }
    size_t n = size < l->in_row ? size : l->in_row;
    units_at(l, at, n, units);
    row(l, address, units, n, cycles, asm_line_of(a, current, line), text);
    for (size_t done = n; done < size && l->status == BL_OK; done += n) {
        if (l->rows == 0) {
            l->status = bl_print(l->w, "%*s  ... %lu more\n", l->place_width, "",
                                 (unsigned long)(size - done));
            return;
        }
        l->rows--;
        n = size - done < l->in_row ? size - done : l->in_row;
        at += (uint32_t)l->in_row;
        runs += (uint32_t)l->in_row;
        units_at(l, at, n, units);
        row(l, place_text(l, at, runs, buffer, sizeof buffer), units, n, "", 0, (bl_text){NULL, 0});
    }
}

/* The bytes of an expansion, as rows of their own under the line that asked for it. Its source is
 * not listed. */
static void expansion_rows(lister *l)
{
    bl_program *a = l->a;
    unsigned depth = 0;
    char buffer[40];
    for (; l->next < a->code.statement_count && l->status == BL_OK; l->next++) {
        const statement *s = &a->code.statements[l->next];
        if (s->kind == ST_INCLUDE) depth++;
        if (s->kind == ST_END_SOURCE && --depth == 0) break;
        if (s->kind < ST_INSTRUCTION || s->kind > ST_FILL) continue;
        for (uint32_t done = 0; done < s->size && l->status == BL_OK; done += (uint32_t)l->in_row) {
            if (l->rows == 0) break;
            l->rows--;
            uint16_t units[ROW];
            size_t n = s->size - done < l->in_row ? (size_t)(s->size - done) : l->in_row;
            units_at(l, s->stored + done, n, units);
            row(l, place_text(l, s->stored + done, s->address + done, buffer, sizeof buffer), units,
                n, "", 0, (bl_text){NULL, 0});
        }
    }
    l->next++;
}

static void enter_source(lister *l, uint32_t index)
{
    l->depth++;
    l->source[l->depth] = index;
    l->cursor[l->depth] = l->a->code.sources[index].text;
    l->line[l->depth] = 0;
    if (l->status == BL_OK && l->depth > 1 && !l->a->code.sources[index].expanded)
        l->status =
            bl_print(l->w, "%*s-- %s\n", source_column(l), "", l->a->code.sources[index].name);
}

/* Lines that make no bytes are shown where they stand; statements are in the same order, so one
 * pass does. */
static void lines(lister *l)
{
    bl_program *a = l->a;
    while (l->next < a->code.statement_count && l->status == BL_OK) {
        const statement *s = &a->code.statements[l->next];
        if (s->kind == ST_END_SOURCE) {
            const source *src = &a->code.sources[l->source[l->depth]];
            while (l->cursor[l->depth] < src->text + src->length && l->status == BL_OK)
                bare_line(l);
            if (l->depth > 1 && l->status == BL_OK && !src->expanded)
                l->status = bl_print(l->w, "%*s-- end of %s\n", source_column(l), "", src->name);
            l->depth--;
            l->next++;
        } else if (s->line > l->line[l->depth] + 1) {
            bare_line(l);
        } else if (s->kind == ST_INCLUDE && s->line == l->line[l->depth] &&
                   a->code.sources[s->inner].expanded && !l->expand) {
            expansion_rows(l);
        } else if (s->kind == ST_INCLUDE && s->line == l->line[l->depth]) {
            l->next++;
            enter_source(l, s->inner);
        } else {
            statement_line(l, s->line);
        }
    }
}

static bool before(const bl_program *a, uint32_t x, uint32_t y)
{
    char m[192], n[192];
    size_t length = asm_full_name(a, x, m, sizeof m);
    asm_full_name(a, y, n, sizeof n);
    (void)length;
    for (size_t i = 0;; i++) {
        if (m[i] != n[i]) return (unsigned char)m[i] < (unsigned char)n[i];
        if (m[i] == '\0') return false;
    }
}

static bool lower(const bl_program *a, uint32_t x, uint32_t y)
{
    if (a->names.symbols[x].value != a->names.symbols[y].value)
        return a->names.symbols[x].value < a->names.symbols[y].value;
    return before(a, x, y);
}

typedef bool (*comparison)(const bl_program *a, uint32_t x, uint32_t y);

static void sift_symbols(const bl_program *a, uint32_t *order, size_t root, size_t count,
                         comparison less)
{
    for (size_t child; (child = root * 2 + 1) < count; root = child) {
        if (child + 1 < count && less(a, order[child], order[child + 1])) child++;
        if (!less(a, order[root], order[child])) return;
        uint32_t turn = order[root];
        order[root] = order[child];
        order[child] = turn;
    }
}

/* Heap sort: the core has no library to ask. */
static void sort(const bl_program *a, uint32_t *order, size_t count, comparison less)
{
    for (size_t i = count / 2; i > 0; i--)
        sift_symbols(a, order, i - 1, count, less);
    for (size_t i = count; i > 1; i--) {
        uint32_t turn = order[0];
        order[0] = order[i - 1];
        order[i - 1] = turn;
        sift_symbols(a, order, 0, i - 1, less);
    }
}

static void symbol_rows(lister *l, const uint32_t *order, size_t count)
{
    const bl_program *a = l->a;
    for (size_t i = 0; i < count && l->status == BL_OK; i++) {
        const symbol *s = &a->names.symbols[order[i]];
        char name[192], value[24];
        size_t length = asm_full_name(a, order[i], name, sizeof name);
        l->status = bl_print(
            l->w, "%*s  %s %s%*s %s:%lu\n", l->place_width,
            address_text(l, (uint32_t)s->value, value), s->kind == SYMBOL_LABEL ? " " : "=", name,
            (int)(length < 30 ? 30 - length : 0), "", a->code.sources[s->source].name,
            (unsigned long)asm_line_of(a, s->source, s->line));
    }
}

/* By name, and the labels once more by address. */
static void symbols(lister *l)
{
    bl_program *a = l->a;
    size_t count = 0, total = bl_program_symbols(a);
    if (total == 0 || l->status != BL_OK) return;
    uint32_t *order = a->memory.resize(a->memory.context, NULL, total * sizeof *order);
    if (order == NULL) {
        l->status = BL_E_MEMORY;
        return;
    }
    for (uint32_t i = 1; i < a->names.symbol_count; i++)
        if (asm_is_listed(a, i)) order[count++] = i;
    sort(a, order, count, before);
    l->status = bl_print(l->w, "\nSymbols by name (%lu)\n", (unsigned long)count);
    symbol_rows(l, order, count);
    size_t labels = 0;
    for (size_t i = 0; i < count; i++)
        if (a->names.symbols[order[i]].kind == SYMBOL_LABEL) order[labels++] = order[i];
    sort(a, order, labels, lower);
    if (l->status == BL_OK)
        l->status = bl_print(l->w, "\nLabels by address (%lu)\n", (unsigned long)labels);
    symbol_rows(l, order, labels);
    bl_release(&a->memory, order);
}

/* How full each area is that holds anything: a bar of 32, and the bytes. */
static void areas(lister *l)
{
    enum { BAR = 32 };
    const bl_asm_options *o = &l->a->options;
    bool first = true;
    for (size_t i = 0; i < o->area_count && l->status == BL_OK; i++) {
        const bl_area *area = &o->areas[i];
        uint32_t wide = bl_sheet_unit_bytes(l->a->machine.sheet);
        bl_range bytes = {area->range.first * wide, area->range.count * wide};
        uint64_t used = bl_image_count(l->a->image, bytes) / wide, size = bl_area_size(area);
        char bar[BAR + 1];
        if (used == 0) continue;
        size_t filled = (size_t)((used * BAR + size - 1) / size);
        for (size_t k = 0; k < BAR; k++)
            bar[k] = k < filled ? '#' : '.';
        bar[BAR] = '\0';
        if (first) l->status = bl_print(l->w, "\nAreas\n");
        first = false;
        if (l->status == BL_OK)
            l->status = bl_print(l->w, "  %s%*s %s %lu of %lu %s, %lu free\n", area->name,
                                 (int)(bl_length(area->name) < 16 ? 16 - bl_length(area->name) : 0),
                                 "", bar, (unsigned long)used, (unsigned long)size,
                                 wide == 1 ? "bytes" : "words", (unsigned long)(size - used));
    }
}

static int place_width(const lister *l)
{
    const bl_program *a = l->a;
    char text[24];
    int one = (int)bl_length(address_text(l, 0, text));
    bool elsewhere = false;
    for (size_t i = 0; i < a->code.statement_count && !elsewhere; i++)
        elsewhere = a->code.statements[i].kind == ST_RUNAT;
    int width = elsewhere ? 2 * one + 1 : one;
    return width < 6 ? 6 : width;
}

/* The listing is of what was assembled: texts are the sources', not read again. */
bl_status bl_listing_write(bl_program *a, bl_radix radix, bool expand, const bl_writer *writer)
{
    if (radix == 0) radix = a->machine.radix;
    lister l = {.a = a, .w = writer, .radix = radix, .expand = expand, .rows = MAX_ROWS};
    bl_text cpu = bl_sheet_name(a->machine.sheet);
    unsigned unit = bl_sheet_unit_bits(a->machine.sheet),
             wide = bl_sheet_unit_bytes(a->machine.sheet);
    const char *what = wide == 1 ? "bytes" : "words";
    l.digits = radix == BL_HEX ? (unit + 3) / 4 : (unit + 2) / 3;
    l.in_row = wide == 1 ? ROW : ROW - 2;
    l.place_width = place_width(&l);
    l.status = bl_print(writer, "%s, for the %.*s: %lu %s\n\n%*s  %s%*s %4s  %5s  %s\n",
                        a->code.sources[0].name, (int)cpu.length, cpu.at,
                        (unsigned long)bl_image_size(a->image) / wide, what, l.place_width, "where",
                        what, unit_columns(&l) - 5, "", "cyc", "line", "source");
    enter_source(&l, 0);
    lines(&l);
    areas(&l);
    symbols(&l);
    return l.status;
}
