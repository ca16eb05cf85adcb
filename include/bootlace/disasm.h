/* disasm.h - the disassembler: bytes back to source that assembles to the very same bytes.
 *
 * Code is followed from entry points and vectors; what nobody reaches is data, and what of it can
 * be read is text. The instruction set is a sheet's. The output is in the language of
 * docs/language.md.
 */
#ifndef BOOTLACE_DISASM_H
#define BOOTLACE_DISASM_H

#include "image.h"
#include "sheet.h"

#ifdef __cplusplus
extern "C" {
#endif

/* The name of an address. */
typedef struct bl_disasm_name {
    bl_text name;
    uint32_t address;
} bl_disasm_name;

typedef struct bl_disasm_options {
    bl_memory memory;
    const bl_sheet *sheet;
    const bl_image *image;
    bl_range range;              /* addresses of the CPU; count 0: all of the image */
    const bl_disasm_name *names; /* in any order; may be NULL */
    size_t name_count;
    const uint32_t *entries; /* where code begins, beside the image's entry point and the vectors */
    size_t entry_count;
    uint32_t direct;   /* what the direct page register holds */
    bool all_code;     /* take everything as code, one instruction after the other */
    const char *title; /* for the first line; may be NULL */
} bl_disasm_options;

/* What was found, in units (bytes, or words where addresses count words). */
typedef struct bl_disasm_counts {
    uint64_t code, data;
    uint32_t instructions, labels;
} bl_disasm_counts;

/* Writes source for the range. counts may be NULL. BL_E_RANGE: nothing of the image lies in the
 * range, or it has more than 64 MiB; BL_E_MEMORY; or the writer's status. */
bl_status bl_disassemble(const bl_disasm_options *options, bl_disasm_counts *counts,
                         const bl_writer *writer);

#ifdef __cplusplus
}
#endif
#endif
