/* figure_front.c - parts of a front side by side, each as it looks. */
#include "figure_front.h"

#include <math.h>
#include <string.h>

#include "simulation/front.h"

static const double margin = 30, gap = 26, top = 76, most_width = 900, label = 20;
static const uint32_t ink = 0x24303A, pale = 0x9AA5AF, panel = 0xF3F5F6, edge = 0xC7CED4;
static const uint32_t lit = 0xE0442E, unlit = 0x6B4A46, glass = 0x9DB83F, dark = 0x2B3314;

/* A dot of the display and its distance; a character has 5 by 8 of them. */
static const double dot = 2.6, dot_gap = 0.5, between = 3;

static double character_width(void)
{
    return 5 * (dot + dot_gap) + between;
}

static double character_height(void)
{
    return 8 * (dot + dot_gap) + between;
}

static void size_of(const front_part *p, double *width, double *height)
{
    sim_display_look look;
    static const struct {
        double width, height;
    } sizes[] = {
        [FRONT_LAMPS] = {8 * 20, 24}, [FRONT_LAMP] = {24, 24},   [FRONT_DIGIT] = {44, 66},
        [FRONT_BUTTON] = {46, 46},    [FRONT_SWITCH] = {34, 50}, [FRONT_KEYPAD] = {144, 144},
        [FRONT_BUZZER] = {66, 46}};
    if (p->form == FRONT_DISPLAY) {
        sim_display_see(p->device, &look);
        *width = look.columns * character_width() + 24;
        *height = look.rows * character_height() + 22;
        return;
    }
    *width = sizes[p->form].width;
    *height = sizes[p->form].height;
}

static void disc(figure *f, double x, double y, double radius, uint32_t colour)
{
    figure_colour(f, colour);
    cairo_arc(f->cr, x, y, radius, 0, 2 * M_PI);
    cairo_fill(f->cr);
}

static void draw_lamps(figure *f, double x, double y, uint16_t on, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        disc(f, x + 10 + i * 20, y + 12, 8, (on >> (count - 1 - i) & 1) != 0 ? lit : unlit);
}

/* A segment as a bar with pointed ends, from one point to another. */
static void segment(figure *f, double x0, double y0, double x1, double y1, bool on)
{
    figure_colour(f, on ? lit : 0x3A2422);
    cairo_set_line_width(f->cr, 5);
    cairo_set_line_cap(f->cr, CAIRO_LINE_CAP_ROUND);
    cairo_move_to(f->cr, x0, y0);
    cairo_line_to(f->cr, x1, y1);
    cairo_stroke(f->cr);
}

static void draw_digit(figure *f, double x, double y, uint16_t on)
{
    static const struct {
        double x0, y0, x1, y1;
    } bars[7] = {{13, 9, 29, 9}, {33, 13, 33, 29}, {33, 37, 33, 53}, {13, 57, 29, 57},
                 {9, 37, 9, 53}, {9, 13, 9, 29},   {13, 33, 29, 33}};
    figure_box(f, x, y, 44, 66, 0x241817);
    for (unsigned i = 0; i < 7; i++)
        segment(f, x + bars[i].x0, y + bars[i].y0, x + bars[i].x1, y + bars[i].y1,
                (on >> i & 1) != 0);
    disc(f, x + 39, y + 58, 2.6, (on & 0x80) != 0 ? lit : 0x3A2422);
}

/* One of the user's own characters, dot by dot. */
static void draw_own(figure *f, double x, double y, const uint8_t *rows)
{
    for (unsigned row = 0; row < 8; row++)
        for (unsigned column = 0; column < 5; column++)
            if ((rows[row] >> (4 - column) & 1) != 0)
                figure_box(f, x + column * (dot + dot_gap), y + row * (dot + dot_gap), dot, dot,
                           dark);
}

static void draw_character(figure *f, double x, double y, const char *text)
{
    figure_font(f, 21, true, true);
    figure_colour(f, dark);
    figure_text(f, x + 2.5 * (dot + dot_gap), y + 7 * (dot + dot_gap), FIGURE_CENTRE, text);
}

static void draw_display(figure *f, double x, double y, const front_part *p)
{
    sim_display_look look;
    char text[FRONT_TEXT], *at = text;
    double width, height;
    size_of(p, &width, &height);
    sim_display_see(p->device, &look);
    front_shows(p, text);
    figure_box(f, x, y, width, height, 0x1F2A1A);
    figure_box(f, x + 5, y + 5, width - 10, height - 10, glass);
    for (unsigned row = 0; row < look.rows; row++, at++)
        for (unsigned column = 0; column < look.columns; column++) {
            double left = x + 12 + column * character_width(),
                   upper = y + 12 + row * character_height();
            char *next = g_utf8_next_char(at), one[8] = "";
            memcpy(one, at, MIN((size_t)(next - at), sizeof one - 1));
            if (look.codes[row][column] < 16)
                draw_own(f, left, upper, look.own + (look.codes[row][column] & 7) * 8);
            else
                draw_character(f, left, upper, one);
            if (look.cursor && row == look.cursor_row && column == look.cursor_column)
                figure_box(f, left, upper + 7 * (dot + dot_gap), 5 * (dot + dot_gap), dot, dark);
            at = next;
        }
}

static void draw_button(figure *f, double x, double y, const char *state)
{
    bool down = strcmp(state, "pressed") == 0;
    figure_box(f, x, y, 46, 46, 0xD9DEE2);
    disc(f, x + 23, y + 23, 15, 0x2B3138);
    if (!down) disc(f, x + 22, y + 22, 12, 0x505B66);
}

static void draw_switch(figure *f, double x, double y, const char *state)
{
    bool on = strcmp(state, "on") == 0;
    figure_box(f, x, y, 34, 50, 0x2B3138);
    figure_box(f, x + 6, on ? y + 6 : y + 26, 22, 18, on ? lit : pale);
}

static void draw_keypad(figure *f, double x, double y, const char *down)
{
    for (unsigned key = 0; key < 16; key++) {
        char name[2] = {"0123456789ABCDEF"[key], '\0'};
        bool held = strchr(down, name[0]) != NULL;
        double left = x + key % 4 * 36, upper = y + key / 4 * 36;
        figure_box(f, left, upper, 32, 32, held ? lit : 0x505B66);
        figure_font(f, 14, true, false);
        figure_colour(f, 0xFFFFFF);
        figure_text(f, left + 16, upper + 21, FIGURE_CENTRE, name);
    }
}

static void draw_buzzer(figure *f, double x, double y, const char *tone)
{
    disc(f, x + 33, y + 14, 13, 0x2B3138);
    disc(f, x + 33, y + 14, 3, 0x707A84);
    figure_font(f, 10, false, false);
    figure_colour(f, ink);
    figure_text(f, x + 33, y + 42, FIGURE_CENTRE, tone);
}

static void draw_part(figure *f, double x, double y, const front_part *p)
{
    char text[FRONT_TEXT];
    front_shows(p, text);
    switch (p->form) {
    case FRONT_LAMPS: draw_lamps(f, x, y, front_lit(p), 8); break;
    case FRONT_LAMP: draw_lamps(f, x, y, front_lit(p), 1); break;
    case FRONT_DIGIT: draw_digit(f, x, y, front_lit(p)); break;
    case FRONT_DISPLAY: draw_display(f, x, y, p); break;
    case FRONT_BUTTON: draw_button(f, x, y, text); break;
    case FRONT_SWITCH: draw_switch(f, x, y, text); break;
    case FRONT_KEYPAD: draw_keypad(f, x, y, text); break;
    case FRONT_BUZZER: draw_buzzer(f, x, y, text); break;
    case FRONT_NONE: break;
    }
}

/* Where each part lies: rows as long as they may be, parts standing on one line. f NULL: only what
 * room they take. */
static void place_parts(figure *f, const GArray *parts, double *width, double *height)
{
    double x = margin, y = top, row = 0;
    *width = 420;
    for (guint i = 0; i < parts->len; i++) {
        const front_part *p = &g_array_index(parts, front_part, i);
        double its_width, its_height;
        size_of(p, &its_width, &its_height);
        if (x > margin && x + its_width > most_width - margin) {
            x = margin;
            y += row + label + gap;
            row = 0;
        }
        if (f != NULL) {
            draw_part(f, x, y, p);
            figure_font(f, 10, false, false);
            figure_colour(f, ink);
            figure_text(f, x + its_width / 2, y + its_height + 14, FIGURE_CENTRE, p->name);
        }
        x += its_width + gap;
        row = MAX(row, its_height);
        *width = MAX(*width, x - gap + margin);
    }
    *height = y + row + label + margin;
}

bl_status figure_front(const simulation *s, const char *path, const bl_sink *sink)
{
    figure f;
    char text[80];
    double width, height;
    figure_type type = figure_type_of(path);
    GArray *parts = front_parts(s);
    place_parts(NULL, parts, &width, &height);
    width = 3 * ceil(width / 3), height = 3 * ceil(height / 3); /* whole dots of a PNG */
    if (type == FIGURE_NONE || figure_begin(&f, type, width, height, 96) != BL_OK) {
        bl_report(sink, BL_ERROR, path, 0, "a picture ends in .png, .svg or .pdf",
                  "this cannot be drawn");
        g_array_unref(parts);
        return BL_E_RANGE;
    }
    figure_box(&f, 10, 10, width - 20, height - 20, panel);
    figure_frame(&f, 10, 10, width - 20, height - 20, edge);
    figure_font(&f, 16, true, false);
    figure_colour(&f, ink);
    figure_text(&f, margin, 38, FIGURE_LEFT, s->b->name);
    figure_font(&f, 10, false, false);
    g_snprintf(text, sizeof text, "%s after %.3f s", s->sim.powered ? "on," : "off,",
               (double)s->sim.now / 1e9);
    figure_text(&f, margin, 55, FIGURE_LEFT, text);
    place_parts(&f, parts, &width, &height);
    if (parts->len == 0) {
        figure_colour(&f, pale);
        figure_text(&f, margin, 80, FIGURE_LEFT, "no lamps, displays, buttons or keys");
    }
    g_array_unref(parts);
    return figure_end(&f, path, sink);
}
