/* disk_text.h - a text made from the addresses of a program: a start-up file that cannot disagree
 * with it. docs/disk.md.
 *
 * {name} becomes the program's name; {EXPR} and {EXPR:FORM} the value of an expression over load,
 * last, end, entry, length and the program's own symbols. FORM: x4 (four hexadecimal digits in
 * lower case), X4, o6 (octal), d (decimal, also without any). {{ is a brace.
 */
#ifndef BOOTLACE_DISK_TEXT_H
#define BOOTLACE_DISK_TEXT_H

#include "bench/bench.h"

#include <glib.h>

typedef struct disk_text_source {
    const char *name;
    const bl_disk_file *file;  /* the program, without a wrapper; NULL: there is none */
    uint32_t length;           /* bytes of the program */
    const bl_program *program; /* its symbols; or NULL */
} disk_text_source;

/* NULL: the text asks for what there is not; reported at file and line. Free with g_free. */
char *disk_text(const char *text, const disk_text_source *source, const char *file, uint32_t line,
                const bl_sink *sink);

#endif
