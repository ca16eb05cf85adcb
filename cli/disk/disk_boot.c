/* disk_boot.c - bootlace disk boot: a boot program beside the file system; on a bare disk a program
 * that starts at power-up. */
#include <string.h>

#include "bootlace/baredisk.h"
#include "disk/disk_program.h"
#include "disk_commands.h"
#include "upload/payload.h"

static char *at;

static const GOptionEntry entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &at, "where a raw binary belongs", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* What marks a boot sector that most machines and programs look for. */
static const bl_boot_rule usual_rule = {.mark = {{510, 0x55}, {511, 0xAA}}, .mark_count = 2};

static const bl_boot_rule *rule_of(disk_job *j)
{
    if (j->b != NULL && j->b->disk.has_rule) return &j->b->disk.rule;
    return bl_disk_kind_is_fat(bl_disk_kind_of(&j->v.disk)) ? &usual_rule : NULL;
}

/* What is neither a source nor records is a raw binary. It needs no address here: its first byte is
 * the first of the disk. */
static int load_boot(disk_job *j, const char *file, payload *load)
{
    bl_filetype type = bl_filetype_of((bl_text){file, strlen(file)});
    bool records = bl_filetype_is_records(type);
    bool source = at == NULL && g_str_has_suffix(file, ".asm");
    bool bare = bl_disk_kind_of(&j->v.disk) == BL_DISK_BARE;
    const char *where = at;
    if (at == NULL && !source && !records) {
        if (bare) return cli_usage("%s: a raw binary carries no address; give --at ADDRESS", file);
        where = "0";
    }
    int code = disk_job_bench(source, j);
    return code == EXIT_GOOD ? payload_begin(j->b, file, where, NULL, load) : code;
}

static int boot_bare(disk_job *j, const char *file, const payload *load)
{
    GByteArray *bytes = NULL;
    bl_disk_file f = {.starts = true};
    char *stem = host_stem(file);
    int code = EXIT_FAILED;
    if (disk_program(j->b, load->image, NULL, stem, &cli_sink, &bytes, &f) == BL_OK) {
        f.starts = true;
        disk_start_at_begin(j->b, file, &f);
        if (bl_disk_put(&j->v.disk, stem, &f, NULL) == BL_OK) code = EXIT_GOOD;
        g_byte_array_unref(bytes);
    }
    if (code == EXIT_GOOD)
        code = disk_job_commit(j, "%s is on the disk, was read back, and starts at power-up", stem);
    g_free(stem);
    return code;
}

static int run_boot(int argc, char **argv)
{
    disk_job j = {.changes = true};
    payload load;
    uint32_t sectors = 0;
    if (argc != 3) return cli_usage("a disk, and a program: bootlace disk boot DISK IMAGE");
    memset(&load, 0, sizeof load);
    int code = disk_job_begin(argv[1], &j);
    if (code == EXIT_GOOD) code = disk_job_sound(&j, argv[1]);
    if (code == EXIT_GOOD) code = load_boot(&j, argv[2], &load);
    if (code == EXIT_GOOD && bl_disk_kind_of(&j.v.disk) == BL_DISK_BARE) {
        code = boot_bare(&j, argv[2], &load);
    } else if (code == EXIT_GOOD) {
        const bl_boot_rule *rule = rule_of(&j);
        bl_disk_report r = {.find = NULL};
        if (disk_put_boot(&j.v.disk, load.image, rule, &cli_sink, &sectors) != BL_OK ||
            (rule != NULL && bl_disk_boot_check(&j.v.disk, rule) != BL_OK) ||
            bl_disk_check(&j.v.disk, false, &r) != BL_OK)
            code = EXIT_FAILED;
        if (code == EXIT_GOOD)
            code = disk_job_commit(&j,
                                   "%s written and read back; the file system beside it is "
                                   "whole",
                                   disk_count(sectors, "boot sector", "boot sectors"));
    }
    if (code == EXIT_GOOD && given.json)
        answer(json_pack("{ss ss si sb}", "disk", argv[1], "program", argv[2], "sectors",
                         (int)sectors, "verified", true));
    payload_end(&load);
    disk_job_end(&j);
    return code;
}

const subcommand disk_boot = {
    .name = "boot",
    .words = {"disk boot DISK IMAGE",
              "Writes a boot program: on FAT into the boot sector, around what describes the file "
              "system; on a classic disk into the system tracks. The marks or the sum that the "
              "machine's ROM looks for are put there as the bench file says (disk: boot_marks, "
              "boot_sum). On a bare disk the program is a file that starts at power-up.",
              "  bootlace disk boot skerry.img boot.asm\n"
              "  bootlace disk boot skerry.img boot.bin"},
    .tables =
        (const GOptionEntry *const[]){entries, disk_options, bench_options, json_options, NULL},
    .run = run_boot,
    .brief = "a boot program beside the file system",
};
