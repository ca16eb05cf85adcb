/* console_complete.c - what Tab offers on the command line: words first, then names and files. */
#include <readline/readline.h>
#include <stdlib.h>
#include <string.h>

#include "console.h"

static console *asked; /* readline's functions have no context */
static char **names;
static size_t next_name;

/* readline frees what it is given. */
static char *next_of_names(const char *text, int state)
{
    if (state == 0) {
        g_strfreev(names);
        names = monitor_names(console_monitor(asked), text);
        next_name = 0;
    }
    if (names == NULL || names[next_name] == NULL) return NULL;
    return strdup(names[next_name++]);
}

static char *next_of_words(const char *text, int state)
{
    static size_t own, word;
    const char *name;
    if (state == 0) own = word = 0;
    while ((name = console_own_word(own)) != NULL) {
        own++;
        if (g_str_has_prefix(name, text)) return strdup(name);
    }
    while ((name = monitor_word(word, NULL, NULL)) != NULL) {
        word++;
        if (g_str_has_prefix(name, text)) return strdup(name);
    }
    return NULL;
}

/* Files are readline's own affair, where no name begins like this. */
static char **offer(const char *text, int start, int end)
{
    (void)end;
    if (start == 0) {
        rl_attempted_completion_over = 1;
        return rl_completion_matches(text, next_of_words);
    }
    return rl_completion_matches(text, next_of_names);
}

void console_complete(console *k)
{
    static char breaks[] = " \t\"";
    asked = k;
    rl_readline_name = "bootlace";
    rl_completer_word_break_characters = breaks;
    rl_attempted_completion_function = offer;
}
