/* model_send.h - one send to the model, of random bytes over a line that damages: what is said of
 * it, and what is true. */
#ifndef BOOTLACE_MODEL_SEND_H
#define BOOTLACE_MODEL_SEND_H

#include "machine_model.h"

typedef enum model_end {
    MODEL_FAILED,   /* said so */
    MODEL_VERIFIED, /* said, and it is so */
    MODEL_FALSE,    /* said, and a byte is wrong */
} model_end;

enum { MODEL_LINES = 7 };
/* What kind of line it is, for a table. */
const char *model_line(unsigned line);

/* line: below MODEL_LINES. everything follows from the seed. wrong: how many bytes. */
model_end model_send(const bl_memory *memory, unsigned line, model_quick quick, uint64_t seed,
                     size_t *wrong);

#endif
