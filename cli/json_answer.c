/* json_answer.c - one answer a command, and the error that it ended with. */
#include "json_answer.h"

#include <stdlib.h>
#include <string.h>

#include "cli.h"

static json_t *error;
static unsigned count;
static bool answered, asked;

/* Text from files may be anything; JSON is UTF-8. */
static json_t *text_of(const char *text)
{
    char *valid = g_utf8_make_valid(text, -1);
    json_t *json = json_string(valid);
    g_free(valid);
    return json;
}

void answer_ask(void)
{
    asked = true;
}

void answer_note(const char *file, uint32_t line, uint32_t column, const char *message,
                 const char *hint)
{
    count++;
    if (!asked || error != NULL) return;
    error = json_object();
    json_object_set_new(error, "message", text_of(message));
    if (file != NULL) json_object_set_new(error, "file", text_of(file));
    if (line > 0) json_object_set_new(error, "line", json_integer(line));
    if (column > 0) json_object_set_new(error, "column", json_integer(column));
    if (hint != NULL) json_object_set_new(error, "hint", text_of(hint));
}

void answer(json_t *all)
{
    if (error != NULL && json_is_object(all)) {
        json_object_set(all, "error", error);
        json_object_set_new(all, "errors", json_integer(count));
    }
    char *text = json_dumps(all, JSON_INDENT(2) | JSON_REAL_PRECISION(6));
    if (text != NULL)
        cli_out.write(cli_out.context, text, strlen(text));
    else
        fail("the answer cannot be put together: out of memory");
    printf("\n");
    free(text);
    json_decref(all);
    answered = true;
}

int answer_end(int code)
{
    if (asked && code != EXIT_GOOD && !answered) answer(json_object());
    if (error != NULL) json_decref(error);
    error = NULL;
    return code;
}
