/* where.c - what stands on the command line for a place in memory. */
#include "where.h"

#include "define.h"

#include <string.h>

/* The bench's own pieces, assembled for their symbols. Without a build there are none. */
typedef struct at_hand {
    places p;
    whereis ram, chips; /* what is for RAM counts first: that is what is changed and looked at */
    project *built;
} at_hand;

static void gather_symbols(at_hand *h, const places *p, const char *text)
{
    static const places nothing;
    memset(h, 0, sizeof *h);
    h->p = p != NULL ? *p : nothing;
    project_extras extras = {.folders = NULL};
    if (define_take(&extras) != EXIT_GOOD) return;
    bool known = h->p.b == NULL || (h->p.w != NULL && h->p.w->count > 0) || !places_names(text);
    if (known || project_build(h->p.b, PROJECT_ALL, &extras, NULL, &h->built) != BL_OK) return;
    for (size_t i = 0; i < h->built->piece_count; i++) {
        const project_piece *piece = &h->built->pieces[i];
        whereis_add(piece->piece->for_chips ? &h->chips : &h->ram, piece->program);
    }
    h->p.w = &h->ram;
    h->p.after = &h->chips;
    h->p.built = h->built;
}

static int report_place(at_hand *h, const char *option, bool good, char *why)
{
    int code = EXIT_GOOD;
    if (!good)
        code = cli_usage("%s%s%s", option != NULL ? option : "", option != NULL ? ": " : "", why);
    g_free(why);
    project_close(h->built);
    return code;
}

int where_address(const places *p, const char *option, const char *text, uint32_t *address)
{
    at_hand h;
    char *why;
    gather_symbols(&h, p, text);
    bool good = places_address(&h.p, text, address, &why);
    return report_place(&h, option, good, why);
}

int where_range(const places *p, const char *option, const char *text, bl_range *range)
{
    at_hand h;
    char *why;
    gather_symbols(&h, p, text);
    bool good = places_range(&h.p, text, range, &why);
    return report_place(&h, option, good, why);
}

int where_number(const char *option, const char *text, uint32_t limit, uint32_t *value)
{
    if (places_eaten(text)) return cli_usage("%s %s: %s", option, text, places_eaten_hint);
    if (bl_number_parse((bl_text){text, strlen(text)}, limit, value) == BL_OK) return EXIT_GOOD;
    return cli_usage("%s %s: not a number from 0 to %lu; like 12 or 0x0C", option, text,
                     (unsigned long)limit);
}
