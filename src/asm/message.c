/* message.c - .note .warn .fail: what the source wants to say. */
#include "assembler.h"

/* A text, or the value of an expression that is known here, behind what the message is so far. */
static bool add_part(bl_program *a, char *message, size_t capacity, size_t *length)
{
    const char *p = asm_skip(a->cursor.p);
    char *at = message + (*length < capacity ? *length : capacity);
    size_t left = *length < capacity ? capacity - *length : 0;
    int64_t value;
    bl_text text;
    if (*p == '"') {
        if (!asm_quoted(a, &text)) return false;
        *length += bl_format(at, left, "%.*s", (int)(text.length & 0xFF), text.at);
    } else {
        if (!asm_known_value(a, &value)) return false;
        *length += bl_format(at, left, "%lld", (long long)value);
    }
    return true;
}

/* "text"[, VALUE or "text"]... */
static void say_message(bl_program *a, bl_severity severity, bl_text word)
{
    bl_text text;
    char message[260];
    size_t length = 0;
    if (!asm_quoted(a, &text)) return;
    length = bl_format(message, sizeof message, "%.*s", (int)(text.length & 0xFF), text.at);
    while (asm_comma(a))
        if (!add_part(a, message, sizeof message, &length)) return;
    asm_end_of_line(a);
    asm_report(a, severity, a->cursor.source, a->cursor.line,
               (uint32_t)(word.at - a->code.sources[a->cursor.source].text), word.length, NULL,
               message);
}

void asm_note(bl_program *a, bl_text word)
{
    say_message(a, BL_NOTE, word);
}

void asm_warn_directive(bl_program *a, bl_text word)
{
    say_message(a, BL_WARNING, word);
}

void asm_fail(bl_program *a, bl_text word)
{
    say_message(a, BL_ERROR, word);
}
