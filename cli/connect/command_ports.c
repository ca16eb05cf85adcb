/* command_ports.c - bootlace ports; and the port that is meant when none is given. */
#include "json_answer.h"
#include "ports_found.h"

#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#include "bootlace/drive_frames.h"
#include "bootlace/drive_talk.h"
#include "bootlace/tap.h"
#include "posix/serial.h"

static void free_port(gpointer data)
{
    port_found *f = data;
    g_free(f->path);
    g_free(f->what);
    g_free(f);
}

void ports_free(GPtrArray *found)
{
    g_ptr_array_free(found, TRUE);
}

/* ---- asking on one device ---- */

/* Does one greet as the frames' remotes do? */
static bool greet(port_found *f, const bl_serial *port, uint32_t baud)
{
    uint8_t who = 0;
    if (bl_drive_greet(port, baud, &who, f->name, sizeof f->name) != BL_OK) return false;
    f->answer = who == BL_WHO_EYELET       ? PORT_EYELET
                : who == BL_WHO_PROGRAMMER ? PORT_PROGRAMMER
                                           : PORT_SOMETHING;
    return true;
}

/* Does one that speaks text wake up, and say his prompt? */
static bool wake(port_found *f, const bl_serial *port, const bl_dialogue *d, bool programmer)
{
    bl_talk talk;
    bl_talk_begin(&talk, d, BL_TALK_WAKE, 0, NULL, 0, port->now(port->context));
    if (d->prompt[0] == '\0' || bl_drive_talk(port, &talk, NULL) != BL_OK) return false;
    f->answer = PORT_DIALOGUE;
    f->programmer = programmer;
    g_strlcpy(f->name, d->name, sizeof f->name);
    return true;
}

/* One question on a device at one rate. True: that was it, or there is no use in going on. */
static bool ask_who(port_found *f, uint32_t baud, const bl_dialogue *d, bool programmer)
{
    enum { LISTEN_US = 50000 };
    posix_serial device = {.file = -1};
    bl_tap tap;
    uint8_t bytes[64];
    size_t got;
    bl_status status = posix_serial_open(&device, f->path, baud);
    if (status != BL_OK) {
        f->answer = status == BL_E_BUSY ? PORT_BUSY : PORT_UNUSABLE;
        return true;
    }
    bl_serial inner = posix_serial_port(&device), port = bl_tap_begin(&tap, &inner);
    /* Who speaks by himself is not interrupted in the middle of a word. */
    if (port.wait(port.context, LISTEN_US) == BL_OK)
        port.receive(port.context, bytes, sizeof bytes, &got);
    bool found = d != NULL ? wake(f, &port, d, programmer) : greet(f, &port, baud);
    if (!found && tap.came_count > 0) {
        f->answer = PORT_SOMETHING;
        bl_tap_text(&tap, f->name, sizeof f->name);
    }
    if (found || tap.came_count > 0) f->baud = baud;
    posix_serial_close(&device);
    return found;
}

static void look_at(const bench *b, port_found *f)
{
    if (b == NULL) {
        static const uint32_t usual[] = {115200, 19200, 9600};
        for (size_t i = 0; i < G_N_ELEMENTS(usual); i++)
            if (ask_who(f, usual[i], NULL, false)) return;
        return;
    }
    bool link = b->has_link && (b->link_dialogue != NULL || b->method == BL_METHOD_EYELET);
    if (link && ask_who(f, b->link_baud, b->link_dialogue, false)) return;
    bool asked = link && b->link_baud == b->programmer_baud && b->link_dialogue == b->dialogue;
    if (!asked) ask_who(f, b->programmer_baud, b->dialogue, true);
}

/* ---- all of them ---- */

static void add_port(void *context, const char *path, const char *what)
{
    port_found *f = g_new0(port_found, 1);
    f->path = g_strdup(path);
    f->what = g_strdup(what);
    g_ptr_array_add(context, f);
}

/* The pseudo-terminals of bootlace board serve, in the state folder. */
static void add_served(const bench *b, GPtrArray *found)
{
    static const char *const names[] = {"serial", "programmer"};
    for (size_t i = 0; b != NULL && i < G_N_ELEMENTS(names); i++) {
        char *folder = given.state != NULL ? g_strdup(given.state) : g_strdup(b->state);
        char *path = g_build_filename(folder, names[i], NULL);
        if (g_file_test(path, G_FILE_TEST_IS_SYMLINK) && g_file_test(path, G_FILE_TEST_EXISTS))
            add_port(found, path, "served by bootlace board serve");
        g_free(path);
        g_free(folder);
    }
}

GPtrArray *ports_look(const bench *b, char **named)
{
    GPtrArray *found = g_ptr_array_new_with_free_func(free_port);
    for (char **n = named; n != NULL && *n != NULL; n++)
        add_port(found, *n, "");
    if (named == NULL) {
        posix_serial_list(found, add_port);
        add_served(b, found);
    }
    for (guint i = 0; i < found->len && !cli_stopped(); i++)
        look_at(b, g_ptr_array_index(found, i));
    return found;
}

static const char *answer_word(const port_found *f)
{
    static const char *const words[] = {
        [PORT_NOTHING] = "nothing",       [PORT_EYELET] = "eyelet",
        [PORT_PROGRAMMER] = "programmer", [PORT_DIALOGUE] = "dialogue",
        [PORT_SOMETHING] = "something",   [PORT_BUSY] = "busy",
        [PORT_UNUSABLE] = "unusable",
    };
    _Static_assert(G_N_ELEMENTS(words) == PORT_UNUSABLE + 1, "one for each");
    return words[f->answer];
}

/* A pseudo-terminal carries bytes at any rate: an answer there proves none. */
static bool has_rate(const port_found *f)
{
    char *path = realpath(f->path, NULL);
    bool good = path == NULL || !g_str_has_prefix(path, "/dev/pts/");
    free(path);
    return good;
}

char *ports_text(const port_found *f)
{
    char rate[32] = "on a pseudo-terminal";
    if (has_rate(f)) g_snprintf(rate, sizeof rate, "at %u baud", f->baud);
    switch (f->answer) {
    case PORT_NOTHING: return g_strdup("nobody answers");
    case PORT_EYELET:
    case PORT_PROGRAMMER: return g_strdup_printf("%s, %s", f->name, rate);
    case PORT_DIALOGUE:
        return g_strdup_printf("%s, the %s of the bench file, %s", f->name,
                               f->programmer ? "programmer" : "monitor", rate);
    case PORT_SOMETHING:
        return g_strdup_printf("somebody who is not known, %s: \"%s\"", rate, f->name);
    case PORT_BUSY: return g_strdup("busy: another program is using it");
    default: return g_strdup("it cannot be opened, or is no serial device");
    }
}

static bool is_expected(const bench *b, const port_found *f, bool programmer)
{
    const bl_dialogue *d = programmer ? b->dialogue : b->link_dialogue;
    if (d != NULL) return f->answer == PORT_DIALOGUE && f->programmer == programmer;
    return f->answer == (programmer ? PORT_PROGRAMMER : PORT_EYELET);
}

/* Without -p the one device that answers is taken; two that do are a question for the user, never
 * a guess. */
char *ports_only(const bench *b, bool programmer)
{
    GPtrArray *found = ports_look(b, NULL);
    GString *list = g_string_new(NULL);
    char *path = NULL;
    unsigned fitting = 0;
    for (guint i = 0; i < found->len; i++) {
        const port_found *f = g_ptr_array_index(found, i);
        char *text = ports_text(f);
        g_string_append_printf(list, "\n  %s  %s", f->path, text);
        if (is_expected(b, f, programmer) && fitting++ == 0) {
            path = g_strdup(f->path);
            detail("port %s: %s", f->path, text);
        }
        g_free(text);
    }
    if (fitting != 1) {
        g_free(path);
        path = NULL;
        cli_usage("no port given: use -p sim, or -p and a serial device; %s%s",
                  found->len == 0 ? "none is plugged in here"
                  : fitting == 0  ? "on none of these answers what the bench file expects:"
                                  : "several of these answer:",
                  list->str);
    }
    g_string_free(list, TRUE);
    ports_free(found);
    return path;
}

/* ---- the command ---- */

static const usage words = {
    "ports [DEVICE...]",
    "Lists the serial devices there are, or those named, and who answers on each: Eyelet, the "
    "programmer, or what the bench file describes. Where nobody answers, no more than one "
    "greeting was sent.",
    "  bootlace ports\n  bootlace ports /dev/ttyUSB0"};

static void answer_ports(const GPtrArray *found)
{
    json_t *all = json_array();
    for (guint i = 0; i < found->len; i++) {
        const port_found *f = g_ptr_array_index(found, i);
        json_array_append_new(all, json_pack("{s:s,s:s,s:s,s:s,s:I}", "port", f->path, "system",
                                             f->what, "answer", answer_word(f), "name", f->name,
                                             "baud", (json_int_t)(has_rate(f) ? f->baud : 0)));
    }
    json_t *object = json_pack("{s:o}", "ports", all);
    answer(object);
}

static void show_ports(const GPtrArray *found)
{
    size_t widest = 0;
    for (guint i = 0; i < found->len; i++) {
        const port_found *f = g_ptr_array_index(found, i);
        if (strlen(f->path) > widest) widest = strlen(f->path);
    }
    for (guint i = 0; i < found->len; i++) {
        const port_found *f = g_ptr_array_index(found, i);
        char *text = ports_text(f);
        printf("%-*s  %s%s%s%s\n", (int)widest, f->path, text, *f->what != '\0' ? "  (" : "",
               f->what, *f->what != '\0' ? ")" : "");
        g_free(text);
    }
}

int command_ports(int argc, char **argv)
{
    const GOptionEntry *tables[] = {bench_options, state_options, json_options, NULL};
    bench *b;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    int code = cli_bench(false, &b);
    if (code != EXIT_GOOD) return code;
    cli_take_interrupts();
    GPtrArray *found = ports_look(b, argc > 1 ? argv + 1 : NULL);
    if (given.json)
        answer_ports(found);
    else if (found->len == 0)
        say("no serial device is plugged in here; the simulated bench is -p sim");
    else
        show_ports(found);
    ports_free(found);
    bench_close(b);
    return EXIT_GOOD;
}
