/* harness.h - a small test harness: cases register themselves, checks explain what they found.
 *
 * A suite is a program: run without arguments it runs all its cases; with names or patterns like
 * 'xmodem_*' those that match; --list lists them. A failed check ends its case, not the suite: each
 * case is a process of its own, so a crash ends no more than that either. --here runs the cases in
 * one process, for a debugger. --part 1/2 runs every second case.
 */
#ifndef BOOTLACE_HARNESS_H
#define BOOTLACE_HARNESS_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "bootlace/bootlace.h"

void test_register(const char *name, void (*run)(void));

#define TEST(name)                                                                                 \
    static void name(void);                                                                        \
    __attribute__((constructor)) static void register_##name(void)                                 \
    {                                                                                              \
        test_register(#name, name);                                                                \
    }                                                                                              \
    static void name(void)

/* A helper that checks something tells its caller's line, too, when it is called through one of
 * these; after its definition: #define refuse(...) TEST_CALL(refuse(__VA_ARGS__)). TEST_VALUE is
 * for helpers that return something. */
void test_enter(const char *file, int line);
void test_leave(void);
#define TEST_CALL(call)                                                                            \
    do {                                                                                           \
        test_enter(__FILE__, __LINE__);                                                            \
        call;                                                                                      \
        test_leave();                                                                              \
    } while (0)
#define TEST_VALUE(call)                                                                           \
    __extension__({                                                                                \
        test_enter(__FILE__, __LINE__);                                                            \
        __typeof__(call) value_of_call = call;                                                     \
        test_leave();                                                                              \
        value_of_call;                                                                             \
    })

/* Ends the case with a message. */
_Noreturn void test_fail(const char *file, int line, const char *message, ...)
    __attribute__((format(printf, 3, 4)));

void test_int(const char *file, int line, const char *what, long long found, long long expected);
void test_text(const char *file, int line, const char *what, const char *found,
               const char *expected);
void test_contains(const char *file, int line, const char *what, const char *text, const char *part,
                   bool wanted);
void test_bytes(const char *file, int line, const char *what, const void *found, size_t found_count,
                const void *expected, size_t expected_count);

#define CHECK(condition)                                                                           \
    do {                                                                                           \
        if (!(condition)) test_fail(__FILE__, __LINE__, "%s does not hold", #condition);           \
    } while (0)
#define CHECK_INT(found, expected)                                                                 \
    test_int(__FILE__, __LINE__, #found, (long long)(found), (long long)(expected))
#define CHECK_TEXT(found, expected)    test_text(__FILE__, __LINE__, #found, found, expected)
#define CHECK_CONTAINS(text, part)     test_contains(__FILE__, __LINE__, #text, text, part, true)
#define CHECK_NOT_CONTAINS(text, part) test_contains(__FILE__, __LINE__, #text, text, part, false)
#define CHECK_BYTES(found, found_count, expected, expected_count)                                  \
    test_bytes(__FILE__, __LINE__, #found, found, found_count, expected, expected_count)

/* ---- memory: counts what is in use, and can be told to fail ---- */
extern const bl_memory test_memory;
size_t test_blocks(void);           /* not yet freed */
void test_memory_fail_at(long nth); /* the nth request from now fails; 0: none */
bool test_memory_failed(void);      /* did it? */

/* ---- messages: a sink that keeps what was reported, rendered ---- */
extern const bl_sink test_sink;
const char *test_messages(void);
unsigned test_error_count(void);
void test_messages_clear(void);

/* ---- text output: a writer that keeps what was written; cleared at the start of a case ---- */
extern const bl_writer test_writer;
const char *test_written(size_t *count);
void test_written_clear(void);

/* ---- chance, the same in every run ---- */
uint32_t test_random(void);
uint32_t test_below(uint32_t limit);
void test_seed(uint64_t seed);

/* ---- files and the command ---- */
/* A folder that is removed when the case ends. */
const char *test_folder(void);
/* Path of a file in it; text valid until eight calls later. */
const char *test_path(const char *name);
void test_write_file(const char *name, const char *text);
void test_write_bytes(const char *name, const void *bytes, size_t count);
/* Contents, terminated; ends the case when it cannot be read. Valid until the next call. */
const char *test_read_file(const char *name, size_t *count);
bool test_file_exists(const char *name);

typedef struct test_run {
    int code;
    const char *out, *err; /* valid until the next run */
    size_t out_count;
} test_run;
/* Runs a shell line in the case's folder; "bootlace" is the command that was built. */
test_run test_command(const char *line, ...) __attribute__((format(printf, 1, 2)));
/* The project's folder, and the contents of a file in it ("docs/sheets.md"): as test_read_file has
 * them, valid until the next call of its own. */
const char *test_source_folder(void);
/* Where the commands are that were built. */
const char *test_build_folder(void);
const char *test_read_source(const char *name, size_t *count);

#endif
