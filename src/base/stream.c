/* stream.c - text handed on piece by piece. */
#include "stream.h"

void bl_stream_begin(bl_stream *s, const bl_writer *writer)
{
    BL_ASSERT(writer != NULL && writer->write != NULL);
    s->writer = writer;
    s->status = BL_OK;
    s->count = s->column = 0;
}

bl_status bl_stream_flush(bl_stream *s)
{
    if (s->status == BL_OK && s->count > 0)
        s->status = s->writer->write(s->writer->context, s->text, s->count);
    s->count = 0;
    return s->status;
}

void bl_stream_put(bl_stream *s, bl_text text)
{
    s->column += text.length;
    while (text.length > 0) {
        size_t left = sizeof s->text - s->count, n = text.length < left ? text.length : left;
        memcpy(s->text + s->count, text.at, n);
        s->count += n;
        text.at += n, text.length -= n;
        if (s->count == sizeof s->text) bl_stream_flush(s);
    }
}

void bl_stream_string(bl_stream *s, const char *text)
{
    bl_stream_put(s, bl_text_of(text));
}

void bl_stream_pad(bl_stream *s, size_t column, size_t min)
{
    size_t n = s->column < column ? column - s->column : 0;
    for (n = n > min ? n : min; n > 0; n--)
        bl_stream_put(s, (bl_text){" ", 1});
}

void bl_stream_end_line(bl_stream *s)
{
    bl_stream_put(s, (bl_text){"\n", 1});
    s->column = 0;
}
