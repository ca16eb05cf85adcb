/* json_answer.h - answers for scripts, as JSON (docs/json.md). */
#ifndef BOOTLACE_CLI_ANSWER_H
#define BOOTLACE_CLI_ANSWER_H

#include <jansson.h>

#include "bootlace/diag.h"

/* Prints an answer and releases it. An object gets the key "error" when an error was told. */
void answer(json_t *all);
/* --json is on the command line: also what goes wrong while options are read is told so. */
void answer_ask(void);
/* Notes an error that was told. file may be NULL, line and column 0, hint NULL. Only the first is
 * kept as "error"; all are counted. */
void answer_note(const char *file, uint32_t line, uint32_t column, const char *message,
                 const char *hint);
/* At the end: when --json was asked for and the command failed before it answered, an object with
 * the error alone. Returns code. */
int answer_end(int code);

#endif
