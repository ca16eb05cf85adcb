/* console_obey.c - the command line inside the console. */
#include <string.h>

#include "bootlace/drive_transport.h"
#include "bootlace/lines.h"
#include "console.h"

static const char help[] =
    "The line, and files:\n"
    "  send [FILE] [run]    source or image to RAM, verified; run starts it\n"
    "  check [FILE]         compares memory with it\n"
    "  fetch RANGE FILE     saves memory, down the line, read twice\n"
    "  load FILE [PLACE]    source or image into memory, read back\n"
    "  save RANGE FILE      saves memory as the monitor sees it\n"
    "  patch FILE           saves what was changed here, in the image that it was changed in\n"
    "  power on | off       the simulated board's\n"
    "  boot [anew]          builds the disk, writes what has changed to the one in the simulated\n"
    "                       drive, and resets the board; anew: makes the disk from the begin\n"
    "  paste FILE           types a text, at the pace that is set\n"
    "  pace MS [MS]         pause after each character, and after each line\n"
    "  keep FILE | off      writes what comes to a file, too\n"
    "  hex on | off         shows bytes as numbers\n"
    "  echo on | off        shows what is typed\n"
    "  break                holds the line at break\n"
    "  help [WORD]          this, or what a word takes, with an example\n"
    "  quit                 leaves; the machine goes on. An empty line goes back to the terminal\n"
    "Memory and programs (whole words, or as short as one can be meant):\n";

/* send and check as on the command line, over the line that is open already. */
static void transfer(console *k, int count, char **word, bool compare)
{
    payload l;
    bool run = count > 1 && strcmp(word[count - 1], "run") == 0;
    transfer_wish w = {
        .compare = compare, .run = run, .hold = console_program_waits(k), .stay = true};
    if (run) count--;
    char *name = count > 1 ? g_strdup(word[1]) : only_ram_piece(k->c->b);
    if (name == NULL) {
        fail("no file given, and the bench file does not build exactly one piece for RAM");
        k->failed = true;
        return;
    }
    k->c->began = k->c->port.now(k->c->port.context);
    if (console_cpu_stands(k)) {
        fail(
            "the CPU stands, so nothing there hears the line: 'load' needs nobody, or 'run for 1s' "
            "first");
        k->failed = true;
        g_free(name);
        return;
    }
    console_clear_breakpoints(k);
    int code = payload_begin(k->c->b, name, NULL, NULL, &l);
    if (code == EXIT_GOOD) code = transfer_look(k->c->b, &l, &w);
    if (code == EXIT_GOOD) code = transfer_payload(k->c, &l, &w);
    k->failed |= code != EXIT_GOOD;
    console_show_words(k);
    if (code == EXIT_GOOD && !compare)
        console_keep_payload(k, &l);
    else
        payload_end(&l);
    g_free(name);
}

static void fetch_range(console *k, char **word)
{
    bl_range range;
    bl_filetype type = cli_type_of_output(word[2]);
    k->c->began = k->c->port.now(k->c->port.context);
    console_clear_breakpoints(k);
    int code = EXIT_GOOD;
    if (type == BL_FILE_UNKNOWN) code = fail("%s: bin, hex or srec, by the ending", word[2]);
    if (code == EXIT_GOOD) code = transfer_range(k->c->b, word[1], true, &range);
    if (code == EXIT_GOOD) code = transfer_fetch(k->c, range, word[2], type);
    k->failed |= code != EXIT_GOOD;
}

static bool show_paste(void *context, const bl_transport *transport)
{
    (void)context;
    progress("pasting", transport->done, transport->total, "characters", 0);
    return !cli_stopped();
}

/* Typed at the pace of the console, and said to be unverified, for nobody has looked. */
static void paste(console *k, const char *path)
{
    static const bl_transport_watch watch = {NULL, show_paste};
    bl_lines_manner manner = {"\r", "", "", "", false, k->pace_us, k->rest_us, 0};
    bl_lines way;
    char *text = NULL;
    size_t length = 0;
    if (host_read_file(path, &text, &length, &cli_sink) != BL_OK) {
        k->failed = true;
        return;
    }
    bl_lines_send(&way, k->c->baud, (bl_text){text, length}, &manner,
                  k->c->port.now(k->c->port.context));
    bl_status status = bl_drive_transport(&k->c->port, &way.transport, &watch);
    progress_end();
    k->failed |= status != BL_OK;
    if (status == BL_E_ARGUMENT)
        fail("%s: line %u is longer than %d characters", path, way.line, BL_LINES_LONGEST);
    else if (status != BL_OK)
        fail("%s: stopped on line %u", path, way.line);
    else
        say("%s: %u lines typed, not verified", path, way.line);
    g_free(text);
}

/* Milliseconds, unless it is said otherwise. */
static bool parse_pause(const char *text, uint32_t *us)
{
    const uint64_t longest = 10000000000u;
    uint64_t ns;
    bl_text written = {text, strlen(text)};
    if (bl_quantity_parse(written, BL_NANOSECONDS, "ms", &ns) != BL_OK || ns > longest)
        return false;
    *us = (uint32_t)(ns / 1000);
    return true;
}

static void set_pace(console *k, int count, char **word)
{
    uint32_t pace, rest = k->rest_us;
    if (!parse_pause(word[1], &pace) || (count > 2 && !parse_pause(word[2], &rest))) {
        fail("pace CHARACTER [LINE]: pauses like 5 ms, or just milliseconds; 10 s at most");
        k->failed = true;
        return;
    }
    k->pace_us = pace;
    k->rest_us = rest;
}

/* For a quarter of a second, as a serial device does it. */
static void send_break(console *k)
{
    bl_status status;
    if (k->c->sim != NULL)
        status = sim_line_break(&k->c->sim->sim.board_line, SIMULATION_BREAK_NS);
    else
        status = posix_serial_break(&k->c->device);
    if (status == BL_E_UNSUPPORTED)
        fail("%s: a pseudo-terminal carries no break: type it where 'bootlace board serve' runs",
             k->c->name);
    else if (status != BL_OK)
        fail("%s: no break could be sent", k->c->name);
    k->failed |= status != BL_OK || !console_listen(k, SIMULATION_BREAK_NS / 1000);
}

/* All words, or one. */
static void show_help(console *k, const char *about)
{
    GString *text = g_string_new(about == NULL ? help : NULL);
    bool known = monitor_help(about, text);
    if (known)
        fputs(text->str, stderr);
    else
        fail("there is no word '%s', or it may be several; 'help' lists them", about);
    k->failed |= !known;
    g_string_free(text, TRUE);
}

/* reset, as the monitor does it. With held a key is pressed then, which keeps Eyelet from starting
 * a program. False: it is another word. */
static bool reset_machine(console *k, int count, char **word)
{
    bool held = count == 2 && strcmp(word[1], "held") == 0, failed = k->failed;
    if (count == 2 && !held) return false;
    k->failed = false;
    console_ask_monitor(k, "reset");
    if (!k->failed && held && console_type(k, '\r')) console_listen(k, 100000);
    k->failed |= failed;
    return true;
}

/* Words of the console, whole. False: it is none of them. */
static bool obey_line(console *k, int count, char **word)
{
    const char *verb = word[0];
    bool on = count == 2 && strcmp(word[1], "on") == 0;
    if (strcmp(verb, "send") == 0 || strcmp(verb, "check") == 0)
        transfer(k, count, word, verb[0] == 'c');
    else if (strcmp(verb, "fetch") == 0 && count == 3)
        fetch_range(k, word);
    else if (strcmp(verb, "load") == 0 && (count == 2 || count == 3))
        k->failed |= !console_load(k, count, word);
    else if (strcmp(verb, "save") == 0 && count == 3)
        k->failed |= !console_save(k, word);
    else if (strcmp(verb, "patch") == 0 && count == 2)
        k->failed |= !console_patch(k, word);
    else if (strcmp(verb, "power") == 0 && count == 2 && (on || strcmp(word[1], "off") == 0))
        k->failed |= !console_power(k, on);
    else if (strcmp(verb, "boot") == 0 &&
             (count == 1 || (count == 2 && strcmp(word[1], "anew") == 0)))
        k->failed |= !console_boot(k, count == 2);
    else if (console_is_touch(verb) && (count == 2 || count == 3))
        k->failed |= !console_touch(k, word);
    else if (strcmp(verb, "front") == 0 && count <= 2)
        k->failed |= !console_front(k, count == 2 ? word[1] : NULL);
    else if (strcmp(verb, "reset") == 0 && count <= 2)
        return reset_machine(k, count, word);
    else if (strcmp(verb, "paste") == 0 && count == 2)
        paste(k, word[1]);
    else if (strcmp(verb, "pace") == 0 && count > 1)
        set_pace(k, count, word);
    else if (strcmp(verb, "keep") == 0 && count == 2)
        k->failed |= !console_keep(k, strcmp(word[1], "off") == 0 ? NULL : word[1]);
    else if (strcmp(verb, "hex") == 0 && count == 2)
        k->hex = on, k->column = 0;
    else if (strcmp(verb, "echo") == 0 && count == 2)
        k->echo = on;
    else if (strcmp(verb, "break") == 0 && count == 1)
        send_break(k);
    else if (strcmp(verb, "quit") == 0)
        k->over = true;
    else if (strcmp(verb, "help") == 0)
        show_help(k, count > 1 ? word[1] : NULL);
    else
        return false;
    return true;
}

/* What is neither a command of the console nor a word of the monitor. */
static void tell_unknown_word(console *k, const char *verb)
{
    if (strcmp(verb, "break") == 0)
        fail("break sends a break on the line, and takes nothing; 'breakpoint PLACE' stops a "
             "program");
    else
        fail("'%s' is no command of the console, or something is missing; 'help' lists them", verb);
    k->failed = true;
}

const char *console_own_word(size_t index)
{
    static const char *const own[] = {"send",    "check", "fetch", "load",  "save", "patch",
                                      "power",   "boot",  "reset", "paste", "pace", "keep",
                                      "hex",     "echo",  "break", "help",  "quit", "press",
                                      "release", "tap",   "front"};
    return index < G_N_ELEMENTS(own) ? own[index] : NULL;
}

/* The first word is one of the console's own: then the line is read as a shell would. */
bool console_is_own_word(const char *line)
{
    const char *own;
    size_t n = strcspn(line, " \t");
    for (size_t i = 0; (own = console_own_word(i)) != NULL; i++)
        if (strlen(own) == n && strncmp(own, line, n) == 0) return true;
    return false;
}

/* Own words are read as a shell would; the monitor reads its lines itself. */
void console_obey(console *k, const char *line)
{
    int count = 0;
    char **word = NULL;
    GError *error = NULL;
    if (k->monitor != NULL && monitor_enters(k->monitor) != NULL) {
        console_ask_monitor(k, line);
        return;
    }
    line += strspn(line, " \t");
    if (!console_is_own_word(line)) {
        char *verb = g_strndup(line, strcspn(line, " \t"));
        if (!console_ask_monitor(k, line)) tell_unknown_word(k, verb);
        g_free(verb);
        return;
    }
    if (!g_shell_parse_argv(line, &count, &word, &error)) {
        if (!g_error_matches(error, G_SHELL_ERROR, G_SHELL_ERROR_EMPTY_STRING))
            fail("%s", error->message), k->failed = true;
        g_error_free(error);
        return;
    }
    host_forget_read(); /* what one command has read the next may replace */
    if (!obey_line(k, count, word)) tell_unknown_word(k, word[0]);
    g_strfreev(word);
}
