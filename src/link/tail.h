/* tail.h - the last characters that came, to find a prompt or a mark at their end. */
#ifndef BOOTLACE_SRC_TAIL_H
#define BOOTLACE_SRC_TAIL_H

#include "base/core.h"

static inline void bl_tail_keep(char *tail, size_t capacity, size_t *count, uint8_t byte)
{
    if (*count == capacity) memmove(tail, tail + 1, --*count);
    tail[(*count)++] = (char)byte;
}

/* Never when text is empty. */
static inline bool bl_tail_ends(const char *tail, size_t count, const char *text)
{
    size_t n = bl_length(text);
    return n > 0 && count >= n && memcmp(tail + count - n, text, n) == 0;
}

#endif
