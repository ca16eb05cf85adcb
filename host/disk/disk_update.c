/* disk_update.c - what has changed goes to the disk. */
#include "disk_update.h"

bl_status disk_update(bl_disk *d, const disk_contents *c, const bl_boot_rule *rule,
                      const bl_sink *sink, disk_updated *done)
{
    bl_status status = BL_OK;
    uint32_t where, sectors;
    bl_disk_report report = {.find = NULL};
    *done = (disk_updated){.files = c->files->len};
    for (guint i = 0; i < c->files->len && status == BL_OK; i++) {
        const disk_content *one = g_ptr_array_index(c->files, i);
        if (disk_compare(d, one, &where) == DISK_SAME) continue;
        status = disk_put_content(d, one, NULL);
        done->written++, done->bytes += one->bytes->len;
    }
    if (status == BL_OK && c->boot != NULL &&
        disk_compare_boot(d, bl_program_image(c->boot), rule) != UINT32_MAX) {
        status = disk_put_boot(d, bl_program_image(c->boot), rule, sink, &sectors);
        done->boot = true;
    }
    if (status == BL_OK) status = bl_disk_check(d, false, &report);
    if (status == BL_E_DAMAGED)
        bl_report(sink, BL_ERROR, d->setup.title, 0, "bootlace disk check says more",
                  "the disk is not whole: it has %u faults", report.left);
    return status;
}
