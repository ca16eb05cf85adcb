/* subcommands.c - which of a command's subcommands. */
#include "subcommands.h"

#include <string.h>

/* "plan | blank | write". Free with g_free. */
static char *names_of_subcommands(const subcommands *s)
{
    GString *names = g_string_new(NULL);
    for (const subcommand *const *one = s->all; *one != NULL; one++)
        g_string_append_printf(names, "%s%s", names->len > 0 ? " | " : "", (*one)->name);
    return g_string_free(names, FALSE);
}

static void show_subcommands(const subcommands *s, const char *names)
{
    int width = 0;
    for (const subcommand *const *one = s->all; *one != NULL; one++)
        width = MAX(width, (int)strlen((*one)->name) + 1);
    printf("Usage: bootlace %s %s\n\n", s->command, names);
    for (const subcommand *const *one = s->all; *one != NULL; one++) {
        const char *brief = (*one)->brief != NULL ? (*one)->brief : (*one)->words.summary;
        cli_print("  %-*s %s", width, (*one)->name, brief);
    }
    if (s->more != NULL) printf("\n%s", s->more);
    printf("\nEach has --help. Example:\n  %s\n", s->example);
}

static int run_one(const subcommands *s, const subcommand *one, int argc, char **argv)
{
    if (!cli_parse(&argc, &argv, &one->words, one->tables)) return EXIT_USAGE;
    if (one->bare && argc != 1) return cli_usage("%s %s takes no operand", s->command, one->name);
    return one->run(argc, argv);
}

int cli_run_subcommand(const subcommands *s, int argc, char **argv)
{
    for (const subcommand *const *one = s->all; argc >= 2 && *one != NULL; one++)
        if (strcmp(argv[1], (*one)->name) == 0) return run_one(s, *one, argc - 1, argv + 1);
    char *names = names_of_subcommands(s);
    int code = EXIT_GOOD;
    if (argc >= 2 && strcmp(argv[1], "--help") == 0)
        show_subcommands(s, names);
    else
        code = cli_usage("bootlace %s %s; see bootlace %s --help", s->command, names, s->command);
    g_free(names);
    return code;
}
