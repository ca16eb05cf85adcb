/* disk_make.c - empty disks. */
#include "disk_make.h"

#include <string.h>

enum {
    TRACK = 32, /* sectors, and heads, of a card: a cylinder is a mebibyte */
    HEADS = 64,
    SMALL_FIRST = 32,   /* where a partition begins on a small card */
    USUAL_FIRST = 2048, /* and on others */
};

static bl_status tell_wish(const bl_sink *sink, const char *hint, const char *message)
{
    bl_report(sink, BL_ERROR, NULL, 0, hint, "there can be no such disk: %s", message);
    return BL_E_RANGE;
}

/* ---- FAT ---- */

static bl_status make_table(const bl_sectors *whole, const bl_fat_plan *plan)
{
    bl_partition p = {.active = true, .first = plan->hidden, .count = plan->total};
    p.kind = !plan->wide ? 0x01 : plan->total < 65536 ? 0x04 : 0x06;
    return bl_partition_make(whole, &p, TRACK, HEADS);
}

static bl_status make_fat(const disk_wish *w, const bl_sink *sink, disk_image *image)
{
    bl_fat_plan plan = {.wide = w->kind == BL_DISK_FAT16, .serial = w->serial, .now = w->now};
    bl_sectors_part part;
    bl_sectors volume = image->sectors;
    const char *why;
    bl_text label = {w->label, w->label != NULL ? strlen(w->label) : 0};
    if (label.length > 0 && !bl_fat_label_make(label, plan.label))
        return tell_wish(sink, "A to Z, 0 to 9, - _ and a few others",
                         "a label has at most 11 characters, and this one cannot be one");
    plan.total = image->sectors.count;
    if (w->partition) {
        plan.hidden = image->sectors.count < 65536 ? SMALL_FIRST : USUAL_FIRST;
        if (image->sectors.count < plan.hidden + TRACK)
            return tell_wish(sink, NULL, "it is too small for a partition");
        plan.total = (image->sectors.count - plan.hidden) / TRACK * TRACK;
        plan.track = TRACK, plan.heads = HEADS;
    }
    if (bl_fat_plan_complete(&plan, &why) != BL_OK) return tell_wish(sink, NULL, why);
    bl_status status = bl_sectors_cut(&part, &image->sectors, plan.hidden, plan.total, &volume);
    if (status == BL_OK) status = bl_fat_format(&volume, &plan);
    if (status == BL_OK && w->partition) status = make_table(&image->sectors, &plan);
    return status;
}

/* ---- the others ---- */

static const bl_classic *layout_of_size(uint64_t bytes)
{
    const bl_classic *l;
    for (size_t i = 0; (l = bl_classic_shipped(i)) != NULL; i++)
        if (bl_classic_bytes(l) == bytes) return l;
    return NULL;
}

static bl_status make_classic(const disk_wish *w, const bl_sink *sink, disk_image *image)
{
    const bl_classic *l = w->layout != NULL ? w->layout : layout_of_size(image->bytes);
    if (w->label != NULL) return tell_wish(sink, NULL, "a classic disk has no label");
    if (l == NULL)
        return tell_wish(sink, "disk: {layouts: ...} in the bench file describes one",
                         "no layout that is known has this size");
    if (image->bytes < bl_classic_bytes(l) ||
        (!image->device && image->bytes != bl_classic_bytes(l)))
        return tell_wish(sink, "leave --size out", "its layout has another size");
    return bl_classic_format(&image->sectors, l);
}

static bl_status make_bare(const disk_wish *w, const bl_sink *sink, disk_image *image)
{
    if (image->sectors.count < 2) return tell_wish(sink, NULL, "it is too small for any file");
    bl_status status = bl_bare_format(&image->sectors, w->label != NULL ? w->label : "", 0);
    return status != BL_E_ARGUMENT ? status
                                   : tell_wish(sink, NULL, "a label has at most 16 characters");
}

bl_status disk_make_on(const disk_wish *w, const bl_sink *sink, disk_image *image)
{
    bool fat = bl_disk_kind_is_fat(w->kind);
    if (w->partition && !fat) return tell_wish(sink, NULL, "only FAT lies in partitions here");
    if (w->kind == BL_DISK_CLASSIC) return make_classic(w, sink, image);
    if (image->sectors.size != 512)
        return tell_wish(sink, NULL, "its size is no multiple of 512 bytes");
    return fat ? make_fat(w, sink, image) : make_bare(w, sink, image);
}

/* Of a classic disk the layout says how large it is. */
static uint64_t size_of_wish(const disk_wish *w)
{
    if (w->bytes != 0) return w->bytes;
    if (w->kind == BL_DISK_CLASSIC)
        return bl_classic_bytes(w->layout != NULL ? w->layout : bl_classic_shipped(0));
    return w->kind == BL_DISK_FAT16 ? 32u << 20 : 1440u << 10;
}

bl_status disk_make(const disk_wish *w, const bl_sink *sink, disk_image *image)
{
    uint64_t bytes = size_of_wish(w);
    *image = (disk_image){.fd = -1};
    if (bytes % 128 != 0) return tell_wish(sink, NULL, "its size is no multiple of 512 bytes");
    if (bytes > (uint64_t)UINT32_MAX * 512) return tell_wish(sink, NULL, "it is too large");
    disk_image_new(bytes, bytes % 512 == 0 ? 512 : 128, image);
    bl_status status = disk_make_on(w, sink, image);
    if (status != BL_OK) disk_image_close(image);
    return status;
}
