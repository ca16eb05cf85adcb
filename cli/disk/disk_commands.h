/* disk_commands.h - the commands that work on disks, and what they share. */
#ifndef BOOTLACE_CLI_DISK_H
#define BOOTLACE_CLI_DISK_H

#include "disk/disk_build.h"
#include "disk/disk_compare.h"
#include "json_answer.h"
#include "sim/drive.h"
#include "subcommands.h"

extern const subcommand disk_create, disk_put, disk_get, disk_list, disk_folder, disk_delete,
    disk_rename, disk_boot, disk_sectors, disk_check, disk_plan;

/* --layout, --in-place, --fault: of commands that open a disk. */
extern const GOptionEntry disk_options[];
/* --user. */
extern const GOptionEntry user_options[];

/* A disk that a command works on. */
typedef struct disk_job {
    bench *b; /* or NULL */
    disk_volume v;
    bool open;
    bool changes;    /* set before disk_job_begin: nobody else changes the disk meanwhile */
    sim_drive drive; /* between, when faults were asked for */
    bl_sectors port;
} disk_job;

/* Opens the bench file, if there is one, and the disk. Returns an exit code, after telling;
 * disk_job_end follows in any case. */
int disk_job_begin(const char *path, disk_job *j);
/* Opens a bench file that was given, or is here; needed: there must be one. */
int disk_job_bench(bool needed, disk_job *j);
/* May something be added to it? What is broken so that a write could harm a file that is whole (two
 * files in one cluster) is refused; what a repair mends is said. Returns an exit code. */
int disk_job_sound(disk_job *j, const char *path);
/* The wrapper of the bench file that --wrap names. Returns an exit code, after telling. */
int disk_job_wrap(disk_job *j, const char *name, const bl_wrap **wrap);
/* What is in a folder, as far as it can be read: bl_disk_entry *, in a new array whatever happens;
 * its end is g_ptr_array_unref. Returns an exit code, after telling. */
int disk_job_entries(disk_job *j, const char *path, GPtrArray **all);
/* Puts changes in place and says so: "verified: WHAT". Returns an exit code. */
int disk_job_commit(disk_job *j, const char *what, ...) G_GNUC_PRINTF(2, 3);
void disk_job_end(disk_job *j);

/* What starts at power-up and has no entry point starts at its first byte: says so. */
void disk_start_at_begin(const bench *b, const char *name, bl_disk_file *file);

/* A line of the result; on standard error where standard output is for JSON. */
void disk_result(const char *message, ...) G_GNUC_PRINTF(1, 2);

/* A path with the user area of --user before it. Free with g_free. */
char *disk_path(const char *path);
/* The name under which a path's last part is stored, and says so where that is another. Static
 * text, valid until the next call. */
const char *disk_stored_name(disk_job *j, const char *path);
/* "2026-11-29 21:30", "" when there is none. Static text, valid until four calls later. */
const char *disk_time_text(bl_disk_time t);
/* "read-only, starts": what else is to be said of a file. Static text. */
const char *disk_notes(const bench *b, const bl_disk_entry *e);
json_t *disk_entry_json(const bl_disk_entry *e);
/* "fat12", and what else a disk is. Static text. */
const char *disk_kind_text(disk_job *j);
/* "3 files", "1 file". Static text, valid until eight calls later. */
const char *disk_count(uint32_t count, const char *one, const char *many);

#endif
