/* logbook.h - what was built, and what was put where: an SQLite file. docs/logbook.md.
 *
 * In the user's data folder, or where the bench file says. A logbook that cannot be written is told
 * once and is no reason to stop: the chip matters more than the book.
 */
#ifndef BOOTLACE_LOGBOOK_H
#define BOOTLACE_LOGBOOK_H

#include "bench/bench.h"

typedef struct logbook logbook;

/* The contents of a chip, as they were once built. */
typedef struct logbook_content {
    char bench[64], chip[32], version[64];
    int64_t time; /* Unix seconds of the first time */
} logbook_content;

/* One time that a chip was in the programmer for writing. */
typedef struct logbook_burn {
    const char *chip;
    unsigned copy; /* 1, 2, ... of chips that are alike */
    const char *part;
    uint32_t size, crc32; /* of what should be in it */
    uint64_t pages;       /* written */
    bool verified;
    int64_t time; /* filled in by the logbook */
} logbook_burn;

/* Never fails: without a file it remembers and finds nothing, having told why. */
logbook *logbook_open(const bench *b, const bl_sink *sink);
/* Could all be read that was asked for? When not, that it found nothing says nothing. */
bool logbook_was_read(const logbook *l);
/* Where it is. */
const char *logbook_path(const logbook *l);
void logbook_close(logbook *l);

/* What follows, up to the end of it, is one write to the disk. */
void logbook_together(logbook *l, bool begin);
/* What is built for each chip now. */
void logbook_built(logbook *l, const bench *b, const bl_image *image);
void logbook_burned(logbook *l, const bench *b, const logbook_burn *burn);

/* When were these contents built? The newest; false when never. */
bool logbook_find(logbook *l, const uint8_t *bytes, uint32_t size, logbook_content *found);
/* How often this chip of the bench was written to. */
unsigned logbook_wear(logbook *l, const bench *b, const char *chip, unsigned copy);

/* The burns of a chip, or of all when it is NULL, the oldest first. */
typedef void (*logbook_visit)(void *context, const logbook_burn *burn, const char *version);
void logbook_history(logbook *l, const bench *b, const char *chip, logbook_visit visit,
                     void *context);

/* What was last sent to a machine's RAM through Eyelet, and verified there. line says over which
 * port, and of which simulated bench. It may no longer be there: whoever believes it must prove it.
 */
void logbook_sent(logbook *l, const bench *b, const char *line, const bl_image *image);
/* What was sent is there no more, or in part: a sending that broke off. */
void logbook_forget_sent(logbook *l, const bench *b, const char *line);
/* *image is to be closed, and NULL when nothing is known. */
void logbook_last_sent(logbook *l, const bench *b, const char *line, bl_image **image);

/* A piece of the build, or what was sent, with its symbols: so that it can be told from memory. */
void logbook_piece(logbook *l, const bench *b, const char *piece, bl_program *program);
/* All that is in there while visit is called; symbols as in a symbol file. */
typedef struct logbook_built_piece {
    const char *name, *version;
    int64_t time; /* Unix seconds of the first time */
    const bl_image *image;
    const char *symbols;
} logbook_built_piece;
typedef bool (*logbook_piece_visit)(void *context, const logbook_built_piece *piece);
/* The newest first, until visit returns false. */
void logbook_pieces(logbook *l, const bench *b, logbook_piece_visit visit, void *context);

/* "2026-11-23 21:40", local time. Free with g_free. */
char *logbook_time_text(int64_t time);

#endif
