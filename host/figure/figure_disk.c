/* figure_disk.c - cells of a disk, and a legend. */
#include "figure_disk.h"

#include <math.h>
#include <string.h>

static const double margin = 30, cell = 9, gap = 1, legend_width = 290, width = 1128;
static const double top = 92, legend_row = 15;
static const uint32_t ink = 0x24303A, pale = 0x9AA5AF, broken_colour = 0xC9302C;

enum { LEGEND_MOST = 24 };

/* Neighbouring files differ; none is red, which is for what is broken. */
static const uint32_t file_colours[] = {0x3E7CB1, 0x6BAA75, 0xD9A21B, 0x8D6BB0,
                                        0x3BA7A0, 0xB07B4F, 0x7F93C9, 0xA8B545};

static uint32_t colour_of(bl_disk_use use, uint16_t ordinal)
{
    switch (use) {
    case BL_DISK_USE_BOOT: return 0x24303A;
    case BL_DISK_USE_TABLE: return 0x6C7A86;
    case BL_DISK_USE_FOLDER: return 0x4A5A68;
    case BL_DISK_USE_FILE: return file_colours[ordinal % G_N_ELEMENTS(file_colours)];
    case BL_DISK_USE_FREE: return 0xE6EAED;
    case BL_DISK_USE_BAD: return 0x7A1F1B;
    case BL_DISK_USE_LOST: return 0xF08A5D;
    case BL_DISK_USE_CROSS: return broken_colour;
    case BL_DISK_USE_SPARE: return 0xF7F8F9;
    }
    return pale;
}

static void draw_cells(figure *f, const disk_map *m)
{
    char text[24];
    for (guint i = 0; i < m->cells->len; i++) {
        const disk_cell *c = &g_array_index(m->cells, disk_cell, i);
        double x = margin + 44 + (i % FIGURE_DISK_COLUMNS) * (cell + gap);
        double y = top + (double)(i / FIGURE_DISK_COLUMNS) * (cell + gap);
        const disk_owner *o =
            c->owner != DISK_NOBODY ? g_ptr_array_index(m->owners, c->owner) : NULL;
        figure_box(f, x, y, cell, cell, colour_of(c->use, o != NULL ? o->ordinal : 0));
        if (i % (FIGURE_DISK_COLUMNS * 4) != 0) continue;
        figure_font(f, 8, false, false);
        figure_colour(f, ink);
        g_snprintf(text, sizeof text, "%u", i * m->each);
        figure_text(f, margin + 38, y + 8, FIGURE_RIGHT, text);
    }
}

/* How full it is, as a bar. */
static void draw_fullness(figure *f, const disk_map *m)
{
    double x = margin + 44, length = FIGURE_DISK_COLUMNS * (cell + gap) - gap;
    unsigned full = disk_map_fullness(m);
    char text[60];
    figure_box(f, x, 66, length, 8, 0xE6EAED);
    figure_box(f, x, 66, length * full / 1000, 8, 0x3E7CB1);
    figure_font(f, 9, false, false);
    figure_colour(f, ink);
    g_snprintf(text, sizeof text, "%u.%u %% full", full / 10, full % 10);
    figure_text(f, x + length + 14, 74, FIGURE_LEFT, text);
}

static double draw_uses(figure *f, const disk_map *m, double x, double y)
{
    char text[80];
    for (unsigned use = 0; use <= BL_DISK_USE_SPARE; use++) {
        if (m->sectors[use] == 0 || use == BL_DISK_USE_FILE) continue;
        figure_box(f, x, y - 8, 10, 10, colour_of((bl_disk_use)use, 0));
        figure_font(f, 9, use == BL_DISK_USE_LOST || use == BL_DISK_USE_CROSS, false);
        figure_colour(f, ink);
        g_snprintf(text, sizeof text, "%s: %u sector%s", disk_use_word((bl_disk_use)use),
                   m->sectors[use], m->sectors[use] == 1 ? "" : "s");
        figure_text(f, x + 16, y, FIGURE_LEFT, text);
        y += legend_row;
    }
    return y;
}

static void draw_owner(figure *f, const disk_owner *o, double x, double y)
{
    char text[120], pieces[32] = "";
    char *name = g_utf8_strlen(o->path, -1) > 28 ? g_utf8_substring(o->path, 0, 27) : NULL;
    figure_box(f, x, y - 8, 10, 10,
               colour_of(o->folder ? BL_DISK_USE_FOLDER : BL_DISK_USE_FILE, o->ordinal));
    figure_font(f, 9, false, true);
    figure_colour(f, ink);
    figure_text(f, x + 16, y, FIGURE_LEFT, name != NULL ? name : o->path);
    if (o->pieces > 1) g_snprintf(pieces, sizeof pieces, " in %u pieces", o->pieces);
    g_snprintf(text, sizeof text, "%u..%u%s", o->first, o->last, pieces);
    figure_font(f, 8, false, false);
    figure_text(f, x + legend_width - 20, y, FIGURE_RIGHT, text);
    g_free(name);
}

static void draw_disk_legend(figure *f, const disk_map *m)
{
    double x = margin + 44 + FIGURE_DISK_COLUMNS * (cell + gap) + 14, y = top + 9;
    char text[60];
    y = draw_uses(f, m, x, y) + 8;
    for (guint i = 0; i < m->owners->len && i < LEGEND_MOST; i++, y += legend_row)
        draw_owner(f, g_ptr_array_index(m->owners, i), x, y);
    if (m->owners->len <= LEGEND_MOST) return;
    figure_font(f, 9, false, false);
    figure_colour(f, ink);
    g_snprintf(text, sizeof text, "and %u more", m->owners->len - LEGEND_MOST);
    figure_text(f, x + 16, y, FIGURE_LEFT, text);
}

bl_status figure_disk(const disk_map *m, const figure_disk_words *w, const char *path,
                      const bl_sink *sink)
{
    figure f;
    char text[120];
    figure_type type = figure_type_of(path);
    guint rows = (m->cells->len + FIGURE_DISK_COLUMNS - 1) / FIGURE_DISK_COLUMNS;
    guint lines = MIN(m->owners->len, LEGEND_MOST) + 10;
    double used = top + MAX(rows * (cell + gap), lines * legend_row) + 40;
    double height = 3 * ceil(used / 3); /* whole dots of a PNG */
    if (type == FIGURE_NONE || figure_begin(&f, type, width, height, 96) != BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, "a picture ends in .png, .svg or .pdf",
                  "this cannot be drawn");
        return BL_E_RANGE;
    }
    figure_font(&f, 16, true, false);
    figure_colour(&f, ink);
    figure_text(&f, margin, 30, FIGURE_LEFT, w->title);
    double x = margin + figure_text_width(&f, w->title) + 16;
    figure_font(&f, 11, true, false);
    figure_colour(&f, w->whole ? 0x3E8E5A : broken_colour);
    figure_text(&f, x, 30, FIGURE_LEFT, w->state);
    figure_font(&f, 10, false, false);
    figure_colour(&f, ink);
    g_snprintf(text, sizeof text, "%s; a box is %u sector%s", w->shape, m->each,
               m->each == 1 ? "" : "s");
    figure_text(&f, margin, 48, FIGURE_LEFT, text);
    draw_fullness(&f, m);
    draw_cells(&f, m);
    draw_disk_legend(&f, m);
    return figure_end(&f, path, sink);
}
