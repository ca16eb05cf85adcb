/* transcript.h - what a machine sends, as lines of text: the end of it, for a pane of a screen. */
#ifndef BOOTLACE_HOST_TRANSCRIPT_H
#define BOOTLACE_HOST_TRANSCRIPT_H

#include <stddef.h>
#include <stdint.h>

enum { TRANSCRIPT_LINES = 200, TRANSCRIPT_COLUMNS = 240 };

/* All zero: nothing has come. */
typedef struct transcript {
    char lines[TRANSCRIPT_LINES][TRANSCRIPT_COLUMNS + 1];
    size_t newest; /* the line that is being written; the ones before it go round */
    size_t count;  /* lines that are begun, but for the newest */
    size_t column;
} transcript;

/* Carriage return, backspace and tab do what they do on a terminal; a line feed begins a new line
 * at its left, as the console shows it; a character that is none is shown as a dot, a bell and a
 * zero not at all. A line that is too long goes on in the next. */
void transcript_add(transcript *t, const uint8_t *bytes, size_t count);
/* A line from the newest, 0, back; NULL: there is none. Valid until more comes. */
const char *transcript_line(const transcript *t, size_t back);

#endif
