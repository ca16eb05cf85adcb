/* harness.c - cases, checks, and running them. */
#include "harness.h"

#include <errno.h>
#include <fnmatch.h>
#include <setjmp.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "harness_private.h"

enum { LIMIT = 512 };

static struct {
    const char *name;
    void (*run)(void);
} cases[LIMIT];
static size_t case_count;
static jmp_buf out;

/* The helpers that are being called, from the outside in. */
enum { DEEPEST = 16 };
static struct {
    const char *file;
    int line;
} callers[DEEPEST];
static size_t depth;

void test_enter(const char *file, int line)
{
    if (depth == DEEPEST) abort();
    callers[depth].file = file;
    callers[depth++].line = line;
}

void test_leave(void)
{
    if (depth == 0) abort();
    depth--;
}

void test_register(const char *name, void (*run)(void))
{
    if (case_count == LIMIT) abort();
    cases[case_count].name = name;
    cases[case_count++].run = run;
}

void test_fail(const char *file, int line, const char *message, ...)
{
    va_list list;
    fprintf(stderr, "  %s:%d: ", file, line);
    va_start(list, message);
    vfprintf(stderr, message, list);
    va_end(list);
    fputc('\n', stderr);
    for (size_t i = depth; i > 0; i--)
        fprintf(stderr, "  called from %s:%d\n", callers[i - 1].file, callers[i - 1].line);
    longjmp(out, 1);
}

_Noreturn void bl_assert_failed(const char *condition, const char *file, unsigned line)
{
    fprintf(stderr, "  %s:%u: assertion '%s' does not hold\n", file, line, condition);
    abort();
}

void test_int(const char *file, int line, const char *what, long long found, long long expected)
{
    if (found == expected) return;
    test_fail(file, line, "%s is %lld ($%llX), expected %lld ($%llX)", what, found,
              (unsigned long long)found, expected, (unsigned long long)expected);
}

void test_text(const char *file, int line, const char *what, const char *found,
               const char *expected)
{
    if (found != NULL && strcmp(found, expected) == 0) return;
    test_fail(file, line, "%s is\n----\n%s\n----\nexpected\n----\n%s\n----", what,
              found != NULL ? found : "(null)", expected);
}

void test_contains(const char *file, int line, const char *what, const char *text, const char *part,
                   bool wanted)
{
    if ((strstr(text, part) != NULL) == wanted) return;
    test_fail(file, line, "%s %s '%s':\n----\n%s\n----", what,
              wanted ? "does not contain" : "contains", part, text);
}

/* Sixteen bytes a row around the first difference, expected above found. */
static void show_bytes(const char *label, const uint8_t *bytes, size_t count, size_t from)
{
    fprintf(stderr, "  %-9s", label);
    for (size_t i = from; i < from + 16 && i < count; i++)
        fprintf(stderr, " %02X", bytes[i]);
    fprintf(stderr, "\n");
}

void test_bytes(const char *file, int line, const char *what, const void *found, size_t found_count,
                const void *expected, size_t expected_count)
{
    const uint8_t *f = found, *e = expected;
    size_t n = found_count < expected_count ? found_count : expected_count, at = 0;
    while (at < n && f[at] == e[at])
        at++;
    if (at == n && found_count == expected_count) return;
    size_t from = at - at % 16;
    show_bytes("expected", e, expected_count, from);
    show_bytes("found", f, found_count, from);
    test_fail(file, line, "%s: %zu bytes, expected %zu; the first difference is at %zu ($%zX)",
              what, found_count, expected_count, at, at);
}

static bool run_case(size_t i)
{
    test_messages_clear();
    test_written_clear();
    test_memory_fail_at(0);
    test_seed(1);
    size_t blocks = test_blocks();
    depth = 0;
    bool good = setjmp(out) == 0;
    if (good) {
        cases[i].run();
        if (test_blocks() != blocks) {
            fprintf(stderr, "  %zu blocks of memory were not freed\n", test_blocks() - blocks);
            good = false;
        }
    }
    test_folder_remove();
    return good;
}

/* The same in a process of its own: whatever it does to itself, the suite goes on. */
static bool run_apart(size_t i)
{
    int status = 0;
    fflush(NULL);
    pid_t child = fork();
    if (child < 0) {
        perror("fork");
        abort();
    }
    if (child == 0) exit(run_case(i) ? EXIT_SUCCESS : EXIT_FAILURE);
    while (waitpid(child, &status, 0) < 0)
        if (errno != EINTR) abort();
    if (WIFSIGNALED(status))
        fprintf(stderr, "  crashed: %s\n", strsignal(WTERMSIG(status)));
    else if (WEXITSTATUS(status) > EXIT_FAILURE)
        fprintf(stderr, "  ended with %d\n", WEXITSTATUS(status));
    return WIFEXITED(status) && WEXITSTATUS(status) == EXIT_SUCCESS;
}

static bool is_wanted(const char *name, int argc, char **argv)
{
    if (argc == 0) return true;
    for (int i = 0; i < argc; i++)
        if (fnmatch(argv[i], name, 0) == 0) return true;
    return false;
}

/* "--part 2/3": every third case, from the second on, so that a long suite can run beside itself.
 * False: that is no part. */
static bool read_part(const char *text, size_t *which, size_t *parts)
{
    return sscanf(text, "%zu/%zu", which, parts) == 2 && *which > 0 && *which <= *parts;
}

int main(int argc, char **argv)
{
    size_t passed = 0, failed = 0, which = 1, parts = 1;
    if (argc > 2 && strcmp(argv[1], "--part") == 0) {
        if (!read_part(argv[2], &which, &parts)) {
            fprintf(stderr, "%s is no part, like 1/2\n", argv[2]);
            return 2;
        }
        argc -= 2, argv += 2;
    }
    if (argc == 2 && strcmp(argv[1], "--list") == 0) {
        for (size_t i = 0; i < case_count; i++)
            puts(cases[i].name);
        return 0;
    }
    bool here = argc > 1 && strcmp(argv[1], "--here") == 0;
    argc -= 1 + here, argv += 1 + here;
    for (size_t i = 0; i < case_count; i++) {
        if (i % parts != which - 1 || !is_wanted(cases[i].name, argc, argv)) continue;
        if (here ? run_case(i) : run_apart(i)) {
            passed++;
            continue;
        }
        fprintf(stderr, "FAILED %s\n", cases[i].name);
        failed++;
    }
    printf("%zu passed, %zu failed\n", passed, failed);
    return failed > 0 || passed == 0 ? 1 : 0;
}
