/* sound_file.h - recordings as files: WAV, FLAC and what else libsndfile reads. */
#ifndef BOOTLACE_SOUND_FILE_H
#define BOOTLACE_SOUND_FILE_H

#include "bootlace/diag.h"
#include "bootlace/modulate.h"

typedef struct sound_file {
    void *handle; /* of libsndfile */
    uint32_t rate;
    unsigned channels;
    uint64_t frames; /* samples of each channel */
} sound_file;

/* Opens a recording; "-" is standard input, taken whole. BL_E_NOT_FOUND, BL_E_SYNTAX: it is no
 * recording; BL_E_RANGE: a rate or a number of channels that cannot be. Reported. */
bl_status sound_open(const char *path, const bl_sink *sink, sound_file *f);
void sound_close(sound_file *f);
/* Reads the next frames, the channels of each side by side. Returns how many, 0 at the end. */
size_t sound_read(sound_file *f, int16_t *samples, size_t frames);
/* The next to be read is this frame. */
bool sound_seek(sound_file *f, uint64_t frame);

typedef enum sound_type { SOUND_NONE, SOUND_WAV, SOUND_FLAC } sound_type;

/* By the ending of a path; WAV for "-". */
sound_type sound_type_of(const char *path);

/* A recording in the making: it has no name until it is put in place. */
typedef struct sound_writer {
    void *handle;
    int file;
    const bl_sink *sink;
    uint64_t frames; /* written so far */
} sound_writer;

/* bits: 8, 16 or 24. Reported. */
bl_status sound_writer_begin(sound_writer *w, sound_type type, uint32_t rate, unsigned bits,
                             const bl_sink *sink);
/* For a bl_sample_sink whose context is the writer. */
bl_status sound_writer_samples(void *context, const int32_t *samples, size_t count);
/* Ends the writing, and opens what was written to be read. Close it before it is put in place. */
bl_status sound_writer_review(sound_writer *w, sound_file *f);
/* Puts it in place, whole or not at all; "-" is standard output. Reported. Frees. */
bl_status sound_writer_end(sound_writer *w, const char *path);
/* Frees without a trace. */
void sound_writer_drop(sound_writer *w);

#endif
