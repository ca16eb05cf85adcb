/* transcript.c - what a machine sends, as lines of text. */
#include "transcript.h"

#include <string.h>

enum { TAB = 8 };

static void next_line(transcript *t)
{
    t->newest = (t->newest + 1) % TRANSCRIPT_LINES;
    if (t->count < TRANSCRIPT_LINES - 1) t->count++;
    memset(t->lines[t->newest], 0, sizeof t->lines[0]);
    t->column = 0;
}

/* What is skipped on the way there is blank. */
static void put_character(transcript *t, char c)
{
    if (t->column == TRANSCRIPT_COLUMNS) next_line(t);
    char *line = t->lines[t->newest];
    for (size_t n = strlen(line); n < t->column; n++)
        line[n] = ' ';
    line[t->column++] = c;
}

void transcript_add(transcript *t, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        uint8_t c = bytes[i];
        if (c == '\n')
            next_line(t);
        else if (c == '\r')
            t->column = 0;
        else if (c == '\b')
            t->column -= t->column > 0;
        else if (c == '\t')
            do
                put_character(t, ' ');
            while (t->column % TAB != 0);
        else if (c >= ' ' && c < 0x7F)
            put_character(t, (char)c);
        else if (c != 0 && c != '\a')
            put_character(t, '.');
    }
}

const char *transcript_line(const transcript *t, size_t back)
{
    if (back > t->count) return NULL;
    return t->lines[(t->newest + TRANSCRIPT_LINES - back) % TRANSCRIPT_LINES];
}
