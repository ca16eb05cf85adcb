/* assert.h - what the code relies on, looked at while it runs.
 *
 * An assertion that does not hold is a fault of ours, never of what came from outside: that is told
 * by statuses. It ends the program: by bl_assert_failed, of which a program may have its own (the
 * command and the tests do, and print where it was). Off when the core is compiled freestanding, or
 * with BL_NO_ASSERT.
 */
#ifndef BOOTLACE_ASSERT_H
#define BOOTLACE_ASSERT_H

#if defined(BL_NO_ASSERT) || (defined(__STDC_HOSTED__) && __STDC_HOSTED__ == 0)
#define BL_ASSERT(condition) ((void)sizeof((condition) ? 1 : 0))
#else
_Noreturn void bl_assert_failed(const char *condition, const char *file, unsigned line);
#define BL_ASSERT(condition)                                                                       \
    ((condition) ? (void)0 : bl_assert_failed(#condition, __FILE__, __LINE__))
#endif

/* How many elements an array has, for static asserts of tables that an enum indexes. */
#define BL_COUNT(array) (sizeof(array) / sizeof((array)[0]))

#endif
