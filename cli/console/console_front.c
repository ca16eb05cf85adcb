/* console_front.c - the simulated board's front: press, release, tap, front. */
#include <string.h>

#include "console.h"
#include "figure/figure_front.h"
#include "simulation/front.h"

/* A contact has stopped bouncing by then, and most programs have seen it. */
enum { HELD_US = 100000, BEHIND_US = 50000 };

bool console_is_touch(const char *verb)
{
    return strcmp(verb, "press") == 0 || strcmp(verb, "release") == 0 || strcmp(verb, "tap") == 0;
}

bool console_touch(console *k, char **word)
{
    simulation *s = k->c->sim;
    if (s == NULL) {
        fail("'%s' is for the simulated board: the buttons of a real one are on it", word[0]);
        return false;
    }
    char *what = g_strjoinv(" ", word + 1);
    bool tap = strcmp(word[0], "tap") == 0, down = strcmp(word[0], "release") != 0;
    bool good = front_touch(s, what, down, &cli_sink) == BL_OK;
    if (good) good = console_listen(k, tap ? HELD_US : BEHIND_US);
    if (good && tap)
        good = front_touch(s, what, false, &cli_sink) == BL_OK && console_listen(k, BEHIND_US);
    g_free(what);
    return good;
}

bool console_front(console *k, const char *picture)
{
    simulation *s = k->c->sim;
    if (s == NULL) {
        fail("'front' shows the simulated board; a real one is in front of you");
        return false;
    }
    if (picture != NULL) return figure_front(s, picture, &cli_sink) == BL_OK;
    char *text = front_text(s);
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i] != NULL && *lines[i] != '\0'; i++)
        cli_print("%s", lines[i]);
    if (*text == '\0') cli_print("  no lamps, displays, buttons or keys");
    g_strfreev(lines);
    g_free(text);
    return true;
}
