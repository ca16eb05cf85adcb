/* project.h - everything a bench file asks to be built, in memory; and its files, written at the
 * end. */
#ifndef BOOTLACE_PROJECT_H
#define BOOTLACE_PROJECT_H

#include "bench/bench.h"
#include "files/files.h"

#include <glib.h>

typedef struct project_piece {
    const bench_piece *piece;
    char *stem; /* "lamp-rom": files are out/lamp-rom.hex ... */
    bl_program *program;
} project_piece;

typedef struct project {
    const bench *b;
    project_piece *pieces;
    size_t piece_count;
    bl_image *chips; /* all pieces for chips, together */
    host_sources sources;
    GPtrArray *results; /* project_result *, written along with everything else */
} project;

/* A file that is built besides: a disk. */
typedef struct project_result {
    char *name;
    GByteArray *bytes;
} project_result;

/* What is given on the command line. */
typedef struct project_extras {
    char **folders;                   /* -I; NULL-terminated, may be NULL */
    const bl_definition *definitions; /* -D */
    size_t definition_count;
    bool strict; /* warnings are errors */
    void *seen;  /* as in host_sources */
} project_extras;

typedef enum project_scope {
    PROJECT_ALL,      /* every piece */
    PROJECT_CHIPS,    /* what is for chips */
    PROJECT_FIRMWARE, /* only firmware, for its symbols */
} project_scope;

/* Assembles the pieces in scope in order. A piece can .use the symbols of the ones before it as
 * out/STEM.sym, whether that file exists or not. Checks that bytes for chips lie in chips and bytes
 * for RAM in RAM, that no two pieces give the same byte, and that needed vectors are there. */
bl_status project_build(const bench *b, project_scope scope, const project_extras *extras,
                        const bl_sink *sink, project **p);
void project_close(project *p);

/* Assembles one more source against the bench; its symbols and areas are known to it. */
bl_status project_assemble(project *p, const char *source, const project_extras *extras,
                           const bl_sink *sink, bl_program **program);

/* Does every byte lie in an area of kind ram? BL_E_RANGE, reported, when not. */
bl_status project_check_ram(const bench *b, bl_image *image, const bl_sink *sink);

/* Does every byte lie in a chip, and each byte of a chip have one source? BL_E_RANGE, BL_E_OVERLAP,
 * reported. */
bl_status project_check_chips(const bench *b, bl_image *image, const bl_sink *sink);

/* Adds a file to what project_write writes; bytes are taken over. */
void project_add_result(project *p, const char *name, GByteArray *bytes);

/* Writes out/ beside the bench file: a listing, symbols and HEX for each piece, chips.hex, and one
 * raw binary for each chip, and what project_add_result was given. count receives how many files.
 */
bl_status project_write(const project *p, const bl_sink *sink, size_t *count);

#endif
