/* command_tape.c - bootlace tape: which of its subcommands. */
#include "tape_commands.h"

int command_tape(int argc, char **argv)
{
    static const subcommand *const all[] = {&tape_write, &tape_read, &tape_list, &tape_card_command,
                                            NULL};
    static const subcommands s = {"tape", all, NULL, "bootlace tape write lamp.asm -o lamp.wav"};
    return cli_run_subcommand(&s, argc, argv);
}
