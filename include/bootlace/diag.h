/* diag.h - messages for people: what, where, what to do.
 *
 * The core never prints. It hands each message to a sink; a program shows it with bl_diag_render or
 * in its own way.
 */
#ifndef BOOTLACE_DIAG_H
#define BOOTLACE_DIAG_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_severity { BL_NOTE, BL_WARNING, BL_ERROR } bl_severity;

/* One message. All text belongs to the reporter and is valid during the call only. */
typedef struct bl_diag {
    bl_severity severity;
    const char *file;    /* NULL when the message belongs to no file */
    uint32_t line;       /* from 1; 0 when unknown */
    uint32_t column;     /* in bytes, from 1; 0 when unknown */
    uint32_t length;     /* bytes marked from column on; 0 marks nothing */
    bl_text source;      /* the source line without its end; .at NULL when there is none */
    const char *message; /* one sentence without a full stop */
    const char *hint;    /* what to do; NULL when nothing helps */
} bl_diag;

typedef struct bl_sink {
    void *context;
    void (*report)(void *context, const bl_diag *diag);
} bl_sink;

/* Sends a message that belongs to a place. message follows bl_format's rules. A sink that is NULL,
 * or has no report, swallows it. */
void bl_report(const bl_sink *sink, bl_severity severity, const char *file, uint32_t line,
               const char *hint, const char *message, ...)
#ifdef __GNUC__
    __attribute__((format(printf, 6, 7)))
#endif
    ;

/* Writes text of unknown origin for a terminal: control characters (U+0080 to U+009F and those that
 * turn the direction of text included) and bytes that are no UTF-8 become "<1B>". lines: line feeds
 * and tabs stay. The writer's status. */
bl_status bl_show(bl_text text, bool lines, const bl_writer *writer);

/* Writes a message as text: "FILE:LINE:COLUMN: error: MESSAGE", the source line with the exact
 * place marked under it, and the hint. colour adds ANSI colour sequences. Returns the writer's
 * status. */
bl_status bl_diag_render(const bl_diag *diag, const bl_writer *writer, bool colour);

/* How unlike two names are: insertions, deletions, changes and swaps of neighbours, letters of
 * either case being equal at no cost. Returns limit + 1 when they are further apart than limit, or
 * when a name is over 63 bytes. For "did you mean". */
unsigned bl_name_distance(bl_text a, bl_text b, unsigned limit);

/* How far a misspelling of a name this long may be from the real one. */
unsigned bl_name_tolerance(size_t length);

/* The nearest of a list of names, at most so far away; NULL when none is near. name(list, i): the
 * i-th name, NULL behind the last. *distance, unless NULL: how far it is. */
const char *bl_name_nearest(bl_text word, unsigned limit,
                            const char *(*name)(const void *list, size_t index), const void *list,
                            unsigned *distance);

#ifdef __cplusplus
}
#endif
#endif
