/* chip_work.h - what the subcommands of bootlace chip share: one chip, and what belongs in it. */
#ifndef BOOTLACE_CLI_CHIP_H
#define BOOTLACE_CLI_CHIP_H

#include <jansson.h>

#include "connect/connect.h"
#include "logbook.h"

typedef struct chip_options {
    char *image, *at, *date;
    gboolean all, protect, unprotect, twice, corners, parts, identify, set, narrow;
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
    unsigned copy; /* 1, 2, ... of chips that are alike */
    whereis names;
    logbook *book;
} work;

/* Opens the bench and finds the chip that is named, or the only one; with_image also what belongs
 * in it. Returns an exit code, after telling. work_end follows in any case. */
int work_begin(work *k, int argc, char **argv, bool with_image);
void work_end(work *k);
/* Turns to another chip of the bench. */
void work_turn(work *k, size_t chip, unsigned copy);
/* What is built for chips, or read from the file of --image. */
int work_image(work *k);

/* The three by which a chip is known again: in words, and for scripts. */
void tell_checksums(const char *before, const uint8_t *bytes, size_t count, const char *after);
void put_checksums(json_t *object, const uint8_t *bytes, size_t count);

/* Runs one job on the programmer; tell: why it failed, also when it only differs. */
int work_job(work *k, bl_transfer_options *o, connection *c, bl_transfer *job, bool tell);
/* Writes or compares the chip. Returns an exit code, all told. */
int work_burn(work *k, bool compare);
/* Address lines that reading back cannot judge, because the contents are the same either way; a bit
 * a line. */
uint32_t work_unseen(const work *k);
/* Finds out about them, where the part can be written again. *unseen: those that remain. Returns an
 * exit code, after telling: EXIT_FAILED when one is dead. */
int work_probe(work *k, connection *c, uint32_t *unseen);
void work_tell_unseen(const work *k, uint32_t unseen);
/* Reads the whole chip, twice, into bytes. */
int work_read(work *k, connection *c, uint8_t *bytes);
/* Tells what these contents of the chip are: the logbook knows. */
int work_identify(work *k, const uint8_t *found);

/* The subcommands. */
int chip_plan(int argc, char **argv);
int chip_blank(int argc, char **argv);
int chip_write(int argc, char **argv);
int chip_verify(int argc, char **argv);
int chip_read(int argc, char **argv);
int chip_history(int argc, char **argv);
int chip_label(int argc, char **argv);
/* chip write --set */
int chip_set(work *k);

#endif
