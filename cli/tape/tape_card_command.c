/* tape_card_command.c - bootlace tape card: what to enter for the machine's own tape routines. */
#include <string.h>

#include "tape/tape_card.h"
#include "tape_commands.h"
#include "upload/payload.h"

static struct {
    char *at, *typed;
    int number;
} options = {.number = 1};

static const GOptionEntry entries[] = {
    {"number", 0, 0, G_OPTION_ARG_INT, &options.number, "of the program, 0 to 255 (default 1)",
     "N"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {"typed", 0, 0, G_OPTION_ARG_STRING, &options.typed,
     "instead: the commands to type into the monitor that the bench file's dialogue describes",
     "save|load"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* A byte in the machine's radix. */
static const char *byte_text(const bench *b, uint8_t byte)
{
    static char texts[4][8];
    static unsigned next;
    char *text = texts[next++ % 4];
    g_snprintf(text, sizeof texts[0], b->radix == BL_OCTAL ? "0o%03o" : "$%02X", byte);
    return text;
}

static void print_routine(const bench *b, const char *title, const bench_routine *r,
                          const tape_card *card, const char *recorder)
{
    unsigned step = 1;
    cli_print("%s", title);
    for (size_t i = 0; i < card->count; i++) {
        const tape_card_step *s = &card->steps[i];
        cli_print("  %u. set %s to %s%s%s%s", step++, cli_address(b, s->at), byte_text(b, s->value),
                  s->what[0] != '\0' ? "   (" : "", s->what, s->what[0] != '\0' ? ")" : "");
    }
    cli_print("  %u. recorder: %s", step++, recorder);
    cli_print("  %u. start at %s", step++, cli_address(b, r->start));
    if (r->shows != NULL) cli_print("  %u. when it went well it shows: %s", step, r->shows);
}

static json_t *routine_json(const bench_routine *r, const tape_card *card)
{
    json_t *set = json_array();
    for (size_t i = 0; i < card->count; i++)
        json_array_append_new(set, json_pack("{si si ss}", "at", card->steps[i].at, "value",
                                             card->steps[i].value, "what", card->steps[i].what));
    return json_pack("{so si ss*}", "set", set, "start", r->start, "shows", r->shows);
}

static int make_card(const bench *b, const bench_routine *r, const payload *load, tape_card *card)
{
    uint32_t where = 0;
    bl_status status = tape_card_make(r, load->image, (uint8_t)options.number, card, &where);
    if (status != BL_E_OVERLAP) return EXIT_GOOD;
    return fail("%s: the byte at %s lies where the tape routine works", load->name,
                cli_address(b, where));
}

static void print_card(const bench *b, const payload *load, const tape_card *save,
                       const tape_card *back)
{
    const tape_card *card = b->tape.save.given ? save : back;
    cli_print("Card for %s on %s: %s..%s, %lu bytes", load->name, b->name,
              cli_address(b, card->first), cli_address(b, card->last),
              (unsigned long)bl_image_size(load->image));
    if (card->gaps) cli_print("There are gaps in it: whatever is in memory there is saved, too.");
    if (b->tape.save.given)
        print_routine(b, "To save:", &b->tape.save, save,
                      "wind to a free place, note the counter, record, wait for the leader");
    if (b->tape.load.given)
        print_routine(b, "To load:", &b->tape.load, back, "wind to its counter, play");
    cli_print("To check: %s holds %s, %s holds %s", cli_address(b, card->first),
              byte_text(b, card->first_byte), cli_address(b, card->last),
              byte_text(b, card->last_byte));
}

/* The steps as commands of the monitor's dialogue; the last of them starts the routine. */
static int type_card(const bench *b, const bench_routine *r, const tape_card *card)
{
    bl_status status = BL_OK;
    for (size_t i = 0; i < card->count && status == BL_OK; i++) {
        bl_piece piece = {card->steps[i].at, 1, &card->steps[i].value};
        status =
            bl_dialogue_script(b->link_dialogue, &piece, i + 1 == card->count, r->start, &cli_out);
    }
    return status == BL_OK ? EXIT_GOOD : fail("%s", bl_status_text(status));
}

static int check_typed(const bench *b)
{
    if (options.typed == NULL) return EXIT_GOOD;
    bool save = strcmp(options.typed, "save") == 0;
    if (!save && strcmp(options.typed, "load") != 0)
        return cli_usage("--typed %s: save or load", options.typed);
    const bench_routine *r = save ? &b->tape.save : &b->tape.load;
    if (!r->given || r->set_count == 0)
        return fail("%s: no routine to %s is described that needs something to be set", b->path,
                    options.typed);
    const bl_dialogue *d = b->link_dialogue;
    if (d == NULL || d->write[0] == '\0' || d->start[0] == '\0')
        return cli_usage(
            "--typed needs a dialogue with 'write' and 'start' in the bench file's link");
    return EXIT_GOOD;
}

static int card_for(const bench *b, const char *name)
{
    payload load;
    tape_card save = {0}, back = {0};
    int code = payload_begin(b, name, options.at, NULL, &load);
    if (code == EXIT_GOOD && bl_image_size(load.image) == 0)
        code = fail("%s: there are no bytes in it", name);
    if (code == EXIT_GOOD && b->tape.save.given) code = make_card(b, &b->tape.save, &load, &save);
    if (code == EXIT_GOOD && b->tape.load.given) code = make_card(b, &b->tape.load, &load, &back);
    const tape_card *card = b->tape.save.given ? &save : &back;
    if (code == EXIT_GOOD && options.typed != NULL) {
        bool saves = strcmp(options.typed, "save") == 0;
        code = type_card(b, saves ? &b->tape.save : &b->tape.load, saves ? &save : &back);
    } else if (code == EXIT_GOOD && given.json) {
        json_t *all = json_pack("{si si si si}", "first", card->first, "last", card->last,
                                "first_byte", card->first_byte, "last_byte", card->last_byte);
        if (b->tape.save.given)
            json_object_set_new(all, "save", routine_json(&b->tape.save, &save));
        if (b->tape.load.given)
            json_object_set_new(all, "load", routine_json(&b->tape.load, &back));
        answer(all);
    } else if (code == EXIT_GOOD) {
        print_card(b, &load, &save, &back);
    }
    payload_end(&load);
    return code;
}

static int tape_card_run(int argc, char **argv)
{
    bench *b = NULL;
    if (argc != 2) return cli_usage("one program: bootlace tape card IMAGE");
    if (options.number < 0 || options.number > 255)
        return cli_usage("--number %d: programs have numbers of 0 to 255", options.number);
    int code = cli_bench(true, &b);
    if (code == EXIT_GOOD && !b->tape.save.given && !b->tape.load.given)
        code =
            fail("%s: no tape routines are described: tape: {save: ..., load: ...} (docs/tape.md)",
                 b->path);
    if (code == EXIT_GOOD) code = check_typed(b);
    if (code == EXIT_GOOD) code = card_for(b, argv[1]);
    bench_close(b);
    return code;
}

const subcommand tape_card_command = {
    .name = "card",
    .words =
        {"tape card IMAGE",
         "Prints what to enter for the tape routines of the machine's own ROM, as the bench file "
         "describes them: to save a program, to load it, and to check it.",
         "  bootlace tape card lamp.asm\n  bootlace tape card rom.bin --at 0x0200 --number 3"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = tape_card_run,
    .brief = "what to enter for the machine's own tape routines",
};
