/* screen.h - the console as a full screen: registers, code, source, memory and what the machine
 * says, side by side. */
#ifndef BOOTLACE_CLI_SCREEN_H
#define BOOTLACE_CLI_SCREEN_H

#include "console.h"
#include "screen/layout.h"
#include "screen/transcript.h"

enum { SCREEN_LINES = 200 };

/* An answer of the monitor, a line a pane's row. */
typedef struct screen_text {
    char *line[SCREEN_LINES];
    size_t count;
} screen_text;

typedef enum screen_pane { SCREEN_CODE, SCREEN_MEMORY } screen_pane;

struct screen {
    console *k;
    screen_layout layout;
    transcript machine;
    bool heard;  /* the machine has said something that is not drawn yet */
    bool stands; /* the CPU, at */
    uint32_t pc;
    bool runs;    /* because a word lets it run just now */
    bool types;   /* keys go to the machine */
    bool sources; /* where there is one place for both: source, not code */
    screen_pane pane;
    uint32_t code_top, memory_top;
    uint32_t seen_top; /* of the memory that was asked for, and its rows */
    int seen_rows;
    uint32_t cursor;                /* an address of the code */
    uint32_t code_at[SCREEN_LINES]; /* of each row of code; */
    bool code_has[SCREEN_LINES];    /* those without are labels */
    screen_text registers, code, source, memory;
    char *message;
};

/* Asks a word of the monitor. Lines of its answer go to text, which may be NULL. Returns what is
 * wrong, or NULL; free with g_free. */
char *screen_ask(screen *s, screen_text *text, const char *line, ...) G_GNUC_PRINTF(3, 4);
void screen_clear_text(screen_text *text);

/* screen_panes.c: asks for all that is shown anew, and draws it. */
void screen_look(screen *s);
/* The same where the CPU has not moved: the marked row stays. */
void screen_look_again(screen *s);
void screen_draw(screen *s);
/* Only what the machine has said. */
void screen_draw_terminal(screen *s);
/* An answer over the panes, until a key; returns when it is gone. */
void screen_show_answer(screen *s, const char *heading, const screen_text *text);
/* The panes as large as the screen is now. */
void screen_fit(screen *s);

/* screen_keys.c: the next key; time passes meanwhile. */
int screen_key(screen *s);
/* A line from the user; NULL: none. Free with g_free. */
char *screen_line(screen *s, const char *prompt);
/* What a key does. False: the user leaves. */
bool screen_obey_key(screen *s, int key);

#endif
