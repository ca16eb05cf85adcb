/* main.c - which command. */
#include "cli.h"
#include "json_answer.h"

#include <errno.h>
#include <fcntl.h>
#include <locale.h>
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "project/places.h"

static const struct {
    const char *name;
    int (*run)(int argc, char **argv);
    const char *summary;
} commands[] = {
    {"new", command_new, "a project to start from"},
    {"ports", command_ports, "the serial devices there are, and who answers on each"},
    {"build", command_build, "everything the bench file asks for"},
    {"assemble", command_assemble, "one source: image, listing, symbols"},
    {"disassemble", command_disassemble, "bytes back to source, with symbols"},
    {"image", command_image, "show, convert, join, cut, compare"},
    {"chip", command_chip, "plan, blank, write, verify, read"},
    {"tape", command_tape, "recordings for cassettes, and back"},
    {"disk", command_disk, "disk images: made, filled, read, checked"},
    {"send", command_send, "upload to RAM, verify, optionally run"},
    {"fetch", command_fetch, "save memory to a file"},
    {"check", command_check, "compare the machine's memory with what was built"},
    {"console", command_console, "terminal and monitor in one"},
    {"panel", command_panel, "switch sheet for hand entry"},
    {"board", command_board, "the simulated bench: run, serve, reset, on, off"},
    {"cpus", command_cpus, "what sheets there are, and what one holds"},
};
enum { COMMANDS = sizeof commands / sizeof commands[0] };

static void show_commands(void)
{
    printf("bootlace - from source text to a proven program on a home-built 8-bit computer\n\n"
           "Usage: bootlace COMMAND [OPTIONS] ...\n\n");
    for (size_t i = 0; i < COMMANDS; i++)
        printf("  %-11s %s\n", commands[i].name, commands[i].summary);
    printf("\nEvery command has --help with an example. A first evening:\n"
           "  cd examples/skerry-65\n"
           "  bootlace build                      assemble all, check, make the chip's contents\n"
           "  bootlace chip write -p sim          burn and verify\n"
           "  bootlace board run -p sim --for 7s  watch the lamps\n"
           "  bootlace send lamp.asm -p sim --run change, send, prove, run\n\n"
           "Exit status: 0 done, 1 the work failed or differs, 2 wrong usage.\n");
}

static const char *command_name(const void *list, size_t index)
{
    (void)list;
    return index < COMMANDS ? commands[index].name : NULL;
}

static int refuse_command(const char *name)
{
    const char *near =
        bl_name_nearest((bl_text){name, strlen(name)}, 2, command_name, commands, NULL);
    if (near != NULL) return cli_usage("there is no command '%s'; did you mean '%s'?", name, near);
    return cli_usage("there is no command '%s'; 'bootlace --help' lists them", name);
}

static int run_command(int argc, char **argv)
{
    /* Also what goes wrong while options are read is told as JSON. */
    for (int i = 2; i < argc && strcmp(argv[i], "--") != 0; i++)
        if (strcmp(argv[i], "--json") == 0) answer_ask();
    /* In a login shell $0 is "-bash": what was an address looks like an option. */
    for (int i = 2; i < argc; i++)
        if (argv[i][0] == '-' && places_eaten(argv[i]))
            return cli_usage("'%s': %s", argv[i], places_eaten_hint);
    for (size_t i = 0; i < COMMANDS; i++)
        if (strcmp(argv[1], commands[i].name) == 0) return commands[i].run(argc - 1, argv + 1);
    return refuse_command(argv[1]);
}

/* "help chip write" is "chip write --help". */
static int help_on(int argc, char **argv)
{
    char **words = g_new0(char *, argc + 2);
    words[0] = argv[0];
    for (int i = 2; i < argc; i++)
        words[i - 1] = argv[i];
    words[argc - 1] = (char[]){"--help"};
    int code = run_command(argc, words);
    g_free(words);
    return code;
}

/* A standard stream that is closed would be whatever is opened first: a message would end up in the
 * serial device. In its place stands something that every read and write fails on. */
static void hold_streams(void)
{
    for (int fd = STDIN_FILENO; fd <= STDERR_FILENO; fd++)
        if (fcntl(fd, F_GETFD) == -1 && errno == EBADF)
            (void)!open("/dev/null", fd == STDIN_FILENO ? O_WRONLY : O_RDONLY);
    signal(SIGPIPE, SIG_IGN); /* a reader that has gone is told of as any other failure */
}

/* An assertion of the core does not hold (bootlace/assert.h): a fault of ours. What was being
 * written has no name yet, so nothing is half there. */
_Noreturn void bl_assert_failed(const char *condition, const char *file, unsigned line)
{
    fprintf(stderr, "bootlace: internal error: %s:%u: %s does not hold; please report this\n", file,
            line, condition);
    abort();
}

static int run_arguments(int argc, char **argv)
{
    if (argc < 2) {
        show_commands();
        return EXIT_USAGE;
    }
    if (strcmp(argv[1], "help") == 0 && argc > 2) return help_on(argc, argv);
    if (strcmp(argv[1], "--help") == 0 || strcmp(argv[1], "-h") == 0 ||
        strcmp(argv[1], "help") == 0) {
        show_commands();
        return EXIT_GOOD;
    }
    if (strcmp(argv[1], "--version") == 0) {
        printf("bootlace %s\n", BL_VERSION);
        return EXIT_GOOD;
    }
    return answer_end(run_command(argc, argv));
}

int main(int argc, char **argv)
{
    setlocale(LC_CTYPE, "");
    hold_streams();
    cli_guard_terminal();
    return cli_end(run_arguments(argc, argv));
}
