/* command_console.c - bootlace console: keys to the line, what comes to the screen. */
#include "bootlace/drive_transport.h"
#include "console.h"

#include <errno.h>
#include <poll.h>
#include <readline/history.h>
#include <readline/readline.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

enum { HEX_COLUMNS = 16 };

/* ---- the line ---- */

static void show_hex(console *k, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        char text[8];
        g_snprintf(text, sizeof text, "%02X%s", bytes[i],
                   ++k->column % HEX_COLUMNS == 0 ? "\r\n" : " ");
        k->lost |= !cli_raw(text, strlen(text));
    }
}

void console_show(console *k, const uint8_t *bytes, size_t count)
{
    if (count == 0) return;
    if (k->screen != NULL)
        console_screen_take(k, bytes, count);
    else if (k->hex)
        show_hex(k, bytes, count);
    else
        k->lost |= !cli_raw(bytes, count);
    k->mid_line = k->hex ? k->column % HEX_COLUMNS != 0 : bytes[count - 1] != '\n';
    if (k->keep != NULL && fwrite(bytes, 1, count, k->keep) != count) console_keep(k, NULL);
    fflush(stdout);
}

void console_show_words(console *k)
{
    console_show(k, k->c->words->data, k->c->words->len);
    g_byte_array_set_size(k->c->words, 0);
}

bool console_listen(console *k, uint32_t microseconds)
{
    const bl_serial *port = &k->c->port;
    uint8_t bytes[256];
    uint64_t end = port->now(port->context) + microseconds;
    for (;;) {
        uint64_t now = port->now(port->context);
        size_t got = 0;
        bl_status status = port->wait(port->context, now < end ? (uint32_t)(end - now) : 0);
        if (status == BL_OK) status = port->receive(port->context, bytes, sizeof bytes, &got);
        if (status != BL_OK) {
            fail("%s failed or was unplugged", k->c->name);
            k->over = k->failed = k->lost = true;
            return false;
        }
        console_show(k, bytes, got);
        if (now >= end) return true;
    }
}

bool console_type(console *k, uint8_t byte)
{
    if (k->echo) console_show(k, &byte, 1);
    if (bl_drive_send(&k->c->port, &byte, 1) != BL_OK) {
        fail("%s failed or was unplugged", k->c->name);
        k->over = k->failed = k->lost = true;
        return false;
    }
    uint32_t pause = k->pace_us + (byte == '\r' ? k->rest_us : 0);
    return pause == 0 || console_listen(k, pause + 10u * 1000000u / k->c->baud);
}

/* What was to be kept and is not is told, and is a failure of the console. */
static void end_keep(console *k)
{
    bool lost = ferror(k->keep) != 0;
    errno = 0;
    if (fclose(k->keep) != 0) lost = true;
    k->keep = NULL;
    if (!lost) return;
    fail("%s: not all was kept: %s", k->keep_path, g_strerror(errno != 0 ? errno : EIO));
    k->lost = true;
}

bool console_keep(console *k, const char *path)
{
    if (k->keep != NULL) end_keep(k);
    if (path == NULL) return true;
    if (host_was_read(path)) {
        fail("%s: this file was read; keep what comes in another", path);
        return false;
    }
    k->keep = fopen(path, "wb");
    if (k->keep == NULL) fail("%s: cannot be written: %s", path, g_strerror(errno));
    g_strlcpy(k->keep_path, path, sizeof k->keep_path);
    return k->keep != NULL;
}

/* ---- keys of a terminal ---- */

static struct termios before;

void console_keys_raw(console *k, bool raw)
{
    struct termios t = before;
    if (raw) {
        cfmakeraw(&t);
        t.c_oflag |= OPOST; /* messages of ours end in a line feed alone */
    }
    tcsetattr(STDIN_FILENO, TCSANOW, &t);
    k->keys_raw = raw;
}

/* Commands, up to an empty line. */
static void command_lines(console *k)
{
    static FILE *shown; /* readline moves the cursor */
    console_keys_raw(k, false);
    printf("\n");
    fflush(stdout);
    if (shown == NULL) shown = fdopen(dup(STDOUT_FILENO), "w");
    rl_outstream = shown;
    console_complete(k);
    while (!k->over) {
        const char *entering = k->monitor != NULL ? monitor_enters(k->monitor) : NULL;
        char *prompt = g_strconcat(entering != NULL ? entering : "bootlace>", " ", NULL);
        char *line = readline(prompt);
        bool leave = line == NULL || (entering == NULL && *line == '\0');
        if (!leave && *line != '\0') add_history(line);
        if (!leave) console_obey(k, line);
        free(line); /* readline's own */
        g_free(prompt);
        if (leave) break;
    }
    console_keys_raw(k, true);
}

/* Keys go out as they are typed; Control-O opens a command line, and nothing else is taken from
 * the user. */
static void talk_by_keys(console *k)
{
    struct pollfd p = {.fd = STDIN_FILENO, .events = POLLIN};
    say("console on %s at %u baud; Control-O opens a command line, and 'quit' there leaves",
        k->c->name, k->c->baud);
    tcgetattr(STDIN_FILENO, &before);
    k->by_keys = true;
    console_keys_raw(k, true);
    while (!k->over) {
        uint8_t keys[64];
        if (poll(&p, 1, 5) > 0) {
            ssize_t n = read(STDIN_FILENO, keys, sizeof keys);
            if (n <= 0) break;
            for (ssize_t i = 0; i < n && !k->over; i++) {
                if (keys[i] == CONSOLE_COMMAND_KEY)
                    command_lines(k);
                else
                    console_type(k, keys[i]);
            }
        }
        console_listen(k, 5000);
    }
    console_keys_raw(k, false);
    printf("\n");
}

/* ---- a pipe instead of keys ---- */

/* Lines go to the remote; one that begins with the command key is a command. */
static void talk_by_lines(console *k)
{
    enum { SETTLE_US = 300000, LONGEST_US = 10000000 };
    char *line = NULL;
    size_t capacity = 0;
    ssize_t n;
    console_listen(k, SETTLE_US); /* a board that was switched on greets first */
    while (!k->over && (n = getline(&line, &capacity, stdin)) > 0) {
        if (line[n - 1] == '\n') line[n - 1] = '\r';
        if (line[0] == CONSOLE_COMMAND_KEY) {
            line[n - 1] = '\0';
            /* Our words stand on their own lines where both are seen; the machine's stay as they
             * came where they are kept. */
            if (k->mid_line && isatty(STDERR_FILENO)) fputc('\n', stderr);
            k->mid_line = false;
            console_obey(k, line + 1);
            continue;
        }
        if (k->monitor != NULL && monitor_enters(k->monitor) != NULL) {
            line[n - 1] = '\0';
            console_obey(k, line);
            continue;
        }
        for (ssize_t i = 0; i < n && !k->over; i++)
            console_type(k, (uint8_t)line[i]);
        console_listen(k, SETTLE_US);
    }
    free(line);
    uint64_t heard, waited = 0;
    do {
        heard = k->c->tap.came_count;
        if (k->over || !console_listen(k, SETTLE_US)) break;
        waited += SETTLE_US;
    } while (k->c->tap.came_count > heard && waited < LONGEST_US);
}

/* ---- a file of commands ---- */

/* One after the other, up to the first that fails: what follows relies on it. # begins a comment.
 */
static void obey_file(console *k, const char *path)
{
    FILE *f = strcmp(path, "-") == 0 ? stdin : fopen(path, "r");
    char *line = NULL;
    size_t capacity = 0;
    unsigned number = 0;
    if (f == NULL) {
        fail("%s: cannot be read: %s", path, g_strerror(errno));
        k->failed = true;
        return;
    }
    while (!k->over && !k->failed && getline(&line, &capacity, f) > 0) {
        number++;
        g_strchomp(line);
        if (*g_strchug(line) == '#') continue;
        console_obey(k, line);
        if (k->failed) say("stopped at line %u of %s: %s", number, path, line);
    }
    free(line);
    if (f != stdin) fclose(f);
}

/* The pace is the user's, else the dialogue's: a monitor that loses characters loses the user's,
 * too. */
int console_run(connection *c, const console_wish *wish)
{
    console k = {.c = c};
    const bl_dialogue *d = c->b->link_dialogue;
    if (d != NULL) k.pace_us = d->pace_us, k.rest_us = d->rest_us;
    if (wish != NULL) {
        k.hex = wish->hex;
        k.echo = wish->echo;
        if (wish->pace_us > 0) k.pace_us = wish->pace_us;
        if (wish->rest_us > 0) k.rest_us = wish->rest_us;
        if (wish->keep != NULL && !console_keep(&k, wish->keep)) return EXIT_FAILED;
    }
    console_show_words(&k);
    bool script = wish != NULL && wish->commands != NULL;
    if (script)
        obey_file(&k, wish->commands);
    else if (wish != NULL && wish->screen)
        console_screen(&k);
    else if (isatty(STDIN_FILENO))
        talk_by_keys(&k);
    else
        talk_by_lines(&k);
    console_end_monitor(&k);
    console_keep(&k, NULL);
    if (!k.lost && bl_drive_drain(&c->port) != BL_OK) {
        fail("%s: not all that was typed has left", c->name);
        k.lost = true;
    }
    /* A person has seen what failed; a script has only the exit status. */
    return k.lost || (k.failed && (script || !isatty(STDIN_FILENO))) ? EXIT_FAILED : EXIT_GOOD;
}

/* ---- the command ---- */

static struct {
    gboolean hex, echo, screen;
    char *keep, *commands;
    int pace, rest;
} options;

static const GOptionEntry entries[] = {
    {"hex", 0, 0, G_OPTION_ARG_NONE, &options.hex, "show bytes as hexadecimal numbers", NULL},
    {"echo", 0, 0, G_OPTION_ARG_NONE, &options.echo, "show what is typed; the remote does not",
     NULL},
    {"keep", 0, 0, G_OPTION_ARG_FILENAME, &options.keep, "write what comes to a file, too", "FILE"},
    {"pace", 0, 0, G_OPTION_ARG_INT, &options.pace, "pause after each byte (default: dialogue's)",
     "MS"},
    {"rest", 0, 0, G_OPTION_ARG_INT, &options.rest, "pause after each line (default: dialogue's)",
     "MS"},
    {"commands", 0, 0, G_OPTION_ARG_FILENAME, &options.commands,
     "obey commands from a file, up to the first that fails; - for standard input", "FILE"},
    {"screen", 0, 0, G_OPTION_ARG_NONE, &options.screen,
     "the whole screen: registers, code, source, memory, and the machine's words", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {
    "console",
    "Terminal and monitor in one, so that one program owns the port. Control-O opens a command "
    "line, "
    "and stops a program that the monitor runs; 'help' there lists what can be asked. From a pipe, "
    "lines go to the machine, and those that begin with Control-O are commands.",
    "  bootlace console -p /dev/ttyUSB0\n"
    "  echo 'see 0xC000..0xC03F' | bootlace console -p sim --commands -"};

/* A pipe is a script: no terminal is taken over, and a failed line is the exit status. */
int command_console(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries, bench_options, port_options, trace_options, NULL};
    bench *b;
    connection c;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 1) return cli_usage("console takes no operand");
    if (options.pace < 0 || options.pace > 10000 || options.rest < 0 || options.rest > 10000)
        return cli_usage("--pace and --rest are milliseconds from 0 to 10000");
    if (options.screen && (!isatty(STDIN_FILENO) || !isatty(STDOUT_FILENO)))
        return cli_usage("--screen needs a terminal; --commands FILE is for scripts");
    if (options.screen && options.commands != NULL)
        return cli_usage("--screen and --commands do not go together");
    int code = cli_bench(true, &b);
    if (code == EXIT_GOOD && (code = connect_board(b, &c)) == EXIT_GOOD) {
        console_wish wish = {options.hex,
                             options.echo,
                             options.keep,
                             (uint32_t)options.pace * 1000,
                             (uint32_t)options.rest * 1000,
                             options.commands,
                             options.screen};
        code = console_run(&c, &wish);
        int end = connect_end(&c);
        if (code == EXIT_GOOD) code = end;
    }
    bench_close(b);
    return code;
}
