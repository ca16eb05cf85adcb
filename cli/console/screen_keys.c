/* screen_keys.c - what the keys of the full screen do. */
#include "screen.h"

#include <ncurses.h>
#include <stdio.h>
#include <string.h>

enum { ESCAPE = 27, DELETE = 127, HISTORY = 16, LONGEST = 200, ROW = 16, SPACE = 0x10000 };

static const char help[] =
    "s o l u      one instruction; one, calls run through; a source line; out of the routine\n"
    "k            back by an instruction (simulated boards)\n"
    "r            the program goes on; Control-O stops it, other keys go to it\n"
    "h            halts the CPU, so that it can be looked at\n"
    "b            sets a breakpoint at the marked row of the code, or takes it away\n"
    "w            a formula whose value is shown after each stop\n"
    "t            keys go to the machine, up to Control-O\n"
    ":            a word of the console, like: find ram \"Skerry\"; help there lists them\n"
    "g            goes to a place, in the pane that is marked with >\n"
    "Tab          marks the other pane: code, memory\n"
    "arrows       move by a row, page keys by a pane\n"
    "v            source or code, where there is room for one of them\n"
    "q            leaves; the machine goes on\n"
    "->           stands where the CPU does, * at a breakpoint; in memory behind what changed\n";

int screen_key(screen *s)
{
    for (;;) {
        if (s->heard) screen_draw_terminal(s);
        timeout(5);
        int key = getch();
        if (key != ERR) return key;
        if (s->k->over || !console_listen(s->k, 5000)) return 'q';
    }
}

static void tell(screen *s, char *message)
{
    g_free(s->message);
    s->message = message;
    if (message != NULL && strchr(message, '\n') != NULL) *strchr(message, '\n') = '\0';
}

/* ---- a line ---- */

static void draw_line(screen *s, const char *prompt, const char *text)
{
    int row = s->layout.prompt.row;
    move(row, 0);
    clrtoeol();
    mvprintw(row, 0, "%s%s", prompt, text);
    refresh();
}

/* Editing at the end alone, and the lines before by the arrow up. */
char *screen_line(screen *s, const char *prompt)
{
    static char *history[HISTORY];
    static size_t kept;
    size_t back = 0;
    GString *text = g_string_new(NULL);
    char *line = NULL;
    curs_set(1);
    for (bool open = true; open;) {
        draw_line(s, prompt, text->str);
        int key = screen_key(s);
        if (key == ESCAPE || s->k->over)
            open = false;
        else if (key == '\n' || key == '\r' || key == KEY_ENTER)
            line = g_strdup(text->str), open = false;
        else if ((key == KEY_BACKSPACE || key == DELETE || key == '\b') && text->len > 0)
            g_string_truncate(text, text->len - 1);
        else if (key == KEY_UP && back < kept && back < HISTORY)
            g_string_assign(text, history[(kept - ++back) % HISTORY]);
        else if (key == KEY_RESIZE)
            screen_draw(s);
        else if (key >= ' ' && key < DELETE && text->len < LONGEST)
            g_string_append_c(text, (char)key);
    }
    curs_set(0);
    if (line != NULL && *line != '\0') {
        g_free(history[kept % HISTORY]);
        history[kept++ % HISTORY] = g_strdup(line);
    }
    g_string_free(text, TRUE);
    return line;
}

/* ---- words ---- */

/* A word that moves the CPU: why it stopped, when that is not where it was to. */
static void move_cpu(screen *s, const char *word)
{
    screen_text answer = {.count = 0};
    tell(s, NULL);
    s->runs = true;
    screen_draw(s);
    char *why = screen_ask(s, &answer, "%s", word);
    s->runs = false;
    if (why != NULL)
        tell(s, why);
    else if (answer.count > 0 && !g_str_has_prefix(answer.line[0], "PC "))
        tell(s, g_strdup(answer.line[0]));
    screen_clear_text(&answer);
    screen_look(s);
}

/* Is this a word that lets the CPU run? Its answer stands in the panes. */
static bool moves(const char *line)
{
    static const char *const movers[] = {"run",  "call", "step", "over",  "out",   "until",
                                         "line", "halt", "back", "reset", "cycles"};
    char *verb = g_strndup(line, strcspn(line, " "));
    bool found = false;
    for (size_t i = 0; i < G_N_ELEMENTS(movers) && !found; i++)
        found = strlen(verb) > 1 && g_str_has_prefix(movers[i], verb);
    g_free(verb);
    return found;
}

/* Files, the line, help: as the console does it, on a screen of its own. */
static void leave_for(screen *s, const char *line)
{
    char enter[8];
    def_prog_mode();
    endwin();
    s->k->screen = NULL; /* what is said is printed */
    console_obey(s->k, line);
    if (!s->k->over) {
        printf("Enter goes back to the full screen\n");
        fflush(stdout);
        while (fgets(enter, sizeof enter, stdin) != NULL && strchr(enter, '\n') == NULL)
            ;
    }
    s->k->screen = s;
    reset_prog_mode();
    clear();
    s->k->failed = false; /* its user has seen it */
}

/* The line assembler asks for one instruction after the other. */
static void enter_more(screen *s)
{
    const char *prompt;
    while ((prompt = monitor_enters(console_monitor(s->k))) != NULL) {
        char *place = g_strconcat(prompt, " ", NULL), *line = screen_line(s, place);
        tell(s, screen_ask(s, NULL, "%s", line != NULL ? line : ""));
        g_free(place);
        g_free(line);
        screen_look(s);
        screen_draw(s);
    }
}

static void obey_words(screen *s)
{
    screen_text answer = {.count = 0};
    char *line = screen_line(s, ": ");
    tell(s, NULL);
    if (line == NULL || *g_strstrip(line) == '\0') {
        g_free(line);
        return;
    }
    if (console_is_own_word(line))
        leave_for(s, line);
    else if (moves(line))
        move_cpu(s, line);
    else {
        char *why = screen_ask(s, &answer, "%s", line);
        tell(s, why);
        if (answer.count == 1 && why == NULL)
            tell(s, g_strdup(answer.line[0]));
        else if (answer.count > 0)
            screen_show_answer(s, line, &answer);
        enter_more(s);
    }
    screen_clear_text(&answer);
    g_free(line);
    screen_look(s);
}

static void show_keys(screen *s)
{
    screen_text text = {.count = 0};
    char **lines = g_strsplit(help, "\n", SCREEN_LINES);
    for (size_t i = 0; lines[i] != NULL; i++)
        text.line[text.count++] = g_strdup(lines[i]);
    g_strfreev(lines);
    screen_show_answer(s, "keys", &text);
    screen_clear_text(&text);
}

static void watch_formula(screen *s)
{
    char *formula = screen_line(s, "watch: ");
    if (formula != NULL && *formula != '\0') tell(s, screen_ask(s, NULL, "watch %s", formula));
    g_free(formula);
    screen_look(s);
}

static void toggle_breakpoint(screen *s)
{
    size_t number = monitor_breakpoint_at(console_monitor(s->k), s->cursor);
    if (!s->stands)
        tell(s, g_strdup("h halts the CPU first: then there are rows to mark"));
    else if (number > 0)
        tell(s, screen_ask(s, NULL, "breakpoint drop %zu", number));
    else
        tell(s, screen_ask(s, NULL, "breakpoint 0x%X", s->cursor));
}

/* ---- moving ---- */

static void show_place(screen *s, uint32_t address)
{
    if (s->pane == SCREEN_MEMORY)
        s->memory_top = address - address % ROW;
    else
        s->code_top = s->cursor = address;
}

static void ask_place(screen *s)
{
    uint32_t address;
    char *why = NULL,
         *place = screen_line(s, s->pane == SCREEN_MEMORY ? "memory at: " : "code at: ");
    tell(s, NULL);
    if (place != NULL && *place != '\0') {
        if (monitor_address(console_monitor(s->k), place, &address, &why) && address < SPACE)
            show_place(s, address);
        else
            tell(s, why != NULL ? g_strdup(why) : g_strdup("there is no such address"));
    }
    g_free(why);
    g_free(place);
}

/* The marked row of the code goes to the next that has an address. */
static void move_cursor(screen *s, bool down)
{
    uint32_t next = s->cursor;
    for (size_t i = 0; i < s->code.count && down; i++)
        if (s->code_has[i] && s->code_at[i] > s->cursor) {
            next = s->code_at[i];
            break;
        }
    if (!down) next = monitor_instruction_before(console_monitor(s->k), s->cursor);
    if (next == s->cursor) return;
    s->cursor = next;
    if (next < s->code_top)
        s->code_top = next;
    else if (down && s->code.count > 2 && s->code_has[s->code.count - 1] &&
             next >= s->code_at[s->code.count - 1])
        for (size_t i = 1; i < s->code.count; i++)
            if (s->code_has[i] && s->code_at[i] > s->code_top) {
                s->code_top = s->code_at[i];
                break;
            }
}

static void move_pane(screen *s, int rows)
{
    if (s->pane == SCREEN_MEMORY) {
        int64_t to = (int64_t)s->memory_top + (int64_t)rows * ROW;
        s->memory_top = (uint32_t)(to < 0 ? 0 : to > SPACE - ROW ? SPACE - ROW : to);
        return;
    }
    for (int i = 0; i < rows || i < -rows; i++) {
        move_cursor(s, rows > 0);
        screen_look_again(s);
    }
}

/* ---- keys ---- */

/* Up to the command key. */
static void type_to_machine(screen *s)
{
    s->types = true;
    screen_draw(s);
    for (int key; (key = screen_key(s)) != CONSOLE_COMMAND_KEY && !s->k->over;) {
        if (key == KEY_RESIZE)
            screen_draw(s);
        else if (key == KEY_BACKSPACE)
            console_type(s->k, '\b');
        else if (key < 0x80)
            console_type(s->k, (uint8_t)(key == '\n' ? '\r' : key));
    }
    s->types = false;
}

static const char *word_of(int key)
{
    static const struct {
        int key;
        const char *word;
    } words[] = {{'s', "step"}, {'o', "over"}, {'l', "line"}, {'u', "out"},
                 {'k', "back"}, {'r', "run"},  {'h', "halt"}};
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++)
        if (words[i].key == key) return words[i].word;
    return NULL;
}

bool screen_obey_key(screen *s, int key)
{
    int page = s->pane == SCREEN_MEMORY ? s->layout.memory.rows : s->layout.code.rows - 1;
    if (word_of(key) != NULL) {
        move_cpu(s, word_of(key));
        return true;
    }
    switch (key) {
    case 'q': return false;
    case 'b': toggle_breakpoint(s); break;
    case 'w': watch_formula(s); break;
    case 't': type_to_machine(s); break;
    case ':': obey_words(s); break;
    case 'g': ask_place(s); break;
    case '?': show_keys(s); break;
    case 'v': s->sources = !s->sources; break;
    case '\t': s->pane = s->pane == SCREEN_CODE ? SCREEN_MEMORY : SCREEN_CODE; break;
    case KEY_UP: move_pane(s, -1); break;
    case KEY_DOWN: move_pane(s, 1); break;
    case KEY_PPAGE: move_pane(s, -page); break;
    case KEY_NPAGE: move_pane(s, page); break;
    case KEY_RESIZE: break;
    default: tell(s, g_strdup("? tells what the keys do; q leaves")); break;
    }
    screen_look_again(s);
    return true;
}
