/* strip.c - counting what lies behind each mark. */
#include "strip.h"

#include <glib.h>
#include <string.h>

typedef struct tally {
    uint64_t there, full;
} tally;

static strip_mark judge(const tally *t)
{
    if (t->there == 0) return STRIP_NOTHING;
    return t->full == 0 ? STRIP_THERE : t->full == t->there ? STRIP_FULL : STRIP_PARTLY;
}

static void judge_all(const tally *tallies, unsigned marks, strip_mark *out)
{
    for (unsigned i = 0; i < marks; i++)
        out[i] = judge(&tallies[i]);
}

uint64_t strip_span(const bench *b)
{
    unsigned bits = bl_sheet_address_bits(b->sheet);
    uint64_t end = 256, span = 256;
    if (bits <= 16) return ((uint64_t)1 << bits) * bl_sheet_unit_bytes(b->sheet);
    for (size_t i = 0; i < b->area_count; i++) {
        bl_range area = bench_bytes(b, b->areas[i].range);
        end = MAX(end, (uint64_t)area.first + area.count);
    }
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            bl_range cpu = b->chips[i].maps[k].cpu;
            end = MAX(end, (uint64_t)cpu.first + cpu.count);
        }
    while (span < end)
        span *= 2;
    return span;
}

/* Which mark an address belongs to, and the first address of the next. */
static unsigned mark_of(uint64_t at, uint64_t whole, unsigned marks, uint64_t *next)
{
    uint64_t mark = at * marks / whole;
    *next = ((mark + 1) * whole + marks - 1) / marks;
    return (unsigned)mark;
}

static void count_range(tally *tallies, unsigned marks, uint64_t whole, uint64_t first,
                        uint64_t end, bool full)
{
    uint64_t next;
    for (uint64_t at = first; at < end && at < whole; at = next) {
        tally *t = &tallies[mark_of(at, whole, marks, &next)];
        uint64_t n = MIN(next, end) - at;
        *(full ? &t->full : &t->there) += n;
    }
}

void strip_of_range(const bench *b, bl_range range, const bl_image *image, unsigned marks,
                    strip_mark *out)
{
    tally *tallies = g_new0(tally, marks);
    uint64_t end = (uint64_t)range.first + range.count;
    count_range(tallies, marks, strip_span(b), range.first, end, false);
    for (size_t i = 0; image != NULL && i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        count_range(tallies, marks, strip_span(b), MAX(p.first, range.first),
                    MIN((uint64_t)p.first + p.count, end), true);
    }
    judge_all(tallies, marks, out);
    g_free(tallies);
}

void strip_of_chip_at_cpu(const bench *b, const bl_chip *chip, const bl_image *image,
                          unsigned marks, strip_mark *out)
{
    strip_mark *one = g_new(strip_mark, marks);
    memset(out, 0, marks * sizeof *out);
    for (size_t k = 0; k < chip->map_count; k++) {
        strip_of_range(b, chip->maps[k].cpu, image, marks, one);
        for (unsigned i = 0; i < marks; i++)
            if (one[i] != STRIP_NOTHING) out[i] = one[i];
    }
    g_free(one);
}

/* What maps cover and what the image fills is noted byte by byte, then counted for each mark. */
void strip_of_chip(const bl_chip *chip, const bl_image *image, unsigned marks, strip_mark *out)
{
    tally *tallies = g_new0(tally, marks);
    uint32_t size = chip->part->size;
    uint8_t *state = g_malloc0(size), bits;
    for (size_t k = 0; k < chip->map_count; k++) {
        const bl_chip_map *m = &chip->maps[k];
        memset(state + m->offset, 1, bl_chip_map_size(chip, m));
    }
    for (size_t k = 0; k < chip->map_count; k++)
        for (size_t i = 0; image != NULL && i < bl_image_pieces(image); i++) {
            bl_piece p = bl_image_piece(image, i);
            uint32_t offset;
            for (size_t n = 0; n < p.count; n++)
                if (bl_chip_map_holds(chip, &chip->maps[k], p.first + (uint32_t)n, &offset, &bits))
                    state[offset] = 2;
        }
    for (uint32_t at = 0; at < size; at++) {
        tally *t = &tallies[(uint64_t)at * marks / size];
        t->there += state[at] > 0;
        t->full += state[at] > 1;
    }
    judge_all(tallies, marks, out);
    g_free(state);
    g_free(tallies);
}
