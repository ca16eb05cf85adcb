/* message.c - .note .warn .fail: what the source wants to say. */
#include "assembler.h"

static void say_message(bl_program *a, bl_severity severity, bl_text word)
{
    bl_text text;
    char message[260];
    if (!asm_quoted(a, &text)) return;
    asm_end_of_line(a);
    bl_format(message, sizeof message, "%.*s", (int)(text.length & 0xFF), text.at);
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
