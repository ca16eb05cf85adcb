/* difference.h - how memory differs from what was built, in words: as instructions, and what the
 * pattern of the wrong bytes suggests. */
#ifndef BOOTLACE_HOST_DIFFERENCE_H
#define BOOTLACE_HOST_DIFFERENCE_H

#include <glib.h>

#include "bench/bench.h"
#include "whereis.h"

/* expected is what was built, found what memory has of the same addresses. An array of lines of
 * text, empty when nothing can be said; free with g_ptr_array_free(_, TRUE). */
GPtrArray *difference_explain(const bench *b, const whereis *w, const bl_image *expected,
                              const bl_image *found);

#endif
