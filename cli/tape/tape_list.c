/* tape_list.c - bootlace tape list: a catalogue. */
#include "tape_commands.h"

static struct {
    int baud;
} options;

static const GOptionEntry entries[] = {
    {"baud", 0, 0, G_OPTION_ARG_INT, &options.baud, "its rate (default: found out)", "N"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static void print_catalogue(const bench *b, const GPtrArray *programs)
{
    uint32_t counter;
    bool counted = bench_counter(b, 0, &counter);
    tape_print("%8s%s %4s  %-16s  %-14s  %s", "time", counted ? "  counter" : "", "no", "name",
               "what", "state");
    for (guint i = 0; i < programs->len; i++) {
        const tape_program *p = g_ptr_array_index(programs, i);
        char *state = tape_state(p), place[16] = "";
        if (bench_counter(b, p->at, &counter)) g_snprintf(place, sizeof place, "%9u", counter);
        tape_print("%8s%s %4u  %-16s  %-14s  %s%s%s", tape_time(p->at), place, p->number,
                   tape_program_name(p), tape_what(b, p),
                   p->outcome == TAPE_PROVEN ? cli_green() : cli_yellow(), state, cli_plain());
        tape_say_blocks(p);
        g_free(state);
    }
}

/* A catalogue is right only if everything on the tape is. */
static int list_tape(int argc, char **argv)
{
    bl_keying room[TAKE_KEYINGS];
    take_keyings keyings;
    bench *b = NULL;
    if (argc < 2) return cli_usage("no take given: bootlace tape list TAKE...");
    int code = cli_bench(false, &b);
    if (code == EXIT_GOOD) code = tape_keyings(b, options.baud, room, &keyings);
    GPtrArray *takes = tape_takes_new();
    if (code == EXIT_GOOD) code = tape_takes(argv + 1, argc - 1, keyings, takes);
    if (code == EXIT_GOOD) {
        GPtrArray *programs = tape_programs_find((take *const *)takes->pdata, takes->len);
        json_t *all = json_array(), *heard = json_array();
        for (guint i = 0; i < takes->len; i++) {
            tape_say_take(g_ptr_array_index(takes, i));
            json_array_append_new(heard, tape_take_json(g_ptr_array_index(takes, i)));
        }
        for (guint i = 0; i < programs->len; i++) {
            const tape_program *p = g_ptr_array_index(programs, i);
            if (p->outcome != TAPE_PROVEN) code = EXIT_FAILED;
            json_array_append_new(all, tape_program_json(b, p));
        }
        if (given.json)
            answer(json_pack("{so so}", "takes", heard, "programs", all));
        else if (programs->len > 0)
            print_catalogue(b, programs);
        if (programs->len == 0)
            code = fail("no blocks of ours are on it; bare bytes and records: bootlace tape read "
                        "TAKE --as bare -o FILE");
        if (!given.json) json_decref(heard), json_decref(all);
        g_ptr_array_unref(programs);
    }
    g_ptr_array_unref(takes);
    bench_close(b);
    return code;
}

const subcommand tape_list = {
    .name = "list",
    .words = {"tape list TAKE...",
              "Lists the programs on a tape: where they are, and whether every block of them is "
              "good. Several takes of one tape help each other.",
              "  bootlace tape list evening.wav\n  bootlace tape list take1.flac take2.flac"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = list_tape,
    .brief = "the programs on it, where they are, and whether they are good",
};
