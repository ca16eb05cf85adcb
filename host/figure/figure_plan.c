/* figure_plan.c - the CPU's addresses on the left, high ones on top; each chip on the right, joined
 * to the addresses at which the board decodes it. */
#include "figure_plan.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "map_words.h"
#include "strip.h"

enum { MARKS = 512 };

static const double width = 720, height = 450, top = 62, bottom = 412, cpu_x = 120, cpu_width = 90,
                    chip_width = 86, chips_x = 320, step = 170, beside_width = 128;
static const uint32_t ink = 0x22303C, pale = 0x8A97A3, paper = 0xEEF1F4, ram_colour = 0xDCE7D3,
                      io_colour = 0xF3DFC1, rom_colour = 0xD7E3F1, full_colour = 0x2F6DA8,
                      partly_colour = 0x8FB4D8, joint_colour = 0xE4ECF5;

static const map_words words = {" even",       " odd",         " %u of %u",
                                " low nibble", " high nibble", " mirrored"};

typedef struct drawing {
    figure f;
    const bench *b;
    const bl_image *image;
    GArray *edges;   /* uint64_t: addresses where something begins or ends, rising */
    double *heights; /* of the base line of each edge */
    unsigned *columns;
} drawing;

/* ---- the CPU's scale: true to size, but nothing smaller than its text ---- */

static gint compare_edges(gconstpointer a, gconstpointer b)
{
    const uint64_t *x = a, *y = b;
    return *x < *y ? -1 : *x > *y;
}

static void add_edges(drawing *d, bl_range range)
{
    uint64_t first = range.first, end = first + range.count;
    g_array_append_val(d->edges, first);
    g_array_append_val(d->edges, end);
}

static uint64_t edge(const drawing *d, guint i)
{
    return g_array_index(d->edges, uint64_t, i);
}

/* Address space is mostly empty: every stretch between two edges gets a least height, and only the
 * rest is shared out by size. */
static void find_scale(drawing *d)
{
    const double min = 13;
    uint64_t whole = strip_span(d->b);
    d->edges = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    add_edges(d, (bl_range){0, whole});
    for (size_t i = 0; i < d->b->area_count; i++)
        add_edges(d, bench_bytes(d->b, d->b->areas[i].range));
    for (size_t i = 0; i < d->b->chip_count; i++)
        for (size_t k = 0; k < d->b->chips[i].map_count; k++)
            add_edges(d, d->b->chips[i].maps[k].cpu);
    g_array_sort(d->edges, compare_edges);
    guint kept = 0;
    for (guint i = 0; i < d->edges->len; i++)
        if (i == 0 || edge(d, i) != edge(d, kept - 1))
            g_array_index(d->edges, uint64_t, kept++) = edge(d, i);
    g_array_set_size(d->edges, kept);
    double spread = bottom - top - min * (kept - 1);
    d->heights = g_new0(double, kept);
    d->heights[0] = bottom;
    for (guint i = 1; i < kept; i++)
        d->heights[i] = d->heights[i - 1] - min -
                        spread * (double)(edge(d, i) - edge(d, i - 1)) / (double)whole;
}

static double height_of(const drawing *d, uint64_t address)
{
    guint i = 1;
    while (i + 1 < d->edges->len && edge(d, i) < address)
        i++;
    double part = (double)(address - edge(d, i - 1)) / (double)(edge(d, i) - edge(d, i - 1));
    return d->heights[i - 1] + (d->heights[i] - d->heights[i - 1]) * part;
}

static void address_at(drawing *d, double x, double y, figure_align align, uint64_t address,
                       const char *note)
{
    char number[40], *text;
    address /= bl_sheet_unit_bytes(d->b->sheet);
    bl_address_text(number, (uint32_t)address, bl_sheet_address_bits(d->b->sheet), d->b->radix);
    text = g_strconcat(number, note, NULL);
    figure_font(&d->f, 8, false, true);
    figure_colour(&d->f, ink);
    figure_text(&d->f, x, y, align, text);
    g_free(text);
}

/* ---- the parts of the picture ---- */

/* All the address space there is, by kind of area. */
static void draw_areas(drawing *d)
{
    static const uint32_t colours[] = {
        [BL_AREA_RAM] = ram_colour,
        [BL_AREA_ROM] = rom_colour,
        [BL_AREA_IO] = io_colour,
    };
    _Static_assert(G_N_ELEMENTS(colours) == BL_AREA_IO + 1, "one for each");
    figure_box(&d->f, cpu_x, top, cpu_width, bottom - top, paper);
    /* What lies in a hole of an area is drawn over it. */
    for (size_t n = 0; n < d->b->area_count * 2; n++) {
        const bl_area *a = &d->b->areas[n % d->b->area_count];
        if ((a->hole_count > 0) != (n < d->b->area_count)) continue;
        bl_range bytes = bench_bytes(d->b, a->range);
        uint64_t end = (uint64_t)bytes.first + bytes.count;
        double y0 = height_of(d, end), y1 = height_of(d, bytes.first);
        figure_box(&d->f, cpu_x, y0, cpu_width, y1 - y0,
                   colours[a->kind == BL_AREA_RAM   ? 0
                           : a->kind == BL_AREA_ROM ? 1
                                                    : 2]);
        for (size_t k = 0; k < bl_image_pieces(d->image); k++) {
            bl_piece p = bl_image_piece(d->image, k);
            uint64_t first = MAX(p.first, bytes.first),
                     stop = MIN((uint64_t)p.first + p.count, end);
            if (first >= stop) continue;
            double high = height_of(d, stop), low = height_of(d, first);
            figure_box(&d->f, cpu_x, high, 10, fmax(low - high, 1), full_colour);
        }
        figure_frame(&d->f, cpu_x, y0, cpu_width, y1 - y0, ink);
        figure_font(&d->f, 9, false, false);
        figure_colour(&d->f, ink);
        figure_text(&d->f, cpu_x + cpu_width / 2 + 5, (y0 + y1) / 2 + 3, FIGURE_CENTRE, a->name);
        address_at(d, cpu_x - 6, y1 - 1.5, FIGURE_RIGHT, bytes.first, "");
        if (y1 - y0 > 16) address_at(d, cpu_x - 6, y0 + 8, FIGURE_RIGHT, end - 1, "");
    }
    figure_frame(&d->f, cpu_x, top, cpu_width, bottom - top, ink);
    figure_font(&d->f, 9, true, false);
    figure_colour(&d->f, ink);
    figure_text(&d->f, cpu_x + cpu_width / 2, top - 8, FIGURE_CENTRE, "as the CPU sees it");
}

/* From the CPU's addresses to the chip's: a band. */
static void draw_joint(drawing *d, const bl_chip *chip, const bl_chip_map *m, double x)
{
    double scale = (bottom - top) / chip->part->size;
    double a = height_of(d, m->cpu.first), b = height_of(d, (uint64_t)m->cpu.first + m->cpu.count);
    double c = bottom - m->offset * scale,
           e = bottom - (m->offset + (double)bl_chip_map_size(chip, m)) * scale;
    figure_colour(&d->f, joint_colour);
    cairo_move_to(d->f.cr, cpu_x + cpu_width, a);
    cairo_line_to(d->f.cr, x, c);
    cairo_line_to(d->f.cr, x, e);
    cairo_line_to(d->f.cr, cpu_x + cpu_width, b);
    cairo_close_path(d->f.cr);
    cairo_fill(d->f.cr);
    figure_line(&d->f, cpu_x + cpu_width, a, x, c, pale);
    figure_line(&d->f, cpu_x + cpu_width, b, x, e, pale);
}

/* One of few chips, with its offsets and what they hold. */
static void draw_chip(drawing *d, const bl_chip *chip, double x)
{
    strip_mark marks[MARKS];
    double mark = (bottom - top) / MARKS;
    strip_of_chip(chip, d->image, MARKS, marks);
    figure_box(&d->f, x, top, chip_width, bottom - top, paper);
    cairo_set_antialias(d->f.cr, CAIRO_ANTIALIAS_NONE); /* no seams between marks */
    for (unsigned i = 0; i < MARKS; i++) {
        uint32_t colour = marks[i] == STRIP_FULL     ? full_colour
                          : marks[i] == STRIP_PARTLY ? partly_colour
                                                     : rom_colour;
        if (marks[i] != STRIP_NOTHING)
            figure_box(&d->f, x, bottom - (i + 1) * mark, chip_width, mark + 0.2, colour);
    }
    cairo_set_antialias(d->f.cr, CAIRO_ANTIALIAS_DEFAULT);
    for (size_t k = 0; k < chip->map_count; k++) {
        const bl_chip_map *m = &chip->maps[k];
        double scale = (bottom - top) / chip->part->size;
        double low = bottom - m->offset * scale,
               high = low - (double)bl_chip_map_size(chip, m) * scale;
        char *note = map_words_text(m, &words);
        figure_frame(&d->f, x, high, chip_width, low - high, ink);
        address_at(d, x + chip_width + 5, fmin(low - 1.5, bottom - 1), FIGURE_LEFT, m->offset,
                   note);
        address_at(d, x + chip_width + 5, high + 8, FIGURE_LEFT,
                   m->offset + bl_chip_map_size(chip, m) - 1, "");
        g_free(note);
    }
    figure_frame(&d->f, x, top, chip_width, bottom - top, ink);
    char title[80];
    g_snprintf(title, sizeof title, "%s  %s", chip->name, chip->part->name);
    figure_font(&d->f, 9, true, false);
    figure_colour(&d->f, ink);
    figure_text(&d->f, x + chip_width / 2, top - 8, FIGURE_CENTRE, title);
}

/* ---- many chips: each beside its addresses, in the first column that is free there ---- */

static unsigned *column_at(const drawing *d, size_t chip, size_t map)
{
    return &d->columns[chip * BL_CHIP_MAPS + map];
}

/* Fills in the columns of all maps. Returns how many columns there are. */
static unsigned find_columns(drawing *d)
{
    unsigned max = 0;
    d->columns = g_new0(unsigned, d->b->chip_count *BL_CHIP_MAPS);
    for (size_t chip = 0; chip < d->b->chip_count; chip++)
        for (size_t map = 0; map < d->b->chips[chip].map_count; map++) {
            uint64_t taken = 0;
            for (size_t i = 0; i <= chip; i++)
                for (size_t k = 0; k < (i < chip ? d->b->chips[i].map_count : map); k++)
                    if (bl_range_meet(d->b->chips[i].maps[k].cpu, d->b->chips[chip].maps[map].cpu))
                        taken |= 1ull << (*column_at(d, i, k) & 63);
            unsigned column = 0;
            while (column < 63 && (taken >> column & 1) != 0)
                column++;
            *column_at(d, chip, map) = column;
            max = MAX(max, column + 1);
        }
    return max;
}

static void draw_marks(drawing *d, const bl_chip *chip, const bl_chip_map *m, double x, double y0,
                       double y1)
{
    strip_mark marks[MARKS];
    uint64_t whole = strip_span(d->b);
    strip_of_chip_at_cpu(d->b, chip, d->image, MARKS, marks);
    cairo_set_antialias(d->f.cr, CAIRO_ANTIALIAS_NONE);
    for (unsigned i = 0; i < MARKS; i++) {
        uint64_t first = whole * i / MARKS, end = whole * (i + 1) / MARKS;
        if (marks[i] < STRIP_PARTLY || first < m->cpu.first ||
            end > (uint64_t)m->cpu.first + m->cpu.count)
            continue;
        double low = height_of(d, first), high = height_of(d, end);
        figure_box(&d->f, x, fmax(high, y0), 8, fmin(low, y1) - fmax(high, y0) + 0.3,
                   marks[i] == STRIP_FULL ? full_colour : partly_colour);
    }
    cairo_set_antialias(d->f.cr, CAIRO_ANTIALIAS_DEFAULT);
}

/* Two lines of text where the map is tall enough, else one. */
static void draw_beside(drawing *d, const bl_chip *chip, const bl_chip_map *m, double x)
{
    char text[120], *note, from[16], to[16];
    unsigned bits = 16;
    while (chip->part->size >> bits > 1)
        bits++;
    double y0 = height_of(d, (uint64_t)m->cpu.first + m->cpu.count),
           y1 = height_of(d, m->cpu.first), middle = (y0 + y1) / 2;
    figure_box(&d->f, x, y0, beside_width, y1 - y0, rom_colour);
    draw_marks(d, chip, m, x, y0, y1);
    figure_frame(&d->f, x, y0, beside_width, y1 - y0, ink);
    note = map_words_text(m, &words);
    bl_address_text(from, m->offset, bits, d->b->radix);
    bl_address_text(to, (uint32_t)(m->offset + bl_chip_map_size(chip, m) - 1), bits, d->b->radix);
    bool tall = y1 - y0 > 24;
    figure_colour(&d->f, ink);
    figure_font(&d->f, 9, true, false);
    g_snprintf(text, sizeof text, "%s  %s%s", chip->name, chip->part->name, tall ? "" : note);
    figure_text(&d->f, x + 13, tall ? middle - 2 : middle + 3, FIGURE_LEFT, text);
    if (tall) {
        figure_font(&d->f, 8, false, false);
        g_snprintf(text, sizeof text, "%s..%s%s", from, to, note);
        figure_text(&d->f, x + 13, middle + 9, FIGURE_LEFT, text);
    }
    g_free(note);
}

/* ---- the whole ---- */

static void draw_few(drawing *d)
{
    for (size_t i = d->b->chip_count; i-- > 0;)
        for (size_t k = 0; k < d->b->chips[i].map_count; k++)
            draw_joint(d, &d->b->chips[i], &d->b->chips[i].maps[k], chips_x + step * (double)i);
    draw_areas(d);
    for (size_t i = 0; i < d->b->chip_count; i++)
        draw_chip(d, &d->b->chips[i], chips_x + step * (double)i);
}

static void draw_many(drawing *d)
{
    draw_areas(d);
    for (size_t i = 0; i < d->b->chip_count; i++)
        for (size_t k = 0; k < d->b->chips[i].map_count; k++) {
            double x = cpu_x + cpu_width + 24 + (beside_width + 12) * *column_at(d, i, k);
            draw_beside(d, &d->b->chips[i], &d->b->chips[i].maps[k], x);
        }
    figure_font(&d->f, 9, true, false);
    figure_colour(&d->f, ink);
    figure_text(&d->f, cpu_x + cpu_width + 24, top - 8, FIGURE_LEFT,
                "chips, and the offsets in them");
}

static void draw_key(drawing *d)
{
    static const struct {
        uint32_t colour;
        const char *text;
    } keys[] = {{full_colour, "from the image"}, {partly_colour, "partly"},
                {rom_colour, "ROM, fill"},       {ram_colour, "RAM"},
                {io_colour, "devices"},          {paper, "nothing, or never seen"}};
    double x = cpu_x;
    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        figure_box(&d->f, x, bottom + 14, 10, 10, keys[i].colour);
        figure_frame(&d->f, x, bottom + 14, 10, 10, ink);
        figure_font(&d->f, 8.5, false, false);
        figure_colour(&d->f, ink);
        figure_text(&d->f, x + 14, bottom + 22, FIGURE_LEFT, keys[i].text);
        x += 30 + figure_text_width(&d->f, keys[i].text);
    }
}

/* Up to two chips have room for details; more get a column each, which makes the picture wider. */
bl_status figure_plan(const bench *b, const bl_image *image, const char *path, const bl_sink *sink)
{
    drawing d = {.b = b, .image = image};
    bool few = b->chip_count <= 2;
    unsigned columns = few ? 0 : find_columns(&d);
    double wide = fmax(width, cpu_x + cpu_width + 40 + (beside_width + 12) * columns);
    bl_status status = figure_begin(&d.f, figure_type_of(path), wide, height, 128);
    if (status != BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "%zu chips do not fit into a picture",
                  b->chip_count);
        g_free(d.columns);
        return status;
    }
    char *title = g_strdup_printf("%s: memory and chips", b->name);
    find_scale(&d);
    figure_font(&d.f, 14, true, false);
    figure_colour(&d.f, ink);
    figure_text(&d.f, 24, 28, FIGURE_LEFT, title);
    if (few)
        draw_few(&d);
    else
        draw_many(&d);
    draw_key(&d);
    g_free(title);
    g_free(d.heights);
    g_free(d.columns);
    g_array_free(d.edges, TRUE);
    return figure_end(&d.f, path, sink);
}
