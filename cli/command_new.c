/* command_new.c - bootlace new. */
#include "cli.h"

#include <string.h>

#include "project/new_project.h"

static char *cpu;

static const GOptionEntry entries[] = {
    {"cpu", 'c', 0, G_OPTION_ARG_STRING, &cpu,
     "65c02 (default), 6502, z80, 8085, 8080, 6809, 6800, ez80+z80; own: a CPU of your own", "CPU"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {
    "new NAME",
    "Makes a folder with a project to start from: a bench file, a program, a README. It builds, "
    "burns and runs at once. Nothing is overwritten.",
    "  bootlace new harbour\n  bootlace new horn -c z80\n  bootlace new pebble -c own"};

int command_new(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries, quiet_options, NULL};
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 2) return cli_usage("no name given: bootlace new NAME");
    const char *name = argv[1];
    bl_status status = new_project_make(name, cpu != NULL ? cpu : "65c02", &cli_sink);
    if (status == BL_E_NOT_FOUND || status == BL_E_ARGUMENT) return EXIT_USAGE;
    if (status != BL_OK) return EXIT_FAILED;
    say("%s is ready; its README.md is a page long\n  cd %s\n  bootlace build", name, name);
    return EXIT_GOOD;
}
