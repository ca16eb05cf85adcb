/* chip_lines.c - what reading a chip back cannot see: address lines that do not matter to what it
 * holds. */
#include <string.h>

#include "bootlace/unseen.h"
#include "chip_work.h"

/* "A14, A13" */
static char *names_of_lines(uint32_t lines)
{
    GString *text = g_string_new(NULL);
    for (unsigned n = BL_LINES_MAX; n-- > 0;)
        if ((lines >> n & 1) != 0)
            g_string_append_printf(text, "%sA%u", text->len > 0 ? ", " : "", n);
    return g_string_free(text, FALSE);
}

static bl_status run_on_chip(work *k, connection *c, bl_goal goal, const bl_piece *pieces,
                             size_t count, bl_transfer *job)
{
    bl_transfer_options o = {.goal = goal,
                             .pieces = pieces,
                             .piece_count = count,
                             .block = k->chip->part->page,
                             .part = k->chip->part,
                             .who = BL_WHO_PROGRAMMER,
                             .every_block = goal == BL_GOAL_WRITE,
                             .sum_ns = 5000};
    bl_status status = bl_transfer_begin(job, &host_memory, &o);
    return status == BL_OK ? connect_run(c, job) : status;
}

/* Which of the lines do what another does: a byte of the first page is changed for a moment, and
 * what changes with it is seen. The page is then as it was. *told: something else went wrong;
 * *tried: the byte did change. */
static uint32_t find_dead(work *k, connection *c, uint32_t unseen, bool *told, bool *tried)
{
    bl_line_probe p;
    bl_transfer job;
    uint32_t dead = 0, page = k->chip->part->page;
    bl_line_probe_make(&p, k->bytes, k->chip->part, unseen);
    bl_status status = run_on_chip(k, c, BL_GOAL_WRITE, &p.changed, 1, &job);
    if (status == BL_E_DIFFERS) /* within the page */
        for (size_t i = 0; i < job.result.differences && i < BL_DIFFERENCES; i++)
            dead |= (job.result.difference[i].address ^ (page - 1)) & (page - 1) & unseen;
    *tried = status == BL_OK || dead != 0;
    bl_transfer_end(&job);
    for (size_t i = 0; i < p.other_count && *tried && (status == BL_OK || status == BL_E_DIFFERS);
         i++) {
        status = run_on_chip(k, c, BL_GOAL_COMPARE, &p.others[i], 1, &job);
        if (status == BL_E_DIFFERS) dead |= (uint32_t)1 << p.line[i];
        bl_transfer_end(&job);
    }
    bl_status end = run_on_chip(k, c, BL_GOAL_WRITE, &p.original, 1, &job);
    *told = (status != BL_OK && status != BL_E_DIFFERS) || end != BL_OK;
    if (*told) explain(c, &job, end != BL_OK ? end : status, k->chip, &k->names);
    bl_transfer_end(&job);
    return dead;
}

uint32_t work_unseen(const work *k)
{
    return bl_unseen_lines(k->bytes, k->chip->part->size);
}

/* One byte is changed for a moment and put back; what changed elsewhere with it shares an address
 * line. The byte is put back also when the user stops it. */
int work_probe(work *k, connection *c, uint32_t *unseen)
{
    bool told = false, tried = false;
    bool can = k->chip->part->algorithm == BL_ALGORITHM_PAGE ||
               k->chip->part->algorithm == BL_ALGORITHM_BYTE;
    *unseen = work_unseen(k);
    if (*unseen == 0 || !can || chip_given.protect) return EXIT_GOOD;
    uint32_t dead = find_dead(k, c, *unseen, &told, &tried);
    if (told) return EXIT_FAILED;
    if (dead == 0) {
        if (tried) *unseen = 0; /* a part that is protected takes nothing */
        return EXIT_GOOD;
    }
    char *names = names_of_lines(dead);
    int code = fail("address line %s does nothing: halves of %s that should hold the same are one "
                    "and the same\n  is a pin of the socket bent, or the chip smaller than a %s?",
                    names, k->chip->name, k->chip->part->name);
    g_free(names);
    return code;
}

void work_tell_unseen(const work *k, uint32_t unseen)
{
    if (unseen == 0) return;
    char *names = names_of_lines(unseen);
    printf("  not seen: whether address line%s %s work%s; what %s should hold is the same either "
           "way\n",
           strchr(names, ',') != NULL ? "s" : "", names, strchr(names, ',') != NULL ? "" : "s",
           k->chip->name);
    g_free(names);
}
