/* disk_compare.c - does a disk hold what was built? */
#include "disk_compare.h"

#include <glib.h>

disk_sameness disk_compare(bl_disk *d, const disk_content *c, uint32_t *where)
{
    host_output o;
    bl_writer writer;
    bl_disk_entry e;
    disk_sameness same = DISK_MISSING;
    *where = 0;
    host_output_begin(&o, &writer);
    if (bl_disk_has(d, c->path, &e)) {
        bool read = bl_disk_get(d, c->path, &writer) == BL_OK && o.status == BL_OK;
        bl_text back = host_output_text(&o);
        guint i = 0, size = c->bytes->len;
        while (i < size && i < back.length && (guint8)back.at[i] == c->bytes->data[i])
            i++;
        bool length = back.length == size || (e.rounded && (size + 127) / 128 * 128 == back.length);
        bool program = !c->file.has_load || !e.has_load ||
                       (e.load == c->file.load && e.entry == c->file.entry);
        program = program && (!c->file.starts || e.starts);
        same = read && i == size && length && program ? DISK_SAME : DISK_DIFFERS;
        *where = i;
    }
    host_output_drop(&o);
    return same;
}

/* Bytes that the program gives, but for those that the machine's marks and sum decide. */
uint32_t disk_compare_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule)
{
    uint32_t sectors, from, count, unit = d->sectors.size, worst = UINT32_MAX;
    if (bl_disk_boot_area(d, &sectors, &from, &count) != BL_OK) return 0;
    uint8_t *bytes = g_malloc0((size_t)sectors * unit);
    for (uint32_t i = 0; i < sectors; i++)
        if (d->sectors.read(d->sectors.context, i, bytes + (size_t)i * unit) != BL_OK)
            worst = i * unit;
    uint32_t base = bl_image_piece(image, 0).first;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        for (size_t k = 0; k < p.count; k++) {
            uint32_t at = p.first - base + (uint32_t)k;
            bool decided = at >= from && at - from < count;
            for (size_t m = 0; rule != NULL && m < rule->mark_count; m++)
                decided = decided || rule->mark[m].at == at;
            if (rule != NULL && rule->sum != BL_BOOT_NO_SUM && at - rule->sum_at < 2)
                decided = true;
            bool same = at < sectors * unit && bytes[at] == p.bytes[k];
            if (!decided && !same && at < worst) worst = at;
        }
    }
    g_free(bytes);
    return worst;
}
