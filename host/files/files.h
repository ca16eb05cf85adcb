/* files.h - memory, whole files, and sources from the disk. */
#ifndef BOOTLACE_HOST_FILES_H
#define BOOTLACE_HOST_FILES_H

#include "bootlace/asm.h"

#include <stdio.h>

/* The C library's allocator. */
extern const bl_memory host_memory;

/* The path of a file that is named as seen from a folder. Free it with g_free. */
char *host_path_in(const char *folder, const char *name);
/* "lamp" of src/lamp.asm. Free with g_free. */
char *host_stem(const char *path);

/* Reads a whole file ("-": standard input); free it with g_free. Faults are reported. Of a file
 * that was read host_output_end knows that it must not be written to. */
bl_status host_read_file(const char *path, char **text, size_t *length, const bl_sink *sink);

/* This file was read, by other means. */
void host_note_read(const char *path);
/* Was this file read, by whatever name? */
bool host_was_read(const char *path);
/* From now on nothing was read: what follows is another piece of work. */
void host_forget_read(void);

/* Collects what is written, then puts it into a file in one piece: whole or not at all. */
typedef struct host_output {
    char *bytes;
    size_t count, capacity;
    bl_status status; /* BL_E_MEMORY: not all of it could be kept */
} host_output;
/* o must stay where it is while it is written to. */
void host_output_begin(host_output *o, bl_writer *writer);
/* path "-" is standard output. Always frees. */
bl_status host_output_end(host_output *o, const char *path, const bl_sink *sink);
void host_output_drop(host_output *o);
/* What has been collected so far; valid until more is written. */
bl_text host_output_text(const host_output *o);

/* Sources from the disk: a name is looked for beside the source that asks, then in folders.
 * Firmware that comes with Bootlace is found as <CPU/NAME>. */
typedef struct host_sources {
    char **folders; /* NULL-terminated; may be NULL */
    void *seen;     /* GPtrArray of char *: every path that was asked for is added; may be NULL */
    void *offered;  /* GHashTable: path -> GBytes, files that exist in memory only */
} host_sources;
/* From now on this path has these contents, whatever the disk says. */
void host_sources_offer(host_sources *s, const char *path, const char *text, size_t length);
void host_sources_clear(host_sources *s);
bl_source_provider host_source_provider(host_sources *s);

#endif
