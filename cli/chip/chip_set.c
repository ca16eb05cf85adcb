/* chip_set.c - bootlace chip write --set: one chip of the bench after the other, each asked for. */
#include <string.h>
#include <unistd.h>

#include "chip_work.h"

typedef struct tally {
    unsigned number, total, good, skipped;
} tally;

/* The first letter of an answer: '\n' for Enter, 'q' at the end of input. */
static char ask_user(const char *question)
{
    char line[80];
    printf("%s ", question);
    fflush(stdout);
    if (fgets(line, sizeof line, stdin) == NULL) {
        printf("\n");
        return 'q';
    }
    if (!isatty(STDIN_FILENO)) printf("\n"); /* the answer showed nowhere */
    if (line[0] == '\r') return '\n';
    return g_ascii_tolower(line[0]);
}

static void announce_chip(const work *k, tally *t)
{
    const bl_chip *c = k->chip;
    printf("\nchip %u of %u: %s", ++t->number, t->total, c->name);
    if (c->copies > 1) printf(", number %u of %u alike", k->copy, c->copies);
    printf(": a %s for", c->part->name);
    for (size_t i = 0; i < c->map_count; i++)
        printf(" %s..%s", cli_address(k->b, c->maps[i].cpu.first),
               cli_address(k->b, bl_range_last(c->maps[i].cpu)));
    printf("\n");
}

/* What is in the socket now, before anything is written. */
static int look_into_socket(work *k)
{
    connection c;
    uint8_t *found = g_malloc0(k->chip->part->size);
    int code = connect_programmer(k->b, k->index, k->copy, &c);
    if (code == EXIT_GOOD) {
        code = work_read(k, &c, found);
        int end = connect_end(&c);
        if (code == EXIT_GOOD) code = end;
    }
    if (code == EXIT_GOOD) work_identify(k, found);
    g_free(found);
    return code;
}

/* One chip until it is good, skipped, or all is stopped. False: stop. */
static bool do_chip(work *k, tally *t)
{
    const char *question = "  put it into the socket, then Enter (s: skip it, q: stop):";
    for (;;) {
        char answer = ask_user(question);
        if (answer == 'q') return false;
        if (answer == 's') {
            t->skipped++;
            return true;
        }
        if (answer != '\n' && answer != 'r') continue;
        if (look_into_socket(k) == EXIT_GOOD && work_burn(k, false) == EXIT_GOOD) {
            t->good++;
            return true;
        }
        question = "  this one is not good. r: try again, s: leave it out, q: stop:";
        while ((answer = ask_user(question)) != 'r' && answer != 's' && answer != 'q')
            continue;
        if (answer == 'q') return false;
        if (answer == 's') {
            t->skipped++;
            return true;
        }
        question = "  put it into the socket, then Enter (s: skip it, q: stop):";
    }
}

int chip_set(work *k)
{
    tally t = {.number = 0};
    bool going = true;
    for (size_t i = 0; i < k->b->chip_count; i++)
        t.total += MAX(k->b->chips[i].copies, 1u);
    for (size_t i = 0; i < k->b->chip_count && going; i++)
        for (unsigned copy = 1; copy <= MAX(k->b->chips[i].copies, 1u) && going; copy++) {
            work_turn(k, i, copy);
            announce_chip(k, &t);
            going = do_chip(k, &t);
        }
    printf("\n%u of %u chips written and verified", t.good, t.total);
    if (t.skipped > 0) printf(", %u left out", t.skipped);
    if (!going) printf("; stopped");
    printf("\n");
    return t.good == t.total ? EXIT_GOOD : EXIT_FAILED;
}
