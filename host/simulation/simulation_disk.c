/* simulation_disk.c - the disk in the simulated board's drive: a file of the state folder, written
 * to sector by sector as a medium is. */
#include <glib.h>

#include "sim/device/ata.h"
#include "simulation_files.h"

enum { DRIVE_SECTOR = 512 };

/* All devices that are drives share the one that there is. */
static void attach_drive(simulation *s)
{
    sim_device *d = sim_board_device(&s->sim.board, &sim_ata_kind);
    sim_drive_begin(&s->drive, &s->medium.sectors);
    s->drive.faults = s->disk;
    if (d != NULL) d->drive = &s->drive;
}

bl_status simulation_load_disk(simulation *s, const bl_sink *sink)
{
    bl_status status = BL_OK;
    if (sim_board_device(&s->sim.board, &sim_ata_kind) == NULL) return BL_OK;
    char *path = simulation_path(s, "disk", ".img");
    if (g_file_test(path, G_FILE_TEST_EXISTS))
        status = disk_image_open(path, DRIVE_SECTOR, true, DISK_CHANGES, sink, &s->medium);
    if (status == BL_OK) attach_drive(s);
    g_free(path);
    return status;
}

static bl_status must_have_drive(simulation *s, const bl_sink *sink)
{
    if (sim_board_device(&s->sim.board, &sim_ata_kind) != NULL) return BL_OK;
    bl_report(sink, BL_ERROR, s->b->path, 0, "devices: - {name: disk, kind: ata, at: ...}",
              "the board has no device of kind ata, so it has no disk");
    return BL_E_NOT_FOUND;
}

bl_status simulation_insert_image(simulation *s, disk_image *image, const bl_sink *sink)
{
    bl_status status = must_have_drive(s, sink);
    if (status != BL_OK) return status;
    char *own = simulation_path(s, "disk", ".img");
    status = disk_image_commit(image, own, sink);
    if (status == BL_OK) {
        if (s->medium.changed != NULL) disk_image_close(&s->medium);
        status = disk_image_open(own, DRIVE_SECTOR, true, DISK_CHANGES, sink, &s->medium);
    }
    if (status == BL_OK) attach_drive(s), simulation_power_off(s);
    g_free(own);
    return status;
}

bl_status simulation_insert_disk(simulation *s, const char *path, const bl_sink *sink)
{
    disk_image image;
    bl_status status = must_have_drive(s, sink);
    if (status == BL_OK)
        status = disk_image_open(path, DRIVE_SECTOR, false, DISK_READS, sink, &image);
    if (status != BL_OK) return status;
    status = simulation_insert_image(s, &image, sink);
    disk_image_close(&image);
    return status;
}
