/* map_words.h - which bytes of its range a map holds, in words. */
#ifndef BOOTLACE_MAP_WORDS_H
#define BOOTLACE_MAP_WORDS_H

#include "bench/bench.h"

/* The words of one place where it is said: a table, a picture, a label. Each begins with what parts
 * it from the one before. lane has two %u, which of how many; mirrored may be empty. */
typedef struct map_words {
    const char *even, *odd, *lane, *low, *high, *mirrored;
} map_words;

/* Free with g_free. An empty text when the map holds every byte of its range once. */
char *map_words_text(const bl_chip_map *map, const map_words *words);

#endif
