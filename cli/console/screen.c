/* screen.c - the life of the full screen: what it is told, and what it asks. */
#include "screen.h"

#include <locale.h>
#include <ncurses.h>
#include <stdarg.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

void screen_clear_text(screen_text *text)
{
    for (size_t i = 0; i < text->count; i++)
        g_free(text->line[i]);
    text->count = 0;
}

static void take_lines(screen_text *text, const GString *out)
{
    char **lines = g_strsplit(out->str, "\n", SCREEN_LINES);
    screen_clear_text(text);
    for (size_t i = 0; lines[i] != NULL && i < SCREEN_LINES; i++)
        if (lines[i + 1] != NULL || *lines[i] != '\0')
            text->line[text->count++] = g_strdup(lines[i]);
    g_strfreev(lines);
}

char *screen_ask(screen *s, screen_text *text, const char *line, ...)
{
    GString *out = g_string_new(NULL), *said = g_string_new(NULL);
    va_list list;
    va_start(list, line);
    char *whole = g_strdup_vprintf(line, list);
    va_end(list);
    cli_take_interrupts();
    monitor_status status = monitor_obey(console_monitor(s->k), whole, out, said);
    if (text != NULL) take_lines(text, out);
    g_strchomp(said->str);
    bool bad = status != MONITOR_GOOD;
    char *why =
        bad ? g_strdup(*said->str != '\0' ? said->str : "that is no word of the monitor") : NULL;
    g_string_free(out, TRUE);
    g_string_free(said, TRUE);
    g_free(whole);
    return why;
}

/* While a program runs its words are shown, and keys go to it. False: it is to stop. */
bool console_screen_pump(console *k)
{
    screen *s = k->screen;
    if (!s->runs) return true; /* only a look: it is over at once */
    if (s->heard) screen_draw_terminal(s);
    timeout(0);
    for (int key; (key = getch()) != ERR;) {
        if (key == CONSOLE_COMMAND_KEY) return false;
        if (key == KEY_RESIZE)
            screen_draw(s);
        else if (key < 0x80 && !console_type(k, (uint8_t)(key == '\n' ? '\r' : key)))
            return false;
    }
    return true;
}

void console_screen_take(console *k, const uint8_t *bytes, size_t count)
{
    transcript_add(&k->screen->machine, bytes, count);
    k->screen->heard = true;
}

/* The screen is the terminal's until its user leaves. */
void console_screen(console *k)
{
    screen *s = g_new0(screen, 1);
    s->k = k;
    k->screen = s;
    console_show_words(k);
    setlocale(LC_ALL, "");
    set_escdelay(25);
    /* Standard output shows control characters as such: ncurses gets its own. */
    FILE *output = fdopen(dup(STDOUT_FILENO), "w");
    SCREEN *terminal = output != NULL ? newterm(NULL, output, stdin) : NULL;
    if (terminal == NULL) {
        fail("this terminal cannot be drawn on (TERM=%s)", g_getenv("TERM"));
        if (output != NULL) fclose(output);
        k->failed = true;
        k->screen = NULL;
        g_free(s);
        return;
    }
    raw();
    noecho();
    curs_set(0);
    keypad(stdscr, TRUE);
    s->message = g_strdup("h halts the machine, so that it can be looked at; ? tells more");
    screen_look(s);
    screen_draw(s);
    while (!k->over && screen_obey_key(s, screen_key(s)))
        screen_draw(s);
    endwin();
    delscreen(terminal);
    fclose(output);
    k->screen = NULL;
    screen_text *const texts[] = {&s->registers, &s->code, &s->source, &s->memory};
    for (size_t i = 0; i < G_N_ELEMENTS(texts); i++)
        screen_clear_text(texts[i]);
    g_free(s->message);
    g_free(s);
}
