/* subcommands.h - commands that consist of others: chip, board, image. */
#ifndef BOOTLACE_CLI_SUBCOMMANDS_H
#define BOOTLACE_CLI_SUBCOMMANDS_H

#include "cli.h"

typedef struct subcommand {
    const char *name;
    usage words;
    const GOptionEntry *const *tables; /* as of cli_parse */
    int (*run)(int argc, char **argv); /* argv[0] is its name, options are gone */
    bool bare;                         /* it takes no operand */
    const char *brief;                 /* for the list of them, or NULL: words.summary */
} subcommand;

typedef struct subcommands {
    const char *command;          /* "chip" */
    const subcommand *const *all; /* ends with NULL */
    const char *more;             /* told by --help behind the list; may be NULL */
    const char *example;          /* a line */
} subcommands;

/* Runs the one that argv[1] names. Returns an exit code. */
int cli_run_subcommand(const subcommands *s, int argc, char **argv);

#endif
