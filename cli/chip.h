/* chip.h - what the subcommands of bootlace chip share: one chip, and what belongs in it. */
#ifndef BOOTLACE_CLI_CHIP_H
#define BOOTLACE_CLI_CHIP_H

#include "connect.h"

typedef struct chip_options {
    char *image, *at;
    gboolean all, protect, unprotect, twice, corners, parts;
} chip_options;
extern chip_options chip_given;

typedef struct work {
    bench *b;
    project *p;
    bl_image *file; /* of --image */
    bl_image *image;
    const bl_chip *chip;
    size_t index;
    uint8_t *bytes; /* the chip's whole contents */
    uint32_t used;
    whereis names;
} work;

/* Opens the bench and finds the chip that is named, or the only one; with_image also what belongs
 * in it. Returns an exit code, after telling. work_end follows in any case. */
int work_begin(work *k, int argc, char **argv, bool with_image);
void work_end(work *k);
/* What is built for chips, or read from the file of --image. */
int work_image(work *k);

/* The three by which a chip is known again. */
void tell_checksums(const char *before, const uint8_t *bytes, size_t count, const char *after);

/* The subcommands. */
int chip_plan(int argc, char **argv);
int chip_blank(int argc, char **argv);
int chip_write(int argc, char **argv);
int chip_verify(int argc, char **argv);
int chip_read(int argc, char **argv);

#endif
