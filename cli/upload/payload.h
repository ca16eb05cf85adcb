/* payload.h - the SOURCE-or-IMAGE that a command is given, as an image. */
#ifndef BOOTLACE_CLI_PAYLOAD_H
#define BOOTLACE_CLI_PAYLOAD_H

#include "cli.h"
#include "project/whereis.h"

typedef struct payload {
    project *p;
    bl_program *program; /* NULL for an image file */
    bl_image *image;
    bool owns_image;
    const char *name;
    whereis names;
} payload;

/* Assembles a source, or reads an image file; a raw binary when at (text of --at) is given. A
 * source needs a bench; extras may be NULL. Returns an exit code, after telling. payload_end
 * follows in any case. */
int payload_begin(const bench *b, const char *name, const char *at, const project_extras *extras,
                  payload *l);
void payload_end(payload *l);
/* Keeps only what lies in a range. False: nothing does, and it is as it was. */
bool payload_cut(payload *l, bl_range range);
/* Makes it a program that is kept and starts at power-on. Returns an exit code, after telling. */
int payload_store(const bench *b, payload *l);
/* An address that may be a symbol of the payload. Returns an exit code, after telling. */
int payload_address(const bench *b, const payload *l, const char *option, const char *text,
                    uint32_t *address);

/* Is it an image file, by its ending or because of at? */
bool payload_is_image(const char *name, const char *at);

/* The only piece that the bench file builds for RAM; NULL when there is none, or more. */
char *only_ram_piece(const bench *b);

#endif
