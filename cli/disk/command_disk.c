/* command_disk.c - bootlace disk: which of its subcommands. */
#include "disk_commands.h"

int command_disk(int argc, char **argv)
{
    static const subcommand *const all[] = {&disk_create,  &disk_put,    &disk_get,    &disk_list,
                                            &disk_folder,  &disk_delete, &disk_rename, &disk_boot,
                                            &disk_sectors, &disk_check,  &disk_plan,   NULL};
    static const subcommands s = {"disk", all, NULL,
                                  "bootlace disk create skerry.img --kind fat12 --size 1440K"};
    return cli_run_subcommand(&s, argc, argv);
}
