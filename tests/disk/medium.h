/* medium.h - a disk in memory for the tests, with what can go wrong with one. */
#ifndef BOOTLACE_TEST_MEDIUM_H
#define BOOTLACE_TEST_MEDIUM_H

#include "harness.h"

typedef struct medium {
    uint8_t *bytes;
    bl_sectors sectors;
    uint32_t writes;    /* done so far */
    uint32_t cut_after; /* so many writes, then there is no power; UINT32_MAX: never */
    bool torn;          /* the write at which it fails is done by half */
    uint32_t bad;       /* a sector that cannot be read; UINT32_MAX: none */
    uint32_t weak;      /* a sector that keeps something else than was written */
    bool protected;     /* from writing */
} medium;

/* All $E5, as a disk that was formatted and nothing else. Freed at the end of the case. */
void medium_begin(medium *m, uint32_t count, uint16_t size);
void medium_end(medium *m);
/* Opens what is on it; ends the case if that fails. */
void medium_open(medium *m, bl_disk *d, bool live);
/* Is a file there with these bytes? Ends the case if not. */
void medium_same(bl_disk *d, const char *path, const void *bytes, size_t count);
#define medium_same(...) TEST_CALL(medium_same(__VA_ARGS__))
/* Is one there with either of two contents? Which: 0, 1; ends the case if it is something else. */
unsigned medium_either(bl_disk *d, const char *path, const void *first, size_t first_count,
                       const void *second, size_t second_count);
#define medium_either(...) TEST_VALUE(medium_either(__VA_ARGS__))
bl_status medium_put(bl_disk *d, const char *path, const void *bytes, size_t count);
/* "A.TXT(3) B/" in the order of the folder. */
const char *medium_names(bl_disk *d, const char *path);
/* A check, whose findings are added to test_messages: "broken: ...", "remark: ...", and "mended".
 */
bl_status medium_check(bl_disk *d, bool repair, bl_disk_report *report);
/* Bytes that differ with number. */
void medium_fill(uint8_t *bytes, size_t count, unsigned number);

#endif
