/* compare.c - where two images differ, as ranges. */
#include "bootlace/image.h"

/* A walk through the pieces of an image, byte by byte. */
typedef struct walker {
    const bl_image *image;
    size_t piece, pieces;
    size_t at; /* in the piece */
    bl_piece now;
} walker;

static void begin_walk(walker *w, const bl_image *image)
{
    *w = (walker){.image = image, .pieces = bl_image_pieces(image)};
    if (w->pieces > 0) w->now = bl_image_piece(image, 0);
}

static bool ended(const walker *w)
{
    return w->piece == w->pieces;
}

static uint64_t walk_address(const walker *w)
{
    return ended(w) ? UINT64_MAX : (uint64_t)w->now.first + w->at;
}

static void step_walk(walker *w)
{
    if (++w->at < w->now.count) return;
    w->at = 0;
    if (++w->piece < w->pieces) w->now = bl_image_piece(w->image, w->piece);
}

/* Two walkers over pieces in order: the time grows with the pieces, not with the address space. */
bool bl_image_compare(const bl_image *first, const bl_image *second, void *context,
                      void (*visit)(void *context, bl_image_difference kind, bl_range range))
{
    walker a, b;
    bl_range run = {0, 0};
    bl_image_difference kind = BL_IMAGE_DIFFERS;
    bool same = true;
    begin_walk(&a, first);
    begin_walk(&b, second);
    while (!ended(&a) || !ended(&b)) {
        uint64_t at = walk_address(&a) < walk_address(&b) ? walk_address(&a) : walk_address(&b);
        bool in_a = walk_address(&a) == at, in_b = walk_address(&b) == at;
        bool differs = !in_a || !in_b || a.now.bytes[a.at] != b.now.bytes[b.at];
        bl_image_difference this_kind = !in_b   ? BL_IMAGE_ONLY_FIRST
                                        : !in_a ? BL_IMAGE_ONLY_SECOND
                                                : BL_IMAGE_DIFFERS;
        bool goes_on = differs && run.count > 0 && this_kind == kind && run.first + run.count == at;
        if (!goes_on && run.count > 0) {
            visit(context, kind, run);
            run.count = 0;
        }
        if (differs) {
            if (!goes_on) run = (bl_range){(uint32_t)at, 0};
            run.count++;
            kind = this_kind;
            same = false;
        }
        if (in_a) step_walk(&a);
        if (in_b) step_walk(&b);
    }
    if (run.count > 0) visit(context, kind, run);
    return same;
}
