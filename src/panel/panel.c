/* panel.c - the lines of a switch sheet. */
#include "bootlace/panel.h"

#include "base/core.h"

enum { LINES_TO_A_SUM = 16, MAX_BITS = 32 };
_Static_assert(MAX_BITS >= 8 && MAX_BITS <= 32, "a unit is shown in 32 bits");

typedef struct sheet_writer {
    const bl_panel *panel;
    const bl_writer *writer; /* NULL: only counting */
    bl_panel_count *count;
    bl_status status;
    unsigned unit_bits, address_bits;
    uint32_t next;      /* the address that follows by itself */
    unsigned since_sum; /* lines */
    uint32_t sum;       /* of them */
} sheet_writer;

/* The printf here knows no octal. */
static void octal(uint32_t value, unsigned bits, char *text)
{
    unsigned digits = (bits + 2) / 3;
    text[digits] = '\0';
    for (; digits > 0; value >>= 3)
        text[--digits] = (char)('0' + (value & 7));
}

/* ".... ..**": the highest group may be shorter. */
static void switches(uint32_t value, unsigned bits, unsigned group, char *text)
{
    size_t n = 0;
    for (unsigned left = bits; left > 0; left--) {
        if (left != bits && left % group == 0) text[n++] = ' ';
        text[n++] = (value >> (left - 1) & 1) != 0 ? '*' : '.';
    }
    text[n] = '\0';
}

static void tell_sum(sheet_writer *w, const char *what, uint32_t lines, uint32_t sum)
{
    char text[16];
    if (w->writer == NULL || w->status != BL_OK) return;
    w->status = bl_print(w->writer, "    %s %lu: %s\n", what, (unsigned long)lines,
                         bl_address_text(text, sum & 0xFFFF, 16, w->panel->radix));
}

static void end_block(sheet_writer *w)
{
    if (w->since_sum > 0) tell_sum(w, "sum of", w->since_sum, w->sum);
    w->since_sum = 0;
    w->sum = 0;
}

static void begin_address(sheet_writer *w, uint32_t address)
{
    char text[16], positions[MAX_BITS * 2];
    end_block(w);
    w->count->settings++;
    if (w->writer == NULL || w->status != BL_OK) return;
    switches(address, w->address_bits, w->panel->group, positions);
    w->status =
        bl_print(w->writer, "set the address %s   %s\n",
                 bl_address_text(text, address, w->address_bits, w->panel->radix), positions);
}

/* A new address is set only where the next key cannot reach it. */
static void write_switch_line(void *context, uint32_t address, uint32_t value)
{
    sheet_writer *w = context;
    char text[16], digits[16], positions[MAX_BITS * 2];
    if (w->count->listed == 0 || address != w->next) begin_address(w, address);
    w->next = address + 1;
    w->count->listed++;
    w->count->sum = (w->count->sum + value) & 0xFFFF;
    w->sum += value;
    if (w->writer != NULL && w->status == BL_OK) {
        switches(value, w->unit_bits, w->panel->group, positions);
        octal(value, w->unit_bits, digits);
        w->status = bl_print(w->writer, "  %s  %0*lX  %s  %s\n",
                             bl_address_text(text, address, w->address_bits, w->panel->radix),
                             (int)(w->unit_bits + 3) / 4, (unsigned long)value, digits, positions);
    }
    if (++w->since_sum < LINES_TO_A_SUM) return;
    end_block(w);
    if (w->writer != NULL && w->status == BL_OK) w->status = bl_print(w->writer, "\n");
}

static bl_status walk_panel(const bl_panel *panel, const bl_writer *writer, bl_panel_count *count)
{
    const bl_sheet *s = panel->sheet;
    *count = (bl_panel_count){0, 0, 0, 0};
    if (panel->group != 3 && panel->group != 4) return BL_E_ARGUMENT;
    sheet_writer w = {.panel = panel, .writer = writer, .count = count, .status = BL_OK};
    w.unit_bits = s != NULL ? bl_sheet_unit_bits(s) : 8;
    w.address_bits = s != NULL ? bl_sheet_address_bits(s) : 16;
    count->units = bl_panel_each(panel, write_switch_line, &w);
    end_block(&w);
    if (count->listed > 0) tell_sum(&w, "total of", count->listed, count->sum);
    return w.status;
}

bl_status bl_panel_look(const bl_panel *panel, bl_panel_count *count)
{
    return walk_panel(panel, NULL, count);
}

bl_status bl_panel_write(const bl_panel *panel, const bl_writer *writer, bl_panel_count *count)
{
    return walk_panel(panel, writer, count);
}
