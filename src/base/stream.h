/* stream.h - the bounded writers of the core: text that is put together piece by piece. Whoever
 * needs a text of its own length uses one of these two, and does no arithmetic on buffers.
 *
 * A bl_room is a buffer: what does not fit is counted and not kept, so that the caller can tell
 * that it was cut. A bl_stream hands on what is full to a writer, and knows its column.
 */
#ifndef BOOTLACE_SRC_STREAM_H
#define BOOTLACE_SRC_STREAM_H

#include "core.h"

typedef struct bl_room {
    char *at;
    size_t capacity, length; /* length: of the whole text, kept or not */
} bl_room;

static inline void bl_room_put(bl_room *r, char c)
{
    if (r->length + 1 < r->capacity) r->at[r->length] = c;
    r->length++;
}

static inline void bl_room_text(bl_room *r, bl_text text)
{
    for (size_t i = 0; i < text.length; i++)
        bl_room_put(r, text.at[i]);
}

/* Terminates what was kept. */
static inline void bl_room_end(bl_room *r)
{
    if (r->capacity > 0) r->at[r->length < r->capacity ? r->length : r->capacity - 1] = '\0';
}

typedef struct bl_stream {
    const bl_writer *writer;
    bl_status status; /* the writer's first failure; nothing is handed on after it */
    size_t count, column;
    char text[1024];
} bl_stream;

void bl_stream_begin(bl_stream *s, const bl_writer *writer);
void bl_stream_put(bl_stream *s, bl_text text);
void bl_stream_string(bl_stream *s, const char *text);
/* Blanks up to a column of the line, and at least least of them. */
void bl_stream_pad(bl_stream *s, size_t column, size_t min);
void bl_stream_end_line(bl_stream *s);
/* Hands on all that is left. */
bl_status bl_stream_flush(bl_stream *s);

#endif
