/* figure_tape.c - strips of quality, and waves with their bits. */
#include "figure_tape.h"

#include <glib.h>
#include <math.h>
#include <string.h>

static const double width = 960, margin = 30, title = 30;
static const double strip_height = 92, wave_height = 150, wave_seconds = 0.11;
static const uint32_t ink = 0x24303A, pale = 0x9AA5AF, sure_colour = 0x3E8E5A,
                      doubt_colour = 0xC9302C, some_colour = 0xD9A21B, wave_colour = 0x2C5F8A,
                      speed_colour = 0x7A4FA3;

enum { COLUMNS = 900 };

/* What a column of a strip stands for. */
typedef struct column {
    unsigned level, speed, stretches;
    unsigned bytes, doubtful, certainty;
} column;

static void fill_columns(const take *t, column columns[COLUMNS])
{
    memset(columns, 0, COLUMNS * sizeof *columns);
    for (guint i = 0; i < t->stretches->len; i++) {
        const bl_tape_stretch *s = &g_array_index(t->stretches, bl_tape_stretch, i);
        column *c = &columns[MIN(s->at * COLUMNS / (t->length + 1), COLUMNS - 1)];
        c->level = MAX(c->level, s->level);
        c->speed += s->purity >= TAKE_SIGNAL ? s->speed : 0;
        c->stretches += s->purity >= TAKE_SIGNAL ? 1 : 0;
    }
    for (guint i = 0; i < t->bytes->len; i++) {
        const bl_tape_byte *b = &g_array_index(t->bytes, bl_tape_byte, i);
        column *c = &columns[MIN(b->at * COLUMNS / (t->length + 1), COLUMNS - 1)];
        c->certainty += b->certainty, c->bytes++;
        c->doubtful += take_byte_doubtful(b) ? 1 : 0;
    }
}

static uint32_t quality_colour(const column *c)
{
    if (c->bytes == 0) return 0xD5DBE0; /* a tone, or nothing */
    if (c->doubtful > 0) return doubt_colour;
    return c->certainty / c->bytes < 50 ? some_colour : sure_colour;
}

static double x_of(const take *t, uint64_t at)
{
    return margin + (width - 2 * margin) * (double)at / (double)(t->length + 1);
}

static void draw_seconds(figure *f, const take *t, double y)
{
    static const unsigned steps[] = {1, 2, 5, 10, 20, 60, 120, 300, 600, 1800};
    unsigned step = 3600;
    char text[24];
    for (unsigned i = G_N_ELEMENTS(steps); i-- > 0;)
        if (t->length / 1000000 / steps[i] <= 12) step = steps[i];
    figure_font(f, 8, false, false);
    for (uint64_t at = 0; at <= t->length; at += (uint64_t)step * 1000000) {
        unsigned seconds = (unsigned)(at / 1000000);
        figure_line(f, x_of(t, at), y - 12, x_of(t, at), y - 8, pale);
        figure_colour(f, ink);
        g_snprintf(text, sizeof text, "%u:%02u", seconds / 60, seconds % 60);
        figure_text(f, x_of(t, at), y, FIGURE_CENTRE, text);
    }
}

/* Level as the height of bars, certainty as their colour; above them the speed, five percent of it
 * to each side of the middle. */
static void draw_strip(figure *f, const take *t, double y)
{
    column *columns = g_new(column, COLUMNS);
    double step = (width - 2 * margin) / COLUMNS, bars = 46, base = y + strip_height - 16;
    fill_columns(t, columns);
    for (unsigned i = 0; i < COLUMNS; i++) {
        double x = margin + i * step, height = bars * sqrt(MIN(columns[i].level, 1000) / 1000.0);
        if (height > 0)
            figure_box(f, x, base - height, step + 0.3, height, quality_colour(&columns[i]));
        if (columns[i].stretches == 0) continue;
        double off = columns[i].speed / (double)columns[i].stretches / 1000 - 1;
        figure_box(f, x, y + 14 - 10 * CLAMP(off / 0.05, -1, 1), step + 0.3, 1.2, speed_colour);
    }
    figure_line(f, margin, base, width - margin, base, pale);
    figure_line(f, margin, y + 14.5, width - margin, y + 14.5, 0xE3E7EA);
    figure_font(f, 7, false, false);
    figure_colour(f, speed_colour);
    figure_text(f, width - margin + 2, y + 6, FIGURE_LEFT, "+5 %");
    figure_text(f, width - margin + 2, y + 28, FIGURE_LEFT, "-5 %");
    g_free(columns);
}

/* Blocks of programs that were heard in this take: a bracket each, its number under it. */
static void draw_blocks(figure *f, const figure_takes *all, guint index, double y)
{
    char text[16];
    for (guint i = 0; all->programs != NULL && i < all->programs->len; i++) {
        const tape_program *p = g_ptr_array_index(all->programs, i);
        for (guint k = 0; k < p->parts->len; k++) {
            const tape_part *part = g_ptr_array_index(p->parts, k);
            if (part == NULL || part->take != index) continue;
            const take *t = all->takes[index];
            double x = x_of(t, part->block.at), end = x_of(t, part->block.end);
            uint32_t colour = part->block.state == BL_BLOCK_GOOD     ? sure_colour
                              : part->block.state == BL_BLOCK_MENDED ? some_colour
                                                                     : doubt_colour;
            figure_box(f, x, y, MAX(end - x - 0.6, 0.8), 4, colour);
            if (end - x < 12) continue;
            figure_font(f, 7, false, false);
            figure_colour(f, ink);
            g_snprintf(text, sizeof text, "%u", part->block.label.index);
            figure_text(f, (x + end) / 2, y + 12, FIGURE_CENTRE, text);
        }
    }
}

uint64_t figure_tape_place(const figure_takes *all, guint index)
{
    const take *t = all->takes[index];
    for (guint i = 0; all->programs != NULL && i < all->programs->len; i++) {
        const tape_program *p = g_ptr_array_index(all->programs, i);
        for (guint k = 0; k < p->parts->len; k++) {
            const tape_part *part = g_ptr_array_index(p->parts, k);
            if (part == NULL || part->take != index || part->block.state == BL_BLOCK_GOOD) continue;
            const bl_tape_block *b = &part->block;
            return tape_block_doubt(b);
        }
    }
    for (guint i = 0; i < t->bytes->len; i++) {
        const bl_tape_byte *b = &g_array_index(t->bytes, bl_tape_byte, i);
        if (take_byte_doubtful(b)) return b->at;
    }
    return t->bytes->len > 0 ? g_array_index(t->bytes, bl_tape_byte, 0).at : 0;
}

/* ---- the wave ---- */

/* The samples of the channel that was listened to, from a moment on. NULL: it cannot be read again.
 */
static int16_t *samples_of(const take *t, uint64_t at, size_t *count)
{
    sound_file s;
    uint64_t first = at * t->rate / 1000000;
    *count = (size_t)(wave_seconds * t->rate);
    if (strcmp(t->path, "-") == 0 || sound_open(t->path, NULL, &s) != BL_OK) return NULL;
    int16_t *frames = g_new(int16_t, *count * s.channels), *one = g_new0(int16_t, *count);
    size_t got = sound_seek(&s, first) ? sound_read(&s, frames, *count) : 0;
    for (size_t i = 0; i < got; i++)
        one[i] = frames[i * s.channels + t->channel];
    sound_close(&s);
    g_free(frames);
    return one;
}

static void draw_samples(figure *f, const int16_t *samples, size_t count, double y)
{
    int peak = 1;
    double middle = y + 50, step = (width - 2 * margin) / (double)count;
    for (size_t i = 0; i < count; i++)
        peak = MAX(peak, abs(samples[i]));
    figure_line(f, margin, middle, width - margin, middle, 0xE3E7EA);
    figure_colour(f, wave_colour);
    cairo_set_line_width(f->cr, 0.8);
    for (size_t i = 0; i < count; i++)
        cairo_line_to(f->cr, margin + (double)i * step, middle - 46.0 * samples[i] / peak);
    cairo_stroke(f->cr);
}

/* The bits of a byte under its wave, each in the colour of its certainty, and the byte. */
static void draw_byte(figure *f, const take *t, const bl_tape_byte *b, uint64_t from, double y)
{
    double scale = (width - 2 * margin) / (wave_seconds * 1e6);
    double x = margin + ((double)b->at - (double)from) * scale;
    unsigned bits = t->keyings[b->keying].data_bits + 1u;
    double step = b->length * scale / bits;
    char text[16];
    figure_font(f, 9, false, true);
    for (unsigned i = 0; i < bits; i++) {
        unsigned place = t->keyings[b->keying].high_first ? bits - 1 - i : i - 1;
        int sure = i == 0 ? 100 : abs(b->bit[place]);
        figure_box(f, x + i * step + 0.4, y, step - 0.8, 14,
                   i == 0              ? 0xE3E7EA
                   : sure < BL_CERTAIN ? 0xF4C7C5
                   : sure < 50         ? 0xF7E3B0
                                       : 0xCBE6D4);
        figure_colour(f, ink);
        g_snprintf(text, sizeof text, "%u", i == 0 ? 0 : b->value >> place & 1u);
        if (step > 5) figure_text(f, x + (i + 0.5) * step, y + 10.5, FIGURE_CENTRE, text);
    }
    figure_font(f, 9, true, true);
    figure_colour(f, take_byte_doubtful(b) ? doubt_colour : ink);
    if (b->framed)
        g_snprintf(text, sizeof text, "$%02X %u %%", b->value, b->certainty);
    else
        g_snprintf(text, sizeof text, "$%02X no stop", b->value);
    double middle = x + b->length * scale / 2;
    if (middle > margin + 30 && middle < width - margin - 30)
        figure_text(f, middle, y + 27, FIGURE_CENTRE, text);
}

static void draw_wave(figure *f, const figure_takes *all, guint index, double y)
{
    const take *t = all->takes[index];
    uint64_t place = figure_tape_place(all, index), half = (uint64_t)(wave_seconds * 500000);
    uint64_t from = place > half ? place - half : 0;
    size_t count;
    char text[64];
    int16_t *samples = samples_of(t, from, &count);
    figure_font(f, 9, true, false);
    figure_colour(f, ink);
    g_snprintf(text, sizeof text, "around %u:%06.3f", (unsigned)(place / 60000000),
               (double)(place % 60000000) / 1e6);
    figure_text(f, margin, y, FIGURE_LEFT, text);
    if (samples != NULL) draw_samples(f, samples, count, y + 4);
    cairo_save(f->cr);
    cairo_rectangle(f->cr, margin, y, width - 2 * margin, wave_height);
    cairo_clip(f->cr);
    for (guint i = 0; i < t->bytes->len; i++) {
        const bl_tape_byte *b = &g_array_index(t->bytes, bl_tape_byte, i);
        if (b->at + b->length > from && b->at < from + 2 * half) draw_byte(f, t, b, from, y + 108);
    }
    cairo_restore(f->cr);
    g_free(samples);
}

/* What the colours mean. */
static void draw_legend(figure *f, double y)
{
    static const struct {
        const char *text;
        uint32_t colour;
    } meanings[] = {{"speed", 0x7A4FA3},
                    {"a tone, no bytes", 0xD5DBE0},
                    {"certain", 0x3E8E5A},
                    {"less than half certain, or mended", 0xD9A21B},
                    {"doubtful, bad", 0xC9302C}};
    double x = margin + 330;
    figure_font(f, 8, false, false);
    for (unsigned i = 0; i < G_N_ELEMENTS(meanings); i++) {
        figure_box(f, x, y - 6, 8, 7, meanings[i].colour);
        figure_colour(f, ink);
        figure_text(f, x + 12, y, FIGURE_LEFT, meanings[i].text);
        x += 30 + figure_text_width(f, meanings[i].text);
    }
    figure_colour(f, pale);
    figure_text(f, x, y, FIGURE_LEFT, "height: level");
}

bl_status figure_tape(const figure_takes *all, const char *path, const bl_sink *sink)
{
    figure f;
    figure_type type = figure_type_of(path);
    double each = title + strip_height + 44 + wave_height;
    if (type == FIGURE_NONE) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "a picture ends in .png, .svg or .pdf");
        return BL_E_RANGE;
    }
    bl_status status = figure_begin(&f, type, width + 30, each * all->count + 2 * margin, 110);
    if (status != BL_OK) return status;
    draw_legend(&f, margin - 6);
    for (guint i = 0; i < all->count; i++) {
        const take *t = all->takes[i];
        double y = margin + each * i;
        char *name = g_path_get_basename(t->path);
        figure_font(&f, 12, true, false);
        figure_colour(&f, ink);
        figure_text(&f, margin, y + 8, FIGURE_LEFT, name);
        g_free(name);
        draw_strip(&f, t, y + title - 10);
        draw_blocks(&f, all, i, y + title + strip_height - 23);
        draw_seconds(&f, t, y + title + strip_height + 12);
        draw_wave(&f, all, i, y + title + strip_height + 34);
    }
    return figure_end(&f, path, sink);
}
