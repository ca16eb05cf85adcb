/* disk_program.h - a program as the bytes of a file on a disk: in the order of its addresses, with
 * what the machine's loader wants around it. */
#ifndef BOOTLACE_DISK_PROGRAM_H
#define BOOTLACE_DISK_PROGRAM_H

#include "bench/bench.h"

#include <glib.h>

/* The wrapper of this name; NULL: the bench file describes none, or there is no bench file. */
const bl_wrap *disk_wrap_named(const bench *b, const char *name);

/* Fills *file from an image: load address, entry, size, and bytes, which are in *bytes (a new one).
 * Gaps are 0. wrap may be NULL. name: for the wrapper's field, and messages. BL_E_RANGE: it has no
 * bytes, or is nearly all gaps; what a wrapper refuses; reported. */
bl_status disk_program(const bench *b, const bl_image *image, const bl_wrap *wrap, const char *name,
                       const bl_sink *sink, GByteArray **bytes, bl_disk_file *file);
/* Bytes that are no program, as they are or with a wrapper that needs no addresses; in *bytes, a
 * new one whatever happens. */
bl_status disk_plain(const bl_wrap *wrap, const char *name, bl_text text, const bl_sink *sink,
                     GByteArray **bytes);
/* What the program of a source or an image is called on a disk: "lamp.bin"; on a bare disk, where
 * addresses stand beside the name, "lamp". Free with g_free. */
char *disk_program_name(bl_disk_kind kind, const char *path);

#endif
