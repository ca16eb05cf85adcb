/* assertion.c - where a program ends that has no bl_assert_failed of its own. */
#include "bootlace/assert.h"

typedef int bl_assert_is_no_empty_file;

#ifndef BL_NO_ASSERT
#if !defined(__STDC_HOSTED__) || __STDC_HOSTED__ != 0
_Noreturn void abort(void);

#if defined(__GNUC__)
__attribute__((weak))
#endif
_Noreturn void
bl_assert_failed(const char *condition, const char *file, unsigned line)
{
    (void)condition, (void)file, (void)line;
    abort();
}
#endif
#endif
