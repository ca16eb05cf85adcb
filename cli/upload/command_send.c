/* command_send.c - bootlace send, check. */
#include <string.h>

#include "console/console.h"
#include "define.h"
#include "logbook.h"
#include "upload.h"
#include "where.h"

static struct {
    char *at, *entry, *range;
    char *method;
    gboolean run, all, stay, store, sent, watch;
} options;

static const GOptionEntry source_entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry method_entries[] = {
    {"method", 0, 0, G_OPTION_ARG_STRING, &options.method,
     "how bytes get there (default: as the bench file says)", "METHOD"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry check_entries[] = {
    {"range", 'r', 0, G_OPTION_ARG_STRING, &options.range, "only what lies there", "RANGE"},
    {"sent", 0, 0, G_OPTION_ARG_NONE, &options.sent,
     "with what was sent last over this line, as the logbook has it", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry send_entries[] = {
    {"run", 0, 0, G_OPTION_ARG_NONE, &options.run, "start it after the proof", NULL},
    {"entry", 0, 0, G_OPTION_ARG_STRING, &options.entry,
     "start it there (default: its entry point; a raw binary has none)", "ADDRESS"},
    {"all", 0, 0, G_OPTION_ARG_NONE, &options.all, "write every block, not only what differs",
     NULL},
    {"store", 0, 0, G_OPTION_ARG_NONE, &options.store,
     "keep it in RAM with a battery; it starts at power-on (docs/tongue.md)", NULL},
    {"stay", 0, 0, G_OPTION_ARG_NONE, &options.stay, "stay connected, as bootlace console", NULL},
    {"watch", 'w', 0, G_OPTION_ARG_NONE, &options.watch,
     "do it again whenever a source changes, until Control-C", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage send_words = {
    "send [SOURCE-or-IMAGE]",
    "Uploads to RAM, through Eyelet or whatever the bench file says is there (docs/send.md), and "
    "says how it was verified.",
    "  bootlace send lamp.asm -p sim --run\n  bootlace send lamp.hex -p /dev/ttyUSB0\n"
    "  bootlace send out/eyelet.hex --method acked -p sim --run"};
static const usage check_words = {"check [SOURCE-or-IMAGE]",
                                  "Compares the machine's memory with what was built; a difference "
                                  "is told as symbol and source line.",
                                  "  bootlace check lamp.asm -p sim\n"
                                  "  bootlace check lamp.asm -r tenth..character -p sim"};

/* Connects, sends or compares, and stays if that is wished. */
static int send_payload(const bench *b, payload *l, transfer_wish *w)
{
    connection c;
    int code = transfer_look(b, l, w);
    if (code == EXIT_GOOD) code = connect_board(b, &c);
    if (code != EXIT_GOOD) return code;
    code = transfer_payload(&c, l, w);
    if (code == EXIT_GOOD && options.stay) code = console_run(&c, NULL);
    int end = connect_end(&c);
    return code != EXIT_GOOD ? code : end;
}

/* --entry: an address, or a symbol of what is sent. */
static int take_entry(const bench *b, payload *l)
{
    uint32_t entry;
    int code = EXIT_GOOD;
    if (options.entry == NULL) return code;
    code = payload_address(b, l, "--entry", options.entry, &entry);
    if (code == EXIT_GOOD) bl_image_set_entry(l->image, entry);
    return code;
}

/* --range: what lies elsewhere is left out. */
static int take_range(const bench *b, payload *l)
{
    bl_range range;
    places p = {.b = b, .w = &l->names};
    if (options.range == NULL) return EXIT_GOOD;
    int code = where_range(&p, "--range", options.range, &range);
    if (code != EXIT_GOOD) return code;
    if (!payload_cut(l, range))
        return cli_usage("--range %s: %s has nothing there", options.range, l->name);
    return EXIT_GOOD;
}

static int send_once(const bench *b, const char *name, transfer_wish *w,
                     const project_extras *extras)
{
    payload l;
    int code = payload_begin(b, name, options.at, extras, &l);
    if (code == EXIT_GOOD) code = take_entry(b, &l);
    if (code == EXIT_GOOD) code = take_range(b, &l);
    if (code == EXIT_GOOD && w->store) code = payload_store(b, &l);
    if (code == EXIT_GOOD) code = send_payload(b, &l, w);
    payload_end(&l);
    return code;
}

/* check --sent: what the logbook says was sent last over this line. */
static int check_sent(const bench *b, transfer_wish *w)
{
    payload l = {.name = "what was sent last", .owns_image = true};
    connection c;
    int code = connect_board(b, &c);
    if (code != EXIT_GOOD) return code;
    logbook *book = logbook_open(b, &cli_sink);
    char *line = connect_line(&c);
    logbook_last_sent(book, b, line, &l.image);
    if (l.image == NULL)
        code = fail("the logbook knows of nothing that was sent over this line through Eyelet");
    if (code == EXIT_GOOD) code = take_range(b, &l);
    if (code == EXIT_GOOD) code = transfer_look(b, &l, w);
    if (code == EXIT_GOOD) code = transfer_payload(&c, &l, w);
    payload_end(&l);
    g_free(line);
    logbook_close(book);
    int end = connect_end(&c);
    return code != EXIT_GOOD ? code : end;
}

/* Each time that something is saved: assembled, sent, run. A fault is told, and mended by the next
 * save. */
static int send_watching(const bench *b, const char *name, transfer_wish *w)
{
    GPtrArray *seen = g_ptr_array_new_with_free_func(g_free);
    project_extras extras = {.seen = seen};
    while (!cli_stopped()) {
        g_ptr_array_set_size(seen, 0);
        cli_watch_turn();
        if (send_once(b, name, w, &extras) == EXIT_GOOD) say("waiting for the next save");
        cli_watch_tell();
        g_ptr_array_add(seen, g_strdup(name));
        cli_watch_wait(seen);
    }
    g_ptr_array_free(seen, TRUE);
    return EXIT_GOOD;
}

/* send and check differ in one flag, so what is compared is what would be sent. */
static int send_or_check(int argc, char **argv, bool compare)
{
    bench *b;
    transfer_wish w = {.compare = compare,
                       .all = options.all,
                       .run = options.run,
                       .store = options.store,
                       .stay = options.stay};
    if (argc > 2) return cli_usage("one source or image at a time");
    if (options.entry != NULL && !options.run && !options.store)
        return cli_usage("--entry goes with --run or --store");
    if (options.watch && (options.stay || given.json))
        return cli_usage("--watch goes neither with --stay nor with --json");
    int code = cli_bench(true, &b);
    if (code == EXIT_GOOD) code = transfer_method(b, options.method);
    if (code != EXIT_GOOD) {
        bench_close(b);
        return code;
    }
    if (options.sent) {
        code = argc == 2 || options.at != NULL
                   ? cli_usage("check --sent takes no source or image, and no --at")
                   : check_sent(b, &w);
        bench_close(b);
        return code;
    }
    char *name = argc == 2 ? g_strdup(argv[1]) : only_ram_piece(b);
    if (name == NULL)
        code = cli_usage("no source or image given, and the bench file does not build exactly one "
                         "piece for RAM");
    else
        code = options.watch ? send_watching(b, name, &w) : send_once(b, name, &w, NULL);
    g_free(name);
    bench_close(b);
    return code;
}

int command_send(int argc, char **argv)
{
    const GOptionEntry *tables[] = {send_entries,   source_entries, method_entries,
                                    define_options, bench_options,  port_options,
                                    trace_options,  json_options,   NULL};
    if (!cli_parse(&argc, &argv, &send_words, tables)) return EXIT_USAGE;
    return send_or_check(argc, argv, false);
}

int command_check(int argc, char **argv)
{
    const GOptionEntry *tables[] = {check_entries,  source_entries, method_entries,
                                    define_options, bench_options,  port_options,
                                    trace_options,  json_options,   NULL};
    if (!cli_parse(&argc, &argv, &check_words, tables)) return EXIT_USAGE;
    return send_or_check(argc, argv, true);
}
