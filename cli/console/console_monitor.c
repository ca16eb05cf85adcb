/* console_monitor.c - the monitor in the console: on which target, what its answers look like, and
 * the keys while a program runs. */
#include <poll.h>
#include <string.h>
#include <unistd.h>

#include "console.h"
#include "define.h"
#include "eyelet.h"
#include "sim/sim_target.h"

/* A program says something while its target works. */
static void hear_words(void *context, const uint8_t *bytes, size_t count)
{
    console *k = context;
    console_show(k, bytes, count);
}

/* The simulated board itself, where its CPU runs; otherwise what its monitor, or the machine's, can
 * do down the line. */
static bl_target choose_target(console *k)
{
    static const bl_target none;
    connection *c = k->c;
    k->line_watch = (bl_drive_watch){.context = k, .said = hear_words};
    if (c->sim != NULL && c->b->neighbour == NULL) {
        /* Without memory for a past there is a present. */
        if (sim_past_open(&c->sim->sim, &host_memory, &k->past) != BL_OK) k->past = NULL;
        return sim_target(&c->sim->sim);
    }
    if (c->b->link_dialogue != NULL) {
        bl_talk_target_begin(&k->talk, &c->port, c->b->link_dialogue, &k->line_watch);
        return bl_talk_target_functions(&k->talk);
    }
    if (!connect_is_eyelet(c->b)) return none;
    bl_eyelet_target_begin(&k->eyelet, &c->port, c->baud, eyelet_sum_ns(c->b), &k->line_watch);
    bl_eyelet_target_with_registers(&k->eyelet, c->b->sheet);
    return bl_eyelet_target_functions(&k->eyelet);
}

/* ---- while a program runs ---- */

/* Keys go to the machine; the command key stops the run. */
static bool pass_keys(console *k)
{
    struct pollfd p = {.fd = STDIN_FILENO, .events = POLLIN};
    uint8_t keys[64];
    if (poll(&p, 1, BL_DEBUG_SLICE_US / 1000) <= 0) return true;
    ssize_t n = read(STDIN_FILENO, keys, sizeof keys);
    for (ssize_t i = 0; i < n; i++) {
        if (keys[i] == CONSOLE_COMMAND_KEY) return false;
        if (bl_drive_send(&k->c->port, &keys[i], 1) != BL_OK) return false;
    }
    return n > 0;
}

/* What came meanwhile is shown at once. On a simulated board the target lets time pass, and the
 * line is only looked at. */
static bool run_on(void *context)
{
    console *k = context;
    uint8_t bytes[256];
    size_t got = 0;
    bl_status status;
    do {
        status = k->c->port.receive(k->c->port.context, bytes, sizeof bytes, &got);
        console_show(k, bytes, got);
    } while (status == BL_OK && got == sizeof bytes);
    if (cli_stopped()) return false;
    if (k->screen != NULL) return console_screen_pump(k);
    return !k->keys_raw || pass_keys(k);
}

/* ---- answers ---- */

static void take_source_names(console *k, project_extras *extras)
{
    memset(extras, 0, sizeof *extras);
    if (define_take(extras) != EXIT_GOOD) memset(extras, 0, sizeof *extras);
    k->monitor = monitor_open(k->c->b, &k->target, extras);
    monitor_set_watch(k->monitor, (bl_debug_watch){k, run_on});
    if (k->has_loaded) monitor_set_program(k->monitor, k->loaded.program);
}

monitor *console_monitor(console *k)
{
    static project_extras extras; /* as long as the process: it is of the command line */
    if (k->monitor != NULL) return k->monitor;
    k->target = choose_target(k);
    take_source_names(k, &extras);
    return k->monitor;
}

/* Results are lines of standard output; what the machine said before ends its own line first. */
static void end_machine_line(console *k)
{
    if (k->mid_line && isatty(STDOUT_FILENO)) cli_raw("\n", 1);
    k->mid_line = false;
}

/* The console's own words may be longer than the monitor's: they are looked for first. */
bool console_ask_monitor(console *k, const char *line)
{
    GString *out = g_string_new(NULL), *said = g_string_new(NULL);
    cli_take_interrupts();
    if (k->by_keys) console_keys_raw(k, true);
    monitor_status status = monitor_obey(console_monitor(k), line, out, said);
    run_on(k); /* what was said up to now */
    if (k->by_keys) console_keys_raw(k, false);
    if (status != MONITOR_UNKNOWN) end_machine_line(k);
    if (out->len > 0) k->lost |= fputs(out->str, stdout) == EOF;
    fflush(stdout);
    g_strchomp(said->str);
    if (*said->str != '\0') {
        if (status == MONITOR_FAILED)
            fail("%s", said->str);
        else
            say("%s", said->str);
    }
    k->failed |= status == MONITOR_FAILED;
    g_string_free(out, TRUE);
    g_string_free(said, TRUE);
    return status != MONITOR_UNKNOWN;
}

/* What is in memory is the program's again, for whoever looks next. */
void console_clear_breakpoints(console *k)
{
    if (k->monitor == NULL || k->c->sim != NULL || !connect_is_eyelet(k->c->b)) return;
    if (bl_eyelet_target_clear(&k->eyelet) != BL_OK)
        fail("a program runs with breakpoints in it: 'halt' first, or send it again");
}

/* On a simulated board the CPU stands while its target says so, and its monitor hears nothing. */
bool console_cpu_stands(const console *k)
{
    return k->c->sim != NULL && k->c->sim->sim.stop != BL_STOP_NOT;
}

bool console_program_waits(const console *k)
{
    return k->monitor != NULL && k->eyelet.state_count > 1 && !k->eyelet.runs;
}

/* The program goes on when the console ends, without breakpoints. */
void console_end_monitor(console *k)
{
    console_clear_breakpoints(k);
    monitor_close(k->monitor);
    k->monitor = NULL;
    sim_past_close(k->past);
    k->past = NULL;
    if (k->c->sim != NULL) sim_target_end(&k->c->sim->sim);
    if (k->has_loaded) payload_end(&k->loaded);
    k->has_loaded = false;
}

/* ---- files ---- */

/* load FILE [PLACE]: through the target, read back. */
bool console_load(console *k, int count, char **word)
{
    monitor *m = console_monitor(k);
    payload l;
    uint32_t place = 0, first = 0;
    char *why = NULL;
    bool moved = count > 2;
    if (moved && !monitor_address(m, word[2], &place, &why)) {
        fail("%s", why);
        g_free(why);
        return false;
    }
    /* A raw binary has no place of its own. */
    char *at = moved ? g_strdup_printf("%u", place) : NULL;
    bool raw = bl_filetype_of((bl_text){word[1], strlen(word[1])}) == BL_FILE_BIN;
    int code = payload_begin(k->c->b, word[1], raw ? at : NULL, NULL, &l);
    g_free(at);
    uint64_t bytes = 0;
    for (size_t i = 0; code == EXIT_GOOD && i < bl_image_pieces(l.image); i++) {
        bl_piece p = bl_image_piece(l.image, i);
        if (i == 0) first = p.first;
        uint32_t to = moved ? place + (p.first - first) : p.first;
        bl_status status = monitor_write(m, to, p.bytes, p.count);
        if (status != BL_OK)
            code = fail("%s: memory at %s: %s", word[1], cli_address(k->c->b, to),
                        monitor_reason(status));
        bytes += p.count;
    }
    if (code == EXIT_GOOD)
        say("%s: %llu bytes to %s, %s", word[1], (unsigned long long)bytes,
            cli_address(k->c->b, moved ? place : first),
            k->target.read != NULL ? "read back" : "not verified");
    if (code == EXIT_GOOD && !moved)
        console_keep_payload(k, &l);
    else
        payload_end(&l);
    return code == EXIT_GOOD;
}

void console_keep_payload(console *k, payload *l)
{
    if (k->monitor != NULL) monitor_set_program(k->monitor, l->program);
    if (k->has_loaded) payload_end(&k->loaded);
    k->loaded = *l;
    k->has_loaded = true;
}

/* patch FILE: what was changed here, in the image that it was changed in. */
bool console_patch(console *k, char **word)
{
    bl_image *image = NULL;
    bl_filetype type = cli_type_of_output(word[1]);
    if (type == BL_FILE_UNKNOWN)
        return fail("%s: bin, hex or srec, by the ending", word[1]) == EXIT_GOOD;
    bl_status status = monitor_patched(console_monitor(k), &image);
    if (status == BL_E_NOT_FOUND) return fail("nothing was changed here") == EXIT_GOOD;
    if (status != BL_OK) return fail("memory: %s", monitor_reason(status)) == EXIT_GOOD;
    int code = cli_check_binary(image, type, false);
    if (code == EXIT_GOOD) code = cli_save_image(word[1], type, image, k->c->b->name);
    if (code == EXIT_GOOD)
        say("%s: %llu bytes, with the changes in them, as %s", word[1],
            (unsigned long long)bl_image_size(image), bl_filetype_text(type));
    bl_image_close(image);
    return code == EXIT_GOOD;
}

/* power off, power on: the simulated board's. */
bool console_power(console *k, bool on)
{
    simulation *s = k->c->sim;
    if (s == NULL) return fail("only the simulated board's power is ours to switch") == EXIT_GOOD;
    console_end_monitor(k); /* RAM is forgotten, and with it the past */
    if (on)
        simulation_power_on(s);
    else
        simulation_power_off(s);
    say(on ? "on" : "off; RAM is forgotten");
    return on ? console_listen(k, 100000) : true;
}

/* save RANGE FILE: what the target shows, exactly. */
bool console_save(console *k, char **word)
{
    monitor *m = console_monitor(k);
    bl_range range;
    char *why = NULL;
    if (!monitor_range(m, word[1], &range, &why)) {
        fail("%s", why);
        g_free(why);
        return false;
    }
    bl_filetype type = cli_type_of_output(word[2]);
    if (type == BL_FILE_UNKNOWN)
        return fail("%s: bin, hex or srec, by the ending", word[2]) == EXIT_GOOD;
    uint8_t *bytes = g_malloc((size_t)range.count);
    bl_status status = monitor_read(m, range.first, bytes, (size_t)range.count);
    int code = EXIT_GOOD;
    if (status != BL_OK) code = fail("memory: %s", monitor_reason(status));
    if (code == EXIT_GOOD)
        code =
            cli_save_bytes(word[2], type, range.first, bytes, (size_t)range.count, k->c->b->name);
    if (code == EXIT_GOOD)
        say("%s: %llu bytes from %s as %s", word[2], (unsigned long long)range.count,
            cli_address(k->c->b, range.first), bl_filetype_text(type));
    g_free(bytes);
    return code == EXIT_GOOD;
}
