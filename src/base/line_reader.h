/* line_reader.h - texts of a keyword and its words a line: sheets, dialogues, symbol files. Faults
 * are told with file, line, column and mark.
 */
#ifndef BOOTLACE_SRC_LINE_READER_H
#define BOOTLACE_SRC_LINE_READER_H

#include "bootlace/diag.h"
#include "core.h"

typedef struct bl_line_reader {
    const char *name; /* of the file, for messages */
    const bl_sink *sink;
    bl_text text;    /* what was not read yet */
    bl_text line;    /* the current line, without blanks and line end behind it */
    bl_text rest;    /* what of it is still unread; comments are the reader's user's affair */
    uint32_t number; /* of the line, from 1; 0: the file as a whole */
    unsigned faults;
} bl_line_reader;

/* The next line, empty ones too. False: there is none. */
bool bl_line_next(bl_line_reader *r);
/* The next word of the rest, which blanks end; empty at the end of the line. */
bl_text bl_line_word(bl_line_reader *r);

/* Tells of a fault at mark, a piece of the line; what is none, like an empty text, stands for all
 * of it. hint may be NULL. */
void bl_line_fault(bl_line_reader *r, bl_text mark, const char *hint, const char *message, ...)
    BL_PRINTF(4, 5);
void bl_line_fault_list(bl_line_reader *r, bl_text mark, const char *hint, const char *message,
                        va_list list);

/* A hint for a word that is none of the names (bl_name_nearest): the nearest, or else all of them.
 * Returns buffer. */
const char *bl_line_known(bl_text word, const char *(*name)(const void *list, size_t index),
                          const void *list, char *buffer, size_t capacity);

#endif
