/* monitor_words.c - the words of the monitor: found by what is unique of them, explained, obeyed.
 */
#include "monitor_parts.h"

#include <string.h>

typedef struct word {
    const char *name, *operands, *what, *example;
    bool (*obey)(monitor *m);
} word;

static const word words[] = {
    {"see", "[RANGE]", "memory as bytes and characters; * marks what changed since the last look",
     "see light..light_end", monitor_do_see},
    {"code", "[PLACE [COUNT]]", "memory as instructions, with names and cycles", "code light 12",
     monitor_do_code},
    {"text", "RANGE", "memory as a text", "text greeting+40", monitor_do_text},
    {"value", "FORMULA", "what an expression over numbers, names, registers and memory is worth",
     "value word(table + 2 * X)", monitor_do_value},
    {"find", "RANGE VALUE...", "where bytes, words N... or a \"text\" are", "find ram \"Skerry\"",
     monitor_do_find},
    {"compare", "RANGE PLACE | build", "two ranges, or a range with what was built",
     "compare ram build", monitor_do_compare},
    {"source", "[PLACE | FILE:LINE [COUNT]]", "source lines around a place",
     "source lamp.asm:20 30", monitor_do_source},
    {"put", "PLACE VALUE...", "bytes, words N... or a \"text\" into memory, read back",
     "put count 0 words 0x1234 \"DARK\"", monitor_do_put},
    {"fill", "RANGE VALUE...", "a range with bytes, again and again", "fill 0400+100 0",
     monitor_do_fill},
    {"copy", "RANGE PLACE", "memory to another place; they may overlap", "copy 0300..03FF 0380",
     monitor_do_copy},
    {"enter", "PLACE [INSTRUCTION]",
     "assembles into memory; without one line after line, up to an "
     "empty one",
     "enter light LDA #3", monitor_do_enter},
    {"undo", "[COUNT]", "takes the last changes back", "undo 2", monitor_do_undo},
    {"changes", "", "what was changed here, as source lines, expected and found", "changes",
     monitor_do_changes},
    {"registers", "[NAME=VALUE...]", "shows or sets registers, pairs, and flags by their letters",
     "registers A=3 Z=1", monitor_do_registers},
    {"run", "[PLACE | PIECE] [for TIME]", "lets the CPU go, up to a breakpoint", "run light for 2s",
     monitor_do_run},
    {"call", "PLACE", "runs a routine until it comes back", "call wait_a_second", monitor_do_call},
    {"step", "[COUNT]", "one instruction", "step 5", monitor_do_step},
    {"over", "[COUNT]", "one instruction; what it calls is run through", "over", monitor_do_over},
    {"out", "", "until the routine comes back", "out", monitor_do_out},
    {"until", "PLACE", "runs until a place is reached", "until lamp.asm:31", monitor_do_until},
    {"line", "[into] [COUNT]", "one source line; calls are run through unless into", "line into",
     monitor_do_line},
    {"halt", "", "stops the CPU where it is", "halt", monitor_do_halt},
    {"callers", "[DEPTH]", "guesses from the stack who called", "callers", monitor_do_callers},
    {"breakpoint", "[PLACE [every N] [when FORMULA]] | off N | on N | drop N",
     "lists, sets, switches breakpoints", "breakpoint light every 3 when X > 2",
     monitor_do_breakpoint},
    {"watch", "[FORMULA] | drop N", "shows a value after each stop", "watch byte(count)",
     monitor_do_watch},
    {"watchpoint", "[RANGE [reads] | drop N]",
     "lists watchpoints, or stops behind what writes there (simulated boards)",
     "watchpoint count+2 reads", monitor_do_watchpoint},
    {"history", "[COUNT]", "the last instructions and what they did (simulated boards)",
     "history 30", monitor_do_history},
    {"back", "[COUNT | to PLACE | write PLACE]",
     "runs backwards: by instructions, to the last visit, before the last write (simulated boards)",
     "back write count", monitor_do_back},
    {"cycles", "PLACE PLACE", "cycles from one place to another (simulated boards)",
     "cycles tenth tenth._outer", monitor_do_cycles},
    {"pieces", "", "which pieces of the build are in memory", "pieces", monitor_do_pieces},
    {"identify", "", "which builds that the logbook knows are in memory; their names come along",
     "identify", monitor_do_identify},
    {"test", "RANGE [keeps TIME]", "tests RAM, and names the wire that it probably is",
     "test 0400..07FF", monitor_do_test},
    {"reset", "[held]", "pulls the reset line; held: a key keeps programs from starting", "reset",
     monitor_do_reset},
};

const char *monitor_word(size_t index, const char **operands, const char **what)
{
    if (index >= G_N_ELEMENTS(words)) return NULL;
    if (operands != NULL) *operands = words[index].operands;
    if (what != NULL) *what = words[index].what;
    return words[index].name;
}

/* The word that is meant: whole, or short while only one begins like this. *also: another one. */
static const word *word_meant(const char *text, const char **also)
{
    const word *found = NULL;
    *also = NULL;
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++) {
        if (strcmp(words[i].name, text) == 0) return *also = NULL, &words[i];
        if (!g_str_has_prefix(words[i].name, text)) continue;
        if (found != NULL) *also = words[i].name;
        if (found == NULL) found = &words[i];
    }
    return found;
}

bool monitor_help(const char *name, GString *out)
{
    const char *also;
    if (name == NULL) {
        for (size_t i = 0; i < G_N_ELEMENTS(words); i++)
            g_string_append_printf(out, "  %-10s %-19s  %s\n", words[i].name,
                                   strlen(words[i].operands) > 19 ? "..." : words[i].operands,
                                   words[i].what);
        return true;
    }
    const word *w = word_meant(name, &also);
    if (w == NULL || also != NULL) return false;
    g_string_append_printf(out, "%s %s\n  %s\n  for example: %s\n", w->name, w->operands, w->what,
                           w->example);
    return true;
}

/* ---- completion ---- */

static void offer_name(GPtrArray *list, const char *name, const char *beginning)
{
    if (g_str_has_prefix(name, beginning)) g_ptr_array_add(list, g_strdup(name));
}

char **monitor_names(monitor *m, const char *beginning)
{
    GPtrArray *list = g_ptr_array_new();
    monitor_need_build(m);
    for (size_t k = 0; k < m->debug.program_count; k++)
        for (size_t i = 0; i < bl_program_symbols(m->programs[k]); i++) {
            bl_symbol s;
            if (bl_program_symbol(m->programs[k], i, &s) == BL_OK)
                offer_name(list, s.name, beginning);
        }
    for (size_t i = 0; i < m->b->definition_count; i++)
        offer_name(list, m->b->definitions[i].name, beginning);
    for (size_t i = 0; i < m->b->area_count; i++)
        offer_name(list, m->b->areas[i].name, beginning);
    for (size_t i = 0; i < bl_sheet_registers(m->b->sheet); i++) {
        bl_text name = bl_sheet_register_at(m->b->sheet, i)->name;
        char *text = g_strndup(name.at, name.length);
        offer_name(list, text, beginning);
        g_free(text);
    }
    g_ptr_array_add(list, NULL);
    return (char **)g_ptr_array_free(list, FALSE);
}

/* ---- a line ---- */

/* Blanks separate; "..." is one token, in which \" and \\ stand for themselves. *fault: a text is
 * never closed. */
static bool split_line(monitor *m, const char *line, const char **fault)
{
    const char *p = line;
    m->count = 0;
    *fault = NULL;
    for (;;) {
        while (g_ascii_isspace(*p))
            p++;
        if (*p == '\0') return true;
        if (m->count == MONITOR_TOKENS) {
            *fault = "more than 64 words on a line";
            return false;
        }
        GString *s = g_string_new(NULL);
        bool quoted = *p == '"';
        if (quoted) p++;
        while (*p != '\0' && (quoted ? *p != '"' : !g_ascii_isspace(*p))) {
            if (quoted && *p == '\\' && (p[1] == '"' || p[1] == '\\')) p++;
            g_string_append_c(s, *p++);
        }
        m->token[m->count++] = (monitor_token){g_string_free(s, FALSE), quoted};
        if (quoted && *p != '"') {
            *fault = "a text is never closed";
            return false;
        }
        if (quoted) p++;
    }
}

static void drop_tokens(monitor *m)
{
    for (size_t i = 0; i < m->count; i++)
        g_free(m->token[i].text);
    m->count = 0;
}

const char *monitor_rest(const monitor *m, size_t index)
{
    const char *p = m->line;
    for (size_t i = 0;; i++) {
        while (g_ascii_isspace(*p))
            p++;
        if (i == index) return p;
        bool quoted = *p == '"';
        if (quoted) p++;
        while (*p != '\0' && (quoted ? *p != '"' : !g_ascii_isspace(*p)))
            p += quoted && *p == '\\' && p[1] != '\0' ? 2 : 1;
        if (quoted && *p != '\0') p++;
    }
}

/* What is entered is no word; a faulty line is told after it is known whose it is. */
monitor_status monitor_obey(monitor *m, const char *line, GString *out, GString *said)
{
    const char *also, *fault;
    m->out = out;
    m->said = said;
    m->line = line;
    if (m->enters) return monitor_enter_line(m, line) ? MONITOR_GOOD : MONITOR_FAILED;
    monitor_status status = MONITOR_FAILED;
    bool whole = split_line(m, line, &fault);
    const word *w = m->count > 0 ? word_meant(m->token[0].text, &also) : NULL;
    if (m->count == 0)
        status = MONITOR_GOOD;
    else if (w == NULL)
        status = MONITOR_UNKNOWN;
    else if (also != NULL)
        monitor_fail(m, "'%s' may be %s or %s: a letter more", m->token[0].text, w->name, also);
    else if (!whole)
        monitor_fail(m, "%s", fault);
    else if (w->obey(m))
        status = MONITOR_GOOD;
    drop_tokens(m);
    return status;
}
