/* screen_panes.c - what stands on the full screen: the answers of the monitor's words. */
#include "screen.h"

#include <ncurses.h>
#include <string.h>

static const char *const key_lines[] = {
    "s step  o over  l line  u out  k back  r run  h halt  b breakpoint  w watch",
    "t type  : word  g go to  v source/code  Tab pane  arrows move  ? help  q quit"};

/* ---- asking ---- */

/* The first row that has an address begins at the top; rows of labels have none. */
static void find_code_rows(screen *s)
{
    for (size_t i = 0; i < s->code.count; i++) {
        char *why = NULL, *head = g_strndup(s->code.line[i], strcspn(s->code.line[i], " "));
        size_t n = strlen(head);
        s->code_has[i] = n > 0 && head[n - 1] != ':' &&
                         monitor_address(console_monitor(s->k), head, &s->code_at[i], &why);
        g_free(why);
        g_free(head);
    }
}

static bool shows(const screen *s, uint32_t address)
{
    for (size_t i = 0; i < s->code.count && (int)i < s->layout.code.rows; i++)
        if (s->code_has[i] && s->code_at[i] == address) return true;
    return false;
}

static void ask_code(screen *s)
{
    int rows = s->layout.code.rows;
    g_free(screen_ask(s, &s->code, "code 0x%X %d", s->code_top, rows));
    find_code_rows(s);
}

/* Code from where it was while the place that matters is in it. */
static void look_at_code(screen *s)
{
    ask_code(s);
    if (shows(s, s->cursor)) return;
    s->code_top = s->cursor;
    ask_code(s);
}

void screen_look_again(screen *s)
{
    screen_fit(s);
    if (!s->stands || !s->layout.fits) return;
    look_at_code(s);
    g_free(screen_ask(s, &s->source, "source 0x%X %d", s->pc, s->layout.source.rows));
    int rows = s->layout.memory.rows, left = (0x10000 - (int)s->memory_top) / 16;
    if (rows > left) rows = left;
    /* Once: to look again would take the marks off what has changed. */
    if (s->memory_top == s->seen_top && rows == s->seen_rows) return;
    s->seen_top = s->memory_top;
    s->seen_rows = rows;
    g_free(screen_ask(s, &s->memory, "see 0x%X+%d", s->memory_top, rows * 16));
}

/* Registers and memory are asked for only where that disturbs no program. */
void screen_look(screen *s)
{
    monitor *m = console_monitor(s->k);
    /* A question down the line would stop a program. */
    s->stands =
        (console_cpu_stands(s->k) || console_program_waits(s->k)) && monitor_stands_at(m, &s->pc);
    if (s->stands) s->cursor = s->pc;
    screen_clear_text(&s->registers);
    if (s->stands) g_free(screen_ask(s, &s->registers, "registers"));
    screen_text watched = {.count = 0};
    if (s->stands) g_free(screen_ask(s, &watched, "watch"));
    bool any = watched.count > 0 && g_ascii_isdigit(watched.line[0][0]); /* else it is said so */
    for (size_t i = 0; any && i < watched.count && s->registers.count < SCREEN_LINES; i++)
        s->registers.line[s->registers.count++] = g_strdup(watched.line[i]);
    screen_clear_text(&watched);
    s->seen_rows = 0;
    screen_look_again(s);
}

/* ---- drawing ---- */

void screen_fit(screen *s)
{
    int few = (int)s->registers.count;
    if (few < 1) few = 1;
    if (few > 6) few = 6;
    s->layout = layout_share(LINES, COLS, few, (int)G_N_ELEMENTS(key_lines));
}

/* A row of a pane, cut or filled up to its width. */
static void draw_row(const layout_pane *p, int row, attr_t attributes, const char *text)
{
    attron(attributes);
    mvprintw(p->row + row, p->column, "%-*.*s", p->columns, p->columns, text);
    attroff(attributes);
}

static void draw_heading(const layout_pane *p, bool chosen, const char *text, ...)
    G_GNUC_PRINTF(3, 4);
static void draw_heading(const layout_pane *p, bool chosen, const char *text, ...)
{
    va_list list;
    va_start(list, text);
    char *what = g_strdup_vprintf(text, list);
    va_end(list);
    char *whole = g_strdup_printf("%s %s ", chosen ? ">" : " ", what);
    draw_row(p, -1, A_UNDERLINE | (chosen ? A_BOLD : A_NORMAL), whole);
    g_free(whole);
    g_free(what);
}

static void draw_text(const layout_pane *p, const screen_text *text, const char *none)
{
    for (int i = 0; i < p->rows; i++)
        draw_row(p, i, A_NORMAL, (size_t)i < text->count ? text->line[i] : i == 0 ? none : "");
}

/* An arrow where the CPU stands, a star at a breakpoint. */
static void draw_code(screen *s)
{
    const layout_pane *p = &s->layout.code;
    draw_heading(p, s->pane == SCREEN_CODE, "code");
    for (int i = 0; i < p->rows; i++) {
        bool any = (size_t)i < s->code.count, has = any && s->code_has[i];
        bool here = has && s->code_at[i] == s->pc, chosen = has && s->code_at[i] == s->cursor;
        bool broken = has && monitor_breakpoint_at(s->k->monitor, s->code_at[i]) > 0;
        char *row = g_strdup_printf("%s%s%s", here ? "->" : "  ", broken ? "*" : " ",
                                    any ? s->code.line[i] : "");
        draw_row(p, i, (here ? A_BOLD : A_NORMAL) | (chosen ? A_REVERSE : A_NORMAL), row);
        g_free(row);
    }
}

static void draw_source(screen *s)
{
    const layout_pane *p = &s->layout.source;
    draw_heading(p, !s->layout.wide && s->pane == SCREEN_CODE, "source");
    for (int i = 0; i < p->rows; i++) {
        const char *row = (size_t)i < s->source.count ? s->source.line[i] : "";
        draw_row(p, i, g_str_has_prefix(row, "->") ? A_BOLD : A_NORMAL, row);
    }
    if (s->source.count == 0) draw_row(p, 0, A_NORMAL, "   no source made what is here");
}

void screen_draw_terminal(screen *s)
{
    const layout_pane *p = &s->layout.terminal;
    s->heard = false;
    if (!s->layout.fits) return;
    const char *keys = s->types || s->runs ? ": keys go to it, Control-O comes back" : "";
    draw_heading(p, s->types, "the machine's words%s", keys);
    for (int i = 0; i < p->rows; i++) {
        const char *line = transcript_line(&s->machine, (size_t)(p->rows - 1 - i));
        draw_row(p, i, A_NORMAL, line != NULL ? line : "");
    }
    refresh();
}

static void draw_title(screen *s)
{
    const bench *b = s->k->c->b;
    char *text = g_strdup_printf(" %s on %s   %s%s", b->name, s->k->c->name,
                                 s->runs     ? "runs; Control-O stops it"
                                 : s->stands ? "the CPU stands at "
                                             : "not stopped",
                                 s->stands && !s->runs ? cli_address(b, s->pc) : "");
    draw_row(&s->layout.title, 0, A_REVERSE, text);
    g_free(text);
}

void screen_draw(screen *s)
{
    screen_fit(s);
    erase();
    if (!s->layout.fits) {
        mvprintw(0, 0, "too small: %d columns and %d rows are needed; q quits", LAYOUT_COLUMNS,
                 LAYOUT_ROWS);
        refresh();
        return;
    }
    draw_title(s);
    draw_text(&s->layout.registers, &s->registers, " registers can be told when the CPU stands");
    if (s->layout.wide || !s->sources) draw_code(s);
    if (s->layout.wide || s->sources) draw_source(s);
    draw_heading(&s->layout.memory, s->pane == SCREEN_MEMORY, "memory");
    draw_text(&s->layout.memory, &s->memory, " ");
    draw_row(&s->layout.prompt, 0, A_BOLD, s->message != NULL ? s->message : "");
    for (size_t i = 0; i < G_N_ELEMENTS(key_lines); i++)
        draw_row(&s->layout.keys, (int)i, A_REVERSE, key_lines[i]);
    screen_draw_terminal(s);
}

/* All that is between title and prompt is the answer's, page by page. */
void screen_show_answer(screen *s, const char *heading, const screen_text *text)
{
    size_t first = 0;
    for (;;) {
        layout_pane p = {s->layout.code.row, 0, 0, COLS};
        p.rows = s->layout.prompt.row - p.row;
        if (!s->layout.fits || p.rows < 1) return;
        draw_heading(&p, true, "%s", heading);
        for (int i = 0; i < p.rows; i++)
            draw_row(&p, i, A_NORMAL,
                     first + (size_t)i < text->count ? text->line[first + (size_t)i] : "");
        bool more = first + (size_t)p.rows < text->count;
        draw_row(&s->layout.prompt, 0, A_BOLD,
                 more ? "Space: more; any other key: back" : "any key: back");
        refresh();
        int key = screen_key(s);
        if (key == KEY_RESIZE) {
            screen_draw(s);
            continue;
        }
        if (!more || (key != ' ' && key != KEY_NPAGE)) return;
        first += (size_t)p.rows;
    }
}
