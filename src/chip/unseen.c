/* unseen.c - which address lines do not matter to the contents, and a page that makes them matter.
 */
#include "bootlace/unseen.h"

#include "base/core.h"

static bool is_unseen(const uint8_t *bytes, uint32_t size, uint32_t half)
{
    for (uint32_t at = 0; at < size; at += 2 * half)
        if (memcmp(bytes + at, bytes + at + half, (size_t)half) != 0) return false;
    return true;
}

uint32_t bl_unseen_lines(const uint8_t *bytes, uint32_t size)
{
    uint32_t lines = 0;
    for (uint32_t half = size / 2; half > 0; half /= 2)
        if (is_unseen(bytes, size, half)) lines |= half;
    return lines;
}

void bl_line_probe_make(bl_line_probe *p, const uint8_t *bytes, const bl_part *part,
                        uint32_t unseen)
{
    uint32_t page = part->page;
    memset(p, 0, sizeof *p);
    memcpy(p->page, bytes, (size_t)page);
    /* The last byte: it is loaded after the one whose place it takes when a line does nothing. */
    p->page[page - 1] = (uint8_t)~p->page[page - 1];
    p->changed = (bl_piece){0, (size_t)page, p->page};
    p->original = (bl_piece){0, (size_t)page, bytes};
    for (uint8_t n = 0; n < BL_LINES_MAX; n++) {
        uint32_t other = (uint32_t)1 << n;
        if ((unseen & other) == 0 || other < page) continue;
        p->line[p->other_count] = n;
        p->others[p->other_count++] = (bl_piece){other, (size_t)page, bytes + other};
    }
}
