/* console_disk.c - boot: from sources to a board that boots from the disk in its drive. */
#include "console.h"
#include "disk/disk_update.h"

/* An empty drive, or one whose disk is to be made anew, gets the disk as a build makes it. */
static bool insert_new(console *k, project *p, const disk_contents *c)
{
    disk_image image;
    if (disk_build(p, c, &cli_sink, &image) != BL_OK) return false;
    bool good = simulation_insert_image(k->c->sim, &image, &cli_sink) == BL_OK;
    disk_image_close(&image);
    if (good)
        cli_print("%s a new disk with %u files is in the drive", cli_verified(), c->files->len);
    return good;
}

/* The disk goes on turning in its drive: only what differs is written. */
static bool update_disk(console *k, const disk_contents *c)
{
    simulation *s = k->c->sim;
    const bench *b = k->c->b;
    disk_updated done;
    bl_disk d;
    bl_disk_setup setup = {.layouts = b->disk.layouts,
                           .layout_count = b->disk.layout_count,
                           .title = "the disk in the drive",
                           .sink = cli_sink,
                           .live = true,
                           .now = disk_time_now()};
    bl_sectors port = sim_drive_port(&s->drive);
    if (bl_disk_open(&d, &port, &host_memory, &setup) != BL_OK) return false;
    bl_status status =
        disk_update(&d, c, b->disk.has_rule ? &b->disk.rule : NULL, &cli_sink, &done);
    bl_disk_close(&d);
    if (status != BL_OK) {
        say("'boot anew' makes the disk from the begin");
        return false;
    }
    cli_print("%s %u of %u files had changed: %u bytes written and read back%s", cli_verified(),
              done.written, done.files, done.bytes, done.boot ? ", and the boot program" : "");
    return true;
}

/* The board starts from its disk, and what it then says is shown. */
static void start_board(console *k)
{
    simulation *s = k->c->sim;
    if (k->past != NULL) sim_past_changed(k->past);
    if (!simulation_reset(s)) simulation_power_on(s);
    console_listen(k, 500000);
}

bool console_boot(console *k, bool anew)
{
    const bench *b = k->c->b;
    project *p = NULL;
    disk_contents c = {.files = NULL};
    bool good = false;
    if (k->c->sim == NULL)
        fail("'boot' writes the disk in the simulated drive; the card of a real machine is written "
             "where it is read: bootlace build, and disk put");
    else if (b->disk.image == NULL)
        fail("%s: it builds no disk (disk: {kind: ..., files: ...})", b->path);
    else if (project_build(b, PROJECT_FIRMWARE, NULL, &cli_sink, &p) == BL_OK &&
             disk_contents_make(p, NULL, &cli_sink, &c) == BL_OK) {
        bool empty = k->c->sim->medium.changed == NULL;
        good = anew || empty ? insert_new(k, p, &c) : update_disk(k, &c);
    }
    disk_contents_end(&c);
    project_close(p);
    if (good) start_board(k);
    return good;
}
