/* map_words.c - lanes, nibbles, mirrors. */
#include "map_words.h"

#include <glib.h>

char *map_words_text(const bl_chip_map *m, const map_words *w)
{
    char *lane = m->lanes > 2    ? g_strdup_printf(w->lane, m->lane + 1u, m->lanes)
                 : m->lanes == 2 ? g_strdup(m->lane == 0 ? w->even : w->odd)
                                 : g_strdup("");
    const char *nibble = m->nibble == 0 ? "" : m->nibble == 1 ? w->low : w->high;
    char *text = g_strconcat(lane, nibble, m->mirrored ? w->mirrored : "", NULL);
    g_free(lane);
    return text;
}
