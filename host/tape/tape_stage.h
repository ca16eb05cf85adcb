/* tape_stage.h - the first stage of a staged tape: a loader that the machine's ROM can load. */
#ifndef BOOTLACE_TAPE_STAGE_H
#define BOOTLACE_TAPE_STAGE_H

#include "project/project.h"

typedef struct tape_stage {
    project *p;
    bl_program *program;
    const bl_image *image; /* of the loader */
} tape_stage;

/* Assembles the loader for a bench; unpacks: one that knows packed blocks. BL_E_UNSUPPORTED: there
 * is none for its CPU. Reported. tape_stage_end follows in any case. */
bl_status tape_stage_begin(const bench *b, bool unpacks, const bl_sink *sink, tape_stage *s);
void tape_stage_end(tape_stage *s);

/* Does a program leave alone what the loader needs while it loads? False: *where is an address that
 * it does not. */
bool tape_stage_allows(const tape_stage *s, const bl_image *program, uint32_t *where);

#endif
