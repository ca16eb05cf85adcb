/* line_reader.c - lines, words, and what is wrong with them. */
#include "line_reader.h"

bool bl_line_next(bl_line_reader *r)
{
    BL_ASSERT(r->text.length == 0 || r->text.at != NULL);
    size_t n = 0;
    if (r->text.length == 0) return false;
    while (n < r->text.length && r->text.at[n] != '\n')
        n++;
    r->line = (bl_text){r->text.at, n};
    while (r->line.length > 0 &&
           (bl_is_blank(r->line.at[r->line.length - 1]) || r->line.at[r->line.length - 1] == '\r'))
        r->line.length--;
    r->rest = r->line;
    r->number++;
    n += n < r->text.length;
    r->text = (bl_text){r->text.at + n, r->text.length - n};
    return true;
}

bl_text bl_line_word(bl_line_reader *r)
{
    bl_text t = bl_text_trim(r->rest);
    size_t n = 0;
    while (n < t.length && !bl_is_blank(t.at[n]))
        n++;
    r->rest = (bl_text){t.at + n, t.length - n};
    return (bl_text){t.at, n};
}

void bl_line_fault_list(bl_line_reader *r, bl_text mark, const char *hint, const char *message,
                        va_list list)
{
    char text[240];
    r->faults++;
    if (r->sink == NULL || r->sink->report == NULL) return;
    bl_format_list(text, sizeof text, message, list);
    const char *end = r->line.at != NULL ? r->line.at + r->line.length : NULL;
    bool inside = mark.at != NULL && r->line.at != NULL && mark.at >= r->line.at && mark.at <= end;
    uint32_t column = inside ? (uint32_t)(mark.at - r->line.at) + 1 : 0;
    bl_diag d = {BL_ERROR, r->name, r->number, column, inside ? (uint32_t)mark.length : 0,
                 r->line,  text,    hint};
    r->sink->report(r->sink->context, &d);
}

void bl_line_fault(bl_line_reader *r, bl_text mark, const char *hint, const char *message, ...)
{
    va_list list;
    va_start(list, message);
    bl_line_fault_list(r, mark, hint, message, list);
    va_end(list);
}

const char *bl_line_known(bl_text word, const char *(*name)(const void *list, size_t index),
                          const void *list, char *buffer, size_t capacity)
{
    const char *near = bl_name_nearest(word, bl_name_tolerance(word.length), name, list, NULL);
    const char *one;
    if (near != NULL) {
        bl_format(buffer, capacity, "did you mean '%s'?", near);
        return buffer;
    }
    size_t n = bl_format(buffer, capacity, "known:");
    for (size_t i = 0; (one = name(list, i)) != NULL && n < capacity; i++)
        n += bl_format(buffer + n, capacity - n, " %s", one);
    return buffer;
}
