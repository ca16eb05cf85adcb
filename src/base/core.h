/* core.h - what the core's own files share: the four memory functions that every C compiler needs
 * even without a C library, and growing arrays. */
#ifndef BOOTLACE_SRC_CORE_H
#define BOOTLACE_SRC_CORE_H

#include "bootlace/assert.h"
#include "bootlace/base.h"
#include "bootlace/format.h"

/* Declared here and not through <string.h>, which a freestanding compiler does not have. */
void *memcpy(void *to, const void *from, size_t count);
void *memmove(void *to, const void *from, size_t count);
void *memset(void *to, int value, size_t count);
int memcmp(const void *a, const void *b, size_t count);

size_t bl_length(const char *text);

static inline bl_text bl_text_of(const char *text)
{
    return (bl_text){text, bl_length(text)};
}

static inline bool bl_text_same(bl_text a, bl_text b)
{
    return a.length == b.length && (a.length == 0 || memcmp(a.at, b.at, a.length) == 0);
}

bool bl_text_same_nocase(bl_text a, bl_text b);
bl_text bl_text_trim(bl_text text);

static inline char bl_upper(char c)
{
    return (char)(c >= 'a' && c <= 'z' ? c - 32 : c);
}

static inline bool bl_is_digit(char c)
{
    return c >= '0' && c <= '9';
}

static inline bool bl_is_letter(char c)
{
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
}

static inline bool bl_is_blank(char c)
{
    return c == ' ' || c == '\t';
}

/* The value of a hexadecimal digit, or -1. */
int bl_hex_digit(char c);

/* Returns block, grown (at least doubled) so that need items of size bytes fit and *capacity
 * updated; or NULL, with the old block untouched. */
void *bl_grow(const bl_memory *memory, void *block, size_t *capacity, size_t need, size_t size);
static inline void *bl_grown(const bl_memory *memory, void *block, size_t *capacity, size_t need,
                             size_t size)
{
    if (need <= *capacity && block != NULL) return block;
    return bl_grow(memory, block, capacity, need, size);
}
void bl_release(const bl_memory *memory, void *block);

/* A terminated copy of text, or NULL. */
char *bl_text_copy(const bl_memory *memory, bl_text text);

#endif
